"""GIF delays, which are whole hundredths (GIF89a)."""

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from vexel.core.time.clock import Clock
from vexel.core.time.gif_timing import gif_timing
from vexel.core.time.rate import Rate


class DelaysTest(unittest.TestCase):
    def test_rates_of_100_over_n_are_kept_exactly(self):
        # GIF89a: the delay time counts hundredths of a second, so 100/n is exact.
        for n in (2, 4, 5, 10):
            delays = gif_timing(Clock(Rate(Fraction(100, n)), 7))
            self.assertEqual((set(delays.hundredths), delays.note), ({n}, ""))

    @given(st.integers(1, 400), st.sampled_from([10, 12, 15, 24, 30, 50]))
    def test_the_total_stays_within_half_a_hundredth(self, frames, fps):
        clock = Clock(Rate(Fraction(fps)), frames)
        self.assertLessEqual(abs(gif_timing(clock).seconds - clock.seconds), Fraction(1, 200))

    def test_tells_of_rounding_and_of_delays_that_players_ignore(self):
        self.assertIn("gets 0.04 and 0.05 s", gif_timing(Clock(Rate(Fraction(24)), 24)).note)
        self.assertIn("use 50 fps or fewer", gif_timing(Clock(Rate(Fraction(100)), 4)).note)


if __name__ == "__main__":
    unittest.main()
