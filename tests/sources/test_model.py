"""A model file: its dials, what it may return, and what it sees of the time."""

import unittest
from fractions import Fraction

import numpy as np

from tests.helpers import HEADER, asked, scratch
from vexel.author import dial, model
from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceAt
from vexel.core.lanes.dial import Dial
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.sources.kinds.model import ModelFile
from vexel.sources.meshes.parts import ranges_of
from vexel.stage.renderer import Renderer


class ModelFileTest(unittest.TestCase):
    def open(self, code, **beside):
        folder = scratch(self)
        for name, text in beside.items():
            (folder / f"{name}.py").write_text(text)
        (folder / "thing.py").write_text(HEADER + code)
        return ModelFile(folder / "thing.py")

    def test_dials_come_in_the_order_of_the_parameters(self):
        source = self.open(
            "@model\ndef f(b=dial(1, low=0, high=2, unit='m', about='wide'), a=dial(-1, low=-2, high=0), k=3):\n"
            "    return pv.Cone()\n"
        )
        self.assertEqual(source.facts.dials, (Dial("b", 1, 0, 2, "m", "wide"), Dial("a", -1, -2, 0)))
        self.assertEqual(source.facts.time_inputs, ())

    def test_it_is_seen_whether_a_model_comes_out_the_same_and_no_more_often_than_needed(self):
        moments = [({}, {}), ({}, {})]
        for height, same in (("1", True), ("len(BUILT)", False)):
            with self.subTest(height):
                file = scratch(self) / "thing.py"
                code = (
                    "from pathlib import Path\n\nBUILT = []\n\n\n@model\ndef f():\n"
                    "    BUILT.append('.')\n    Path('built').write_text(''.join(BUILT))\n"
                    f"    return pv.Cone(height={height})\n"
                )
                file.write_text(HEADER + code)
                stage, at = Renderer(), SourceAt("model", file)
                stage.measure(at, moments, (96, 64))
                self.assertEqual(stage.repeats(at, moments, (96, 64)), same)
                self.assertEqual((file.parent / "built").read_text(), "..")

    def test_the_instant_is_exact(self):
        source = self.open(
            "@model\ndef f(instant=None):\n    m = pv.Cone()\n"
            "    m['t'] = np.full(m.n_points, float(instant.seconds * 30000))\n    return part(m, scalars='t')\n"
        )
        self.assertEqual(source.facts.time_inputs, ("frame", "count", "seconds", "phase", "rate"))
        clock = Clock(Rate(Fraction(30000, 1001)), 100)
        (part,) = source.show(asked(vars(clock.instant(7))))
        self.assertEqual(part.mesh["t"][0], 7 * 1001)

    def test_anything_that_holds_meshes_becomes_parts(self):
        for result, count in (
            ("pv.Cone()", 1),
            ("[pv.Cone(), part(pv.Cube(), colour='#ff0000')]", 2),
            ("(pv.Cone(), [pv.Cube(), pv.Disc()])", 3),
            ("pv.MultiBlock([pv.Cone(), None, pv.Cube()])", 2),
            ("pv.ImageData(dimensions=(3, 3, 3))", 1),
            ("pv.UnstructuredGrid(pv.examples.hexbeamfile)", 1),
        ):
            with self.subTest(result):
                parts = self.open(f"@model\ndef f():\n    return {result}\n").show(asked())
                self.assertEqual(len(parts), count)
                self.assertTrue(all(part.mesh.n_cells for part in parts))

    def test_what_is_shown_of_a_mesh(self):
        code = "@model\ndef f():\n    m = pv.Sphere()\n    {}\n    return {}\n"
        heat = "m['heat'] = m.points[:, 2]"
        colours = "m['RGB'] = np.zeros((m.n_points, 3), np.uint8)"
        for line, result, shown in (
            (heat, "m", ("heat", "", "")),
            (heat, "part(m, colour='#102030')", ("", "", "#102030")),
            (colours, "m", ("", "RGB", "")),
            (f"{heat}; {colours}", "part(m, scalars='heat')", ("heat", "", "")),
            ("pass", "m", ("", "", "")),
        ):
            with self.subTest(line):
                (part,) = self.open(code.format(line, result)).show(asked())
                self.assertEqual((part.scalars, part.direct, part.colour), shown)

    def test_ranges_hold_all_parts_that_show_an_array(self):
        code = (
            "@model\ndef f():\n    a, b = pv.Sphere(), pv.Sphere(radius=3)\n    for m in (a, b):\n"
            "        m['h'] = m.points[:, 2]\n    return [a, b, part(a, scalars='h', low=0, high=9)]\n"
        )
        low, high = ranges_of(self.open(code).show(asked()))["h"]
        np.testing.assert_allclose((low, high), (-3, 3), atol=1e-6)

    def test_modules_beside_the_file_are_its_own(self):
        code = "import forms\n@model\ndef f():\n    return forms.body()\n"
        for radius in (1, 2):
            forms = f"import pyvista as pv\ndef body():\n    return pv.Sphere(radius={radius})\n"
            (part,) = self.open(code, forms=forms).show(asked())
            self.assertAlmostEqual(part.mesh.points[:, 2].max(), radius, places=5)
        with self.assertRaisesRegex(SourceError, "forms.py, line 2: ZeroDivisionError") as caught:
            self.open(code, forms="\n1/0\n")
        self.assertEqual(caught.exception.line, 2)

    def test_the_marked_function_stays_an_ordinary_one(self):
        @model
        def area(wide=dial(2.0, low=1, high=4), high=dial(3.0, low=1, high=4)):
            return wide * high

        self.assertEqual((area(), area(high=4)), (6, 8))

    def test_a_dial_is_refused_where_it_is_declared(self):
        for numbers, error in (((2, 0, 1), ValueError), (("1", 0, 2), TypeError), ((True, 0, 2), TypeError)):
            with self.assertRaisesRegex(error, r"dial\("):
                dial(numbers[0], low=numbers[1], high=numbers[2])

    def test_parts_have_names(self):
        code = (
            "@model\ndef three():\n    block = pv.MultiBlock({'hull': pv.Cone(), 'mast': pv.Cube()})\n"
            "    return [pv.Sphere(), part(pv.Cube(), name='lid', opacity=0.4), block]\n"
        )
        parts = self.open(code).show(asked())
        self.assertEqual([part.name for part in parts], ["part 1", "lid", "hull", "mast"])
        self.assertEqual([part.opacity for part in parts], [1, 0.4, 1, 1])
        with self.assertRaisesRegex(SourceError, "an opacity lies between 0 and 1"):
            self.open("@model\ndef a():\n    return part(pv.Cone(), opacity=2)\n").show(asked())


if __name__ == "__main__":
    unittest.main()
