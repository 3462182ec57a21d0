"""What code declares to read beyond its own folder is copied: a run sees no change of it, and a hand-over holds it."""

import json
import os
import unittest
from unittest import mock

import cv2
import numpy as np
from PIL import Image

from tests.helpers import scratch, shot_document, vexel
from vexel.core.document.shot import read_shot_document
from vexel.core.errors import Mistake, VexelError
from vexel.core.evaluate.source_facts import PlanInputs
from vexel.workers.bounds.isolation import Reach
from vexel.workers.bounds.limits import Limits
from vexel.workers.planner import NothingKept, OpenGate, Planner
from vexel.workers.stage_process import StageProcess

CODE = """from pathlib import Path
import json, os, io
import numpy as np
from PIL import Image
from vexel.author import sketch

@sketch
def drawn(frame):
    grey = {expression}
    return np.full((16, 16), float(grey))
"""


class OutsideTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self) / "project"
        self.folder.mkdir()
        self.outside = self.folder.parent / "data"
        self.outside.mkdir()
        self.write(0.25)
        self.frame = scratch(self) / "frame.png"
        self.stage = StageProcess(Limits(120, 3000), reach=Reach((str(self.frame.parent),)))
        self.addCleanup(self.stage.end)
        self.planner = Planner(scratch(self), self.stage, NothingKept(), OpenGate())

    def write(self, grey, *kinds):
        """Write the files of some kinds, or of all."""
        writers = {
            "txt": lambda file: file.write_text(str(grey)),
            "json": lambda file: file.write_text(json.dumps({"grey": grey})),
            "npy": lambda file: np.save(file, grey),
            "png": lambda file: Image.new("L", (1, 1), round(255 * grey)).save(file),
        }
        for kind in kinds or writers:
            writers[kind](self.outside / f"level.{kind}")

    def shot(self, expression, reads, **source):
        (self.folder / "drawn.py").write_text(CODE.format(expression=expression))
        return read_shot_document(shot_document(
            {"kind": "sketch", "file": "drawn.py", "reads": reads, **source}, picture={"width": 16, "height": 16}
        ))  # fmt: skip

    def grey(self, prepared):
        self.stage.make(prepared.at, prepared.plan.frame_spec(0), self.frame)
        return cv2.imread(str(self.frame))[8, 8, 0] / 255

    def test_a_place_that_changes_does_not_change_the_frames_of_a_run(self):
        place = str(self.outside)
        whole = [place]
        for expression, reads in (
            (f"open('{place}/level.txt').read()", [f"{place}/level.txt"]),
            (f"io.open('{place}/level.txt').read()", whole),
            (f"json.load(open(file='{place}/level.json'))['grey']", whole),
            (f"Path('{place}/level.txt').read_text()", whole),
            (f"os.fdopen(os.open(b'{place}/level.txt', os.O_RDONLY)).read()", whole),
            (f"next(Path('{place}').glob('*.txt')).read_text()", whole),
            (f"[open(one.path).read() for one in os.scandir('{place}') if one.name.endswith('txt')][0]", whole),
            (f"np.loadtxt('{place}/level.txt')", whole),
            (f"np.genfromtxt('{place}/level.txt')", whole),
            (f"np.load('{place}/level.npy')", whole),
            (f"Image.open('{place}/level.png').getpixel((0, 0)) / 255", whole),
            ("(Path(__file__).parent / '../data/level.txt').read_text()", ["../data"]),
            ("open('../data/level.txt').read()", ["../data/level.txt"]),
            (f"0.25 if os.listdir('{place}') and os.path.isfile('{place}/level.txt') else 1", whole),
            (f"0.25 if not os.path.exists('{place}/none.txt') else 1", [f"{place}/none.txt"]),
        ):
            with self.subTest(expression):
                self.write(0.25)
                (self.outside / "none.txt").unlink(missing_ok=True)
                shot = self.shot(expression, reads)
                prepared = self.planner.prepare(shot, self.folder)
                self.write(0.75, next((kind for kind in ("json", "npy", "png") if kind in expression), "txt"))
                if "none.txt" in reads[0]:
                    (self.outside / "none.txt").write_text("")
                if "none.txt" in reads[0] or "listdir" in expression:
                    # Nothing was opened by Python, so a library may read it: refused, rather than wrong.
                    with self.assertRaisesRegex(VexelError, "changed since the shot was planned"):
                        self.grey(prepared)
                else:
                    self.assertAlmostEqual(self.grey(prepared), 0.25, delta=0.01)
                    again = self.planner.again(shot, PlanInputs.loads(prepared.plan.inputs.dumps()))
                    self.assertAlmostEqual(self.grey(again), 0.25, delta=0.01)
                    self.assertAlmostEqual(self.grey(self.planner.prepare(shot, self.folder)), 0.75, delta=0.01)
                self.assertEqual(self.planner.findings(prepared), [])

    def test_a_library_that_opens_files_itself_is_not_redirected_and_a_change_ends_the_work(self):
        place = self.outside / "level.png"
        shot = self.shot(f"__import__('cv2').imread({str(place)!r})[0, 0, 0] / 255", [str(place)])
        prepared = self.planner.prepare(shot, self.folder)
        self.assertAlmostEqual(self.grey(prepared), 0.25, delta=0.01)
        self.write(0.75)
        with self.assertRaisesRegex(VexelError, f"{place} changed since the shot was planned"):
            self.grey(prepared)
        self.write(0.25)
        self.assertAlmostEqual(self.grey(prepared), 0.25, delta=0.01)

    def test_python_opening_one_file_of_a_folder_speaks_for_no_other(self):
        place = self.outside / "level.png"
        native = f"__import__('cv2').imread({str(place)!r})[0, 0, 0] / 255"
        shot = self.shot(f"{native} + 0 * float(open('{self.outside}/level.txt').read())", [str(self.outside)])
        prepared = self.planner.prepare(shot, self.folder)
        (self.outside / "level.txt").write_text("0.75")
        self.assertAlmostEqual(self.grey(prepared), 0.25, delta=0.01)
        self.write(0.75)
        with self.assertRaisesRegex(VexelError, "level.* changed since the shot was planned"):
            self.grey(prepared)

    def test_a_copy_that_is_gone_or_damaged_is_made_again(self):
        level = self.outside / "level.txt"
        shot = self.shot(f"open({str(level)!r}).read()", [str(level)])
        prepared = self.planner.prepare(shot, self.folder)
        (copied,) = prepared.at.outside
        copied.copy.write_text("0.9")
        inputs = PlanInputs.loads(prepared.plan.inputs.dumps())
        self.assertIsNone(self.planner.again(shot, inputs), "what it was is not there any more")
        self.assertAlmostEqual(self.grey(self.planner.prepare(shot, self.folder)), 0.25, delta=0.01)
        self.assertIsNotNone(self.planner.again(shot, inputs))
        copy = "vexel.sources.outside_files.shutil.copyfile"
        with mock.patch(copy, side_effect=lambda one, to: to.write_text("0.4")):
            self.write(0.3)
            with self.assertRaisesRegex(Mistake, "level.txt changed while it was read: try again"):
                self.planner.prepare(shot, self.folder)
        self.assertEqual(list(copied.copy.parents[1].glob(".*")), [], "nothing unfinished is left")

    def test_secrets_are_neither_copied_nor_handed_over(self):
        state = scratch(self) / "state"
        (state / "vexel").mkdir(parents=True)
        (state / "vexel" / "secret").write_text("key")
        (self.outside / ".session").write_text("key")
        (self.outside / "link").symlink_to(state / "vexel" / "secret")
        (self.outside / "within").symlink_to(self.outside / "level.txt")
        with mock.patch.dict(os.environ, XDG_STATE_HOME=str(state)):
            for place in (state, state / "vexel", state / "vexel" / "secret", self.outside / ".session", "/"):
                for source in ({"reads": [str(place)]}, {"reads": ["/gone"], "reads_from": {"/gone": str(place)}}):
                    with self.subTest(place=place), self.assertRaisesRegex(Mistake, "holds secrets of Vexel|more than"):
                        self.planner.prepare(self.shot("0", **source), self.folder)
            (copied,) = self.planner.prepare(self.shot("0", [str(self.outside)]), self.folder).at.outside
        names = {file.name for file in copied.copy.rglob("*")}
        self.assertIn("within", names)
        self.assertFalse(names & {"link", ".session"}, "nor what a link in a folder leads to")

    def test_another_file_stands_in_for_a_declared_one(self):
        gone, held = "/gone/level.txt", self.folder / "held.txt"
        held.write_text("0.5")

        def standing_in(place, name=gone):
            return self.shot(f"open({gone!r}).read()", [gone], reads_from={name: str(place)})

        shot = standing_in("held.txt")
        prepared = self.planner.prepare(shot, self.folder)
        self.assertAlmostEqual(self.grey(prepared), 0.5, delta=0.01)
        moved = held.rename(self.folder.parent / "moved.txt")
        other = standing_in(moved)
        key = self.planner.prepare(other, self.folder).plan.frame_spec(0).key
        self.assertEqual(key, prepared.plan.frame_spec(0).key, "where it lies decides nothing")
        wrong = standing_in("held.txt", "/gone/other.txt")
        with self.assertRaisesRegex(Mistake, "reads_from names /gone/other.txt, which nothing declares"):
            self.planner.prepare(wrong, self.folder)

    def test_a_hand_over_holds_it_and_makes_the_same_frames_elsewhere(self):
        self.enterContext(mock.patch.dict(os.environ, XDG_STATE_HOME=str(scratch(self))))
        secret = self.outside / ".token"
        secret.write_text("secret")
        (self.outside / "deep").mkdir()
        (self.outside / "deep" / "x.txt").write_text("0.1")
        places = [str(self.outside / "level.txt"), "../data", str(secret), "env:VEXEL_TEST_LEVEL"]
        self.shot(f"float(open({places[0]!r}).read()) + float(open('../data/deep/x.txt').read())", places)
        document = shot_document(
            {"kind": "sketch", "file": "drawn.py", "reads": places}, frames=2, picture={"width": 16, "height": 16}
        )
        shot, take, packed = self.folder / "s.json", self.folder.parent / "take", self.folder.parent / "s.zip"
        shot.write_text(json.dumps(document))
        for order in (("capture", shot, "--to", take), ("handover", shot, "--take", take, "-o", packed)):
            done = vexel(*order)
            self.assertEqual(done.returncode, 0, done.stderr)
        listed = vexel("handover", shot, "--take", take, "-o", packed, "--list").stdout
        there = scratch(self) / "there"
        self.assertEqual(vexel("unpack", packed, "--to", there).returncode, 0)
        held = {str(file.relative_to(there)) for file in there.rglob("*") if file.is_file()}
        inside = {name for name in held if name.startswith("outside/")}
        self.assertLess({"outside/0/level.txt", "outside/1/data/deep/x.txt"}, inside)
        self.assertEqual(inside, {line.split("  ")[1] for line in listed.splitlines() if "outside/" in line})
        self.assertFalse(any(".token" in name for name in held))
        readme = (there / "README.txt").read_text()
        self.assertIn(f"Not in it, though its code reads it: {secret}, env:VEXEL_TEST_LEVEL", readme)
        for file in self.outside.rglob("*.*"):
            # The hidden file was not handed over: where it lacks, the frames are others.
            if file != secret:
                file.unlink()
        vexel("trust", there, "--yes")
        taken, document = there / "take", there / "shots"
        (shot,) = document.glob("*.json")
        made = vexel("capture", shot, "--to", taken, "--resume")
        self.assertIn("0 made, 2 reused", made.stdout + made.stderr)
        fresh = vexel("capture", shot, "--to", there.parent / "fresh")
        self.assertEqual(fresh.returncode, 0, fresh.stderr)
        for file in take.glob("*.png"):
            self.assertEqual(file.read_bytes(), (there.parent / "fresh" / file.name).read_bytes())


if __name__ == "__main__":
    unittest.main()
