"""The shot document: what is read, what is refused, and how findings fix."""

import json
import unittest
from fractions import Fraction

import numpy as np

from vexel.core.checks.preflight import preflight, source_findings
from vexel.core.checks.shot_timing import shot_timing
from vexel.core.document.clock_spec import ClockSpec
from vexel.core.document.naming import chosen_frames, frame_name
from vexel.core.document.shot import read_shot
from vexel.core.edits.trim_to_motion import trim_to_motion
from vexel.core.errors import Mistake
from vexel.core.evaluate.lane_sampling import lane_tracks
from vexel.core.evaluate.source_facts import SourceFacts
from vexel.core.lanes.dial import Dial
from vexel.core.merge_patch import merged
from vexel.core.wording import slug

# The example of the design's chapter on the shot document.
EXAMPLE = {
    "vexel": 1,
    "title": "Shell growth, once round",
    "source": {"kind": "model", "file": "shell.py", "dials": {"whorls": 5.5}},
    "clock": {"rate": "24", "seconds": 15, "span": "loop"},
    "camera": {
        "lens": {"focal_mm": 50, "sensor": "36x24"},
        "rig": {"kind": "orbit", "turns": 1, "direction": "ccw", "elevation_deg": 18, "fill": 0.8},
    },
    "lanes": [{"drive": "dial:whorls", "keys": [[0, 0.5], [1, 5.5]], "ease": "ease-in-out"}],
    "picture": {"width": 1920, "height": 1080, "samples": 4, "passes": ["shaded"], "background": "#2b2f33"},
}


def lane(*keys, drive="dial:whorls", **how):
    return {"drive": drive, "keys": list(keys)} | how


def changed(**patch):
    return read_shot(json.dumps(merged(EXAMPLE, patch)), "a.json")


class ReadTest(unittest.TestCase):
    def test_reads_the_example(self):
        self.assertEqual(changed().clock.exact.frames, 360)

    def test_refuses_with_the_key_and_the_cure(self):
        for patch, words in (
            (
                {"camera": {"rig": {"elevaton_deg": 3}}},
                "unknown key camera.rig.elevaton_deg; did you mean elevation_deg",
            ),
            ({"clok": {}}, "unknown key clok; did you mean clock"),
            ({"source": {"kind": "modle"}}, "source.kind must be one of 'model', 'sketch'"),
            ({"clock": {"rate": 24}}, "clock.rate: must be text in quotes, not 24"),
            ({"clock": {"rate": "0"}}, "clock.rate: rate 0 gives no frames"),
            ({"clock": {"rate": "-1"}}, "clock.rate: rate -1 is negative"),
            ({"clock": {"rate": "abc"}}, "'abc' is not a frame rate"),
            ({"clock": {"frames": 3}}, "clock: give either seconds or frames"),
            ({"clock": {"seconds": None, "frames": 0}}, "0 frames make no video"),
            ({"clock": {"seconds": None, "frames": 1_000_001}}, "1,000,001 frames are more than the 1,000,000"),
            ({"picture": {"width": 19.5}}, "picture.width: must be a whole number, not 19.5"),
            ({"picture": {"width": "big"}}, "picture.width: must be a whole number, not 'big'"),
            ({"picture": {"background": "red"}}, "'red' is not a background"),
            ({"camera": {"lens": {"sensor": "0x24"}}}, "above 0 mm"),
            ({"source": {"dials": {"whorls": "five"}}}, "source.dials.whorls: must be a number"),
            ({"lanes": [{"drive": "dial:a", "keys": [[0.5, 1], [0.2, 2]]}]}, "in the order of their places"),
            ({"lanes": [{"drive": "dial:a", "keys": [[0, 1]]}] * 2}, "two lanes drive dial:a"),
        ):
            with self.subTest(words), self.assertRaises(Mistake) as caught:
                changed(**patch)
            self.assertIn(words, str(caught.exception))
        with self.assertRaisesRegex(Mistake, "a.json: is not valid JSON"):
            read_shot('{"vexel": 1,', "a.json")


class TimingTest(unittest.TestCase):
    def test_says_why(self):
        shot = changed()
        figures = shot_timing(shot.clock, shot.camera.rig)
        self.assertEqual(figures.degrees_a_frame, 1)
        self.assertIn("24 fps × 15 s = 360 frames", figures.reasons)
        self.assertIn("the end counts as the beginning, so frame 361 is left out", figures.reasons[1])

    def test_tells_of_rounding(self):
        figures = shot_timing(ClockSpec(rate="29.97", seconds=12.5))
        self.assertEqual((figures.frames, figures.seconds), (375, "1001/80"))
        self.assertIn("rounded to 375 frames, which last 12.5125 s", figures.reasons[0])


class PreflightTest(unittest.TestCase):
    def test_every_fix_ends_its_finding(self):
        for patch, name in (
            ({}, "lane-does-not-close"),
            ({"camera": {"rig": {"turns": 1.25}}}, "turn-does-not-close"),
            ({"clock": {"seconds": 0.52}}, "length-not-whole"),
            ({"lanes": [], "clock": {"seconds": None, "frames": 361, "span": "ends"}}, "last-repeats-first"),
            ({"ease": "ease-in-out"}, "eased-loop"),
            ({"camera": {"rig": {"kind": "orbit", "ease": "ease-in-out"}}}, "eased-loop"),
            ({"clock": {"every": 2}}, "choppy"),
            ({"clock": {"speed": 0.5}}, "choppy"),
            ({"clock": {"speed": 0.6, "span": "ends"}}, "choppy"),
            ({"recipe": "h264", "picture": {"background": "transparent"}}, "alpha-lost"),
            ({"clock": {"hold_end": 400}}, "long-holds"),
            ({"clock": {"rate": "12"}}, "choppy"),
            ({"clock": {"rate": "12", "seconds": None, "frames": 180}}, "choppy"),
            ({"clock": {"rate": "80/3"}}, "odd-rate"),
            ({"lanes": [lane([0, 1], [1.5, 3], [2, 1])]}, "key-outside"),
            ({"lanes": [lane([-3, 1], [0, 3], at="frames")]}, "key-outside"),
            ({"lanes": [lane([-3, 1], [2, 3], [40, 1], at="seconds")]}, "key-outside"),
            ({"picture": {"width": 641}}, "odd-size"),
            ({"clock": {"shutter": "180°"}}, "too-few-shutter-samples"),
            ({"recipe": "gif"}, "gif-rate"),
            ({"recipe": "gif", "clock": {"rate": "60"}}, "gif-rate"),
            ({"recipe": "gif", "clock": {"rate": "24", "every": 2, "seconds": None, "frames": 90}}, "gif-rate"),
        ):
            document = merged(EXAMPLE, patch)
            finding = next(f for f in preflight(read_shot(json.dumps(document))) if f.name == name)
            self.assertTrue(finding.fixes)
            for fix in finding.fixes:
                fixed = read_shot(json.dumps(merged(document, fix.patch)))
                self.assertNotIn(name, [f.name for f in preflight(fixed)], fix.label)

    def test_slow_playing_is_captured_as_slowly_with_more_frames(self):
        for span, frames, more in (("loop", 48, 96), ("ends", 49, 97)):
            clock = {"rate": "24", "seconds": None, "frames": frames, "span": span, "speed": 0.5}
            document = merged(EXAMPLE, {"lanes": [], "clock": clock})
            shot = read_shot(json.dumps(document))
            quicker = read_shot(json.dumps(merged(document, {"clock": {"speed": 0.9}})))
            self.assertNotIn("choppy", [f.name for f in preflight(quicker)])
            finding = next(f for f in preflight(shot) if f.name == "choppy")
            fixed = read_shot(json.dumps(merged(document, finding.fixes[0].patch))).clock.exact
            self.assertEqual((fixed.frames, fixed.playback.fps), (more, 24))
            # As long as before, within a frame, and over the same motion.
            self.assertLessEqual(abs(fixed.seconds - shot.clock.exact.seconds), Fraction(1, 24))
            self.assertEqual(fixed.own, frames)

    def test_361_frames_for_a_turn_become_360(self):
        document = merged(EXAMPLE, {"lanes": [], "clock": {"seconds": None, "frames": 361, "span": "ends"}})
        (finding,) = preflight(read_shot(json.dumps(document)))
        self.assertEqual(finding.what, "361 frames: the last repeats the first")
        fixed = read_shot(json.dumps(merged(document, finding.fixes[0].patch)))
        figures = shot_timing(fixed.clock, fixed.orbit)
        self.assertEqual((figures.frames, figures.degrees_a_frame), (360, 1))

    def test_a_lane_that_swings_past_its_dial_is_found_and_fixed(self):
        document = merged(EXAMPLE, {"lanes": [lane([0, 1], [0.5, 5], [1, 1]) | {"ease": "spring"}]})
        facts = SourceFacts((Dial("whorls", 2, 0.5, 5),), ("seconds",))
        (finding,) = source_findings(read_shot(json.dumps(document)), facts)
        self.assertRegex(finding.what, r"whorls overshoots to 5\.\d+, but its dial ranges from 0.5 to 5")
        fixed = read_shot(json.dumps(merged(document, finding.fixes[0].patch)))
        self.assertEqual(source_findings(fixed, facts), [])
        loose = SourceFacts((Dial("whorls", 2, -9, 9),), ("seconds",))
        self.assertEqual(source_findings(read_shot(json.dumps(document)), loose), [])

    def test_the_last_key_gives_the_length(self):
        for span, keys, at, frames in (
            ("ends", [[0, 1], [2, 3]], "seconds", 49),
            ("loop", [[0, 1], [2, 3]], "seconds", 48),
            ("loop", [[0, 1], [90, 3]], "frames", 90),
            ("ends", [[0, 1], [0.5, 3]], "phase", 37),
        ):
            clock = {"rate": "24", "seconds": None, "frames": 73 if span == "ends" else 72, "span": span}
            document = merged(EXAMPLE, {"lanes": [lane(*keys, at=at)], "clock": clock})
            count, patch = trim_to_motion(read_shot(json.dumps(document)))
            fixed = read_shot(json.dumps(merged(document, patch)))
            self.assertEqual((count, fixed.clock.exact.frames), (frames, frames), (span, at))
            values = lane_tracks(fixed, np.array([0.0, 1.0]))["dial:whorls"]
            np.testing.assert_allclose(values, [1, 3])
        self.assertIsNone(trim_to_motion(read_shot(json.dumps(merged(EXAMPLE, {"lanes": []})))))

    def test_the_shot_may_end_where_its_motion_ends(self):
        document = merged(
            EXAMPLE,
            {
                "lanes": [lane([0, 1], [0.5, 3]), lane([0, 1], [0.25, 2], drive="rig:fill")],
                "clock": {"seconds": None, "frames": 101, "span": "ends"},
                "camera": {"rig": {"turns": 0}},
            },
        )
        shot = read_shot(json.dumps(document))
        self.assertEqual(source_findings(shot, SourceFacts(time_inputs=("seconds",))), [])
        (finding,) = source_findings(shot, SourceFacts())
        self.assertEqual(finding.what, "The motion ends at frame 50, but the shot continues to 100")
        fixed = read_shot(json.dumps(merged(document, finding.fixes[0].patch)))
        self.assertEqual(fixed.clock.frames, 51)
        before = lane_tracks(shot, shot.clock.exact.phases())
        after = lane_tracks(fixed, fixed.clock.exact.phases())
        for drive, values in after.items():
            np.testing.assert_allclose(values, before[drive][:51], atol=1e-7, err_msg=drive)
        self.assertEqual(source_findings(fixed, SourceFacts()), [])


class NamingTest(unittest.TestCase):
    def test_names_sort_as_numbers_do(self):
        self.assertEqual(slug("Gezeiten — Prüfung, 2×"), "gezeiten-prüfung-2")
        self.assertEqual(slug("Größe 東"), "größe-東")
        self.assertEqual(slug("✳ …"), "shot")
        self.assertEqual(len(slug("東" * 99).encode()), 78)
        names = [frame_name("A b", "shaded", n, 100_000) for n in (2, 10, 99_999)]
        self.assertEqual(names, sorted(names))
        self.assertEqual(frame_name("A b", "shaded", 7, 360), "a-b.shaded.0007.png")
        self.assertEqual(frame_name("A b", "shaded", 7, 360, 1001, 6), "a-b.shaded.001008.png")

    def test_choice_of_frames(self):
        self.assertEqual(chosen_frames("0-3,40, 2", 50), [0, 1, 2, 3, 40])
        self.assertEqual(chosen_frames("0-95/5", 96), list(range(0, 96, 5)))
        self.assertEqual(chosen_frames("10-20x2, 0-9x4,30-49x1", 50), [0, 3, 6, 9, 10, 20, 30])
        for n in range(2, 30):
            spread = chosen_frames(f"7-99x{n}", 100)
            np.testing.assert_allclose(spread, np.linspace(7, 99, n), atol=0.5)
        for text, words in (("5-2", "run backwards"), ("x", "not a number or a range"), ("0-50", "frames 0 to 49")):
            with self.assertRaisesRegex(Mistake, words):
                chosen_frames(text, 50)


if __name__ == "__main__":
    unittest.main()
