"""Every line of a receipt sees a file that was damaged in just that respect, by Debian's ffmpeg or byte by byte."""

import base64
import json
import shutil
import subprocess
import unittest
import zipfile
from dataclasses import replace

import cv2
import numpy as np
from PIL import Image

from tests.helpers import scratch
from vexel.core.camera.panorama import Panorama
from vexel.core.recipes.cue import Cue
from vexel.core.recipes.recipe import read_recipe
from vexel.core.recipes.shipped import RECIPES
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.output.compiling.compile import compile_batch
from vexel.output.footage.footage import Footage
from vexel.output.job.job import jobs_of
from vexel.output.proving.prove import receipt_of

COUNT, WIDTH, HEIGHT = 12, 128, 96
AGAIN = ("-c:v", "libx264", "-crf", "12", "-color_primaries", "bt709", "-color_trc", "bt709", "-colorspace", "bt709")
COPY = ("-map", "0", "-c", "copy", "-movflags", "+faststart")
VIDEOS = {
    # What ffmpeg does to a right file, and the lines that must not hold then.
    "frames": (("-map", "0", "-c:a", "copy", *AGAIN, "-frames:v", "11"), {"frames"}),
    "rate": (("-vf", "setpts=2*PTS", "-r", "12.5", *AGAIN), {"rate", "duration"}),
    "size": (("-vf", "scale=64:48", *AGAIN), {"size"}),
    "codec": (("-c:v", "mpeg4", "-q:v", "2"), {"codec"}),
    "pixels": (("-pix_fmt", "yuv444p", *AGAIN), {"pixels"}),
    "colour tags": ((*COPY, "-bsf:v", "h264_metadata=colour_primaries=9"), {"colour"}),
    "index": (("-map", "0", "-c", "copy"), {"index"}),
    "chapters": ((*COPY, "-map_chapters", "-1"), {"chapters"}),
    "sound": (("-map", "0", "-c:v", "copy", "-af", "atrim=0:0.2", "-movflags", "+faststart"), {"sound"}),
    "colours": (("-vf", "hue=h=12", *AGAIN), {"colours"}),
    "pictures": (("-vf", "hflip", *AGAIN), {"PSNR"}),
}


def footage(case, channels=3):
    folder = scratch(case)
    y, x = np.mgrid[:HEIGHT, :WIDTH]
    for n in range(COUNT):
        picture = np.dstack([2 * y, 40 + x, np.full_like(x, 90 + 6 * n)])
        picture[HEIGHT // 3 : HEIGHT // 2, 8 * n : 8 * n + 24] = (20, 60, 230)
        if channels == 4:
            cover = np.where(np.hypot(x - 40 - 4 * n, y - 48) < 30, 255, 0)
            picture = np.dstack([picture, cover])
        cv2.imwrite(str(folder / f"f.{n:04d}.png"), picture.astype(np.uint8))
    return Footage(tuple(sorted(folder.glob("*.png"))), Clock(Rate.parse("25"), COUNT))


def recipe_with(name, **parts):
    return read_recipe(json.dumps(RECIPES[name].model_dump(exclude_defaults=True) | parts))


class ReceiptTest(unittest.TestCase):
    def made(self, shown, recipe):
        """A right file, and its job."""
        file = scratch(self) / f"made{recipe.suffix}"
        (made,) = compile_batch(shown, [(recipe, file)])
        self.assertIsNone(made.error)
        self.assertTrue(made.receipt.holds, [check for check in made.receipt.checks if not check.holds])
        (job,) = jobs_of(shown, [(recipe, file)])
        return file, job

    def broken(self, job):
        return {check.what for check in receipt_of(job, []).checks if not check.holds}

    def test_videos(self):
        shown = replace(footage(self), chapters=(Cue("One", 0, 6), Cue("Two", 6, COUNT)))
        sound = scratch(self) / "tone.wav"
        subprocess.run(["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=440:d=1", sound], check=True)
        right, job = self.made(shown, recipe_with("h264", sound={"file": str(sound)}))
        kept = right.read_bytes()
        for name, (words, lines) in VIDEOS.items():
            with self.subTest(name):
                wrong = scratch(self) / "wrong.mp4"
                subprocess.run(["ffmpeg", "-v", "error", "-y", "-i", right, *words, wrong], check=True)
                shutil.copyfile(wrong, right)
                self.assertLessEqual(lines, self.broken(job))
                right.write_bytes(kept)
        with self.subTest("whole"):
            spoilt = bytearray(kept)
            middle = kept.index(b"mdat") + len(kept) // 3
            spoilt[middle : middle + 400] = bytes(400)
            right.write_bytes(spoilt)
            self.assertTrue({"whole", "frames", "colours", "PSNR"} & self.broken(job))
        with self.subTest("bytes"):
            right.write_bytes(kept)
            small = replace(job, recipe=recipe_with("h264", quality={"at_most": f"{len(kept) - 1} B"}))
            self.assertIn("bytes", self.broken(small))
        with self.subTest("panorama"):
            round_about = replace(shown, panorama=Panorama("sphere", "one"))
            (other,) = jobs_of(round_about, [(job.recipe, right)])
            self.assertEqual(self.broken(other), {"panorama"})
        with self.subTest("nothing"):
            self.assertEqual(self.broken(job), set())

    def test_gif(self):
        file, job = self.made(footage(self, 4), RECIPES["gif"])
        kept = file.read_bytes()
        at = kept.index(b"NETSCAPE2.0") + 13
        file.write_bytes(kept[:at] + b"\x03\x00" + kept[at + 2 :])
        self.assertEqual(self.broken(job), {"plays"})
        with self.subTest("a pixel that is clear where it should not, and the reverse"):
            opaque = [Image.open(path).convert("RGB") for path in job.footage.files]
            opaque[0].save(file, save_all=True, append_images=opaque[1:], duration=40, loop=0)
            self.assertIn("alpha", self.broken(job))
            file.write_bytes(kept)
            (plain,) = jobs_of(footage(self), [(RECIPES["gif"], file)])
            self.assertIn("alpha", self.broken(plain))

    def test_webp_and_webm_with_transparency(self):
        file, job = self.made(footage(self, 4), RECIPES["webp"])
        kept = file.read_bytes()
        at = kept.index(b"ANIM") + 12
        file.write_bytes(kept[:at] + b"\x03\x00" + kept[at + 2 :])
        self.assertEqual(self.broken(job), {"plays"})
        file, job = self.made(footage(self, 4), RECIPES["vp9-alpha"])
        for name, change, lines in (
            ("opaque", ("-pix_fmt", "yuv420p"), {"alpha"}),
            ("paler", ("-vf", "format=yuva420p,lut=a=val*0.8"), {"clear"}),
        ):
            with self.subTest(name):
                wrong = scratch(self) / "wrong.webm"
                again = ("-c:v", "libvpx-vp9", "-crf", "12", "-b:v", "0", "-auto-alt-ref", "0")
                read = ("ffmpeg", "-v", "error", "-c:v", "libvpx-vp9", "-i", file)
                subprocess.run([*read, *change, *again, wrong], check=True)
                kept = file.read_bytes()
                shutil.copyfile(wrong, file)
                self.assertLessEqual(lines, self.broken(job))
                file.write_bytes(kept)
                self.assertEqual(self.broken(job), set())

    def test_pages(self):
        for name in ("page", "page-turn"):
            file, job = self.made(footage(self), RECIPES[name])
            text = file.read_text()
            begin = text.index('<script id="take" type="application/json">') + 42
            end = text.index("</script>", begin)
            take = json.loads(text[begin:end])
            other, _ = self.made(footage(self, 4), RECIPES["h264"])
            changes = [({"plays": 3}, {"plays"})] if name == "page" else [({"frames": take["frames"][:-1]}, {"frames"})]
            if name == "page":
                film = "data:video/mp4;base64," + base64.b64encode(other.read_bytes()).decode()
                changes.append(({"video": film}, {"PSNR"}))
            else:
                changes.append(({"frames": take["frames"][::-1]}, {"colours"}))
            for change, lines in changes:
                with self.subTest(name, change=list(change)):
                    file.write_text(text[:begin] + json.dumps(take | change) + text[end:])
                    self.assertLessEqual(lines, self.broken(job))
            file.write_text(text)
            self.assertEqual(self.broken(job), set())

    def test_subtitles_and_chapters(self):
        said = (Cue("One", 0, 6), Cue("Two & three\n\n4 --> 5", 6, COUNT))
        for name in ("subtitles", "chapters"):
            file, job = self.made(replace(footage(self), subtitles=said, chapters=said), RECIPES[name])
            text = file.read_text()
            cut = text[: text.rindex("00:00:00.240")]
            for change in (text.replace("One", "Four"), text.replace("00:00:00.240", "00:00:00.260"), cut):
                with self.subTest(name, change=change):
                    self.assertNotEqual(change, text)
                    file.write_text(change)
                    self.assertTrue({name, "whole"} & self.broken(job))
            file.write_text(text)
            self.assertEqual(self.broken(job), set())

    def test_folders_and_archives(self):
        for name in ("png", "frames"):
            with self.subTest(name):
                folder, job = self.made(footage(self, 4), RECIPES[name])
                file = sorted(folder.iterdir())[0]
                picture = cv2.imread(str(file), cv2.IMREAD_UNCHANGED)
                picture[48, 40, 0] ^= 1
                cv2.imwrite(str(file), picture)
                self.assertEqual(self.broken(job), {"lossless"} if name == "png" else {"frames' bytes"})
        folder, job = self.made(footage(self, 4), RECIPES["png"])
        for file in folder.iterdir():
            cv2.imwrite(str(file), cv2.imread(str(file), cv2.IMREAD_UNCHANGED)[..., :3])
        self.assertLessEqual({"alpha", "clear"}, self.broken(job))
        archive, job = self.made(footage(self), RECIPES["zip"])
        with zipfile.ZipFile(archive) as old:
            parts = {one: old.read(one) for one in old.namelist()}
        with zipfile.ZipFile(archive, "w") as new:
            for one in list(parts)[:-1]:
                new.writestr(one, parts[one])
        self.assertEqual(self.broken(job), {"frames", "frames' bytes"})


if __name__ == "__main__":
    unittest.main()
