"""Capturing from the command line, with the real workers and stage."""

import json
import subprocess
import unittest

from tests.helpers import scratch, vexel, write_shot
from vexel.core.document.shot import read_shot
from vexel.core.errors import Stopped
from vexel.store.folder_take import FolderTake
from vexel.workers.planner import OpenGate
from vexel.workers.to_folder import FolderWorkers, capture_to_folder

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

    def test_takes_that_follow_one_another_keep_their_workers_until_one_is_stopped(self):
        folder, ready = scratch(self), []
        document = write_shot(folder, WAVE, frames=2)
        shot = read_shot(document.read_text())
        with FolderWorkers(folder, folder / "takes", 1) as by:
            for name in ("a", "b"):
                take = FolderTake(folder / "takes" / name, shot)
                take.enter(resume=False, fresh=False)
                outcome = capture_to_folder(shot, take, range(2), by=by, gate=OpenGate())
                self.assertEqual((outcome.made, outcome.failed), (2, 0))
                ready.append((by.stages[0], by.hired("model")))
            self.assertEqual(ready[0], ready[1])
            by.stop.ask()
            with self.assertRaises(Stopped):
                capture_to_folder(shot, take, range(2), by=by, gate=OpenGate())
            self.assertIsNot(by.stages[0], ready[0][0], "what was cut short is ended")

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

    def test_a_take_is_of_the_shot_as_it_is_now(self):
        folder = scratch(self)
        code = "@model\ndef thing():\n    return pv.Cube(x_length=2)\n"
        once = {"rig": {"kind": "orbit", "turns": 1}}

        def made(frames, code, *options):
            shot = write_shot(folder, code, frames=frames, camera=once)
            result = vexel("capture", shot, "--to", folder / "t", *options)
            self.assertEqual(result.returncode, 0, result.stderr)
            return result.stdout + result.stderr

        def pictures():
            receipt = vexel("compile", folder / "t", "-o", folder / "f.mp4", "--json", "--overwrite")
            self.assertEqual(receipt.returncode, 0, receipt.stderr)
            counted = subprocess.run(
                ["ffprobe", "-v", "error", "-count_frames", "-show_entries", "stream=nb_read_frames", "-of", "csv=p=0",
                 str(folder / "f.mp4")], capture_output=True, text=True, check=True,
            ).stdout  # fmt: skip
            return int(counted)

        made(12, code)
        self.assertEqual(pictures(), 12)
        # Eight frames of the same turn: every third of the twelve is every second of the eight.
        said = made(8, code, "--resume")
        self.assertIn("4 made, 4 reused", said)
        self.assertIn("4 frames of an earlier version of the shot moved to", said)
        self.assertEqual((pictures(), len(list((folder / "t/outdated").iterdir()))), (8, 4))
        whole = [file.read_bytes() for file in sorted((folder / "t").glob("*.png"))]
        shot = folder / "shot.json"
        self.assertEqual(vexel("capture", shot, "--to", folder / "calm").returncode, 0)
        self.assertEqual(whole, [file.read_bytes() for file in sorted((folder / "calm").glob("*.png"))])
        # Of other code, a part is captured anew: what is left of the old one is no part of the take.
        said = made(8, code.replace("=2", "=3"), "--resume", "--frames", "0-3")
        self.assertIn("4 frames of an earlier version", said)
        self.assertEqual(pictures(), 4)

    def test_a_shot_that_cannot_be_planned_leaves_the_take_as_it_was(self):
        folder = scratch(self)
        vexel("capture", write_shot(folder), "--to", folder / "t")
        before = (folder / "t/take.json").read_bytes()
        broken = write_shot(folder, "@model\ndef thing():\n    return pv.Nothing()\n", frames=3)
        self.assertEqual(vexel("capture", broken, "--to", folder / "t", "--resume").returncode, 1)
        self.assertEqual((folder / "t/take.json").read_bytes(), before)

    def test_the_take_of_another_shot_is_not_gone_on_with(self):
        folder = scratch(self)
        (folder / "other").mkdir()
        vexel("capture", write_shot(folder), "--to", folder / "t")
        before = {file.name: file.read_bytes() for file in (folder / "t").iterdir()}
        (folder / "other/cube.py").write_text((folder / "thing.py").read_text())
        other = write_shot(folder / "other", source={"kind": "model", "file": "cube.py"})
        refused = vexel("capture", other, "--to", folder / "t", "--resume")
        self.assertEqual(refused.returncode, 2)
        self.assertIn("holds the take of another shot, of thing.py: name another folder", refused.stderr)
        self.assertEqual({file.name: file.read_bytes() for file in (folder / "t").iterdir()}, before)

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

    def test_a_draft_is_small_by_its_older_name_too(self):
        folder = scratch(self)
        shot = write_shot(folder, frames=1, picture={"width": 1280, "height": 720, "samples": 8})
        for option in ("--draft", "--rough"):
            vexel("capture", shot, "--to", folder / option, option)
            found = json.loads(vexel("inspect", folder / option, "--json").stdout)
            self.assertEqual(found["facts"]["size"], "480 × 270", option)


class TimingTest(unittest.TestCase):
    def test_prints_one_object(self):
        run = vexel("plan", "--rate", "29.97", "--seconds", "10", "--json")
        told = json.loads(run.stdout)
        self.assertEqual((told["frames"], told["seconds"]), (300, "1001/100"))

    def test_refuses_in_a_sentence(self):
        for arguments, words in (
            (("--rate", "abc", "--seconds", "1"), "'abc' is not a frame rate"),
            (("--rate", "24"), "do not give the frames: give a shot document, or --rate with --seconds"),
            (("--rate", "24", "--seconds", "long"), "'long' is not a length"),
            (("--rate", "24", "--frames", "0"), "0 frames cannot be: it must be above 0"),
        ):
            run = vexel("plan", *arguments)
            self.assertEqual((run.returncode, run.stdout), (2, ""))
            self.assertIn(words, run.stderr)

    def test_schema_is_json(self):
        self.assertIn("source", json.loads(vexel("schema").stdout)["properties"])


if __name__ == "__main__":
    unittest.main()
