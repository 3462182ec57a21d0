"""Files that last: on the disk before they have their name, and their name on the disk before anyone is told."""

import io
import json
import os
import unittest
import zipfile
from contextlib import contextmanager
from pathlib import Path
from unittest import mock

import numpy as np

from tests.helpers import scratch, shot_document
from vexel.core.document.shot import read_shot_document
from vexel.core.recipes.shipped import RECIPES
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.disk.write import copy_whole, publish, write_whole
from vexel.imaging.image_bytes import encoded_png
from vexel.output.compiling.compile import compile_batch
from vexel.output.exporting.handover import Handed, write_handover
from vexel.output.footage.footage import footage_of_images
from vexel.sources.archive import unpack
from vexel.sources.files import source_files
from vexel.store.folder_take import FolderTake, ledger_document


class Power:
    """Records what was flushed, so that a power cut can be replayed after every call that gives a name.

    What a file system keeps for sure is what was flushed: of a file its bytes at its last fsync, of a
    folder its names at its last fsync (POSIX fsync; Pillai and others, OSDI 2014). Names that were not
    flushed may be there or not.
    """

    def __init__(self):
        self.bytes, self.names, self.torn = {}, {}, []

    def fsync(self, entry):
        place = Path(f"/proc/self/fd/{entry}").readlink()
        if place.is_dir():
            self.names[place.stat().st_ino] = {path.name: path.lstat().st_ino for path in place.iterdir()}
        else:
            self.bytes[os.fstat(entry).st_ino] = place.read_bytes()
        self.flush(entry)

    def named(self, give):
        def call(source, target, **more):
            # From now on a power cut may leave this name, with what is known to be on the disk.
            source = Path(source).absolute()
            for path in [source] if source.is_file() else source.rglob("*"):
                if path.is_file() and self.bytes.get(path.stat().st_ino) != path.read_bytes():
                    self.torn.append(path.name)
            return give(source, target, **more)

        return call

    def is_lasting(self, path):
        """Whether a file's name and bytes are still there after a cut now."""
        entry = self.names.get(path.parent.stat().st_ino, {}).get(path.name)
        return entry == path.stat().st_ino and (path.is_dir() or self.bytes.get(entry) == path.read_bytes())

    @contextmanager
    def watched(self):
        self.flush = os.fsync
        with (
            mock.patch("os.fsync", self.fsync),
            mock.patch("os.rename", self.named(os.rename)),
            mock.patch("os.link", self.named(os.link)),
        ):
            yield self


class PowerCutTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)
        self.stills = []
        for n in range(3):
            self.stills.append(self.folder / f"s.{n}.png")
            self.stills[n].write_bytes(encoded_png(np.full((64, 96, 3), 60 * n, np.uint8)))

    def lasting(self, make):
        power = Power()
        with power.watched():
            made = make()
        for path in made:
            for place in (path, *path.relative_to(self.folder).parents[:-1]):
                self.assertTrue(power.is_lasting(self.folder / place), f"{place} may be gone after a power cut")
        self.assertEqual(power.torn, [], "named before their bytes were on the disk")

    def test_a_cut_is_noticed(self):
        """What each of these tests must catch: a name before the bytes, and a name that was not flushed."""

        def early():
            (self.folder / "part").write_bytes(b"x" * 9)
            os.rename(self.folder / "part", self.folder / "a")  # noqa: PTH104
            return [self.folder / "a"]

        with self.assertRaisesRegex(AssertionError, "may be gone"):
            self.lasting(early)
        power = Power()
        with power.watched():
            early()
        self.assertEqual(power.torn, ["part"])

    def test_single_files_and_folders(self):
        self.lasting(lambda: [write_whole(self.folder / "a", b"x") or self.folder / "a"])
        self.lasting(lambda: [write_whole(self.folder / "b", b"x", replace=False) or self.folder / "b"])
        self.lasting(lambda: [copy_whole(self.stills[0], self.folder / "c") or self.folder / "c"])

        def folder():
            (self.folder / ".part/in").mkdir(parents=True)
            (self.folder / ".part/in/a").write_bytes(b"x")
            publish(self.folder / ".part", self.folder / "d")
            return [self.folder / "d", self.folder / "d/in", self.folder / "d/in/a"]

        self.lasting(folder)

    def test_compiled_files(self):
        footage = footage_of_images(self.stills, Clock(Rate.parse("12"), 3))
        for name in ("h264", "gif", "png", "zip", "page", "apng"):
            recipe, file = RECIPES[name], self.folder / f"made-{name}{RECIPES[name].suffix}"
            with self.subTest(name):
                self.lasting(lambda r=recipe, f=file: [one.file for one in compile_batch(footage, [(r, f)])])

    def test_takes_hand_overs_copies_and_archives(self):
        (self.folder / "thing.py").write_text("import other\n")
        (self.folder / "other.py").write_text("x = 1\n")
        shot = read_shot_document(shot_document({"kind": "stills", "file": "s.0.png", "rate": "12"}, 3))
        take = FolderTake(self.folder / "take", shot)
        self.lasting(lambda: [take.enter(resume=False, fresh=False) or self.folder / "take/take.json"])
        copies = self.folder / "copies"
        self.lasting(lambda: [source_files("model", self.folder / "thing.py").copy_to(copies).main])
        frames = {path.name: path for path in self.stills}
        handed = Handed(shot, "s.0.png", frames, {}, None, ledger_document(shot, [], {}), frames, {})
        for name in ("hand.zip", "hand"):
            self.lasting(lambda n=name: [write_handover(handed, self.folder / n) and self.folder / n])
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as held:
            held.writestr("a/b.html", json.dumps({}))
        (self.folder / "a.zip").write_bytes(packed.getvalue())
        self.lasting(lambda: unpack(self.folder / "a.zip", self.folder / "out"))


if __name__ == "__main__":
    unittest.main()
