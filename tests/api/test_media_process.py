"""Images, clips and sounds are read in separate processes: a crash there harms nothing else."""

import contextlib
import io
import os
import signal
import time
import unittest
from pathlib import Path
from unittest import mock

import av
import cv2
import numpy as np
import psutil
from PIL import Image

from tests.api.test_api import HOST, OWN, ApiTest
from vexel.demo.sample_footage import draw_quay
from vexel.sources.video import opening

H264 = {"name": "h264", "container": "mp4", "codec": "h264"}


def sound(file):
    """Two clicks a second."""
    samples = np.zeros(8 * 48_000, np.int16)
    samples[::24_000] = 20_000
    with av.open(str(file), "w") as out:
        stream = out.add_stream("pcm_s16le", rate=48_000, layout="mono")
        frame = av.AudioFrame.from_ndarray(samples[None], layout="mono")
        frame.rate = 48_000
        out.mux([*stream.encode(frame), *stream.encode(None)])


class MediaProcessTest(ApiTest):
    def setUp(self):
        super().setUp()
        self.enter()
        files = self.home / "reels/files"
        files.mkdir(parents=True)
        draw_quay(files / "swell.mp4")
        sound(files / "clicks.wav")
        for n in range(4):
            Image.fromarray(np.full((90, 160, 3), 60 * n, np.uint8)).save(files / f"wall{n}.png")
        items = [
            {"kind": "clip", "file": "files/swell.mp4", "last": 9}, {"kind": "stills", "file": "files/wall0.png"},
            {"kind": "title", "text": "Hall", "image": "files/wall2.png", "frames": 5},
        ]  # fmt: skip
        more = {
            "sound": [{"file": "files/clicks.wav"}],
            "mark": {"file": "files/wall1.png"},
            "width": 160,
            "height": 90,
        }
        self.address = f"/api/reels/{self.asked('/api/reels', {'title': 'Hall'})['id']}"
        self.asked(self.address, {"patch": {"items": items} | more, "what": "x"}, "patch")

    def asked(self, address, body=None, method="post"):
        """The answer of an operation that must succeed."""
        answer = self.client.open(address, method="get" if body is None else method, json=body, headers=OWN)
        self.assertEqual(answer.status_code, 200, answer.data[:300])
        return answer.json if answer.is_json else answer.data

    def ended(self, row):
        """The row of a file that has ended."""
        end = time.monotonic() + 120
        while row["state"] in ("queued", "running"):
            self.assertLess(time.monotonic(), end)
            time.sleep(0.05)
            row = next(one for one in self.asked("/api/outputs")["outputs"] if one["id"] == row["id"])
        return row

    def test_the_server_itself_decodes_nothing(self):
        def refuse(*arguments, **more):
            raise AssertionError("a file is decoded in the server")

        doors = [(av, "open"), (opening.av, "open"), (cv2, "imread"), (cv2, "imdecode"), (Image, "open")]
        with contextlib.ExitStack() as doors_closed:
            for place, name in doors:
                doors_closed.enter_context(mock.patch.object(place, name, refuse))
            with self.assertRaises(AssertionError):
                cv2.imread("x")
            reel = self.asked(self.address)
            self.assertEqual([item["trouble"] for item in reel["items"]], ["", "", ""])
            for number in (0, 10, reel["frames"] - 1):
                self.assertEqual(self.asked(f"{self.address}/picture?frame={number}")[:2], b"\xff\xd8")
            self.assertEqual(self.asked(f"{self.address}/items/0/picture?frame=3")[:2], b"\xff\xd8")
            self.assertIn("findings", self.asked(f"{self.address}/looks"))
            self.assertGreater(self.asked(f"{self.address}/trial", {"recipe": H264, "frame": 3})["psnr"], 30)
            table = self.asked(
                f"{self.address}/gif-table", {"recipe": {"name": "g", "container": "gif", "codec": "gif"}}
            )
            self.assertGreater(len(table["rows"]), 3)
            data = {"files": (io.BytesIO((self.home / "reels/files/swell.mp4").read_bytes()), "again.mp4")}
            brought = self.client.post(f"{self.address}/files", data=data, headers=OWN)
            self.assertEqual(brought.json["items"][0]["kind"], "clip")
            beats = self.asked(f"{self.address}/markers", {"what": "beats"})
            self.assertTrue(beats["document"]["markers"])
            (row,) = self.asked(f"{self.address}/dispatch", {"recipes": [H264]})["outputs"]
            row = self.ended(row)
            self.assertEqual((row["state"], row["message"]), ("done", ""))
            self.assertTrue(row["receipt"]["holds"])

    def test_one_that_is_killed_fails_its_question_alone(self):
        self.asked(f"{self.address}/picture?frame=0")
        media = self.services.media
        with media.asked() as process:
            os.kill(process._pid, signal.SIGSEGV)
            psutil.wait_procs([psutil.Process(process._pid)] if psutil.pid_exists(process._pid) else [], 20)
        self.asked(f"{self.address}/picture?frame=1")
        compile_once = type(process).compile

        def killed(process, work, orders, name, on_progress, stopped):
            def kill(*step):
                os.kill(process._pid, signal.SIGSEGV)

            return compile_once(process, work, orders, name, kill, stopped)

        with mock.patch.object(type(process), "compile", killed):
            (row,) = self.asked(f"{self.address}/dispatch", {"recipes": [H264]})["outputs"]
            row = self.ended(row)
        self.assertEqual(row["state"], "failed")
        self.assertRegex(row["message"], r"Hall ended the process that reads it \(signal SIGSEGV.*is damaged")
        self.assertEqual([file.name for file in Path(row["path"]).parent.glob(".*")], [])
        (row,) = self.asked(f"{self.address}/dispatch", {"recipes": [H264]})["outputs"]
        self.assertEqual(self.ended(row)["state"], "done")

    def test_memory_is_bounded(self):
        cv2.imwrite(str(self.home / "reels/files/huge.png"), np.zeros((12_000, 12_000, 3), np.uint8))
        items = [{"kind": "stills", "file": "files/huge.png"}]
        with mock.patch.dict(os.environ, {"VEXEL_MEMORY_MB": "200"}):
            self.services.media.close()
            self.services.media.__init__(self.home)
            body = {"patch": {"items": items, "mark": None, "sound": []}, "what": "x"}
            answer = self.client.patch(self.address, json=body, headers=OWN)
            picture = self.client.get(f"{self.address}/picture?frame=0", headers=HOST)
        self.assertEqual(picture.status_code, 200, "a placeholder")
        said = answer.json["items"][0]["trouble"]
        self.assertRegex(said, "huge.png needs more than the 200 MB of memory.*VEXEL_MEMORY_MB")
        self.assertEqual(self.client.get("/api/reels", headers=HOST).status_code, 200)


if __name__ == "__main__":
    unittest.main()
