"""Reels for other programs: timelines by the library of OpenTimelineIO, edit lists by another reader, and tables."""

import csv
import io
import json
import unittest
from dataclasses import replace
from fractions import Fraction

import cv2
import numpy as np
import opentimelineio as otio
from otio_cmx3600_adapter import cmx_3600 as edit_lists

from tests.helpers import scratch, vexel
from vexel.core.errors import Mistake
from vexel.core.reel.item_spec import StillsItem, TitleItem
from vexel.core.reel.media import MediaFacts
from vexel.core.reel.reel_plan import plan_reel
from vexel.core.reel.reel_spec import read_reel
from vexel.interchange.cut_list import cmx3600, cut_table
from vexel.interchange.otio_reader import read_otio
from vexel.interchange.otio_writer import write_otio

FADE = {"kind": "cross-dissolve", "frames": 12}
ITEMS = [
    {"kind": "title", "text": "Tern Point", "seconds": 2, "transition": {"kind": "dip-to-colour", "frames": 6}},
    {"kind": "stills", "file": "shell", "rate": "24", "first": 4, "last": 99, "transition": FADE},
    {"kind": "stills", "file": "light", "rate": "24", "speed": 2, "order": "backward", "transition": FADE},
    {"kind": "gap", "frames": 30},
    {"kind": "layout", "cells": [{"item": {"kind": "stills", "file": "shell"}}]},
]


def planned(items=ITEMS, **parts):
    reel = read_reel(json.dumps({"title": "Hall", "items": items} | parts))
    facts = MediaFacts(120, Fraction(24), 1920, 1080, True, "Shell")
    return reel, plan_reel(reel, dict.fromkeys(reel.refs(), facts))


class TimelineTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)
        for name in ("shell", "light"):
            (self.folder / name).mkdir()
            for n in range(3):
                cv2.imwrite(str(self.folder / name / f"{name}.{n:04d}.png"), np.zeros((9, 16, 3), np.uint8))

    def place(self, ref):
        return next(iter(sorted((self.folder / ref.place).iterdir())))

    def test_the_library_reads_what_was_written(self):
        sound = [{"file": "tide.wav", "at": 1, "seconds": 3.5}]
        reel, plan = planned(sound=sound, markers=[{"frame": 48, "name": "beat"}])
        text, notes = write_otio(plan, self.place, self.folder)
        timeline = otio.adapters.read_from_string(text, "otio_json")
        (track,) = timeline.video_tracks()
        self.assertEqual(track.duration().to_frames(), plan.frames)
        overlaps = [one.in_offset.value + one.out_offset.value for one in track if one.overlapping()]
        self.assertEqual(overlaps, [6, 12, 12])
        shell, light = (clip for clip in track.find_clips() if clip.name == "Shell")
        self.assertEqual(shell.media_reference.target_url_base, "shell")
        self.assertEqual(shell.media_reference.target_url_for_image_number(5), "shell/shell.0005.png")
        self.assertEqual(shell.source_range.start_time.value, 4 + 3)
        self.assertEqual(light.effects[0].time_scalar, -2)
        (audio,) = timeline.audio_tracks()
        self.assertEqual([one.duration().to_seconds() for one in audio], [1, 3.5])
        self.assertIn("Layout: the layout is kept in its metadata alone", notes)
        again, left = read_otio(text, "hall.otio")
        self.assertEqual((again, left), (reel, []))
        older = text.replace('"transition": {', '"joint": {').replace('"cross-dissolve"', '"cross-fade"')
        self.assertNotEqual(older, text)
        self.assertEqual(read_otio(older.replace('"dip-to-colour"', '"colour"'), "hall.otio")[0], reel)

    def test_a_timeline_of_elsewhere_becomes_a_reel(self):
        time, span = otio.opentime.RationalTime, otio.opentime.TimeRange
        first = otio.schema.Track("V1")
        there = span(time(1001, 24), time(240, 24))
        images = otio.schema.ImageSequenceReference(
            "file:///renders/my%20shell", "shell.", ".exr", 1001, 1, 24, 4, available_range=there
        )
        first.append(otio.schema.Clip("Shell", images, span(time(1011, 24), time(48, 24))))
        first.append(otio.schema.Transition("x", otio.schema.TransitionTypes.SMPTE_Dissolve, time(4, 24), time(8, 24)))
        film = otio.schema.ExternalReference("tide.mov", span(time(0, 30), time(300, 30)))
        fast = otio.schema.Clip("Tide", film, span(time(60, 30), time(36, 24)))
        fast.effects.append(otio.schema.LinearTimeWarp(time_scalar=2))
        first.extend([fast, otio.schema.Gap(source_range=span(time(0, 24), time(10, 24)))])
        over = otio.schema.Track("V2")
        over.append(otio.schema.Clip("Logo", otio.schema.MissingReference(), span(time(0, 24), time(5, 24))))
        sound = otio.schema.Track("A1", kind=otio.schema.TrackKind.Audio)
        sound.append(otio.schema.Gap(source_range=span(time(0, 24), time(24, 24))))
        wave = otio.schema.ExternalReference("sea.wav", span(time(0, 48_000), time(480_000, 48_000)))
        sound.append(otio.schema.Clip("Sea", wave, span(time(48_000, 48_000), time(96_000, 48_000))))
        timeline = otio.schema.Timeline("Cut")
        timeline.tracks.extend([first, over, sound])
        reel, notes = read_otio(otio.adapters.write_to_string(timeline, "otio_json"), "cut.otio")
        shell, tide, gap = reel.items
        self.assertEqual(shell.file, "/renders/my shell/shell.%04d.exr")
        self.assertEqual((shell.first, shell.last), (10, 10 + 48 + 8 - 1))
        self.assertEqual((shell.transition.kind, shell.transition.frames, gap.frames), ("cross-dissolve", 12, 10))
        # 36 frames at 24 a second and 4 within the transition, at twice 30: the last is 97.5 after the first.
        self.assertEqual((tide.file, tide.first, tide.last, tide.speed), ("tide.mov", 60 - 10, 60 - 10 + 98, 2))
        self.assertEqual((reel.sound[0].at, reel.sound[0].first, reel.sound[0].seconds), (1, 1, 2))
        self.assertIn("1 further track of pictures lies over the first and left out", notes[0])
        facts = MediaFacts(300, Fraction(24), 64, 36)
        known = {ref: facts if ref.kind == "stills" else replace(facts, rate=Fraction(30)) for ref in reel.refs()}
        self.assertEqual(plan_reel(reel, known).frames, 48 + 36 + 10)

    def test_what_is_no_timeline_is_said(self):
        for text in ("{", '{"OTIO_SCHEMA": "Clip.1"}', "[]"):
            with self.assertRaisesRegex(Mistake, "cut.otio"):
                read_otio(text, "cut.otio")


class ListTest(unittest.TestCase):
    def test_what_is_played_backward_begins_at_its_end(self):
        items = [{"kind": "stills", "file": "shell", "rate": "24", "first": 20, "last": 59, "order": "backward"},
                 {"kind": "stills", "file": "light", "rate": "24", "first": 20, "last": 59, "speed": 2}]  # fmt: skip
        _, plan = planned(items)
        self.assertEqual([plan.frame(n).node.frame for n in (0, 39)], [59, 20])
        rows = list(csv.DictReader(io.StringIO(cut_table(plan))))
        self.assertEqual([row["source_frame"] for row in rows], ["59", "20"])
        text, _ = cmx3600(plan)
        (track,) = edit_lists.read_from_string(text, rate=24).video_tracks()
        self.assertEqual([clip.source_range.start_time.to_frames() for clip in track], [20, 20])
        self.assertEqual(track[1].effects[0].effect_name, "LinearTimeWarp")
        # Common practice: a negative speed, and the frame at which it begins.
        self.assertIn("M2   SHELL    -024.0                00:00:02:11", text)

    def test_another_reader_finds_the_same_cuts(self):
        _, plan = planned()
        text, notes = cmx3600(plan)
        timeline = edit_lists.read_from_string(text, rate=24)
        (track,) = timeline.video_tracks()
        self.assertEqual(track.duration().to_frames(), plan.frames)
        self.assertEqual([clip.name for clip in track.find_clips()], list(plan.names))
        self.assertIn("Shell: its dip-to-colour is written as a dissolve", notes)

    def test_frames_are_dropped_from_the_count_where_the_rate_drops_them(self):
        _, plan = planned(rate="30000/1001")
        text, _ = cmx3600(plan)
        self.assertIn("FCM: DROP FRAME", text)
        # SMPTE ST 12-1: drop-frame counting agrees with the clock at each hour.
        self.assertIn(" 01:00:00;00 ", text)

    def test_the_table_adds_up(self):
        _, plan = planned()
        rows = list(csv.DictReader(io.StringIO(cut_table(plan))))
        self.assertEqual(sum(int(row["frames"]) for row in rows), plan.frames)
        self.assertEqual([row["first_frame"] for row in rows], [str(start) for start in plan.starts])

    def test_by_command(self):
        folder = scratch(self)
        (folder / "r.json").write_text(
            json.dumps({"title": "Hall", "items": [{"kind": "title", "text": "x", "frames": 24}]})
        )
        outputs = [part for name in ("r.otio", "r.edl", "r.csv") for part in ("-o", folder / name)]
        self.assertEqual(vexel("reel", folder / "r.json", *outputs).returncode, 0)
        back = vexel("reel", "--from", folder / "r.otio", "-o", folder / "back.json")
        self.assertEqual(back.returncode, 0, back.stderr)
        (item,) = read_reel((folder / "back.json").read_text()).items
        self.assertIsInstance(item, TitleItem)
        self.assertNotIsInstance(item, StillsItem)
        self.assertIn("is there already", vexel("reel", folder / "r.json", "-o", folder / "r.edl").stderr)
        self.assertEqual(vexel("reel", "-o", folder / "a.mp4").returncode, 2)


if __name__ == "__main__":
    unittest.main()
