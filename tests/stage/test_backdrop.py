"""Backgrounds that are a gradient or an image."""

import unittest

import cv2
import numpy as np

from tests.helpers import scratch, vexel, write_shot

BALL = "@model\ndef ball():\n    return part(pv.Sphere(radius=1), colour='#808080')\n"


class BackdropTest(unittest.TestCase):
    def captured(self, folder, background, **picture):
        size = {"width": 96, "height": 64, "samples": 4, "background": background} | picture
        shot = write_shot(folder, BALL, clock={"rate": "12", "frames": 1}, picture=size)
        done = vexel("capture", shot, "--to", folder / "out", "--fresh", "--workers", 1)
        if done.returncode:
            return done
        (file,) = (folder / "out").glob("*.png")
        return cv2.imread(str(file), cv2.IMREAD_UNCHANGED)

    def test_a_gradient_is_even_from_above_to_below(self):
        picture = self.captured(scratch(self), "#204060 #c0a080").astype(float)
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
        picture = self.captured(folder, "image:wall.png").astype(int)
        # 150 of width become 96, so that 64 rows show the middle 100 of 300: the stripe is rows 26 to 38.
        rows = np.flatnonzero(picture[:, 3, 2] > 200)
        self.assertTrue(abs(rows.min() - 26) <= 1 and abs(rows.max() - 38) <= 1, rows)
        missing = self.captured(folder, "image:none.png")
        self.assertEqual(missing.returncode, 2)
        self.assertIn("none.png cannot be read", missing.stderr)
        (folder / "note.png").write_text("no image")
        self.assertIn("is no image that can be read", self.captured(folder, "image:note.png").stderr)
        self.assertIn("is no background", self.captured(folder, "blue").stderr)

    def test_deep_frames_lie_on_it_too(self):
        picture = self.captured(scratch(self), "#204060 #c0a080", format="png16")
        self.assertEqual((picture.dtype, picture.shape), (np.uint16, (64, 96, 3)))
        self.assertAlmostEqual(picture[0, 0, 0] / 257, 0x60 + 0.25, delta=0.6)


if __name__ == "__main__":
    unittest.main()
