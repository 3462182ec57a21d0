"""Timelines as other programs write them, and as nobody should: each is imported, or refused in a sentence."""

import json
import random
import unittest

import opentimelineio as otio
from opentimelineio.opentime import RationalTime, TimeRange
from opentimelineio.schema import (
    Clip,
    ExternalReference,
    FreezeFrame,
    Gap,
    GeneratorReference,
    ImageSequenceReference,
    LinearTimeWarp,
    Marker,
    MissingReference,
    SerializableCollection,
    Stack,
    Timeline,
    Track,
    Transition,
)

from vexel.core.errors import VexelError
from vexel.interchange.otio_reader import read_otio
from vexel.workers.foreign_files import read_timeline

NAN, INFINITE = float("nan"), float("inf")
MUTANTS = 300


def span(start, length, rate=24.0):
    return TimeRange(RationalTime(start, rate), RationalTime(length, rate))


def clip(name="a", source=None, media=None, available=None, **more):
    reference = media if media is not None else ExternalReference(f"{name}.mov", available)
    return Clip(name, reference, source, **more)


def timeline(*children, name="Cut", sounds=(), **more):
    made = Timeline(name, **more)
    made.tracks.append(Track("V", children=list(children), kind="Video"))
    if sounds:
        made.tracks.append(Track("A", children=list(sounds), kind="Audio"))
    return made


def written(thing):
    return otio.adapters.write_to_string(thing, "otio_json")


WHOLE = span(0, 48)
ODD = {
    # What each is, and how many items come of it.
    "no ranges": (timeline(clip()), 1),
    "no ranges, two": (timeline(clip("a"), clip("b", WHOLE)), 2),
    "missing media": (timeline(clip(media=MissingReference(), source=WHOLE)), 1),
    "missing media, no ranges": (timeline(clip(media=MissingReference())), 1),
    "no media at all": (timeline(Clip("a")), 1),
    "rate 0": (timeline(clip(source=span(0, 48, 0.0))), 1),
    "rate NaN": (timeline(clip(source=span(0, 48, NAN))), 1),
    "rate infinite": (timeline(clip(source=span(0, 48, INFINITE))), 1),
    "rate negative": (timeline(clip(source=span(0, 48, -24.0))), 1),
    "rate 1e-300": (timeline(clip(source=span(0, 48, 1e-300))), 1),
    "rate 1e300": (timeline(clip(source=span(0, 48, 1e300))), 1),
    "length NaN": (timeline(clip(source=span(0, NAN))), 1),
    "length negative": (timeline(clip(source=span(0, -5))), 1),
    "length 0": (timeline(clip(source=span(0, 0))), 1),
    "length 1e300": (timeline(clip(source=span(0, 1e300))), 1),
    "starts before its media": (timeline(clip(source=span(-50, 10), available=span(100, 10))), 1),
    "starts after its media": (timeline(clip(source=span(500, 10), available=WHOLE)), 1),
    "start NaN": (timeline(clip(source=span(NAN, 10))), 1),
    "rates differ": (timeline(clip(source=span(0, 50, 25.0), available=span(0, 60, 30.0)), clip("b", WHOLE)), 2),
    "warp 0": (timeline(clip(source=WHOLE, effects=[LinearTimeWarp(time_scalar=0.0)])), 1),
    "warp NaN": (timeline(clip(source=WHOLE, effects=[LinearTimeWarp(time_scalar=NAN)])), 1),
    "warp backwards": (timeline(clip(source=WHOLE, effects=[LinearTimeWarp(time_scalar=-2.0)])), 1),
    "freeze": (timeline(clip(source=WHOLE, effects=[FreezeFrame()])), 1),
    "transition longer than its clips": (
        timeline(clip("a", span(0, 5)), Transition(in_offset=RationalTime(90, 24), out_offset=RationalTime(90, 24)),
                 clip("b", span(0, 5))), 2),
    "transition first": (timeline(Transition(in_offset=RationalTime(3, 24)), clip()), 1),
    "transition last": (timeline(clip(source=WHOLE), Transition(in_offset=RationalTime(3, 24),
                                                                out_offset=RationalTime(3, 24))), 2),
    "transition NaN": (timeline(clip(source=WHOLE), Transition(in_offset=RationalTime(NAN, 24)), clip("b", WHOLE)), 2),
    "transition negative": (
        timeline(clip(source=WHOLE), Transition(in_offset=RationalTime(-9, 24), out_offset=RationalTime(-9, 24)),
                 clip("b", WHOLE)), 2),
    "two transitions": (timeline(clip(source=WHOLE), Transition(), Transition(), clip("b", WHOLE)), 2),
    "gap of nothing": (timeline(Gap(), clip(source=WHOLE)), 2),
    "nested": (timeline(Stack(children=[Track("t", [clip(source=WHOLE)])]), clip("b", WHOLE)), 2),
    "nested and empty": (timeline(Stack(), clip("b", WHOLE)), 2),
    "generator": (timeline(clip(media=GeneratorReference("bars", "SMPTEBars"), source=WHOLE)), 1),
    "generator, no range": (timeline(clip(media=GeneratorReference("bars", "SMPTEBars"))), 1),
    "images": (timeline(clip(media=ImageSequenceReference("file:///x/", "a.", ".png", 1), source=WHOLE)), 1),
    "images, no folder": (timeline(clip(media=ImageSequenceReference(), source=WHOLE)), 1),
    "empty address": (timeline(clip(media=ExternalReference(""), source=WHOLE)), 1),
    "long address": (timeline(clip(media=ExternalReference("x" * 5000), source=WHOLE)), 1),
    "long name": (timeline(clip(source=WHOLE), name="n" * 5000), 1),
    "no name": (timeline(clip(name="", media=ExternalReference("a.mov"), source=WHOLE), name=""), 1),
    "zero byte": (timeline(clip(media=ExternalReference("a\0b.mov"), source=WHOLE)), 1),
    "empty": (timeline(), 0),
    "no tracks": (Timeline("Cut"), 0),
    "foreign metadata": (timeline(clip(source=WHOLE, metadata={"vexel": "other"}), metadata={"vexel": [1]}), 1),
    "foreign reel": (timeline(clip(source=WHOLE), metadata={"vexel": {"reel": {"nothing": 1}}}), 1),
    "foreign rate": (timeline(clip(source=WHOLE), metadata={"vexel": {"reel": {"rate": "quick"}}}), 1),
    "foreign item": (timeline(clip(source=WHOLE, metadata={"vexel": {"item": {"kind": "take"}}})), 1),
    "foreign transition": (timeline(clip(source=WHOLE), Transition(in_offset=RationalTime(3, 24),
                               metadata={"vexel": {"transition": {"kind": "odd"}}}), clip("b", WHOLE)), 2),
    "marker without a range": (
        timeline(clip(source=WHOLE)), 1),
    "sound": (timeline(clip(source=WHOLE), sounds=[clip("s", span(0, 48))]), 1),
    "sound without a range": (timeline(clip(source=WHOLE), sounds=[clip("s")]), 1),
    "sound NaN": (timeline(clip(source=WHOLE), sounds=[clip("s", span(NAN, 48))]), 1),
    "sound after a gap of no length": (timeline(clip(source=WHOLE), sounds=[Gap(), clip("s", span(0, 48))]), 1),
    "sound without media": (timeline(clip(source=WHOLE), sounds=[Clip("s")]), 1),
    "disabled": (timeline(clip(source=WHOLE)), 1),
    "5,001 items": (timeline(*[clip(str(n), WHOLE) for n in range(5001)]), None),
    "collection": (SerializableCollection("all", [timeline(clip(source=WHOLE)), timeline(name="Other")]), 1),
    "collection of none": (SerializableCollection("none", []), None),
    "a clip alone": (clip(source=WHOLE), None),
    "start NaN of all": (timeline(clip(), global_start_time=RationalTime(0, NAN)), 1),
}  # fmt: skip
ODD["disabled"][0].tracks[0][0].enabled = False
ODD["marker without a range"][0].tracks[0].markers.append(Marker("m", marked_range=TimeRange()))
BROKEN = {
    "no tracks": lambda d: d.pop("tracks"),
    "tracks null": lambda d: d.update(tracks=None),
    "tracks a number": lambda d: d.update(tracks=7),
    "children null": lambda d: d["tracks"].update(children=None),
    "a child null": lambda d: d["tracks"]["children"][0]["children"].append(None),
    "a child a text": lambda d: d["tracks"]["children"][0]["children"].append("x"),
    "a schema unknown": lambda d: d["tracks"]["children"][0]["children"][0].update(OTIO_SCHEMA="Odd.9"),
    "a schema of tomorrow": lambda d: d.update(OTIO_SCHEMA="Timeline.99"),
    "no schema": lambda d: d.pop("OTIO_SCHEMA"),
    "effects null": lambda d: d["tracks"]["children"][0]["children"][0].update(effects=None),
    "range a text": lambda d: d["tracks"]["children"][0]["children"][0].update(source_range="x"),
    "name a number": lambda d: d.update(name=7),
    "metadata null": lambda d: d.update(metadata=None),
    "rate a text": lambda d: d["tracks"]["children"][0]["children"][0]["source_range"]["duration"].update(rate="24"),
    "rate null": lambda d: d["tracks"]["children"][0]["children"][0]["source_range"]["duration"].update(rate=None),
}


class OddTimelinesTest(unittest.TestCase):
    def read(self, text):
        """What came of a timeline; a sentence where it is refused."""
        try:
            return read_timeline("cut.otio", text.encode("utf-8", "surrogatepass"))
        except VexelError as error:
            self.assertNotIn("Traceback", str(error))
            return str(error)

    def test_each_is_imported_or_refused_in_a_sentence(self):
        for name, (thing, items) in ODD.items():
            with self.subTest(name):
                try:
                    reel, _ = read_otio(written(thing), "cut.otio")
                    came = len(reel.items)
                except VexelError as error:
                    came = None
                    self.assertRegex(str(error), "cut.otio")
                self.assertEqual(came, items)

    def test_what_is_skipped_is_listed(self):
        for name, words in (
            ("rate NaN", "no clip has a usable rate, so the reel has 24 fps"),
            ("no ranges", "a: its range of media frames is not given, so it shows all of them"),
            ("no media at all", "a: it names no file, so a is looked for beside the reel"),
            ("length 1e300", "a is skipped, since it cannot be read"),
            ("sound NaN", "the sound s is skipped, since it cannot be read: its times are no numbers"),
            ("foreign reel", "what Vexel kept in its metadata is not valid, and is ignored"),
            ("collection", "cut.otio holds 2 timelines, and the first is imported"),
            ("nested and empty", "Stack holds no pictures, so a gap is in its place"),
            ("warp NaN", "a: its speed is no number, so it plays at its own"),
            ("disabled", "a is disabled, so a gap is in its place"),
        ):
            _, notes = read_otio(written(ODD[name][0]), "cut.otio")
            self.assertIn(words, "; ".join(notes), name)

    def test_each_part_of_a_timeline_is_kept(self):
        marked = clip("a", span(110, 20), available=span(100, 300))
        marked.markers.append(Marker("hit", marked_range=span(115, 0)))
        frozen = clip("b", span(7, 12), available=span(0, 300), effects=[FreezeFrame()])
        inner = Track("t", [clip("c", WHOLE, available=span(0, 300)), clip("d", span(5, 10), available=span(0, 300))])
        nested = Stack("n", [inner], source_range=span(40, 12))
        heard = clip("s", span(86400 + 48, 24), available=span(86400, 480))
        made = timeline(marked, frozen, nested, sounds=[Gap(source_range=span(0, 10)), heard])
        made.tracks.markers.append(Marker("beat", marked_range=span(3, 0)))
        made.tracks[0].source_range = span(2, 42)
        reel, notes = read_otio(written(made), "cut.otio")
        self.assertEqual(notes, [])
        one, two, three = reel.items
        # Of the track the first two frames are cut off.
        self.assertEqual((one.first, one.last), (12, 29))
        self.assertEqual((two.first, two.last, two.frames), (7, 7, 12))
        self.assertEqual([(item.first, item.last) for item in three.items], [(40, 47), (5, 8)])
        self.assertEqual([(mark.frame, mark.name) for mark in reel.markers], [(3, "beat"), (3, "hit")])
        self.assertEqual((reel.sound[0].at, reel.sound[0].first), (10 / 24, 2))

    def test_each_part_that_is_left_out_is_listed(self):
        other = clip("a", span(86400, 20))
        images = ImageSequenceReference("x/", "i.", ".png", 1, 2, 24, 4, available_range=WHOLE)
        stepped = clip("b", WHOLE, media=images, effects=[otio.schema.Effect("glow", "Glow")])
        bars = clip("c", WHOLE, media=GeneratorReference("bars", "SMPTEBars"))
        wiped = Transition("w", "Wipe_Transition", RationalTime(3, 24), RationalTime(3, 24))
        far = clip("d", span(40, 20), available=WHOLE)
        made = timeline(other, stepped, wiped, bars, far, sounds=[clip("s", span(86400, 24)), Clip("t")])
        made.tracks.append(Track("text", kind="Data"))
        hidden = Track("V2", [clip("e", WHOLE)])
        hidden.enabled = False
        made.tracks.append(hidden)
        made.tracks.effects.append(otio.schema.Effect("grade"))
        made.global_start_time = RationalTime(86400, 24)
        _, notes = read_otio(written(made), "cut.otio")
        for words in (
            "a: its media does not say at which time it begins, so frame 86,400 is counted from its first",
            "b: its images are numbered in steps of 2", "b: Effect is left out",
            "the transition after b, Wipe_Transition, is imported as a cross-dissolve",
            "c: what generates it, SMPTEBars, is a title with its name",
            "d extends beyond its media by 12 of the reel's frames: its end is frozen there",
            "the sound s does not say at which time its file begins", "the sound t names no file, so it is left out",
            "the track text, of kind Data, is left out", "the track V2 is disabled, so it is left out",
            "effects of the whole are left out: Effect", "the time at which it begins is left out",
        ):  # fmt: skip
            self.assertIn(words, "; ".join(notes))

    def test_what_follows_a_skipped_clip_begins_when_it_did(self):
        made = timeline(clip("a", WHOLE), clip("b", WHOLE, effects=[LinearTimeWarp(time_scalar=1e9)]), clip("c", WHOLE))
        reel, notes = read_otio(written(made), "cut.otio")
        self.assertEqual([item.kind for item in reel.items], ["clip", "gap", "clip"], notes)
        self.assertEqual(reel.items[1].frames, 48)

    def test_what_ends_a_native_reader_ends_no_more(self):
        """Each of these ended the process that read it, or may."""
        plain = json.loads(written(timeline(clip(source=WHOLE), clip("b", WHOLE))))
        for name, harm in BROKEN.items():
            with self.subTest(name):
                document = json.loads(json.dumps(plain))
                harm(document)
                came = self.read(json.dumps(document))
                self.assertTrue(isinstance(came, tuple) or "cut.otio" in came, came)
        for name, text in (("deep", "[" * 200_000), ("empty", ""), ("a number", "7"), ("null", "null")):
            with self.subTest(name):
                self.assertIn("cut.otio", self.read(text))
        self.assertIn("too much for a timeline", self.read(" " * 32_000_001))

    def test_random_damage(self):
        chance = random.Random(28)
        texts = [written(thing) for name, (thing, _) in ODD.items() if name != "5,001 items"]
        for _ in range(MUTANTS):
            document = json.loads(chance.choice(texts))
            for _ in range(chance.randint(1, 3)):
                _damage(document, chance)
            try:
                read_otio(json.dumps(document), "cut.otio")
            except VexelError as error:
                self.assertIn("cut.otio", str(error))


def _damage(document, chance):
    """Change one value somewhere in a document, but not to what ends the native reader."""
    place = document
    while True:
        key = chance.choice(list(place) if isinstance(place, dict) else range(len(place)))
        value = place[key]
        if isinstance(value, dict | list) and value and chance.random() < 0.8:
            place = value
        elif key not in ("OTIO_SCHEMA", "children", "tracks", "effects", "markers") and not isinstance(
            value, dict | list
        ):
            place[key] = chance.choice([0, -1, 1e300, 2**63, "", "x" * 300, "../../x", True])
            return
        else:
            return


if __name__ == "__main__":
    unittest.main()
