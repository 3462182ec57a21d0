"""Shutter, retiming, and fixed pictures at another rate."""

import unittest
from fractions import Fraction
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from tests.helpers import shot_document
from vexel.core.checks.preflight import source_findings
from vexel.core.document.clock_spec import ClockSpec
from vexel.core.document.shot import read_shot_document
from vexel.core.edits.set_term import set_term, terms_of
from vexel.core.errors import Mistake
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, SourceFacts, Subject
from vexel.core.lanes.dial import Dial
from vexel.core.merge_patch import merged
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.core.time.shutter import Shutter
from vexel.core.time.source_frames import RateFit, SourceFrames

DIAL = Dial("a", 0, 0, 1)
FILM = Fraction(24)


class ShutterTest(unittest.TestCase):
    def test_an_angle_is_a_share_of_the_frame(self):
        # Common practice: 180° at 24 fps exposes for 1/48 s.
        for text in ("180°", "180 deg", "0.5", "1/2", "1/48 s", "1/48s"):
            self.assertEqual(Shutter.parse(text, FILM).opening, Fraction(1, 2), text)
        self.assertEqual(
            Shutter.parse("172.8°", FILM).opening / FILM, Fraction(1, 50), "the usual one under 50 Hz light"
        )
        self.assertEqual(Shutter.parse("180°", FILM).label, "180°")

    def test_it_leads_trails_or_lies_around_the_instant(self):
        for sits, offsets in (
            ("leading", ["1/16", "3/16", "5/16", "7/16"]),
            ("centred", ["-3/16", "-1/16", "1/16", "3/16"]),
            ("trailing", ["-7/16", "-5/16", "-3/16", "-1/16"]),
        ):
            self.assertEqual(Shutter(Fraction(1, 2), sits).offsets(4), [Fraction(n) for n in offsets])
        self.assertEqual(Shutter().offsets(9), [0])

    def test_refuses_what_is_no_opening(self):
        for text, words in (
            ("wide", "write an angle such as 180°"),
            ("180", "write 180° for an angle"),
            ("1/0", "not a shutter"),
        ):
            with self.assertRaisesRegex(Mistake, words):
                Shutter.parse(text, FILM)
        with self.assertRaisesRegex(Mistake, "stills has whole frames only"):
            read_shot_document(
                {"title": "t", "source": {"kind": "stills", "file": "a.png", "rate": "24"}}
                | {"clock": {"rate": "24", "frames": 4, "shutter": "180°"}}
            )

    @given(st.fractions(Fraction(1, 100), 1), st.sampled_from(["leading", "centred", "trailing"]), st.integers(1, 9))
    def test_looks_are_equally_spaced_over_all_frames_of_a_full_shutter(self, opening, sits, looks):
        clock = Clock(Rate(FILM), 5, shutter=Shutter(opening, sits))
        places = [place for frame in range(5) for place in clock.places(frame, looks)]
        steps = [b - a for a, b in pairwise(places)]
        self.assertTrue(all(step > 0 for step in steps), "instants strictly increase")
        if opening == 1:
            self.assertEqual(set(steps), {Fraction(1, looks)})

    def test_a_loop_looks_over_its_seam_and_two_ends_do_not(self):
        for span, phase, seconds in (("loop", Fraction(15, 16), Fraction(15, 96)), ("ends", 0, 0)):
            clock = Clock(Rate(FILM), 4, span, shutter=Shutter(Fraction(1, 2), "trailing"))
            first = clock.instant_at(clock.places(0, 1)[0], 0)
            self.assertEqual((first.phase, first.seconds, first.frame), (phase, seconds, 0))

    def test_with_every_nth_frame_it_is_open_n_times_as_long(self):
        clock = ClockSpec(rate="24", frames=12, every=3, shutter="0.5", shutter_sits="leading").exact
        self.assertEqual(clock.places(1, 2), [3 + Fraction(3, 8), 3 + Fraction(9, 8)])


class LooksTest(unittest.TestCase):
    def frame_spec(self, frame, **parts):
        document = shot_document({"kind": "sketch", "file": "a.py"}, **parts)
        facts = SourceFacts(time_inputs=("seconds",)) if "clock" in parts else SourceFacts()
        inputs = PlanInputs("e", SourceIdentity("sketch", "a.py", "d"), facts, Subject(None))
        return make_plan(read_shot_document(document), inputs).frame_spec(frame)

    def test_a_frame_looks_once_a_sample_where_something_moves(self):
        clock = {"rate": "12", "frames": 6, "shutter": "180°", "shutter_sits": "leading"}
        spec = self.frame_spec(1, clock=clock, picture={"samples": 4, "width": 96, "height": 64})
        self.assertEqual(
            [Fraction(look.time_inputs["seconds"]) for look in spec.shutter_samples],
            [Fraction(16 + n, 192) for n in (1, 3, 5, 7)],
        )

    def test_where_nothing_moves_the_frame_is_that_of_a_closed_shutter(self):
        still = self.frame_spec(1)
        self.assertEqual(len(still.shutter_samples), 1)
        self.assertEqual(self.frame_spec(4).key, still.key)


class RetimedTest(unittest.TestCase):
    def shot(self, source=None, **clock):
        document = shot_document(source or {"kind": "sketch", "file": "a.py"})
        document["clock"] = {"rate": "24", "frames": 49, "span": "ends"} | clock
        document["lanes"] = [] if source else [{"drive": "dial:a", "at": "frames", "keys": [[0, 0], [48, 1]]}]
        return document

    @given(st.integers(2, 900), st.integers(2, 900), st.sampled_from(["24", "30000/1001"]))
    def test_first_and_last_stay_and_nothing_is_dropped(self, own, frames, rate):
        before = ClockSpec(rate=rate, frames=own, span="ends").exact
        after = ClockSpec(rate=rate, frames=frames, span="ends", retimed_from=own).exact
        first, last = after.instant(0), after.instant(frames - 1)
        self.assertEqual((first.seconds, last.seconds), (0, before.instant(own - 1).seconds))
        self.assertEqual((first.phase, last.phase), (0, 1))
        seconds = [after.instant(n).seconds for n in range(min(frames, 50))]
        self.assertEqual(len({b - a for a, b in pairwise(seconds)}), 1 if len(seconds) > 2 else len(seconds) - 1)
        self.assertEqual(last.seconds, (frames - 1) / last.rate, "seconds are frames by the rate of its own time")

    def test_typed_as_a_length_and_taken_back(self):
        document = self.shot()
        slow = merged(document, set_term(read_shot_document(document), "retimed", "97f"))
        self.assertEqual((slow["clock"]["frames"], slow["clock"]["retimed_from"]), (97, 49))
        plan = read_shot_document(slow)
        inputs = PlanInputs("e", SourceIdentity("sketch", "a.py", "d"), SourceFacts((DIAL,)), Subject(None))
        dials = make_plan(plan, inputs).sampled.motion.dials["a"]
        self.assertEqual([dials[0], dials[48], dials[96]], [0, 0.5, 1], "lanes keyed in frames are stretched too")
        back = merged(slow, set_term(plan, "retimed", "49f"))
        self.assertEqual(read_shot_document(back), read_shot_document(document))

    def test_a_simulation_takes_the_same_steps_over_another_length(self):
        simulation = {"kind": "simulation", "file": "s.py", "pace": 2}
        own = read_shot_document(self.shot(simulation))
        slow = read_shot_document(self.shot(simulation, frames=97, retimed_from=49))
        facts = SourceFacts(time_inputs=("step",), step="1/240")
        inputs = PlanInputs("e", SourceIdentity("simulation", "s.py", "d"), facts, Subject(None))
        steps = []
        for shot, frames in ((own, (0, 24, 48)), (slow, (0, 48, 96))):
            plan = make_plan(shot, inputs)
            steps.append([plan.frame_spec(n).shutter_samples[0].time_inputs["step"] for n in frames])
        self.assertEqual(steps[0], steps[1])
        pace = next(term for term in terms_of(slow) if term.name == "pace")
        self.assertEqual(pace.value, "1", "simulated seconds per second of video")


class FixedPicturesTest(unittest.TestCase):
    def shot(self, **parts):
        source = {"kind": "stills", "file": "a.0001.png", "rate": "24"} | parts.pop("source", {})
        return read_shot_document(
            {"title": "t", "source": source, "clock": {"rate": "30", "seconds": 2, "span": "ends"}} | parts
        )

    def test_what_is_dropped_and_doubled_is_counted(self):
        # By hand: 24 a second at 30 shows every fourth picture twice; at 12 every other one is left out.
        for rate, frames, fit in (("30", 60, RateFit(0, 12)), ("12", 24, RateFit(23, 0)), ("24", 48, RateFit(0, 0))):
            clock = ClockSpec(rate=rate, frames=frames, span="ends").exact
            self.assertEqual(SourceFrames("24", 48).fit(clock), fit, rate)

    @given(st.integers(2, 300), st.integers(1, 300), st.sampled_from(["24", "25", "30000/1001", "60"]))
    def test_the_count_is_that_of_the_slots_shown(self, count, frames, rate):
        slots, clock = SourceFrames("24", count), Clock(Rate.parse(rate), frames, "ends")
        shown = [
            slots.at(clock.instant(n).seconds * clock.rate.fps, clock.instant(n).seconds)[0] for n in range(frames)
        ]
        ends = next((n for n in range(frames) if clock.instant(n).seconds * 24 >= count), frames)
        pairs = list(pairwise(shown[:ends]))
        expected = RateFit(sum(max(b - a - 1, 0) for a, b in pairs), sum(a == b for a, b in pairs))
        self.assertEqual(slots.fit(clock), expected)

    def test_it_is_said_before_and_fixed_in_one_press(self):
        facts = SourceFacts(time_inputs=("slot",), pictures=True, source_frames=SourceFrames("24", 48))
        (finding,) = source_findings(self.shot(), facts)
        self.assertEqual(finding.what, "12 frames will repeat the previous picture")
        for fix in finding.fixes:
            document = merged(self.shot().model_dump(mode="json"), fix.patch)
            fixed = read_shot_document(document)
            blends = SourceFacts(("slot",), source_frames=SourceFrames("24", 48, mixed=fixed.source.between == "blend"))
            self.assertEqual(source_findings(fixed, blends), [], fix.label)

    def test_it_may_be_refused(self):
        facts = SourceFacts(time_inputs=("slot",), pictures=True, source_frames=SourceFrames("24", 48))
        inputs = PlanInputs("e", SourceIdentity("stills", "a", "d"), facts, Subject(None))
        with self.assertRaisesRegex(Mistake, "would drop 0 and double 12 pictures"):
            make_plan(self.shot(source={"between": "refuse"}), inputs)

    def test_a_lane_offsets_the_list_and_goes_round(self):
        facts = SourceFacts(time_inputs=("slot",), pictures=True, source_frames=SourceFrames("24", 48))
        inputs = PlanInputs("e", SourceIdentity("stills", "a", "d"), facts, Subject(None))
        lanes = [{"drive": "list:offset", "keys": [[0, 0], [1, 50]]}]
        plan = make_plan(self.shot(lanes=lanes, clock={"rate": "24", "frames": 48, "span": "ends"}), inputs)
        self.assertEqual(
            [plan.frame_spec(n).shutter_samples[0].time_inputs["slot"] for n in (0, 47)], [0, (47 + 50) % 48]
        )


if __name__ == "__main__":
    unittest.main()
