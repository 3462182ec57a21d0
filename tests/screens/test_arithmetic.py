"""The interface's arithmetic of aims, keys, views and patches, alone in a page of the browser.

It is held against the core, which a drag must agree with, and against RFC 7396.
"""

import json
import unittest

import numpy as np

from tests.screens.bundle import bundled_page
from vexel.core.camera.camera_path import orbit
from vexel.core.camera.framing import distance_to_fill
from vexel.core.errors import Mistake
from vexel.core.evaluate.frame_spec import CameraPose
from vexel.core.evaluate.views.point_at import point_at
from vexel.core.lanes.easing import Easing
from vexel.core.merge_patch import merged
from vexel.core.reel.reel_spec import edited_reel, read_reel_document
from vexel.core.typed_number import read_number
from vexel.web.routes.vocabulary import known

MODULES = {
    "aim": "pages/bench/camera/aim", "keys": "pages/bench/strip/keys", "view": "pages/bench/strip/view",
    "drawn": "pages/bench/camera/drawn", "merge": "api/merge", "known": "api/vocabulary",
    "words": "parts/entries/fraction", "typed": "parts/entries/typedNumber", "reel": "pages/reel/difference",
    "paths": "form/paths", "shortcuts": "parts/shell/shortcuts",
}  # fmt: skip
# Examples of RFC 7396, appendix A: a document, a patch, and what comes of them.
RFC_7396 = (
    ({"a": "b"}, {"a": "c"}, {"a": "c"}),
    ({"a": "b"}, {"b": "c"}, {"a": "b", "b": "c"}),
    ({"a": "b"}, {"a": None}, {}),
    ({"a": "b", "b": "c"}, {"a": None}, {"b": "c"}),
    ({"a": ["b"]}, {"a": "c"}, {"a": "c"}),
    ({"a": "c"}, {"a": ["b"]}, {"a": ["b"]}),
    ({"a": {"b": "c"}}, {"a": {"b": "d", "c": None}}, {"a": {"b": "d"}}),
    ({"a": [{"b": "c"}]}, {"a": [1]}, {"a": [1]}),
    (["a", "b"], ["c", "d"], ["c", "d"]),
    ({"a": "b"}, ["c"], ["c"]),
    ({"a": "foo"}, "bar", "bar"),
    ({"e": None}, {"a": 1}, {"e": None, "a": 1}),
    ([1, 2], {"a": "b", "c": None}, {"a": "b"}),
    ({}, {"a": {"bb": {"ccc": None}}}, {"a": {"bb": {}}}),
)
HIGH_DEG, RADIUS, CENTRE = 24.0, 1.5, (1.0, -2.0, 0.5)


class ArithmeticTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        case = unittest.TestCase()
        cls.addClassCleanup(case.doCleanups)
        cls.page = bundled_page(case, MODULES, known().model_dump_json())
        cls.addClassCleanup(cls.page.close)
        cls.page.evaluate("ui.known.loadVocabulary()")

    def ui(self, function, *arguments):
        """What a function of the interface makes of values of JSON."""
        return self.page.evaluate(f"(values) => ui.{function}(...values)", [*arguments])

    def test_easings_are_those_of_the_browser(self):
        """Chromium's own progress of a Web Animation, in which CSS Easing Functions 2 is built in."""
        ask = """([easing, times]) => { const a = document.body.animate([], {duration: 1000, easing, fill: 'both'});
          a.pause(); return times.map((t) => { a.currentTime = t; return a.effect.getComputedTiming().progress }) }"""
        times = [0, 1, 100, 125, 249, 250, 251, 333, 400, 500, 501, 666, 749, 750, 751, 900, 999]
        for easing in (
            "linear", "ease", "ease-in-out", "cubic-bezier(0.1, -0.4, 0.9, 1.5)", "steps(4)", "steps(4, jump-start)",
            "steps(4, start)", "steps(4, end)", "steps(3, jump-none)", "steps(4, jump-both)", "step-start",
            "step-end", "linear(0, 0.25 75%, 1)", "linear(0, 0.9 25% 50%, 0.2, 1)",
            "linear(0.3, 0.1 50%, 0.8 50%, 0.6)",
            "linear(0, 1 40%, 0.2 20%, 1)", "linear(-0.2 10%, 1.1 90%)",
        ):  # fmt: skip
            with self.subTest(easing):
                ours = Easing.parse(easing)(np.array(times) / 1000)
                np.testing.assert_allclose(ours, self.page.evaluate(ask, [easing, times]), atol=2e-5)

    def test_a_patch_is_merged_as_the_standard_and_the_server_say(self):
        for document, patch, result in RFC_7396:
            with self.subTest(json.dumps(patch)):
                self.assertEqual(self.ui("merge.merged", document, patch), result)
        rig = {"rig": {"kind": "orbit", "turns": 2, "fill": 0.5}}
        first, then = {"rig": {"kind": "still", "fill": 0.7}}, {"rig": {"start_deg": 9, "fill": None}}
        both = self.ui("merge.composed", first, then)
        self.assertEqual(self.ui("merge.merged", rig, both), merged(merged(rig, first), then))

    def test_a_press_is_one_shortcut_of_its_place(self):
        table = self.ui("shortcuts.SHORTCUTS.valueOf")
        by_place = {}
        for act, of in table.items():
            # The viewfinder and the strip have keys of their own, all else is heard everywhere in the Bench.
            place = "Bench" if of["group"] in ("Frames", "Shot") else of["group"]
            for press in of.get("presses", ()):
                self.assertNotIn(press, by_place.setdefault(place, {}), act)
                by_place[place][press] = act
        for key, ctrl, shift, act in (
            ("z", True, False, "undo"), ("Z", True, True, "redo"), ("y", True, False, "redo"),
            ("R", False, True, "loop"),
            ("?", False, True, "help"), ("r", True, False, None), ("z", False, False, None),
        ):  # fmt: skip
            press = {"key": key, "ctrlKey": ctrl, "metaKey": False, "shiftKey": shift}
            self.assertEqual(self.ui("shortcuts.shortcutOf", press, *table), act, key)
        self.assertEqual(self.ui("shortcuts.withKeys", "Save this view", "saveView"), "Save this view (v)")

    def pose(self, aim):
        """Where the core puts a camera that is aimed so."""
        path = orbit(
            np.array([aim["start_deg"]]), elevation_deg=aim["elevation_deg"], centre=tuple(aim["centre"]),
            distance=distance_to_fill(RADIUS, aim["fill"], HIGH_DEG),
        )  # fmt: skip
        return path.positions[0], path.targets[0], path.ups[0]

    def test_a_number_is_read_as_the_core_reads_it(self):
        for text in (
            "12", " 12.5 ", "12,5", "-0,25", "1,000", "-1,000", "1,000.5", "1,000,000", "0,125", "1000,5", "12,3456",
            ".5", "1,00,000", "soon", "", "1.2.3", "999,999", "1,000,00",
        ):  # fmt: skip
            with self.subTest(text):
                try:
                    expected = float(read_number(text))
                except Mistake:
                    expected = np.nan
                np.testing.assert_equal(float(self.ui("typed.numberOf", text)), expected)

    def test_items_of_a_reel_are_patched_as_the_core_patches_them(self):
        gaps = [{"kind": "gap", "frames": n} for n in range(1, 7)]
        for patch in (
            {}, {"remove": [0, 5]}, {"insert": {"0": gaps[:1], "6": gaps[1:3]}},
            {"change": {"2": {"frames": 90, "name": "rest"}}, "remove": [3], "insert": {"3": gaps[:2]}},
            {"change": {"1": {"frames": None, "seconds": 2.5}}}, {"remove": [2], "insert": {"2": gaps[4:]}},
        ):  # fmt: skip
            with self.subTest(patch):
                reel = read_reel_document({"title": "R", "items": gaps})
                expected = [item.frames for item in edited_reel(reel, {"items": patch}).items]
                self.assertEqual([item.get("frames") for item in self.ui("reel.patchedItems", gaps, patch)], expected)

    def test_a_patch_sets_what_its_paths_say(self):
        document = {"camera": {"lens": {"shift_mm": [1, 2], "f_stop": 4}}, "title": "T"}
        sets = {"camera.lens.shift_mm.1": 7, "camera.lens.f_stop": None, "clock.rate": "25"}
        patch = self.ui("paths.patchOf", document, sets)
        self.assertEqual(patch, {"camera": {"lens": {"shift_mm": [1, 7], "f_stop": None}}, "clock": {"rate": "25"}})
        for conditions, expected in (
            ([], True),
            ([{"path": "camera.lens.f_stop", "values": [4], "holds": True}], True),
            ([{"path": "camera.lens.f_stop", "values": [None, 0], "holds": False}], True),
            ([{"path": "camera.lens.none.at.all", "values": [None], "holds": True}], True),
            ([{"path": "$looks", "values": [True], "holds": True}], False),
            ([{"path": "title", "values": ["T", "U"], "holds": False}], False),
        ):  # fmt: skip
            self.assertIs(self.ui("paths.holds", conditions, document, {}), expected, conditions)

    def test_a_free_look_begins_where_the_core_has_the_camera(self):
        for start, elevation, fill in ((0, 18, 0.8), (-135, 60, 0.3), (179, -40, 1.2)):
            aim = {"start_deg": start, "elevation_deg": elevation, "fill": fill, "centre": list(CENTRE)}
            position, target, _ = self.pose(aim)
            path = {"frames": [0], "positions": [position.tolist()], "looks": [target.tolist()]}
            figures = {"cameras": [path], "radius": RADIUS, "centre": CENTRE}
            found = self.ui("aim.aimAt", figures, 0, 0, HIGH_DEG)
            for name, value in aim.items():
                np.testing.assert_allclose(found[name], value, atol=0.006, err_msg=name)

    def test_panning_takes_a_point_of_the_picture_along(self):
        aim = {"start_deg": 35, "elevation_deg": 25, "fill": 0.6, "centre": list(CENTRE)}
        figures = {"radius": RADIUS, "centre": CENTRE}
        moved = self.ui("aim.panned", aim, figures, HIGH_DEG, 0.25, -0.1)
        position, target, up = self.pose(aim)
        pose = CameraPose(tuple(position), tuple(target), tuple(up), HIGH_DEG, 0.1, 100)
        distance = float(np.linalg.norm(position - target))
        # A quarter of the frame's height to the right and a tenth down, in a frame as wide as high.
        expected = point_at(pose, 1.0, 0.75, 0.6, distance)
        np.testing.assert_allclose(moved["centre"], expected, rtol=1e-4, atol=1e-5)

    def test_turning_wraps_and_stops_at_the_poles_and_filling_at_the_bounds(self):
        aim = {"start_deg": 170, "elevation_deg": 80, "fill": 3.9}
        turned = self.ui("aim.turned", aim, -20, 30)
        self.assertEqual((turned["start_deg"], turned["elevation_deg"]), (-170, 90))
        self.assertEqual(self.ui("aim.nearer", aim, 2)["fill"], 4)
        self.assertEqual(self.ui("aim.nearer", aim | {"distance": 8}, 2)["distance"], 4)
        self.assertEqual(self.ui("aim.rolled", aim, 200)["roll_deg"], -160)

    def test_handles_are_those_of_the_easing_that_captures(self):
        progress = np.linspace(0, 1, 51)
        for name in ("ease", "ease-in", "ease-out", "ease-in-out"):
            text = self.ui("keys.bezier", self.ui("keys.handlesOf", name))
            np.testing.assert_allclose(Easing.parse(text)(progress.copy()), Easing.parse(name)(progress.copy()))
        self.assertEqual(self.ui("keys.handlesOf", "cubic-bezier(0.4, -1, .2, 1)"), [0.4, -1, 0.2, 1])
        for name in ("linear", "hold", "spring", "cubic-bezier(1, 2)", "steps(3)"):
            self.assertIsNone(self.ui("keys.handlesOf", name), name)

    def lane(self, **parts):
        simple = {"repeat": 1, "back": False, "offset": 0, "within": [0, 1]}
        return {"drive": "dial:a", "at": "phase", "keys": [[0, 1], [0.5, 2], [1, 3]], "ease": "linear"} | simple | parts

    def shot(self, frames=48, **clock):
        """As much of a served shot as the keys need: a loop of so many frames at 24 a second."""
        return {
            "document": {"clock": {"first": 0, "every": 1, "hold_start": 0} | clock, "ease": "linear"},
            "timing": {"steps": frames, "own_steps": frames, "rate": "24"},
            "curves": [],
        }

    def dragged(self, lane, chosen, frames, heights=0, snap=True, bounds=None, shot=None):
        by = {"frames": frames, "heights": heights, "snap": snap}
        script = "([s, l, c, b, bounds]) => ui.keys.moved(s, [l], c, b, () => bounds)[0].keys"
        keys = [{"drive": "dial:a", "key": n} for n in chosen]
        return self.page.evaluate(script, [shot or self.shot(), lane, keys, by, bounds])

    def test_a_key_goes_by_whole_frames_keeps_its_order_and_its_bounds(self):
        self.assertEqual(self.dragged(self.lane(), [1], 5.4), [[0, 1], [0.604166666667, 2], [1, 3]])
        self.assertEqual(self.dragged(self.lane(at="seconds", keys=[[0, 1], [1, 2]]), [1], 6), [[0, 1], [1.25, 2]])
        self.assertEqual(self.dragged(self.lane(at="frames", keys=[[0, 1], [8, 2]]), [1], 0.5, snap=False)[1][0], 8.5)
        past = self.dragged(self.lane(), [1], 400)
        self.assertLess(past[1][0], 1)
        self.assertGreater(past[1][0], 0.99)
        self.assertEqual(self.dragged(self.lane(), [1], 0, heights=9, bounds=[0, 2.5])[1], [0.5, 2.5])

    def test_keys_of_a_shot_that_shows_every_second_frame_lie_where_the_core_has_them(self):
        shot = self.shot(48, first=4, every=2, hold_start=3)
        script = "([s, l, place]) => ui.keys.along(s, l).frameOf(place)"
        # Place 0.5 is motion frame 24: shown as (24 - 4) / 2, after 3 held frames.
        self.assertEqual(self.page.evaluate(script, [shot, self.lane(), 0.5]), 13)
        back = "([s, l, f]) => ui.keys.along(s, l).placeAt(f)"
        self.assertEqual(self.page.evaluate(back, [shot, self.lane(), 13]), 0.5)

    def test_keys_are_added_on_the_curve_and_one_is_left(self):
        lane = self.lane()
        self.assertEqual(self.ui("keys.withKeyAt", lane, 0.25, 1.5)["keys"][1], [0.25, 1.5])
        self.assertEqual(self.ui("keys.withKeyAt", lane, 0.5, 9)["keys"], lane["keys"])
        every = [{"drive": "dial:a", "key": n} for n in range(3)]
        self.assertEqual(self.ui("keys.without", [lane], every)[0]["keys"], [[0, 1]])

    def test_zooming_keeps_the_place_under_the_pointer(self):
        view = {"from": 100, "to": 300}
        zoomed = self.ui("view.zoomed", view, 1000, 4, 150)
        self.assertEqual(zoomed, {"from": 137.5, "to": 187.5})
        self.assertEqual(self.ui("view.xOf", 150, view, 800), self.ui("view.xOf", 150, zoomed, 800))
        self.assertEqual(self.ui("view.zoomed", view, 1000, 0.01, 150), {"from": 0, "to": 1000})
        self.assertEqual(self.ui("view.holding", view, 1000, 300), {"from": 101, "to": 301})
        self.assertEqual(self.ui("words.fraction", "30000/1001"), 30000 / 1001)

    def test_a_drag_on_the_plan_moves_what_the_pointer_moves(self):
        path = {"positions": [[-6, -6, 2], [6, 6, 3]], "looks": [[0, 0, 0]] * 2, "frames": [0, 1]}
        figures = {"cameras": [path], "places": [], "centre": [0, 0, 0], "radius": 2}
        paper = self.ui("drawn.paperOf", figures, 400, 400)
        for side, (dx, dy) in zip(paper["sides"], ((12, -30), (7, 9)), strict=True):
            before = self.ui("drawn.placed", paper, side, [1, 2, 3])
            after = self.ui("drawn.placed", paper, side, self.ui("drawn.moved", paper, side, [1, 2, 3], dx, dy))
            np.testing.assert_allclose(np.subtract(after, before), (dx, dy), atol=0.05)


if __name__ == "__main__":
    unittest.main()
