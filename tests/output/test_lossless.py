"""Files that promise to keep every code and all transparency, read back by Debian's ffmpeg and OpenCV."""

import json
import subprocess
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import cv2
import numpy as np

from tests.helpers import scratch
from vexel.core.errors import Failure, Mistake
from vexel.core.recipes.recipe import read_recipe
from vexel.core.recipes.shipped import RECIPES
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.output.compiling.compile import compile_footage
from vexel.output.footage.footage import Footage
from vexel.output.job.pictures import Placement

COUNT, HEIGHT, WIDTH = 9, 48, 64
HOLE = 3
"""A frame that is neither the first, nor the middle, nor the last."""


def footage(case, *, alpha=False, bits=16, suffix=".png"):
    """Noise; with alpha, one frame alone is not opaque; of 16 bits, one frame alone is."""
    folder, chance = scratch(case), np.random.default_rng(7)
    for n in range(COUNT):
        codes = chance.integers(0, 65536, (HEIGHT, WIDTH, 4 if alpha else 3), dtype=np.uint16)
        if alpha and n != HOLE:
            codes[..., 3] = 65535
        if bits == 8 or n != HOLE:
            codes = (codes >> 8).astype(np.uint8)
        cv2.imwrite(str(folder / f"f.{n:04d}{suffix}"), codes)
    files = tuple(sorted(folder.glob("f.*")))
    return Footage(files, Clock(Rate.parse("25"), COUNT))


def frames_of(shown):
    """The frames as 16 bits a channel, red first."""
    read = [cv2.imread(str(file), cv2.IMREAD_UNCHANGED) for file in shown.files]
    deep = [codes if codes.dtype == np.uint16 else codes.astype(np.uint16) * 257 for codes in read]
    return np.stack([codes[..., [2, 1, 0, 3][: codes.shape[2]]] for codes in deep])


def recipe(form, **parts):
    container, codec = form.split()
    return read_recipe(json.dumps({"name": "own", "container": container, "codec": codec} | parts))


class LosslessTest(unittest.TestCase):
    def file(self, shown, made):
        suffix = made.suffix
        return compile_footage(shown, scratch(self) / f"out{suffix}", made)

    def decoded(self, file, pixels):
        command = ["ffmpeg", "-v", "error", "-i", file, "-pix_fmt", pixels, "-f", "rawvideo", "-"]
        data = subprocess.run(command, capture_output=True, check=True).stdout
        return np.frombuffer(data, np.uint16).reshape(-1, HEIGHT, WIDTH, 4 if pixels.startswith("rgba") else 3)

    def test_16_bits_and_alpha_of_one_frame_are_kept(self):
        for alpha in (False, True):
            shown = footage(self, alpha=alpha)
            planned = frames_of(shown)
            for name in ("ffv1", "apng"):
                with self.subTest(name, alpha=alpha):
                    receipt = self.file(shown, RECIPES[name])
                    self.assertTrue(receipt.holds, receipt)
                    found = self.decoded(receipt.file, "rgba64le" if alpha else "rgb48le")
                    np.testing.assert_array_equal(found, planned)
            for name in ("png", "tiff16"):
                with self.subTest(name, alpha=alpha):
                    receipt = self.file(shown, RECIPES[name])
                    self.assertTrue(receipt.holds, receipt)
                    files = sorted(Path(receipt.file).iterdir())
                    np.testing.assert_array_equal(frames_of(replace(shown, files=tuple(files))), planned)

    def test_8_bits_stay_8(self):
        shown = footage(self, bits=8)
        receipt = self.file(shown, RECIPES["apng"])
        self.assertIn("rgb24", subprocess.run(["ffprobe", receipt.file], capture_output=True, text=True).stderr)

    def test_fewer_bits_are_refused_or_asked_for(self):
        shown = footage(self)
        with self.assertRaisesRegex(Mistake, "8 bits a channel, and these frames have 16: use png"):
            self.file(shown, recipe("webp webp-lossless"))
        receipt = self.file(shown, recipe("webp webp-lossless", pixels="bgra"))
        self.assertTrue(receipt.holds)
        self.assertIn("keep 8 of them", " ".join(receipt.notes))

    def test_a_receipt_finds_what_was_lost_before_the_file(self):
        shown, right = footage(self, alpha=True), Placement.placed
        spoilt = {
            "bits": lambda self, pixels: right(self, pixels & 0xFF00 if pixels.dtype == np.uint16 else pixels),
            "one code": lambda self, pixels: right(self, pixels) ^ np.uint16(1),
        }
        for name, wrong in spoilt.items():
            with self.subTest(name), mock.patch("vexel.output.compiling.batch._prepared", prepared_by(wrong)):
                receipt = self.file(shown, RECIPES["ffv1"])
                self.assertFalse(receipt.holds)
                self.assertIn("lossless", [check.what for check in receipt.checks if not check.holds])

    def test_a_frame_of_another_size_is_found_before_encoding(self):
        shown = footage(self, bits=8)
        cv2.imwrite(str(shown.files[HOLE]), np.zeros((HEIGHT, WIDTH + 2, 3), np.uint8))
        with self.assertRaisesRegex(Failure, r"f\.0003\.png is 66 × 48, but the first frame is 64 × 48"):
            self.file(shown, RECIPES["h264"])


def prepared_by(placed):
    """What hands a writer pictures that are placed in a wrong way."""
    return lambda one, position, pixels: one.writer.prepare(placed(one.job.placement, pixels))


class TransparencyTest(unittest.TestCase):
    def test_it_is_found_in_any_frame_of_any_kind_of_file(self):
        for suffix in (".png", ".webp"):
            for bits in (8, 16):
                if (suffix, bits) == (".webp", 16):
                    continue
                with self.subTest(suffix, bits=bits):
                    kind = footage(self, alpha=True, bits=bits, suffix=suffix).kind
                    self.assertTrue(kind.clear)
                    self.assertEqual(kind.deep, bits == 16)

    def test_room_for_it_that_is_not_used_does_not_count(self):
        shown = footage(self, alpha=True, bits=8)
        opaque = cv2.imread(str(shown.files[0]), cv2.IMREAD_UNCHANGED)
        cv2.imwrite(str(shown.files[HOLE]), opaque)
        self.assertFalse(shown.kind.clear)
        self.assertTrue(replace(shown, clear=True).kind.clear, "where the shot says so")
