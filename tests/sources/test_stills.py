"""Image sequences: found by any member, told with all that is odd, shown exactly."""

import json
import os
import struct
import subprocess
import unittest
import zipfile
import zlib
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
import OpenEXR
import tifffile
from PIL import Image, ImageCms, ImageOps

from tests.helpers import asked, scratch, shot_document, vexel
from vexel.core.checks.source_sentences import source_sentence
from vexel.core.errors import Mistake, SourceError
from vexel.imaging.images import header_of, image_metadata, picture_in
from vexel.imaging.light import encoded, light_of
from vexel.output.footage.footage import footage_of
from vexel.output.reading.picture_file import read_picture
from vexel.sources.files import source_files
from vexel.sources.kinds.stills import StillsFolder
from vexel.stage.exr import read_exr


def written(folder, numbers, name="s.{:04d}.png", size=(16, 12), depth=np.uint8):
    """Pictures whose grey is their number."""
    for n in numbers:
        cv2.imwrite(
            str(folder / name.format(n)), np.full((size[1], size[0], 3), n * (257 if depth == np.uint16 else 1), depth)
        )


def matrix_profile(name, matrix):
    """An ICC profile of primaries and the sRGB curve, as ICC.1:2022 lays it out."""
    curve = b"para" + struct.pack(
        ">IHH5i", 0, 3, 0, *(round(v * 65536) for v in (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045))
    )
    text = b"desc" + struct.pack(">II", 0, len(name) + 1) + name.encode() + bytes(1 + 78)
    xyz = [b"XYZ " + struct.pack(">I3i", 0, *(round(v * 65536) for v in column)) for column in matrix.T]
    white = b"XYZ " + struct.pack(">I3i", 0, *(round(v * 65536) for v in (0.9642, 1, 0.8249)))
    tags = [(b"desc", text), (b"wtpt", white), *zip((b"rXYZ", b"gXYZ", b"bXYZ"), xyz, strict=True)]
    tags += [(key, curve) for key in (b"rTRC", b"gTRC", b"bTRC")]
    table, data, place = b"", b"", 128 + 4 + 12 * len(tags)
    for key, value in tags:
        table += key + struct.pack(">II", place + len(data), len(value))
        data += value + bytes(-len(value) % 4)
    head = struct.pack(">I4sI4s4s4s", place + len(data), b"none", 0x02400000, b"mntr", b"RGB ", b"XYZ ")
    head += bytes(12) + b"acsp" + bytes(28) + struct.pack(">3i", 0xF6D6, 0x10000, 0xD32D)
    return head.ljust(128, b"\0") + struct.pack(">I", len(tags)) + table + data


def linear_profile(matrix):
    """The same without a curve: its parameters are those of the identity."""
    usual = struct.pack(">5i", *(round(v * 65536) for v in (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)))
    plain = struct.pack(">5i", *(round(v * 65536) for v in (1, 1, 0, 1, 0)))
    return matrix_profile("Linear sRGB", matrix).replace(usual, plain)


def pixels_of(file):
    return in_codes(picture_in(file))


def in_codes(picture):
    return picture if picture.dtype == np.uint8 else encoded(light_of(picture))


def shown(source, slot):
    slots = source.facts.source_frames
    return int(in_codes(source.show(at(slot, slots.stamp(slot))))[0, 0, 0])


def at(slot, stamp):
    return replace(asked({"slot": slot}), stamp=stamp)


class StillsTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)

    def open(self, member, **options):
        return StillsFolder(self.folder / member, "24", **options)

    def test_gamma_of_a_png_is_its_own(self):
        # PNG third edition, 11.3.2.2: codes are light to the power of the gamma that the file states.
        codes = np.full((4, 4, 3), 128, np.uint8)
        for gamma, expected in ((1.0, 188), (1 / 2.2, 128), (1 / 1.8, 146)):
            file = scratch(self) / "a.png"
            plain = cv2.imencode(".png", codes)[1].tobytes()
            body = b"gAMA" + round(gamma * 100_000).to_bytes(4, "big")
            chunk = (4).to_bytes(4, "big") + body + zlib.crc32(body).to_bytes(4, "big")
            file.write_bytes(plain[:33] + chunk + plain[33:])
            self.assertAlmostEqual(int(picture_in(file)[0, 0, 0]), expected, delta=2)
            self.assertEqual(image_metadata(file).profile != "", gamma != 1 / 2.2)

    def test_a_sequence_of_debians_ffmpeg_is_read_back(self):
        # ffmpeg's own image2 writer and its test source, as an outside maker of sequences.
        subprocess.run(
            [
                "ffmpeg",
                "-v",
                "error",
                "-f",
                "lavfi",
                "-i",
                "testsrc2=s=64x48:r=24:d=1",
                "-start_number",
                "5",
                self.folder / "t_%03d.png",
            ],
            check=True,
        )
        source = self.open("t_017.png")
        self.assertEqual((source.facts.source_frames.count, source.facts.findings), (24, ()))
        self.assertEqual(dict(source.facts.about)["pattern"], "t_%03d.png")
        for slot in (0, 12, 23):
            expected = cv2.imread(str(self.folder / f"t_{5 + slot:03d}.png"))[..., ::-1]
            got = source.show(at(slot, source.facts.source_frames.stamp(slot)))
            np.testing.assert_array_equal(got[..., :3], expected)

    def test_between_two_pictures_both_are_seen(self):
        written(self.folder, (10,))
        cv2.imwrite(str(self.folder / "s.0011.png"), np.full((12, 16, 3), 20, np.uint8))
        source = self.open("s.0010.png", between="blend")
        slots = source.facts.source_frames
        self.assertTrue(slots.mixed)

        def part(share, stamp):
            return replace(asked({"slot": 0, "part": Fraction(share)}), stamp=stamp)

        both = f"{slots.stamp(0)}|{slots.stamp(1)}"
        self.assertEqual([int(source.show(part(s, both))[0, 0, 0]) for s in ("1/2", "9/10")], [16, 19], "in light")
        with self.assertRaisesRegex(SourceError, "has changed"):
            source.show(part("1/2", slots.stamp(0)))

    def test_gaps_are_refused_held_or_blended(self):
        written(self.folder, [10, 20, 21])
        with self.assertRaisesRegex(SourceError, r"s\.%04d\.png: 9 of its numbers are missing \(11 to 19\): add those"):
            shown(self.open("s.0010.png"), 0)
        hold, blend = self.open("s.0010.png", gaps="hold"), self.open("s.0010.png", gaps="blend")
        self.assertEqual(hold.facts.source_frames.count, 12)
        self.assertEqual([shown(hold, slot) for slot in (0, 5, 10, 11)], [10, 10, 20, 21])
        self.assertEqual(
            [shown(blend, slot) for slot in (0, 5, 10)], [10, 16, 20], "16 has half the light of 10 and 20"
        )
        (odd,) = hold.facts.findings
        self.assertEqual(source_sentence(odd), "9 numbers are missing (11 to 19): the frame before is held")

    def test_other_sizes_are_shown_whole_filling_cropped_or_left_out(self):
        """With gaps and blends between pictures; Pillow crops the same part."""
        written(self.folder, [1, 2, 5, 6])
        tall = np.random.default_rng(1).integers(0, 256, (20, 16, 3), np.uint8)
        Image.fromarray(tall).save(self.folder / "s.0003.png")
        fitted = np.asarray(ImageOps.fit(Image.fromarray(tall), (16, 12)))

        def picture(slot, **options):
            source = self.open("s.0001.png", gaps="hold", **options)
            return in_codes(source.show(at(slot, source.facts.source_frames.stamp(slot))))

        self.assertEqual(picture(2).shape, (20, 16, 4))
        for fit in ("cover", "none"):
            np.testing.assert_array_equal(picture(2, other_sizes=fit)[..., :3], fitted)
            np.testing.assert_array_equal(picture(3, other_sizes=fit)[..., :3], fitted, "the held one too")
            self.assertEqual(picture(4, other_sizes=fit)[0, 0, 0], 5)
        left = self.open("s.0001.png", gaps="hold", other_sizes="skip")
        self.assertEqual([shown(left, slot) for slot in range(5)], [1, 2, 2, 5, 6])
        (odd,) = [one for one in left.facts.findings if one.code == "other-size"]
        self.assertIn("16 × 20, not 16 × 12, such as s.0003.png: it is left out", source_sentence(odd))
        # Depths do not split a size: five of 8 bits and one of 16 outvote five others.
        written(self.folder, [14], depth=np.uint16)
        written(self.folder, range(15, 19), size=(8, 8), depth=np.uint16)
        source = self.open("s.0001.png", gaps="skip", other_sizes="skip")
        self.assertEqual((source.facts.size, source.facts.source_frames.count), ((16, 12), 5))
        for number in range(14, 19):
            (self.folder / f"s.{number:04}.png").unlink()
        # Between two pictures of two sizes.
        mixed = self.open("s.0001.png", gaps="skip", between="blend")
        stamps = mixed.facts.source_frames
        between = replace(asked({"slot": 1, "part": "1/2"}), stamp=f"{stamps.stamp(1)}|{stamps.stamp(2)}")
        self.assertEqual(in_codes(mixed.show(between)).shape, (12, 16, 4))
        # The usual size follows from the others: a frame made by another one is not taken for this.
        before = self.open("s.0001.png", gaps="hold", other_sizes="cover").facts.source_frames.stamp(2)
        written(self.folder, range(7, 14), size=(8, 8))
        after = self.open("s.0001.png", gaps="hold", other_sizes="cover").facts.source_frames.stamp(2)
        self.assertNotEqual(before, after)

    def test_reversed(self):
        written(self.folder, [1, 2, 3])
        source = self.open("s.0002.png", reverse=True)
        self.assertEqual([shown(source, slot) for slot in range(3)], [3, 2, 1])

    def test_tells_what_is_odd(self):
        written(self.folder, range(1, 9))
        written(self.folder, [9], size=(8, 12))
        written(self.folder, [10], depth=np.uint16)
        written(self.folder, [4], name="s.{:05d}.png")
        (self.folder / "s.0011.png").write_bytes(b"")
        told = "\n".join(map(source_sentence, self.open("s.0001.png").facts.findings))
        for words in (
            "1 picture is 8 × 12, not 16 × 12, such as s.0009.png: it is shown whole",
            "1 picture is 16 bit colour, not 8 bit colour, such as s.0010.png",
            "1 number is there twice, such as s.00004.png: it is left out",
            "s.0011.png is empty (0 bytes)",
        ):
            self.assertIn(words, told)

    def test_leftovers_and_backward_numbers_show_in_the_times(self):
        written(self.folder, range(8))
        for n in range(8):
            os.utime(self.folder / f"s.{n:04d}.png", (1e9 + n, 1e9 + n - (7200 if n in (5, 6) else 0)))
        self.assertIn(
            "2 pictures are 2.0 hours older than the others, such as s.0005.png",
            source_sentence(self.open("s.0001.png").facts.findings[0]),
        )
        for n in range(8):
            os.utime(self.folder / f"s.{n:04d}.png", (1e9 - n, 1e9 - n))
        self.assertEqual(self.open("s.0001.png").facts.findings[0].code, "written-backwards")

    def test_a_picture_that_changed_since_is_refused(self):
        written(self.folder, [1, 2])
        source = self.open("s.0001.png")
        stamp = source.facts.source_frames.stamp(1)
        before = source_files("stills", self.folder / "s.0001.png").digest
        written(self.folder, [2], size=(20, 12))
        with self.assertRaisesRegex(SourceError, r"s\.0002\.png has changed since this was planned"):
            source.show(at(1, stamp))
        self.assertNotEqual(source_files("stills", self.folder / "s.0001.png").digest, before)
        (self.folder / "s.0002.png").unlink()
        with self.assertRaisesRegex(SourceError, r"s\.0002\.png is missing"):
            source.show(at(1, stamp))

    def test_names_without_a_number_and_stray_numbers_are_refused(self):
        written(self.folder, [1, 2])
        written(self.folder, [7], name="plain.png")
        with self.assertRaisesRegex(Mistake, "plain.png has no number"):
            self.open("plain.png")
        written(self.folder, [5], name="s.2026{:04d}.png")
        with self.assertRaisesRegex(Mistake, "take the stray file out"):
            self.open("s.0001.png")


class ImagesTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)

    def test_every_format_holds_the_same_picture(self):
        picture = np.zeros((12, 16, 3), np.uint8)
        picture[:, :8] = (30, 120, 240)
        for name in ("a.png", "a.tif", "a.webp", "a.jpg"):
            cv2.imwrite(str(self.folder / name), picture)
            self.assertEqual((header_of(self.folder / name).width, header_of(self.folder / name).height), (16, 12))
            self.assertLess(
                np.abs(pixels_of(self.folder / name)[6, 3, :3].astype(int) - (240, 120, 30)).max(), 12, name
            )
        cv2.imwrite(str(self.folder / "deep.png"), np.full((4, 4), 0x8000, np.uint16))
        self.assertEqual(pixels_of(self.folder / "deep.png")[0, 0].tolist(), [128, 128, 128, 255])

    def test_sixteen_bits_come_through_to_png_and_exr(self):
        """Every bit of a 16-bit picture, in a folder or in a ZIP archive that the document names."""
        rng = np.random.default_rng(2)
        for n in range(3):
            cv2.imwrite(str(self.folder / f"d.{n}.png"), rng.integers(0, 65536, (64, 96, 3), np.uint16))
        with zipfile.ZipFile(self.folder / "d.zip", "w") as archive:
            for n in range(3):
                archive.write(self.folder / f"d.{n}.png", f"inner/d.{n}.png")
        for file in ("d.0.png", "d.zip"):
            for form, suffix in (("png16", ".png"), ("exr", ".exr")):
                picture = {"width": 96, "height": 64, "format": form}
                document = shot_document({"kind": "stills", "file": file, "rate": "12"}, 3, picture=picture)
                (self.folder / "shot.json").write_text(json.dumps(document))
                out = self.folder / f"{file}.{form}"
                told = vexel("capture", self.folder / "shot.json", "--to", out)
                self.assertEqual(told.returncode, 0, told.stderr)
                for n, made in enumerate(sorted(out.glob(f"*{suffix}"))):
                    held = cv2.imread(str(self.folder / f"d.{n}.png"), cv2.IMREAD_UNCHANGED).astype(int)
                    if form == "png16":
                        self.assertLessEqual(np.abs(cv2.imread(str(made), -1).astype(int) - held).max(), 1)
                    else:
                        # Light by IEC 61966-2-1; half floats keep 11 bits.
                        code = held[..., ::-1] / 65535
                        light = np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)
                        np.testing.assert_allclose(read_exr(made)["RGBA"][..., :3], light, rtol=2**-10, atol=1e-6)

    def test_a_colour_profile_is_converted_and_said(self):
        """Display P3 to sRGB by their matrices to D50 (ICC profile registry; IEC 61966-2-1; from memory)."""
        p3 = np.array([[0.51512, 0.29198, 0.15710], [0.24120, 0.69225, 0.06657], [-0.00105, 0.04189, 0.78407]])
        srgb = np.array([[0.43607, 0.38515, 0.14307], [0.22249, 0.71687, 0.06061], [0.01392, 0.09708, 0.71410]])
        for n in range(2):
            picture = Image.new("RGB", (96, 64), (200, 100, 50))
            picture.save(self.folder / f"p.{n}.png", icc_profile=matrix_profile("Display P3", p3))
        code = np.array([200, 100, 50]) / 255
        light = np.linalg.solve(srgb, p3 @ (((code + 0.055) / 1.055) ** 2.4))
        expected = 255 * (1.055 * light ** (1 / 2.4) - 0.055)
        np.testing.assert_allclose(pixels_of(self.folder / "p.0.png")[5, 5, :3], expected, atol=1.5)
        facts = StillsFolder(self.folder / "p.1.png", "12").facts
        self.assertIn("p.0.png has the colour profile Display P3", source_sentence(facts.findings[0]))
        # The same files compiled, or shown by a reel, without a shot.
        footage = footage_of(self.folder, "12")
        np.testing.assert_allclose(footage.picture(0)[5, 5], expected, atol=1.5)
        self.assertEqual(footage.notes, (source_sentence(facts.findings[0]),))
        line = vexel("compile", self.folder, "--rate", "12", "-o", self.folder / "a.mp4", "--line")
        self.assertIn("p.0.png has an orientation tag, a colour profile", line.stderr)

    def test_profiles_are_judged_by_what_they_hold(self):
        srgb = np.array([[0.43607, 0.38515, 0.14307], [0.22249, 0.71687, 0.06061], [0.01392, 0.09708, 0.71410]])
        linear_one = ImageCms.createProfile("sRGB")
        cases = (
            ("Monitor 3", matrix_profile("Monitor 3", srgb), (200, 100, 50)),
            ("Linear sRGB", linear_profile(srgb), (229, 168, 124)),
            ("sRGB built-in", ImageCms.ImageCmsProfile(linear_one).tobytes(), (200, 100, 50)),
        )
        for name, profile, expected in cases:
            with self.subTest(name):
                file = self.folder / "p.png"
                Image.new("RGB", (8, 8), (200, 100, 50)).save(file, icc_profile=profile)
                self.assertEqual(image_metadata(file).profile, name if expected[0] != 200 else "")
                # Light of 200/255, as an sRGB code, is 229 (IEC 61966-2-1).
                np.testing.assert_allclose(pixels_of(file)[4, 4, :3], expected, atol=2)

    def test_exr_is_linear_light(self):
        # IEC 61966-2-1: linear 0.2140 is code 0.5; EXR alpha is premultiplied by its specification.
        light = np.full((4, 4, 4), (0.2140, 0.2140, 0.2140, 1), np.float32)
        light[:, 2:] *= 0.5
        header = {"type": OpenEXR.scanlineimage, "compression": OpenEXR.ZIP_COMPRESSION}
        with OpenEXR.File(header, {"RGBA": light.astype(np.float16)}) as exr:
            exr.write(str(self.folder / "a.exr"))
        pixels = pixels_of(self.folder / "a.exr")
        np.testing.assert_allclose(pixels[0, 0], (127.5, 127.5, 127.5, 255), atol=1)
        np.testing.assert_allclose(pixels[0, 3], (127.5, 127.5, 127.5, 127.5), atol=1)

    def test_floating_point_files_are_linear_light(self):
        """As tifffile and OpenCV write them; codes by IEC 61966-2-1."""
        light = np.random.default_rng(4).uniform(0, 1.4, (8, 12, 3)).astype(np.float32)
        codes = 255 * np.clip(np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055), 0, 1)
        tifffile.imwrite(self.folder / "a.tif", light, photometric="rgb")
        tifffile.imwrite(self.folder / "b.tif", light.astype(np.float16), photometric="rgb", compression="zlib")
        tifffile.imwrite(self.folder / "c.tif", light.transpose(2, 0, 1), photometric="rgb", planarconfig="separate")
        tifffile.imwrite(self.folder / "d.tif", light[..., 0])
        cv2.imwrite(str(self.folder / "e.tif"), light[..., ::-1].astype(np.float64))
        cv2.imwrite(str(self.folder / "f.hdr"), light[..., ::-1])
        for name in ("a.tif", "b.tif", "c.tif", "d.tif", "e.tif", "f.hdr"):
            with self.subTest(name):
                file = self.folder / name
                self.assertEqual((header_of(file).width, header_of(file).height, header_of(file).deep), (12, 8, True))
                expected = codes[..., :1] if name == "d.tif" else codes
                # A shared exponent of 8 bits leaves a 128th of the brightest channel.
                reach = 1 if file.suffix == ".tif" else 16
                self.assertLess(np.abs(pixels_of(file)[..., :3] - expected).max(), reach)
                self.assertLess(np.abs(read_picture(file)[..., :3] - expected).max(), reach, "compiled")
        for n in range(2):
            (self.folder / f"s.{n}.tif").write_bytes((self.folder / "a.tif").read_bytes())
            (self.folder / f"h.{n}.hdr").write_bytes((self.folder / "f.hdr").read_bytes())
        for pattern in ("s.%d.tif", "h.%d.hdr"):
            self.assertTrue(footage_of(self.folder / pattern, "12").kind.deep, "compiled with all their bits")
        told = [source_sentence(finding) for finding in StillsFolder(self.folder / "s.0.tif", "12").facts.findings]
        self.assertIn("s.0.tif holds floating-point numbers: they are read as linear light, not as sRGB codes", told)
        for data, words in (
            (b"#?RADIANCE\nFORMAT=32-bit_rle_xyze\n\n-Y 4 +X 4\n" + bytes(64), "colours in XYZ"),
            (b"#?RADIANCE\n\n+Y 4 +X 4\n" + bytes(64), "stored turned or mirrored"),
            (b"#?RADIANCE\n\n-Y 99999999 +X 4\n", "at most 16,384 pixels"),
            (b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 400 +X 400\n\2\2", "damaged"),
        ):
            (self.folder / "x.hdr").write_bytes(data)
            with self.assertRaisesRegex(SourceError, words):
                pixels_of(self.folder / "x.hdr")

    def test_layers_of_an_exr_by_name(self):
        """Layers by dots in names and by parts, as OpenEXR's own library writes them."""
        shades = {"": 0.1, "diffuse": 0.2, "light.key": 0.4, "depth": 0.6}
        plane = np.ones((6, 8), np.float32)
        channels = {"R": 0.1 * plane, "G": 0.1 * plane, "B": 0.1 * plane, "A": plane, "depth.Z": 0.6 * plane}
        for name in ("diffuse", "light.key"):
            channels |= {f"{name}.{own}": shades[name] * plane for own in "RGB"}
        header = {"type": OpenEXR.scanlineimage, "compression": OpenEXR.ZIP_COMPRESSION}
        for n in range(2):
            with OpenEXR.File(header, channels) as exr:
                exr.write(str(self.folder / f"n.{n}.exr"))
            parts = [
                OpenEXR.Part(header | {"name": name}, dict.fromkeys("RGB", shades[name] * plane), name=name)
                for name in ("diffuse", "light.key")
            ]
            with OpenEXR.File(parts) as exr:
                exr.write(str(self.folder / f"p.{n}.exr"))
        for file, layers in (("n.0.exr", ("", "diffuse", "light.key", "depth")), ("p.0.exr", ("light.key",))):
            for layer in layers:
                with self.subTest(file, layer=layer):
                    source = StillsFolder(self.folder / file, "12", layer=layer)
                    light = source.show(at(0, source.facts.source_frames.stamp(0)))
                    np.testing.assert_allclose(light[3, 4], (*[shades[layer]] * 3, 1), rtol=1e-5)
                    named = [finding.code for finding in source.facts.findings]
                    self.assertEqual("layers" in named, not layer)
        source = StillsFolder(self.folder / "n.0.exr", "12")
        self.assertIn(
            "the files have several layers: the main one is shown, not depth, diffuse, light.key",
            [source_sentence(finding) for finding in source.facts.findings],
        )
        self.assertEqual(
            [value for name, value in source.facts.about if name == "layer"][1:], ["depth", "diffuse", "light.key"]
        )
        wrong = StillsFolder(self.folder / "n.0.exr", "12", layer="difuse")
        with self.assertRaisesRegex(SourceError, "n.0.exr has no layer 'difuse'; .*diffuse"):
            wrong.show(at(0, wrong.facts.source_frames.stamp(0)))

    def test_what_is_damaged_or_too_large_is_named(self):
        file = self.folder / "a.png"
        cv2.imwrite(str(file), np.random.default_rng(1).integers(0, 255, (64, 64, 3), np.uint8))
        whole = file.read_bytes()
        file.write_bytes(whole[: len(whole) // 2])
        with self.assertRaisesRegex(SourceError, "a.png is damaged or cut short"):
            pixels_of(file)
        huge = bytearray(whole)
        huge[16:24] = (60_000).to_bytes(4, "big") * 2
        file.write_bytes(bytes(huge))
        with self.assertRaisesRegex(SourceError, "a.png is 60,000 × 60,000; a picture has at most 16,384"):
            pixels_of(file)
        for data, words in ((b"", "is empty"), (b"hello", "does not hold a picture")):
            file.write_bytes(data)
            with self.assertRaisesRegex(SourceError, words):
                pixels_of(file)
        Path(self.folder / "a.exr").write_bytes(b"v/1\x01 cut")
        with self.assertRaisesRegex(SourceError, "a.exr is damaged"):
            pixels_of(self.folder / "a.exr")


if __name__ == "__main__":
    unittest.main()
