"""Rates, counts, instants and phases."""

import unittest
from fractions import Fraction

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from vexel.core.checks.shot_timing import shot_timing
from vexel.core.document.clock_spec import ClockSpec
from vexel.core.errors import Mistake
from vexel.core.time.clock import Clock
from vexel.core.time.frame_selection import FrameSelection
from vexel.core.time.rate import Rate


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
            self.assertEqual(Clock.frames_lasting(Rate(Fraction(rate)), Fraction(seconds)), frames)

    def test_one_hour_at_29_97(self):
        # SMPTE ST 12-1: one hour of drop-frame timecode is 107,892 frames, and lasts 3599.9964 s.
        clock = Clock(Rate.parse("29.97"), 107_892)
        self.assertEqual(clock.seconds, Fraction(107_892 * 1001, 30000))
        self.assertEqual(Clock.frames_lasting(Rate.parse("29.97"), Fraction(3600)), 107_892)

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
            (lambda: Clock.frames_lasting(rate, Fraction(0)), "above 0"),
            (lambda: Clock.frames_lasting(rate, Fraction(1, 1000)), "less than half a frame"),
            (lambda: Clock(rate, 10).instant(10), "frames 0 to 9"),
        ):
            with self.assertRaisesRegex(Mistake, word):
                make()

    @given(st.integers(1, 10**6), st.fractions(Fraction(1, 10), 1000, max_denominator=1001))
    def test_frames_to_seconds_to_frames_is_the_identity(self, frames, fps):
        rate = Rate(fps)
        self.assertEqual(Clock.frames_lasting(rate, Clock(rate, frames).seconds), frames)

    @given(st.integers(1, 5000), st.sampled_from(["24", "30000/1001", "12.5"]))
    def test_instants_come_from_the_number_alone(self, frames, rate):
        clock = Clock(Rate.parse(rate), frames, "loop")
        last = clock.instant(frames - 1)
        self.assertEqual(last.seconds, (frames - 1) / clock.rate.fps)
        self.assertLess(last.phase, 1)
        self.assertEqual(float(last.phase), clock.phases()[-1])


class PicksTest(unittest.TestCase):
    def clock(self, **plan):
        return ClockSpec(**({"rate": "24", "frames": 100} | plan)).exact

    def test_a_range_every_nth_and_holds(self):
        clock = self.clock(first=10, last=30, every=4, hold_start=2, hold_end=3)
        self.assertEqual(clock.frames, 11)
        shown = [clock.instant(n) for n in range(11)]
        self.assertEqual([i.frame for i in shown], [10, 10, 10, 14, 18, 22, 26, 30, 30, 30, 30])
        self.assertEqual((shown[3].seconds, shown[3].phase, shown[3].count), (Fraction(14, 24), Fraction(14, 100), 100))
        self.assertEqual(clock.phases().tolist(), [float(i.phase) for i in shown])

    def test_picked_frames_keep_the_pace_or_are_played_at_the_full_rate(self):
        for plan, frames, rate, seconds in (
            ({"every": 2}, 50, 12, Fraction(50, 12)),
            ({"every": 2, "play": "rate"}, 50, 24, Fraction(50, 24)),
            ({"speed": 0.5}, 100, 12, Fraction(100, 12)),
            ({"speed": 2, "every": 2}, 50, 24, Fraction(50, 24)),
        ):
            with self.subTest(**plan):
                clock = self.clock(**plan)
                self.assertEqual((clock.frames, clock.playback.fps, clock.seconds), (frames, rate, seconds))

    def test_tells_both_lengths_and_both_counts(self):
        told = shot_timing(ClockSpec(rate="24", frames=100, first=20, every=2, hold_end=10)).reasons
        self.assertIn("Frames 20 to 98, every 2nd = 40 frames: 3.3333 s at the motion's pace, 1.6667 s", told[2])
        self.assertEqual(told[3], "0 held + 40 + 10 held = 50 frames")
        self.assertEqual(told[4], "50 frames ÷ 12 fps = 4.1667 s of video")

    def test_refuses_a_range_outside_the_motion(self):
        for plan, word in (
            ({"first": 100}, "first frame 100 is outside the motion, which has frames 0 to 99"),
            ({"last": 100}, "last frame 100 is outside"),
            ({"first": 9, "last": 3}, "runs backwards, from frame 9 to 3"),
            ({"rate": "600", "speed": 2}, "lower the speed"),
        ):
            with self.subTest(**plan), self.assertRaisesRegex((Mistake, ValueError), word):
                self.clock(**plan)

    @given(st.integers(1, 500), st.data())
    def test_every_shown_frame_is_in_the_range(self, motion, data):
        first = data.draw(st.integers(0, motion - 1))
        last = data.draw(st.integers(first, motion - 1))
        every, start, end = (data.draw(st.integers(low, 9)) for low in (1, 0, 0))
        order, closes = data.draw(st.sampled_from(("forward", "backward", "there-and-back"))), data.draw(st.booleans())
        picks = FrameSelection(first, last, every, start, end, order, closes)
        # Enumerated by hand: the range, its order, and the still frames at both ends.
        there = list(range(first, last + 1, every))
        run = {"forward": there, "backward": there[::-1], "there-and-back": there + there[-2::-1]}[order]
        if order == "there-and-back" and closes and len(there) > 1:
            run.pop()
        shown = run[:1] * start + run + run[-1:] * end
        frames = picks.frames_of(motion)
        self.assertEqual(frames.tolist(), shown)
        self.assertEqual(len(frames), picks.count(motion))
        self.assertEqual(frames.tolist(), [picks.frame_of(n, motion) for n in range(len(frames))])
        ways = [order == "backward" or (order == "there-and-back" and n >= len(there)) for n in range(len(run))]
        back = ways[:1] * start + ways + ways[-1:] * end
        self.assertEqual(picks.runs_back(np.arange(len(shown)), motion).tolist(), back)

    @given(st.data())
    def test_all_features_of_time_together_are_what_they_are_by_hand(self, data):
        """Every pair of holds, steps, orders, retiming, shutter and span, enumerated in fractions."""
        draw, motion = data.draw, data.draw(st.integers(2, 60))
        span, order = (
            draw(st.sampled_from(("loop", "ends"))),
            draw(st.sampled_from(("forward", "backward", "there-and-back"))),
        )
        first = draw(st.integers(0, motion - 1))
        last, every = draw(st.integers(first, motion - 1)), draw(st.integers(1, 5))
        holds = draw(st.integers(0, 4)), draw(st.integers(0, 4))
        own, opening = draw(st.none() | st.integers(1, 90)), Fraction(draw(st.integers(0, 4)), 4)
        sits, rate = draw(st.sampled_from(("leading", "centred", "trailing"))), Fraction(30000, 1001)
        spec = {"rate": "30000/1001", "frames": motion, "span": span, "order": order, "first": first, "last": last}
        spec |= {"every": every, "hold_start": holds[0], "hold_end": holds[1], "retimed_from": own}
        clock = ClockSpec(**spec, shutter=str(opening), shutter_sits=sits).exact
        there = list(range(first, last + 1, every))
        senses = [1] * len(there)
        if order == "backward":
            there, senses = there[::-1], [-1] * len(there)
        elif order == "there-and-back":
            back = there[-2::-1] if span == "ends" or len(there) == 1 else there[-2:0:-1]
            there, senses = there + back, senses + [-1] * len(back)
        shown = there[:1] * holds[0] + there + there[-1:] * holds[1]
        ways = senses[:1] * holds[0] + senses + senses[-1:] * holds[1]
        self.assertEqual(clock.frames, len(shown))
        steps, begin = (
            motion if span == "loop" else motion - 1,
            {"leading": 0, "centred": -opening / 2, "trailing": -opening}[sits],
        )
        own_steps = (own if span == "loop" else max(own - 1, 1)) if own else steps
        for n, (frame, way) in enumerate(zip(shown, ways, strict=True)):
            instant = clock.instant(n)
            self.assertEqual((instant.frame, instant.phase), (frame, Fraction(frame, steps)))
            self.assertEqual(instant.seconds, Fraction(frame, steps) * own_steps / rate)
            looks = 4 if opening else 1
            places = sorted(frame + way * every * (begin + opening * (2 * k + 1) / (2 * looks)) for k in range(looks))
            self.assertEqual(clock.places(n, looks), places if opening else [frame])
            phases = [place / steps % 1 if span == "loop" else min(max(place / steps, 0), 1) for place in places]
            np.testing.assert_allclose(clock.phases_at(range(n, n + 1), looks), [float(p) for p in phases], atol=1e-12)

    @given(st.integers(2, 40), st.sampled_from(("leading", "centred", "trailing")), st.sampled_from(("loop", "ends")))
    def test_a_shutter_looks_the_other_way_where_the_motion_runs_back(self, frames, sits, span):
        """Played backwards, the mirrored shutter of a shot sees what the shot itself sees."""
        mirrored = {"leading": "trailing", "trailing": "leading", "centred": "centred"}

        def clock(order, sits):
            return ClockSpec(rate="24", frames=frames, span=span, order=order, shutter="180°", shutter_sits=sits).exact

        back, forth = clock("backward", sits), clock("forward", mirrored[sits])
        for n in range(frames):
            self.assertEqual(back.places(n, 4), forth.places(frames - 1 - n, 4))
        expected = forth.phases_at(range(frames), 4).reshape(frames, 4)[::-1].ravel()
        np.testing.assert_array_equal(back.phases_at(range(frames), 4), expected)


if __name__ == "__main__":
    unittest.main()
