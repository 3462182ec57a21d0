"""Runs, compiled files and news over HTTP, on a running server."""

import json
import threading
import unittest

from tests.helpers import Server, scratch, write_shot

FRAMES = 8
CODE = """import time
@model
def thing(instant=None):
    time.sleep(0.05)
    if instant.frame in (2, 5):
        raise ValueError(f"frame {instant.frame}")
    return pv.Cone(height=1 + float(instant.phase))
"""


class WorkTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.home = scratch(cls.holder()) / "home"
        (cls.home / "shots").mkdir(parents=True)
        write_shot(cls.home / "shots", CODE, frames=FRAMES)
        cls.server = Server(cls, cls.home)
        cls.addClassCleanup(cls.server.end)

    @classmethod
    def holder(cls):
        """Something whose clean-ups are those of the class."""

        class Holder:
            addCleanup = staticmethod(cls.addClassCleanup)  # noqa: N815

        return Holder

    def captured(self, code=CODE):
        """A finished run of the shot."""
        write_shot(self.home / "shots", code, frames=FRAMES)
        _, run = self.server.ask("/api/shots/shot/runs", {})
        return self.server.wait_for_run(run["id"], lambda r: r["state"] not in ("waiting", "running"))

    def compiled(self, run, recipe):
        """A finished file of a run."""
        _, output = self.server.ask(f"/api/runs/{run['id']}/outputs", {"recipe": recipe})
        while output["state"] in ("waiting", "running"):
            _, output = self.server.ask(f"/api/outputs/{output['id']}")
        return output

    def test_ledger_is_read_by_state_and_in_pages(self):
        run = self.captured()
        self.assertEqual((run["state"], run["failed"], run["waiting"]), ("failed", 2, 0))
        self.assertIn("2 frames failed", run["message"])
        address = f"/api/runs/{run['id']}"
        self.assertRegex(self.server.ask(f"{address}/states")[1]["states"], "^[mk]{2}f[mk]{2}f[mk]{2}$")
        failed = self.server.ask(f"{address}/frames?state=failed")[1]
        self.assertEqual([frame["number"] for frame in failed["frames"]], [2, 5])
        self.assertIn("thing.py, line 11: ValueError: frame 2", failed["frames"][0]["error"])
        page = self.server.ask(f"{address}/frames?offset=6&limit=10")[1]
        self.assertEqual((page["total"], [frame["number"] for frame in page["frames"]]), (FRAMES, [6, 7]))
        self.assertEqual(self.server.ask(f"{address}/frames/0.png")[1][:4], b"\x89PNG")
        for number in (2, 99):
            self.assertIn("has not been made", self.server.ask(f"{address}/frames/{number}.png")[1]["error"])
        self.assertEqual(self.server.ask("/api/shots/shot/runs")[1]["runs"][0]["id"], run["id"])

    def test_a_take_with_gaps_is_not_compiled(self):
        output = self.compiled(self.captured(), "h264")
        self.assertEqual(output["state"], "failed")
        self.assertIn("lacks 2 of 8 frames, the first is frame 2", output["message"])
        status, told = self.server.ask(f"/api/outputs/{output['id']}/file")
        self.assertEqual(status, 422, told)
        self.assertIn("compile it again", told["error"])

    def test_files_are_served_whole_and_in_ranges(self):
        run = self.captured(CODE.replace("(2, 5)", "()"))
        self.assertEqual(run["state"], "done")
        for recipe, mark in (("h264", b"ftyp"), ("gif", b"GIF89a")):
            output = self.compiled(run, recipe)
            self.assertTrue(output["receipt"]["holds"], output)
            address = f"/api/outputs/{output['id']}/file"
            status, data = self.server.ask(address)
            self.assertEqual((status, len(data)), (200, output["receipt"]["bytes"]))
            self.assertIn(mark, data[:16])
            part = self.server.fetch(address, {"Range": "bytes=4-9"})
            self.assertEqual((part.status, part.read()), (206, data[4:10]))
            saved = self.server.fetch(f"{address}?download=1", {})
            self.assertIn(f"attachment; filename={output['file']}", saved.headers["Content-Disposition"])
        self.assertIn(
            "did you mean gif", self.server.ask(f"/api/runs/{run['id']}/outputs", {"recipe": "gfi"})[1]["error"]
        )

    def test_news_of_a_run_reach_a_listener(self):
        heard, told = [], threading.Event()

        def listen():
            with self.server.fetch("/api/events", {}) as stream:
                for line in stream:
                    if line.startswith(b"data: "):
                        heard.append(json.loads(line[6:]))
                        if heard[-1].get("state") in ("done", "failed"):
                            return told.set()

        threading.Thread(target=listen, daemon=True).start()
        self.captured(CODE + "# told of\n")
        self.assertTrue(told.wait(20))
        self.assertEqual([news["state"] for news in heard if news["kind"] == "run"][:2], ["waiting", "running"])
        progress = [news for news in heard if news["kind"] == "progress"]
        self.assertEqual((progress[-1]["done"], progress[-1]["count"]), (FRAMES, FRAMES))

    def test_cost_comes_from_one_frame(self):
        write_shot(self.home / "shots", CODE.replace("(2, 5)", "()"), frames=FRAMES)
        status, cost = self.server.ask("/api/shots/shot/cost")
        self.assertEqual((status, cost["frame"]), (200, FRAMES // 2))
        self.assertGreater(cost["seconds"], 0.05 * FRAMES * 0.5)
        self.assertGreater(cost["bytes"], 100 * FRAMES)


if __name__ == "__main__":
    unittest.main()
