"""The picture: framing in pixels, colours, normals, alpha and repeatability."""

import dataclasses
import unittest

import numpy as np

from tests.helpers import HEADER, plan_on, scratch, shot_document
from vexel.core.camera.framing import Sphere
from vexel.core.document.label import Label
from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, SourceAt, SourceFacts, Subject
from vexel.stage.blending.accumulate import mean_of_samples
from vexel.stage.renderer import Renderer

ENDS = {"rate": "12", "frames": 6, "span": "ends"}
BALL = "@model\ndef ball():\n    return part(pv.Sphere(radius=3, theta_resolution=90, phi_resolution=90), {})\n"


class StageTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.stage = Renderer()

    def picture(self, code, frame=0, **parts):
        folder = scratch(self)
        (folder / "thing.py").write_text(HEADER + code)
        document = shot_document({"kind": "model", "file": "thing.py"}, **parts)
        document["picture"] = {"width": 160, "height": 120, "samples": 4} | parts.get("picture", {})
        shot = Shot.model_validate(document, strict=False)
        at = SourceAt("model", folder / "thing.py")
        return self.stage.picture(at, plan_on(self.stage, shot, at, (160, 120)).frame_spec(frame))

    def test_the_sphere_fills_what_was_asked_for(self):
        rig = {"kind": "orbit", "fill": 0.75}
        picture = self.picture(
            BALL.format("colour='#ffffff'"), camera={"rig": rig}, picture={"background": "transparent"}
        )
        rows = np.flatnonzero(picture[..., 3].any(axis=1))
        self.assertAlmostEqual(len(rows) / 120, 0.75, delta=0.02)
        self.assertAlmostEqual(rows.mean(), 59.5, delta=0.6)

    def test_light_is_even_and_leaves_the_hue(self):
        picture = self.picture(BALL.format("colour='#c84020'")).astype(int)
        red, green = picture[60, 80, :2]
        self.assertGreater(red, 140)
        self.assertLess(abs(green / red - 0x40 / 0xC8), 0.12)
        self.assertGreater(picture[75, 95, 0], 60, "no side of the subject is left black")

    def test_the_meshs_own_colours_come_through(self):
        code = (
            "@model\ndef two():\n    m = pv.Sphere()\n"
            "    m['RGB'] = np.where(m.points[:, :1] < 0, [[0, 0, 250]], [[250, 0, 0]]).astype(np.uint8)\n"
            "    return m\n"
        )
        picture = self.picture(code).astype(int)
        left, right = picture[60, 50], picture[60, 110]
        self.assertGreater(left[2], left[0] + 80)
        self.assertGreater(right[0], right[2] + 80)

    def test_scalars_pass_through_their_colour_map(self):
        code = (
            "@model\ndef up():\n    m = pv.Sphere()\n    m['z'] = m.points[:, 2]\n"
            "    return part(m, scalars='z', colour_map='coolwarm')\n"
        )
        picture = self.picture(code).astype(int)
        top, bottom = picture[25, 80], picture[95, 80]
        self.assertGreater(top[0], top[2] + 40)
        self.assertGreater(bottom[2], bottom[0] + 30)

    def test_smooth_normals_shade_without_facets(self):
        # A coarse ball: with smooth normals, brightness changes gently from pixel to pixel.
        ball = "pv.Sphere(theta_resolution=14, phi_resolution=14)"
        code = f"@model\ndef ball():\n    return part({ball}, colour='#ffffff', smooth={{}})\n"

        def roughest(smooth):
            row = self.picture(code.format(smooth), picture={"samples": 1})[60, 50:110, 0].astype(int)
            return np.abs(np.diff(row)).max()

        self.assertLess(roughest("True") * 2, roughest("False"))

    def test_a_frame_is_the_same_alone_and_among_others(self):
        code = BALL.format("colour='#808080'")
        alone = self.picture(code, frame=4)
        for frame in (0, 1, 2):
            self.picture(code, frame=frame)
        self.assertTrue((self.picture(code, frame=4) == alone).all())

    def test_source_is_read_anew_when_it_is_another(self):
        red, blue = (self.picture(BALL.format(f"colour='{c}'"))[60, 80] for c in ("#ff0000", "#0000ff"))
        self.assertGreater(red[0], red[2])
        self.assertGreater(blue[2], blue[0])

    def test_lanes_move_the_light(self):
        lanes = [
            {"drive": "light:azimuth", "keys": [[0, -70], [1, 70]]},
            {"drive": "light:strength", "keys": [[0, 1.2]]},
        ]
        first, last = (self.picture(BALL.format("colour='#909090'"), n, lanes=lanes, clock=ENDS) for n in (0, 5))
        for picture, sign in ((first, 1), (last, -1)):
            left, right = picture[60, 45, 0].astype(int), picture[60, 115, 0].astype(int)
            self.assertGreater(sign * (left - right), 30)

    def test_a_part_fades_before_another(self):
        code = (
            "@model\ndef two():\n"
            "    return [part(pv.Sphere(radius=1), colour='#ff0000', name='core'),\n"
            "            part(pv.Sphere(radius=2), colour='#0000ff', name='hull')]\n"
        )
        lanes = [{"drive": "opacity:hull", "keys": [[0, 1], [0.5, 0.5], [1, 0]]}]
        solid, half, gone = (self.picture(code, n, lanes=lanes, clock=ENDS | {"frames": 5})[60, 80] for n in (0, 2, 4))
        self.assertTrue(solid[0] < 5 and gone[2] < 5, (solid, gone))
        self.assertTrue(half[0] > 40 and half[2] > 40, half)
        with self.assertRaisesRegex(Mistake, "no part 'hul'; did you mean hull"):
            self.picture(code, lanes=[{"drive": "opacity:hul", "keys": [[0, 1]]}])

    def test_the_ends_of_a_colour_map_are_driven(self):
        code = "@model\ndef up():\n    m = pv.Sphere()\n    m['z'] = m.points[:, 2]\n    return part(m, scalars='z')\n"
        lanes = [{"drive": "range-high:z", "keys": [[0, 0.5], [1, 50]]}]
        first, last = (self.picture(code, n, lanes=lanes, clock=ENDS)[25, 80].astype(int) for n in (0, 5))
        self.assertGreater(first[1], last[1] + 60, "the top of viridis is yellow, its foot is violet")

    def test_an_open_shutter_blurs_what_moves(self):
        code = "@model\ndef there(x=dial(0, low=-9, high=9)):\n    return pv.Cube(center=(x, 0, 0))\n"
        lanes = [{"drive": "dial:x", "keys": [[0, -3], [1, 3]]}]
        still = {"turns": 0, "kind": "orbit", "elevation_deg": 0}
        wide = []
        for shutter in ("0", "180°", "360°"):
            picture = self.picture(
                code, 3, lanes=lanes, clock=ENDS | {"frames": 7, "shutter": shutter}, camera={"rig": still},
                picture={"samples": 32, "background": "transparent"},
            )  # fmt: skip
            wide.append((picture[60, :, 3] > 4).sum())
        # A cube of 1 moves by 1 a frame, so that it covers 1.5 of its widths in half a frame, and 2 in a whole one.
        self.assertAlmostEqual(wide[1] / wide[0], 1.5, delta=0.12)
        self.assertAlmostEqual(wide[2] / wide[0], 2, delta=0.15)

    def test_in_parallel_projection_far_is_as_large_as_near(self):
        code = (
            "@model\ndef two():\n    return [part(pv.Cube(center=(x, y, 0)), colour='#ffffff')"
            " for x, y in ((-2, -6), (2, 6))]\n"
        )
        rig = {"kind": "still", "elevation_deg": 0, "fill": 0.9}

        def heights(**lens):
            picture = self.picture(
                code, camera={"rig": rig, "lens": lens}, picture={"samples": 16, "background": "transparent"}
            )
            columns = (picture[..., 3] > 127).sum(axis=0)
            return columns[:80].max(), columns[80:].max()

        near, far = heights(projection="parallel")
        self.assertEqual(near, far)
        # The sphere about both, of radius |(2.5, 6.5, 0.5)|, takes 0.9 of the frame's 120 pixels.
        self.assertAlmostEqual(near, 120 * 0.9 / (2 * (2.5**2 + 6.5**2 + 0.5**2) ** 0.5), delta=1)
        near, far = heights()
        self.assertGreater(near, 1.2 * far)

    def test_what_is_in_focus_stays_sharp(self):
        # Two thin bars, 22 and 18 from the camera.
        code = (
            "@model\ndef bars():\n    bar = pv.Cube(x_length=6, y_length=0.05, z_length=0.3)\n"
            "    return [part(bar.translate(place), colour='#ffffff') for place in ((0, 0, 1), (0, -4, -1))]\n"
        )
        camera = {"rig": {"kind": "orbit", "turns": 0, "elevation_deg": 0}}

        def heights(**lens):
            picture = self.picture(
                code, camera=camera | {"lens": lens}, picture={"samples": 64, "background": "#000000"}
            )
            column = picture[:, 80, 0].astype(int)
            return [int((half > 8).sum()) for half in (column[:60], column[60:])]

        sharp, far, near = heights(), *(heights(f_stop=1, unit_mm=10, focus=distance) for distance in (22, 18))
        for n, focused, other in ((0, far, near), (1, near, far)):
            self.assertAlmostEqual(focused[n], sharp[n], delta=1)
            self.assertGreater(other[n], sharp[n] + 5)

    def test_textures_colour_what_is_lit_and_no_numbers_and_may_have_holes(self):
        code = (
            "@model\ndef card():\n    from vexel.sources.meshes.parts import Part\n"
            "    image = np.full((64, 64, 4), (220, 60, 40, 255), np.uint8)\n    image[16:48, 16:48, 3] = 0\n"
            "    card = pv.Plane(i_size=2, j_size=2, direction=(0, -1, 0)).triangulate()\n"
            "    behind = pv.Plane(center=(0, 1, 0), i_size=1.6, j_size=1.6, direction=(-0.5, -1, 0))\n"
            "    return [part(behind, colour='#3060c0'), Part(card, texture=image, cutoff=0.5)]\n"
        )
        camera = {"rig": {"kind": "still", "elevation_deg": 0}}
        seen = {}
        for name in ("shaded", "normal", "clay", "matte"):
            picture = self.picture(code, camera=camera, picture={"passes": [name], "samples": 1})
            seen[name] = [picture[60, x, :3].astype(int) for x in (52, 80)]
        self.assertGreater(seen["shaded"][0][0], seen["shaded"][0][2] + 80, "red")
        self.assertGreater(seen["shaded"][1][2], seen["shaded"][1][0] + 40, "blue, through the hole")
        np.testing.assert_allclose(seen["normal"][0], (128, 128, 255), atol=1)
        self.assertLess(seen["normal"][1][0], 100, "the one behind leans")
        np.testing.assert_allclose(seen["clay"][0] / seen["clay"][0].max(), np.array([207, 198, 184]) / 207, atol=0.05)
        self.assertTrue((np.abs(seen["matte"][0] - seen["matte"][1]) > 40).any())

    def test_blur_of_a_moving_subject_out_of_focus_is_even(self):
        """A plain scene that moves evenly looks alike from both ends of its blur: dealt out in order, it did not."""
        code = (
            "@model\ndef passing(x=dial(0.0, low=-9, high=9)):\n"
            "    return [part(pv.Box((x - 0.4, x + 0.4, -0.1, 0.1, -0.4, 0.4)), colour='#ffffff'), "
            "part(pv.Box((-9, 9, 40, 40.1, -9, 9)), colour='#000000')]\n"
        )
        lanes = [{"drive": "dial:x", "keys": [[0, -5], [1, 5]]}]
        lens = {"f_stop": 1, "unit_mm": 10, "focus": 40}
        rig = {"kind": "still", "position": [0, -20, 0], "centre": [0, 0, 0]}
        picture = self.picture(
            code, 2, lanes=lanes, camera={"rig": rig, "lens": lens}, light={"shadow": 0, "surround": 0},
            clock={"rate": "12", "frames": 5, "span": "ends", "shutter": "360°"},
            picture={"samples": 64, "background": "#000000"},
        ).astype(float)[..., 0]  # fmt: skip
        profile = picture.sum(axis=0)
        self.assertGreater(profile.max(), 500)
        self.assertLess(np.abs(profile - profile[::-1]).max() / profile.max(), 0.25)

    def test_labels_say_their_numbers(self):
        code, ground = BALL.format("colour='#808080'"), {"background": "#000000"}
        told = {"text": "frame {frame:03d} of {count}", "at": [0.5, 0.1], "align": "middle", "size": 0.12}
        plain = self.picture(code, 3, picture=ground)
        written = self.picture(code, 3, picture=ground, labels=[told])
        changed = np.argwhere((plain != written).any(axis=2))
        self.assertTrue((changed[:, 0] < 24).all(), "only the top is written on")
        self.assertAlmostEqual(changed[:, 1].mean(), 80, delta=4)
        self.assertTrue((written != self.picture(code, 4, picture=ground, labels=[told])).any())
        with self.assertRaisesRegex(Mistake, "{frm} is unknown; did you mean frame"):
            self.picture(code, labels=[told | {"text": "{frm}"}])


class AccumulateTest(unittest.TestCase):
    def test_half_the_light_is_code_188(self):
        # IEC 61966-2-1: linear 0.5 is 1.055·0.5^(1/2.4) − 0.055 = 0.7354, code 187.5.
        white, black = np.full((2, 2, 4), 255, np.uint8), np.zeros((2, 2, 4), np.uint8)
        black[..., 3] = 255
        self.assertEqual(mean_of_samples(iter([white, black]), 2)[0, 0].tolist(), [188, 188, 188, 255])

    def test_equal_samples_pass_unchanged(self):
        picture = np.random.default_rng(1).integers(0, 256, (40, 40, 4), dtype=np.uint8)
        picture[..., 3] = 255
        self.assertTrue((mean_of_samples(iter([picture] * 5), 5) == picture).all())

    def test_edges_keep_their_colour_under_alpha(self):
        # Porter and Duff, 1984: half covered is the full colour at half alpha, so no fringe is left.
        covered = np.tile(np.array([200, 100, 50, 255], np.uint8), (2, 2, 1))
        half = mean_of_samples(iter([covered, np.zeros_like(covered)]), 2)
        self.assertEqual(half[0, 0].tolist(), [200, 100, 50, 128])


class RecipeTest(unittest.TestCase):
    def test_every_part_of_a_recipe_changes_its_key(self):
        shot = Shot.model_validate(shot_document({"kind": "object", "file": "a.obj"}), strict=False)
        inputs = PlanInputs("e", SourceIdentity("object", "a.obj", "d"), SourceFacts(), Subject(Sphere((0, 0, 0), 1)))
        spec = make_plan(shot, inputs).frame_spec(1)
        keys = {spec.key, make_plan(shot, inputs).frame_spec(2).key}
        for change in (
            {"engine": "f"}, {"source": SourceIdentity("object", "a.obj", "x")},
            {"shutter_samples": spec.shutter_samples * 2},
            {"width": 97}, {"samples": 3}, {"background": "#000000"},
            {"labels": (Label("3", (0, 0), 0.1, "#ffffff", "left"),)},
        ):  # fmt: skip
            keys.add(dataclasses.replace(spec, **change).key)
        (look,) = spec.shutter_samples
        for change in (
            {"dials": {"a": 1.0}}, {"ranges": {"z": (0.0, 1.0)}}, {"stage": {"light:strength": 2.0}},
            {"camera": dataclasses.replace(look.camera, near=0.5)},
        ):  # fmt: skip
            keys.add(dataclasses.replace(spec, shutter_samples=(dataclasses.replace(look, **change),)).key)
        self.assertEqual(len(keys), 13)
        self.assertEqual(make_plan(shot, inputs).frame_spec(1).key, spec.key)


if __name__ == "__main__":
    unittest.main()
