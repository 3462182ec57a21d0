"""Variants of a shot: their order against itertools, samples against scipy.stats.qmc, and what is refused."""

import itertools
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import qmc

from tests.helpers import shot_document
from vexel.core.camera.framing import Sphere
from vexel.core.document.shot import Shot, read_shot_document
from vexel.core.document.sweep_spec import SweepSpec
from vexel.core.errors import Mistake
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, SourceFacts, Subject
from vexel.core.evaluate.swept_plan import plan_of_sweep
from vexel.core.lanes.dial import Dial
from vexel.core.sweep.reel_of_sweep import reel_of_sweep
from vexel.core.sweep.sheet import sheet_rows
from vexel.core.sweep.table import read_table
from vexel.core.sweep.variants import check_dials, chosen, said_size, swept_shot, variant_shot, variants

SIZES = {"over": "dial:size", "values": [1, 2.5, 4]}
LIGHTS = {"over": "light:azimuth", "first": -60, "last": 60, "steps": 3}
DIALS = (Dial("size", 1, 0, 9), Dial("turn", 0, 0, 9))
INPUTS = PlanInputs(
    "e", SourceIdentity("model", "a.py", "0"), SourceFacts(DIALS, ("phase",)), Subject(Sphere((0, 0, 0), 1))
)


def shot(frames=8, lanes=(), views=(), picture=(), **sweep) -> Shot:
    document = shot_document({"kind": "model", "file": "a.py"}, frames, lanes=list(lanes), sweep=sweep or None)
    document["picture"] |= dict(picture)
    document["camera"] = {"views": list(views)}
    return read_shot_document(document)


def names(**sweep):
    return [one.name for one in variants(SweepSpec.model_validate(sweep, strict=False))]


class VariantsTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.integers(1, 5), min_size=1, max_size=4))
    def test_crossed_axes_are_the_product_in_its_order(self, lengths):
        axes = [
            {"over": f"dial:d{n}", "first": 0, "last": length - 1, "steps": length} for n, length in enumerate(lengths)
        ]
        found = variants(SweepSpec.model_validate({"axes": axes}, strict=False))
        self.assertEqual(
            [tuple(one.values.values()) for one in found],
            [tuple(map(float, one)) for one in itertools.product(*map(range, lengths))],
        )
        self.assertEqual([one.number for one in found], list(range(1, len(found) + 1)))
        self.assertEqual(len({one.name for one in found}), len(found))

    def test_axes_in_step_and_steps_between_ends(self):
        found = variants(shot(axes=[SIZES, LIGHTS], join="paired").sweep)
        self.assertEqual([tuple(one.values.values()) for one in found], [(1, -60), (2.5, 0), (4, 60)])
        np.testing.assert_allclose(
            [one.values["light:azimuth"] for one in variants(shot(axes=[LIGHTS | {"steps": 7}]).sweep)],
            np.linspace(-60, 60, 7),
        )

    def test_samples_are_those_of_scipy(self):
        ends = [("dial:a", 0, 9), ("dial:b", 5, -5)]
        axes = [{"over": over, "first": first, "last": last} for over, first, last in ends]
        low, high = np.array([0, -5]), np.array([9, 5])
        for method, unit in (
            ("latin", qmc.LatinHypercube(2, rng=np.random.default_rng(7)).random(6)),
            ("sobol", qmc.Sobol(2, rng=np.random.default_rng(7)).random_base2(3)[:6]),
            ("uniform", np.random.default_rng(7).random((6, 2))),
        ):
            sample = {"count": 6, "seed": 7, "method": method}
            found = variants(shot(axes=axes, sample=sample).sweep)
            values = [list(one.values.values()) for one in found]
            np.testing.assert_allclose(values, qmc.scale(unit, low, high), atol=1e-3, err_msg=method)
            other = variants(shot(axes=axes, sample=sample | {"seed": 8}).sweep)
            self.assertNotEqual(values, [list(one.values.values()) for one in other])
        both = variants(shot(axes=[*axes, SIZES], sample={"count": 6}).sweep)
        self.assertEqual(len(both), 18, "sampled together, crossed with the others")

    def test_names_by_a_pattern_and_by_a_table(self):
        self.assertEqual(names(axes=[SIZES]), ["size 1", "size 2.5", "size 4"])
        self.assertEqual(names(axes=[SIZES], name="{variant}: {size} m"), ["1: 1 m", "2: 2.5 m", "3: 4 m"])
        table = read_table('name;size;light:azimuth\nsmall;0,5;10\n\n"large; wide";4;-3\n')
        found = variants(SweepSpec.model_validate({"table": table.model_dump()}, strict=False))
        self.assertEqual([one.name for one in found], ["small", "large; wide"])
        self.assertEqual(dict(found[0].values), {"dial:size": 0.5, "light:azimuth": 10})

    def test_left_out_and_marked(self):
        sweep = shot(axes=[SIZES], without=["size 2.5"], favourites=["size 4", "size 2.5"]).sweep
        self.assertEqual([one.name for one in chosen(sweep)], ["size 1", "size 4"])
        self.assertEqual([one.name for one in chosen(sweep, favourites=True)], ["size 4"])

    def test_rows_and_columns_of_the_sheet(self):
        sweep = shot(axes=[SIZES, LIGHTS], without=["size 1, azimuth 0"]).sweep
        rows = [[one and one.name for one in row] for row in sheet_rows(sweep)]
        self.assertEqual((len(rows), rows[0][1], rows[2][2]), (3, None, "size 4, azimuth 60"))
        self.assertEqual([len(row) for row in sheet_rows(shot(axes=[SIZES]).sweep)], [2, 1])


class ShotsTest(unittest.TestCase):
    def test_each_variant_is_the_shot_with_its_values(self):
        view = {"name": "door", "position": [9, 0, 0], "look": [0, 0, 1], "shows": {"dial:turn": 2}}
        base = shot(views=[view], axes=[SIZES, {"over": "background", "values": ["#000000", "transparent"]},
                                        {"over": "view", "values": ["door"]}])  # fmt: skip
        last = variant_shot(base, variants(base.sweep)[-1])
        self.assertEqual(last.source.dials, {"size": 4, "turn": 2})
        self.assertEqual((last.picture.background, last.camera.rig.kind, last.sweep), ("transparent", "still", None))
        self.assertEqual(last.camera.rig.position, (9, 0, 0))
        self.assertIn("6 size 4", last.title)
        self.assertEqual(said_size(base, 6), "6 variants × 8 frames = 48 pictures")

    def test_fields_of_frame_names(self):
        document = shot(axes=[SIZES]).model_dump(mode="json")
        document["names"]["pattern"] = "{size}_{variant}.{frame:03}"
        base = read_shot_document(document)
        self.assertEqual(variant_shot(base, variants(base.sweep)[1]).file_name(4), "2.5_size-2.5.004.png")
        self.assertEqual(base.file_name(4), "shot_shot.004.png", "of the shot itself")
        film = swept_shot(base.model_copy(update={"sweep": base.sweep.model_copy(update={"makes": "film"})}),
                          variants(base.sweep))  # fmt: skip
        self.assertEqual(film.file_name(2), "4_size-4.002.png")
        document["names"]["pattern"] = "{colour}.{frame}"
        with self.assertRaisesRegex(Mistake, "colour"):
            read_shot_document(document)

    def test_a_document_of_a_take_has_a_row_for_each_frame(self):
        swept = swept_shot(base := shot(axes=[SIZES], makes="film"), chosen(base.sweep)).model_dump(mode="json")
        for part, patch, words in (
            ("clock", {"frames": 4}, "3 variants for 4 frames"),
            ("sweep", {"table": {"columns": ["size"], "rows": [[1], [2], [3]]}}, "which name each"),
        ):
            with self.subTest(words), self.assertRaisesRegex(Mistake, words):
                read_shot_document(swept | {part: swept[part] | patch})

    def test_frames_of_one_take_are_those_of_the_variants_shots(self):
        for makes, instant in (("stills", lambda n: 5), ("film", lambda n: n)):
            base = shot(axes=[SIZES, LIGHTS], makes=makes, frame=5, without=["size 1, azimuth 0"])
            kept = chosen(base.sweep)
            swept = swept_shot(base, kept)
            plan = plan_of_sweep(swept, INPUTS)
            self.assertEqual((plan.clock.frames, swept.pictures), (8, 8))
            of_shot = base if makes == "stills" else swept.model_copy(update={"sweep": base.sweep})
            for number, one in enumerate(kept):
                own = make_plan(variant_shot(of_shot, one), INPUTS)
                self.assertEqual(plan.frame_spec(number).key, own.frame_spec(instant(number)).key, (makes, number))
                self.assertNotEqual(plan.frame_spec(number).key, own.frame_spec(instant(number) ^ 1).key)
            once_more = swept_shot(swept, chosen(swept.sweep))
            self.assertEqual(plan_of_sweep(once_more, INPUTS).digest, plan.digest, "a take's document, captured again")
            again = read_shot_document(swept.model_dump(mode="json"))
            self.assertEqual(plan_of_sweep(again, INPUTS).digest, plan.digest)

    def test_one_subject_for_all_variants_of_a_take(self):
        asked = []
        swept = swept_shot(base := shot(axes=[SIZES], makes="stills", frame=2), chosen(base.sweep))
        plan_of_sweep(swept, INPUTS, lambda moments: asked.extend(moments) or INPUTS.subject)
        self.assertEqual([dials["size"] for dials, _ in asked], [1, 2.5, 4])

    def test_a_shot_without_variants_keeps_its_plan(self):
        plain, swept = make_plan(shot(), INPUTS), make_plan(shot(axes=[SIZES]), INPUTS)
        self.assertEqual(plain.digest, swept.digest)


class ReelTest(unittest.TestCase):
    def test_takes_one_after_another_or_in_a_grid(self):
        base = shot(axes=[SIZES])
        runs = {"size 1": "run:3", "size 2.5": "../takes/4", "size 4": "run:9"}
        row = reel_of_sweep(base, runs, "one after another")["items"]
        self.assertEqual([item.get("take") or item["text"] for item in row],
                         ["size 1", "run:3", "size 2.5", "../takes/4", "size 4", "run:9"])  # fmt: skip
        (grid,) = reel_of_sweep(base, runs, "grid")["items"]
        self.assertEqual((grid["columns"], [cell["caption"] for cell in grid["cells"]]), (2, list(runs)))
        with self.assertRaisesRegex(Mistake, "1 of 3 variants have no take, such as size 4: capture"):
            reel_of_sweep(base, {"size 1": "run:3", "size 2.5": "run:4"}, "grid")


class RefusedTest(unittest.TestCase):
    def test_each_is_a_sentence_with_the_cure(self):
        wide = [{"over": f"dial:d{n}", "first": 0, "last": 1, "steps": 100} for n in range(4)]
        for sweep, words in (
            ({"axes": []}, "no axis: add one"),
            ({"axes": [{"over": "dial:size"}]}, "has no values: list some"),
            ({"axes": [SIZES | {"first": 1, "last": 2}]}, "values and ends as well"),
            ({"axes": [SIZES, SIZES]}, "two axes of the sweep vary dial:size"),
            ({"axes": wide}, "100,000,000 variants, and 10,000 are the most"),
            ({"axes": [SIZES, LIGHTS | {"steps": 2}], "join": "paired"}, "dial:size 3, light:azimuth 2"),
            ({"axes": [{"over": "dial:size", "values": [1, 1]}]}, "1 and 2 are both named 'size 1'"),
            ({"axes": [SIZES], "name": "{sizes}"}, r"no field \{sizes\}: did you mean size"),
            ({"axes": [SIZES], "without": ["size 3"]}, "names 'size 3', but no variant"),
            ({"axes": [SIZES], "without": ["size 1", "size 2.5", "size 4"]}, "all variants are left out"),
            ({"table": {"columns": ["size"], "rows": [[1, 2]]}}, "row 1 of the table has 2 values for 1 columns"),
            ({"table": {"columns": ["name"], "rows": [["a"]]}}, "no column but the names"),
            ({"table": {"columns": ["a"], "rows": [[1]]}, "axes": [SIZES]}, "axes and a table"),
        ):
            with self.subTest(words), self.assertRaisesRegex((Mistake, ValueError), words):
                chosen(SweepSpec.model_validate(sweep, strict=False))

    def test_values_that_do_not_fit_the_shot(self):
        lane = {"drive": "dial:size", "keys": [[0, 1], [1, 2]]}
        for axis, words in (
            ({"over": "light:elevation", "values": [91]}, "variant elevation 91: .*90"),
            ({"over": "light:azimut", "values": [1]}, "did you mean azimuth"),
            ({"over": "weather", "values": ["fine"]}, "cannot vary 'weather'"),
            ({"over": "view", "values": ["door"]}, "no saved view 'door': save one"),
            ({"over": "background", "values": ["blue"]}, "is not a background"),
            ({"over": "dial:turn", "values": ["x"]}, "give a number"),
            ({"over": "background", "values": [1]}, "give a text"),
            ({"over": "dial:size", "values": [2]}, "a lane drives dial:size: remove the lane"),
        ):
            base = shot(lanes=[lane], axes=[axis])
            with self.subTest(words), self.assertRaisesRegex(Mistake, words):
                variant_shot(base, variants(base.sweep)[0])
        view = {"name": "door", "position": [9, 0, 0], "look": [0, 0, 1], "shows": {"opacity:hull": 0.5}}
        base = shot(views=[view], axes=[{"over": "view", "values": ["door"]}])
        with self.assertRaisesRegex(Mistake, "shows opacity:hull, which a variant cannot"):
            variant_shot(base, variants(base.sweep)[0])
        with self.assertRaisesRegex(Mistake, "variant size 10: 10 is outside the dial size"):
            check_dials(variants(shot(axes=[{"over": "dial:size", "values": [1, 10]}]).sweep), DIALS)
        with self.assertRaisesRegex(Mistake, "no dial 'siz'; did you mean size"):
            check_dials(variants(shot(axes=[{"over": "dial:siz", "values": [1]}]).sweep), DIALS)

    def test_what_cannot_be_in_one_take(self):
        for parts, words in (
            ({"axes": [{"over": "source", "values": ["b.py"]}]}, "a take has one source"),
            ({"axes": [{"over": "background", "values": ["image:a.png"]}]}, "one image behind it"),
            ({"axes": [SIZES], "picture": {"passes": ["depth"]}}, "other codes in each variant"),
        ):
            base = shot(makes="film", **parts)
            with self.subTest(words), self.assertRaisesRegex(Mistake, words):
                swept_shot(base, chosen(base.sweep))

    def test_tables(self):
        for text, words in (
            ("", "has no rows"),
            ("size\n", "has no rows"),
            ("size,turn\n1\n", "line 2: 1 values for 2 columns"),
            ("size,turn\n1,\n", "line 2: turn has no value"),
            ("size,size\n1,2\n", "two columns of the table are called size"),
            ("size\n" + "1\n" * 10_001, "10,001 rows, and 10,000 are the most"),
            ('size\n"1\n', "not a table"),
        ):
            with self.subTest(words), self.assertRaisesRegex(Mistake, words):
                read_table(text)


if __name__ == "__main__":
    unittest.main()
