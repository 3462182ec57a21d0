"""Panoramas, and passes: what lies where."""

import dataclasses
import time
import unittest
from unittest import mock

import numpy as np
from scipy.spatial.transform import Rotation

from tests.helpers import HEADER, plan_on, scratch, shot_document
from vexel.core.document.shot import Shot
from vexel.core.evaluate.source_facts import SourceAt
from vexel.imaging.premultiplied import light_of_sample
from vexel.stage.equirectangular import equirectangular
from vexel.stage.renderer import Renderer
from vexel.stage.scene.draw_style import matte_colour
from vexel.workers.stage_commands import StageCommands

# Directions as longitude to the right of ahead and latitude, in degrees, and colours.
MARKS = {(0, 0): "#ff0000", (90, 0): "#00ff00", (-90, 0): "#0000ff", (45, 30): "#ffff00", (-130, -50): "#00ffff",
         (20, 80): "#ff00ff"}  # fmt: skip
MARKED = "@model\ndef marks():\n    return [" + ", ".join(
    f"part(pv.Sphere(radius=0.25, center=({4 * np.cos(np.radians(lat)) * np.sin(np.radians(lon)):.6f}, "
    f"{4 * np.cos(np.radians(lat)) * np.cos(np.radians(lon)):.6f}, {4 * np.sin(np.radians(lat)):.6f})), "
    f"colour='{colour}')" for (lon, lat), colour in MARKS.items()
) + "]\n"  # fmt: skip
TWO = (
    "@model\ndef two():\n"
    "    return [part(pv.Cube(center=(0, 0, 0), clean=False), colour='#ff0000', name='one'),\n"
    "            part(pv.Cube(center=(0, 4, 0), clean=False), colour='#00ff00', name='two')]\n"
)


class Drawn(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.stage = Renderer()

    def plan(self, code, camera, frames=6, **picture):
        folder = scratch(self)
        (folder / "thing.py").write_text(HEADER + code)
        document = shot_document({"kind": "model", "file": "thing.py"}, frames, camera=camera)
        document["picture"] = {"width": 160, "height": 120, "samples": 4, "background": "#000000"} | picture
        shot = Shot.model_validate(document, strict=False)
        self.at = SourceAt("model", folder / "thing.py")
        return plan_on(self.stage, shot, self.at, (160, 120))

    def drawn(self, code, camera, **picture):
        plan = self.plan(code, camera, **picture)
        return [self.stage.picture(self.at, plan.frame_spec(0, n)) for n in range(len(plan.shot.camera_passes))]


class PanoramaTest(Drawn):
    def test_views_are_interpolated_as_light(self):
        def stripes(camera, size):
            flat = np.zeros((size[1], size[0], 4), np.uint8)
            flat[:, ::2, :3], flat[..., 3] = 255, 255
            flat[: size[1] // 2, :, 3] = np.where(flat[: size[1] // 2, :, 0] > 0, 255, 128)
            return flat

        pose = self.plan(MARKED, self.camera()).frame_spec(0).shutter_samples[0].camera
        pose = dataclasses.replace(pose, panorama="sphere", eyes="one")
        scene = mock.Mock()
        for holds, low, high in (("light", 0.49, 0.51), ("numbers", 0.2, 0.45)):
            seen = equirectangular(scene, pose, (512, 256), stripes, np.full(2, 0.25), holds)
            for rows in (slice(100, 127), slice(129, 156)):
                mean = light_of_sample(seen[rows])[..., :3].mean()
                self.assertTrue(low < mean < high, mean)

    def test_mattes_have_no_codes_between_those_of_two_parts(self):
        plan = self.plan(MARKED, self.camera(), width=256, height=128, passes=["matte", "depth"])
        matte = self.stage.picture(self.at, plan.frame_spec(0))
        codes = {tuple(code) for code in matte.reshape(-1, 4).tolist()}
        parts = {tuple(np.rint(255 * np.array(matte_colour(number))).astype(int)) for number in range(len(MARKS))}
        self.assertLessEqual({code[:3] for code in codes if code[3]}, parts)
        self.assertEqual({code[3] for code in codes}, {0, 255})

    def test_distances_to_walls_are_exact_between_pixels_too(self):
        """From within a box, against the ray's own distance, but where two walls meet."""
        room = "@model\ndef room():\n    return pv.Box((-3, 4, -2, 5, -1, 2))\n"
        plan = self.plan(room, self.camera(), width=256, height=128, samples=1, passes=["depth"], format="exr")
        spec = plan.frame_spec(0)
        seen = self.stage._set(self.at, spec.shutter_samples[0], spec).depths(spec, spec.shutter_samples[0])
        longitude = ((np.arange(256) + 0.5) / 256 - 0.5) * 2 * np.pi
        latitude = (0.5 - (np.arange(128) + 0.5) / 128)[:, None] * np.pi
        x, y, z = np.cos(latitude) * np.sin(longitude), np.cos(latitude) * np.cos(longitude), np.sin(latitude)
        way = np.stack([x, y, np.broadcast_to(z, x.shape)], axis=-1)
        walls = np.where(way > 0, (4, 5, 2), (-3, -2, -1)) / way
        met = walls.argmin(axis=-1)
        alone = np.all([np.roll(met, (dy, dx), (0, 1)) == met for dy in (-1, 0, 1) for dx in (-1, 0, 1)], axis=0)
        self.assertGreater(alone.mean(), 0.8)
        off = np.abs(seen / walls.min(axis=-1) - 1)[alone]
        # Of the distances of the nearest pixels two fifths are that far off.
        self.assertLess((off > 1e-3).mean(), 0.002)
        self.assertLess(np.median(off), 5e-5)

    def camera(self, look=(0, 1, 0), **lens):
        rig = {"kind": "still", "position": [0, 0, 0], "centre": list(look)}
        return {"lens": {"projection": "panorama"} | lens, "rig": rig}

    def middle_of(self, picture, colour):
        """Column and row of the middle of all pixels of a hue, in shares of the picture."""
        wanted = np.array([int(colour[k : k + 2], 16) for k in (1, 3, 5)]) / 255
        hues = picture[..., :3] / np.maximum(picture[..., :3].max(axis=2, keepdims=True), 1)
        there = (np.abs(hues - wanted).max(axis=2) < 0.25) & (picture[..., :3].max(axis=2) > 30)
        rows, columns = np.nonzero(there)
        self.assertGreater(len(rows), 5, colour)
        return (columns.mean() + 0.5) / picture.shape[1], (rows.mean() + 0.5) / picture.shape[0]

    def test_marks_at_known_directions_stand_where_they_should(self):
        # Equirectangular (Spherical Video V2): columns are longitude, rows latitude, the middle straight ahead.
        (picture,) = self.drawn(MARKED, self.camera(), width=512, height=256)
        for (lon, lat), colour in MARKS.items():
            x, y = self.middle_of(picture, colour)
            # A ball high up is stretched along its row, so that its middle row is pulled to the pole.
            self.assertAlmostEqual(x, lon / 360 + 0.5, delta=0.006, msg=colour)
            self.assertAlmostEqual(y, 0.5 - lat / 180, delta=0.004 if abs(lat) < 60 else 0.012, msg=colour)

    def test_the_middle_is_where_the_camera_looks(self):
        turn = Rotation.from_euler("z", -90, degrees=True).apply([0, 1, 0])
        (picture,) = self.drawn(MARKED, self.camera(look=tuple(turn)), width=512, height=256)
        self.assertAlmostEqual(self.middle_of(picture, MARKS[(90, 0)])[0], 0.5, delta=0.004)

    def test_half_a_sphere_shows_what_is_before(self):
        (picture,) = self.drawn(MARKED, self.camera(covers="half"), width=256, height=256)
        x, y = self.middle_of(picture, MARKS[(45, 30)])
        self.assertAlmostEqual(x, 0.75, delta=0.006)
        self.assertAlmostEqual(y, 0.5 - 30 / 180, delta=0.004)
        self.assertFalse(((picture[..., 2] > 60) & (picture[..., 1] > 60) & (picture[..., 0] < 20)).any(), "behind")

    def test_two_eyes_see_a_near_thing_apart(self):
        # Omnidirectional stereo: an eye at ±e/2 sees what is d away atan(e/2d) from ahead, both to the other side.
        gap = 0.4
        (picture,) = self.drawn(
            MARKED, self.camera(eyes="top-bottom", eye_mm=gap * 1000), width=512, height=512, samples=1
        )
        left, right = picture[:256], picture[256:]
        for mark in ((0, 0), (90, 0), (45, 30)):
            apart = self.middle_of(left, MARKS[mark])[0] - self.middle_of(right, MARKS[mark])[0]
            flat = 4 * np.cos(np.radians(mark[1]))
            self.assertAlmostEqual(apart * 360, 2 * np.degrees(np.arctan(gap / 2 / flat)), delta=0.6, msg=str(mark))


class PassTest(Drawn):
    CAMERA = {"rig": {"kind": "still", "elevation_deg": 0}}  # noqa: RUF012

    def test_each_pass_shows_its_own(self):
        passes = ["shaded", "clay", "normal", "matte", "hidden-line", "wire", "edges"]
        shaded, clay, normal, matte, hidden, wire, edges = self.drawn(TWO, self.CAMERA, passes=passes)
        middle = (60, 80)
        self.assertEqual(shaded[middle][1], shaded[middle][2])
        self.assertGreater(shaded[middle][0], 100)
        self.assertLess(np.ptp(clay[middle][:3].astype(int)), 40, "clay has no colour of its own")
        # The front face looks at the camera: its normal is (0, 0, 1).
        np.testing.assert_allclose(normal[middle], [128, 128, 255, 255], atol=1)
        np.testing.assert_allclose(matte[middle][:3], 255 * np.array(matte_colour(0)), atol=1)
        self.assertEqual(normal[0, 0].tolist(), [0, 0, 0, 0])
        self.assertLess(hidden[middle][:3].max(), 20, "a face hides what is behind it, and is as the ground")
        self.assertGreater(hidden[..., 0].max(), 180)
        lines = (hidden[60, :, 0] > 60).nonzero()[0]
        self.assertEqual(len(np.split(lines, np.flatnonzero(np.diff(lines) > 2) + 1)), 2, "left and right outline")
        self.assertGreater((wire[..., 0] > 100).sum(), (hidden[..., 0] > 100).sum(), "a wire is seen through")
        differing = (np.abs(edges.astype(int) - shaded).max(axis=2) > 40).nonzero()
        self.assertTrue(len(differing[0]) and set(np.unique(hidden[differing][:, 0] > 30)) == {True})

    def test_a_fade_is_the_mean_of_both_in_linear_light(self):
        views = [
            {"position": [0, -9, 0], "look": [0, 0, 0], "drawn": "clay", "travel_seconds": 1},
            {"position": [0, -9, 0], "look": [0, 0, 0.001], "drawn": "wire"},
        ]
        camera = {"views": views, "rig": {"kind": "stops", "dwell_seconds": 0, "ease": "linear"}}
        plan = self.plan(TWO, camera)
        middle = plan.frame_spec(plan.clock.frames // 2)
        self.assertEqual((middle.render_pass, middle.fade[0]), ("clay", "wire"))
        ends = [
            self.stage.picture(self.at, dataclasses.replace(middle, fade=None, render_pass=name))
            for name in ("clay", "wire")
        ]
        mixed = self.stage.picture(self.at, middle).astype(float)
        light = [np.where(e <= 0.04045, e / 12.92, ((e + 0.055) / 1.055) ** 2.4) for e in (end / 255 for end in ends)]
        share = middle.fade[1]
        mean = light[0][..., :3] * (1 - share) + light[1][..., :3] * share
        expected = 255 * np.where(mean <= 0.0031308, mean * 12.92, 1.055 * mean ** (1 / 2.4) - 0.055)
        np.testing.assert_allclose(mixed[..., :3], expected, atol=1)

    def test_distances_are_those_of_the_geometry(self):
        plan = self.plan(TWO, self.CAMERA, passes=["depth"])
        codes = self.stage.distances(self.at, plan.frame_spec(0))
        near, far = plan.frame_spec(0).shutter_samples[0].ranges["distance"]
        # The nearest face stands at y = −0.5, the camera somewhere on −y.
        camera = plan.sampled.path.positions[0]
        self.assertAlmostEqual(near + codes[60, 80] / 65535 * (far - near), -0.5 - camera[1], delta=1e-3)
        self.assertEqual(codes[0, 0], 65535)

    def test_a_shifted_lens_moves_the_picture_and_keeps_its_size(self):
        plain, moved = (
            self.drawn(
                TWO, self.CAMERA | {"lens": {"shift_mm": shift, "projection": projection}}, background="#000000"
            )[0]
            for shift, projection in (([0, 0], "perspective"), ([3.2, 0], "perspective"))
        )
        # 32 mm of the sensor's width are used for 160 pixels at 4:3, so 3.2 mm are 16 pixels.
        np.testing.assert_allclose(moved[:, :-16].astype(int), plain[:, 16:].astype(int), atol=2)


class ProofTest(Drawn):
    def test_an_estimate_of_a_large_frame_takes_some_of_its_samples(self):
        spec = self.plan(TWO, PassTest.CAMERA, samples=16).frame_spec(0)
        answers, took = StageCommands(), []

        def sampled(at, spec, number, count):
            took.append(count)
            time.sleep(0.02)
            return np.zeros((spec.height, spec.width, 4), np.uint8)

        for pixels, samples in ((160 * 120 * 16, 16), (160 * 120 * 4, 4), (1, 1)):
            took.clear()
            with (
                mock.patch("vexel.workers.stage_commands.ESTIMATE_PIXELS", pixels),
                mock.patch.object(answers._renderer, "_sample", sampled),
            ):
                _, seconds = answers.estimate(self.at, spec)
            self.assertEqual(took, [samples] * samples)
            self.assertGreater(seconds, 16 * 0.02, "for all samples")


if __name__ == "__main__":
    unittest.main()
