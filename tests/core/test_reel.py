"""The reel worked out: lengths as sums, frames by their places, transitions, layouts, true frames and loudness."""

import json
import math
import unittest
from fractions import Fraction

import numpy as np
import pyloudnorm
from hypothesis import given
from hypothesis import strategies as st

from vexel.core.document.shot import edited, read_shot
from vexel.core.edits.cuts_to_markers import cuts_to_markers
from vexel.core.edits.true_motion import true_motion
from vexel.core.errors import Mistake
from vexel.core.reel.flashes import COLUMNS, ROWS, FlashWatch
from vexel.core.reel.item_spec import LayoutItem
from vexel.core.reel.layout import cell_rects
from vexel.core.reel.media import MediaFacts
from vexel.core.reel.node import MissingMedia, Mixed, Plain, Shown, shown_in
from vexel.core.reel.reel_findings import reel_findings
from vexel.core.reel.reel_plan import plan_reel
from vexel.core.reel.reel_spec import edited_reel, read_reel
from vexel.core.reel.sound.beats import beats_of
from vexel.core.reel.sound.loudness import gain_to, loudness, true_peak
from vexel.core.reel.true_frames import true_frames


def reel(*items, **parts):
    return read_reel(json.dumps({"title": "Hall", "items": list(items)} | parts))


def take(name="a", **parts):
    return {"kind": "take", "take": name} | parts


def facts(frames=120, rate=24, closes=True, shot="s", **parts):
    size = parts.pop("size", (1920, 1080))
    return MediaFacts(
        frames, Fraction(rate), size[0], size[1], closes, "Shell", shot, parts.pop("renewable", True), **parts
    )


def like(**look):
    return facts(subject="shell.py", look=look)


def planned(made, **known):
    return plan_reel(made, {ref: known.get(ref.place, facts()) for ref in made.refs()})


transitions = st.one_of(
    st.just({}),
    st.builds(
        lambda kind, frames: {"transition": {"kind": kind, "frames": frames}},
        st.sampled_from(["cross-dissolve", "dip-to-colour", "wipe", "slide"]),
        st.integers(0, 40),
    ),
)
played = st.builds(
    lambda transition, repeat, hold, order, frames: take(
        repeat=repeat, hold_end=hold, order=order, **transition, **({"frames": frames} if frames else {})
    ),
    transitions, st.integers(1, 3), st.integers(0, 9), st.sampled_from(["forward", "backward", "there-and-back"]),
    st.one_of(st.none(), st.integers(1, 99)),
)  # fmt: skip
titles = st.builds(
    lambda transition, frames: {"kind": "title", "text": "x", "frames": frames} | transition,
    transitions,
    st.integers(1, 60),
)
items = st.lists(st.one_of(played, titles), min_size=1, max_size=5)


class LengthTest(unittest.TestCase):
    @given(items)
    def test_a_reel_is_the_sum_of_its_items_less_what_overlaps(self, made):
        plan = planned(reel(*made), a=facts(24))
        lengths = [track.count for track in plan.sequence.tracks]
        self.assertEqual(plan.frames, sum(lengths) - sum(plan.sequence.overlaps))
        for number, overlap in enumerate(plan.sequence.overlaps):
            before = plan.sequence.overlaps[number - 1] if number else 0
            self.assertLessEqual(overlap, min(made[number].get("transition", {}).get("frames", 0), lengths[number + 1]))
            self.assertLessEqual(before + overlap, lengths[number])
        self.assertEqual((plan.edges[0], plan.edges[-1], len(plan.edges)), (0, plan.frames, len(plan.names) + 1))
        self.assertEqual(list(plan.edges), sorted(plan.edges))
        for number in range(plan.frames):
            for shown in shown_in(plan.node(number)):
                self.assertIn(shown.frame, range(24))

    def test_the_reason_is_a_sum_that_people_follow(self):
        fade = {"kind": "cross-dissolve", "frames": 12}
        made = reel(take("a", repeat=2, transition=fade), take("b", repeat=2))
        self.assertEqual(planned(made).reason, "2 × 240 − 12 = 468 frames = 19.5 s at 24 fps")
        fitted = planned(edited_reel(made, {"seconds": 12}))
        self.assertEqual(fitted.reason, "2 × 240 − 12 = 468 frames, fitted to 288 frames = 12 s at 24 fps")
        self.assertEqual([(cue.begin, cue.end) for cue in fitted.chapters], [(0, 141), (141, 288)])

    def test_one_take_alone_is_its_own_frames(self):
        plan = planned(reel(take()))
        self.assertEqual([plan.node(n).frame for n in range(plan.frames)], list(range(120)))

    def test_titles_gaps_groups_layouts_and_what_is_gone(self):
        group = {"kind": "group", "repeat": 3, "items": [take(frames=10), {"kind": "gap", "frames": 2}]}
        layout = {"kind": "layout", "cells": [{"item": take(), "offset": 24}, {"item": take("b", frames=30)}]}
        made = reel({"kind": "title", "text": "Tern Point", "seconds": 2}, group, layout, take("c", last=9))
        plan = plan_reel(made, {ref: None if ref.place == "c" else facts() for ref in made.refs()})
        self.assertEqual([track.count for track in plan.sequence.tracks], [48, 36, 144, 10])
        self.assertEqual(plan.node(48 + 10), Plain())
        self.assertEqual(plan.node(plan.frames - 1), MissingMedia("c"))
        early = plan.node(48 + 36).nodes
        self.assertEqual([one.frame for one in early], [0, 0], "what begins later waits on its first frame")
        found = {finding.name: finding for finding in reel_findings(plan)}
        self.assertIn("c cannot be opened", found["item-missing"].what)
        fixed = edited_reel(made, found["item-missing"].fixes[0].patch)
        self.assertEqual(len(fixed.items), 3)

    def test_a_group_that_is_repeated_as_fast_as_often_plays_twice(self):
        ten = facts(10, closes=False)
        group = {"kind": "group", "items": [take()], "repeat": 2, "speed": 2}
        plan = planned(reel(group), a=ten)
        self.assertEqual(plan.frames, 10)
        self.assertEqual([plan.node(n).frame for n in range(10)], [0, 2, 4, 6, 8] * 2)

    def test_a_loop_in_a_slowed_group_moves_on_to_its_first_frame(self):
        group = {"kind": "group", "items": [take(between="blend")], "speed": 0.5}
        plan = planned(reel(group), a=facts(10))
        self.assertEqual(plan.frames, 20)
        last = plan.node(19)
        self.assertEqual((last.one.frame, last.other.frame, last.share), (9, 0, 0.5))
        # What does not close stands still there, and so does what is held.
        self.assertEqual(planned(reel(group), a=facts(10, closes=False)).node(19).frame, 9)
        held = group | {"items": [take(between="blend", hold_end=2)]}
        self.assertEqual([planned(reel(held), a=facts(10)).node(n).frame for n in (18, 19, 20, 23)], [9, 9, 9, 9])

    def test_five_thousand_items(self):
        plan = planned(reel(*[take(last=1)] * 5000))
        self.assertEqual((plan.frames, plan.node(9_999).frame), (10_000, 1))
        many = planned(reel(*[take(last=1, frames=3)] * 5000))
        found = list(reel_findings(many))
        self.assertEqual((len(found), len([one for one in found if one.fixes])), (5000, 5000))
        self.assertLess(len(json.dumps(found[4999].fixes[0].patch)), 100, "a fix says what it changes, and no more")
        fixed = edited_reel(many.reel, found[4999].fixes[0].patch)
        self.assertIs(fixed.items[4998], many.reel.items[4998])
        self.assertNotEqual(fixed.items[4999], many.reel.items[4999])
        with self.assertRaisesRegex(Mistake, "5000"):
            reel(*[take()] * 5001)


class ItemsPatchTest(unittest.TestCase):
    def test_places_are_those_before_the_change(self):
        made = reel(*(take(str(n)) for n in range(4)))
        patch = {
            "change": {"3": {"first": 9}},
            "remove": [1],
            "insert": {"1": [{"kind": "gap"}], "4": [{"kind": "gap"}]},
        }
        changed = edited_reel(made, {"items": patch, "title": "Other"})
        names = [getattr(item, "take", item.kind) for item in changed.items]
        self.assertEqual((names, changed.title), (["0", "gap", "2", "3", "gap"], "Other"))
        self.assertEqual((changed.items[3].first, made.items[3].first), (9, 0))
        whole = {"items": [item.model_dump(mode="json") for item in changed.items], "title": "Other"}
        self.assertEqual(edited_reel(made, whole), changed)

    def test_what_is_wrong_is_a_sentence(self):
        made = reel(take("a"), take("b"))
        for patch, words in (
            ({"remove": [2]}, "there is no place 2; the reel has 2 items"), ({"change": {"-1": {}}}, "no place -1"),
            ({"insert": {"3": [{"kind": "gap"}]}}, "no place 3"), ({"insert": {"0": [{"kind": "odd"}]}}, "items.0"),
            ({"change": {"0": {"first": "x"}}}, "items.0: take.first"), ({"odd": 1}, "items: "),
            ({"insert": {"0": [{"kind": "gap"}] * 5000}}, "holds more than 5,000 items"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(Mistake, words):
                edited_reel(made, {"items": patch})


class TransitionTest(unittest.TestCase):
    def test_documents_with_the_older_names_are_read(self):
        older = [("cross-fade", "cross-dissolve"), ("colour", "dip-to-colour"), ("wipe", "wipe")]
        items = [take(joint={"kind": kind, "frames": 4}) for kind, _ in older]
        cells = [{"item": item} for item in items]
        # Values that are checked as JSON alone, beside older names.
        line = {"kind": "layout", "arrangement": "divided", "cells": cells[:2], "divider": [[0, 0], [1, 1]]}
        group = {"kind": "group", "items": items}
        read = read_reel(json.dumps({"title": "Hall", "width": 64, "height": 36, "items": [*items, group, line]}))
        self.assertEqual([one.transition.kind for one in (*read.items[:3], *read.items[3].items)], [
            newer for _, newer in older * 2
        ])  # fmt: skip
        self.assertNotIn("joint", read.model_dump_json())
        patched = edited_reel(read, {"items": {"change": {"0": {"joint": {"frames": 9}}}}})
        both = take(joint={"kind": "wipe", "frames": 2}, transition={"kind": "slide", "frames": 1})
        deep = "[" * 5000 + "]" * 5000
        for document, words in (
            (json.dumps({"title": "Hall", "items": [both]}), r"items\[0\].joint"),
            ('{"title": "joint", "joint": ' + deep + "}", "reel"),
        ):
            with self.assertRaisesRegex(Mistake, words):
                read_reel(document)
        newer = patched.items[0].transition
        self.assertEqual((newer.kind, newer.frames), ("cross-dissolve", 9))

    def test_within_a_fade_both_are_seen_and_neither_alone(self):
        plan = planned(reel(take("a", transition={"kind": "cross-dissolve", "frames": 3}), take("b")))
        shares = [plan.node(n).share for n in range(117, 120)]
        np.testing.assert_allclose(shares, [0.25, 0.5, 0.75])
        self.assertEqual([shown.frame for shown in shown_in(plan.node(118))], [118, 1])
        self.assertIsInstance(plan.node(116), Shown)

    def test_in_step_the_motion_goes_on(self):
        step = {"kind": "cross-dissolve", "frames": 12, "in_step": True}
        looks = [take("a", render_pass=name, last=47, transition=step) for name in ("shaded", "wire", "occlusion")]
        plan = planned(reel(*looks))
        self.assertEqual(plan.frames, 120)
        for number in range(120):
            self.assertEqual({shown.frame for shown in shown_in(plan.node(number))}, {number})
        other = planned(reel(take("a", transition=step), take("b")), b=facts(shot="other"))
        self.assertIn("motion-not-matched", [finding.name for finding in reel_findings(other)])

    def test_findings_say_what_a_press_fixes(self):
        cases = {
            "transition-too-long": (reel(take(frames=5, transition={"kind": "wipe", "frames": 9}), take("b")), {}),
            "frame-doubled": (reel(take(last=23), take(first=23)), {}),
            "frames-do-not-fit": (reel(take(seconds=4)), {}),
            "item-enlarged": (reel(take()), {"a": facts(size=(960, 540))}),
            "looks-differ": (reel(take(), take("b")), {"a": like(light="1"), "b": like(light="2")}),
            "label-unknown": (reel(take(), labels=[{"text": "{whorls:.1f}"}]), {}),
            "title-too-short": (reel({"kind": "title", "text": "The mooring buoy at Tern Point", "frames": 12}), {}),
        }
        for name, (made, known) in cases.items():
            with self.subTest(name):
                (finding,) = (one for one in reel_findings(planned(made, **known)) if one.name == name)
                for fix in finding.fixes:
                    again = planned(edited_reel(made, fix.patch), **known)
                    self.assertNotIn((name, finding.what), [(one.name, one.what) for one in reel_findings(again)])


class TrueFramesTest(unittest.TestCase):
    @given(st.integers(1, 3), st.integers(2, 200), st.booleans())
    def test_every_instant_is_met_exactly(self, repeat, frames, closes):
        made = reel(take(repeat=repeat if closes else 1, frames=frames, between="true"))
        plan = planned(made, a=facts(48, closes=closes))
        (wanted,) = true_frames(plan, {ref: facts(48, closes=closes) for ref in made.refs()}).values() or [None]
        turns, steps = (repeat, frames) if closes else (1, frames - 1)
        for number in range(frames):
            node = plan.node(number)
            phase = Fraction(number * turns, steps) % 1 if closes else Fraction(number, steps)
            if node.phase is None:
                self.assertEqual(Fraction(node.frame, 48 if closes else 47), phase)
            else:
                self.assertEqual(node.phase, phase)
                self.assertEqual(Fraction(wanted.number(phase), wanted.steps), phase)

    def test_a_shot_is_given_those_steps_and_its_blur_follows(self):
        shot = read_shot(json.dumps({
            "title": "A", "source": {"kind": "model", "file": "a.py"},
            "clock": {"rate": "24", "frames": 120, "shutter": "180°"},
        }))  # fmt: skip
        anew = edited(shot, true_motion(shot, 288, [0, 4, 8, 12])).clock.exact
        self.assertEqual((anew.motion, anew.shutter.opening), (288, 2))
        self.assertEqual(anew.instant(72).phase, Fraction(1, 4))
        with self.assertRaisesRegex(Mistake, "open for 8 steps"):
            true_motion(shot, 2880, [0, 16, 32])


class LayoutTest(unittest.TestCase):
    @given(
        st.sampled_from(["row", "column", "grid", "large"]), st.integers(1, 9), st.integers(0, 5),
        st.integers(64, 400), st.integers(64, 400),
    )  # fmt: skip
    def test_cells_tile_the_frame(self, arrangement, count, columns, width, height):
        layout = LayoutItem(
            kind="layout", arrangement=arrangement, columns=columns, cells=[{"item": {"kind": "gap"}}] * count
        )
        covered = np.zeros((height, width), int)
        for left, top, wide, high in cell_rects(layout, width, height):
            covered[top : top + high, left : left + wide] += 1
        self.assertTrue((covered == 1).all())


class LoudnessTest(unittest.TestCase):
    def test_the_standard_tone_and_another_meter(self):
        # ITU-R BS.1770-5, annex 1: 997 Hz at full scale in one front channel reads -3.01 LKFS.
        t = np.arange(5 * 48_000) / 48_000
        tone = np.zeros((2, len(t)), np.float32)
        tone[0] = np.sin(2 * np.pi * 997 * t)
        self.assertAlmostEqual(loudness(tone), -3.01, places=2)
        noise = np.random.default_rng(1).normal(0, 0.1, (2, 480_000)) * np.linspace(0.01, 1, 480_000)
        # EBU Tech 3341 lets meters differ by 0.1 LU.
        other = pyloudnorm.Meter(48_000).integrated_loudness(noise.T)
        self.assertAlmostEqual(loudness(noise.astype(np.float32)), other, delta=0.1)

    def test_gain_reaches_the_level_below_the_peak(self):
        noise = np.random.default_rng(2).normal(0, 0.02, (2, 240_000)).astype(np.float32)
        gain, note = gain_to(noise, -23.0)
        self.assertAlmostEqual(loudness(noise * np.float32(10 ** (gain / 20))), -23.0, places=2)
        self.assertEqual(note, "")
        gain, note = gain_to(noise, -6.0)
        self.assertIn("would lift peaks above -1 dBTP", note)
        self.assertAlmostEqual(true_peak(noise) + gain, -1.0, places=3)
        self.assertEqual(gain_to(np.zeros((2, 48_000), np.float32), -23)[0], 0)
        self.assertTrue(math.isfinite(true_peak(np.zeros((2, 10), np.float32))))


class DocumentTest(unittest.TestCase):
    def test_what_is_wrong_is_named_with_its_cure(self):
        for item, words in (
            (take(transition={"kind": "cut", "frames": 3}), "a cut lasts no frames"),
            (take(seconds=2, frames=3), "give either seconds or frames"),
            (take(seconds=2, speed=2), "fitted to a length already"),
            ({"kind": "group", "items": [take()], "seconds": 0}, "seconds"),
            ({"kind": "group", "items": []}, "items"),
            ({"kind": "layout", "arrangement": "divided", "cells": [{"item": take()}]}, "shows two items, not 1"),
            (take(frist=2), r"unknown key items\[0\].frist; did you mean first"),
        ):
            with self.subTest(words), self.assertRaisesRegex(Mistake, words):
                reel(item)
        blended = planned(reel(take(seconds=4, between="blend")))
        self.assertIsInstance(blended.node(1), Mixed)

    def test_an_item_that_asks_for_what_cannot_be_is_a_hole_and_the_others_are_there(self):
        wrong = (
            (take(first=500), "first frame 500 is outside the motion", {"Play all of it", "Remove the item"}),
            (take(seconds=4, between="refuse"), "between: refuse", {"Remove the item"}),
            (take(speed=2, between="refuse"), "between: refuse", {"Remove the item"}),
            ({"kind": "gap", "seconds": 0.001}, "less than half a frame", {"Remove the item"}),
            ({"kind": "group", "items": [take(last=500)]}, "last frame 500 is outside", {"Remove the item"}),
        )
        for item, said, fixes in wrong:
            with self.subTest(said):
                made = reel(take(), item)
                plan = planned(made)
                self.assertIsInstance(plan.node(0), Shown)
                self.assertIn(said, plan.node(120).why)
                (finding,) = (one for one in reel_findings(plan) if one.name == "item-missing")
                self.assertIn(said, finding.what)
                self.assertEqual({fix.label for fix in finding.fixes}, fixes)
                for fix in finding.fixes:
                    again = planned(edited_reel(made, fix.patch))
                    self.assertNotIn("item-missing", [one.name for one in reel_findings(again)])
        self.assertIsInstance(planned(reel(take(between="refuse"))).node(5), Shown)


class LabelTest(unittest.TestCase):
    def test_labels_say_dials_of_what_is_shown(self):
        grows = facts(24, closes=False, dials={"whorls": tuple(n / 10 for n in range(25))})
        made = reel(take("a", frames=47, between="true"), take("b", last=3), labels=[{"text": "{whorls:.2f} {item}"}])
        plan = planned(made, a=grows, b=facts())
        said = [plan.frame(number).labels[0].text for number in (0, 1, 2, 46, 47)]
        self.assertEqual(said, ["0.00 Shell", "0.05 Shell", "0.10 Shell", "2.30 Shell", "– Shell"])
        self.assertNotIn("label-unknown", [finding.name for finding in reel_findings(plan)])


class FlashTest(unittest.TestCase):
    """WCAG 2.2, 2.3.1: more than three flashes a second, over a quarter of a field of 10 degrees (341 of 1024 px)."""

    def watched(self, hertz, size=(ROWS, COLUMNS), low=0.0, high=1.0, colour=(1, 1, 1), fps=24):
        watch = FlashWatch(Fraction(fps))
        for number in range(3 * fps):
            picture = np.full((ROWS, COLUMNS, 3), low, np.float32)
            if int(number * hertz * 2 / fps) % 2 == 0:
                picture[: size[0], : size[1]] = np.array(colour, np.float32) * high
            watch.see(number, picture)
        return watch.found

    def test_more_than_three_a_second_over_a_large_part_is_told(self):
        self.assertEqual([one.red for one in self.watched(5)], [False])
        self.assertGreater(self.watched(5)[0].last, 60)
        self.assertEqual(self.watched(3), [])
        self.assertEqual([one.red for one in self.watched(5, high=0.07, colour=(1, 0, 0))], [True])

    def test_what_is_small_faint_or_bright_is_general(self):
        field = ROWS // 3, COLUMNS // 3
        self.assertEqual(self.watched(5, size=(field[0] // 2, field[1] // 3)), [])
        self.assertNotEqual(self.watched(5, size=(field[0], field[1] // 3)), [])
        self.assertEqual(self.watched(5, low=0.5, high=0.59), [])
        self.assertEqual(self.watched(5, low=0.85), [])


class MarkerTest(unittest.TestCase):
    @given(items, st.lists(st.integers(1, 4000), min_size=1, max_size=40))
    def test_cuts_lie_at_markers_once_they_are_laid_there(self, made, frames):
        before = reel(*made, markers=[{"frame": frame} for frame in frames])
        plan = planned(before, a=facts(24))
        try:
            after = planned(edited_reel(before, cuts_to_markers(plan)), a=facts(24))
        except Mistake:
            return
        cuts = [
            start + overlap // 2
            for start, overlap in zip(after.sequence.starts[1:], after.sequence.overlaps, strict=False)
        ]
        self.assertLessEqual(set(cuts), set(frames))
        self.assertEqual(cuts, sorted(set(cuts)))

    def test_an_item_is_trimmed_or_holds_its_last_frame(self):
        made = reel(take(), take(), take(), markers=[{"frame": 100}, {"frame": 250}])
        one, two, three = edited_reel(made, cuts_to_markers(planned(made))).items
        self.assertEqual((one.last, one.hold_end, two.last, two.hold_end, three.last), (99, 0, None, 30, None))
        for broken, said in (
            (reel(take(), markers=[{"frame": 9}]), "no cuts yet"),
            (reel(take(), take()), "no markers yet"),
            (reel(take(), take(), take(), markers=[{"frame": 9}]), "2 cuts and 1 markers"),
            (reel(take(), take(), seconds=3, markers=[{"frame": 9}]), "fitted to a length"),
            (reel(take(repeat=2, between="refuse"), take(), markers=[{"frame": 9}]), "between: refuse forbids"),
        ):
            with self.assertRaisesRegex(Mistake, said):
                cuts_to_markers(planned(broken))

    def test_beats_are_where_clicks_were_put(self):
        for beats_a_minute in (70, 100, 128, 160):  # tempos of the range that Ellis 2007 tracks
            times = np.arange(0.3, 11.5, 60 / beats_a_minute)
            found = np.array(beats_of(clicks(times)))
            for time in times[1:-1]:
                self.assertLess(np.abs(found - time).min(), 0.015, beats_a_minute)
            self.assertLessEqual(len(found), len(times) + 3)

    def test_noise_tones_and_silence_have_no_beats(self):
        rng, second = np.random.default_rng(2), np.arange(48_000 * 6) / 48_000
        tone = np.sin(2 * np.pi * 440 * second).astype(np.float32)
        noise, short = rng.normal(0, 0.1, (2, 288_000)).astype(np.float32), clicks([0.2, 0.5, 0.8])[:, :48_000]
        for samples in (noise, np.stack([tone, tone]), clicks([]), short):
            self.assertEqual(beats_of(samples), [])


def clicks(times):
    """Twelve seconds of faint noise with a short burst at each time."""
    rng = np.random.default_rng(1)
    samples = rng.normal(0, 0.01, 48_000 * 12)
    burst = np.exp(-np.arange(2880) / 576) * rng.normal(0, 0.5, 2880)
    for time in times:
        begin = round(time * 48_000)
        samples[begin : begin + 2880] += burst[: len(samples) - begin]
    return np.stack([samples, samples]).astype(np.float32)


class SubtitlesTest(unittest.TestCase):
    def test_labels_of_a_reel_as_subtitles(self):
        items = [{"kind": "title", "text": name, "frames": frames} for name, frames in (("One", 30), ("Two", 40))]
        labels = [{"text": "Tern Point"}, {"text": "{item}"}, {"text": "frame {frame}"}]
        document = {"title": "Hall", "rate": "24", "items": items, "labels": labels}
        found = plan_reel(read_reel(json.dumps(document)), {}).subtitles
        self.assertEqual(
            {(cue.text, cue.begin, cue.end) for cue in found},
            {("Tern Point", 0, 70), ("One", 0, 30), ("Two", 30, 70), ("frame 0", 0, 24), ("frame 24", 24, 30),
             ("frame 30", 30, 48), ("frame 48", 48, 70)},
        )  # fmt: skip


if __name__ == "__main__":
    unittest.main()
