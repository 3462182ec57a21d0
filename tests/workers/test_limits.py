"""A person's code in its own process: errors name its line, and nothing it does harms the caller."""

import tempfile
import unittest

from tests.helpers import HEADER, scratch
from vexel.core.errors import VexelError
from vexel.core.evaluate.frame_spec import FrameSpec
from vexel.core.evaluate.source_facts import SourceAt
from vexel.workers.bounds.isolation import Reach
from vexel.workers.bounds.limits import Limits
from vexel.workers.stage_process import StageProcess

INSTANT = {"frame": 0, "count": 6, "seconds": "0", "phase": "0", "rate": "12"}
MARK = "@model\ndef thing(a=dial(1, low=0, high=2), instant=None):\n"
LINE = HEADER.count("\n") + 3
GOOD = MARK + "    return pv.Cone()\n"

DIES_WRITING = """import os
from pathlib import Path
from vexel.disk.write import part_of
part_of(Path({!r})).write_bytes(b"half")
Path(__file__).with_name("begun").touch()
Path(__file__).with_name(".frame.png.1.deadbeef.part").touch()
os.kill(os.getpid(), 9)
"""


class StageProcessTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.stage = StageProcess(Limits(2, 600), reach=Reach((tempfile.gettempdir(),)))

    @classmethod
    def tearDownClass(cls):
        cls.stage.close()

    def measure(self, code):
        file = scratch(self) / "thing.py"
        file.write_text(HEADER + code)
        return self.stage.measure(SourceAt("model", file), [({"a": 1.0}, INSTANT)], (96, 64))

    def test_what_goes_wrong_is_said_with_file_and_line(self):
        for code, words in (
            ("def x(:\n", "thing.py, line 6: the code cannot be read"),
            (MARK + "    return 1 / 0\n", f"thing.py, line {LINE}: ZeroDivisionError: division by zero"),
            (MARK + "    pass\n", "thing() returned None"),
            (MARK + "    return 7\n", "expected a PyVista mesh, not an object of type int"),
            (MARK + "    m = pv.Cone()\n    m.points[3] = np.nan\n    return m\n", "are not finite numbers"),
            (MARK + "    return pv.PolyData()\n", "there is nothing to draw"),
            (MARK + "    return part(pv.Cone(), scalars='depth')\n", "no array 'depth'"),
            (MARK + "    return part(pv.Cone(), colour_map='nope')\n", "no colour map 'nope'"),
            ("x = 1\n", "marks no function as its model"),
            ("@model\ndef f(a):\n    pass\n", "give a a dial as its default"),
            ("@model\ndef f(a=dial(5, low=0, high=1)):\n    pass\n", "the default lies outside low to high"),
            ("import sys\nsys.exit(3)\n", "ends the process"),
            (MARK + "    while True:\n        a += 1\n", "within 2 s and was stopped at thing.py, line"),
            (MARK + "    import os\n    os.kill(os.getpid(), 9)\n", "ended its process (signal SIGKILL"),
            (MARK + "    return np.ones((60_000, 60_000))\n", f"line {LINE}: MemoryError"),
            (MARK + "    x = []\n    while True:\n        x.append(np.ones(10**7))\n", "MemoryError: asked for more"),
        ):
            with self.subTest(words), self.assertRaises(VexelError) as caught:
                self.measure(code)
            self.assertIn(words, str(caught.exception))
            self.assertNotIn("Traceback", str(caught.exception))
        self.assertGreater(self.measure(GOOD).sphere.radius, 0, "the next question is answered as if nothing had been")

    def test_one_that_ends_while_it_writes_a_frame_leaves_no_part_of_it(self):
        file = scratch(self) / "thing.py"
        frame = file.with_name("frame.png")
        file.write_text(HEADER + DIES_WRITING.format(str(frame)))
        spec = FrameSpec("", None, (), 96, 64, 1, (96, 64), "shaded", "#000000")
        with self.assertRaisesRegex(VexelError, "ended its process"):
            self.stage.make(SourceAt("model", file), spec, frame)
        left = sorted(path.name for path in file.parent.iterdir() if path.suffix != ".py")
        self.assertEqual(left, [".frame.png.1.deadbeef.part", "begun"], "another process, perhaps elsewhere, writes on")


if __name__ == "__main__":
    unittest.main()
