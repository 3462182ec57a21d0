"""Runs, compiled files and news over HTTP, on a running server."""

import io
import json
import threading
import unittest
import zipfile

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
        return self.server.wait_for_run(run["id"], lambda r: r["state"] not in ("queued", "running"))

    def compiled(self, run, recipe):
        """A finished file of a run."""
        return self.ended(self.server.ask(f"/api/runs/{run['id']}/outputs", {"recipe": recipe})[1])

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
        self.assertIn("2 numbers are missing (2, 5): capture them by resuming", output["message"])
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
        self.assertTrue(told.wait(60))
        self.assertEqual([news["state"] for news in heard if news.get("job") == "run"][:2], ["queued", "running"])
        progress = [news["progress"] for news in heard if news.get("progress")]
        self.assertEqual((progress[-1]["done"], progress[-1]["count"]), (FRAMES, FRAMES))

    def test_a_run_goes_on_to_its_file_and_takes_it_along(self):
        code = CODE.replace("if instant.frame in (2, 5)", "if False")
        write_shot(self.home / "shots", code, frames=FRAMES)
        _, run = self.server.ask("/api/shots/shot/runs", {"draft": True, "to_file": True})
        self.assertEqual((run["makes"], run["draft"]), ("MP4", True))
        done = self.server.wait_for_run(run["id"], lambda r: [o["state"] for o in r["outputs"]] == ["done"])
        self.assertTrue(done["outputs"][0]["receipt"]["holds"])
        self.assertEqual(done["outputs"][0]["file"], f"trial.take{run['id']}-draft.h264.mp4")
        _, goes = self.server.ask(f"/api/runs/{run['id']}/removal")
        file = self.home / "outputs" / done["outputs"][0]["file"]
        self.assertEqual((goes["frames"], goes["files"]), (FRAMES, 1))
        self.assertEqual(goes["bytes"], done["bytes"] + file.stat().st_size)
        self.assertEqual(self.server.ask(f"/api/runs/{run['id']}", method="DELETE")[0], 200)
        self.assertEqual((file.exists(), self.server.ask(f"/api/runs/{run['id']}")[0]), (False, 404))

    def test_frames_are_laid_into_a_folder_of_ones_own(self):
        code = CODE.replace("if instant.frame in (2, 5)", "if False")
        run = self.captured(code)
        folder = self.home.parent / "mine"
        address = f"/api/runs/{run['id']}/outputs"
        for wrong, words in (("mine", "is not an absolute path"), (str(self.home / "vexel.db"), "is a file")):
            status, told = self.server.ask(address, {"recipe": "frames", "folder": wrong})
            self.assertEqual(status, 422)
            self.assertIn(words, told["error"])
        _, output = self.server.ask(address, {"recipe": "frames", "folder": str(folder), "links": True})
        while output["state"] in ("queued", "running"):
            _, output = self.server.ask(f"/api/outputs/{output['id']}")
        self.assertEqual((output["state"], output["path"], output["folder"]), ("done", str(folder), True))
        names = [file.name for file in sorted(folder.iterdir())]
        self.assertEqual(names, [f"trial.shaded.{n:04}.png" for n in range(FRAMES)])
        picture = self.server.ask(f"/api/runs/{run['id']}/frames/3.png?download=1")[1]
        self.assertEqual(picture, (folder / names[3]).read_bytes())
        self.assertTrue(self.server.ask(f"/api/runs/{run['id']}/frames/3.png?small=1")[1].startswith(b"\xff\xd8"))
        with zipfile.ZipFile(io.BytesIO(self.server.ask(f"/api/runs/{run['id']}/frames.zip")[1])) as archive:
            self.assertEqual(archive.namelist(), names)
        self.server.ask(f"/api/runs/{run['id']}", method="DELETE")
        self.assertEqual(len(list(folder.iterdir())), FRAMES, "a folder of a person's own stays")

    def test_the_forecast_follows_what_was_measured(self):
        code = CODE.replace("if instant.frame in (2, 5)", "if False").replace("0.05", "0.15")
        run = self.captured(code)
        self.assertEqual(run["made"], FRAMES)
        patch = {"clock": {"frames": 3 * FRAMES}}
        self.server.ask("/api/shots/shot", {"patch": patch}, "PATCH")
        _, cost = self.server.ask("/api/shots/shot/cost")
        self.assertEqual((cost["run"], cost["frame"]), (run["id"], None))
        self.assertAlmostEqual(cost["frame_seconds"], run["seconds"] / FRAMES)
        left = self.server.ask("/api/shots/shot/left")[1]["left"]
        self.assertAlmostEqual(cost["seconds"], run["seconds"] / FRAMES * left)
        self.server.ask("/api/shots/shot", {"patch": {"picture": {"samples": 16}}}, "PATCH")
        self.assertIsNone(self.server.ask("/api/shots/shot/cost")[1]["run"], "that run says nothing of 16 samples")

    def test_cost_comes_from_one_frame(self):
        write_shot(self.home / "shots", CODE.replace("(2, 5)", "()"), frames=FRAMES)
        status, cost = self.server.ask("/api/shots/shot/cost")
        self.assertEqual(cost["findings"], [])
        self.assertEqual((status, cost["frame"]), (200, FRAMES // 2))
        self.assertGreater(cost["seconds"], 0.05 * FRAMES * 0.5)
        self.assertGreater(cost["bytes"], 100 * FRAMES)

    def test_a_take_with_holes_leaves_by_what_its_recipes_say(self):
        run = self.captured()
        stretch = {"name": "part", "container": "mp4", "codec": "h264", "timing": {"frames": "3-4"}}
        whole = {"name": "whole", "container": "mp4", "codec": "h264"}
        handover = {"name": "handover", "container": "zip", "codec": "handover"}
        listed = self.server.ask(f"/api/runs/{run['id']}/handover")[1]["files"]
        self.assertEqual([file["name"] for file in listed], ["sources/thing.py"])
        order = {"recipes": [stretch, whole, handover], "camera_passes": [0]}
        _, made = self.server.ask(f"/api/runs/{run['id']}/dispatch", order)
        part, refused, handed = (self.ended(one) for one in made["outputs"])
        self.assertTrue(part["receipt"]["holds"], part)
        self.assertIn("2 numbers are missing (2, 5)", refused["message"])
        self.assertEqual(refused["fits"], ["with the frames before held"])
        _, again = self.server.ask(f"/api/outputs/{refused['id']}/fits/0", {})
        held = self.ended(again["outputs"][0])
        self.assertIn("2 frames are missing", " ".join(held["receipt"]["notes"]))
        checks = {check["what"]: (check["found"], check["holds"]) for check in handed["receipt"]["checks"]}
        self.assertEqual(checks["frames"], ("6", False), "what is missing is no secret")
        self.assertTrue(checks["checksums"][1])
        with zipfile.ZipFile(handed["path"]) as archive:
            self.assertIn("sources/thing.py", archive.namelist())
            rows = json.loads(archive.read("take/take.json"))["frames"]
        self.assertEqual([row["number"] for row in rows if row["state"] == "failed"], [2, 5])
        _, shot = self.server.ask(f"/api/runs/{run['id']}/at-rate", {"rate": "30"})
        self.assertIn("30 fps", self.server.ask(f"/api/shots/{shot['id']}")[1]["document"]["title"])
        self.server.ask(f"/api/shots/{shot['id']}", method="DELETE")

    def ended(self, output):
        """A file when it is there, or is not to be."""
        while output["state"] in ("queued", "running"):
            _, output = self.server.ask(f"/api/outputs/{output['id']}")
        return output


if __name__ == "__main__":
    unittest.main()
