"""Capturing from the command line, with the real crew and stage."""

import json
import unittest

from tests.helpers import scratch, vexel, write_shot

WAVE = (
    "@model\ndef thing(size=dial(1, low=0.5, high=2), instant=None):\n"
    "    if instant.frame == 7:\n        raise ValueError('seven')\n"
    "    return pv.Cone(height=size)\n"
)


class CaptureTest(unittest.TestCase):
    def test_a_frame_has_the_same_bytes_alone_and_in_a_run(self):
        folder = scratch(self)
        lanes = [{"drive": "dial:size", "keys": [[0, 0.5], [1, 2]]}]
        shot = write_shot(folder, WAVE, frames=10, lanes=lanes)
        run = vexel("capture", shot, "--to", folder / "all")
        # Frame 7 fails with its line; the rest go on, and the exit status says so.
        self.assertEqual(run.returncode, 1)
        self.assertIn("frame 7: thing.py, line 9: ValueError: seven", run.stderr)
        rows = json.loads((folder / "all/take.json").read_text())["frames"]
        self.assertEqual([r["number"] for r in rows if r["state"] == "made"], [0, 1, 2, 3, 4, 5, 6, 8, 9])
        alone = vexel("capture", shot, "--to", folder / "one", "--frames", "4")
        self.assertEqual(alone.returncode, 0, alone.stderr)
        name = "trial.shaded.0004.png"
        self.assertEqual((folder / "all" / name).read_bytes(), (folder / "one" / name).read_bytes())

    def test_an_edit_makes_only_the_frames_that_it_changes(self):
        folder = scratch(self)
        code = (
            "@model\ndef thing(warm=dial(1, low=0, high=2)):\n"
            "    m = pv.Cone()\n    m['heat'] = warm * m.points[:, 0]\n"
            "    return part(m, scalars='heat', low=-1, high=1)\n"
        )
        still = {"rig": {"kind": "orbit", "turns": 0}}

        def captured(last, *options):
            keys = [[0, 1], [0.5, 1], [1, last]]
            lanes = [{"drive": "dial:warm", "keys": keys}]
            shot = write_shot(folder, code, frames=8, lanes=lanes, camera=still)
            return vexel("capture", shot, "--to", folder / "t", *options).stdout

        # Frames 0 to 4 are one picture; the others differ, and change with the last key.
        self.assertIn("4 made, 4 reused", captured(2))
        self.assertIn("0 made, 8 reused", captured(2, "--resume"))
        self.assertIn("3 made, 5 reused", captured(1.9, "--resume"))

    def test_refuses_before_anything_is_begun(self):
        folder = scratch(self)
        shot = write_shot(folder)
        (folder / "full").mkdir()
        (folder / "full/a.png").write_bytes(b"x")
        (folder / "file").write_bytes(b"x")
        for arguments, status, words in (
            ((folder / "no.json", "--to", folder / "o"), 2, "no.json cannot be read"),
            ((shot, "--to", folder / "full"), 2, "already holds 1 files"),
            ((shot, "--to", folder / "file/o"), 1, "cannot be written"),
            ((shot, "--to", folder / "o", "--frames", "4-99"), 2, "frames 0 to 5"),
            ((shot, "--to", folder / "o", "--fresh", "--resume"), 2, "give one of them"),
            ((write_shot(scratch(self), "def x(:\n"), "--to", folder / "p"), 1, "thing.py, line 6"),
        ):
            with self.subTest(words):
                run = vexel("capture", *arguments)
                self.assertEqual(run.returncode, status, run.stderr)
                self.assertIn(words, run.stderr)
                self.assertNotIn("Traceback", run.stderr)

    def test_rough_is_small(self):
        folder = scratch(self)
        picture = {"width": 1280, "height": 720, "samples": 8}
        vexel("capture", write_shot(folder, frames=1, picture=picture), "--to", folder / "r", "--rough")
        found = json.loads(vexel("inspect", folder / "r", "--json").stdout)
        self.assertEqual(found["facts"]["size"], "480 × 270")


class ReckonTest(unittest.TestCase):
    def test_prints_one_object(self):
        run = vexel("reckon", "--rate", "29.97", "--seconds", "10", "--json")
        told = json.loads(run.stdout)
        self.assertEqual((told["frames"], told["seconds"]), (300, "1001/100"))

    def test_refuses_in_a_sentence(self):
        for arguments, words in (
            (("--rate", "abc", "--seconds", "1"), "'abc' is not a frame rate"),
            (("--rate", "24"), "do not give the frames: give a shot document, or --rate with --seconds"),
            (("--rate", "24", "--seconds", "long"), "'long' is not a length"),
            (("--rate", "24", "--frames", "0"), "0 frames cannot be: it must be above 0"),
        ):
            run = vexel("reckon", *arguments)
            self.assertEqual((run.returncode, run.stdout), (2, ""))
            self.assertIn(words, run.stderr)

    def test_schema_is_json(self):
        self.assertIn("source", json.loads(vexel("schema").stdout)["properties"])


if __name__ == "__main__":
    unittest.main()
