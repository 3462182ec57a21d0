"""Takes of several cameras and passes, from the command line."""

import json
import unittest

import cv2
import numpy as np

from tests.helpers import scratch, vexel, write_shot

BALL = "@model\ndef ball(size=dial(1, low=0.1, high=3)):\n    return part(pv.Sphere(radius=size), colour='#c08040')\n"
SHOT = {
    "clock": {"rate": "12", "frames": 4, "span": "ends"},
    "camera": {"name": "front", "rig": {"kind": "still"}},
    "cameras": [{"name": "side", "rig": {"kind": "still", "start_deg": 90, "elevation_deg": 60}}],
    "lanes": [{"drive": "dial:size", "keys": [[0, 1], [1, 2]]}],
    "picture": {"width": 64, "height": 48, "samples": 1, "passes": ["shaded", "normal"], "background": "#204060"},
}


class StrandTest(unittest.TestCase):
    def test_a_take_holds_all_camera_passes_resumes_and_gives_a_video_of_one(self):
        folder = scratch(self)
        shot, out = write_shot(folder, BALL, **SHOT), folder / "out"
        some = vexel("capture", shot, "--to", out, "--frames", "0-1", "--workers", 1)
        self.assertEqual(some.returncode, 0, some.stderr)
        self.assertEqual(len(list(out.glob("*.png"))), 8)
        rest = vexel("capture", shot, "--to", out, "--resume", "--workers", 1)
        self.assertIn("8 made, 8 reused", rest.stdout)
        names = sorted(path.name for path in out.glob("*.png"))
        self.assertEqual(names[:2] + names[-1:], [
            "trial.front.normal.0000.png", "trial.front.normal.0001.png", "trial.side.shaded.0003.png",
        ])  # fmt: skip
        rows = json.loads((out / "take.json").read_text())["frames"]
        self.assertEqual([(row["number"], row["camera_pass"]) for row in rows[:5]], [
            (0, "front, shaded"), (0, "front, normal"), (0, "side, shaded"), (0, "side, normal"), (1, "front, shaded"),
        ])  # fmt: skip
        normal = cv2.imread(str(out / names[0]), cv2.IMREAD_UNCHANGED)
        self.assertEqual(normal[0, 0].tolist(), [0, 0, 0, 0])
        middle = normal[24, 32, 2::-1].astype(float) / 127.5 - 1
        np.testing.assert_allclose(np.linalg.norm(middle), 1, atol=0.02)
        for arguments, told in (
            ((), "the take holds front, shaded; front, normal; side, shaded; side, normal: choose one"),
            (("--camera", "top"), "the take has no top"),
        ):
            refused = vexel("compile", out, "-o", folder / "a.mp4", *arguments)
            self.assertEqual(refused.returncode, 2)
            self.assertIn(told, refused.stderr)
        made = vexel("compile", out, "-o", folder / "a.mp4", "--camera", "side", "--pass", "shaded")
        self.assertEqual(made.returncode, 0, made.stderr)

    def test_a_failure_names_the_file_and_a_fresh_take_clears_all(self):
        folder = scratch(self)
        broken = BALL.replace("    return", "    if size > 1.9:\n        raise ValueError('too large')\n    return")
        shot, out = write_shot(folder, broken, **SHOT), folder / "out"
        failed = vexel("capture", shot, "--to", out, "--workers", 1)
        self.assertEqual(failed.returncode, 1)
        self.assertIn("4 frames failed; trial.front.shaded.0003.png: thing.py", failed.stderr)
        (out / "trial.side.shaded.0099.png").write_bytes(b"old")
        (out / "note.txt").write_text("mine")
        alone = write_shot(folder, BALL, **(SHOT | {"names": {"pattern": "{camera}_{pass}_{frame:06}"}}))
        self.assertEqual(vexel("capture", alone, "--to", out, "--fresh", "--workers", 1).returncode, 0)
        left = {path.name for path in out.iterdir()}
        self.assertTrue({"note.txt", "front_shaded_000000.png", "side_normal_000003.png"} <= left)
        self.assertFalse(any(name.startswith("trial.front") for name in left), "what its ledger named is gone")


if __name__ == "__main__":
    unittest.main()
