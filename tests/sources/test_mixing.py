"""Means of pictures, in linear light and weighted by their alpha."""

import unittest

import numpy as np

from vexel.imaging.light import mixed


def reference(pictures):
    """IEC 61966-2-1 both ways, and Porter and Duff's premultiplied colours, in double precision."""
    total = np.zeros((*pictures[0][0].shape[:2], 4))
    for picture, weight in pictures:
        code = picture / 255
        light = np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)
        total += weight * np.dstack([light[..., :3] * code[..., 3:], code[..., 3:]])
    colour = total[..., :3] / np.maximum(total[..., 3:], 1e-9)
    coded = np.where(colour <= 0.0031308, 12.92 * colour, 1.055 * np.maximum(colour, 1e-9) ** (1 / 2.4) - 0.055)
    return np.dstack([coded, total[..., 3:]]) * 255


class MixingTest(unittest.TestCase):
    def test_it_is_the_mean_of_light(self):
        random = np.random.default_rng(3)
        for weights in ((0.5, 0.5), (0.2, 0.3, 0.5), (1,)):
            pictures = [(random.integers(0, 256, (40, 30, 4), np.uint8), weight) for weight in weights]
            expected, got = reference(pictures), mixed(pictures).astype(float)
            seen = expected[..., 3] > 8
            self.assertLess(np.abs(got - expected)[seen].max(), 1.01)

    def test_a_clear_picture_leaves_the_colour_of_the_other(self):
        red = np.tile(np.array([200, 40, 20, 255], np.uint8), (4, 4, 1))
        clear = np.tile(np.array([0, 255, 0, 0], np.uint8), (4, 4, 1))
        self.assertEqual(mixed([(red, 0.25), (clear, 0.75)])[0, 0].tolist(), [200, 40, 20, 64])

    def test_refuses_none(self):
        with self.assertRaises(ValueError):
            mixed([])


if __name__ == "__main__":
    unittest.main()
