"""What code reads beside its own files: found while it runs and, once declared, part of what its frames are made of."""

import json
import os
import unittest
from unittest import mock

from tests.helpers import asked, scratch, vexel
from vexel.core.checks.reading_findings import reading_findings
from vexel.core.document.shot import read_shot_document
from vexel.core.document.source_spec import SketchSource
from vexel.core.errors import Mistake
from vexel.core.evaluate.source_facts import SourceAt
from vexel.sources.files import source_files
from vexel.sources.outside_files import OutsideReads
from vexel.sources.registry import open_source
from vexel.workers.planner import NothingKept, Planner

CODE = """import os
from pathlib import Path
import matplotlib.pyplot as plt
from vexel.author import sketch
{top}
@sketch
def drawn(canvas, size):
    {body}
    figure, axes = plt.subplots()
    axes.set_title("of its own fonts")
    return figure
"""


class WatchTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self) / "project"
        self.folder.mkdir()
        self.outside = self.folder.parent / "elsewhere"
        self.outside.mkdir()
        (self.outside / "level.txt").write_text("1")
        self.enterContext(mock.patch.dict(os.environ, VEXEL_TEST_LEVEL="3"))

    def captured(self, top, body, *options, **source):
        (self.folder / "drawn.py").write_text(CODE.format(top=top, body=body))
        shot = self.folder / "shot.json"
        shot.write_text(json.dumps({
            "title": "Drawn", "source": {"kind": "sketch", "file": "drawn.py"} | source,
            "clock": {"rate": "24", "frames": 2}, "picture": {"width": 64, "height": 48, "samples": 1},
        }))  # fmt: skip
        made = vexel("capture", shot, "--to", self.folder.parent / "take", *options)
        self.assertEqual(made.returncode, 0, made.stderr)
        return made.stdout + made.stderr

    def said(self, top, body):
        """What findings say of code that is run here."""
        file = self.folder / "drawn.py"
        file.write_text(CODE.format(top=top, body=body))
        # A stage has a temporary folder of its own, in which it may read.
        with mock.patch("tempfile.gettempdir", return_value=str(scratch(self))):
            source = open_source(SourceAt("sketch", file))
        source.show(asked())
        spec = SketchSource(kind="sketch", file="drawn.py")
        return [finding.what for finding in reading_findings(spec, source.readings)]

    def test_each_reading_is_a_finding_and_what_libraries_read_is_none(self):
        level = self.outside / "level.txt"
        for top, body, words in (
            (f"open({str(level)!r}).read()", "pass", f"drawn.py reads the file {level}"),
            ("", f"Path({str(level)!r}).read_text()", f"drawn.py reads the file {level}"),
            ("", f"sorted(Path({str(self.outside)!r}).iterdir())", f"drawn.py lists the folder {self.outside}"),
            ("", "os.environ.get('VEXEL_TEST_LEVEL')", "drawn.py reads the environment variable VEXEL_TEST_LEVEL"),
            ("import socket", "socket.socket().connect_ex(('127.0.0.1', 9))", "drawn.py opens the network"),
            ("import subprocess", "subprocess.run(['true'])", "drawn.py starts the program true"),
            ("import time", "time.strftime('%H:%M')", "drawn.py asks for the time"),
            ("from time import time", "time()", "drawn.py asks for the time"),
            ("import datetime", "datetime.datetime.now()", "drawn.py asks for the time"),
            ("import numpy as np", "np.random.default_rng()", "drawn.py draws random numbers from the system"),
            ("import uuid", "uuid.uuid4()", "drawn.py draws random numbers from the system"),
            # OpenCV opens the file by itself, which Python does not report.
            ("import cv2", f"cv2.imread({str(level)!r})", f"drawn.py reads the file {level}"),
        ):
            with self.subTest(words):
                self.assertEqual(self.said(top, body), [words])
        level_read = f"Path({str(level)!r}).read_text()"
        self.assertIn(f"drawn.py reads the file {level}", self.captured("", level_read, "--fresh"))
        harmless = "import time\nimport tempfile\nimport logging\nimport numpy as np"
        for body in (
            "pass", "time.perf_counter(); time.strftime('%Y', time.gmtime(0)); np.random.default_rng(3)",
            "tempfile.mkstemp(); logging.getLogger('a').warning('b')",
        ):  # fmt: skip
            self.assertEqual(self.said(harmless, body), [])

    def test_watched_functions_keep_the_names_that_libraries_read(self):
        # Dask's pages list functions of time by their names.
        self.said("import time", "assert (time.time.__name__, open.__name__) == ('time', 'open')")

    def test_zone_and_language_are_the_same_on_each_machine(self):
        top = "import locale\nimport time"
        body = "assert (time.tzname[0], locale.setlocale(locale.LC_ALL, '')) == ('UTC', 'C.UTF-8'), 'other'"
        with mock.patch.dict(os.environ, TZ="Asia/Tokyo", LC_ALL="", LANG="de_DE.UTF-8"):
            self.captured(top, body, "--fresh")
            with self.assertRaises(AssertionError):
                self.captured(top, body.replace("UTC", "JST"), "--fresh")

    def test_a_mark_declares_what_code_reads(self):
        level = self.outside / "level.txt"
        top = "LEVEL = 1"
        code = CODE.replace("@sketch", f"@sketch(reads=[{str(level)!r}])")
        with mock.patch.dict(globals(), CODE=code):
            body = f"float(Path({str(level)!r}).read_text())"
            level.write_text("1")
            self.assertNotIn("drawn.py reads", self.captured(top, body, "--fresh"))
            self.assertIn("0 made, 2 reused", self.captured(top, body, "--resume"))
            level.write_text("2")
            self.assertNotIn("0 made", self.captured(top, body, "--resume"))
        for wrong in ("[LEVEL]", "'a' * 9", "3", "['']"):
            (self.folder / "drawn.py").write_text(
                f"from vexel.author import sketch\n@sketch(reads={wrong})\ndef a(): 1"
            )
            with self.assertRaisesRegex(Mistake, "drawn.py, line 2: write reads as a list of texts"):
                source_files("sketch", self.folder / "drawn.py")

    def test_what_is_declared_is_part_of_the_frames(self):
        level = self.outside / "level.txt"
        body = f"Path({str(level)!r}).read_text(); os.environ['VEXEL_TEST_LEVEL']"
        for reads in ([str(level), "env:VEXEL_TEST_LEVEL"], ["../elsewhere", "env:VEXEL_TEST_LEVEL"]):
            with self.subTest(reads):
                level.write_text("1")
                said = self.captured("", body, "--fresh", reads=reads)
                if reads[0] == str(level):
                    self.assertNotIn("drawn.py reads", said)
                self.assertIn("0 made, 2 reused", self.captured("", body, "--resume", reads=reads))
                level.write_text("2")
                self.assertIn("made, ", self.captured("", body, "--resume", reads=reads))
                self.assertNotIn("0 made", self.captured("", body, "--fresh", reads=reads))
        with mock.patch.dict(os.environ, VEXEL_TEST_LEVEL="4"):
            self.assertNotIn("0 made", self.captured("", body, "--resume", reads=reads))

    def test_what_cannot_be_read_is_a_sentence(self):
        main = self.folder / "a.py"
        main.write_text("")
        for name in ("/proc/kmsg", "/proc/kcore", "/dev/zero", "/", "~nobody-here/x", "y" * 300, "../" + "x" * 300):
            with self.subTest(name), self.assertRaisesRegex(Mistake, "source.reads: "):
                OutsideReads.of([(main, [name])]).stamps()
                source_files("sketch", main, {"reads": [name]})
        for name in ("", "a\0b", "x" * 401):
            with self.subTest(name), self.assertRaises(Mistake):
                source = {"kind": "sketch", "file": "a.py", "reads": [name]}
                read_shot_document({"title": "T", "source": source, "clock": {"rate": "24", "frames": 2}})
        for name in (".", "**foo", "[", "env:", "env:a=b", "gone.txt", "/gone"):
            OutsideReads.of([(main, [name])]).stamps()
            source_files("sketch", main, {"reads": [name]})
        odd = self.outside / os.fsdecode(b"\xff.txt")
        odd.write_text("x")
        self.assertTrue(OutsideReads.of([(main, ["../elsewhere"])]).stamps()["../elsewhere"])

    def test_nothing_outside_is_looked_at_before_the_code_is_trusted(self):
        (self.folder / "drawn.py").write_text("from vexel.author import sketch")
        source = {"kind": "sketch", "file": "drawn.py", "reads": ["../elsewhere"]}
        shot = read_shot_document({"title": "T", "source": source, "clock": {"rate": "24", "frames": 2}})

        class Closed:
            def check(self, files, digest):
                raise Mistake("not trusted")

        planner = Planner(scratch(self), None, NothingKept(), Closed())
        with (
            mock.patch("vexel.workers.planner.outside_reads") as looked,
            self.assertRaisesRegex(Mistake, "not trusted"),
        ):
            planner.source(shot, self.folder)
        looked.assert_not_called()

    def test_what_is_ignored_is_said_no_more(self):
        source = {"kind": "sketch", "file": "a.py", "ignores": ["/data", "env:HOME", "network"]}
        spec = read_shot_document({"title": "T", "source": source, "clock": {"rate": "24", "frames": 2}}).source
        readings = [("file", "/data/a/b.txt"), ("environment", "HOME"), ("network", ""), ("file", "/database.txt")]
        (finding,) = reading_findings(spec, readings)
        self.assertIn("/database.txt", finding.what)
        self.assertEqual([fix.label for fix in finding.fixes], ["Declare it", "Ignore it"])
        self.assertEqual(finding.fixes[0].patch, {"source": {"reads": ["/database.txt"]}})
        self.assertEqual(spec.options(), {"seed": 0}, "ignoring makes no frame again")
        documents = [{"title": "T", "source": source | more, "clock": {"rate": "24", "frames": 2}}
                     for more in ({}, {"ignores": []})]  # fmt: skip
        one, other = (read_shot_document(document).frame_content for document in documents)
        self.assertEqual(one, other, "nor is its take outdated")


if __name__ == "__main__":
    unittest.main()
