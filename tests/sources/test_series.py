"""Series: slices of arrays, tables and VTK sets, with scales that hold for all of them."""

import unittest
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pandas
import pyvista as pv

from tests.helpers import asked, scratch
from vexel.core.checks.source_sentences import source_sentence
from vexel.core.document.shot import read_shot_document
from vexel.core.errors import Mistake, SourceError
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, Subject
from vexel.sources.data.plots import _grown
from vexel.sources.data.table_file import dates_in, read_table
from vexel.sources.files import source_files
from vexel.sources.kinds.series import SeriesFile
from vexel.sources.kinds.sketch import SketchFile


class SeriesTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)

    def open(self, name, **options):
        return SeriesFile(self.folder / name, **options)

    def at(self, source, slot, part=0):
        return source.show(replace(asked({"slot": slot, "part": part}, size=(192, 128))))

    def test_an_array_of_planes_keeps_its_colours(self):
        planes = np.stack([np.full((6, 8), k, float) for k in (0, 5, 10)])
        np.save(self.folder / "a.npy", planes)
        source = self.open("a.npy")
        self.assertEqual(source.facts.source_frames.count, 3)
        from matplotlib import colormaps  # the colour map as its own library gives it

        for slot, share in ((0, 0.0), (1, 0.5), (2, 1.0)):
            expected = [round(255 * c) for c in colormaps["viridis"](share)]
            np.testing.assert_allclose(self.at(source, slot)[0, 0], expected, atol=1)

    def test_tables_are_read_as_they_are_written_and_it_is_said(self):
        """Values against pandas, told by hand what this finds out by itself."""
        for text, told, how in (
            (
                "t;level\n0,5;1,25\n1,5;-2,75\n2,5;1.003,5\n", ["semicolon", "comma"],
                {"sep": ";", "decimal": ",", "thousands": "."},
            ),
            ("t;level\n1;0.5\n2;0.75\n", ["semicolon"], {"sep": ";"}),
            ("t\tlevel\n1,5\t2\n2,5\t3\n", ["tab", "comma"], {"sep": "\t", "decimal": ","}),
            ("# gauge 7\n# west quay\nt,level\n1,0.5\n2,1e-3\n", [], {"comment": "#"}),
            ('t,level\n1,"0,5"\n2,"0,75"\n', ["comma"], {"decimal": ","}),
            ("\ufefft,level,note\n1,,calm\n2,3,\n", [], {"encoding": "utf-8-sig"}),
        ):  # fmt: skip
            with self.subTest(text):
                (self.folder / "t.csv").write_text(text)
                table, expected = read_table(self.folder / "t.csv"), pandas.read_csv(self.folder / "t.csv", **how)
                self.assertEqual([value for _, value in table.about], told)
                self.assertEqual(list(table.columns), list(expected.columns))
                for name in ("t", "level"):
                    np.testing.assert_array_equal(table.columns[name], expected[name].to_numpy())

    def test_values_are_read_as_people_write_them(self):
        for cells, expected in (
            (['"1,234.5"', '"12,345,678"', "-2"], [1234.5, 12345678, -2]), (["50%", "7.5 %", "-1%"], [50, 7.5, -1]),
            (["$5", "-$1.50", "$1e3"], [5, -1.5, 1000]), (["3 €", "€4", "4.25€"], [3, 4, 4.25]),
            (["1", "-", "3"], [1, np.nan, 3]), (["1", "n/a", ""], [1, np.nan, np.nan]),
            (["1 234", "12 345.5", "7"], [1234, 12345.5, 7]), (["−2.5", "+4", ".5"], [-2.5, 4, 0.5]),
        ):  # fmt: skip
            rows = "".join(f"a{n},{cell}\n" for n, cell in enumerate(cells))
            (self.folder / "t.csv").write_text("name,value\n" + rows)
            table = read_table(self.folder / "t.csv")
            np.testing.assert_array_equal(table.columns["value"], expected, cells)
            self.assertEqual(table.findings, ())

    def test_a_table_without_a_header_keeps_its_first_row(self):
        (self.folder / "t.csv").write_text("0,1.5\n1,2.5\n2,3.5\n")
        table = read_table(self.folder / "t.csv")
        np.testing.assert_array_equal(table.columns["column 2"], [1.5, 2.5, 3.5])
        self.assertEqual([odd.code for odd in self.open("t.csv").facts.findings], ["no-header"])

    def test_a_row_of_units_is_no_data(self):
        (self.folder / "t.csv").write_text("t,speed,site\ns,m/s,\n0,1.5,A\n1,2.5,B\n")
        table = read_table(self.folder / "t.csv")
        np.testing.assert_array_equal(table.columns["speed"], [1.5, 2.5])
        self.assertEqual((dict(table.units), list(table.columns["site"])), ({"t": "s", "speed": "m/s"}, ["A", "B"]))

    def test_a_value_that_is_no_number_is_said(self):
        rows = "".join(f"{n},{n * 2}\n" for n in range(12)).replace("7,14", "7,1O")
        (self.folder / "t.csv").write_text("t,level\n" + rows)
        (finding,) = read_table(self.folder / "t.csv").findings
        self.assertIn("line 9 of level is '1O', which is no number", source_sentence(finding))

    def test_times_of_a_day(self):
        for texts in (["11:00 AM", "1:30 PM"], ["11:00", "13:30"], ["2031-03-01 11:00 AM", "2031-03-01 1:30 PM"]):
            times = dates_in(np.array(texts, object)).times
            self.assertEqual((times[1] - times[0]) / np.timedelta64(1, "m"), 150, texts)

    def test_dates_in_any_order_place_and_language_of_figures(self):
        when = pandas.to_datetime(["2031-03-05 06:00", "2031-03-14 18:30", "2031-11-30 00:15"])
        for form, guessed in (
            ("%Y-%m-%dT%H:%M", False), ("%d.%m.%Y %H:%M", False), ("%d/%m/%Y %H:%M", False), ("%m/%d/%Y %H:%M", False),
            ("%d %b %Y %H:%M", False), ("%B %d, %Y %H:%M:%S", False), ("%Y%m%d %H:%M", False),
        ):  # fmt: skip
            dates = dates_in(np.array(when.strftime(form), object))
            self.assertEqual(dates.guessed, guessed, form)
            np.testing.assert_array_equal(dates.times, when.to_numpy(), form)
        self.assertTrue(dates_in(np.array(["03/04/2031", "05/06/2031"], object)).guessed)
        self.assertFalse(dates_in(np.array(["03.04.2031", "05.06.2031"], object)).guessed)
        self.assertIsNone(dates_in(np.array(["calm", "2031-01-01"], object)))
        rows = [f"{n},{when[n]:%d/%m/%Y},{n * 2}" for n in (2, 1, 0)]
        (self.folder / "t.csv").write_text("station,day,level\n" + "\n".join(rows))
        source = self.open("t.csv")
        self.assertEqual([(odd.code, odd.facts) for odd in source.facts.findings], [])
        (self.folder / "t.csv").write_text("station,day,level\n" + "\n".join("A" + row for row in rows))
        source = self.open("t.csv")
        self.assertEqual([odd.code for odd in source.facts.findings], ["rows-reversed"])
        self.assertEqual(source._look.axis.name, "day")
        self.assertIn(("drawn", "level"), source.facts.about)

    def test_growing_lines_grow_between_rows(self):
        """The tip stands where numpy.interp puts it."""
        np.save(self.folder / "n.npy", np.array([0.0, 4.0, 2.0, 8.0]))
        (self.folder / "t.csv").write_text("day,level\n2031-03-01,0\n2031-03-02,4\n2031-03-05,2\n2031-03-06,8\n")
        for name in ("n.npy", "t.csv"):
            source = self.open(name, between="linear")
            held, half, next_one = (self.at(source, 1, part) for part in (0, Fraction(1, 2), Fraction(999, 1000)))
            self.assertFalse(np.array_equal(held, half))
            self.assertLess(np.abs(next_one.astype(int) - self.at(source, 2)).mean(), 0.5)
        x, lines = _grown(np.arange(4), {"n": np.array([0.0, 4.0, 2.0, 8.0])}, 1.25)
        np.testing.assert_allclose(lines["n"][-1], np.interp(1.25, range(4), [0, 4, 2, 8]))
        np.testing.assert_allclose(x, [0, 1, 1.25])

    def test_all_parts_of_a_time_in_a_collection_are_shown(self):
        for n in range(4):
            pv.Sphere(center=(n % 2 * 3, 0, n // 2)).cast_to_unstructured_grid().save(self.folder / f"p{n}.vtu")
        sets = "".join(f'<DataSet timestep="{n // 2}" part="{n % 2}" file="p{n}.vtu"/>' for n in range(4))
        (self.folder / "s.pvd").write_text(f'<VTKFile type="Collection"><Collection>{sets}</Collection></VTKFile>')
        source = self.open("s.pvd", between="linear")
        self.assertEqual(source.facts.source_frames.count, 2)
        self.assertEqual([part.mesh.center[0] for part in self.at(source, 0)], [0, 3])
        between = self.at(source, 0, Fraction(1, 2))
        np.testing.assert_allclose([part.mesh.center for part in between], [(0, 0, 0.5), (3, 0, 0.5)], atol=1e-6)

    def test_data_may_have_thousands_of_slices_a_second(self):
        np.save(self.folder / "n.npy", np.arange(96000.0))
        self.assertEqual(self.open("n.npy", rate="48000").facts.source_frames.rate, "48000")
        source = {"kind": "series", "file": "n.npy", "rate": "48000"}
        self.assertEqual(
            read_shot_document({"title": "T", "source": source, "clock": {"rate": "24", "frames": 2}}).source.rate,
            "48000",
        )

    def test_pictures_in_an_array_come_as_they_are(self):
        pictures = np.random.default_rng(1).integers(0, 255, (3, 4, 5, 3), np.uint8)
        np.savez(self.folder / "a.npz", film=pictures, other=np.zeros(2))
        with self.assertRaisesRegex(SourceError, "holds 2 arrays: choose one in source.array: film, other"):
            self.open("a.npz")
        with self.assertRaisesRegex(SourceError, "no array 'flim'; did you mean film"):
            self.open("a.npz", array="flim")
        np.testing.assert_array_equal(self.at(self.open("a.npz", array="film"), 1)[..., :3], pictures[1])

    def test_slices_between_are_held_or_mixed(self):
        np.save(self.folder / "a.npy", np.stack([np.full((2, 2, 3), k, np.uint8) for k in (0, 100, 200)]))
        document = {
            "title": "T",
            "source": {"kind": "series", "file": "a.npy", "rate": "10", "between": "linear"},
            "clock": {"rate": "40", "frames": 9},
        }
        source = self.open("a.npy", rate="10", between="linear")
        inputs = PlanInputs("e", SourceIdentity("series", "a.npy", "d"), source.facts, Subject(None))
        plan = make_plan(read_shot_document(document), inputs)
        self.assertEqual(plan.frame_spec(0).shutter_samples[0].time_inputs["slot"], 0)
        self.assertNotIn("part", plan.frame_spec(4).shutter_samples[0].time_inputs)
        self.assertEqual(
            (
                plan.frame_spec(5).shutter_samples[0].time_inputs["slot"],
                plan.frame_spec(5).shutter_samples[0].time_inputs["part"],
            ),
            (1, "1/4"),
        )
        self.assertEqual(self.at(source, 1, "1/4")[0, 0, 0], 125)
        self.assertEqual(self.at(source, 2, "1/4")[0, 0, 0], 200, "after the last there is nothing to mix with")

    def test_a_table_grows_row_by_row_on_fixed_axes(self):
        table = pandas.DataFrame({"hour": range(20), "height": np.sin(np.arange(20.0)), "place": ["quay"] * 20})
        table.to_csv(self.folder / "t.csv", index=False)
        table.to_parquet(self.folder / "t.parquet")
        pictures = [self.at(self.open(name), 15) for name in ("t.csv", "t.parquet")]
        np.testing.assert_array_equal(pictures[0], pictures[1])
        source = self.open("t.csv")
        teal = [
            (np.abs(self.at(source, slot)[..., :3].astype(int) - (0x0B, 0x61, 0x67)).sum(-1) < 60).sum()
            for slot in (2, 10, 19)
        ]
        self.assertLess(teal[0], teal[1])
        self.assertLess(teal[1], teal[2])

    def test_a_table_by_the_values_of_a_column(self):
        rows = [(day, n * day) for day in (1, 2, 3) for n in range(4)]
        pandas.DataFrame(rows, columns=["day", "n"]).to_csv(self.folder / "t.csv", index=False)
        (self.folder / "draw.py").write_text(
            "import numpy as np\nfrom vexel.author import dial, sketch\n\n\n"
            "@sketch\ndef bars(slice, number, slices, top=dial(9, low=1, high=99)):\n"
            "    return np.tile(slice['n'] / top, (2, 1)) * (number + 1) / slices\n"
        )
        source = self.open("t.csv", by="day", draw="draw.py")
        self.assertEqual((source.facts.source_frames.count, source.facts.dials[0].name), (3, "top"))
        picture = source.show(asked({"slot": 2, "part": 0}, {"top": 9.0}))
        self.assertEqual(picture[0, :, 0].tolist(), [0, 85, 170, 255])
        with self.assertRaisesRegex(SourceError, "no column 'dya'; did you mean day"):
            self.open("t.csv", by="dya")
        with self.assertRaisesRegex(SourceError, "takes slice, which only a series gives"):
            SketchFile(self.folder / "draw.py").show(asked())
        before = source_files("series", self.folder / "t.csv", {"draw": "draw.py"}).digest
        (self.folder / "draw.py").write_text("x = 1\n")
        self.assertNotEqual(source_files("series", self.folder / "t.csv", {"draw": "draw.py"}).digest, before)

    def test_vtk_sets_by_number_and_by_collection(self):
        for n in range(4):
            mesh = pv.Sphere().cast_to_unstructured_grid()
            mesh["heat"] = np.full(mesh.n_points, float(n))
            mesh.save(self.folder / f"m_{n:02d}.vtu")
        source = self.open("m_02.vtu", between="linear")
        self.assertEqual((source.facts.source_frames.count, source.facts.pictures), (4, False))
        self.assertEqual([float(self.at(source, n)[0].mesh["heat"][0]) for n in (0, 3)], [0, 3])
        self.assertEqual(float(self.at(source, 1, "1/2")[0].mesh["heat"][0]), 1.5)
        entries = "".join(f'<DataSet timestep="{t}" file="m_{n:02d}.vtu"/>' for n, t in enumerate((0, 0.5, 2, 3)))
        (self.folder / "all.pvd").write_text(f'<VTKFile type="Collection"><Collection>{entries}</Collection></VTKFile>')
        collected = self.open("all.pvd")
        self.assertEqual(collected.facts.source_frames.times, ("0", "1/2", "2", "3"))
        self.assertEqual([odd.code for odd in collected.facts.findings], ["uneven-times"])
        (self.folder / "m_03.vtu").unlink()
        with self.assertRaisesRegex(SourceError, "m_03.vtu is missing"):
            self.at(collected, 3)

    def test_what_a_data_set_is_made_of_belongs_to_it(self):
        ball = pv.Sphere().cast_to_unstructured_grid()
        for n in range(2):
            pv.MultiBlock({"a": ball, "b": ball.translate((3, 0, 0))}).save(self.folder / f"m_{n}.vtm")
            ball.save(self.folder / f"p_{n}.vtu")
            (self.folder / f"p_{n}.pvtu").write_text(
                f'<VTKFile type="PUnstructuredGrid"><PUnstructuredGrid><PPoints><PDataArray type="Float32" '
                f'NumberOfComponents="3"/></PPoints><Piece Source="p_{n}.vtu"/></PUnstructuredGrid></VTKFile>'
            )
        entries = "".join(f'<DataSet timestep="{n}" file="m_{n}.vtm"/>' for n in range(2))
        (self.folder / "all.pvd").write_text(f'<VTKFile type="Collection"><Collection>{entries}</Collection></VTKFile>')
        for name, part, count in (("m_0.vtm", "m_1/m_1_0.vtu", 6), ("p_0.pvtu", "p_1.vtu", 4),
                                  ("all.pvd", "m_1/m_1_1.vtu", 7)):  # fmt: skip
            with self.subTest(name):
                source = self.open(name)
                self.assertEqual(source.facts.source_frames.count, 2)
                self.assertTrue(self.at(source, 1))
                before = source_files("series", self.folder / name)
                self.assertEqual(len(before.all_of("series")), count)
                self.assertEqual(source_files("series", self.folder / name).digest, before.digest)
                ball.scale(1.5).save(self.folder / part)
                self.assertNotEqual(source_files("series", self.folder / name).digest, before.digest)
                stamps = self.open(name).facts.source_frames.stamps, source.facts.source_frames.stamps
                self.assertEqual([one == other for one, other in zip(*stamps, strict=True)], [True, False])

    def test_parts_lie_in_the_folder_and_not_in_one_another(self):
        for named, words in (("../secret.vtu", "outside its folder"), ("a.vtm", "named through 8 other files"),
                             ("gone.vtu", "a.vtm names gone.vtu, which is missing")):  # fmt: skip
            (self.folder / "a.vtm").write_text(f'<VTKFile><vtkMultiBlockDataSet><DataSet file="{named}"/>'
                                               "</vtkMultiBlockDataSet></VTKFile>")  # fmt: skip
            with self.assertRaisesRegex((SourceError, Mistake), words):
                self.at(self.open("a.vtm"), 0)

    def test_what_cannot_be_read_is_said(self):
        (self.folder / "empty.csv").write_text("a,b\n")
        (self.folder / "words.csv").write_text("a,b\nx,y\n")
        (self.folder / "ragged.csv").write_text("a,b\n1,2\n1,2,3\n")
        (self.folder / "cut.npy").write_bytes(b"\x93NUMPY\x01\x00")
        np.save(self.folder / "deep.npy", np.zeros((2, 3, 4, 5)))
        np.save(self.folder / "texts.npy", np.array(["a", "b"]))
        (self.folder / "all.pvd").write_text("<VTKFile>")
        for name, words in (
            ("empty.csv", "has no rows"),
            ("words.csv", "no column of numbers to draw: it has a, b"),
            ("ragged.csv", "cannot be read as a table: .*line 3"),
            ("cut.npy", "cut.npy cannot be read as an array"),
            ("deep.npy", r"a slice of shape \(3, 4, 5\) cannot be drawn by default: name a drawing function"),
            ("texts.npy", "numbers with the slices along the first axis"),
            ("all.pvd", "not a readable PVD collection"),
        ):
            with self.subTest(name), self.assertRaisesRegex(SourceError, words):
                self.open(name)

    def test_what_is_missing_is_told(self):
        planes = np.ones((2, 3, 3))
        planes[1, 1, 1] = np.nan
        np.save(self.folder / "a.npy", planes)
        (self.folder / "t.csv").write_text("x,y\n1,2\n2,\n3,4\n")
        self.assertIn("1 value is not finite", source_sentence(self.open("a.npy").facts.findings[0]))
        self.assertEqual(self.at(self.open("a.npy"), 1)[1, 1, 3], 0)
        self.assertIn("1 of the values of y are missing", source_sentence(self.open("t.csv").facts.findings[0]))


if __name__ == "__main__":
    unittest.main()
