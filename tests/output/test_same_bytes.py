"""The same frames give the same bytes of a file, independent of the previous content of memory."""

import hashlib
import unittest
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from PIL import Image

from tests.helpers import scratch, vexel_process

PERTURBED = ("", "1", "50", "255")
"""MALLOC_PERTURB_: what the allocator of glibc fills new memory with (mallopt(3))."""


class SameBytesTest(unittest.TestCase):
    def test_whatever_the_memory_held(self):
        """Debian's ffmpeg 5.1 (libx264 164) gives three different files of such frames with 1, 50 and 255."""
        folder = scratch(self)
        (folder / "frames").mkdir()
        y, x = np.mgrid[0:144, 0:176]
        chance = np.random.default_rng(7).integers(0, 40, (144, 176))
        for n in range(24):
            rings = (np.hypot(x - 60 - 3 * n, y - 70) * 6 + chance) % 256
            frame = np.stack([rings, (2 * x + 5 * n) % 256, 255 - rings], axis=2).astype(np.uint8)
            Image.fromarray(frame).save(folder / f"frames/f{n:04d}.png")

        def made(perturbed):
            file = folder / f"made{perturbed}.mp4"
            words = ("compile", folder / "frames", "-o", file, "--rate", "24")
            done = vexel_process(*map(str, words), MALLOC_PERTURB_=perturbed)
            self.assertEqual(done.returncode, 0, done.stderr)
            return hashlib.sha256(file.read_bytes()).hexdigest()

        with ThreadPoolExecutor(2) as together:
            self.assertEqual(len(set(together.map(made, PERTURBED))), 1)


if __name__ == "__main__":
    unittest.main()
