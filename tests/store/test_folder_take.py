"""A take in a folder: who may enter, what is kept, and what replacing it removes."""

import json
import unittest

from tests.helpers import scratch, shot_document
from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.store.folder_take import FolderTake
from vexel.store.frame_states import FrameState

SHOT = Shot.model_validate(shot_document({"kind": "object", "file": "a.obj"}), strict=False)


def filled(folder, *numbers):
    """A take with these frames made, saved."""
    take = FolderTake(folder, SHOT)
    take.enter(resume=False, fresh=False)
    for n in numbers:
        take.path(n, f"key{n}").write_bytes(b"x" * (n + 1))
    take.record([FrameState(n, f"key{n}", "made", 0.1, n + 1) for n in numbers])
    take.save()
    return take


def again(folder, **how):
    take = FolderTake(folder, SHOT)
    take.enter(**({"resume": False, "fresh": False} | how))
    return take


class FolderTakeTest(unittest.TestCase):
    def test_a_folder_with_frames_is_not_entered_unasked(self):
        folder = scratch(self)
        filled(folder, 0)
        with self.assertRaisesRegex(Mistake, "already holds 2 files, such as take.json: add --resume .* --fresh"):
            again(folder)

    def test_resuming_keeps_what_is_whole(self):
        folder = scratch(self)
        take = filled(folder, 0, 1, 2)
        take.path(1, "").write_bytes(b"cut")
        take.path(2, "").unlink()
        take = again(folder, resume=True)
        self.assertTrue(take.begun)
        self.assertEqual(list(take.holds([(n, f"key{n}") for n in range(4)])), [0])
        self.assertEqual(take.holds([(0, "another")]), {}, "the shot changed, so this frame is stale")
        self.assertEqual([place.read_bytes() for place in take.damaged], [b"cut"], "set aside, not thrown away")

    def test_an_equal_frame_is_copied_under_its_own_number(self):
        take = filled(scratch(self), 3)
        self.assertEqual(take.holds([(5, "key3")])[5].bytes, 4)
        self.assertEqual(take.path(5, "").read_bytes(), take.path(3, "").read_bytes())

    def test_fresh_removes_the_takes_own_files_alone(self):
        folder = scratch(self)
        filled(folder, 0, 1)
        (folder / "notes.txt").write_text("mine")
        (folder / "trial.shaded.0099.png").write_bytes(b"left over")
        take = again(folder, fresh=True)
        self.assertEqual(sorted(path.name for path in folder.iterdir()), ["notes.txt", "take.json"])
        self.assertFalse(take.begun)

    def test_a_ledger_cannot_name_files_outside(self):
        folder = scratch(self)
        outside = folder / "precious.txt"
        outside.write_text("mine")
        filled(folder / "take", 0)
        ledger = json.loads((folder / "take/take.json").read_text())
        ledger["frames"][0]["file"] = "../precious.txt"
        (folder / "take/take.json").write_text(json.dumps(ledger))
        again(folder / "take", fresh=True)
        self.assertTrue(outside.exists())

    def test_the_ledger_names_every_frame_with_its_state(self):
        folder = scratch(self)
        take = filled(folder, 0)
        take.record([FrameState(1, "key1", "failed", error="line 3: no")])
        take.put("fact", [1, 2])
        take.save()
        rows = json.loads((folder / "take.json").read_text())["frames"]
        self.assertEqual(
            [(r["file"], r["state"]) for r in rows],
            [("trial.shaded.0000.png", "made"), ("trial.shaded.0001.png", "failed")],
        )
        self.assertEqual(take.first_failure().error, "line 3: no")
        self.assertEqual(again(folder, resume=True).get("fact"), [1, 2])


if __name__ == "__main__":
    unittest.main()
