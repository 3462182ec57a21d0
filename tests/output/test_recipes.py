"""Every recipe, read back by readers that are not ours: Debian's ffprobe and ffmpeg, Pillow, OpenEXR and a shell."""

import atexit
import json
import shutil
import subprocess
import tempfile
import unittest
import zipfile
from dataclasses import replace
from fractions import Fraction
from functools import cache
from pathlib import Path
from unittest import mock

import cv2
import numpy as np
import OpenEXR
from PIL import Image, ImageSequence

from tests.helpers import scratch, vexel
from vexel.core.camera.panorama import Panorama
from vexel.core.errors import Mistake
from vexel.core.recipes.cue import Cue
from vexel.core.recipes.recipe import read_recipe
from vexel.core.recipes.shipped import RECIPES
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.output.compiling.compile import compile_batch, compile_footage
from vexel.output.exporting.command_line import command_of, notes_of, posix, windows
from vexel.output.footage.footage import Footage, footage_of
from vexel.output.inspecting.trial import try_recipe
from vexel.output.job.job import jobs_of
from vexel.output.writers.search import TooLarge

# Of whole blocks of 16: x264 encodes other heights a little differently from call to call.
COUNT, WIDTH, HEIGHT = 10, 160, 96
RATE = Fraction(30000, 1001)
MADE = [name for name in RECIPES if name not in ("sphere", "h264-master", "h264-small", "handover")]
CUES = (Cue("Bow & mast", 0, 6), Cue("Lamp", 6, COUNT))


def changed(name, **parts):
    return read_recipe(json.dumps(RECIPES[name].model_dump(exclude_defaults=True) | parts))


def drawn(n, alpha, width=WIDTH, height=HEIGHT):
    """A disc with a soft edge that moves over smooth colours; blue, green, red and alpha from 0 to 1."""
    y, x = np.mgrid[:height, :width]
    cover = np.clip(height / 3 + 1 - np.hypot(x - width * (0.3 + 0.4 * n / COUNT), y - height / 2), 0, 1)
    colours = [0.2 + 0.6 * x / width, 0.8 - 0.5 * y / height, 0.5 + 0.3 * np.sin(x / 20 + n / 3)]
    return np.stack([*colours, cover if alpha else np.ones_like(cover)], axis=-1)


def footage(case, alpha=False, count=COUNT, rate="30000/1001", folder=None, **size):
    folder = folder or scratch(case)
    for n in range(count):
        picture = np.rint(drawn(n, alpha, **size) * 255).astype(np.uint8)
        cv2.imwrite(str(folder / f"f.{n:04d}.png"), picture if alpha else picture[..., :3])
    return Footage(tuple(sorted(folder.glob("*.png"))), Clock(Rate.parse(rate), count))


def read_by_ffmpeg(file, pixels="rgba"):
    """All frames, decoded by Debian's ffmpeg through the file's own tags."""
    decoder = ["-c:v", "libvpx-vp9"] if file.suffix == ".webm" and pixels == "rgba" else []
    exact = "accurate_rnd+full_chroma_int+full_chroma_inp+bicubic"
    run = subprocess.run(
        ["ffmpeg", "-v", "error", *decoder, "-i", file, "-map", "0:v", "-sws_flags", exact, "-pix_fmt", pixels,
         "-f", "rawvideo", "-"],
        capture_output=True, check=True,
    )  # fmt: skip
    width, height = (int(ffprobe(file)[side]) for side in ("width", "height"))
    return np.frombuffer(run.stdout, np.uint8).reshape(-1, height, width, 4 if pixels == "rgba" else 3)


def read_by_pillow(file):
    with Image.open(file) as image:
        return np.stack([np.asarray(frame.convert("RGBA")) for frame in ImageSequence.Iterator(image)])


def ffprobe(file):
    command = ["ffprobe", "-v", "error", "-count_frames", "-show_streams", "-of", "json", file]
    streams = json.loads(subprocess.run(command, capture_output=True, check=True).stdout)["streams"]
    return next(stream for stream in streams if stream["codec_type"] == "video")


@cache
def batch(alpha):
    """Files of all recipes, made of one reading."""
    place = Path(tempfile.mkdtemp(prefix="vexel-recipes-"))
    atexit.register(shutil.rmtree, place, ignore_errors=True)
    frames, folder = replace(footage(None, alpha, folder=place), chapters=CUES, subtitles=CUES), place / "out"
    orders = [(RECIPES[name], folder / f"{name}{RECIPES[name].suffix}") for name in MADE]
    return frames, folder, {one.recipe.name: one for one in compile_batch(frames, orders)}


class EachRecipeTest(unittest.TestCase):
    def test_all_are_made_of_one_reading_and_each_receipt_holds(self):
        for alpha in (False, True):
            for name, one in batch(alpha)[2].items():
                with self.subTest(name, alpha=alpha):
                    self.assertIsNone(one.error)
                    self.assertTrue(one.receipt.holds, [c for c in one.receipt.checks if not c.holds])

    def test_chapters_and_subtitles_are_read_by_ffprobe(self):
        _, folder, _ = batch(False)
        for name in ("h264", "vp9", "prores-4444", "ffv1"):
            command = [
                "ffprobe",
                "-v",
                "error",
                "-show_chapters",
                "-of",
                "json",
                folder / f"{name}{RECIPES[name].suffix}",
            ]
            chapters = json.loads(subprocess.run(command, capture_output=True, check=True).stdout)["chapters"]
            self.assertEqual([one["tags"]["title"] for one in chapters], ["Bow & mast", "Lamp"], name)
            self.assertAlmostEqual(float(chapters[1]["start_time"]), float(6 / RATE), delta=0.001)
        for name in ("chapters", "subtitles"):
            command = ["ffmpeg", "-v", "error", "-i", folder / f"{name}.vtt", "-f", "srt", "-"]
            text = subprocess.run(command, capture_output=True, check=True, text=True).stdout
            self.assertIn("00:00:00,200 --> 00:00:00,334\nLamp", text)
        with self.assertRaisesRegex(Mistake, "has no saved views"):
            compile_footage(footage(self), folder / "none.vtt", RECIPES["chapters"])

    def test_ffprobe_reads_what_was_planned(self):
        expected = {
            "h264": ("h264", "yuv420p"), "h264-compatible": ("h264", "yuv420p"), "h265": ("hevc", "yuv420p10le"),
            "av1": ("av1", "yuv420p10le"), "vp9": ("vp9", "yuv420p"), "prores-422-hq": ("prores", "yuv422p10le"),
            "ffv1": ("ffv1", "bgr0"), "gif": ("gif", "bgra"), "apng": ("apng", "rgb24"),
        }  # fmt: skip
        _, folder, made = batch(False)
        for name, (codec, pixels) in expected.items():
            with self.subTest(name):
                stream = ffprobe(made[name].file)
                self.assertEqual((stream["codec_name"], stream["pix_fmt"]), (codec, pixels))
                self.assertEqual(int(stream["nb_read_frames"]), COUNT)
                if name != "gif":
                    self.assertAlmostEqual(float(Fraction(stream["r_frame_rate"])), float(RATE), delta=0.02)
                if pixels.startswith("yuv"):
                    tags = [stream.get(tag) for tag in ("color_space", "color_primaries", "color_transfer")]
                    self.assertEqual(tags, ["bt709"] * 3)
        self.assertEqual(ffprobe(made["h265"].file)["codec_tag_string"], "hvc1")
        self.assertEqual(ffprobe(made["h264-compatible"].file)["level"], 30, "ITU-T H.264, table A-1")
        self.assertEqual(len(list((folder / "exr").iterdir())), COUNT)

    def test_colours_come_back(self):
        """Against the frames, by other decoders: within 2 of 255 in the mean of every recipe that keeps pictures."""
        frames, _, made = batch(False)
        truth = np.stack([cv2.imread(str(file))[..., ::-1] for file in frames.files]).astype(int)
        for name in ("h264", "h264-compatible", "h265", "av1", "vp9", "prores-4444", "prores-422-hq", "ffv1", "apng"):
            with self.subTest(name):
                seen = read_by_ffmpeg(made[name].file, "rgb24").astype(int)
                self.assertLess(np.abs(seen - truth).mean(), 0.01 if name in ("ffv1", "apng") else 2)
        with Image.open(made["webp"].file) as image:
            self.assertEqual((image.n_frames, image.info["loop"]), (COUNT, 0))
        self.assertLess(np.abs(read_by_pillow(made["webp"].file)[..., :3] - truth).mean(), 3)
        with Image.open(made["webp-once"].file) as image:
            self.assertEqual(image.info["loop"], 1)
        for name, kind in (("tiff16", "I;16"), ("png", "RGB"), ("jpeg", "RGB")):
            file = sorted(made[name].file.iterdir())[3]
            self.assertEqual(file.stem, "f.0003")
            if name != "tiff16":
                with Image.open(file) as image:
                    self.assertEqual(image.mode, kind)
                    self.assertLess(np.abs(np.asarray(image).astype(int) - truth[3]).mean(), 2)
        deep = read_by_ffmpeg(sorted(made["tiff16"].file.iterdir())[3], "rgb24")
        np.testing.assert_allclose(deep[0], truth[3], atol=1)
        with OpenEXR.File(str(sorted(made["exr"].file.iterdir())[3])) as read:
            light = np.asarray(read.channels()["RGB"].pixels, float)
        codes = truth[3] / 255
        expected = np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)  # IEC 61966-2-1
        np.testing.assert_allclose(light, expected, atol=1e-3)
        with zipfile.ZipFile(made["zip"].file) as archive:
            self.assertEqual(archive.read("f.0003.png"), frames.files[3].read_bytes())

    def test_receipts_say_how_near_pictures_come_as_another_reader_finds_it(self):
        """PSNR of luma by its formula (ITU-R BT.709), of what Debian's ffmpeg decodes with exact rounding."""
        frames, _, made = batch(False)
        luma = np.array([0.2126, 0.7152, 0.0722])
        truth = np.stack([cv2.imread(str(file))[..., ::-1] @ luma for file in frames.files])
        for name in ("h264", "h264-compatible", "h265", "av1", "vp9"):
            with self.subTest(name):
                error = ((read_by_ffmpeg(made[name].file, "rgb24") @ luma - truth) ** 2).mean(axis=(1, 2))
                expected = 10 * np.log10(255**2 / error.max())
                (said,) = (check.found for check in made[name].receipt.checks if check.what == "PSNR")
                self.assertAlmostEqual(float(said.split()[0]), expected, delta=1)

    def test_a_flat_colour_that_rounds_worst_is_proven(self):
        """Of all RGB codes, this is nearly the one that 8 bits of Y, Cb and Cr (ITU-T H.273, 8.3) move most: 1.64."""
        folder = scratch(self)
        for n in range(3):
            cv2.imwrite(str(folder / f"f.{n}.png"), np.full((HEIGHT, WIDTH, 3), (213, 60, 216), np.uint8))
        receipt = compile_footage(footage_of(folder, "24"), folder / "flat.mp4", RECIPES["h264"])
        self.assertTrue(receipt.holds, receipt)

    def test_transparency_lies_over_any_colour(self):
        """Composited over three colours by the formula of Porter and Duff (1984), from what other readers decode."""
        frames, _, made = batch(True)
        truth = np.stack([cv2.imread(str(f), cv2.IMREAD_UNCHANGED)[..., [2, 1, 0, 3]] for f in frames.files])
        for name, read, within in (
            ("vp9-alpha", read_by_ffmpeg, 4), ("prores-4444", read_by_ffmpeg, 2), ("ffv1", read_by_ffmpeg, 0.01),
            ("webp", read_by_pillow, 2), ("apng", read_by_pillow, 0.01),
        ):  # fmt: skip
            seen = read(made[name].file)
            for colour in ((255, 255, 255), (0, 0, 0), (200, 40, 90)):
                with self.subTest(name, colour=colour):
                    over = [p[..., :3] * (p[..., 3:] / 255) + np.array(colour) * (1 - p[..., 3:] / 255)
                            for p in (truth.astype(float), seen.astype(float))]  # fmt: skip
                    apart = np.abs(over[0] - over[1])
                    self.assertLess(apart.mean(), within)
                    # Along the soft edge nothing is darker than what was captured: no fringe.
                    edge = (truth[..., 3] > 20) & (truth[..., 3] < 235)
                    self.assertLess(np.abs((over[1] - over[0])[edge].mean()), 4 * within + 0.1)

    def test_the_line_of_a_recipe_makes_the_same_by_a_shell(self):
        frames, folder, _ = batch(False)
        for name, parts in (
            ("h264", {}), ("h264-compatible", {"timing": {"rate": "24"}}),
            ("ffv1", {"timing": {"repeats": 2, "frames": "2-6"}}), ("apng", {}), ("prores-422-hq", {}), ("webp", {}),
            ("prores-4444", {"colour": {"primaries": "display-p3", "transfer": "srgb"}}),
            ("ffv1", {"colour": {"primaries": "bt2020"}}),
        ):  # fmt: skip
            with self.subTest(name):
                recipe = changed(name, **parts)
                # A folder with what shells would take apart.
                ours, theirs = folder / f"o 'u$rs-{name}{recipe.suffix}", folder / f'th "eirs-{name}{recipe.suffix}'
                self.assertTrue(compile_footage(frames, ours, recipe, replace=True).holds)
                (job,) = jobs_of(frames, [(recipe, theirs)])
                subprocess.run(["sh", "-c", posix(command_of(job))], check=True, capture_output=True)
                read = read_by_pillow if name == "webp" else read_by_ffmpeg
                one, other = read(ours), read(theirs)
                self.assertEqual(one.shape, other.shape)
                self.assertLess(np.abs(one.astype(int) - other).mean(), 0.1, notes_of(job))
        self.assertEqual(windows(["a b", "c%04d", 'd"e', "f"]), '"a b" "c%04d" "d\\"e" f')

    def test_the_line_rounds_finer_frames_as_we_do(self):
        folder = scratch(self)
        y, x = np.mgrid[:96, :160].astype(np.uint16)
        for n in range(3):
            cv2.imwrite(str(folder / f"f.{n}.png"), np.dstack([x * 400 + n * 99, y * 600, (x + y) * 200]))
        frames, ours, theirs = footage_of(folder, "24"), folder / "o.mkv", folder / "t.mkv"
        self.assertTrue(compile_footage(frames, ours, RECIPES["ffv1"]).holds)
        (job,) = jobs_of(frames, [(RECIPES["ffv1"], theirs)])
        subprocess.run(["sh", "-c", posix(command_of(job))], check=True, capture_output=True)
        np.testing.assert_array_equal(read_by_ffmpeg(ours, "rgb24"), read_by_ffmpeg(theirs, "rgb24"))


class TargetTest(unittest.TestCase):
    def test_files_are_at_most_so_large_and_hardly_smaller(self):
        frames, folder = footage(self, count=24), scratch(self)
        for name, sizes in (("h264", (6_000, 9_000, 14_000)), ("vp9", (9_000,)), ("page", (40_000,))):
            for most in sizes:
                with self.subTest(name, most=most):
                    file = folder / f"{name}{most}{RECIPES[name].suffix}"
                    receipt = compile_footage(frames, file, changed(name, quality={"at_most": str(most)}))
                    self.assertTrue(receipt.holds, receipt)
                    size, notes = file.stat().st_size, " ".join(receipt.notes)
                    self.assertLessEqual(size, most)
                    # A codec whose steps are coarser says so.
                    self.assertTrue(size >= 0.97 * most or (name == "vp9" and "no step of its quality" in notes), size)

    def test_room_that_no_quality_fills_is_said(self):
        """SVT-AV1 takes 100,000 kilobits a second at most, and simple pictures do not need them."""
        file = scratch(self) / "a.webm"
        receipt = compile_footage(footage(self), file, changed("av1", quality={"at_most": "200 kB"}))
        self.assertTrue(receipt.holds, receipt)
        self.assertIn("the best quality needs", " ".join(receipt.notes))

    def test_a_gif_within_its_budget_says_how(self):
        frames, file = footage(self, count=8, width=320, height=192), scratch(self) / "a.gif"
        whole = compile_footage(frames, file, RECIPES["gif"]).bytes
        for share in (1.2, 0.97, 0.5):
            with self.subTest(share):
                most = round(whole * share)
                receipt = compile_footage(frames, file, changed("gif", quality={"at_most": str(most)}), replace=True)
                size, notes = file.stat().st_size, " ".join(receipt.notes)
                self.assertRegex(notes, r"of at most .*, by \d+ × \d+, \d+ colours")
                self.assertLessEqual(size, most)
                self.assertTrue(size >= 0.97 * most or "that size" in notes, (size, most, notes))

    def test_what_no_quality_reaches_is_told_with_what_would(self):
        folder = scratch(self)
        with self.assertRaises(TooLarge) as told:
            compile_footage(footage(self), folder / "a.mp4", changed("h264", quality={"at_most": "1 kB"}))
        self.assertRegex(str(told.exception), "at its lowest quality, more than 1 kB. What would about fit: at most")
        self.assertEqual(len(told.exception.fits), 3)
        self.assertEqual(list(folder.iterdir()), [])

    def test_a_trial_foretells_the_whole(self):
        frames, file = footage(self, count=40), scratch(self) / "a.mp4"
        trial = try_recipe(frames, RECIPES["h264"], 20)
        whole = compile_footage(frames, file, RECIPES["h264"])
        self.assertEqual((trial.pictures, trial.tried, trial.width), (40, 16, WIDTH))
        self.assertLess(abs(trial.bytes / whole.bytes - 1), 0.5)
        self.assertGreater(trial.psnr, 30)

    def test_a_gif_is_tried_as_its_limit_makes_it(self):
        frames, file = footage(self, count=30, width=240, height=144), scratch(self) / "a.gif"
        free = compile_footage(frames, scratch(self) / "free.gif", RECIPES["gif"])
        most = free.bytes // 3
        recipe = changed("gif", quality={"at_most": f"{most} B"})
        trial = try_recipe(frames, recipe, 10)
        made = compile_footage(frames, file, recipe)
        self.assertRegex(
            trial.fitted, r"To fit .* it becomes about \d+ × \d+, \d+ colours.*, in place of 240 × 144, 256 colours"
        )
        self.assertLess(abs(trial.bytes / most - 1), 0.35, (trial.bytes, most))
        self.assertLessEqual(made.bytes, most)
        with Image.open(file) as gif:
            self.assertLess(abs(gif.width / trial.width - 1), 0.35, "about the size that was shown")
        self.assertIn(
            "Nothing must be made smaller", try_recipe(frames, changed("gif", quality={"at_most": "9 MB"}), 0).fitted
        )
        self.assertIn("No way", try_recipe(frames, changed("gif", quality={"at_most": "1 kB"}), 0).fitted)


class OddTest(unittest.TestCase):
    def test_pictures_between_frames_are_mixed_in_linear_light(self):
        frames, file = footage(self, count=4, rate="12"), scratch(self) / "a.mkv"
        compile_footage(frames, file, changed("ffv1", timing={"rate": "24", "between": "blend"}))
        seen = read_by_ffmpeg(file, "rgb24")
        one, other = (cv2.imread(str(path))[..., ::-1] / 255 for path in frames.files[:2])

        def light(codes):  # IEC 61966-2-1
            return np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)

        mean = (light(one) + light(other)) / 2
        codes = np.where(mean <= 0.0031308, mean * 12.92, 1.055 * mean ** (1 / 2.4) - 0.055)
        np.testing.assert_allclose(seen[1], codes * 255, atol=1)
        self.assertEqual(len(seen), 8)

    def test_other_primaries_come_back_by_another_converter(self):
        frames, folder = footage(self), scratch(self)
        made = cv2.imread(str(frames.files[0]))[..., ::-1].astype(int)
        for name, primaries, zscaled in (("h265", "bt2020", "2020"), ("ffv1", "display-p3", "smpte432")):
            file = folder / f"a{RECIPES[name].suffix}"
            colour = {"primaries": primaries, "transfer": "srgb", "matrix": "bt2020" if name == "h265" else "bt709"}
            quality = {"level": 5} if name == "h265" else {}
            receipt = compile_footage(frames, file, changed(name, colour=colour, quality=quality))
            self.assertTrue(receipt.holds, receipt)
            # By zimg, of the file's own tags.
            back = f"zscale=primariesin={zscaled}:primaries=709:transfer=iec61966-2-1:matrix=gbr:range=full,format=gbrp"
            run = subprocess.run(
                ["ffmpeg", "-v", "error", "-i", file, "-vf", f"{back},format=rgb24", "-f", "rawvideo", "-"],
                capture_output=True, check=True,
            )  # fmt: skip
            seen = np.frombuffer(run.stdout, np.uint8).reshape(-1, HEIGHT, WIDTH, 3)[0]
            self.assertLess(np.abs(seen - made).mean(), 1.0, name)
        with self.assertRaisesRegex(Mistake, "webp webp has no colour to be set"):
            changed("webp", colour={"primaries": "bt2020"})

    def test_a_missing_frame_is_refused_or_held(self):
        frames = footage(self, rate="24")
        folder = frames.files[0].parent
        frames.files[4].unlink()
        refused = vexel("compile", folder, "-o", folder / "a.mp4", "--rate", "24")
        self.assertIn("1 number is missing (4)", refused.stderr)
        held = vexel("compile", folder, "-o", folder / "a.mkv", "--rate", "24", "--missing", "hold", "--json")
        self.assertIn("1 frame is missing, the first is 4", " ".join(json.loads(held.stdout)["notes"]))
        seen = read_by_ffmpeg(folder / "a.mkv", "rgb24")
        np.testing.assert_array_equal(seen[4], seen[3])
        stretch = vexel("compile", folder, "-o", folder / "b.mkv", "--rate", "24", "--frames", "5-9")
        self.assertEqual(stretch.returncode, 0, stretch.stderr)

    def test_sound_is_cut_at_the_end_of_the_picture(self):
        folder = scratch(self)
        subprocess.run(
            ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=440:duration=3", folder / "tone.wav"], check=True
        )
        for name, suffix in (("h264", ".mp4"), ("vp9", ".webm"), ("prores-422-hq", ".mov")):
            file = folder / f"{name}{suffix}"
            receipt = compile_footage(footage(self), file, changed(name, sound={"file": str(folder / "tone.wav")}))
            self.assertTrue(receipt.holds, receipt)
            (sound,) = (check for check in receipt.checks if check.what == "sound")
            self.assertEqual(sound.found, sound.planned, name)
        silent = changed("h264", sound={"file": str(folder / "none.wav")})
        (made,) = compile_batch(footage(self), [(silent, folder / "b.mp4")])
        self.assertIn("there is no sound file", str(made.error))

    def test_a_panorama_is_looked_around_in(self):
        file = scratch(self) / "a.html"
        receipt = compile_footage(replace(footage(self), panorama=Panorama("sphere", "one")), file, RECIPES["page"])
        self.assertTrue(receipt.holds, receipt)
        self.assertIn('"degrees": 360', file.read_text())
        (made,) = compile_batch(footage(self), [(RECIPES["h264"], file.with_suffix(".mp4"))])
        self.assertIsNone(made.error)
        with self.assertRaisesRegex(Mistake, "recipe sphere is for panoramas, and these frames are not panoramas"):
            compile_footage(footage(self), file.with_suffix(".mp4"), RECIPES["sphere"])

    def test_features_together_are_proven_too(self):
        pairs = {
            "full": ("h264", {"colour": {"range": "full", "matrix": "bt601", "transfer": "srgb"}}),
            "deep": ("ffv1", {"pixels": "gbrp16le"}),
            "lossless": ("webp", {"codec": "webp-lossless"}),
            "own": ("gif", {"palette": {"of": "frame", "colours": 64, "dither": "ordered"}, "timing": {"plays": 3}}),
            "pad": ("h264", {"size": {"width": 161, "height": 161, "fit": "none", "odd": "pad"}, "ground": "#2b2f33"}),
            "narrow": ("vp9-alpha", {"size": {"width": 100, "height": 80}}),
            "cover": ("vp9-alpha", {"size": {"width": 80, "height": 80, "fit": "cover"}, "timing": {"frames": "2-7"}}),
            "blend": ("prores-4444", {"timing": {"rate": "50", "between": "blend", "repeats": 2}}),
            "twice": ("png", {"timing": {"repeats": 2}, "pixels": "rgb48"}),
        }
        for alpha in (False, True):
            folder = scratch(self)
            recipes = {name: changed(of, **parts) for name, (of, parts) in pairs.items()}
            orders = [(recipe, folder / f"{name}{recipe.suffix}") for name, recipe in recipes.items()]
            for one in compile_batch(footage(self, alpha), orders):
                with self.subTest(one.file.stem, alpha=alpha):
                    self.assertIsNone(one.error)
                    self.assertTrue(one.receipt.holds, [c for c in one.receipt.checks if not c.holds])

    def test_frames_as_they_were_made_go_each_once(self):
        folder = scratch(self)
        for timing in ({"rate": "60"}, {"rate": "40", "between": "blend"}):
            for name in ("frames", "zip"):
                with self.assertRaisesRegex(Mistake, "some would be doubled or blended"):
                    compile_footage(footage(self), folder / name, changed(name, timing=timing))
        for parts in ({"size": {"long_side": 50}}, {"alpha": "drop"}, {"timing": {"repeats": 2}}):
            with self.assertRaisesRegex(Mistake, "exports frames unchanged, so it takes no"):
                changed("zip", **parts)
        # A loop that is played twice in a film is so many frames all the same.
        twice = replace(footage(self), clock=Clock(Rate.parse("24"), COUNT, repeats=2))
        compile_footage(twice, folder / "once.zip", RECIPES["zip"])
        with zipfile.ZipFile(folder / "once.zip") as archive:
            self.assertEqual(len(archive.namelist()), COUNT)

    def test_one_that_fails_leaves_the_others(self):
        folder = scratch(self)
        (folder / "kept").mkdir()
        (folder / "kept/mine.txt").write_text("mine")
        made = compile_batch(footage(self), [(RECIPES["png"], folder / "kept"), (RECIPES["h264"], folder / "a.mp4")])
        self.assertIn("already holds files", str(made[0].error))
        self.assertTrue(made[1].receipt.holds)
        self.assertEqual(sorted(file.name for file in folder.iterdir()), ["a.mp4", "kept"])

    def test_a_disk_that_fills_in_mid_file_is_one_sentence(self):
        folder = scratch(self)
        for name in ("h264", "ffv1", "gif", "apng", "page", "chapters"):
            part = folder / f"{name}.part"
            # Every byte that is written there finds no room.
            part.symlink_to("/dev/full")
            frames = replace(footage(self), chapters=CUES)
            with mock.patch("vexel.output.compiling.batch.part_of", return_value=part):
                (made,) = compile_batch(frames, [(RECIPES[name], folder / f"a{RECIPES[name].suffix}")])
            self.assertRegex(str(made.error), r"cannot be written: the disk is full: free some space", name)
            self.assertEqual(list(folder.iterdir()), [], name)

    def test_by_command(self):
        frames, folder = footage(self, alpha=True, rate="24", height=90), scratch(self)
        take = frames.files[0].parent
        outputs = ("-o", folder / "a.webm", "-o", folder / "a.mov", "-o", f"{folder}/s/")
        run = vexel("compile", take, "--rate", "24", *outputs, "--json")
        files = {Path(file["file"]).name: file for file in json.loads(run.stdout)["files"]}
        self.assertEqual({name: file["recipe"] for name, file in files.items()},
                         {"a.webm": "vp9-alpha", "a.mov": "prores-4444", "s": "frames"})  # fmt: skip
        own = folder / "mine.json"
        own.write_text(json.dumps({"name": "mine", "container": "mp4", "codec": "h264", "quality": {"level": 30}}))
        for arguments, status, words in (
            (("-o", folder / "a.webm"), 2, "is there already: choose another name, or add --overwrite"),
            (("-o", folder / "b.mp4", "--recipe-file", own), 0, "as planned"),
            (("-o", folder / "b.webm", "--recipe-file", own), 2, "recipe mine makes .mp4 files"),
            (("-o", folder / "b.mp4", "--recipe", own), 2, "give a custom recipe as --recipe-file"),
            (("-o", folder / "c.mp4", "--recipe", "h264", "--recipe", "gif"), 2, "one --recipe for all 1 outputs"),
            (("-o", folder / "c.mp4", "--size", "wide"), 2, "write 1280x720, 1280x or x720"),
            (("-o", folder / "c.mp4", "--max-size", "tiny"), 2, "is not a size"),
            (("-o", folder / "d.mp4", "--size", "80x", "--line"), 0, "-vf"),
        ):
            run = vexel("compile", take, "--rate", "24", *arguments)
            self.assertEqual(run.returncode, status, run.stderr)
            self.assertIn(words if words != "-vf" else "crop=160:88:0:1,scale=80:44", run.stdout + run.stderr)
        self.assertFalse((folder / "d.mp4").exists(), "a line writes nothing")


if __name__ == "__main__":
    unittest.main()
