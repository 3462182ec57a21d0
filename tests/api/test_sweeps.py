"""Sweeps over HTTP and by command: each variant's take, what is made once, the sheet against the frames, and kills."""

import io
import json
import unittest

import numpy as np
from PIL import Image

from tests.helpers import Server, scratch, vexel, write_shot
from vexel.output.exporting.contact_sheet import CAPTION, GAP, HEAD

FRAMES = 4
CODE = """@model
def cone(size=dial(1, low=0.5, high=2), tilt=dial(0, low=0, high=9)):
    return pv.Cone(height=size).rotate_y(10 * tilt)
"""
AXES = [
    {"over": "dial:size", "values": [1, 2]},
    {"over": "light:azimuth", "first": -60, "last": 60, "steps": 3},
]


class SweepTest(unittest.TestCase):
    def server(self, code=CODE, **parts):
        self.home = scratch(self) / "home"
        (self.home / "shots").mkdir(parents=True)
        write_shot(self.home / "shots", code, frames=FRAMES, **parts)
        server = Server(self, self.home)
        self.addCleanup(server.end)
        return server

    def sweep(self, server, **sweep):
        status, told = server.ask("/api/shots/shot", {"patch": {"sweep": sweep}, "what": "variants"}, "PATCH")
        self.assertEqual(status, 200, told)
        return server.ask("/api/shots/shot/sweep")[1]

    def captured(self, server, **order):
        status, told = server.ask("/api/shots/shot/sweep/runs", order)
        self.assertEqual(status, 200, told)
        return [server.wait_for_run(run, lambda r: r["state"] not in ("queued", "running")) for run in told["runs"]]

    def pixels(self, server, run, frame):
        return np.asarray(Image.open(io.BytesIO(server.ask(f"/api/runs/{run}/frames/{frame}.png")[1])).convert("RGB"))

    def test_from_axes_to_takes_a_sheet_and_a_reel(self):
        server = self.server()
        body = self.sweep(server, axes=AXES, without=["size 1, azimuth 0"], frame=2)
        self.assertEqual((body["kept"], body["sentence"]), (5, "5 variants × 4 frames = 20 pictures"))
        self.assertEqual([axis["values"] for axis in body["axes"]], [["1", "2"], ["-60", "0", "60"]])
        brief = "".join(part["text"] for part in server.ask("/api/shots/shot")[1]["brief"])
        self.assertIn("in5 variantsofsize and azimuth", brief)
        runs = self.captured(server)
        self.assertEqual([run["state"] for run in runs], ["done"] * 5)
        names = [one["name"] for one in body["variants"] if not one["left_out"]]
        self.assertEqual([run["variant"] for run in runs], names)
        self.assertEqual({one["state"] for one in server.ask("/api/shots/shot/sweep")[1]["variants"]}, {"done", ""})

        # The sheet shows the very pixels of the frames, which are smaller than its cells may be.
        sheet = np.asarray(Image.open(io.BytesIO(server.ask("/api/shots/shot/sweep/sheet.png")[1])))
        wide, high = 96, 64
        by_name = {run["variant"]: run["id"] for run in runs}
        for one in body["variants"]:
            row, column = one["place"]
            x, y = GAP + column * (wide + GAP), HEAD + GAP + row * (high + CAPTION + GAP)
            cell = sheet[y : y + high, x : x + wide]
            if one["left_out"]:
                self.assertEqual(len(np.unique(cell)), 1)
                continue
            np.testing.assert_array_equal(cell, self.pixels(server, by_name[one["name"]], 2), one["name"])
            self.assertTrue((cell != self.pixels(server, by_name[one["name"]], 1)).any(), "of no other frame")
        self.assertEqual(server.ask("/api/shots/shot/sweep/sheet.pdf")[1][:5], b"%PDF-")
        page = server.ask("/api/shots/shot/sweep/sheet.html")[1].decode()
        self.assertEqual((page.count("<img "), page.count("http")), (5, 1), "self-contained but for its policy's name")
        self.assertEqual(server.ask("/api/shots/shot/sweep/sheet.svg")[0], 404)

        _, made = server.ask("/api/shots/shot/sweep/reel", {"arrangement": "grid"})
        reel = server.ask(f"/api/reels/{made['id']}")[1]["document"]
        self.assertEqual([cell["item"]["take"] for cell in reel["items"][0]["cells"]], [f"run:{r['id']}" for r in runs])

        # A variant as a shot of its own has the frames that were captured for it.
        _, own = server.ask("/api/shots/shot/variants/6/shot", {})
        self.assertEqual(server.ask(f"/api/shots/{own['id']}/left")[1], {"count": 4, "left": 0})
        self.assertEqual(server.ask("/api/shots/shot/variants/6/shot", {})[1], own)

    def test_what_is_equal_is_made_once_and_the_shot_itself_is_another_take(self):
        server = self.server()
        rows = [["one", 1, 3], ["two", 1, 3], ["three", 2, 3]]
        self.sweep(server, table={"columns": ["name", "size", "tilt"], "rows": rows})
        made = [(run["made"], run["kept"]) for run in self.captured(server)]
        self.assertEqual(made, [(4, 0), (0, 4), (4, 0)])
        self.sweep(server, favourites=["two"])
        (run,) = self.captured(server, favourites=True)
        self.assertEqual((run["variant"], run["kept"]), ("two", 4))
        lines = server.ask("/api/reels", {"title": "R", "runs": []})[1]
        patch = {"items": [{"kind": "shot", "shot": "../shots/shot.json"}]}
        server.ask(f"/api/reels/{lines['id']}", {"patch": patch, "what": "x"}, "PATCH")
        found = server.ask(f"/api/reels/{lines['id']}")[1]
        self.assertEqual(found["to_capture"], [{"label": "Trial", "frames": 4}], "no variant is taken for the shot")

    def test_stills_and_a_film_are_one_take_whose_frames_are_the_variants(self):
        server = self.server(names={"pattern": "{title}.{variant}.{frame:02}"}, sweep={"axes": AXES})
        for makes in ("stills", "film"):
            self.sweep(server, axes=AXES, makes=makes, frame=1)
            (run,) = self.captured(server, to_file=True)
            self.assertEqual((run["state"], run["count"]), ("done", 6), run["message"])
        first, last = (self.pixels(server, run["id"], number) for number in (0, 5))
        self.assertTrue((first != last).any())
        names = server.ask(f"/api/runs/{run['id']}/frames?limit=2")[1]
        self.assertEqual(names["total"], 6)

    def test_all_is_checked_before_the_first_frame(self):
        server = self.server()
        for sweep, words in (
            ({"axes": [{"over": "dial:size", "values": [1, 7]}]}, "variant size 7: 7 is outside the dial size"),
            ({"axes": [{"over": "dial:siz", "values": [1]}]}, "no dial 'siz'; did you mean size"),
        ):
            self.sweep(server, **sweep)
            status, told = server.ask("/api/shots/shot/sweep/runs", {})
            self.assertEqual(status, 422)
            self.assertIn(words, told["error"])
        many = {"axes": [{"over": f"dial:{name}", "first": 0, "last": 1, "steps": 4000} for name in ("size", "tilt")]}
        self.assertIn("16,000,000 variants", self.sweep(server, **many)["trouble"])
        self.assertEqual(server.ask("/api/runs")[1]["runs"], [])
        server.ask("/api/shots/shot", {"patch": {"sweep": None}, "what": "none"}, "PATCH")
        self.assertIn("has no variants", server.ask("/api/shots/shot/sweep/runs", {})[1]["error"])
        self.assertIn("rows", server.ask("/api/sweep/table", {"text": "a\n1\n"})[1]["table"])

    def test_killed_while_it_runs_it_ends_with_the_same_bytes(self):
        slow = CODE.replace("    return", "    import time\n    time.sleep(0.15)\n    return")
        server = self.server(slow)
        self.sweep(server, axes=AXES)
        _, told = server.ask("/api/shots/shot/sweep/runs", {})
        server.wait_for_run(told["runs"][1], lambda r: r["made"] > 0)
        server.kill()
        server = Server(self, self.home)
        self.addCleanup(server.end)
        for run in told["runs"]:
            server.ask(f"/api/runs/{run}/resume", {})
        runs = [server.wait_for_run(run, lambda r: r["state"] not in ("queued", "running")) for run in told["runs"]]
        self.assertEqual([run["state"] for run in runs], ["done"] * 6)
        folder = scratch(self)
        done = vexel("sweep", self.home / "shots/shot.json", "--to", folder, "--trust", "--json")
        self.assertEqual(done.returncode, 0, done.stderr)
        takes = json.loads(done.stdout)["takes"]
        for run, take in zip(runs, takes, strict=True):
            rows = server.ask(f"/api/runs/{run['id']}/frames")[1]["frames"]
            ledger = json.loads((folder / take / "take.json").read_text())["frames"]
            self.assertEqual([row["key"] for row in rows], [row["key"] for row in ledger])
            for number, row in enumerate(ledger):
                self.assertEqual(
                    server.ask(f"/api/runs/{run['id']}/frames/{number}.png")[1],
                    (folder / take / row["file"]).read_bytes(),
                )


class SweepCommandTest(unittest.TestCase):
    def test_listed_captured_and_laid_on_a_sheet(self):
        folder = scratch(self)
        shot = write_shot(folder, CODE, frames=2)
        (folder / "t.csv").write_text("name;size;tilt\nsmall;0,5;1\nsame;0,5;1\n")
        told = vexel("sweep", shot, "--table", folder / "t.csv")
        self.assertIn("2 variants × 2 frames = 4 pictures\n      1  small\n      2  same\n", told.stdout)
        place = folder / "out"
        told = vexel("sweep", shot, "--table", folder / "t.csv", "--to", place, "--sheet", folder / "s.html", "--json")
        self.assertEqual(told.returncode, 0, told.stderr)
        self.assertEqual([file.name for file in sorted(place.iterdir())], ["1-small", "2-same"])
        self.assertIn("2-same: 0 made, 2 reused", told.stderr, "equal frames of another variant are copied")
        self.assertEqual((folder / "s.html").read_text().count("<img "), 2)
        reel = "--reel", folder / "reels/all.json", "--grid"
        again = vexel("sweep", shot, "--table", folder / "t.csv", "--to", place, *reel)
        self.assertIn("1-small: 0 made, 2 reused", again.stderr)
        told = vexel("reel", folder / "reels/all.json", "-o", folder / "all.mp4")
        self.assertEqual(told.returncode, 0, told.stderr)
        self.assertIn("frames    2", told.stdout)

    def test_wrong_calls_make_nothing(self):
        folder = scratch(self)
        shot = write_shot(folder, CODE, frames=2)
        (folder / "t.csv").write_text("size\n9\n")
        (folder / "bad.csv").write_bytes(b"size\n\xff\n")
        for arguments, words in (
            ((), "has no sweep"),
            (("--table", folder / "none.csv"), "cannot be read"),
            (("--table", folder / "bad.csv"), "not text in UTF-8"),
            (("--table", folder / "t.csv", "--to", folder / "out"), "9 is outside the dial size"),
            (("--table", folder / "t.csv", "--sheet", folder / "s.svg"), "one of .png, .pdf, .html"),
            (("--table", folder / "t.csv", "--frame", "2"), "frame 2 is outside the shot"),
            (("--table", folder / "t.csv", "--reel", folder / "r.json"), "name their folder by --to"),
            (("--table", folder / "t.csv", "--to", folder / "out", "--grid"), "name its file by --reel"),
            (("--table", folder / "t.csv", "--to", folder / "out", "--reel", folder / "t.csv"), "is there already"),
        ):
            told = vexel("sweep", shot, *arguments)
            self.assertEqual(told.returncode, 2, (words, told.stderr))
            self.assertIn(words, told.stderr)
        self.assertFalse((folder / "out").exists())


if __name__ == "__main__":
    unittest.main()
