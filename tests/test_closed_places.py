"""Places that are closed, read-only or full: a sentence that names the place, and nothing that was made is touched."""

import ctypes
import os
import struct
import subprocess
import sys
import unittest

from tests.helpers import scratch, vexel, write_shot
from vexel.core.recipes.cue import Cue, read_webvtt, webvtt
from vexel.disk.disk_errors import os_sentence

PR_CAPBSET_DROP = 24
NO_PRIVILEGES = struct.pack("Ii", 0x20080522, 0), bytes(24)
"""For capset(2): nothing is closed to root, unless it lets go of its capabilities."""


class ClosedPlacesTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)
        self.addCleanup(lambda: (self.folder / "closed").chmod(0o700))
        shot = write_shot(self.folder, frames=2)
        self.assertEqual(vexel("capture", shot, "--to", self.folder / "take").returncode, 0)
        for name in ("closed", "readonly"):
            (self.folder / name).mkdir()
        (self.folder / "film.mp4").write_bytes(b"a film")
        frame = sorted((self.folder / "take").glob("*.png"))[0]
        for place, mode in (("closed", 0), ("readonly", 0o555), ("film.mp4", 0), (frame, 0)):
            (self.folder / place).chmod(mode)

    def run_plainly(self, *arguments):
        """Exit status and errors of a command in a process without privileges."""

        def drop():
            libc = ctypes.CDLL(None)
            # A program that root starts gets what its bounding set holds (capabilities(7)).
            for capability in range(41):
                libc.prctl(PR_CAPBSET_DROP, capability, 0, 0, 0)
            libc.capset(*NO_PRIVILEGES)

        done = subprocess.run(
            [sys.executable, "-m", "vexel", *map(str, arguments)],
            cwd=self.folder, env=os.environ | {"XDG_STATE_HOME": str(self.folder / "state")}, preexec_fn=drop,
            stdin=subprocess.DEVNULL, capture_output=True, text=True, timeout=120, check=False,
        )  # fmt: skip
        return done.returncode, done.stderr

    def test_each_command_says_what_is_closed(self):
        before = {path: path.lstat().st_mtime_ns for path in (self.folder / "take").iterdir()}
        for words in (
            ("compile", "take", "-o", "closed/a.mp4"), ("compile", "take", "-o", "readonly/a.mp4"),
            ("compile", "take", "-o", "a.mp4"), ("compile", "closed/x", "-o", "a.mp4"), ("inspect", "closed/a.mp4"),
            ("inspect", "film.mp4"), ("check", "closed", "--deep"), ("check", "take", "--deep"),
            ("make", "shot.json", "-o", "readonly/a.mp4"),
            ("make", "shot.json", "-o", "b.mp4", "--frames-to", "closed/f"),
            ("capture", "shot.json", "--to", "readonly/t"), ("capture", "closed/shot.json", "--to", "t"),
            ("handover", "shot.json", "--take", "take", "-o", "h.zip"), ("unpack", "closed/h.zip", "--to", "p"),
            ("layers", "closed/take", "-o", "l"), ("path", "shot.json", "-o", "readonly/p.csv"),
            ("reel", "closed/r.json", "-o", "r.mp4"), ("plan", "closed/shot.json"), ("trust", "closed"),
            ("serve", "--home", "readonly/home", "--port", "0"), ("serve", "--home", "closed", "--port", "0"),
        ):  # fmt: skip
            with self.subTest(words):
                status, errors = self.run_plainly(*words)
                self.assertIn(status, (1, 2))
                self.assertNotIn("Traceback", errors)
                self.assertRegex(errors, "Permission denied|not readable|is not a project|cannot be read")
        self.assertEqual({path: path.lstat().st_mtime_ns for path in (self.folder / "take").iterdir()}, before)
        self.assertEqual([path.name for path in self.folder.iterdir() if path.name.endswith((".part", ".claim"))], [])


class TextsTest(unittest.TestCase):
    def test_an_error_of_the_system_names_the_file_and_the_cure(self):
        with self.assertRaises(OSError) as caught:
            (scratch(self) / ("x" * 300)).write_text("")
        self.assertRegex(os_sentence(caught.exception), "xxx: File name too long; choose a shorter name")

    def test_a_name_with_empty_lines_ends_no_cue(self):
        """W3C WebVTT: an empty line ends a cue, whatever stands after it."""
        cues = [Cue("one\n\n2\n00:00:00.000 --> 00:00:09.000\nfalse", 0, 24), Cue("\n\n", 24, 48), Cue("three", 48, 72)]
        self.assertEqual([text for text, _, _ in read_webvtt(webvtt(cues, 24))][-1], "three")
        self.assertEqual(len(list(read_webvtt(webvtt(cues, 24)))), 3)


if __name__ == "__main__":
    unittest.main()
