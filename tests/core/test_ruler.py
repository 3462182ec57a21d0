"""Marks of the strip's ruler."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from vexel.core.document.clock_spec import ClockSpec
from vexel.core.time.ruler import UNITS, ticks


class RulerTest(unittest.TestCase):
    def marks(self, unit, begin, end, most, **plan):
        clock = ClockSpec(**({"rate": "24", "frames": 360} | plan)).exact
        return [(tick.at, tick.label) for tick in ticks(clock, unit, begin, end, most)]

    def test_round_numbers_in_each_unit(self):
        self.assertEqual(self.marks("frames", 0, 359, 4), [(0, "0"), (100, "100"), (200, "200"), (300, "300")])
        self.assertEqual(self.marks("seconds", 0, 359, 3), [(0, "0 s"), (120, "5 s"), (240, "10 s")])
        self.assertEqual(self.marks("phase", 0, 359, 2), [(0, "0"), (180, "0.5")])
        self.assertEqual(self.marks("seconds", 10, 14, 9)[:2], [(10, "0.4167 s"), (11, "0.4583 s")])

    def test_timecode_drops_its_labels(self):
        # SMPTE ST 12-1: at 30000/1001 frame 1800 is 00:01:00;02.
        marks = self.marks("timecode", 1790, 1810, 4, rate="30000/1001", frames=4000)
        self.assertIn((1800, "00:01:00;02"), marks)
        self.assertEqual(self.marks("timecode", 0, 20, 1, rate="12.5", frames=30)[0][1], "0 s", "no timecode at 12.5")

    def test_phases_stand_where_the_shown_frames_pass_them(self):
        marks = self.marks("phase", 0, 49, 3, frames=100, first=10, every=2, hold_start=5)
        self.assertEqual(marks, [(25, "0.5")])

    @given(st.sampled_from(UNITS), st.integers(2, 200_000), st.integers(1, 30), st.sampled_from(["24", "60000/1001"]))
    def test_there_are_never_too_many_and_they_rise(self, unit, frames, most, rate):
        marks = self.marks(unit, 0, frames - 1, most, rate=rate, frames=frames)
        places = [at for at, _ in marks]
        self.assertEqual(places, sorted(set(places)))
        self.assertTrue(1 <= len(marks) <= most + 1, marks[:5])
        self.assertTrue(all(0 <= at <= frames - 1 for at in places))


if __name__ == "__main__":
    unittest.main()
