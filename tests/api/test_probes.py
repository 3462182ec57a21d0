"""Probes over HTTP and by command: their frames are those of the capture, and what they foretell is kept with it."""

import json
import time
import unittest

from tests.helpers import Server, scratch, vexel, write_shot

FRAMES = 40
CODE = """@model
def cone(size=dial(1, low=0.5, high=2)):
    return pv.Cone(height=size)
"""
LANES = [{"drive": "dial:size", "keys": [[0, 1], [1, 2]]}]


class ProbeTest(unittest.TestCase):
    def server(self, code=CODE):
        self.home = scratch(self) / "home"
        (self.home / "shots").mkdir(parents=True)
        write_shot(self.home / "shots", code, frames=FRAMES, lanes=LANES)
        server = Server(self, self.home)
        self.addCleanup(server.end)
        return server

    def ended(self, server):
        end = time.monotonic() + 90
        while (probe := server.ask("/api/shots/shot/probe")[1])["state"] in ("queued", "running"):
            self.assertLess(time.monotonic(), end)
            time.sleep(0.05)
        return probe

    def test_a_probe_foretells_its_run_which_makes_only_the_other_frames(self):
        server = self.server()
        self.assertIsNone(server.ask("/api/shots/shot/cost")[1]["foretold"])
        self.assertEqual(server.ask("/api/shots/shot/probe")[1]["state"], "")
        self.assertIn(server.ask("/api/shots/shot/probe", {})[1]["state"], ("queued", "running"))
        self.assertEqual(self.ended(server)["state"], "done")
        said = server.ask("/api/shots/shot/cost")[1]["foretold"]
        self.assertEqual((said["frames"][0], said["frames"][-1]), (0, FRAMES - 1))
        self.assertEqual(said["left"], FRAMES - len(said["frames"]))
        for name in ("seconds", "bytes", "file_bytes", "memory"):
            self.assertGreater(said[name]["low"], 0, name)
            self.assertLessEqual(said[name]["high"], 2 * said[name]["low"], name)
        _, run = server.ask("/api/shots/shot/runs", {"to_file": True})
        run = server.wait_for_run(run["id"], lambda r: r["outputs"] and r["outputs"][0]["state"] == "done")
        self.assertEqual((run["made"], run["kept"]), (said["left"], len(said["frames"])))
        self.assertEqual(run["foretold"], said)
        self.assertTrue(said["bytes"]["low"] <= run["made_bytes"] <= said["bytes"]["high"], run["made_bytes"])
        film = run["outputs"][0]["receipt"]["bytes"]
        self.assertTrue(said["file_bytes"]["low"] <= film <= said["file_bytes"]["high"], film)
        server.ask("/api/shots/shot", {"patch": {"picture": {"width": 80}}, "what": "the size"}, "PATCH")
        self.assertIsNone(server.ask("/api/shots/shot/cost")[1]["foretold"], "of a shot that was changed")

    def test_a_probe_that_fails_says_so_and_one_that_is_stopped_leaves_its_frames(self):
        slow = CODE.replace("    return", "    import time\n    time.sleep(0.5 + 0.3 * size)\n    return")
        server = self.server(slow)
        server.ask("/api/shots/shot/probe", {})
        end = time.monotonic() + 60
        while not list(self.home.glob("frames/*/*.png")) and time.monotonic() < end:
            time.sleep(0.05)
        server.ask("/api/shots/shot/probe/stop", {})
        self.assertEqual(self.ended(server)["state"], "stopped")
        self.assertTrue(list(self.home.glob("frames/*/*.png")))
        write_shot(
            self.home / "shots", CODE.replace("    return", "    1 / int(2.5 - size)\n    return"), frames=FRAMES,
            lanes=[{"drive": "dial:size", "keys": [[0, 1], [0.5, 1], [0.9, 1.9], [1, 1]]}],
        )  # fmt: skip
        server.ask("/api/shots/shot/probe", {})
        probe = self.ended(server)
        self.assertEqual(probe["state"], "failed", probe)
        self.assertIn("ZeroDivisionError", probe["sentence"])
        self.assertEqual(server.ask("/api/shots/nothing/probe", {})[0], 404)


class ProbeByCommandTest(unittest.TestCase):
    def test_frames_of_a_probe_stay_for_the_capture(self):
        folder = scratch(self)
        shot = write_shot(folder, CODE, frames=FRAMES, lanes=LANES)
        told = vexel("plan", shot, "--probe", "--json")
        self.assertEqual(told.returncode, 0, told.stderr)
        said = json.loads(told.stdout)["foretold"]
        self.assertEqual(said["folder"], str(folder / "shot.take"))
        made = {file.name: file.read_bytes() for file in (folder / "shot.take").glob("*.png")}
        self.assertEqual(len(made), len(said["frames"]))
        done = vexel("capture", shot, "--to", folder / "shot.take", "--resume")
        self.assertIn(f"{said['left']} made, {len(made)} reused", done.stdout)
        plain = vexel("capture", shot, "--to", folder / "other", "--frames", f"0,{FRAMES - 1}")
        self.assertEqual(plain.returncode, 0, plain.stderr)
        for file in (folder / "other").glob("*.png"):
            self.assertEqual(made[file.name], file.read_bytes(), "a frame of a probe is that of a capture")
        self.assertIn("foretold of 0 frames", vexel("plan", shot, "--probe").stdout)

    def test_wrong_calls(self):
        folder = scratch(self)
        shot = write_shot(folder, CODE)
        (folder / "reel.json").write_text('{"title": "R", "rate": "12", "items": []}')
        for arguments, words in (
            (("--rate", "12", "--frames", "3", "--probe"), "give its document"),
            ((shot, "--to", folder / "t"), "belong to --probe"),
            ((folder / "reel.json", "--probe"), "is a reel"),
        ):
            told = vexel("plan", *arguments)
            self.assertEqual(told.returncode, 2, told.stdout)
            self.assertIn(words, told.stderr)


if __name__ == "__main__":
    unittest.main()
