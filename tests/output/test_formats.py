"""Files of frames with more than 8 bits, and with alpha in them."""

import json
import unittest
from fractions import Fraction

import cv2
import numpy as np
import OpenEXR
from PIL import Image

from tests.helpers import scratch, vexel, write_shot
from tests.stage.test_equirectangular import Drawn
from vexel.core.recipes.shipped import RECIPES
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.imaging.images import header_of, picture_in
from vexel.output.compiling.compile import compile_footage
from vexel.output.footage.footage import Footage
from vexel.output.job.pictures import Source
from vexel.output.reading.picture_file import read_picture
from vexel.stage.exr import raw_channels

BALL = (
    "@model\ndef ball():\n"
    "    return part(pv.Sphere(radius=1, theta_resolution=40, phi_resolution=40), colour='#c08040')\n"
)


class FormatTest(Drawn):
    def written(self, **picture):
        size = {"width": 96, "height": 64, "samples": 8, "background": "transparent"}
        plan = self.plan(BALL, {}, **size | picture)
        file = scratch(self) / f"frame{plan.shot.picture.suffix}"
        file.write_bytes(self.stage.encoded(self.at, plan.frame_spec(0)))
        return file

    def test_all_formats_tell_one_picture(self):
        plain, deep, linear = self.written(), self.written(format="png16"), self.written(format="exr")
        times = self.written(alpha="premultiplied")
        self.assertEqual([f.suffix for f in (plain, deep, linear)], [".png", ".png", ".exr"])
        eight = cv2.imread(str(plain), cv2.IMREAD_UNCHANGED).astype(int)
        sixteen = cv2.imread(str(deep), cv2.IMREAD_UNCHANGED)
        self.assertEqual(sixteen.dtype, np.uint16)
        self.assertGreater(len(np.unique(sixteen[..., 2] % 257)), 5, "more than 8 bits are told")
        np.testing.assert_allclose(sixteen / 257, eight, atol=1.1)
        with OpenEXR.File(str(linear)) as file:
            pixels = file.channels()["RGBA"].pixels
        self.assertEqual(pixels.dtype, np.float16)
        # IEC 61966-2-1, and premultiplied as OpenEXR's own documents say.
        alpha, codes = eight[..., 3] / 255, eight[..., 2] / 255
        light = np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)
        np.testing.assert_allclose(pixels[..., 0], light * alpha, atol=6e-3)
        np.testing.assert_allclose(pixels[..., 3], alpha, atol=3e-3)
        rgba = eight[..., [2, 1, 0, 3]]
        np.testing.assert_allclose(read_picture(linear).astype(int)[alpha > 0.2], rgba[alpha > 0.2], atol=3)
        multiplied = cv2.imread(str(times), cv2.IMREAD_UNCHANGED).astype(int)
        np.testing.assert_allclose(multiplied[..., :3], np.rint(eight[..., :3] * alpha[..., None]), atol=1)

    def test_pixels_of_a_cropped_exr_lie_where_they_were_drawn(self):
        # As renderers write frames of which only a part is drawn: OpenEXR's own library crops the data window.
        light = np.zeros((6, 8, 4), np.float16)
        light[1:4, 2:5] = (0.5, 0.25, 1, 1)
        whole, cropped = (scratch(self) / name for name in ("whole.exr", "cropped.exr"))
        low, high = np.array([2, 1], np.int32), np.array([4, 3], np.int32)
        window = (np.array([0, 0], np.int32), np.array([7, 5], np.int32))
        for file, pixels, data in ((whole, light, window), (cropped, light[1:4, 2:5], (low, high))):
            header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage, "dataWindow": data,
                      "displayWindow": window}  # fmt: skip
            with OpenEXR.File(header, {"RGBA": np.ascontiguousarray(pixels)}) as made:
                made.write(str(file))
        for read in (read_picture, picture_in, lambda file: (header_of(file).width, header_of(file).height)):
            np.testing.assert_array_equal(read(cropped), read(whole))

    def test_depths_are_in_the_sources_units(self):
        with OpenEXR.File(str(self.written(format="exr", passes=["depth"]))) as read:
            depths = read.channels()["Z"].pixels
        self.assertTrue(np.isinf(depths[0, 0]))
        # The ball's radius is 1: from its nearest point to its outline are 1 − 1/d of it, for d away.
        near, far = depths.min(), depths[np.isfinite(depths)].max()
        self.assertAlmostEqual(far - near, 1 - 1 / (near + 1), delta=0.06)

    def test_depths_and_normals_of_a_ball_are_those_of_geometry(self):
        """An analytic sphere; each pixel's ray meets it at a known distance, and there it faces along its radius."""
        ball = BALL.replace("=40", "=180")
        for panorama in (False, True):
            lens = {"projection": "panorama"} if panorama else {}
            camera = {"lens": lens, "rig": {"kind": "still", "elevation_deg": 20, "distance": 4}}
            size = {"width": 256, "height": 128, "background": "transparent", "format": "exr"}
            files = {}
            for name in ("depth", "normal"):
                plan = self.plan(ball, camera, **size | {"passes": [name]})
                files[name] = scratch(self) / "a.exr"
                files[name].write_bytes(self.stage.encoded(self.at, plan.frame_spec(0)))
            pose = plan.frame_spec(0).shutter_samples[0].camera
            x, y = np.meshgrid((np.arange(256) + 0.5) / 256, (np.arange(128) + 0.5) / 128)
            if panorama:
                longitude, latitude = (x - 0.5) * 2 * np.pi, (0.5 - y) * np.pi
                rays = [np.sin(longitude) * np.cos(latitude), np.sin(latitude), -np.cos(longitude) * np.cos(latitude)]
                rays = np.stack(rays, axis=-1)
            else:
                half = np.tan(np.radians(pose.view_high_deg) / 2)
                rays = np.stack([(2 * x - 1) * half * 2, (1 - 2 * y) * half, -np.ones_like(x)], axis=-1)
            unit = rays / np.linalg.norm(rays, axis=-1, keepdims=True)
            away = np.linalg.norm(np.subtract(pose.target, pose.position))
            along = -unit[..., 2] * away
            root = along**2 - away**2 + 1
            inside = (root > (0.6 if panorama else 0.08)) & (along > 0)
            distance = along - np.sqrt(np.maximum(root, 0))
            normal = unit * distance[..., None] + [0, 0, away]
            with OpenEXR.File(str(files["depth"])) as read:
                depths, header = read.channels()["Z"].pixels, dict(read.header())
            expected = distance if panorama else distance * -unit[..., 2]
            np.testing.assert_allclose(depths[inside], expected[inside], rtol=2e-2 if panorama else 3e-4)
            self.assertTrue(np.isinf(depths[root < -0.1]).all())
            self.assertLess(header["depthNear"], depths.min())
            normals = raw_channels(files["normal"])
            seen = np.stack([normals[f"N.{axis}"] for axis in "XYZ"], axis=-1)
            np.testing.assert_allclose(seen[inside], normal[inside], atol=0.06 if panorama else 3e-3)
            off = (seen[inside] + 1) * 127.5
            self.assertGreater(np.abs(off - np.rint(off)).mean(), 0.2, "no codes of 8 bits")

    def test_numbers_stay_numbers_in_sixteen_bits(self):
        for name in ("matte", "normal", "occlusion"):
            eight, sixteen = (
                cv2.imread(str(self.written(format=form, passes=[name], samples=1)), cv2.IMREAD_UNCHANGED).astype(int)
                for form in ("png", "png16")
            )
            np.testing.assert_allclose(sixteen / 257, eight, atol=0.6, err_msg=name)

    def test_a_file_of_depths_says_what_its_codes_are(self):
        file = self.written(passes=["depth"])
        with Image.open(file) as image:
            near, far = (float(image.text[f"Depth {end}"]) for end in ("near", "far"))
        codes = cv2.imread(str(file), cv2.IMREAD_UNCHANGED).astype(float)
        with OpenEXR.File(str(self.written(format="exr", passes=["depth"]))) as read:
            depths, header = read.channels()["Z"].pixels, dict(read.header())
        np.testing.assert_allclose((header["depthNear"], header["depthFar"]), (near, far), rtol=1e-6)
        there = np.isfinite(depths)
        np.testing.assert_allclose(near + codes[there] / 65535 * (far - near), depths[there], atol=(far - near) / 65535)

    def test_all_passes_of_a_take_come_into_one_file(self):
        folder = scratch(self)
        passes = ["shaded", "depth", "normal", "matte"]
        size = {"width": 64, "height": 48, "samples": 1, "format": "exr", "passes": passes}
        shot = write_shot(folder, BALL, clock={"rate": "12", "frames": 2}, picture=size)
        self.assertEqual(vexel("capture", shot, "--to", folder / "out", "--workers", 1).returncode, 0)
        self.assertEqual(list(json.loads((folder / "out" / "take.json").read_text())["depth"]), ["main"])
        done = vexel("layers", folder / "out", "-o", folder / "layers")
        self.assertEqual(done.returncode, 0, done.stderr)
        made = sorted((folder / "layers").iterdir())
        self.assertEqual([file.name for file in made], ["trial.layers.0000.exr", "trial.layers.0001.exr"])
        channels = raw_channels(made[1])
        wanted = {"R", "G", "B", "A", "Z", "N.X", "N.Y", "N.Z", *(f"matte.{name}" for name in "RGBA")}
        self.assertEqual(set(channels), wanted)
        np.testing.assert_array_equal(channels["Z"], raw_channels(folder / "out" / "trial.depth.0001.exr")["Z"])
        self.assertIn("already holds files", vexel("layers", folder / "out", "-o", folder / "layers").stderr)

    def test_takes_of_any_format_become_video(self):
        for picture in ({"format": "exr"}, {"alpha": "premultiplied"}):
            file = self.written(**picture)
            footage = Footage((file,) * 3, Clock(Rate(Fraction(12)), 3), premultiplied="alpha" in picture)
            receipt = compile_footage(footage, file.parent / "a.mp4", RECIPES["h264"], lambda *_: None)
            self.assertTrue(receipt.holds, receipt)
            # On black, whatever the file says of its alpha, an edge is as bright as the light that comes from it.
            shown = Source.of(footage).picture(footage.files.index(file)).astype(int)
            plain = cv2.imread(str(self.written()), cv2.IMREAD_UNCHANGED)[..., [2, 1, 0, 3]].astype(int)
            solid = plain[..., 3] > 128
            np.testing.assert_allclose(shown[solid], plain[solid], atol=4)

    def test_a_take_of_deep_files_is_captured_and_a_broken_one_refused(self):
        folder = scratch(self)
        size = {"width": 64, "height": 48, "samples": 1, "format": "exr"}
        shot = write_shot(folder, BALL, clock={"rate": "12", "frames": 1}, picture=size)
        done = vexel("capture", shot, "--to", folder / "out", "--workers", 1)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual([p.name for p in (folder / "out").glob("*.exr")], ["trial.shaded.0000.exr"])
        broken = scratch(self) / "x.0000.exr"
        broken.write_bytes(b"no picture")
        done = vexel("compile", broken.parent, "-o", broken.parent / "a.mp4", "--rate", "24")
        self.assertEqual(done.returncode, 1)
        self.assertIn("is damaged and cannot be read", done.stderr)


if __name__ == "__main__":
    unittest.main()
