"""The shot document: what is read, what is refused, and how findings mend."""

import json
import unittest

from vexel.core.errors import Mistake
from vexel.core.naming import chosen_frames, frame_name, slug
from vexel.core.preflight import preflight
from vexel.core.reckon import reckon
from vexel.core.shot import ClockPlan, read_shot
from vexel.store.shots import merged

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


def changed(**patch):
    return read_shot(json.dumps(merged(EXAMPLE, patch)), "a.json")


class ReadTest(unittest.TestCase):
    def test_reads_the_example(self):
        self.assertEqual(changed().clock.clock().frames, 360)

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
            ({"picture": {"background": "red"}}, "'red' is no background"),
            ({"camera": {"lens": {"sensor": "0x24"}}}, "above 0 mm"),
            ({"source": {"dials": {"whorls": "five"}}}, "source.dials.whorls: must be a number"),
            ({"lanes": [{"drive": "dial:a", "keys": [[0.5, 1], [0.2, 2]]}]}, "keys must rise in their places"),
            ({"lanes": [{"drive": "dial:a", "keys": [[0, 1]]}] * 2}, "two lanes drive dial:a"),
        ):
            with self.subTest(words), self.assertRaises(Mistake) as caught:
                changed(**patch)
            self.assertIn(words, str(caught.exception))
        with self.assertRaisesRegex(Mistake, "a.json: is not valid JSON"):
            read_shot('{"vexel": 1,', "a.json")


class ReckonTest(unittest.TestCase):
    def test_says_why(self):
        shot = changed()
        figures = reckon(shot.clock, shot.camera.rig)
        self.assertEqual(figures.degrees_a_frame, 1)
        self.assertIn("24 fps × 15 s = 360 frames", figures.reasons)
        self.assertIn("frame 361 would repeat the first", figures.reasons[1])

    def test_tells_of_rounding(self):
        figures = reckon(ClockPlan(rate="29.97", seconds=12.5))
        self.assertEqual((figures.frames, figures.seconds), (375, "1001/80"))
        self.assertIn("rounded to 375 frames, which last 12.5125 s", figures.reasons[0])


class PreflightTest(unittest.TestCase):
    def test_every_mend_ends_its_finding(self):
        for patch, name in (
            ({}, "lane-does-not-close"),
            ({"camera": {"rig": {"turns": 1.25}}}, "turn-does-not-close"),
            ({"clock": {"seconds": 0.52}}, "length-not-whole"),
            ({"picture": {"width": 641}}, "odd-size"),
        ):
            document = merged(EXAMPLE, patch)
            finding = next(f for f in preflight(read_shot(json.dumps(document))) if f.name == name)
            self.assertTrue(finding.mends)
            for mend in finding.mends:
                mended = read_shot(json.dumps(merged(document, mend.patch)))
                self.assertNotIn(name, [f.name for f in preflight(mended)], mend.label)


class NamingTest(unittest.TestCase):
    def test_names_sort_as_numbers_do(self):
        self.assertEqual(slug("Gezeiten — Prüfung, 2×"), "gezeiten-prufung-2")
        self.assertEqual(slug("潮"), "shot")
        names = [frame_name("A b", "shaded", n, 100_000) for n in (2, 10, 99_999)]
        self.assertEqual(names, sorted(names))
        self.assertEqual(frame_name("A b", "shaded", 7, 360), "a-b.shaded.0007.png")

    def test_choice_of_frames(self):
        self.assertEqual(chosen_frames("0-3,40, 2", 50), [0, 1, 2, 3, 40])
        for text, words in (("5-2", "run backwards"), ("x", "not a number or a range"), ("0-50", "frames 0 to 49")):
            with self.assertRaisesRegex(Mistake, words):
                chosen_frames(text, 50)


if __name__ == "__main__":
    unittest.main()
