"""Which frames a folder, a pattern or a take gives, and what inspecting them tells."""

import io
import itertools
import json
import subprocess
import unittest
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageOps

from tests.helpers import scratch
from vexel.core.errors import Failure, Mistake
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.imaging.image_bytes import encoded_png
from vexel.imaging.images import header_of
from vexel.output.footage.footage import footage_of, footage_of_frames, sequence
from vexel.output.inspecting.inspect import inspect
from vexel.output.reading.picture_file import read_picture
from vexel.output.reading.png_reader import read_png


def images(folder, names, size=(8, 6), value=128):
    for name in names:
        cv2.imwrite(str(folder / name), np.full((size[1], size[0], 3), value, np.uint8))


def ledger(folder, states, rate="24"):
    """A take's folder with frames in these states."""
    names = {n: f"trial.shaded.{n:04d}.png" for n in range(len(states))}
    images(folder, [names[n] for n, state in enumerate(states) if state in ("made", "kept")])
    shot = {
        "title": "Trial",
        "source": {"kind": "object", "file": "a.obj"},
        "clock": {"rate": rate, "frames": len(states)},
    }
    rows = [
        {"number": n, "file": names[n], "state": state, "error": "line 3: no" if state == "failed" else ""}
        for n, state in enumerate(states)
    ]
    (folder / "take.json").write_text(json.dumps({"vexel": 1, "shot": shot, "frames": rows}))


class SequenceTest(unittest.TestCase):
    def test_frames_are_ordered_by_number_not_by_name(self):
        folder = scratch(self)
        images(folder, ["f10.png", "f9.png", "f8.png"])
        self.assertEqual([file.name for file in footage_of(folder, "24").files], ["f8.png", "f9.png", "f10.png"])

    def test_a_pattern_picks_one_of_several(self):
        folder = scratch(self)
        images(folder, ["a.01.png", "a.02.png", "b.01.png"])
        with self.assertRaisesRegex(Mistake, r"2 sequences \(a\.%02d\.png, b\.%02d\.png…\): name one by its pattern"):
            footage_of(folder, "24")
        for pattern in ("a.%02d.png", "a.*.png", "a.0?.png"):
            self.assertEqual(sorted(sequence(folder / pattern)), [1, 2], pattern)

    def test_brackets_in_a_name_are_no_pattern(self):
        folder = scratch(self)
        images(folder, ["take[2].001.png", "take[2].002.png"])
        self.assertEqual(len(sequence(folder / "take[2].%03d.png")), 2)

    def test_hidden_and_other_files_are_left_out(self):
        folder = scratch(self)
        images(folder, ["a.1.png", "a.2.png"])
        (folder / ".a.3.part.png").write_bytes(b"")
        (folder / "notes4.txt").write_text("")
        self.assertEqual(sorted(sequence(folder)), [1, 2])

    def test_says_which_numbers_are_missing(self):
        folder = scratch(self)
        images(folder, [f"a.{n}.png" for n in (1, 3, 9)])
        with self.assertRaisesRegex(Failure, r"6 numbers are missing \(2, 4 to 8\)"):
            footage_of(folder, "24")

    def test_a_folder_that_is_not_there(self):
        with self.assertRaisesRegex(Mistake, "there is no folder"):
            sequence(Path("/nowhere/a.%04d.png"))


class TakeTest(unittest.TestCase):
    def test_the_take_says_its_rate_and_a_given_one_wins(self):
        folder = scratch(self)
        ledger(folder, ["made", "kept", "made"], rate="29.97")
        self.assertEqual(footage_of(folder).clock.seconds, Fraction(3 * 1001, 30000))
        self.assertEqual(footage_of(folder, "10").clock.seconds, Fraction(3, 10))

    def test_a_stretch_is_footage_and_a_hole_is_not(self):
        folder = scratch(self)
        ledger(folder, ["waiting", "made", "kept", "waiting"])
        self.assertEqual(footage_of(folder).clock.frames, 2)
        ledger(folder, ["made", "failed", "made"])
        with self.assertRaisesRegex(Failure, "is missing 1 of 3 frames, the first is frame 1"):
            footage_of(folder)
        with self.assertRaisesRegex(Failure, "this take holds no finished frame"):
            footage_of_frames({}, Clock(Rate.parse("24"), 3), "this take")

    def test_a_damaged_ledger_is_a_sentence(self):
        folder = scratch(self)
        for text in ("{", "[]", '{"frames": 3}'):
            (folder / "take.json").write_text(text)
            with self.assertRaisesRegex(Mistake, r"take.json is damaged \(.*\): capture again with --fresh"):
                footage_of(folder)

    def test_pictures_come_in_order_and_one_that_is_gone_is_named(self):
        folder = scratch(self)
        ledger(folder, ["made"] * 30)
        footage = footage_of(folder)
        footage.files[20].unlink()
        with self.assertRaisesRegex(Failure, "0020.png is missing: capture it again"):
            read_picture(footage.files[20])


class ReadTest(unittest.TestCase):
    def test_deep_and_grey_pictures_become_8_bit_colour(self):
        folder = scratch(self)
        cv2.imwrite(str(folder / "deep.png"), np.full((4, 4, 3), (0x8080, 0x4040, 0x2020), np.uint16))
        cv2.imwrite(str(folder / "red.jpg"), np.full((8, 8, 3), (20, 30, 200), np.uint8))
        cv2.imwrite(str(folder / "grey.png"), np.full((4, 4), 77, np.uint8))
        self.assertEqual(read_picture(folder / "deep.png")[0, 0].tolist(), [32, 64, 128])
        np.testing.assert_allclose(read_picture(folder / "red.jpg")[0, 0], (200, 30, 20), atol=3)
        self.assertEqual(read_picture(folder / "grey.png")[0, 0].tolist(), [77] * 3)

    def test_floats_are_linear_light_and_other_numbers_are_refused(self):
        folder = scratch(self)
        cv2.imwrite(str(folder / "float.tiff"), np.full((4, 4, 3), (0.2140, 0.5, 2), np.float32))
        # IEC 61966-2-1: light of 0.2140 is the code 0.5, light of 0.5 the code 0.7354.
        codes = read_picture(folder / "float.tiff", deep=True)[0, 0]
        np.testing.assert_allclose(codes, [65535, 0.7354 * 65535, 0.5 * 65535], atol=8)
        Image.fromarray(np.full((4, 4), 70_000, np.int32)).save(folder / "whole.tiff")
        with self.assertRaisesRegex(Failure, "whole.tiff cannot be read, since its values are int32, not 8 or 16 bits"):
            read_picture(folder / "whole.tiff")

    def test_pictures_come_upright_and_in_srgb_whatever_they_were_made_with(self):
        """Against Pillow, which turns pictures as Exif says."""
        folder = scratch(self)
        y, x = np.mgrid[:24, :32]
        picture = Image.fromarray(np.stack([x * 8, y * 10, x + y], axis=-1).astype(np.uint8))
        for suffix, orientation in itertools.product(("png", "webp", "tiff", "jpg"), range(2, 9)):
            file, exif = folder / f"{orientation}.{suffix}", Image.Exif()
            exif[0x0112] = orientation
            picture.save(file, exif=exif, **({"lossless": True} if suffix == "webp" else {}))
            with Image.open(file) as image:
                truth = np.asarray(ImageOps.exif_transpose(image).convert("RGB"))
            np.testing.assert_allclose(read_picture(file).astype(int), truth, atol=4, err_msg=str(file))
            self.assertEqual((header_of(file).height, header_of(file).width), truth.shape[:2], file)

    def test_png_files_come_the_same_from_both_readers(self):
        rng = np.random.default_rng(1)
        for shape in ((33, 17, 3), (48, 64, 4), (33, 17, 3)):
            picture = rng.integers(0, 256, shape, np.uint8)
            elsewhere = io.BytesIO()
            Image.fromarray(picture).save(elsewhere, "PNG")
            np.testing.assert_array_equal(read_png(elsewhere.getvalue()), picture)
            np.testing.assert_array_equal(read_png(encoded_png(picture)), picture)
            with Image.open(io.BytesIO(encoded_png(picture))) as image:
                np.testing.assert_array_equal(np.asarray(image), picture)
            with_clear_colour = io.BytesIO()
            Image.fromarray(picture[..., :3]).save(with_clear_colour, "PNG", transparency=(1, 2, 3))
            self.assertIsNone(read_png(with_clear_colour.getvalue()))
        grey = cv2.imencode(".png", picture[..., 0])[1].tobytes()
        self.assertIsNone(read_png(grey))


class InspectTest(unittest.TestCase):
    def test_facts_and_findings_of_a_sequence(self):
        folder = scratch(self)
        images(folder, [f"a.{n}.png" for n in (1, 2, 4)])
        images(folder, ["a.5.png"], size=(4, 4))
        told = inspect(folder)
        self.assertEqual((told["kind"], told["facts"]["frames"], told["facts"]["size"]), ("sequence", 4, "8 × 6"))
        self.assertEqual(
            told["findings"],
            ["1 number is missing (3)", "1 file has another size than most, such as a.5.png"],
        )

    def test_a_take_tells_its_failures(self):
        folder = scratch(self)
        ledger(folder, ["made", "failed", "made"])
        told = inspect(folder)
        self.assertEqual((told["facts"]["title"], told["facts"]["rate"]), ("Trial", "24"))
        self.assertIn("1 frame failed, the first is 1: line 3: no", told["findings"])

    def test_files_of_another_program_are_cut_short_only_where_they_are(self):
        # Debian's ffmpeg: an edit list that leaves frames out, sound longer than the picture, an index in parts.
        folder = scratch(self)
        picture = ("-f", "lavfi", "-i", "testsrc=d=1:r=25:s=64x48")
        sound = ("-f", "lavfi", "-i", "sine=d=3")
        x264 = ("-c:v", "libx264", "-bf", "2", "-pix_fmt", "yuv420p")
        for name, order in {
            "first.mp4": (*picture, *x264, "-movflags", "+faststart"),
            "edit.mp4": ("-ss", "0.5", "-i", "first.mp4", "-c", "copy", "-movflags", "+faststart"),
            "sound.mkv": (*picture, *sound, *x264),
            "sound.webm": (*picture, *sound, "-c:v", "libvpx-vp9", "-c:a", "libopus"),
            "parts.mp4": (*picture, *x264, "-movflags", "frag_keyframe+empty_moov"),
            "old.avi": (*picture, "-c:v", "mpeg4"),
            "small.gif": picture,
        }.items():
            with self.subTest(name):
                subprocess.run(["ffmpeg", "-v", "error", "-y", *order, name], cwd=folder, check=True)
                found = inspect(folder / name)
                self.assertFalse(found["damaged"], found["findings"])
                data = (folder / name).read_bytes()
                cut = folder / f"cut-{name}"
                cut.write_bytes(data[: len(data) * 9 // 10])
                try:
                    told = inspect(cut)["findings"][0]
                except Failure as error:
                    # Where so little is left that it cannot be read at all.
                    told = str(error)
                self.assertIn("the file is cut short", told)

    def test_what_is_no_video_is_a_sentence(self):
        file = scratch(self) / "a.mp4"
        with self.assertRaisesRegex(Mistake, "there is nothing at"):
            inspect(file)
        file.write_bytes(b"no video")
        with self.assertRaisesRegex((Mistake, Failure), "a.mp4"):
            inspect(file)

    def test_a_picture_of_gigabytes_is_refused_by_its_header(self):
        """30,000 × 30,000 pixels took 5.5 GB; the header alone tells."""
        folder = scratch(self)
        data = bytearray(encoded_png(np.zeros((8, 8, 3), np.uint8)))
        data[16:24] = (30_000).to_bytes(4, "big") * 2
        (folder / "a.png").write_bytes(data)
        Image.new("L", (30_000, 20), 0).save(folder / "b.jpg")
        for name in ("a.png", "b.jpg"):
            with self.assertRaisesRegex(Failure, f"{name} is 30,000 × .*make it smaller"):
                read_picture(folder / name)


if __name__ == "__main__":
    unittest.main()
