"""Files say how they were made, in the open places of their formats, read by other programs too."""

import json
import subprocess
import unittest

import numpy as np
from PIL import Image, ImageSequence

from tests.helpers import scratch, vexel, write_shot
from tests.numbered import CODE
from vexel.core.recipes.shipped import RECIPES
from vexel.output.compiling.compile import compile_batch
from vexel.output.footage.footage import footage_of
from vexel.output.origin.carried import record_in
from vexel.output.origin.record import MARK, without_places

KINDS = ("h264", "prores-4444", "ffv1", "vp9", "gif", "webp", "apng", "png", "jpeg", "exr", "still", "page")


def pixels(file):
    """All frames of an animated file, by Pillow."""
    with Image.open(file) as image:
        return [np.asarray(frame.convert("RGBA")) for frame in ImageSequence.Iterator(image)]


class OriginTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        holder = type("Holder", (), {"addCleanup": staticmethod(cls.addClassCleanup)})
        cls.folder = scratch(holder)
        (cls.folder / "numbered.py").write_text(CODE)
        document = {
            "title": "Numbered <&> \u2713",
            "source": {"kind": "sketch", "file": str(cls.folder / "numbered.py")},
            "clock": {"rate": "24", "frames": 6},
            "picture": {"width": 64, "height": 48, "samples": 1},
        }
        (cls.folder / "shot.json").write_text(json.dumps(document))
        done = vexel("capture", cls.folder / "shot.json", "--to", cls.folder / "take")
        assert done.returncode == 0, done.stderr
        cls.footage = footage_of(cls.folder / "take")

    def made(self, recipe, name="", **changes):
        recipe = RECIPES[recipe].model_copy(update=changes)
        file = scratch(self) / f"{name or 'file'}{recipe.suffix}"
        (one,) = compile_batch(self.footage, [(recipe, file)])
        self.assertIsNone(one.error, one.error)
        self.assertTrue(one.receipt.holds, one.receipt)
        return next(iter(sorted(file.iterdir()))) if file.is_dir() else file

    def test_each_kind_of_file_carries_the_same_record(self):
        records = {}
        for kind in KINDS:
            origin = record_in(self.made(kind))
            self.assertIsNotNone(origin, kind)
            self.assertEqual((origin.title, origin.kind, origin.recipe), ("Numbered <&> \u2713", "shot", kind))
            self.assertEqual(origin.made, {})
            records[kind] = (origin.frames, origin.document)
        self.assertEqual(len(set(records.values())), 1)
        self.assertRegex(records["gif"][0], "^[0-9a-f]{64}$")

    def test_other_programs_read_it(self):
        """FFmpeg's probe, and Pillow, by the formats' own rules."""
        for kind in ("h264", "ffv1", "vp9"):
            order = ["ffprobe", "-v", "error", "-show_entries", "format_tags", "-of", "json", self.made(kind)]
            tags = json.loads(subprocess.run(order, capture_output=True, check=True).stdout)["format"]["tags"]
            tags = {name.lower(): value for name, value in tags.items()}
            self.assertEqual(tags["title"], "Numbered <&> \u2713")
            self.assertTrue(tags["comment"].startswith(MARK), tags)
        for kind, read in (
            ("gif", lambda image: image.info["comment"].decode()), ("png", lambda image: image.text["Comment"]),
            ("apng", lambda image: image.text["Comment"]), ("jpeg", lambda image: image.info["comment"].decode()),
            ("webp", lambda image: image.info["xmp"].decode()),
        ):  # fmt: skip
            with Image.open(self.made(kind)) as image:
                self.assertIn(MARK, read(image), kind)
                for frame in range(getattr(image, "n_frames", 1)):
                    image.seek(frame)
                    image.load()

    def test_nothing_private_is_in_a_file_unless_it_is_asked_for_and_never_a_place(self):
        for origin, document in (("digest", False), ("full", True), ("nothing", False)):
            file = self.made("h264", origin=origin)
            data = file.read_bytes()
            self.assertNotIn(str(self.folder).encode(), data, origin)
            record = record_in(file)
            self.assertEqual(record is None, origin == "nothing")
            self.assertEqual(bool(record and record.made), document)
        self.assertEqual(record_in(self.made("h264", origin="full")).made["source"]["file"], "numbered.py")
        places = {"a": ["/home/ada/x.py", "C:\\films\\y.png", "\\\\server\\z.wav", "~/w.txt", "../v.py"]}
        self.assertEqual(without_places(places), {"a": ["x.py", "y.png", "z.wav", "w.txt", "../v.py"]})

    def test_pictures_and_sizes_are_those_without_a_record(self):
        for kind in ("gif", "apng", "png", "webp"):
            with self.subTest(kind):
                one, other = self.made(kind), self.made(kind, origin="nothing")
                frames = [pixels(file) for file in (one, other)]
                np.testing.assert_array_equal(*frames)
        limited = RECIPES["gif"].quality.model_copy(update={"at_most": "20 kB"})
        self.assertLessEqual(self.made("gif", quality=limited).stat().st_size, 20_000)

    def test_hostile_records_are_no_records(self):
        file = scratch(self) / "x.bin"
        for text in (
            f"{MARK}{{", f'{MARK}{{"vexel": 2}}', f"{MARK}{'{' * 100_000}", f'{MARK}{{"a":' + "[" * 100_000,
            f'{MARK}{{"title": 3}}', f'{MARK}{{"kind": "page"}}', f'{MARK}{{"frames": "{"0" * 99}"}}',
            "GIF89a", "GIF89a" + "\xff" * 40, "RIFF\0\0\0\0WEBP",
        ):  # fmt: skip
            file.write_bytes(text.encode("latin-1"))
            self.assertIsNone(record_in(file), text[:40])
        file.write_bytes(f'{MARK}{{"vexel": 1, "other": [1, 2], "title": "new"}} and more'.encode())
        self.assertEqual(record_in(file).title, "new")

    def test_a_file_is_made_again_from_its_take(self):
        for kind in ("h264", "gif", "ffv1", "page"):
            file = self.made(kind)
            new = scratch(self) / f"new{file.suffix}"
            done = vexel("again", file, "-o", new, "--take", self.folder / "take")
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertIn("byte-identical", done.stdout)
            self.assertEqual(new.read_bytes(), file.read_bytes())
        own = self.made("h264", quality=RECIPES["h264"].quality.model_copy(update={"level": 30}), origin="full")
        done = vexel("again", own, "-o", scratch(self) / "own.mp4", "--take", self.folder / "take")
        self.assertIn("byte-identical", done.stdout, done.stderr)
        own = self.made("h264", quality=RECIPES["h264"].quality.model_copy(update={"level": 30}))
        done = vexel("again", own, "-o", scratch(self) / "own.mp4", "--take", self.folder / "take")
        self.assertIn("carries its digest alone", done.stderr)

    def test_what_cannot_be_made_again_is_a_sentence(self):
        file, place = self.made("h264"), scratch(self)
        stripped = place / "stripped.mp4"
        order = ["ffmpeg", "-v", "error", "-i", file, "-map_metadata", "-1", "-c", "copy", stripped]
        subprocess.run(list(map(str, order)), check=True)
        write_shot(place, frames=2)
        vexel("capture", place / "shot.json", "--to", place / "other")
        take = ("--take", self.folder / "take")
        for words, says in (
            ((stripped, "-o", place / "n.mp4", *take), "carries no provenance record"),
            ((file, "-o", place / "n.mov", *take), "of the same kind"),
            ((file, "-o", place / "n.mp4"), "name the project with --home"),
            ((file, "-o", place / "n.mp4", "--take", place / "other"), "holds other frames"),
            ((file, "-o", place / "n.mp4", "--take", place), "is not a take"),
            ((file, "-o", place / "n.mp4", "--home", place), "is not a project"),
            ((place / "none.mp4", "-o", place / "n.mp4", *take), "there is no file"),
        ):
            done = vexel("again", *words)
            self.assertNotEqual(done.returncode, 0, words)
            self.assertIn(says, done.stderr)
        self.assertFalse((place / "n.mp4").exists())

    def test_a_cut_file_says_how_it_was_made_and_two_files_are_compared(self):
        file, place = self.made("h264"), scratch(self)
        cut = place / "cut.mp4"
        cut.write_bytes(file.read_bytes()[: file.stat().st_size * 9 // 10])
        self.assertEqual(record_in(cut), record_in(file))
        worse = self.made("h264", quality=RECIPES["h264"].quality.model_copy(update={"level": 45}))
        done = vexel("diff", file, worse)
        self.assertRegex(done.stdout, r"6 of 6 frames differ|[1-6] of 6 frames differ")
        self.assertIn("equal in all of 6 frames", vexel("diff", file, file).stdout)
        told = vexel("review", file, "--json")
        self.assertEqual(json.loads(told.stdout)["count"], 6, told.stderr)
        self.assertIn("has no cameras", vexel("review", file, "--camera", "main").stderr)
        said = vexel("inspect", file).stdout
        self.assertIn("Numbered <&> \u2713", said)
        self.assertIn("recipe h264", said)


if __name__ == "__main__":
    unittest.main()
