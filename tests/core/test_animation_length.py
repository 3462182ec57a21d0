"""The length that a page's animations tell, and what preflight makes of it."""

import math
import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from tests.helpers import shot_document
from vexel.core.checks.preflight import preflight, source_findings
from vexel.core.document.shot import edited, read_shot_document
from vexel.core.evaluate.source_facts import SourceFacts, UpGuess
from vexel.core.time.animation_length import Animation, animation_length, common_multiple

SECONDS = st.integers(1, 400).map(lambda n: Fraction(n, 40))


def course(seconds, times=None, delay=0):
    return Animation("", Fraction(seconds), None if times is None else Fraction(times), Fraction(delay))


class OwnLengthTest(unittest.TestCase):
    def test_what_runs_without_end_meets_at_the_least_common_multiple(self):
        for courses, seconds in (
            ([course(3)], "3"), ([course(2), course(3)], "6"), ([course("0.5"), course("0.75")], "3/2"),
            ([course("1.5"), course(2, times=4)], "3/2"), ([course("0.7"), course("1.1")], "77/10"),
        ):  # fmt: skip
            self.assertEqual((animation_length(courses).seconds, animation_length(courses).loops), (seconds, True))

    def test_what_ends_is_over_at_its_last_end(self):
        length = animation_length([course(2, times=1, delay=1), course("0.5", times=3)])
        self.assertEqual((length.seconds, length.loops), ("3", False))

    def test_nothing_that_runs_has_no_length(self):
        self.assertIsNone(animation_length([]))
        self.assertIsNone(animation_length([course("59.9"), course("59.7")]), "they meet after an hour")

    @given(SECONDS, SECONDS)
    def test_a_common_multiple_is_the_least_one(self, one, other):
        least = common_multiple(one, other)
        self.assertEqual(((least / one).denominator, (least / other).denominator), (1, 1))
        # Over a common denominator it is the lcm of whole numbers, which the standard library gives.
        under = math.lcm(one.denominator, other.denominator)
        self.assertEqual(least, Fraction(math.lcm(int(one * under), int(other * under)), under))


class FindingsTest(unittest.TestCase):
    def page(self, **clock):
        document = shot_document({"kind": "page", "file": "a.html"})
        document["clock"] = {"rate": "24"} | clock
        return read_shot_document(document)

    def found(self, shot, **facts):
        return [
            f
            for f in source_findings(shot, SourceFacts(**facts))
            if f.name in ("animation-length-differs", "on-its-side")
        ]

    def test_a_loop_that_cuts_the_animations_off_is_fixed(self):
        three = animation_length([course(3)])
        for clock in ({"seconds": 3}, {"seconds": 6}, {"frames": 72}, {"rate": "30000/1001", "frames": 90}):
            self.assertEqual(self.found(self.page(**clock), length=three), [], clock)
        (finding,) = self.found(self.page(seconds=5), length=three)
        fixed = edited(self.page(seconds=5), finding.fixes[0].patch)
        self.assertEqual((fixed.clock.seconds, self.found(fixed, length=three)), (3, []))
        once = animation_length([course("2.5", times=1)])
        (finding,) = self.found(self.page(seconds=5), length=once)
        self.assertEqual(edited(self.page(seconds=5), finding.fixes[0].patch).clock.span, "ends")
        (finding,) = self.found(self.page(seconds=2, span="ends"), length=once)
        self.assertIn("The rest will not be seen", finding.cost)

    def test_a_mesh_on_its_side_is_asked_about_until_a_person_has_said(self):
        shot = read_shot_document(shot_document({"kind": "object", "file": "a.obj"}))
        guess = UpGuess("y", True)
        (finding,) = self.found(shot, up="z", up_guess=guess)
        for fix, up in zip(finding.fixes, ("y", "z"), strict=True):
            said = edited(shot, fix.patch)
            self.assertEqual((said.source.up, self.found(said, up=up, up_guess=guess)), (up, []))
        self.assertEqual(self.found(shot, up="y", up_guess=guess), [])
        self.assertEqual(self.found(shot, up="z", up_guess=None), [])

    def test_a_clear_background_in_a_file_without_alpha(self):
        document = shot_document({"kind": "object", "file": "a.obj"}, frames=24)
        for recipe, found in (("h264", True), ("gif", True), ("frames", False)):
            shot = read_shot_document(document | {"recipe": recipe, "picture": {"background": "transparent"}})
            lost = [finding for finding in preflight(shot) if finding.name == "alpha-lost"]
            self.assertEqual(bool(lost), found, recipe)
            for fix in lost[0].fixes if lost else ():
                after = [finding.name for finding in preflight(edited(shot, fix.patch))]
                self.assertNotIn("alpha-lost", after)

    def test_a_frame_too_many_in_a_loop(self):
        """Common practice: 360 frames for a turn of 1° each, 120 for 3°; a loop adds none for the end."""
        for frames, found in (
            (361, True),
            (121, True),
            (241, True),
            (360, False),
            (120, False),
            (25, False),
            (96, False),
        ):
            document = shot_document({"kind": "object", "file": "a.obj"}, frames=frames)
            names = [finding.name for finding in preflight(read_shot_document(document))]
            self.assertEqual("one-too-many" in names, found, frames)
        (finding,) = [
            f for f in preflight(read_shot_document(shot_document({"kind": "object", "file": "a"}, frames=361)))
            if f.name == "one-too-many"
        ]  # fmt: skip
        self.assertIn("360 would be exactly 1°", finding.what)


if __name__ == "__main__":
    unittest.main()
