"""What is made stays whole: damage is noticed, stops are heeded, and crowds leave the server answering."""

import json
import os
import signal
import socket
import time
import unittest
from pathlib import Path
from unittest import mock

from tests.helpers import Server, scratch, vexel, vexel_process, write_shot
from vexel.disk.scratch import ScratchFolder, sweep_scratch
from vexel.web.events import MOST_STREAMS

FRAMES = 8
CODE = "@model\ndef thing(instant=None):\n    return pv.Cone(height=1 + float(instant.phase))\n"
SLOW = "import time\ntime.sleep(60)\n" + CODE


class WholeTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        folder = scratch(Holder(cls))
        cls.home = folder / "home"
        (cls.home / "shots").mkdir(parents=True)
        left = cls.home / "frames/ab"
        left.mkdir(parents=True)
        (left / ".x.png.4194304.0123abcd.part").write_bytes(b"left by a killed process")
        (left / f".y.png.{os.getpid()}.0123abcd.part").write_bytes(b"of one that lives")
        write_shot(cls.home / "shots", CODE, frames=FRAMES)
        cls.server = Server(cls, cls.home)
        cls.addClassCleanup(cls.server.end)

    def captured(self):
        write_shot(self.home / "shots", CODE, frames=FRAMES)
        return self.finished(self.server.ask("/api/shots/shot/runs", {})[1])

    def finished(self, run):
        return self.server.wait_for_run(run["id"], lambda r: r["state"] not in ("queued", "running"))

    def resumed(self, run):
        return self.finished(self.server.ask(f"/api/runs/{run['id']}/resume", {})[1])

    def frames(self, run):
        return [self.server.ask(f"/api/runs/{run['id']}/frames/{n}.png")[1] for n in range(FRAMES)]

    def files(self, run):
        rows = self.server.ask(f"/api/runs/{run['id']}/frames")[1]["frames"]
        return [self.home / "frames" / row["key"][:2] / f"{row['key']}.png" for row in rows]

    def compiled(self, run):
        _, output = self.server.ask(f"/api/runs/{run['id']}/outputs", {"recipe": "h264"})
        while output["state"] in ("queued", "running"):
            _, output = self.server.ask(f"/api/outputs/{output['id']}")
        return output

    def test_a_damaged_frame_is_noticed_set_aside_and_made_again(self):
        run = self.captured()
        whole = self.frames(run)
        first, second = self.files(run)[:2]
        data = first.read_bytes()
        for what, harm in {
            "halved": data[: len(data) // 2],
            "emptied": b"",
            "one byte changed": data[:100] + bytes([data[100] ^ 1]) + data[101:],
            "another picture": second.read_bytes(),
        }.items():
            with self.subTest(what):
                first.write_bytes(harm)
                again = self.captured()
                self.assertEqual((again["state"], again["made"], again["kept"]), ("done", 1, FRAMES - 1))
                self.assertIn("1 frame was damaged", again["message"])
                self.assertEqual(self.frames(again), whole)
        self.assertEqual(len(list((self.home / "frames/damaged").iterdir())), 4)

    def test_damage_that_size_and_time_hide_is_found_by_reading(self):
        run = self.captured()
        whole = self.frames(run)

        def harm():
            file = self.files(run)[0]
            stat, data = file.stat(), file.read_bytes()
            file.write_bytes(data[:-9] + bytes([data[-9] ^ 1]) + data[-8:])
            os.utime(file, ns=(stat.st_atime_ns, stat.st_mtime_ns))

        harm()
        output = self.compiled(run)
        self.assertEqual(output["state"], "failed")
        self.assertIn(f"Resume run {run['id']}, then compile again", output["message"])
        run = self.resumed(run)
        self.assertEqual((run["state"], self.frames(run)), ("done", whole))

        harm()
        self.assertIn(422, [self.server.ask(f"/api/runs/{run['id']}/frames/{n}.png")[0] for n in range(FRAMES)])
        run = self.resumed(run)

        harm()
        self.server.ask(f"/api/runs/{run['id']}/check", {})
        run = self.server.wait_for_run(run["id"], lambda r: r["check"]["state"] not in ("queued", "running"))
        self.assertIn(f"1 of {FRAMES} frames damaged", run["check"]["sentence"])
        self.assertEqual(run["state"], "stopped")
        run = self.resumed(run)
        self.assertEqual(self.frames(run), whole)

        harm()
        self.assertEqual(vexel("check", self.home).returncode, 0)
        told = vexel("check", self.home, "--deep", "--json")
        self.assertEqual((told.returncode, len(json.loads(told.stdout)["damaged"])), (1, 1), told.stderr)
        self.resumed(run)

    def test_a_file_that_changed_since_its_receipt_is_told(self):
        output = self.compiled(self.captured())
        self.assertEqual((output["state"], output["trouble"]), ("done", ""), output["message"])
        file = Path(output["path"])
        self.assertEqual(vexel("inspect", file).returncode, 0)
        data = file.read_bytes()
        file.write_bytes(data[:-100])
        self.assertIn("has changed since its receipt", self.server.ask(f"/api/outputs/{output['id']}")[1]["trouble"])
        cut = file.with_name("elsewhere.mp4")
        cut.write_bytes(data[:-100])
        for place in (file, cut):
            told = vexel("inspect", place)
            self.assertEqual(told.returncode, 1, place)
            self.assertIn("cut short", told.stderr + told.stdout)
        file.write_bytes(data[:90])
        self.assertIn("has changed since its receipt", vexel("inspect", file).stderr)
        file.unlink()
        cut.unlink()
        self.assertIn("no longer there", self.server.ask(f"/api/outputs/{output['id']}")[1]["trouble"])
        self.server.ask(f"/api/runs/{output['run_id']}", method="DELETE")

    def test_a_source_that_harms_its_own_copy_harms_that_run_alone(self):
        harms = "import pathlib\npathlib.Path(__file__).unlink()\n" + CODE
        write_shot(self.home / "shots", harms, frames=FRAMES)
        for _ in range(2):
            status, run = self.server.ask("/api/shots/shot/runs", {})
            if status == 422:
                self.assertIn("a source may write into the folder that tempfile gives it", run["error"])
            else:
                # On a kernel that cannot hold it to that.
                self.assertNotEqual(self.finished(run)["state"], "running")
        self.assertEqual(self.captured()["state"], "done")

    def test_a_stop_during_preparation_is_heeded_and_called_a_stop(self):
        write_shot(self.home / "shots", CODE, frames=FRAMES)
        # The facts are known, so that it is taken; measuring it anew takes a minute.
        slow = CODE.replace("    return", "    import time; time.sleep(60 * (instant.count == 30))\n    return")
        write_shot(self.home / "shots", slow, frames=30)
        _, run = self.server.ask("/api/shots/shot/runs", {})
        self.server.wait_for_run(run["id"], lambda r: r["state"] == "running")
        time.sleep(0.3)
        begun = time.monotonic()
        self.server.ask(f"/api/runs/{run['id']}/stop", {})
        stopped = self.finished(run)
        self.assertLess(time.monotonic() - begun, 10)
        self.assertEqual((stopped["state"], stopped["message"], stopped["made"]), ("stopped", "", 0))
        self.assertEqual(self.captured()["state"], "done", "and the next run is not held up")

    def test_what_killed_processes_left_is_swept_and_nothing_else(self):
        left = self.home / "frames/ab"
        self.assertEqual([path.name for path in left.glob(".*.part")], [f".y.png.{os.getpid()}.0123abcd.part"])
        mine, dead = ScratchFolder("stage"), ScratchFolder("stage")
        self.addCleanup(mine.remove)
        # As when its process is killed: the lock goes, and the folder stays.
        os.close(dead.remove.peek()[2][1])
        dead.remove.detach()
        # Of somebody else, though it looks alike and is old.
        other = scratch(self) / "vexel-stage-renders"
        other.mkdir()
        (other / "film.mp4").write_bytes(b"film")
        os.utime(other, (0, 0))
        with mock.patch("tempfile.tempdir", str(other.parent)):
            sweep_scratch()
        self.assertTrue((other / "film.mp4").exists())
        self.assertGreaterEqual(sweep_scratch(), 1)
        self.assertEqual((mine.path.exists(), dead.path.exists()), (True, False))

    def test_a_second_server_on_the_project_says_who_has_it(self):
        told = vexel_process("serve", "--home", self.home, "--port", "0")
        self.assertEqual(told.returncode, 1)
        self.assertIn(f"the Vexel of process {self.server.process.pid} at {self.server.base}", told.stderr)

    def test_crowds_leave_the_server_answering(self):
        host, port = "127.0.0.1", int(self.server.base.rsplit(":", 1)[1])
        cookie = "; ".join(f"{cookie.name}={cookie.value}" for cookie in self.server.cookies)
        open_ones = []
        for number in range(200):
            connection = socket.create_connection((host, port))
            self.addCleanup(connection.close)
            open_ones.append(connection)
            # Sixty pages with a stream of news, and half a request from all the others.
            asked = f"GET /api/events HTTP/1.1\r\nHost: {host}:{port}\r\nCookie: {cookie}\r\n"
            connection.sendall(f"{asked}\r\n".encode() if number < 60 else b"GET /api/shots HTTP/1.1\r\nHo")
        streams = [connection.makefile("rb") for connection in open_ones[:60]]
        for stream in streams:
            self.assertIn(b"200 OK", stream.readline())
        self.assertEqual(self.server.ask("/api/shots")[0], 200)
        self.server.ask("/api/shots/shot", {"patch": {"title": "Seen by all"}, "what": "the title"}, "PATCH")
        for stream in streams:
            while b'"shot"' not in (line := stream.readline()):
                self.assertTrue(line, "the stream ended")
        self.assert_streams_are_bounded(f"{asked}\r\n".encode(), open_ones)
        mark = self.server.ask("/api/news")[1]["mark"]
        self.server.ask("/api/shots/shot/undo", {})
        self.assertEqual([news["kind"] for news in self.server.ask(f"/api/news?since={mark}")[1]["news"]], ["shot"])

    def assert_streams_are_bounded(self, asked, open_ones):
        """Of further pages some hear news as it comes; when one goes, there is a place for another."""
        place = open_ones[0].getpeername()

        def answer():
            connection = socket.create_connection(place)
            self.addCleanup(connection.close)
            connection.sendall(asked)
            return connection.makefile("rb").readline()

        more = [answer() for _ in range(MOST_STREAMS - 60 + 1)]
        self.assertEqual([b"200 OK" in one for one in more], [True] * (MOST_STREAMS - 60) + [False])
        open_ones[0].shutdown(socket.SHUT_RDWR)
        for _ in range(600):
            if b"200 OK" in answer():
                break
            time.sleep(0.1)
        else:
            self.fail("no place became free")

    def test_more_than_is_taken_is_refused_in_our_own_words(self):
        host, port = "127.0.0.1", int(self.server.base.rsplit(":", 1)[1])
        with socket.create_connection((host, port)) as connection:
            connection.sendall(
                f"POST /api/sources HTTP/1.1\r\nHost: {host}:{port}\r\nContent-Length: {3 * 1024**3}\r\n\r\n".encode()
            )
            answer = connection.makefile("rb").read()
        self.assertIn(b"413", answer.splitlines()[0])
        self.assertIn("put it on this machine, and name its path", json.loads(answer.split(b"\r\n\r\n")[1])["error"])


class Holder:
    """Something whose clean-ups are those of a class."""

    def __init__(self, cls):
        self.addCleanup = cls.addClassCleanup


class TerminatedTest(unittest.TestCase):
    def test_a_server_that_is_ended_while_it_prepares_blames_nobody(self):
        home = scratch(self) / "home"
        (home / "shots").mkdir(parents=True)
        slow = CODE.replace("    return", "    import time; time.sleep(60 * (instant.count == 30))\n    return")
        write_shot(home / "shots", slow, frames=30)
        server = Server(self, home)
        _, run = server.ask("/api/shots/shot/runs", {})
        server.wait_for_run(run["id"], lambda r: r["state"] == "running")
        time.sleep(0.5)
        server.process.send_signal(signal.SIGTERM)
        self.assertEqual(server.process.wait(60), 0)
        again = Server(self, home)
        stopped = again.ask(f"/api/runs/{run['id']}")[1]
        self.assertEqual(stopped["state"], "stopped")
        self.assertNotIn("memory", stopped["message"])

    def test_a_person_whose_own_folder_cannot_be_written_is_served_all_the_same(self):
        home = scratch(self) / "home"
        (home.parent / "state").write_text("a file where the folder would be")
        server = Server(self, home, "serve")
        self.assertTrue(server.ask("/api/consent")[1]["own"])

    def test_the_command_line_is_stopped_while_it_prepares(self):
        import subprocess
        import sys

        folder = scratch(self)
        shot = write_shot(folder, SLOW, frames=FRAMES)
        process = subprocess.Popen(
            [sys.executable, "-m", "vexel", "capture", str(shot), "--to", str(folder / "out")],
            stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        while not (folder / "out/take.json").exists():
            time.sleep(0.05)
        time.sleep(1)
        process.send_signal(signal.SIGTERM)
        _, told = process.communicate(timeout=60)
        self.assertEqual((process.returncode, told.strip()), (1, "vexel: Stopped. Add --resume to continue."))


if __name__ == "__main__":
    unittest.main()
