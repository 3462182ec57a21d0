"""Recipes as documents, and what comes of them before a file is made: sizes, rates, levels and names."""

import json
import unittest
from datetime import date
from fractions import Fraction

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from vexel.core.document.shot import edited, read_shot
from vexel.core.edits.at_rate import at_rate
from vexel.core.errors import Mistake
from vexel.core.evaluate.cues import chapters_of, subtitles_of
from vexel.core.recipes.byte_size import read_bytes, said_bytes
from vexel.core.recipes.colour_tags import to_primaries, to_rgb
from vexel.core.recipes.cue import Cue, cues_on, read_webvtt, webvtt
from vexel.core.recipes.file_names import file_names
from vexel.core.recipes.form import sides_step
from vexel.core.recipes.frame_size import SmallerFrames, fitted
from vexel.core.recipes.gif_options import gif_options
from vexel.core.recipes.recipe import read_recipe
from vexel.core.recipes.retiming import timeline_of
from vexel.core.recipes.shipped import RECIPES
from vexel.core.recipes.video_levels import level_for
from vexel.core.time.rate import Rate


def changed(name, **parts):
    return read_recipe(json.dumps(RECIPES[name].model_dump(exclude_defaults=True) | parts))


class DocumentTest(unittest.TestCase):
    def test_ours_are_documents_like_any_other(self):
        for recipe in RECIPES.values():
            self.assertEqual(read_recipe(recipe.model_dump_json(exclude_defaults=True)), recipe)
            self.assertTrue(recipe.about, recipe.name)

    def test_what_is_wrong_is_named_with_its_cure(self):
        for parts, words in (
            ({"codec": "h246"}, "mp4 does not hold 'h246'; did you mean h26"),
            ({"container": "mpeg"}, "unknown container 'mpeg'"),
            ({"pixels": "yuv999"}, "mp4 h264 has no pixel format 'yuv999'"),
            ({"qualty": {}}, "unknown key qualty; did you mean quality?"),
            ({"quality": {"level": 60}}, "goes from 0 (best) to 51"),
            ({"quality": {"level": 20, "at_most": "8 MB"}}, "one of level, kilobits and at_most"),
            ({"quality": {"at_most": "8"}}, "less than a kilobyte"),
            ({"timing": {"rate": "0"}}, "rate 0"),
            ({"sound": {"file": "a.wav", "codec": "opus"}}, "holds sound as aac, not opus"),
            ({"ground": "black"}, "is not a colour such as #2b2f33"),
            ({"size": {"long_side": 640, "width": 320}}, "not both"),
            ({"compatible": True, "pixels": "yuv444p"}, "8-bit 4:2:0"),
        ):
            with self.subTest(words), self.assertRaises(Mistake) as told:
                changed("h264", **parts)
            self.assertIn(words, str(told.exception))
        with self.assertRaisesRegex(Mistake, "of webm av1 is at most 100,000"):
            changed("av1", quality={"kilobits": 200_000})
        with self.assertRaisesRegex(Mistake, "cannot say that its codes go over the full range"):
            changed("prores-4444", colour={"range": "full"})
        with self.assertRaisesRegex(Mistake, "loses nothing, so it has no quality.level"):
            changed("ffv1", quality={"level": 3})

    def test_sizes_are_read_as_people_write_them(self):
        for text, size in (("8MB", 8_000_000), ("750 kB", 750_000), ("2 GiB", 2 << 30), ("1.5m", 1_500_000)):
            self.assertEqual(read_bytes(text), size, text)
        self.assertEqual((said_bytes(8_020_000), said_bytes(999_700)), ("8.02 MB", "1000 kB"))


class SizeTest(unittest.TestCase):
    @given(
        st.sampled_from(["h264", "prores-422-hq", "prores-4444", "gif", "webp", "jpeg"]),
        st.integers(16, 3000), st.integers(16, 3000),
        st.none() | st.integers(16, 2000), st.none() | st.integers(16, 2000),
        st.sampled_from(["contain", "cover", "none"]), st.sampled_from(["pad", "crop", "scale"]), st.booleans(),
    )  # fmt: skip
    def test_every_part_lies_inside_and_no_side_is_one_that_the_file_cannot_have(
        self, name, width, height, wide, high, fit, odd, enlarge
    ):
        recipe = changed(name, size={"width": wide, "height": high, "fit": fit, "odd": odd, "enlarge": enlarge})
        try:
            made = fitted(recipe, width, height)
        except SmallerFrames:
            self.assertFalse(enlarge or fit == "none")
            return
        except Mistake as told:
            self.assertIn("give the recipe a smaller size", str(told))
            return
        step = sides_step(recipe.form, recipe.pixels_for(False))
        self.assertEqual((made.width % step[0], made.height % step[1]), (0, 0), made)
        left, top, part_w, part_h = made.part
        self.assertTrue(0 <= left <= left + part_w <= width and 0 <= top <= top + part_h <= height, made)
        self.assertTrue(0 <= made.at[0] <= made.at[0] + made.scaled[0] <= made.width, made)
        self.assertTrue(0 <= made.at[1] <= made.at[1] + made.scaled[1] <= made.height, made)
        if not enlarge:
            self.assertLessEqual(made.enlarged, 1, "nothing is enlarged unasked")

    def test_examples(self):
        for name, size, frame, canvas, scaled in (
            ("h264", {}, (1921, 1081), (1920, 1080), (1920, 1080)),
            ("h264", {"odd": "pad"}, (1921, 1081), (1922, 1082), (1921, 1081)),
            ("gif", {"long_side": 640}, (1920, 1080), (640, 360), (640, 360)),
            ("h264", {"width": 1080, "height": 1080}, (1920, 1080), (1080, 1080), (1080, 608)),
            ("h264", {"width": 1080, "height": 1080, "fit": "cover"}, (1920, 1080), (1080, 1080), (1080, 1080)),
            ("h264", {"width": 3840, "height": 2160, "fit": "none"}, (1920, 1080), (3840, 2160), (1920, 1080)),
            ("h264", {"long_side": 3840}, (1920, 1080), (1920, 1080), (1920, 1080)),
            ("h264", {"width": 3840, "enlarge": True}, (1920, 1080), (3840, 2160), (3840, 2160)),
        ):
            made = fitted(changed(name, size=size), *frame)
            self.assertEqual(((made.width, made.height), made.scaled), (canvas, scaled), size)

    def test_smaller_frames_are_asked_about(self):
        for size in ({"width": 640, "height": 360}, {"width": 640}, {"height": 360, "fit": "cover"}):
            with self.assertRaisesRegex(SmallerFrames, "the frames have 320 × 180, and h264 asks for 640 × 360"):
                fitted(changed("h264", size=size), 320, 180)

    def test_levels_of_h264(self):
        # ITU-T H.264, table A-1, and handbook pairs: 1080p30 is 4.0, 1080p60 4.2, 2160p30 5.1, 2160p60 5.2.
        for size, rate, level in (
            ((1280, 720), 30, "3.1"), ((1920, 1080), 30, "4.0"), ((1920, 1080), 60, "4.2"),
            ((3840, 2160), 30, "5.1"), ((3840, 2160), 60, "5.2"), ((720, 576), 25, "3.0"),
        ):  # fmt: skip
            self.assertEqual(level_for(*size, Fraction(rate)).name, level, (size, rate))
        self.assertIsNone(level_for(16384, 16384, Fraction(60)))


class RateTest(unittest.TestCase):
    @given(
        st.integers(1, 50), st.sampled_from(["24", "25", "30000/1001", "60", "12.5"]),
        st.sampled_from(["24", "30", "50", "60", "10"]),
    )  # fmt: skip
    def test_each_picture_shows_the_frame_nearest_to_its_instant(self, count, old, new):
        timeline = timeline_of(changed("h264", timing={"rate": new}), count, Rate.parse(old))
        before, after = Rate.parse(old).fps, Rate.parse(new).fps
        self.assertEqual(timeline.count, max((count * after / before + Fraction(1, 2)).__floor__(), 1))
        shown = [n for n, _ in timeline.picks]
        for k, n in enumerate(shown):
            # By looking at all of them; of two that are as near the earlier.
            self.assertEqual(n, min(range(count), key=lambda i: (abs(i / before - k / after), i)))
        self.assertEqual(timeline.dropped, count - len(set(shown)))
        self.assertEqual(timeline.doubled, len(shown) - len(set(shown)))

    def test_blended_refused_cut_and_repeated(self):
        blend = timeline_of(changed("h264", timing={"rate": "48", "between": "blend"}), 4, Rate.parse("24"))
        self.assertEqual([(n, float(mix)) for n, mix in blend.picks][:4], [(0, 0), (0, 0.5), (1, 0), (1, 0.5)])
        self.assertEqual(blend.note, "at 48 fps the file blends 3 frames")
        closed = timeline_of(
            changed("h264", timing={"rate": "48", "between": "blend"}), 4, Rate.parse("24"), loops=True
        )
        self.assertEqual(closed.picks[-1], (3, Fraction(1, 2)), "the last one of a loop is mixed with the first")
        with self.assertRaisesRegex(Mistake, "0 frames would be dropped and 6 doubled"):
            timeline_of(changed("h264", timing={"rate": "30", "between": "refuse"}), 24, Rate.parse("24"))
        part = timeline_of(changed("h264", timing={"frames": "3-5", "repeats": 2}), 24, Rate.parse("24"))
        self.assertEqual((part.count, [part.shows(n)[0] for n in range(6)]), (6, [3, 4, 5, 3, 4, 5]))
        self.assertEqual(timeline_of(RECIPES["gif"], 24, Rate.parse("24"), repeats=4).repeats, 1)
        with self.assertRaisesRegex(Mistake, "frames 20-30 are not among those of the take, 0 to 23"):
            timeline_of(changed("h264", timing={"frames": "20-30"}), 24, Rate.parse("24"))

    def test_ways_to_a_smaller_gif_begin_with_the_best(self):
        options = gif_options(640, 360, Rate.parse("24"))
        self.assertEqual((options[0].long_side, options[0].colours, options[0].rate), (640, 256, ""))
        self.assertEqual(len(options), len(set(options)))
        self.assertEqual(options[-1].applied(RECIPES["gif"]).palette.colours, 64)


VALUES = {"title": "Basin floor", "camera": "", "pass": "wire", "recipe": "h264"}


def free(pattern, suffix, there, day=None):
    """The first name of a pattern that is not there."""
    return next(name for name in file_names(pattern, VALUES, suffix, day) if name not in there)


class NameTest(unittest.TestCase):
    def test_versions_count_up_and_empty_fields_go(self):
        there = {"basin-floor.wire.v001.mp4", "basin-floor.wire.v002.mp4"}
        name = free("{title}.{camera}.{pass}.{version}", ".mp4", there)
        self.assertEqual(name, "basin-floor.wire.v003.mp4")
        dated = free("{date}/{title}", "", {"2026-03-01/basin-floor"}, date(2026, 3, 1))
        self.assertEqual(dated, "2026-03-01/basin-floor.v002", "without a version it gets one where it must")

    def test_a_name_stays_below_its_folder(self):
        for pattern, words in (("../{title}", "without leading dots"), ("{titel}", "did you mean title?"),
                               ("/a", "below the folder"), ("a*b", "'*'"), (".x", "leading dots")):  # fmt: skip
            with self.assertRaises(Mistake) as told:
                free(pattern, ".mp4", ())
            self.assertIn(words, str(told.exception), pattern)


class CueTest(unittest.TestCase):
    CUES = (Cue("a", 0, 6), Cue("b & <i>", 6, 10))

    @given(st.sampled_from(["24", "30", "12", "30000/1001"]), st.integers(0, 9), st.integers(0, 9), st.integers(1, 3))
    def test_a_cue_covers_the_pictures_of_its_frames(self, rate, first, last, repeats):
        begin, end = sorted((first, last))
        recipe = changed("h264", timing={"rate": rate, "frames": f"{begin}-{end}", "repeats": repeats})
        timeline = timeline_of(recipe, 10, Rate.parse("24"))
        said = {n: cue.text for cue in cues_on(timeline, self.CUES) for n in range(cue.begin, cue.end)}
        self.assertEqual(said, {n: ("b & <i>", "a")[timeline.shows(n)[0] < 6] for n in range(timeline.count)})

    def test_webvtt_comes_back(self):
        fps = Fraction(30000, 1001)
        for (text, begin, end), cue in zip(read_webvtt(webvtt(self.CUES, fps)), self.CUES, strict=True):
            self.assertEqual(text, cue.text)
            self.assertLessEqual(max(abs(begin - cue.begin / fps), abs(end - cue.end / fps)), Fraction(1, 2000))

    def test_chapters_follow_the_views_and_labels_their_times(self):
        views = [{"name": name, "position": [0, -3 - n, 1], "look": [0, 0, 0]} for n, name in enumerate(("Bow", ""))]
        shot = read_shot(json.dumps({
            "title": "Walk", "source": {"kind": "model", "file": "a.py"}, "clock": {"rate": "10", "span": "ends"},
            "camera": {"rig": {"kind": "stops", "dwell_seconds": 1, "travel_seconds": 2}, "views": views},
            "lanes": [{"drive": "dial:rise", "keys": [[0, 0], [1, 8]]}],
            "labels": [{"text": text} for text in ("Tern Point", "{seconds:.0f} s", "{rise:.0f} m", "{height}")],
        }))  # fmt: skip
        self.assertEqual(chapters_of(shot), (Cue("Bow", 0, 30), Cue("View 2", 30, 40)))
        seconds = [Cue(f"{n} s", 10 * n, 10 * n + 10) for n in range(4)]
        rises = [Cue(f"{2 * n} m", 10 * n, 10 * n + 10) for n in range(4)]
        cues, left_out = subtitles_of(shot)
        self.assertEqual((set(cues), left_out), ({Cue("Tern Point", 0, 40), *seconds, *rises}, ("{height}",)))


class ColourTest(unittest.TestCase):
    def test_matrices_are_those_of_the_standards(self):
        # ITU-R BT.2087-0, equation 5; ITU-R BT.709-6, item 3.
        bt2020 = [[0.6274, 0.3293, 0.0433], [0.0691, 0.9195, 0.0114], [0.0164, 0.0880, 0.8956]]
        np.testing.assert_allclose(to_primaries("bt2020"), bt2020, atol=5e-5)
        np.testing.assert_allclose(to_rgb("bt709")[:, 2], [1.5748, -0.4681, 0], atol=5e-5)


class AtRateTest(unittest.TestCase):
    def test_the_same_motion_over_the_same_time(self):
        document = {"title": "A", "source": {"kind": "model", "file": "a.py"}}
        for clock, rate, expected in (
            ({"rate": "24", "frames": 120, "hold_end": 12}, "30", (150, 15, "30")),
            ({"rate": "24", "seconds": 5}, "30000/1001", (150, 0, "30000/1001")),
            ({"rate": "24", "frames": 48, "speed": 2}, "60", (60, 0, "60")),
        ):
            shot = read_shot(json.dumps(document | {"clock": clock}))
            anew = edited(shot, at_rate(shot, rate)).clock
            self.assertEqual((anew.exact.motion, anew.hold_end, str(anew.exact.playback.fps)), expected)
        shot = read_shot(json.dumps(document | {"clock": {"rate": "24", "frames": 48, "every": 2}}))
        with self.assertRaisesRegex(Mistake, "shows some of its frames only"):
            at_rate(shot, "30")


if __name__ == "__main__":
    unittest.main()
