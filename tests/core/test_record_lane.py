"""Lanes that are played in."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from vexel.core.document.clock_spec import ClockSpec
from vexel.core.errors import Mistake
from vexel.core.lanes.record_lane import keys_of_recording, simplified

CLOCK = ClockSpec(rate="24", frames=101, span="ends").exact


class GestureTest(unittest.TestCase):
    @given(st.lists(st.tuples(st.floats(0, 100), st.floats(-9, 9)), min_size=2, max_size=120), st.floats(0, 0.3))
    def test_the_keys_miss_no_sample_by_more_than_was_allowed(self, samples, tolerance):
        latest = {}
        for frame, value in samples:
            latest[frame] = value
        if len(latest) < 2:
            return
        at, values = map(np.array, zip(*sorted(latest.items()), strict=True))
        keys = np.array(keys_of_recording(CLOCK, samples, tolerance))
        missed = np.abs(np.interp(at / 100, keys[:, 0], keys[:, 1]) - values)
        apart = np.diff(at).min() > 1e-5
        if apart:
            self.assertLessEqual(
                missed.max(), tolerance * np.ptp(values) + 1e-4 + 1e-6 * np.ptp(values) / np.diff(at).min()
            )

    def test_a_straight_move_is_two_keys_and_a_turn_is_three(self):
        straight = [(n, 2 * n) for n in range(101)]
        self.assertEqual(keys_of_recording(CLOCK, straight), [[0, 0], [1, 200]])
        self.assertEqual(keys_of_recording(CLOCK, [(n, abs(n - 50)) for n in range(101)]), [[0, 50], [0.5, 0], [1, 50]])

    def test_a_course_of_two_sines_takes_few_keys(self):
        at = np.linspace(0, 1, 1000)
        kept = simplified(at, np.sin(7 * at) + 0.2 * np.sin(31 * at), 0.02)
        self.assertTrue(10 < len(kept) < 40, len(kept))

    def test_refuses_what_was_no_gesture(self):
        for samples in ([], [(3, 1)], [(-5, 1), (2, 3)]):
            with self.assertRaisesRegex(Mistake, "nothing was recorded"):
                keys_of_recording(CLOCK, samples)
        with self.assertRaisesRegex(Mistake, "not a finite number"):
            keys_of_recording(CLOCK, [(0, 1), (3, float("nan"))])


if __name__ == "__main__":
    unittest.main()
