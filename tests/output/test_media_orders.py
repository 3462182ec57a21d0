"""What travels to a media process and back is the same there."""

import pickle
import unittest
from dataclasses import replace

import numpy as np
from PIL import Image

from tests.helpers import scratch
from vexel.core.recipes.shipped import RECIPES
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.disk.finished import finished
from vexel.output.bounded.media_orders import GivenMedia, ReelOrder, sent, set_aside
from vexel.output.compiling.compile import compile_batch
from vexel.output.footage.footage import Footage
from vexel.output.reading.picture_file import DamagedFrame
from vexel.output.writers.search import TooLarge


class MediaOrdersTest(unittest.TestCase):
    def setUp(self):
        folder = scratch(self)
        chance = np.random.default_rng(1)
        self.files = tuple(folder / f"f{n}.png" for n in range(3))
        for file in self.files:
            Image.fromarray(chance.integers(0, 256, (64, 64, 3), np.uint8)).save(file)
        self.aside = []
        known = {file: finished(file) for file in self.files}
        clock = Clock(Rate.parse("24000/1001"), 3, "ends")
        self.footage = Footage(self.files, clock, known=known, set_aside=self.aside.append, title="Swell")
        self.folder = folder

    def test_frames_and_reels_without_what_acts_on_the_project(self):
        for work in (
            self.footage,
            ReelOrder("{}", self.folder, {}, {}),
            ReelOrder("{}", self.folder, {"a": GivenMedia(self.footage)}),
        ):
            back = pickle.loads(pickle.dumps(sent(work)))
            self.assertEqual(back, sent(work))
            self.assertNotIn("append", repr(back))
        set_aside(ReelOrder("{}", self.folder, {"a": GivenMedia(self.footage)}), self.files[1])
        self.assertEqual(self.aside, [self.files[1]])

    def test_errors_keep_what_they_know(self):
        self.files[1].write_bytes(b"other")
        with self.assertRaises(DamagedFrame) as met:
            self.footage.picture(1)
        back = pickle.loads(pickle.dumps(met.exception))
        self.assertEqual((type(back), back.file, str(back)), (DamagedFrame, self.files[1], str(met.exception)))
        small = RECIPES["h264"].model_copy(
            update={"quality": RECIPES["h264"].quality.model_copy(update={"at_most": "1 kB", "level": None})}
        )
        (made,) = compile_batch(
            replace(self.footage, files=self.files[::2], known={}, clock=Clock(Rate.parse("24"), 2, "ends")),
            [(small, self.folder / "a.mp4")],
        )
        back = pickle.loads(pickle.dumps(made.error))
        self.assertEqual((type(back), back.fits, str(back)), (TooLarge, made.error.fits, str(made.error)))


if __name__ == "__main__":
    unittest.main()
