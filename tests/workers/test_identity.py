"""Identity of frames: what a frame depends on is in its key, so that no stale frame is ever reused.

Each change is made to a small project that a planner and a stage have open. Frames whose keys stay are reused, so they
must be what a fresh planner and a fresh stage make; frames whose keys change are made again, and must be so too.
"""

import os
import random
import unittest
from unittest import mock

from tests.helpers import scratch
from tests.workers.identity_projects import CHANGES, KINDS, project
from tests.workers.test_planner import Memory
from vexel.core.document.shot import read_shot_document
from vexel.core.evaluate.frame_spec import FrameSpec
from vexel.stage.renderer import Renderer
from vexel.workers.planner import OpenGate, Planner

EACH = None if "VEXEL_TEST_LONG" in os.environ else 3
"""How many changes of each kind of source are tried, others in each run; None for all."""
FRAMES = (0, 1, 5)


class Studio:
    """A planner and a stage, as they are open in a running program."""

    def __init__(self, case):
        self.stage = Renderer()
        self.planner = Planner(scratch(case), self.stage, Memory(), OpenGate())

    def frames(self, folder, document):
        """Keys and files of some frames."""
        prepared = self.planner.prepare(read_shot_document(document), folder)
        made = {}
        for number in FRAMES:
            if number < prepared.plan.shot.clock.exact.frames:
                spec = prepared.plan.frame_spec(number)
                made[number] = spec.key, lambda spec=spec: self.stage.encoded(prepared.at, spec)
        return made


class IdentityTest(unittest.TestCase):
    def check(self, kind, change):
        root = scratch(self)
        folder, document = project(kind, root)
        if change.before:
            change.before(folder, document)
        studio = Studio(self)
        before = {n: (key, made()) for n, (key, made) in studio.frames(folder, document).items()}
        change.make(folder, document)
        after = studio.frames(folder, document)
        fresh = Studio(self).frames(folder, document)
        kept = dict(before.values())
        differs = False
        for number, (key, made) in fresh.items():
            expected = made()
            self.assertEqual(after[number][0], key, "a fresh planner gives the same key")
            differs |= number not in before or before[number][1] != expected
            if key in kept:
                self.assertEqual(kept[key], expected, f"frame {number} would be reused, and is stale")
            else:
                self.assertEqual(
                    after[number][1](), expected, f"frame {number} is made again, and is not as made afresh"
                )
        if change.neutral:
            self.assertEqual([key for key, _ in after.values()], [key for key, _ in before.values()], "all are reused")
        if kind in change.shows:
            self.assertTrue(differs, "the change shows")

    def test_changes(self):
        chance = random.Random()
        for kind in KINDS:
            changes = [change for change in CHANGES if kind in change.kinds]
            for change in changes if EACH is None else chance.sample(changes, EACH):
                with self.subTest(kind=kind, change=change.name):
                    self.check(kind, change)

    def test_a_frame_that_is_stale_is_found(self):
        (change,) = (one for one in CHANGES if one.name == "a dial")
        with mock.patch.object(FrameSpec, "key", "the same"), self.assertRaisesRegex(AssertionError, "stale"):
            self.check("model", change)

    def test_there_are_forty_kinds_of_change(self):
        self.assertGreaterEqual(len(CHANGES), 40)
        for kind in KINDS:
            self.assertGreaterEqual(sum(kind in change.kinds for change in CHANGES), 20, kind)


if __name__ == "__main__":
    unittest.main()
