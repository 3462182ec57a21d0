"""Pictures laid over a colour and scaled: one result for every depth, in a file and in a reel."""

import json
import unittest
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np

from tests.helpers import scratch
from vexel.core.recipes.recipe import read_recipe
from vexel.core.reel.reel_spec import read_reel
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.output.compiling.compile import compile_footage
from vexel.output.footage.footage import Footage
from vexel.output.reading.picture_file import read_picture
from vexel.output.reel.library import FolderLibrary
from vexel.output.reel.open_reel import open_reel
from vexel.output.reel.reel_footage import footage_of_reel
from vexel.stage.exr import exr_bytes

HALF = 188
"""Code of half of white's light (IEC 61966-2-1: 187.52)."""
SIDE = 32


def still(ground="#000000", **parts):
    document = {"name": "own", "container": "folder", "codec": "png", "alpha": "drop", "ground": ground} | parts
    return read_recipe(json.dumps(document))


class LightTest(unittest.TestCase):
    def frame(self, picture, name="f.0000.png"):
        """A file of a picture from 0 to 1 with straight alpha, red first."""
        file = scratch(self) / name
        bits = 65535 if "16" in name else 255
        if file.suffix == ".exr":
            premultiplied = np.concatenate([picture[..., :3] * picture[..., 3:], picture[..., 3:]], axis=2)
            file.write_bytes(exr_bytes({"RGBA": premultiplied.astype(np.float16)}))
        else:
            codes = np.rint(picture * bits).astype(np.uint16 if bits > 255 else np.uint8)
            cv2.imwrite(str(file), codes[..., [2, 1, 0, 3][: picture.shape[2]]])
        return Footage((file,), Clock(Rate.parse("24"), 1))

    def made(self, shown, recipe):
        receipt = compile_footage(shown, scratch(self) / "out", recipe)
        self.assertTrue(receipt.holds, receipt)
        (file,) = Path(receipt.file).iterdir()
        return read_picture(file).astype(int)

    def white(self, name):
        half = np.ones((SIDE, SIDE, 4))
        half[..., 3] = 0.5
        return self.frame(half, name)

    def test_half_of_white_is_half_of_its_light_at_every_depth(self):
        for name in ("f.0000.png", "f16.0000.png", "f.0000.exr"):
            with self.subTest(name):
                np.testing.assert_allclose(self.made(self.white(name), still())[8, 8], HALF, atol=1)
        self.reel_of(self.white("f.0000.png"))

    def reel_of(self, shown):
        items = [{"kind": "stills", "file": str(shown.files[0]), "frames": 1}]
        parts = {"title": "r", "width": SIDE, "height": SIDE, "background": "#000000", "items": items}
        folder = shown.files[0].parent
        reel = open_reel(read_reel(json.dumps(parts)), FolderLibrary(folder), folder)
        np.testing.assert_allclose(footage_of_reel(reel).picture(0)[8, 8].astype(int), HALF, atol=1)

    def test_stripes_of_a_pixel_halved_are_half_of_their_light(self):
        stripes = np.zeros((SIDE, SIDE, 3))
        stripes[:, ::2] = 1
        for name in ("f.0000.png", "f16.0000.png"):
            small = self.made(self.frame(stripes, name), still(size={"long_side": SIDE // 2}))
            np.testing.assert_allclose(small[8, 8], HALF, atol=1)

    def test_numbers_of_a_data_pass_are_averaged_as_they_are(self):
        stripes = np.zeros((SIDE, SIDE, 3))
        stripes[:, ::2] = 1
        shown = replace(self.frame(stripes), is_data=True)
        np.testing.assert_allclose(self.made(shown, still(size={"long_side": SIDE // 2}))[8, 8], 128, atol=1)

    def test_an_edge_that_is_enlarged_has_no_seam(self):
        edge = np.full((SIDE, SIDE, 3), 60 / 255)
        edge[:, SIDE // 2 :] = 200 / 255
        for name in ("f.0000.png", "f16.0000.png"):
            for how in ("area", "lanczos", "bicubic"):
                size = {"width": 4 * SIDE, "enlarge": True, "filter": how}
                large = self.made(self.frame(edge, name), still(size=size))
                self.assertEqual((large.min(), large.max()), (60, 200), (name, how))

    def test_clear_pixels_fringe_nothing(self):
        spot = np.zeros((SIDE, SIDE, 4))
        spot[..., 0] = 1
        spot[8:24, 8:24] = (0, 1, 0, 1)
        small = self.made(self.frame(spot), still("#ffffff", size={"long_side": 20}))
        # Green on white: red is there only as part of white.
        self.assertTrue((small[..., 1] >= 254).all(), small[..., 1].min())


if __name__ == "__main__":
    unittest.main()
