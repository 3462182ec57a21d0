"""Steps of a simulation against frames of a shot."""

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from vexel.core.time.substeps import Substeps

RATES = st.sampled_from([Fraction(24), Fraction(30000, 1001), Fraction(25, 2)])


class PaceTest(unittest.TestCase):
    def test_whole_steps_a_frame(self):
        pace = Substeps(Fraction("0.005"), Fraction("0.75"), Fraction(30))
        self.assertEqual([pace.step_of(n) for n in range(4)], [0, 5, 10, 15])
        self.assertEqual(pace.sentence, "0.75 s per second ÷ 30 fps ÷ 0.005 s per step = 5 steps per frame")

    def test_the_remainder_is_carried_and_said(self):
        pace = Substeps(Fraction("0.01"), Fraction(1), Fraction(24), warm_up=7)
        self.assertEqual([pace.step_of(n) - 7 for n in range(7)], [0, 4, 8, 12, 16, 20, 25])
        self.assertEqual(pace.step_of(24) - 7, 100, "a second of video is a second of the simulation")
        self.assertIn("= 4.1667 steps per frame: uneven, 4 or 5 in turn", pace.sentence)
        self.assertEqual(pace.even_paces(), [Fraction("0.96"), Fraction("1.2")])

    @given(st.integers(0, 10**5), RATES, st.fractions(Fraction(1, 1000), 10, max_denominator=1000))
    def test_no_frame_is_ever_a_step_late(self, frame, rate, pace):
        told = Substeps(Fraction("0.01"), pace, rate)
        exact = frame * pace / rate / Fraction("0.01")
        self.assertTrue(0 <= exact - told.step_of(frame) < 1)


if __name__ == "__main__":
    unittest.main()
