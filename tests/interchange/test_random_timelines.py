"""Random timelines of OpenTimelineIO's own library: each frame of the reel shows what the timeline says there.

What a timeline says is worked out here from its documents alone (OpenTimelineIO 0.18, "Time in stacks and tracks",
`LinearTimeWarp`, `Transition`), without the reader: media time is the range's begin and the time that has passed since
the clip's begin, times the speed. A clip that is played backward shows its range from the end.
"""

import json
import random
import unittest
from fractions import Fraction
from math import ceil
from pathlib import Path

import opentimelineio as otio
from opentimelineio.opentime import RationalTime, TimeRange
from opentimelineio.schema import (
    Clip,
    ExternalReference,
    FreezeFrame,
    Gap,
    LinearTimeWarp,
    Timeline,
    Track,
    Transition,
)

from vexel.core.reel.media import MediaFacts
from vexel.core.reel.node import Mixed, Shown
from vexel.core.reel.reel_plan import plan_reel
from vexel.interchange.otio_reader import read_otio
from vexel.interchange.otio_writer import write_otio

TIMELINES = 300
RATES = (Fraction(24), Fraction(25), Fraction(30), Fraction(30000, 1001), Fraction(60))
SPEEDS = (1, 1, 1, 2, 3, 1.5, 0.5, -1, -2, -0.5, 0)
LENGTH = 400


def time(frames, rate):
    return RationalTime(float(frames), float(rate))


class Written:
    """A timeline, and its clips with their places."""

    def __init__(self, seed):
        chance = random.Random(seed)
        self.rate = chance.choice(RATES)
        self.parts = []
        self.transitions = {}
        begin = 0
        for number in range(chance.randint(1, 6)):
            frames = chance.randint(6, 40)
            clip = None
            if number == 0 or chance.random() < 0.85:
                media = chance.choice(RATES) if chance.random() < 0.3 else self.rate
                clip = (f"m{number}.mov", media, chance.choice((0, 0, 1001, 90000)), chance.choice(SPEEDS),
                        chance.randint(90, 150), chance.random() < 0.1)  # fmt: skip
            self.parts.append((begin, frames, clip))
            begin += frames
        self.count = begin
        for number in range(len(self.parts) - 1):
            if chance.random() < 0.4:
                # Not so long that two transitions of one clip meet.
                self.transitions[number] = chance.randint(0, 2), chance.randint(1, 3)

    def timeline(self):
        track = Track("V", kind="Video")
        for number, (_, frames, clip) in enumerate(self.parts):
            if clip is None:
                track.append(Gap(source_range=TimeRange(time(0, self.rate), time(frames, self.rate))))
            else:
                file, media, offset, speed, first, disabled = clip
                available = TimeRange(time(offset, media), time(LENGTH, media))
                span = TimeRange(time(offset + first, media), time(frames, self.rate))
                made = Clip(f"c{number}", ExternalReference(file, available), span)
                made.enabled = not disabled
                if speed == 0:
                    made.effects.append(FreezeFrame())
                elif speed != 1:
                    made.effects.append(LinearTimeWarp(time_scalar=float(speed)))
                track.append(made)
            if number in self.transitions:
                before, after = self.transitions[number]
                track.append(Transition("x", "SMPTE_Dissolve", time(before, self.rate), time(after, self.rate)))
        timeline = Timeline("Cut")
        timeline.tracks.append(track)
        return timeline

    def shown(self, number, frame):
        """File and place in it that a part shows at a frame of the whole; None where nothing is."""
        begin, frames, clip = self.parts[number]
        if clip is None or clip[5]:
            return None
        file, media, _, speed, first, _ = clip
        passed = frame - begin
        if speed < 0:
            passed = frames - 1 - passed
        return file, first + passed * abs(Fraction(speed)) * media / self.rate

    def at(self, frame):
        """What is seen at a frame: of one part, or of two within a transition."""
        for number, (before, after) in self.transitions.items():
            cut = self.parts[number + 1][0]
            if cut - before <= frame < cut + after:
                return [self.shown(number, frame), self.shown(number + 1, frame)]
        number = max(n for n, (begin, _, _) in enumerate(self.parts) if begin <= frame)
        return [self.shown(number, frame)]


def leaves(node):
    if isinstance(node, Mixed):
        return [*leaves(node.one), *leaves(node.other)]
    return [(node.ref.place, node.frame) if isinstance(node, Shown) else None]


class RandomTimelinesTest(unittest.TestCase):
    def compared(self, written, reel, within=0):
        """How far frames of a reel's plan are from those that the timeline says, at most; None for other parts."""
        rates = {clip[0]: clip[1] for _, _, clip in written.parts if clip}
        known = {ref: MediaFacts(LENGTH, rates[ref.place], 64, 36) for ref in reel.refs()}
        plan = plan_reel(reel, known)
        self.assertEqual(plan.frames, written.count)
        apart = 0
        for frame in range(plan.frames):
            planned, found = written.at(frame), leaves(plan.frame(frame).node)
            self.assertEqual([one and one[0] for one in planned], [one and one[0] for one in found], frame)
            for one, other in zip(planned, found, strict=True):
                if one is not None:
                    # Of two that are as near either; speeds and times are told as floats in the file.
                    near = {ceil(one[1] - Fraction(1, 2) + small) for small in (Fraction(-1, 1000), Fraction(1, 1000))}
                    apart = max(apart, min(abs(other[1] - number) for number in near))
        return plan, apart

    def test_each_frame_is_what_the_timeline_says_and_again_after_writing(self):
        exact = 0
        for seed in range(TIMELINES):
            with self.subTest(seed=seed):
                written = Written(seed)
                text = otio.adapters.write_to_string(written.timeline(), "otio_json")
                reel, notes = read_otio(text, "cut.otio")
                plan, apart = self.compared(written, reel)
                rounded = any("fitted" in note or "rounded" in note for note in notes)
                self.assertLessEqual(apart, 1 if rounded else 0, notes)
                exact += not rounded
                again, _ = write_otio(plan, lambda ref: Path(ref.place), Path())
                bare = json.loads(again, object_hook=without_ours)
                self.compared(written, read_otio(json.dumps(bare), "again.otio")[0])
                self.assertEqual(read_otio(again, "again.otio")[0].items, reel.items)
        self.assertGreater(exact, TIMELINES // 2)

    def test_a_wrong_frame_is_noticed(self):
        written = Written(1)
        reel, _ = read_otio(otio.adapters.write_to_string(written.timeline(), "otio_json"), "cut.otio")
        moved = reel.model_copy(update={"items": [
            item.model_copy(update={"first": item.first + 1, "last": item.last + 1}) if hasattr(item, "first") else item
            for item in reel.items
        ]})  # fmt: skip
        self.assertGreaterEqual(self.compared(written, moved)[1], 1)


def without_ours(value):
    if isinstance(value.get("metadata"), dict):
        value["metadata"].pop("vexel", None)
    return value


if __name__ == "__main__":
    unittest.main()
