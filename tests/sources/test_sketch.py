"""Sketches: everything that may be drawn on or returned, and what is refused."""

import unittest
from fractions import Fraction

import numpy as np
import pyvista as pv

from tests.helpers import asked, scratch
from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceAt
from vexel.demo import HERE
from vexel.sources.code.drawing_result import array_pixels
from vexel.sources.detect_kind import kind_of
from vexel.sources.kinds.sketch import SketchFile
from vexel.sources.pictures.svg import check_svg
from vexel.stage.fit import fitted
from vexel.stage.renderer import Renderer

HEADER = "import numpy as np\nimport skia\nfrom vexel.author import dial, sketch, typeface\n\n\n"
RED = [255, 0, 0, 255]
SVG = '\'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 96 64"><rect width="96" height="64" fill="#f00"/></svg>\''


class SketchTest(unittest.TestCase):
    def open(self, code, **options):
        file = scratch(self) / "draw.py"
        file.write_text(HEADER + code)
        self.file = file
        return SketchFile(file, **options)

    def returned(self, result, **how):
        return self.open(f"@sketch\ndef draw(size):\n    {result}\n").show(asked(**how))

    def test_every_kind_of_picture_comes_out_the_same(self):
        for result in (
            "return np.full((64, 96, 4), [255, 0, 0, 255], np.uint8)",
            "return np.broadcast_to([1.0, 0.0, 0.0], (64, 96, 3))",
            "from PIL import Image; return Image.new('RGB', size, '#ff0000')",
            "s = skia.Surface(*size); s.getCanvas().clear(0xFFFF0000); return s",
            "r = skia.PictureRecorder(); r.beginRecording(skia.Rect(*size)).clear(0xFFFF0000); "
            "return r.finishRecordingAsPicture()",
            "import matplotlib.pyplot as plt; return plt.figure(figsize=(9.6, 6.4), facecolor='#ff0000')",
            f"return {SVG}",
        ):
            with self.subTest(result):
                picture = fitted(self.returned(result), (96, 64), "#000000")
                self.assertEqual((picture.shape, picture[32, 48].tolist()), ((64, 96, 4), RED))
                self.assertEqual(picture[0, 0].tolist(), RED)

    def test_sixteen_bits_are_kept_and_other_depths_are_told_how(self):
        """Half of 65,535 in a Pillow image, an array, and as a float."""
        for result in (
            "from PIL import Image; return Image.fromarray(np.full((64, 96), 0x8001, np.uint16))",
            "return np.full((64, 96, 3), 0x8001, np.uint16)",
        ):
            light = self.returned(result)
            self.assertEqual(light.dtype, np.float32)
            back = np.where(light > 0.0031308, 1.055 * light ** (1 / 2.4) - 0.055, light * 12.92)
            np.testing.assert_allclose(back[5, 5, :3] * 65535, 0x8001, atol=0.6)
        floats = "from PIL import Image; return Image.fromarray(np.full((64, 96), {}, np.float32))"
        self.assertEqual(self.returned(floats.format(0.5))[5, 5].tolist(), [128, 128, 128, 255])
        with self.assertRaisesRegex(SourceError, "values from 128 to 128; floats of a picture lie between 0 and 1"):
            self.returned(floats.format(128))
        with self.assertRaisesRegex(SourceError, r"mode I, whose numbers .*astype\(np.uint16\)"):
            self.returned("from PIL import Image; return Image.new('I', size, 300)")

    def test_an_artist_of_a_blitted_animation_is_drawn(self):
        """As in matplotlib's own example of blitting: the line is marked as animated."""
        plot = "import matplotlib.pyplot as plt; f, a = plt.subplots(); a.plot([0, 1], [0, 1], lw=9, c='r'{}); return f"
        marked, plain = (self.returned(plot.format(word)) for word in (", animated=True", ""))
        np.testing.assert_array_equal(marked, plain)

    def test_unseeded_random_numbers_are_the_same_in_every_process(self):
        code = (
            "import random\nSPREAD = np.random.rand(3)\n\n\n@sketch\ndef draw(size, frame):\n"
            "    value = (np.random.rand() + random.random() + SPREAD.sum()) / 5\n"
            "    return np.full((64, 96), value)\n"
        )
        one, two = self.open(code), self.open(code)
        later = two.show(asked({"frame": 3}))
        np.testing.assert_array_equal(one.show(asked({"frame": 3})), later)
        np.testing.assert_array_equal(two.show(asked({"frame": 3})), later)

    def test_code_that_gives_something_else_each_time_is_found(self):
        draw = "@sketch\ndef draw(size):\n    {}\n    return np.full((64, 96), {})\n"
        for first, value, same in (
            ("", "0.5", True), ("", "np.random.rand()", True),
            ("import os", "np.frombuffer(os.urandom(96), np.uint8) / 255", False),
            ("", "np.random.default_rng().random(96)", False), ("KEPT.append(1)", "len(KEPT) / 9", False),
        ):  # fmt: skip
            with self.subTest(value):
                self.open("KEPT = []\n\n\n" + draw.format(first or "pass", value))
                self.assertEqual(Renderer().repeats(SourceAt("sketch", self.file), [({}, {})], (96, 64)), same)

    def test_geometry_stands_before_the_camera(self):
        (part,) = self.returned("import pyvista as pv; return pv.Sphere()")
        self.assertIsInstance(part.mesh, pv.PolyData)

    def test_a_canvas_counts_in_the_layout_and_begins_clear(self):
        draw = self.open(
            "@sketch\ndef draw(canvas, size):\n"
            "    canvas.drawRect(skia.Rect(0, 0, size[0] / 2, size[1]), skia.Paint(Color=0xFFFF0000))\n"
        )
        large = draw.show(asked(size=(192, 128), layout=(96, 64), background="#0000ff"))
        self.assertEqual(large.shape, (128, 192, 4))
        self.assertEqual((large[5, 90].tolist(), large[5, 100].tolist()), (RED, [0, 0, 0, 0]))
        clear = draw.show(asked(background="transparent"))
        self.assertEqual(clear[5, 60].tolist(), [0, 0, 0, 0])

    def test_it_sees_only_what_it_takes_of_the_time(self):
        draw = self.open("@sketch\ndef draw(phase, count, size):\n    return np.full((2, 2), phase)\n")
        self.assertEqual(draw.facts.time_inputs, ("count", "phase"))
        self.assertEqual(draw.show(asked({"phase": Fraction(1, 2), "count": 3}))[0, 0, 0], 128)

    def test_random_numbers_are_those_of_the_seed(self):
        code = "@sketch\ndef draw(random):\n    return random.random((4, 4))\n"
        one, again, other = (self.open(code, seed=seed).show(asked()) for seed in (1, 1, 2))
        self.assertTrue((one == again).all())
        self.assertFalse((one == other).all())
        # The generator of NumPy's own documentation: default_rng(seed).random().
        expected = np.random.default_rng(1).random((4, 4))
        np.testing.assert_array_equal(one[..., 0], np.clip(expected * 255 + 0.5, 0, 255).astype(np.uint8))

    def test_what_cannot_be_a_picture_is_named_exactly(self):
        for result, words in (
            ("return 7", "draw.py, line 6: draw() returned an object of type int; return a skia surface"),
            ("return None", "returned None; let it take canvas and draw on it"),
            ("return np.zeros(10)", "an array of shape (10,) and type float64; a picture is an array (H, W)"),
            ("return np.zeros((4, 4, 2))", "shape (4, 4, 2)"),
            ("return np.zeros((4, 0, 3))", "shape (4, 0, 3)"),
            ("return np.zeros((4, 4), int)", "type int64; a picture is"),
            ("return np.full((4, 4), 3.0)", "with values from 3 to 3; floats of a picture lie between 0 and 1"),
            ("a = np.zeros((4, 4)); a[1, 2] = np.nan; return a", "1 values that are not finite, the first at (1, 2)"),
            ("return np.zeros((1, 20000), np.uint8)", "at most 16,384 pixels a side"),
            ("return 'words'", "text that is not SVG: it begins with 'words'"),
            ("return '<svg><g></svg>'", "SVG that cannot be drawn: it is not well-formed XML: mismatched tag"),
            ("return 1 / 0", "draw.py, line 8: ZeroDivisionError"),
            ("import pyvista as pv; return pv.PolyData()", "there is nothing to draw"),
        ):
            with self.subTest(words), self.assertRaises(SourceError) as caught:
                self.returned(result)
            self.assertIn(words, str(caught.exception))
        with self.assertRaisesRegex(SourceError, "marks no function as its sketch: put @sketch"):
            self.open("x = 1\n")
        with self.assertRaisesRegex(SourceError, "give canvs a dial as its default.* did you mean canvas"):
            self.open("@sketch\ndef draw(canvs):\n    pass\n")

    def test_the_demo_tide_runs_at_the_published_speeds(self):
        # IHO constituent list, degrees an hour: M2, S2, N2, K1, O1.
        published = {"M2": 28.9841042, "S2": 30.0, "N2": 28.4397295, "K1": 15.0410686, "O1": 13.9430356}
        self.file = scratch(self) / "tide.py"
        self.file.write_bytes((HERE / "sources/tide.py").read_bytes())
        tide = SketchFile(self.file)._code.marked.build.__globals__["tide"]
        hours = np.arange(0, 24 * 369, 0.5)  # a year resolves all five
        height = tide(hours)
        for speed in published.values():
            turn = np.radians(speed) * hours
            for off in (-0.08, 0.08):
                beside = np.radians(speed + off) * hours
                at, near = (abs((height * np.exp(-1j * angle)).mean()) for angle in (turn, beside))
                self.assertGreater(at, 8 * near, speed)

    def test_the_mark_tells_the_kind(self):
        self.open("@sketch\ndef draw():\n    return 1\n")
        self.assertEqual(kind_of(self.file), "sketch")


class SvgTest(unittest.TestCase):
    def test_entities_and_outside_references_are_refused(self):
        def svg(inside, before=""):
            return (
                f'{before}<svg xmlns="http://www.w3.org/2000/svg" xmlns:x="http://www.w3.org/1999/xlink">{inside}</svg>'
            )

        many = '<!DOCTYPE svg [<!ENTITY a "ha"><!ENTITY b "&a;&a;">]>'
        for text, words in (
            (svg("<text>&b;</text>", many), "declares XML entities"),
            (svg('<image href="/etc/hostname"/>'), "refers to '/etc/hostname' outside"),
            (svg('<image x:href="http://a.example/b.png"/>'), "outside itself"),
            (svg("<style>@import 'a.css';</style>"), "'a.css'"),
            (svg('<rect style="fill:url(b.svg#c)"/>'), "'b.svg#c'"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ValueError, words):
                check_svg(text)
        check_svg(svg('<a href="https://a.example"><rect fill="url(#g)"/></a><use href="#g"/>'))


class FitTest(unittest.TestCase):
    def test_a_picture_keeps_its_shape_and_stands_in_the_middle(self):
        square = array_pixels(np.ones((10, 10)))
        frame = fitted(square, (80, 40), "#102030")
        self.assertEqual(frame[20, [0, 19, 20, 59, 60], 0].tolist(), [16, 16, 255, 255, 16])
        self.assertEqual(fitted(square, (80, 40), "transparent")[20, 0].tolist(), [0, 0, 0, 0])

    def test_alpha_is_laid_on_the_background(self):
        # Porter and Duff, 1984: C = A·α + B·(1 − α), of light (IEC 61966-2-1, in its simple form 2.2).
        half = np.full((4, 4, 4), (200, 100, 50, 128), np.uint8)
        above, below = (np.array(codes) ** 2.2 for codes in ((200, 100, 50), (16, 32, 48)))
        expected = ((above * 128 + below * 127) / 255) ** (1 / 2.2)
        np.testing.assert_allclose(fitted(half, (4, 4), "#102030")[0, 0], [*expected, 255], atol=1)

    def test_edges_are_scaled_without_a_fringe(self):
        picture = np.zeros((40, 40, 4), np.uint8)
        picture[:, :20] = (250, 200, 10, 255)
        small = fitted(picture, (15, 15), "transparent")
        seen = small[small[..., 3] > 0]
        self.assertLessEqual(np.abs(seen[:, :3].astype(int) - (250, 200, 10)).max(), 1)


if __name__ == "__main__":
    unittest.main()
