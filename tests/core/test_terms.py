"""The term solver, timecode, typed lengths and the cadence of sound."""

import unittest
from fractions import Fraction
from itertools import combinations, permutations, product

from hypothesis import assume, given
from hypothesis import strategies as st

from vexel.core.errors import Mistake
from vexel.core.time.audio_samples import audio_derivation, samples_before, samples_per_frame
from vexel.core.time.rate import Rate
from vexel.core.time.term_solver import adjust, solve, whole_lengths
from vexel.core.time.timecode import Length, frame_of, read_length, timecode

F = Fraction
NTSC, DOUBLE = Rate.parse("29.97"), Rate.parse("59.94")


class SolveTest(unittest.TestCase):
    def test_any_sufficient_set_gives_the_same_shot(self):
        # Common practice (no source), as REFERENCES.md lists it: 15 s at 24 fps are 360 frames.
        whole = {"rate": 24, "seconds": 15, "frames": 360, "turns": 1, "degrees": 1, "turn_seconds": 15}
        for terms in (
            ("rate", "seconds", "turns"),
            ("rate", "degrees", "turns"),
            ("rate", "turn_seconds", "turns"),
            ("degrees", "turns", "seconds"),
            ("frames", "seconds", "turn_seconds"),
            ("degrees", "frames", "turn_seconds"),
        ):
            with self.subTest(terms):
                answer = solve({term: F(whole[term]) for term in terms})
                self.assertEqual({term: answer.values[term] for term in whole}, whole)
                self.assertEqual(set(answer.reasons) & set(terms), set())

    def test_each_derivation_is_told(self):
        told = solve({"rate": F(24), "seconds": F(15), "turns": F(2), "pace": F(60), "repeats": F(4)}).reasons
        self.assertEqual(told["frames"], "24 fps × 15 s = 360 frames")
        self.assertEqual(told["degrees"], "360° ÷ 180 frames per turn = 2° per frame")
        self.assertEqual(told["covers"], "pace 60 × 15 s = 900 s of the source")
        self.assertEqual(told["all_frames"], "4 plays × 360 frames = 1,440 frames in total")

    def test_with_both_ends_a_turn_has_one_frame_more(self):
        answer = solve({"rate": F(24), "degrees": F(1), "turns": F(1)}, "ends")
        self.assertEqual((answer.values["frames"], answer.values["seconds"]), (361, F(361, 24)))
        self.assertEqual(answer.reasons["frames"], "360 steps + 1 for both ends: 361 frames")

    def test_what_disagrees_is_named(self):
        answer = solve({"rate": F(24), "seconds": F(10), "frames": F(250)})
        (found,) = answer.disagreements
        self.assertEqual((found.first, found.second), ("frames", "seconds"))
        self.assertEqual(found.sentence, "250 frames and 10 s disagree: 24 fps × 10 s = 240 frames")
        pinned = solve({"rate": F(24), "seconds": F(10), "frames": F(250)}, pins=("frames",))
        self.assertEqual((pinned.values["frames"], pinned.disagreements[0].first), (250, "seconds"))

    def test_frames_are_made_whole_by_what_is_not_pinned(self):
        answer = solve({"rate": F(24), "seconds": F("12.51")})
        values = answer.values
        self.assertEqual((values["frames"], values["seconds"], answer.gave_way), (300, F("12.5"), ("seconds",)))
        answer = solve({"rate": F(24), "seconds": F("12.51")}, pins=("seconds",))
        self.assertEqual((answer.values["frames"], answer.gave_way), (300, ("rate",)))
        answer = solve({"rate": F(24), "seconds": F("12.51")}, pins=("seconds", "rate"))
        self.assertIn("not whole, and everything that it depends on is locked", answer.disagreements[0].sentence)
        self.assertEqual(whole_lengths(F(24), F("12.51")), (F("12.5"), F(301, 24)))

    def test_a_higher_rate_keeps_the_length(self):
        stated = {"rate": F(24), "turns": F(1), "seconds": F(15)}
        for term, value, pins, expected in (
            ("rate", 30, (), {"frames": 450, "seconds": 15}),
            ("rate", 30, ("frames",), {"frames": 360, "seconds": 12}),
            ("frames", 400, (), {"rate": 24, "seconds": F(50, 3)}),
            ("frames", 400, ("seconds",), {"rate": F(80, 3)}),
            ("degrees", 2, (), {"frames": 180, "turns": 1}),
            ("degrees", 2, ("frames",), {"frames": 360, "turns": 2}),
            ("turn_seconds", 5, ("seconds",), {"turns": 3, "frames": 360}),
        ):
            with self.subTest(term=term, pins=pins):
                values = adjust(stated, term, F(value), pins=pins).values
                self.assertEqual({name: values[name] for name in expected}, expected)

    def test_what_does_not_hold_is_told_in_every_order(self):
        # Terms of one shot that go together; then each of them wrong, by much and by little.
        shot = {
            "rate": F(24), "seconds": F(10), "frames": F(240), "turns": F(2), "degrees": F(3), "turn_seconds": F(5),
            "pace": F(1, 2), "covers": F(5),
        }  # fmt: skip
        for names in (names for count in (2, 3, 4) for names in combinations(shot, count)):
            for wrong, factor in product(names, (F(1), F(2), F(1001, 1000))):
                given = {name: shot[name] * (factor if name == wrong else 1) for name in names}
                if given.get("frames", F(1)).denominator != 1:
                    continue
                clashes = set()
                for order in permutations(names):
                    answer = solve({name: given[name] for name in order})
                    told = {*answer.gave_way, *(clash.first for clash in answer.disagreements)}
                    off = {name for name in names if answer.values.get(name) != given[name]}
                    self.assertLessEqual(off, told, f"{order}, {wrong} × {factor}")
                    clashes.add(bool(answer.disagreements))
                self.assertEqual(len(clashes), 1, f"{names}, {wrong} × {factor}")
                if factor == 1:
                    self.assertEqual(clashes, {False})

    def test_a_length_that_is_rounded_to_the_stated_frames_says_so(self):
        for order in permutations({"rate": F(24), "seconds": F(1251, 100), "frames": F(300)}.items()):
            answer = solve(dict(order))
            self.assertEqual((answer.values["seconds"], answer.gave_way), (F(25, 2), ("seconds",)))
            self.assertEqual(answer.reasons["frames"], "24 fps × 12.51 s = 300.24, rounded to 300 frames")

    def test_refuses_terms_that_cannot_be(self):
        for terms, word in (({"rate": F(0)}, "must be above 0"), ({"fps": F(24)}, "there is no term 'fps'")):
            with self.assertRaisesRegex(Mistake, word):
                solve(terms)

    @given(
        st.fractions(1, 120, max_denominator=1001),
        st.fractions(F(1, 2), 500, max_denominator=100),
        st.integers(1, 40),
        st.sampled_from(["loop", "ends"]),
    )
    def test_the_answer_satisfies_every_given_term(self, rate, seconds, turns, span):
        assume(rate * seconds > 2)
        given = {"rate": rate, "seconds": seconds, "turns": F(turns)}
        answer = solve(given, span)
        values = answer.values
        for term, value in given.items():
            if term not in answer.gave_way:
                self.assertEqual(values[term], value)
        self.assertEqual(values["frames"].denominator, 1)
        self.assertEqual(values["rate"] * values["seconds"], values["frames"])
        self.assertEqual(values["degrees"] * values["steps"], 360 * turns)
        self.assertEqual(values["turn_seconds"] * turns * rate, values["steps"])
        self.assertLessEqual(abs(values["seconds"] - seconds), 1 / (2 * rate))


class TimecodeTest(unittest.TestCase):
    def test_drop_frame_labels(self):
        # SMPTE ST 12-1, as REFERENCES.md lists it.
        for frame, label in (
            (1799, "00:00:59;29"),
            (1800, "00:01:00;02"),
            (17981, "00:09:59;29"),
            (17982, "00:10:00;00"),
            (107_892, "01:00:00;00"),
        ):
            self.assertEqual(timecode(frame, NTSC), label)
            self.assertEqual(frame_of(label, NTSC), frame)
        self.assertEqual(timecode(3600, DOUBLE), "00:01:00;04")
        self.assertEqual(timecode(1440, Rate.parse("23.976")), "00:01:00:00")
        self.assertEqual(frame_of("00:01:00:02", NTSC), 1802, "a colon counts without dropping")

    @given(st.integers(0, 2_500_000), st.sampled_from(["24", "25", "29.97", "59.94", "23.976", "60", "120"]))
    def test_every_frame_comes_back(self, frame, rate):
        rate = Rate.parse(rate)
        self.assertEqual(frame_of(timecode(frame, rate), rate), frame)

    def test_lengths_as_people_type_them(self):
        for text, length in (
            ("12s", Length(seconds=F(12))),
            (" 12.5 s", Length(seconds=F(25, 2))),
            ("15", Length(seconds=F(15))),
            ("10/3", Length(seconds=F(10, 3))),
            ("1:30", Length(seconds=F(90))),
            ("1:02:03.5", Length(seconds=F(7447, 2))),
            ("2min", Length(seconds=F(120))),
            ("00:00:05;00", Length(frames=150)),
            ("00:01:00;02", Length(frames=1800)),
            ("450f", Length(frames=450)),
            ("450 frames", Length(frames=450)),
            ("1,000,000 frames", Length(frames=1_000_000)),
        ):
            self.assertEqual(read_length(text, NTSC), length, text)

    def test_refuses_what_labels_nothing(self):
        for text, rate, word in (
            ("00:01:00;00", NTSC, ";00 to ;01 are skipped at that minute"),
            ("00:00:00:30", NTSC, "has frame 30, but at 29.97 fps they go from 0 to 29"),
            ("00:00:05;00", Rate.parse("25"), "write a colon for the ;"),
            ("00:00:05:00", Rate.parse("12.5"), "has no timecode"),
            ("soon", NTSC, "'soon' is not a length"),
            ("1.5f", NTSC, "not a whole number of frames"),
            ("1/0", NTSC, "1/0 divides by 0"),
            ("12,5 s", NTSC, "12,5 has a comma: write 12.5"),
            ("1,000 f", NTSC, r"1,000 could be 1000 or 1\.000"),
        ):
            with self.subTest(text), self.assertRaisesRegex(Mistake, word):
                read_length(text, rate)


class CadenceTest(unittest.TestCase):
    def test_sound_at_fractional_rates(self):
        # SMPTE ST 299 family, from memory, as REFERENCES.md lists it: 8008 samples in five frames.
        self.assertEqual(samples_per_frame(NTSC), (1602, 1601, 1602, 1601, 1602))
        self.assertEqual(samples_per_frame(Rate.parse("25")), (1920,))
        self.assertEqual(
            audio_derivation(Rate.parse("24")), "48,000 samples per second ÷ 24 fps = 2,000 samples per frame"
        )
        self.assertIn("1,601 or 1,602 in turn, 8,008 in 5 frames", audio_derivation(NTSC))

    @given(st.integers(0, 10**7), st.sampled_from(["23.976", "29.97", "59.94", "12.5", "7"]))
    def test_no_frame_is_half_a_sample_off(self, frame, rate):
        rate = Rate.parse(rate)
        self.assertLessEqual(abs(samples_before(frame, rate) - frame * 48_000 / rate.fps), F(1, 2))
