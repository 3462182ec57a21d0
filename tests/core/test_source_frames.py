"""Numbered names, and which picture an instant shows."""

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from vexel.core.time.source_frames import SourceFrames
from vexel.core.wording import spelled
from vexel.sources.pictures.image_sequence import gaps, sequence_of


class NumberedTest(unittest.TestCase):
    def test_one_member_finds_the_rest(self):
        names = [f"survey_v2.{n:04d}.png" for n in (1, 2, 3, 5)] + [
            "survey_v3.0001.png",
            "notes.txt",
            "survey_v2.0001.jpg",
        ]
        found = sequence_of("survey_v2.0003.png", names)
        self.assertEqual((found.pattern, found.missing, len(found.names)), ("survey_v2.%04d.png", [4], 4))

    def test_the_number_that_differs_counts(self):
        names = [f"cam1_{n}_v2.png" for n in range(20)]
        found = sequence_of("cam1_7_v2.png", names)
        self.assertEqual((found.head, found.tail, found.padding, len(found.names)), ("cam1_", "_v2.png", 1, 20))

    def test_doubles_are_told(self):
        found = sequence_of("a.7.png", ["a.7.png", "a.07.png", "a.8.png"])
        self.assertEqual((len(found.names), found.doubles), (2, ("a.07.png",)))
        self.assertIsNone(sequence_of("plain.png", ["plain.png"]))

    def test_runs_are_drawn_together(self):
        self.assertEqual(spelled([3, 7, 8, 9, 12]), "3, 7 to 9, 12")
        self.assertEqual(spelled([1, 3, 5, 7, 9, 11]), "1, 3, 5, 7, 9 and more")
        self.assertEqual((gaps([]), gaps([4]), gaps([7, 4])), ([], [], [5, 6]))


class SlotsTest(unittest.TestCase):
    @given(st.integers(1, 400), st.sampled_from(["24", "30000/1001", "25/2"]))
    def test_at_its_own_rate_each_frame_is_its_own_slot(self, count, rate):
        slots = SourceFrames(rate, count)
        self.assertEqual([slots.at(n, n / Fraction(rate))[0] for n in range(count)], list(range(count)))

    def test_another_rate_shows_what_stands_then(self):
        # Common practice: 24 fps shown at 30 repeats every fourth picture; at 12, every other one is left out.
        slots = SourceFrames("24", 24)
        self.assertEqual([slots.at(n, Fraction(n, 30))[0] for n in range(6)], [0, 0, 1, 2, 3, 4])
        self.assertEqual([slots.at(n, Fraction(n, 12))[0] for n in range(4)], [0, 2, 4, 6])
        self.assertEqual(slots.at(0, Fraction(99)), (23, 0), "the last one stays")

    def test_between_two_slots(self):
        self.assertEqual(SourceFrames("10", 3).at(0, Fraction(1, 8)), (1, Fraction(1, 4)))
        self.assertEqual([SourceFrames("", 3).at(n, Fraction(0))[0] for n in range(5)], [0, 1, 2, 2, 2])

    def test_uneven_slots_go_by_their_times(self):
        slots = SourceFrames("10", 3, times=("0", "1/2", "3/5"))
        self.assertEqual([slots.at(n, Fraction(n, 10))[0] for n in (0, 4, 5, 6, 9)], [0, 0, 1, 2, 2])


if __name__ == "__main__":
    unittest.main()
