"""Backgrounds that are a gradient or an image."""

import unittest
from dataclasses import replace

import cv2
import numpy as np

from tests.helpers import scratch, vexel, write_shot
from tests.stage.test_equirectangular import Drawn
from vexel.core.evaluate.plan import make_plan
from vexel.sources.files import backdrop_file
from vexel.sources.protocols import SourceError

BALL = "@model\ndef ball():\n    return part(pv.Sphere(radius=1), colour='#808080')\n"


class BackdropTest(Drawn):
    def drawn_on(self, background, image=None, **picture):
        plan = self.plan(BALL, {}, **{"width": 96, "height": 64, "samples": 4, "background": background} | picture)
        plan = make_plan(plan.shot, replace(plan.basis, backdrop="digest" if image else ""))
        data = self.stage.encoded(replace(self.at, backdrop=image), plan.recipe(0))
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
