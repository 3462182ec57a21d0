"""Takes of one picture, or of equal ones, in every kind of animated file, read back by Pillow."""

import json
import unittest
from dataclasses import replace
from unittest import mock

import cv2
import numpy as np
from PIL import Image

from tests.helpers import scratch
from vexel.core.errors import Mistake
from vexel.core.recipes.recipe import read_recipe
from vexel.core.recipes.shipped import RECIPES
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.output.compiling.compile import compile_footage
from vexel.output.footage.footage import Footage
from vexel.output.writers.search import TooLarge
from vexel.output.writers.single_frame import animate_webp

LOSSLESS = read_recipe('{"name": "lossless", "container": "webp", "codec": "webp-lossless"}')


def footage(case, count, *, channels=3, equal=True, rate="30000/1001"):
    folder, chance = scratch(case), np.random.default_rng(3)
    picture = cv2.GaussianBlur(chance.integers(0, 256, (48, 64, channels), dtype=np.uint8), (0, 0), 5)
    for n in range(count):
        cv2.imwrite(str(folder / f"f.{n:04d}.png"), picture if equal else np.roll(picture, 3 * n, axis=1))
    return Footage(tuple(sorted(folder.glob("*.png"))), Clock(Rate.parse(rate), count))


class SingleFrameTest(unittest.TestCase):
    def made(self, shown, recipe):
        return compile_footage(shown, scratch(self) / f"{recipe.name}{recipe.suffix}", recipe)

    def test_each_kind_lasts_as_long_as_it_is_to(self):
        for recipe in (*(RECIPES[name] for name in ("webp", "webp-once", "apng", "apng-once", "gif")), LOSSLESS):
            for count, channels in ((1, 3), (5, 3), (1, 4), (5, 4)):
                with self.subTest(recipe.name, count=count, channels=channels):
                    receipt = self.made(footage(self, count, channels=channels), recipe)
                    self.assertTrue(receipt.holds, [check for check in receipt.checks if not check.holds])
                    with Image.open(receipt.file) as image:
                        lasted = 0.0
                        for n in range(image.n_frames):
                            image.seek(n)
                            image.load()
                            lasted += image.info["duration"]
                        self.assertEqual(image.info.get("loop", 0), recipe.timing.plays)
                    self.assertAlmostEqual(lasted, count * 1001 / 30, delta=6 if recipe.codec == "gif" else 1)

    def test_a_wrong_length_is_noticed(self):
        def longer(file, size, milliseconds, plays):
            animate_webp(file, size, milliseconds + 20, plays + 1)

        with mock.patch("vexel.output.writers.animated.animate_webp", longer):
            receipt = self.made(footage(self, 5), RECIPES["webp"])
        self.assertEqual([c.what for c in receipt.checks if not c.holds][-2:], ["duration", "plays"])

    def test_a_limit_holds_for_stills_and_for_what_loses_nothing(self):
        shown = footage(self, 1)
        poster = self.made(shown, recipe_with("poster", quality={"at_most": "1100 B"}))
        self.assertTrue(poster.holds and poster.bytes <= 1100, poster)
        for name in ("apng", "still", "png", "ffv1"):
            self.assertTrue(self.made(shown, recipe_with(name, quality={"at_most": "1 MB"})).holds)
            with self.assertRaisesRegex(TooLarge, "What would about fit: at most"):
                self.made(shown, recipe_with(name, quality={"at_most": "1 kB"}))

    def test_a_gif_above_100_pictures_a_second_is_refused_before_it_is_made(self):
        with self.assertRaisesRegex(Mistake, "at most 100 pictures a second.*120 fps: set timing.rate") as refused:
            self.made(footage(self, 5, equal=False, rate="120"), RECIPES["gif"])
        self.assertEqual(refused.exception.fits[0], ("at 50 fps", {"timing": {"rate": "50"}}))

    def test_pictures_say_that_they_are_srgb(self):
        receipt = self.made(footage(self, 1), RECIPES["still"])
        with Image.open(receipt.file) as image:
            self.assertEqual(image.info["srgb"], 0, "perceptual (PNG third edition, 11.3.2.5)")
        shown = replace(footage(self, 1), is_data=True)
        with Image.open(self.made(shown, RECIPES["still"]).file) as image:
            self.assertNotIn("srgb", image.info)


def recipe_with(name, **parts):
    return read_recipe(json.dumps(RECIPES[name].model_dump(exclude_defaults=True) | parts))


if __name__ == "__main__":
    unittest.main()
