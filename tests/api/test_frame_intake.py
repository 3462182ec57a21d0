"""Frames of running programs: to a folder, to a running Vexel, and by plain curl."""

import json
import re
import subprocess
import unittest

import cv2
import numpy as np

import vexel
from tests.helpers import Server, scratch
from tests.helpers import vexel as command
from vexel.core.errors import Failure, Mistake


def picture(value, size=(32, 24)):
    return np.full((size[1], size[0], 3), value, np.uint8)


class FolderTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)
        self.said = []

    def recorder(self, name="out", **options):
        return vexel.recorder(self.folder / name, rate=24, say=self.said.append, **options)

    def test_frames_are_numbered_in_the_order_of_adding_and_compile(self):
        with self.recorder(title="My run") as r:
            numbers = [r.add(picture(10 * n)) for n in range(6)]
        self.assertEqual(numbers, list(range(6)))
        self.assertEqual(cv2.imread(str(self.folder / "out/my-run.shaded.00003.png"))[0, 0, 0], 30)
        done = command("compile", self.folder / "out", "-o", self.folder / "a.mp4", "--json")
        receipt = json.loads(done.stdout)
        self.assertTrue(receipt["holds"], done.stderr)
        self.assertEqual({c["what"]: c["found"] for c in receipt["checks"]}["rate"], "24 fps")

    def test_switched_on_and_off_it_says_so_outside_the_picture(self):
        with self.recorder(recording=False) as r:
            self.assertEqual((r.add(picture(1)), r.recording), (None, False))
            r.on()
            r.add(picture(2))
            r.off()
            r.add(picture(3))
        self.assertEqual((r.frames, len(list((self.folder / "out").glob("*.png")))), (1, 1))
        self.assertEqual(
            self.said,
            [
                "vexel: not recording, 0 frames so far", "vexel: recording, 0 frames so far",
                "vexel: not recording, 1 frame so far", "vexel: 1 frame was recorded",
            ],
        )  # fmt: skip

    def test_takes_what_a_sketch_may_return(self):
        from matplotlib.figure import Figure

        with self.recorder(background="#102030") as r:
            r.add(Figure(figsize=(3.2, 2.4), dpi=10))
            r.add(np.zeros((12, 32, 4)))
            with self.assertRaisesRegex(TypeError, "an object of type int"):
                r.add(7)
        shown = cv2.imread(str(self.folder / "out/recording.shaded.00001.png"))
        self.assertEqual((shown.shape, shown[0, 0].tolist()), ((24, 32, 3), [0x30, 0x20, 0x10]))

    def test_frames_survive_an_error_and_are_added_to(self):
        with self.assertRaises(ZeroDivisionError), self.recorder() as r:
            r.add(picture(1))
            r.add(1 / 0)
        with self.assertRaisesRegex(Mistake, 'already holds 2 files: say existing="resume"'):
            self.recorder()
        with self.recorder(existing="resume") as r:
            self.assertEqual(r.add(picture(2)), 1)
        with self.recorder(existing="fresh") as r:
            self.assertEqual(r.add(picture(3)), 0)
        self.assertEqual(len(list((self.folder / "out").glob("*.png"))), 1)

    def test_a_wrong_call_is_a_sentence(self):
        for options, words in (
            ({"rate": "abc"}, "'abc' is not a frame rate"),
            ({"rate": 24}, "either a folder or the address of a running Vexel"),
            ({"rate": 24, "folder": "x", "background": "red"}, "'red' is not a background"),
            ({"rate": 24, "studio": "http://127.0.0.1:8137/"}, "is not the address for frames"),
        ):
            with self.assertRaisesRegex(Mistake, words):
                vexel.recorder(**options)


class StudioTest(unittest.TestCase):
    def setUp(self):
        self.home = scratch(self) / "home"
        self.server = Server(self, self.home)
        self.address = self.server.ask("/api/push")[1]["address"]

    def test_a_program_hands_over_frames_and_they_are_a_shot(self):
        with vexel.recorder(studio=self.address, rate="30000/1001", title="Tide tables", say=lambda line: None) as r:
            for n in range(5):
                r.add(picture(40 * n))
        shot = self.server.ask("/api/shots/tide-tables")[1]
        self.assertEqual((shot["reckoning"]["frames"], shot["reckoning"]["rate"]), (5, "30000/1001"))
        self.assertEqual(self.server.ask("/api/shots/tide-tables/source")[1]["findings"], [])
        data = self.server.ask("/api/shots/tide-tables/view?frame=3&width=32&height=32")[1]
        self.assertEqual(cv2.imdecode(np.frombuffer(data, np.uint8), 1)[12, 16, 0], 120)

    def test_the_curl_line_of_the_guide(self):
        frame = scratch(self) / "frame.png"
        cv2.imwrite(str(frame), picture(200))
        line = self.server.ask("/api/push")[1]["curl"].replace("@frame.png", f"@{frame}")
        for number in (0, 1):
            told = subprocess.run(f"{line} -s", shell=True, capture_output=True, text=True, check=True).stdout
            self.assertEqual(json.loads(told), {"name": "my-frames", "number": number, "frames": number + 1})
        finding = self.server.ask("/api/shots/my-frames/source")[1]["findings"][0]
        self.assertEqual(finding["what"], "the shot ends with picture 1 of 2")
        frame.write_bytes(b"no picture")
        refused = json.loads(subprocess.run(f"{line} -s", shell=True, capture_output=True, text=True).stdout)
        self.assertIn("not a picture that Vexel can read", refused["error"])

    def test_strangers_are_refused(self):
        wrong = re.sub("push/.*", "push/guess", self.address)
        with self.assertRaisesRegex(Failure, "not the address for frames"):
            vexel.recorder(studio=wrong, rate=24, say=lambda line: None)
        path = self.address.removeprefix(self.server.base)
        status, _ = self.server.ask(f"{path}/x?rate=24", {"a": 1})
        self.assertEqual(status, 403, "a request with an Origin comes from a page")
        self.server.end()
        with self.assertRaisesRegex(Failure, "no Vexel takes frames at 127.0.0.1"):
            vexel.recorder(studio=self.address, rate=24, say=lambda line: None)


if __name__ == "__main__":
    unittest.main()
