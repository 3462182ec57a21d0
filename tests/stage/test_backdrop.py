"""Backgrounds that are a gradient or an image."""

import unittest
from dataclasses import replace

import cv2
import numpy as np
from PIL import Image

from tests.helpers import scratch, vexel, write_shot
from tests.sources.test_stills import matrix_profile
from tests.stage.test_equirectangular import Drawn
from vexel.core.document.background import PLAIN, rgb
from vexel.core.document.shot import Shot
from vexel.core.errors import SourceError
from vexel.core.evaluate.plan import make_plan
from vexel.imaging.images import picture_in
from vexel.imaging.transfer import encoded_light, linear
from vexel.sources.files import backdrop_file

BALL = "@model\ndef ball():\n    return part(pv.Sphere(radius=1), colour='#808080')\n"


class BackdropTest(Drawn):
    def drawn_on(self, background, image=None, **picture):
        plan = self.plan(BALL, {}, **{"width": 96, "height": 64, "samples": 4, "background": background} | picture)
        plan = make_plan(plan.shot, replace(plan.inputs, backdrop="digest" if image else ""))
        data = self.stage.encoded(replace(self.at, backdrop=image), plan.frame_spec(0))
        return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)

    def test_a_gradient_is_even_from_above_to_below(self):
        picture = self.drawn_on("#204060 #c0a080").astype(float)
        self.assertEqual(picture.shape, (64, 96, 3), "opaque")
        share = (np.arange(64) + 0.5) / 64
        for channel, (above, below) in enumerate(((0x60, 0x80), (0x40, 0xA0), (0x20, 0xC0))):
            np.testing.assert_allclose(picture[:, 2, channel], above + share * (below - above), atol=1)
        self.assertAlmostEqual(picture[32, 48, 0], picture[32, 48, 2], delta=12, msg="the ball stands before it")

    def test_an_image_fills_the_frame_and_changes_the_key(self):
        folder = scratch(self)
        tall = np.zeros((300, 150, 3), np.uint8)
        tall[140:160] = (0, 0, 255)
        cv2.imwrite(str(folder / "wall.png"), tall)
        picture = self.drawn_on("image:wall.png", folder / "wall.png").astype(int)
        # 150 of width become 96, so that 64 rows show the middle 100 of 300: the stripe is rows 26 to 38.
        rows = np.flatnonzero(picture[:, 3, 2] > 200)
        self.assertTrue(abs(rows.min() - 26) <= 1 and abs(rows.max() - 38) <= 1, rows)
        first, second = (backdrop_file(folder / "wall.png", folder / "copies") for _ in range(2))
        self.assertEqual((first, first.read_bytes()), (second, (folder / "wall.png").read_bytes()))
        (folder / "note.png").write_text("no image")
        with self.assertRaisesRegex(SourceError, "is not an image that can be read"):
            self.drawn_on("image:note.png", folder / "note.png")

    def test_an_image_keeps_its_profile_and_shows_the_background_where_it_is_clear(self):
        folder = scratch(self)
        p3 = np.array([[0.51512, 0.29198, 0.15710], [0.24120, 0.69225, 0.06657], [-0.00105, 0.04189, 0.78407]])
        Image.new("RGB", (96, 64), (200, 100, 50)).save(folder / "p3.png", icc_profile=matrix_profile("Display P3", p3))
        picture = self.drawn_on("image:p3.png", folder / "p3.png")
        np.testing.assert_allclose(picture[3, 3, ::-1], picture_in(folder / "p3.png")[3, 3, :3], atol=1)
        self.assertGreater(picture[3, 3, 2], 208)
        half = np.full((64, 96, 4), (255, 255, 255, 0), np.uint8)
        half[:, 48:, 3] = 128
        cv2.imwrite(str(folder / "half.png"), half)
        picture = self.drawn_on("image:half.png", folder / "half.png")
        np.testing.assert_allclose(picture[3, 3, ::-1], rgb(PLAIN), atol=1)
        light = 128 / 255 + linear(np.array(rgb(PLAIN)) / 255) * (127 / 255)
        np.testing.assert_allclose(picture[3, 90, ::-1], 255 * encoded_light(light), atol=1)

    def test_each_eye_has_its_own_background_and_label(self):
        folder = scratch(self)
        across = np.tile(np.linspace(0, 255, 64).astype(np.uint8)[None, :, None], (64, 1, 3))
        cv2.imwrite(str(folder / "across.png"), across)
        for eyes, size in (("left-right", (256, 64)), ("top-bottom", (128, 128))):
            with self.subTest(eyes):
                camera = {
                    "lens": {"projection": "panorama", "eyes": eyes},
                    "rig": {"kind": "still", "position": [0, -9, 0]},
                }
                labels = [{"text": "frame", "at": [0.5, 0.2], "size": 0.2, "align": "middle", "colour": "#ff0000"}]
                plan = self.plan(BALL, camera, width=size[0], height=size[1], samples=1, background="image:across.png")
                shot = plan.shot.model_copy(update={"labels": Shot.model_validate(
                    plan.shot.model_dump(mode="json") | {"labels": labels}, strict=False).labels})  # fmt: skip
                plan = make_plan(shot, replace(plan.inputs, backdrop="digest"))
                picture = self.stage.picture(replace(self.at, backdrop=folder / "across.png"), plan.frame_spec(0))
                left, right = np.array_split(picture.astype(int), 2, 1 if eyes == "left-right" else 0)
                for eye in (left, right):
                    self.assertLess(eye[2, 2, 1], 20)
                    self.assertGreater(eye[2, -2, 1], 235)
                    red = (eye[..., 0] - eye[..., 1]) > 100
                    self.assertGreater(int(red.sum()), 20)
                np.testing.assert_array_equal(left[:20], right[:20])

    def test_a_missing_image_is_named(self):
        folder = scratch(self)
        shot = write_shot(folder, BALL, clock={"rate": "12", "frames": 1}, picture={"background": "image:none.png"})
        missing = vexel("capture", shot, "--to", folder / "out", "--workers", 1)
        self.assertEqual(missing.returncode, 2)
        self.assertIn("none.png cannot be read", missing.stderr)

    def test_deep_frames_lie_on_it_too(self):
        picture = self.drawn_on("#204060 #c0a080", format="png16")
        self.assertEqual((picture.dtype, picture.shape), (np.uint16, (64, 96, 3)))
        self.assertAlmostEqual(picture[0, 0, 0] / 257, 0x60 + 0.25, delta=0.6)


if __name__ == "__main__":
    unittest.main()
