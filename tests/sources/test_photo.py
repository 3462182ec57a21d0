"""One picture, panned and zoomed: where its parts lie, how they are weighted, and that slow motion is even."""

import unittest

import cv2
import numpy as np
from PIL import Image

from tests.helpers import asked, scratch
from vexel.core.checks.preflight import source_findings
from vexel.core.document.shot import read_shot_document
from vexel.core.errors import SourceError
from vexel.imaging.light import encoded, light_of
from vexel.sources.detect_kind import kind_of
from vexel.sources.kinds.photo import PhotoFile, part_of, weights

RNG = np.random.default_rng(7)


class PhotoTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)

    def photo(self, pixels, name="quay.png"):
        Image.fromarray(pixels).save(self.folder / name)
        return PhotoFile(self.folder / name)

    def shown(self, photo, size, **dials):
        return photo.show(asked({}, dials, size))

    def test_the_whole_at_its_own_size_is_the_picture_itself(self):
        pixels = RNG.integers(0, 256, (40, 60, 3), np.uint8)
        shown = self.shown(self.photo(pixels), (60, 40), zoom=1)
        np.testing.assert_array_equal(shown[..., :3], pixels)
        self.assertEqual(self.photo(pixels).facts.size, (60, 40))

    def test_whole_pixels_are_cut_out_exactly(self):
        pixels = RNG.integers(0, 256, (40, 60, 3), np.uint8)
        photo = self.photo(pixels)
        for x, y, left, top in ((0, 0, 0, 0), (1, 1, 30, 20), (1 / 3, 0.5, 10, 10)):
            part = self.shown(photo, (30, 20), x=x, y=y, zoom=2)
            apart = part[..., :3].astype(int) - pixels[top : top + 20, left : left + 30]
            self.assertLessEqual(np.abs(apart).max(), 1, (x, y))

    def test_a_smaller_picture_is_the_mean_of_its_light(self):
        """Against OpenCV's area filter on light: a smooth picture, in which both filters agree."""
        y, x = np.mgrid[0:240, 0:320] / 40
        smooth = ((np.sin(x) * np.cos(y) + 1) * 127).astype(np.uint8)
        pixels = np.dstack([smooth, 255 - smooth, smooth // 2])
        small = self.shown(self.photo(pixels), (80, 60))
        rgba = np.dstack([pixels, np.full(pixels.shape[:2], 255, np.uint8)])
        reference = encoded(cv2.resize(light_of(rgba), (80, 60), interpolation=cv2.INTER_AREA))
        self.assertLess(np.abs(small.astype(int) - reference).max(), 4)
        checks = (np.indices((64, 64)).sum(axis=0) % 2 * 255).astype(np.uint8)
        grey = self.shown(self.photo(np.dstack([checks] * 3), "checks.png"), (16, 16))
        # Half the light of white is 188 in sRGB codes (IEC 61966-2-1), and not 128.
        self.assertLess(np.abs(grey[4:-4, 4:-4, :3].astype(int) - 188).max(), 3)

    def test_a_slow_pan_moves_by_equal_parts_of_a_pixel(self):
        """The middle of a soft dot, found to a hundredth of a pixel, goes as far in every frame."""
        y, x = np.mgrid[0:120, 0:200]
        dot = (255 * np.exp(-((x - 100) ** 2 + (y - 60) ** 2) / 50)).astype(np.uint8)
        photo = self.photo(np.dstack([dot] * 3))
        places = []
        for step in range(12):
            light = light_of(self.shown(photo, (100, 60), x=0.4 + step * 0.0013, y=0.5, zoom=2))[..., 0]
            places.append(float((light.sum(axis=0) * np.arange(100)).sum() / light.sum()))
        steps = np.diff(places)
        self.assertLess(np.ptp(steps), 0.02, steps)
        self.assertAlmostEqual(steps.mean(), -0.0013 * (200 - 100), delta=0.005)

    def test_weights_and_parts(self):
        for length, begin, part, count in ((50, 0, 50, 50), (50, 3.3, 20, 70), (2000, 10, 1900, 31)):
            matrix = weights(length, begin, part, count)
            np.testing.assert_allclose(matrix.sum(axis=1), 1, atol=1e-5)
        self.assertEqual(part_of((400, 300), (160, 90), 0.5, 0.5, 1), (0, 37.5, 400, 225))
        self.assertEqual(part_of((400, 300), (160, 90), 1, 0, 2), (200, 0, 200, 112.5))

    def test_transparent_edges_and_deep_pictures(self):
        clear = np.zeros((40, 40, 4), np.uint8)
        clear[10:30, 10:30] = (255, 0, 0, 255)
        shown = self.shown(self.photo(clear, "clear.png"), (17, 17))
        edge = shown[(shown[..., 3] > 0)]
        self.assertTrue((edge[:, 0] > 250).all() and (edge[:, 1] < 5).all(), "no dark fringe")
        deep = (np.linspace(0, 65535, 64 * 48).reshape(48, 64)).astype(np.uint16)
        cv2.imwrite(str(self.folder / "deep.png"), deep)
        part = self.shown(PhotoFile(self.folder / "deep.png"), (32, 24))
        self.assertEqual(part.dtype, np.float32)

    def test_a_photo_that_is_enlarged_is_a_finding(self):
        photo = self.photo(np.zeros((300, 400, 3), np.uint8))
        for zoom, wide, found in ((1, 400, False), (2, 200, False), (2.5, 200, True), (1, 402, True)):
            document = {
                "title": "Quay", "source": {"kind": "photo", "file": "quay.png", "dials": {"zoom": zoom}},
                "clock": {"rate": "24", "frames": 9}, "picture": {"width": wide, "height": wide * 3 // 4},
            }  # fmt: skip
            names = [one.name for one in source_findings(read_shot_document(document), photo.facts)]
            self.assertEqual("photo-enlarged" in names, found, (zoom, wide))

    def test_one_picture_is_a_photo_and_several_numbered_ones_are_stills(self):
        for name in ("walk_0001.png", "quay.jpg", "alone-7.png"):
            Image.new("RGB", (8, 8)).save(self.folder / name)
            self.assertEqual(kind_of(self.folder / name), "photo", name)
        Image.new("RGB", (8, 8)).save(self.folder / "walk_0002.png")
        self.assertEqual(kind_of(self.folder / "walk_0001.png"), "stills")
        (self.folder / "torn.png").write_bytes(b"\x89PNG\r\n\x1a\n torn")
        with self.assertRaisesRegex(SourceError, "torn.png"):
            PhotoFile(self.folder / "torn.png")


if __name__ == "__main__":
    unittest.main()
