"""Frames of running programs: to a folder, to a running Vexel, and by plain curl."""

import json
import re
import signal
import subprocess
import sys
import time
import unittest

import cv2
import numpy as np

import vexel
from tests.helpers import Server, scratch
from tests.helpers import vexel as command
from vexel.core.errors import Failure, Mistake
from vexel.store.folder_take import read_ledger
from vexel.store.recordings.row_journal import JOURNAL


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

    def test_sixteen_bits_are_kept(self):
        deep = np.random.default_rng(3).integers(0, 65536, (24, 32, 3), np.uint16)
        with self.recorder() as r:
            r.add(deep)
        made = cv2.imread(str(self.folder / "out/recording.shaded.00000.png"), cv2.IMREAD_UNCHANGED)
        self.assertLessEqual(np.abs(made[..., ::-1].astype(int) - deep).max(), 1)

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

    KILLED = (
        "import os, signal, numpy as np, vexel\n"
        "r = vexel.recorder({folder!r}, rate=24, existing='resume')\n"
        "for n in range({count}):\n    r.add(np.full((24, 32, 3), n, np.uint8))\n"
        "os.kill(os.getpid(), signal.SIGKILL)\n"
    )

    def test_a_killed_recorder_loses_no_frame_and_the_next_goes_on_behind_them(self):
        folder = self.folder / "out"
        for begin in (0, 30):
            code = self.KILLED.format(folder=str(folder), count=30)
            done = subprocess.run([sys.executable, "-c", code], capture_output=True)
            self.assertEqual(done.returncode, -signal.SIGKILL, done.stderr)
            self.assertEqual([row["number"] for row in read_ledger(folder)["frames"]], [*range(begin + 30)])
        done = command("compile", folder, "-o", self.folder / "a.mp4", "--json")
        receipt = json.loads(done.stdout)
        self.assertEqual({c["what"]: c["found"] for c in receipt["checks"]}["frames"], "60")
        # Killed between a frame and its row, and within a row.
        journal = folder / JOURNAL
        journal.write_bytes(journal.read_bytes()[:-20])
        self.assertEqual(len(read_ledger(folder)["frames"]), 59)
        with self.recorder(existing="resume") as r:
            self.assertEqual(r.add(picture(3)), 60)
        self.assertIn("vexel: recording.shaded.00059.png was not in the ledger, and is added to it", self.said)
        self.assertFalse(journal.exists())
        self.assertEqual(len(read_ledger(folder)["frames"]), 61)
        # Another recording's rows are none of a ledger.
        journal.write_text('{"recording": "another"}\n{"file": "x", "number": 61, "state": "made"}\n')
        self.assertEqual(len(read_ledger(folder)["frames"]), 61)

    def test_two_recorders_and_other_settings_are_refused(self):
        with self.recorder() as r:
            r.add(picture(1))
            for existing in ("refuse", "resume", "fresh"):
                with self.assertRaisesRegex(Mistake, "another program records into .*out"):
                    self.recorder(existing=existing)
            r.add(picture(2))
        for options, words in (
            ({"rate": 50}, "was recorded with the rate '24', not '50'"), ({"title": "Other"}, "with the title"),
            ({"size": (64, 48)}, "holds frames of 32 × 24, not 64 × 48"),
        ):  # fmt: skip
            with self.assertRaisesRegex(Mistake, words):
                vexel.recorder(self.folder / "out", existing="resume", say=self.said.append, **{"rate": 24} | options)
        with self.recorder(existing="resume") as r:
            self.assertEqual(r.add(np.zeros((48, 64, 3), np.uint8)), 2)
        self.assertEqual(cv2.imread(str(self.folder / "out/recording.shaded.00002.png")).shape, (24, 32, 3))
        other = self.folder / "photographs"
        other.mkdir()
        (other / "a.png").write_bytes(b"x")
        with self.assertRaisesRegex(Mistake, "already holds 1 file"):
            self.recorder("photographs")
        self.assertEqual([path.name for path in other.iterdir()], ["a.png"], "nothing is left there")

    def test_a_wrong_call_is_a_sentence(self):
        for options, words in (
            ({"rate": "abc"}, "'abc' is not a frame rate"),
            ({"rate": 24}, "either a folder or the address of a running Vexel"),
            ({"rate": 24, "folder": "x", "background": "red"}, "'red' is not a background"),
            ({"rate": 24, "server": "http://127.0.0.1:8137/"}, "is not the address for frames"),
        ):
            with self.assertRaisesRegex(Mistake, words):
                vexel.recorder(**options)


class StudioTest(unittest.TestCase):
    def setUp(self):
        self.home = scratch(self) / "home"
        self.server = Server(self, self.home)
        self.address = self.server.ask("/api/push")[1]["address"]

    def test_a_program_hands_over_frames_and_they_are_a_shot(self):
        with vexel.recorder(server=self.address, rate="30000/1001", title="Tide tables", say=lambda line: None) as r:
            for n in range(5):
                r.add(picture(40 * n))
        shot = self.server.ask("/api/shots/tide-tables")[1]
        self.assertEqual((shot["timing"]["frames"], shot["timing"]["rate"]), (5, "30000/1001"))
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
        self.wait_for_frames("my-frames", 2)
        self.assertEqual(self.server.ask("/api/shots/my-frames/source")[1]["findings"], [])
        frame.write_bytes(b"no picture")
        refused = json.loads(subprocess.run(f"{line} -s", shell=True, capture_output=True, text=True).stdout)
        self.assertIn("not a picture that Vexel can read", refused["error"])

    def wait_for_frames(self, shot, frames):
        deadline = time.monotonic() + 60
        while self.server.ask(f"/api/shots/{shot}")[1]["timing"]["frames"] != frames:
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.05)

    def push(self, value, suffix=".png", rate="?rate=24"):
        data = cv2.imencode(suffix, picture(value))[1].tobytes()
        url = f"{self.address}/loose{rate}"
        told = subprocess.run(["curl", "-s", "--data-binary", "@-", url], input=data, capture_output=True, check=True)
        return json.loads(told.stdout)

    def test_a_shot_follows_its_frames_until_a_person_says_its_length(self):
        for n in range(4):
            self.push(n, rate="?rate=24" if n == 0 else "")
        self.wait_for_frames("loose", 4)
        self.assertEqual(self.server.ask("/api/shots/loose/undo", {}, "POST")[0], 200)
        self.wait_for_frames("loose", 1)
        self.assertEqual(self.server.ask("/api/shots/loose", {"patch": {"clock": {"frames": 3}}}, "PATCH")[0], 200)
        self.push(5)
        self.push(6)
        self.assertEqual(self.push(0, rate="?end")["frames"], 6)
        self.wait_for_frames("loose", 3)

    def test_another_kind_of_file_and_another_rate_are_refused_and_leave_no_hole(self):
        self.push(1)
        self.assertIn("frame 1 is a JPG file, and loose holds PNG: send that", self.push(2, ".jpg")["error"])
        self.assertIn("came with 24 fps and now with 30: leave the rate out", self.push(2, rate="?rate=30")["error"])
        self.assertEqual(self.push(3)["number"], 1)
        self.wait_for_frames("loose", 2)
        self.assertEqual(self.server.ask("/api/shots/loose/source")[1]["findings"], [])

    def sent(self, name, data):
        url = f"{self.address}/{name}?rate=24"
        told = subprocess.run(["curl", "-s", "--data-binary", "@-", url], input=data, capture_output=True, check=True)
        return json.loads(told.stdout)

    def test_frames_stay_as_they_came(self):
        """Odd sizes and transparency; a plain picture in four channels is no transparent one."""
        clear = np.full((49, 65, 4), (40, 80, 160, 255), np.uint8)
        clear[10:20, 10:20, 3] = 0
        noise = np.random.default_rng(1).integers(0, 255, (49, 65, 3), np.uint8)
        for name, picture, background in (
            ("odd", noise, "#"), ("clear", clear, "transparent"),
            ("opaque", clear | np.array([0, 0, 0, 255], np.uint8), "#"),
        ):  # fmt: skip
            with self.subTest(name):
                self.assertEqual(self.sent(name, cv2.imencode(".png", picture)[1].tobytes())["number"], 0)
                shot = self.server.ask(f"/api/shots/{name}")[1]["document"]
                self.assertEqual((shot["picture"]["width"], shot["picture"]["height"]), (65, 49))
                self.assertTrue(shot["picture"]["background"].startswith(background))

    def test_what_came_in_part_is_refused(self):
        for suffix in (".png", ".jpg", ".webp"):
            whole = cv2.imencode(suffix, np.random.default_rng(2).integers(0, 255, (64, 64, 3), np.uint8))[1].tobytes()
            self.assertIn("damaged or cut short: send it again", self.sent(f"cut-{suffix[1:]}", whole[:-300])["error"])
            self.assertEqual(self.sent(f"cut-{suffix[1:]}", whole)["number"], 0)
        spoilt = bytearray(cv2.imencode(".png", picture(7))[1].tobytes())
        spoilt[60] ^= 1
        self.assertIn("damaged or cut short", self.sent("spoilt", bytes(spoilt))["error"])

    def test_strangers_are_refused(self):
        wrong = re.sub("push/.*", "push/guess", self.address)
        with self.assertRaisesRegex(Failure, "not the address for frames"):
            vexel.recorder(server=wrong, rate=24, say=lambda line: None)
        path = self.address.removeprefix(self.server.base)
        status, _ = self.server.ask(f"{path}/x?rate=24", {"a": 1})
        self.assertEqual(status, 403, "a request with an Origin comes from a page")
        self.server.end()
        with self.assertRaisesRegex(Failure, "no Vexel takes frames at 127.0.0.1"):
            vexel.recorder(studio=self.address, rate=24, say=lambda line: None)


if __name__ == "__main__":
    unittest.main()
