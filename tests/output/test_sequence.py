"""Frames as files of a person's own: a folder, and a ZIP archive."""

import io
import unittest
import zipfile

from tests.helpers import scratch
from vexel.core.errors import Failure, Mistake, Stopped
from vexel.output.compiling.sequence import lay_frames, zipped_frames


class SequenceTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)
        self.frames = []
        for number in range(5):
            file = self.folder / f"key{number}.png"
            file.write_bytes(bytes([number]) * (1000 + number))
            self.frames.append((f"shell.{number:04}.png", file))

    def lay(self, place="out", **more):
        return lay_frames(self.frames, self.folder / place, "frames", 5, **more)

    def test_copies_are_the_frames_and_links_are_the_same_files(self):
        receipt = self.lay()
        self.assertTrue(receipt.holds)
        self.assertEqual(receipt.bytes, sum(path.stat().st_size for _, path in self.frames))
        self.lay("linked", links=True)
        for name, path in self.frames:
            self.assertEqual((self.folder / "out" / name).read_bytes(), path.read_bytes())
            self.assertFalse((self.folder / "out" / name).samefile(path))
            self.assertTrue((self.folder / "linked" / name).samefile(path))

    def test_it_goes_on_after_a_stop_and_tells_of_what_is_missing(self):
        def stop(done):
            if done == 2:
                raise Stopped("stopped")

        with self.assertRaises(Stopped):
            self.lay(step=stop)
        self.assertEqual(len(list((self.folder / "out").iterdir())), 2)
        steps = []
        self.assertTrue(self.lay(step=steps.append).holds)
        self.assertEqual(steps, [1, 2, 3, 4, 5])
        receipt = lay_frames(self.frames[:3], self.folder / "part", "frames", 5)
        self.assertFalse(receipt.holds)
        self.assertEqual((receipt.checks[0].planned, receipt.checks[0].found), ("5", "3"))

    def test_frames_are_never_mixed_with_other_files(self):
        (self.folder / "out").mkdir()
        (self.folder / "out/notes.txt").write_text("mine")
        with self.assertRaisesRegex(Mistake, r"out already holds other files, such as notes\.txt"):
            self.lay()
        self.assertEqual([file.name for file in (self.folder / "out").iterdir()], ["notes.txt"])
        self.lay("own")
        (self.folder / "own/shell.0002.png").write_bytes(b"another picture")
        with self.assertRaisesRegex(Mistake, "such as shell.0002.png"):
            self.lay("own")
        (self.folder / "file").write_text("")
        with self.assertRaisesRegex(Failure, "cannot be written"):
            self.lay("file")

    def test_an_archive_that_the_standard_library_reads(self):
        data = b"".join(zipped_frames(self.frames))
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            self.assertIsNone(archive.testzip())
            self.assertEqual(archive.namelist(), [name for name, _ in self.frames])
            for name, path in self.frames:
                self.assertEqual(archive.read(name), path.read_bytes())


if __name__ == "__main__":
    unittest.main()
