"""Formats of a reel: what each item shows in another size, and the files that are made in several."""

import json
import unittest

import cv2
import numpy as np
from PIL import Image, ImageOps

from tests.helpers import scratch, vexel
from tests.output.test_recipes import ffprobe
from tests.output.test_reel import HEIGHT, WIDTH, numbered
from vexel.core.errors import Mistake
from vexel.core.reel.formats import shown_in
from vexel.core.reel.reel_spec import edited_reel, read_reel
from vexel.imaging.fitting import fitted_into, placed
from vexel.output.reel.library import FolderLibrary
from vexel.output.reel.open_reel import open_reel

SQUARE = {"name": "square", "width": HEIGHT, "height": HEIGHT}
UPRIGHT = {"name": "upright", "width": HEIGHT, "height": WIDTH}


class FittingTest(unittest.TestCase):
    def test_what_stays_is_what_another_library_keeps(self):
        """Pillow's `ImageOps.fit` keeps the same part where nothing is scaled; its centring shares what is left."""
        picture = np.random.default_rng(3).integers(0, 256, (30, 48, 3), np.uint8)
        for size in ((48, 20), (22, 30)):
            for focus in (0.0, 0.5, 1.0):
                other = np.asarray(ImageOps.fit(Image.fromarray(picture), size, centering=(focus, focus)))
                for fit in ("cover", "none"):
                    np.testing.assert_array_equal(fitted_into(picture, *size, fit, (focus, focus)), other)

    def test_a_focus_lies_in_the_middle_as_far_as_edges_allow(self):
        wide = np.zeros((10, 100, 4), np.uint8)
        wide[:, 30] = 255
        for focus, column in ((0.305, 10), (0.1, 30), (0.405, 0)):
            made = fitted_into(wide, 20, 10, "none", (focus, 0.5))
            self.assertEqual(np.flatnonzero(made[0, :, 0]).tolist(), [column] if column < 20 else [], focus)
        # Light and codes of 16 bits are placed alike.
        for kind in (np.uint16, np.float32):
            np.testing.assert_array_equal(
                fitted_into(wide.astype(kind), 20, 10, "none", (0.3, 0.5)),
                fitted_into(wide, 20, 10, "none", (0.3, 0.5)),
            )
        small = placed(fitted_into(wide, 50, 50, "contain"), 50, 50)
        self.assertEqual((small.shape, small[22, 0, 3], small[0, 0, 3]), ((50, 50, 4), 0, 0))


class ReelFormatsTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)
        self.red = numbered(self.folder, "red", 220)
        self.dark = numbered(self.folder, "dark", 40)

    def reel(self, *items, **parts):
        document = {"title": "Hall", "width": WIDTH, "height": HEIGHT, "items": list(items), "formats": [SQUARE]}
        return read_reel(json.dumps(document | parts))

    def opened(self, reel, name=""):
        (shown,) = shown_in(reel, [name])
        return open_reel(shown, FolderLibrary(self.folder), self.folder)

    def frame(self, opened, number):
        spec = opened.plan.reel
        return opened.brush.frame(opened.plan.frame(number), spec.width, spec.height, spec.mark)

    def test_each_frame_is_the_wide_one_about_its_focus(self):
        """Groups, repeats, blends, reels within reels and dissolves, each with a framing."""
        inner = {"title": "In", "width": WIDTH, "height": HEIGHT, "items": [self.red | {"last": 3}]}
        inner["items"][0]["framing"] = {"square": {"focus_x": 1}}
        (self.folder / "in.json").write_text(json.dumps(inner))
        cut = {"kind": "cross-dissolve", "frames": 4}
        items = [
            self.red | {"framing": {"square": {"focus_x": 0.2}}, "transition": cut},
            {"kind": "group", "repeat": 2, "items": [self.dark | {"frames": 7, "between": "blend", "focus_x": 0.2}]},
            self.dark | {"last": 2},
            {"kind": "reel", "reel": "in.json"},
            self.red | {"fit": "none", "last": 1},
            self.red | {"last": 1, "framing": {"square": {"fit": "contain"}}},
        ]
        reel = self.reel(*items)
        wide, square = self.opened(reel), self.opened(reel, "square")
        self.assertEqual(wide.plan.frames, square.plan.frames)
        starts = [*wide.plan.starts, wide.plan.frames]
        left = {0: 0, 1: 0, 2: 16, 3: 32, 4: 16}
        for number in range(wide.plan.frames):
            whole, made = self.frame(wide, number), self.frame(square, number)
            item = max(at for at in range(len(items)) if starts[at] <= number)
            if item < 5:
                np.testing.assert_array_equal(made, whole[:, left[item] : left[item] + HEIGHT], err_msg=str(number))
            else:
                # Shown whole: two thirds as high, on the ground above and below.
                self.assertEqual(len({tuple(one) for one in made[:8].reshape(-1, 3)}), 1)
                self.assertGreater(made[20:44].std(), 10)
        # A wrong focus is seen.
        other = self.opened(self.reel(items[0] | {"framing": {"square": {"focus_x": 0.4}}}), "square")
        self.assertTrue((self.frame(other, 5) != self.frame(square, 5)).any())

    def test_texts_keep_their_share_of_the_width_and_rows_are_stacked(self):
        cells = [{"item": self.red, "caption": "Red"}, {"item": self.dark}]
        title = {"kind": "title", "text": "Tern Point", "size": 0.2, "frames": 2}
        cv2.imwrite(str(self.folder / "mark.png"), np.full((10, 10, 3), 255, np.uint8))
        mark = {"file": "mark.png", "size": 0.25, "margin": 0}
        own = title | {"framing": {"upright": {"size": 0.06}}}
        items = [title, own, {"kind": "layout", "cells": cells, "frames": 2}, {"kind": "gap", "frames": 2}]
        reel = self.reel(*items, formats=[UPRIGHT], mark=mark, background="#000000")
        wide, upright = self.opened(reel), self.opened(reel, "upright")
        share = {}
        for name, opened in (("wide", wide), ("upright", upright)):
            for number in (0, 2):
                rows = self.frame(opened, number)[opened.plan.reel.height // 4 : -opened.plan.reel.height // 4]
                lit = np.flatnonzero((rows > 60).any(axis=(0, 2)))
                share[name, number] = (lit[-1] - lit[0]) / opened.plan.reel.width
        self.assertAlmostEqual(share["upright", 0], share["wide", 0], delta=0.06)
        self.assertLess(share["upright", 2], share["wide", 2], "its own size")
        layout = upright.plan.reel.items[2]
        self.assertEqual((layout.arrangement, wide.plan.reel.items[2].arrangement), ("column", "row"))
        corner = self.frame(upright, 6)
        self.assertEqual(int((corner > 200).all(axis=2).sum()), round(0.25 * HEIGHT * HEIGHT / WIDTH) ** 2)

    def test_what_formats_cost_is_a_finding_with_a_cure(self):
        reel = self.reel(self.red, self.dark | {"framing": {"tall": {"fit": "none"}}}, formats=[SQUARE, UPRIGHT])
        found = {one.name: one for one in self.opened(reel).findings}
        enlarged, unknown = found["item-enlarged"], found["framing-unknown"]
        self.assertIn("In upright, 2 items are shown up to 1.5 times as large", enlarged.what)
        self.assertIn("tall, which is none of the reel's formats", unknown.what)
        for fix in (*enlarged.fixes, *unknown.fixes):
            after = self.opened(edited_reel(reel, json.loads(json.dumps(fix.patch))))
            gone = "framing-unknown" if fix in unknown.fixes else "item-enlarged"
            self.assertNotIn(gone, {one.name for one in after.findings}, fix)
        self.assertEqual([*self.opened(self.reel(self.red)).findings], [])

    def test_what_is_wrong_is_a_sentence(self):
        two = [{"item": self.red}] * 3
        for parts, words in (
            ({"formats": [SQUARE, SQUARE | {"width": 80}]}, "two have the same name"),
            ({"formats": [SQUARE, SQUARE | {"name": "other"}]}, "two have the same size"),
            ({"formats": [SQUARE | {"width": WIDTH}]}, "one has that of the reel"),
            ({"format": "sqare"}, "did you mean square"),
            ({"items": [self.red | {"framing": {"square": {"focus_x": 2}}}]}, "focus_x: must be 1 or less"),
            ({"items": [{"kind": "layout", "cells": two, "framing": {"square": {"arrangement": "divided"}}}]}, "two"),
        ):
            with self.subTest(words), self.assertRaisesRegex(Mistake, words):
                self.reel(**({"items": [self.red]} | parts))
        with self.assertRaisesRegex(Mistake, "Hall has no format sqare: did you mean square"):
            shown_in(self.reel(self.red), ["sqare"])

    def test_by_command_each_file_has_its_format(self):
        (self.folder / "r.json").write_text(
            json.dumps({"title": "Hall", "width": WIDTH, "height": HEIGHT, "items": [self.red], "formats": [SQUARE]})
        )
        files = [self.folder / name for name in ("wide.mkv", "small.mkv")]
        outputs = [word for file in files for word in ("-o", file)]
        run = vexel("reel", self.folder / "r.json", *outputs, "--format", "", "--format", "square", "--json")
        self.assertEqual(run.returncode, 0, run.stderr)
        sizes = [(ffprobe(file)["width"], ffprobe(file)["height"]) for file in files]
        self.assertEqual(sizes, [(WIDTH, HEIGHT), (HEIGHT, HEIGHT)])
        self.assertEqual(len(json.loads(run.stdout)["files"]), 2)
        for words, said in (
            (("--format", "sqare"), "did you mean square"),
            (
                ("-o", self.folder / "b.mkv", "-o", self.folder / "c.mkv", "--format", "", "--format", ""),
                "one for each",
            ),
        ):
            refused = vexel("reel", self.folder / "r.json", "-o", self.folder / "a.mkv", *words)
            self.assertEqual((refused.returncode != 0, said in refused.stderr), (True, True), refused.stderr)
        self.assertFalse((self.folder / "a.mkv").exists())
