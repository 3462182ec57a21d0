"""Compiled files, read by Debian's ffprobe and ffmpeg and by Pillow as independent readers."""

import json
import subprocess
import unittest
from dataclasses import replace
from fractions import Fraction
from unittest import mock

import cv2
import numpy as np
from PIL import Image

from tests.helpers import scratch, vexel
from vexel.core.camera.panorama import Panorama
from vexel.core.errors import Failure
from vexel.core.recipes.shipped import RECIPES
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.output.compiling.compile import compile_footage
from vexel.output.footage.footage import Footage
from vexel.output.job.job import jobs_of
from vexel.output.proving.prove import receipt_of

COLOURS = [(200, 40, 30), (30, 160, 60), (40, 60, 190), (235, 235, 235), (16, 16, 16), (128, 128, 128)]


def footage(case, count, rate, width=128, height=96, alpha=False):
    """Frames of a square that moves over bars of known colours."""
    folder = scratch(case)
    for n in range(count):
        picture = np.zeros((height, width, 4 if alpha else 3), np.uint8)
        for k, (red, green, blue) in enumerate(COLOURS):
            picture[:, k * width // 6 : (k + 1) * width // 6, :3] = (blue, green, red)
        if alpha:
            picture[..., 3] = 255 * (np.arange(width) < width // 2)
        x = n * (width - 8) // max(count - 1, 1)
        picture[-8:, x : x + 8, :3] = 255
        cv2.imwrite(str(folder / f"f.{n:04d}.png"), picture)
    return Footage(tuple(sorted(folder.glob("*.png"))), Clock(Rate.parse(rate), count))


def ffprobe(file):
    told = subprocess.run(
        ["ffprobe", "-v", "error", "-count_frames", "-show_streams", "-show_format", "-of", "json", file],
        capture_output=True, check=True,
    )  # fmt: skip
    return json.loads(told.stdout)["streams"][0]


class Mp4Test(unittest.TestCase):
    def test_ffprobe_reads_what_the_receipt_says(self):
        for rate, fps in (("24", "24/1"), ("30000/1001", "30000/1001"), ("12.5", "25/2")):
            frames, file = footage(self, 31, rate), scratch(self) / "a.mp4"
            receipt = compile_footage(frames, file, RECIPES["h264"])
            self.assertTrue(receipt.holds, receipt)
            stream = ffprobe(file)
            self.assertEqual(int(stream["nb_read_frames"]), 31)
            self.assertEqual((stream["r_frame_rate"], stream["avg_frame_rate"]), (fps, fps))
            self.assertAlmostEqual(float(stream["duration"]), float(31 / Fraction(fps)), delta=1e-4)
            self.assertEqual((stream["codec_name"], stream["pix_fmt"]), ("h264", "yuv420p"))
            tags = [stream[k] for k in ("color_space", "color_primaries", "color_transfer", "color_range")]
            self.assertEqual(tags, ["bt709", "bt709", "bt709", "tv"])
            head = file.read_bytes()
            self.assertLess(head.index(b"moov"), head.index(b"mdat"))

    def test_colours_survive_as_bt709(self):
        # Decoded by Debian's ffmpeg through the file's own tags (ITU-R BT.709).
        file = scratch(self) / "a.mp4"
        compile_footage(footage(self, 3, "24"), file, RECIPES["h264"])
        raw = subprocess.run(
            ["ffmpeg", "-v", "error", "-i", file, "-frames:v", "1", "-f", "rawvideo", "-pix_fmt", "rgb24", "-"],
            capture_output=True, check=True,
        ).stdout  # fmt: skip
        picture = np.frombuffer(raw, np.uint8).reshape(96, 128, 3).astype(int)
        for k, colour in enumerate(COLOURS):
            seen = picture[40, k * 128 // 6 + 10]
            self.assertLessEqual(np.abs(seen - colour).max(), 6, f"{colour} became {seen}")

    def test_flat_colours_come_back_within_a_code_and_greys_stay_grey(self):
        # Read by Debian's ffmpeg, as exactly as it can. A colour of 4:2:0 in 8 bits is at most a code off by itself.
        patches = [
            (255, 255, 255), (0, 0, 0), (128, 128, 128), (200, 200, 200), (64, 64, 64), (235, 235, 235),
            (43, 47, 51), (10, 96, 104), (250, 240, 230), (90, 30, 200), (17, 200, 120), (200, 40, 30),
        ]  # fmt: skip
        folder, file = scratch(self), scratch(self) / "a.mp4"
        for n in range(3):
            picture = np.zeros((96, 64 * len(patches), 3), np.uint8)
            for k, colour in enumerate(patches):
                picture[:, 64 * k : 64 * (k + 1)] = colour[::-1]
            cv2.imwrite(str(folder / f"f.{n:04d}.png"), picture)
        compile_footage(Footage(tuple(sorted(folder.glob("*.png"))), Clock(Rate.parse("24"), 3)), file, RECIPES["h264"])
        exactly = ["-sws_flags", "accurate_rnd+full_chroma_int+full_chroma_inp+bicubic", "-pix_fmt", "rgb24"]
        read = subprocess.run(
            ["ffmpeg", "-v", "error", "-i", file, "-frames:v", "1", *exactly, "-f", "rawvideo", "-"],
            capture_output=True, check=True,
        ).stdout  # fmt: skip
        seen = np.frombuffer(read, np.uint8).reshape(96, -1, 3)[48, 32::64].astype(int)
        for colour, back in zip(patches, seen, strict=True):
            with self.subTest(colour):
                np.testing.assert_allclose(back, colour, atol=1)
                if len(set(colour)) == 1:
                    self.assertEqual(len(set(back)), 1, back)

    def test_colours_lie_where_the_file_says(self):
        """Colours of 4:2:0 to the left: edges of colour stay where they are, through Debian's ffmpeg told so."""
        folder, file = scratch(self), scratch(self) / "a.mp4"
        picture = np.zeros((96, 128, 3), np.uint8)
        wave = (128 + 100 * np.sin(np.arange(128) / 5)).astype(np.uint8)
        picture[..., 2], picture[..., 1], picture[..., 0] = wave, 110, 255 - wave
        for n in range(2):
            cv2.imwrite(str(folder / f"f.{n:04d}.png"), picture)
        frames = Footage(tuple(sorted(folder.iterdir())), Clock(Rate.parse("24"), 2))
        receipt = compile_footage(frames, file, RECIPES["h264"])
        self.assertIn("colours are 4:2:0, sited to the left", receipt.notes)
        self.assertEqual(ffprobe(file)["chroma_location"], "left")
        for place in (0, 128):
            scale = f"scale=flags=bicubic+accurate_rnd+full_chroma_int:in_h_chr_pos={place}:in_v_chr_pos=128"
            read = subprocess.run(
                ["ffmpeg", "-v", "error", "-i", file, "-vf", scale, "-frames:v", "1", "-pix_fmt", "rgb24",
                 "-f", "rawvideo", "-"],
                capture_output=True, check=True,
            ).stdout  # fmt: skip
            seen = np.frombuffer(read, np.uint8).reshape(96, 128, 3)[48, 8:-8].astype(int)
            apart = np.abs(seen - picture[48, 8:-8, ::-1])
            self.assertEqual(apart.mean() < 3, place == 0, (place, apart.mean()))

    def test_a_receipt_looks_at_the_colours(self):
        frames, file = footage(self, 9, "24", 768, 192), scratch(self) / "a.mp4"
        receipt = compile_footage(frames, file, RECIPES["h264"])
        (line,) = [check for check in receipt.checks if check.what == "colours"]
        self.assertTrue(line.holds, line)
        self.assertRegex(line.found, r"[\d.]+ and [\d.]+ apart at most")
        for name in ("h264", "gif"):
            made = scratch(self) / f"a.{'mp4' if name == 'h264' else 'gif'}"
            self.assertTrue(compile_footage(frames, made, RECIPES[name]).holds)
        # Frames with another tint than those of the file: the receipt of one held against the other.
        for path in frames.files:
            picture = cv2.imread(str(path))
            cv2.imwrite(str(path), np.clip(picture.astype(int) + np.array([2, 0, 0]), 0, 255).astype(np.uint8))
        (job,) = jobs_of(frames, [(RECIPES["h264"], file)])
        again = receipt_of(job, [])
        self.assertEqual([check.what for check in again.checks if not check.holds], ["colours"])

    def test_a_panorama_says_so_in_the_file(self):
        # As Debian's ffprobe reads Spherical Video V2.
        for panorama, stereo, projection in (
            (Panorama("sphere", "one"), "2D", "equirectangular"),
            (Panorama("sphere", "top-bottom"), "top and bottom", "equirectangular"),
            (Panorama("half", "left-right"), "side by side", "tiled equirectangular"),
        ):
            with self.subTest(panorama.label):
                frames, file = replace(footage(self, 5, "24"), panorama=panorama), scratch(self) / "a.mp4"
                receipt = compile_footage(frames, file, RECIPES["h264"])
                told = {check.what: check.found for check in receipt.checks}
                self.assertEqual((receipt.holds, told["panorama"]), (True, panorama.label))
                stream = ffprobe(file)
                self.assertEqual(int(stream["nb_read_frames"]), 5, "the media are found where they moved to")
                told = {data["side_data_type"]: data for data in stream["side_data_list"]}
                self.assertEqual(told["Stereo 3D"]["type"], stereo)
                mapping = told["Spherical Mapping"]
                self.assertEqual(mapping["projection"], projection)
                # Half a sphere of 128 pixels stands in the middle of a whole one of 256.
                self.assertAlmostEqual(mapping.get("bound_left", 64), 64, delta=1)
                self.assertAlmostEqual(mapping.get("bound_right", 64), 64, delta=1)
                self.assertEqual([path.name for path in file.parent.iterdir()], ["a.mp4"])
        self.assertNotIn("side_data_list", ffprobe(self.compiled()))

    def compiled(self):
        file = scratch(self) / "flat.mp4"
        compile_footage(footage(self, 3, "24"), file, RECIPES["h264"])
        return file

    def test_a_loop_is_repeated_in_the_file(self):
        frames, file = footage(self, 6, "24"), scratch(self) / "a.mp4"
        frames = replace(frames, clock=replace(frames.clock, repeats=4))
        receipt = compile_footage(frames, file, RECIPES["h264"])
        self.assertEqual((receipt.holds, receipt.checks[0].planned), (True, "24"))
        self.assertEqual(int(ffprobe(file)["nb_read_frames"]), 24)
        gif = compile_footage(frames, file.with_suffix(".gif"), RECIPES["gif"])
        self.assertEqual(gif.checks[0].found, "6", "a GIF goes round by itself")

    def test_an_odd_side_is_cut_and_told_and_other_sizes_are_refused(self):
        odd = compile_footage(footage(self, 2, "24", width=127), scratch(self) / "a.mp4", RECIPES["h264"])
        self.assertTrue(odd.holds, odd)
        self.assertIn("cut off: 1 px of the width and 0 px of the height", odd.notes)
        mixed = footage(self, 3, "24")
        cv2.imwrite(str(mixed.files[1]), np.zeros((50, 60, 3), np.uint8))
        with self.assertRaisesRegex(Failure, "0001.png is 60 × 50, but the first frame is 128 × 96"):
            compile_footage(mixed, scratch(self) / "a.mp4", RECIPES["h264"])
        mixed.files[1].write_bytes(b"\x89PNG cut")
        folder = scratch(self)
        with self.assertRaisesRegex(Failure, "0001.png is damaged"):
            compile_footage(mixed, folder / "a.mp4", RECIPES["h264"])
        self.assertEqual(list(folder.iterdir()), [], "nothing half made is left")

    def test_alpha_is_laid_on_black_and_told(self):
        receipt = compile_footage(footage(self, 2, "24", alpha=True), scratch(self) / "a.mp4", RECIPES["h264"])
        self.assertIn("so they are on #000000", " ".join(receipt.notes))


class GifTest(unittest.TestCase):
    def test_pillow_and_ffprobe_read_the_delays(self):
        # GIF89a: whole hundredths, endless by NETSCAPE2.0.
        for rate, count in (("24", 25), ("25", 10), ("30", 31)):
            frames, file = footage(self, count, rate), scratch(self) / "a.gif"
            receipt = compile_footage(frames, file, RECIPES["gif"])
            self.assertTrue(receipt.holds, receipt)
            with Image.open(file) as image:
                delays = []
                for n in range(image.n_frames):
                    image.seek(n)
                    delays.append(image.info["duration"])
                self.assertEqual((image.n_frames, image.info["loop"]), (count, 0))
            self.assertLessEqual(abs(sum(delays) - 1000 * float(frames.clock.seconds)), 5)
            self.assertEqual(int(ffprobe(file)["nb_read_frames"]), count)
            self.assertEqual(bool(receipt.notes), rate != "25")

    def test_a_rate_that_it_cannot_hold_fails_the_receipt(self):
        # GIF89a: no delay is below a hundredth, so 48 frames last 0.48 s and not 0.4 s.
        # Were it not refused before it is made, the receipt would say so.
        with mock.patch("vexel.output.job.job.MOST_OF_GIF", 200):
            receipt = compile_footage(footage(self, 48, "120"), scratch(self) / "a.gif", RECIPES["gif"])
        wrong = {check.what: (check.planned, check.found) for check in receipt.checks if not check.holds}
        self.assertEqual(wrong, {"rate": ("120 fps", "100 fps"), "duration": ("0.4 s", "0.48 s")})
        seven = compile_footage(footage(self, 7, "24"), scratch(self) / "b.gif", RECIPES["gif"])
        self.assertTrue(seven.holds, "0.2917 s are 0.29 s in hundredths")

    def test_the_palette_is_made_from_the_frames(self):
        file = scratch(self) / "a.gif"
        compile_footage(footage(self, 4, "10"), file, RECIPES["gif"])
        with Image.open(file) as image:
            picture = np.asarray(image.convert("RGB")).astype(int)
        for k, colour in enumerate(COLOURS):
            self.assertLessEqual(np.abs(picture[40, k * 128 // 6 + 10] - colour).max(), 4)

    def test_small_recipe_and_transparency(self):
        file = scratch(self) / "a.gif"
        compile_footage(footage(self, 2, "10", width=1280, height=722, alpha=True), file, RECIPES["gif-640"])
        with Image.open(file) as image:
            self.assertEqual(image.size, (640, 361))
            alpha = np.asarray(image.convert("RGBA"))[100, :, 3]
        self.assertEqual((alpha[10], alpha[630]), (255, 0))


class CommandTest(unittest.TestCase):
    def test_compiles_and_inspects_a_pattern(self):
        frames = footage(self, 12, "24")
        pattern, file = frames.files[0].parent / "f.%04d.png", scratch(self) / "a.mp4"
        run = vexel("compile", pattern, "-o", file, "--rate", "24", "--json")
        self.assertEqual((run.returncode, json.loads(run.stdout)["holds"]), (0, True))
        facts = json.loads(vexel("inspect", file, "--json").stdout)["facts"]
        self.assertEqual((facts["frames"], facts["rate"], facts["seconds"]), (12, "24/1", "0.5"))

    def test_refuses_in_a_sentence(self):
        frames = footage(self, 5, "24")
        folder = frames.files[0].parent
        frames.files[2].unlink()
        for arguments, status, words in (
            ((folder, "-o", "a.mp4", "--rate", "24"), 1, "1 number is missing (2)"),
            ((scratch(self), "-o", "a.mp4", "--rate", "24"), 2, "holds no numbered images"),
            ((folder, "-o", "a.avi", "--rate", "24"), 2, "name the output with one of .apng, .gif"),
            ((folder, "-o", "a.mp4", "--recipe", "gfi"), 2, "did you mean gif?"),
            ((footage(self, 2, "24").files[0].parent, "-o", "a.mp4"), 2, "add --rate"),
        ):
            run = vexel("compile", *arguments)
            self.assertEqual(run.returncode, status, run.stderr)
            self.assertIn(words, run.stderr)
        self.assertIn("1 number is missing (2)", vexel("inspect", folder).stdout)


if __name__ == "__main__":
    unittest.main()
