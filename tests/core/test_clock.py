"""Rates, counts, instants and phases."""

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from vexel.core.clock import Clock
from vexel.core.errors import Mistake
from vexel.core.rate import Rate


class RateTest(unittest.TestCase):
    def test_ntsc_decimals_are_their_fractions(self):
        # SMPTE ST 12-1: rates of the NTSC family.
        for text, fps in {
            "23.976": Fraction(24000, 1001),
            "29.97": Fraction(30000, 1001),
            "59.94": Fraction(60000, 1001),
            "30000/1001": Fraction(30000, 1001),
        }.items():
            self.assertEqual(Rate.parse(text).fps, fps, text)
        self.assertIn("30000/1001", Rate.parse("29.97").note)

    def test_other_decimals_are_themselves(self):
        self.assertEqual(Rate.parse("12.5").fps, Fraction(25, 2))
        self.assertEqual(Rate.parse("24.0").fps, 24)
        self.assertEqual(Rate.parse("12.5").note, "")

    def test_refuses_what_is_no_rate(self):
        for text, word in {
            "0": "above 0", "-24": "negative", "abc": "'abc'", "": "not a frame rate",
            "24/0": "divides by 0", "5000": "above 1000", "1e3": "not a frame rate", "nan": "not a frame rate",
        }.items():  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(Mistake, word):
                Rate.parse(text)


class ClockTest(unittest.TestCase):
    def test_counts_of_common_practice(self):
        # Common practice (no source): as REFERENCES.md lists them.
        for rate, seconds, frames in ((24, 5, 120), (24, 15, 360), (30, 1, 30), (30, 306, 9180)):
            self.assertEqual(Clock.lasting(Rate(Fraction(rate)), Fraction(seconds)).frames, frames)

    def test_one_hour_at_29_97(self):
        # SMPTE ST 12-1: one hour of drop-frame timecode is 107,892 frames, and lasts 3599.9964 s.
        clock = Clock(Rate.parse("29.97"), 107_892)
        self.assertEqual(clock.seconds, Fraction(107_892 * 1001, 30000))
        self.assertEqual(Clock.lasting(Rate.parse("29.97"), Fraction(3600)).frames, 107_892)

    def test_loop_leaves_the_end_out_and_ends_shows_it(self):
        loop, ends = Clock(Rate(Fraction(24)), 4, "loop"), Clock(Rate(Fraction(24)), 5, "ends")
        self.assertEqual(loop.phases().tolist(), [0, 0.25, 0.5, 0.75])
        self.assertEqual(ends.phases().tolist(), [0, 0.25, 0.5, 0.75, 1])
        self.assertEqual(Clock(Rate(Fraction(24)), 1, "ends").phases().tolist(), [0])

    def test_refuses_impossible_lengths(self):
        rate = Rate(Fraction(24))
        for make, word in (
            (lambda: Clock(rate, 0), "at least 1 frame"),
            (lambda: Clock(rate, 1_000_001), "1,000,001 frames are more"),
            (lambda: Clock.lasting(rate, Fraction(0)), "above 0"),
            (lambda: Clock.lasting(rate, Fraction(1, 1000)), "less than half a frame"),
            (lambda: Clock(rate, 10).instant(10), "frames 0 to 9"),
        ):
            with self.assertRaisesRegex(Mistake, word):
                make()

    @given(st.integers(1, 10**6), st.fractions(Fraction(1, 10), 1000, max_denominator=1001))
    def test_frames_to_seconds_to_frames_is_the_identity(self, frames, fps):
        rate = Rate(fps)
        self.assertEqual(Clock.lasting(rate, Clock(rate, frames).seconds).frames, frames)

    @given(st.integers(1, 5000), st.sampled_from(["24", "30000/1001", "12.5"]))
    def test_instants_come_from_the_number_alone(self, frames, rate):
        clock = Clock(Rate.parse(rate), frames, "loop")
        last = clock.instant(frames - 1)
        self.assertEqual(last.seconds, (frames - 1) / clock.rate.fps)
        self.assertLess(last.phase, 1)
        self.assertEqual(float(last.phase), clock.phases()[-1])


if __name__ == "__main__":
    unittest.main()
