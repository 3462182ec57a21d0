"""Reviews over HTTP: frames, pixels, figures, differences, notes and settings of takes, files and reels."""

import base64
import csv
import io
import json
import re
import shutil
import subprocess
import time
import unittest
from fractions import Fraction

import cv2
import numpy as np
import opentimelineio as otio

from tests.helpers import Server, scratch, vexel
from tests.numbered import CODE, number_in, places
from vexel.core.recipes.shipped import RECIPES
from vexel.web.jobs.reviewing.subjects import Subject

FRAMES, SIZE = 12, (160, 96)


class ReviewsTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        place = scratch(cls.holder())
        cls.home = place / "home"
        (cls.home / "shots").mkdir(parents=True)
        cls.write("numbered", CODE)
        cls.server = Server(None, cls.home)
        cls.addClassCleanup(cls.server.end)
        cls.take = cls.captured("numbered")

    @classmethod
    def holder(cls):
        class Holder:
            addCleanup = staticmethod(cls.addClassCleanup)  # noqa: N815

        return Holder

    @classmethod
    def write(cls, name, code, picture=None, **parts):
        (cls.home / f"shots/{name}.py").write_text(code)
        picture = {"width": SIZE[0], "height": SIZE[1], "samples": 1} | (picture or {})
        clock = {"rate": "24", "frames": FRAMES, "span": "ends"}
        document = {"title": name, "source": {"kind": "sketch", "file": f"{name}.py"}, "clock": clock}
        (cls.home / f"shots/{name}.json").write_text(json.dumps(document | {"picture": picture} | parts))

    @classmethod
    def captured(cls, shot):
        _, run = cls.server.ask(f"/api/shots/{shot}/runs", {})
        run = cls.server.wait_for_run(run["id"], lambda r: r["state"] not in ("queued", "running"))
        assert run["state"] == "done", run
        return run["id"]

    def ask(self, path, body=None, method=""):
        status, answer = self.server.ask(f"/api/reviews/{path}", body, method)
        self.assertEqual(status, 200, answer)
        return answer

    def refused(self, path, body=None, status=422, method=""):
        got, answer = self.server.ask(f"/api/{path}", body, method)
        self.assertEqual(got, status, answer)
        return answer["error"]

    def pixels(self, path):
        return cv2.imdecode(np.frombuffer(self.ask(path), np.uint8), cv2.IMREAD_UNCHANGED)

    def figures(self, of, query=""):
        end = time.monotonic() + 60
        while (found := self.ask(f"{of}/figures{query}"))["state"] in ("queued", "running"):
            self.assertLess(time.monotonic(), end)
            time.sleep(0.05)
        return found

    def measured(self, of):
        self.ask(f"{of}/figures", {})
        return self.figures(of)

    def file_of(self, run, recipe):
        _, made = self.server.ask(f"/api/runs/{run}/outputs", {"recipe": recipe})
        end = time.monotonic() + 120
        while made["state"] in ("queued", "running"):
            self.assertLess(time.monotonic(), end)
            time.sleep(0.05)
            made = self.server.ask(f"/api/outputs/{made['id']}")[1]
        self.assertEqual(made["state"], "done", made)
        return made["id"]

    def test_each_frame_is_that_which_was_captured(self):
        told = self.ask(f"take/{self.take}")
        self.assertEqual((told["count"], told["rate"], told["width"], told["bits"]), (FRAMES, "24", SIZE[0], 8))
        for frame in (0, 7, FRAMES - 1):
            kept = self.server.ask(f"/api/runs/{self.take}/frames/{frame}.png")[1]
            self.assertEqual(self.ask(f"take/{self.take}/frames/{frame}"), kept)
            small = self.pixels(f"take/{self.take}/frames/{frame}?wide=80")
            self.assertEqual(small.shape, (48, 80, 3))
            self.assertEqual(number_in(small[6, places(80), 0]), frame)

    def test_exposure_is_of_light_and_pixels_are_the_files_own(self):
        frame = self.pixels(f"take/{self.take}/frames/3?stops=1")
        # IEC 61966-2-1: a code of 60 is 0.0452 of light, twice as much is a code of 85.
        self.assertEqual(frame[80, 80].tolist(), [85, 85, 85])
        told = self.ask(f"take/{self.take}/pixel?frame=3&x=80&y=80")
        self.assertEqual((told["values"], told["bits"]), ([60, 60, 60], 8))
        self.assertIn("160 × 96", self.refused(f"reviews/take/{self.take}/pixel?frame=3&x=160&y=0"))

    def test_a_frame_is_typed_as_number_seconds_or_timecode(self):
        for text, frame in (("7", 7), ("0.25s", 6), ("00:00:00:10", 10)):
            self.assertEqual(self.ask(f"take/{self.take}/place?text={text}")["frame"], frame)
        self.assertEqual(self.ask(f"take/{self.take}/place?text=6")["timecode"], "00:00:00:06")
        self.assertIn("0 to 11", self.refused(f"reviews/take/{self.take}/place?text=12"))
        self.assertIn("not a length", self.refused(f"reviews/take/{self.take}/place?text=soon"))

    def test_figures_come_with_the_capture_and_are_never_measured_twice(self):
        end = time.monotonic() + 60
        while (found := self.figures(f"take/{self.take}"))["state"] != "done":
            self.assertLess(time.monotonic(), end, "nobody measured the take")
        for frame in (0, 5):
            codes = self.pixels(f"take/{self.take}/frames/{frame}").astype(float) @ [0.0722, 0.7152, 0.2126]
            self.assertAlmostEqual(255 * found["curves"]["mean"][frame], codes.mean(), delta=0.5)
        # The same frames, though they cannot be read any more: nothing is measured again.
        again = self.captured("numbered")
        frames = self.home / "frames"
        shutil.move(frames, self.home / "away")
        try:
            self.assertEqual(self.figures(f"take/{again}")["curves"], found["curves"])
        finally:
            shutil.rmtree(frames, ignore_errors=True)
            shutil.move(self.home / "away", frames)

    def test_a_planted_fault_is_found_and_only_that(self):
        old = CODE.replace(
            "    return picture",
            "    picture[:24] = 19 * (instant.frame if instant.frame != 7 else 2)\n    return picture",
        )
        self.write("fault", old)
        found = self.measured(f"take/{self.captured('fault')}")
        self.assertEqual([(one["name"], one["frames"]) for one in found["findings"]], [("frame-out-of-line", [7])])

    def test_two_takes_with_another_tint_are_told_apart_by_number_and_by_cause(self):
        self.write("tinted", CODE)
        one = self.captured("tinted")
        patch = {"patch": {"source": {"dials": {"tint": 75}}}, "what": "tint", "burst": ""}
        self.assertEqual(self.server.ask("/api/shots/tinted", patch, "PATCH")[0], 200)
        source = self.home / "shots/tinted.py"
        source.write_text(source.read_text().replace("high // 4", "high // 3"))
        two = self.captured("tinted")
        query = f"frame=4&other_kind=take&other={two}&other_frame=4"
        found = self.ask(f"take/{one}/difference?{query}")
        mine, theirs = (self.pixels(f"take/{run}/frames/4").astype(int) for run in (one, two))
        apart = np.abs(mine - theirs)
        self.assertAlmostEqual(255 * found["mean"], apart.mean(), places=4)
        self.assertEqual(round(255 * found["most"]), apart.max())
        self.assertEqual(apart[found["y"], found["x"]].max(), apart.max())
        told = self.server.ask(f"/api/runs/{one}/changes?other={two}")[1]
        (tint,) = told["changes"]
        self.assertEqual((tint["label"], tint["one"], tint["other"]), ("dials tint", "", "75"))
        self.assertEqual(
            [(line["file"], line["one"], line["other"]) for line in told["lines"]], [("tinted.py", [10], [10])]
        )
        # The settings of the first one, put back into the shot.
        back = self.server.ask(f"/api/runs/{one}/changes")[1]
        edit = {"patch": back["patch"], "what": "settings", "burst": ""}
        self.assertEqual(self.server.ask("/api/shots/tinted", edit, "PATCH")[0], 200)
        self.assertEqual(self.server.ask(f"/api/runs/{one}/changes")[1]["changes"], [])
        self.assertNotEqual(self.server.ask(f"/api/runs/{two}/changes")[1]["changes"], [])

    def test_settings_of_a_draft_leave_the_size_of_its_shot(self):
        self.write("drafted", CODE, {"width": 1600, "height": 960, "samples": 4})
        _, run = self.server.ask("/api/shots/drafted/runs", {"draft": True})
        self.server.wait_for_run(run["id"], lambda r: r["state"] == "done")
        told = self.server.ask(f"/api/runs/{run['id']}/changes")[1]
        self.assertEqual((told["changes"], told["patch"]), ([], {}))
        patch = {"patch": {"source": {"dials": {"tint": 75}}}, "what": "tint", "burst": ""}
        self.server.ask("/api/shots/drafted", patch, "PATCH")
        told = self.server.ask(f"/api/runs/{run['id']}/changes")[1]
        self.assertEqual([one["label"] for one in told["changes"]], ["dials tint"])
        self.assertEqual(set(told["patch"]), {"source"})

    def test_the_address_of_frames_changes_with_any_of_them(self):
        def content(keys):
            return Subject("take", "1", "", tuple(keys), Fraction(24), 8, 8).content

        # A frame in the middle that was missing is there now, or was made again.
        self.assertNotEqual(content("abbd"), content("abcd"))
        self.assertEqual(content("abcd"), content("abcd"))
        self.assertEqual(len(self.ask(f"take/{self.take}")["content"]), 64)

    def test_sizes_that_differ_are_a_sentence(self):
        self.write("larger", CODE, {"width": 200})
        query = f"frame=0&other_kind=take&other={self.captured('larger')}&other_frame=0"
        self.assertIn("only pictures of one size", self.refused(f"reviews/take/{self.take}/difference?{query}"))

    def test_a_file_is_reviewed_by_its_decoded_frames(self):
        for recipe in ("h264", "gif", "ffv1"):
            with self.subTest(recipe):
                of = f"file/{self.file_of(self.take, recipe)}"
                told = self.ask(of)
                self.assertEqual((told["count"], told["width"]), (FRAMES, SIZE[0]))
                for frame in (0, 6, FRAMES - 1):
                    shown = self.pixels(f"{of}/frames/{frame}")
                    self.assertEqual(number_in(shown[12, places(SIZE[0]), 0]), frame)
                query = f"frame=6&other_kind=take&other={self.take}&other_frame=6"
                apart = self.ask(f"{of}/difference?{query}")
                self.assertLess(apart["mean"], 0.02)
                self.assertEqual(apart["changed"] == 0, recipe != "h264")
        self.assertEqual(len(self.measured(of)["curves"]["mean"]), FRAMES)
        page = self.file_of(self.take, "page")
        self.assertIn("is none of", self.refused(f"reviews/file/{page}"))

    def test_a_file_against_its_take_frame_by_frame(self):
        of = f"file/{self.file_of(self.take, 'h264')}"
        query = f"other_kind=take&other={self.take}"
        self.assertEqual(self.ask(f"{of}/pair?{query}")["state"], "none")
        self.ask(f"{of}/pair?{query}", {})
        end = time.monotonic() + 60
        while (found := self.ask(f"{of}/pair?{query}"))["state"] != "done":
            self.assertLess(time.monotonic(), end, found)
            time.sleep(0.05)
        one = self.ask(f"{of}/difference?{query}&frame=4&other_frame=4")
        self.assertEqual(len(found["apart"]), FRAMES)
        self.assertAlmostEqual(found["apart"][4], one["mean"], places=5)
        self.measured(of)
        self.measured(f"take/{self.take}")
        self.assertEqual(self.ask(f"{of}/pair?{query}")["findings"], [])
        # By time, and moved: pairs are only those that both have.
        moved = self.ask(f"{of}/pair?{query}&by=time&offset=-3", {})
        self.assertEqual(moved["first"], 3)

    def test_a_file_is_found_and_made_again_by_what_it_says(self):
        output = self.server.ask(f"/api/outputs/{self.file_of(self.take, 'h264')}")[1]
        file = self.home / "outputs" / output["file"]
        place = scratch(self)
        renamed = place / "renamed.mp4"
        shutil.copy(file, renamed)
        told = vexel("inspect", renamed, "--home", self.home).stdout
        self.assertIn(f"found: take {self.take} of the shot numbered", told)
        self.assertIn("all of it is there", told)
        done = vexel("again", renamed, "-o", place / "new.mp4", "--home", self.home)
        self.assertIn("byte-identical", done.stdout, done.stderr)
        # Without its metadata it is found by its content, as long as that is whole.
        silent = RECIPES["h264"].model_copy(update={"origin": "nothing", "name": "silent"})
        (self.home / "recipes").mkdir(exist_ok=True)
        (self.home / "recipes/silent.json").write_text(silent.model_dump_json())
        output = self.server.ask(f"/api/outputs/{self.file_of(self.take, 'silent')}")[1]
        done = vexel("again", self.home / "outputs" / output["file"], "-o", place / "two.mp4", "--home", self.home)
        self.assertIn("byte-identical", done.stdout, done.stderr)
        # Of another project, and of frames that are gone.
        other = Server(self, place / "other")
        told = vexel("inspect", renamed, "--home", place / "other").stdout
        self.assertIn("Its take is not in this project", told)
        self.assertIn(
            "cannot be made again", vexel("again", renamed, "-o", place / "x.mp4", "--home", place / "other").stderr
        )
        other.end()
        self.write("lost", CODE.replace("60", "63"))
        lost = self.captured("lost")
        output = self.server.ask(f"/api/outputs/{self.file_of(lost, 'h264')}")[1]
        key = self.server.ask(f"/api/runs/{lost}/frames")[1]["frames"][2]["key"]
        (frame,) = (self.home / "frames").rglob(f"{key}.png")
        frame.unlink()
        done = vexel("again", self.home / "outputs" / output["file"], "-o", place / "y.mp4", "--home", self.home)
        self.assertIn("resume the run", done.stderr)

    def brought(self, *files):
        status, answer = self.server.send("/api/reviews", files)
        self.assertEqual(status, 200, answer)
        return f"import/{answer['name']}"

    def test_files_from_elsewhere_are_reviewed_with_what_is_in_them(self):
        place = scratch(self)
        test = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "testsrc=size=96x64:rate=30000/1001:duration=0.5"]
        film = place / "from elsewhere.mkv"
        subprocess.run([*test, "-c:v", "libx264", "-pix_fmt", "yuv420p", str(film)], check=True)
        of = self.brought(film)
        told = self.ask(of)
        self.assertEqual((told["count"], told["rate"], told["width"]), (15, "30000/1001", 96))
        self.assertEqual(self.pixels(f"{of}/frames/14").shape[:2], (64, 96))
        self.assertEqual(len(self.measured(of)["curves"]["mean"]), 15)
        found = self.ask(f"{of}/inspected")
        facts = {fact["name"]: fact["value"] for fact in found["facts"]}
        self.assertEqual((facts["codec"], facts["frames"]), ("h264", "15"))
        self.assertIn("players guess", " ".join(found["findings"]))
        self.assertIn("carries no provenance record", found["made"]["gone"][0])
        # A folder of stills of which one is missing, and one of ours that comes back under another name.
        subprocess.run([*test, str(place / "s.%03d.png")], check=True)
        (place / "s.005.png").unlink()
        of = self.brought(*sorted(place.glob("s.*.png")))
        told = self.ask(of)
        self.assertEqual((told["count"], told["missing"]), (15, [4]))
        kept = cv2.imread(str(place / "s.009.png"))
        np.testing.assert_array_equal(self.pixels(f"{of}/frames/8")[..., :3], kept)
        self.assertIn("missing", " ".join(self.ask(f"{of}/inspected")["findings"]))
        own = self.server.ask(f"/api/outputs/{self.file_of(self.take, 'h264')}")[1]
        back = place / "back.mp4"
        shutil.copy(self.home / "outputs" / own["file"], back)
        made = self.ask(f"{self.brought(back)}/inspected")["made"]
        self.assertEqual((made["take"], made["shot_id"], made["recipe"]), (self.take, "numbered", "h264"))
        # Against a take of another rate: in step by time.
        query = f"other_kind=take&other={self.take}&by=time"
        self.assertEqual(self.ask(f"{of}/pair?{query}")["state"], "none")

    def test_what_cannot_be_opened_is_not_kept(self):
        place = scratch(self)
        film = place / "film.mp4"
        test = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "testsrc=size=96x64:rate=24:duration=1"]
        subprocess.run([*test, str(film)], check=True)
        (place / "cut.mp4").write_bytes(film.read_bytes()[:300])
        (place / "text.mp4").write_text("no film")
        sound = place / "sound.wav"
        subprocess.run(["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=duration=0.2", str(sound)], check=True)
        subprocess.run([*test, "-frames:v", "2", str(place / "a.%02d.png")], check=True)
        cv2.imwrite(str(place / "a.02.png"), np.zeros((9, 9, 3), np.uint8))
        before = sorted(file.name for file in (self.home / "reviewed").glob("*"))
        for files in (["cut.mp4"], ["text.mp4"], ["sound.wav"], ["a.01.png", "a.02.png"], ["film.mp4", "sound.wav"]):
            with self.subTest(files):
                status, answer = self.server.send("/api/reviews", [place / name for name in files])
                self.assertEqual(status, 422, answer)
                self.assertIn(files[0][0], answer["error"])
        self.assertEqual(sorted(file.name for file in (self.home / "reviewed").glob("*")), before)
        linked = self.home / "reviewed/linked"
        linked.mkdir(parents=True)
        (linked / "film.mp4").symlink_to(film)
        self.assertIn("holds a link", self.refused("reviews/import/linked"))
        self.assertEqual(self.server.ask("/api/reviews/import/linked", method="DELETE")[0], 200)
        self.assertTrue(film.is_file())
        for name in ("..", ".hidden", "a%2Fb", "none"):
            self.refused(f"reviews/import/{name}", status=404)

    def test_an_import_is_deleted_with_its_notes(self):
        place = scratch(self)
        film = place / "short.mp4"
        test = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "testsrc=size=96x64:rate=24:duration=0.2"]
        subprocess.run([*test, str(film)], check=True)
        of = self.brought(film)
        self.ask(f"{of}/notes", {"first": 0, "last": 1, "text": "a note"})
        self.assertEqual(self.server.ask(f"/api/reviews/{of}", method="DELETE")[0], 200)
        self.refused(f"reviews/{of}", status=404)
        self.refused(f"reviews/{of}", status=404, method="DELETE")

    def test_a_contact_sheet_of_chosen_frames(self):
        of = f"take/{self.take}"
        sheet = self.pixels(f"{of}/sheet.png?every=3&columns=2")
        # Two rows of two cells of 160 by 96, between gaps of 12, under a heading of 48 and with captions of 34.
        self.assertEqual(sheet.shape[:2], (48 + 12 + 2 * (96 + 34 + 12), 12 + 2 * (160 + 12)))
        for place, frame in ((0, 0), (1, 3), (2, 6), (3, 9)):
            x, y = 12 + place % 2 * 172, 60 + place // 2 * 142
            cell = sheet[y : y + 96, x : x + 160]
            self.assertEqual(number_in(cell[12, places(160), 0]), frame)
        self.assertTrue(self.ask(f"{of}/sheet.pdf?frames=2,4").startswith(b"%PDF"))
        self.assertIn(b"frame 4", self.ask(f"{of}/sheet.html?frames=2,4"))
        self.assertIn("no frame is chosen", self.refused(f"reviews/{of}/sheet.png?of=noted"))
        self.refused(f"reviews/{of}/sheet.gif", status=404)
        self.refused(f"reviews/{of}/sheet.png?columns=0")

    def page_of(self, of):
        self.ask(f"{of}/page", {})
        end = time.monotonic() + 120
        while (found := self.ask(f"{of}/page"))["state"] in ("queued", "running"):
            self.assertLess(time.monotonic(), end)
            time.sleep(0.05)
        self.assertEqual(found["state"], "done", found)
        return self.ask(f"{of}/page.html").decode()

    def test_a_review_page_comes_back_with_notes_that_are_merged_once(self):
        self.write("paged", CODE.replace("60", "64"))
        take = self.captured("paged")
        of = f"take/{take}"
        self.ask(f"{of}/notes", {"first": 2, "last": 2, "text": "</script><b>first</b>"})
        self.refused(f"reviews/{of}/page.html", status=404)
        page = self.page_of(of)
        self.assertEqual(page.count("</script>"), 2)
        self.assertNotIn(str(self.home), page)
        film = re.search(r'src="data:video/mp4;base64,([^"]+)"', page)[1]
        file = scratch(self) / "film.mp4"
        file.write_bytes(base64.b64decode(film))
        count = ["ffprobe", "-v", "error", "-count_frames", "-show_entries", "stream=nb_read_frames", "-of", "csv=p=0"]
        self.assertEqual(
            subprocess.run([*count, str(file)], capture_output=True, text=True).stdout.strip(), str(FRAMES)
        )
        held = re.search(r'<script id="review" type="application/json">(.*?)</script>', page)[1]
        data = json.loads(held)
        mark = {"shape": "arrow", "x": 0.1, "y": 0.2, "to_x": 0.3, "to_y": 0.4}
        own = {"uid": "0" * 24, "first": 5, "last": 5, "text": "second", "author": "Ada", "mark": mark, "is_open": True}
        data["notes"][0] |= {"is_open": False, "changed": "2026-12-01T10:00:00Z"}
        data["notes"].append(own)

        def back(value, text=None):
            file = scratch(self) / "review.html"
            file.write_text(text if text is not None else page.replace(held, json.dumps(value).replace("<", "\\u003c")))
            return self.server.send(f"/api/reviews/{of}/notes/import", [file])

        self.assertEqual(back(data), (200, {"new": 1, "changed": 1}))
        self.assertEqual(back(data), (200, {"new": 0, "changed": 0}))
        # Another run of the same frames has notes of its own, and the same page serves it.
        twin = self.captured("paged")
        file = scratch(self) / "review.html"
        file.write_text(page.replace(held, json.dumps(data).replace("<", "\\u003c")))
        status, answer = self.server.send(f"/api/reviews/take/{twin}/notes/import", [file])
        self.assertEqual((status, answer), (200, {"new": 2, "changed": 0}))
        first, second = self.ask(f"{of}/notes")["notes"]
        self.assertEqual((first["is_open"], second["text"], second["mark"]["shape"]), (False, "second", "arrow"))
        # Of other frames, and changed by hand.
        for wrong, says in (
            ({"content": "0" * 64}, "of other frames"), ({"notes": [own | {"last": 99}]}, "frame 99"),
            ({"notes": [own | {"uid": "../x"}]}, "was changed"), ({"count": -1}, "was changed"),
            ({"notes": [own | {"mark": mark | {"x": 7}}]}, "was changed"),
            ({"fps": 0}, "was changed"), ({"vexel": 2}, "was changed"), ({"notes": "none"}, "was changed"),
        ):  # fmt: skip
            status, answer = back(data | wrong)
            self.assertEqual(status, 422)
            self.assertIn(says, answer["error"])
        for text, says in (("<html></html>", "is not a review page"), (page.replace(held, "{" * 5000), "no JSON")):
            self.assertIn(says, back(None, text)[1]["error"])
        self.assertEqual(len(self.ask(f"{of}/notes")["notes"]), 2)

    def test_a_reel_is_reviewed_as_it_plays(self):
        items = [{"kind": "take", "take": f"run:{self.take}"}, {"kind": "take", "take": f"run:{self.take}"}]
        document = {"title": "Twice", "rate": "24", "width": SIZE[0], "height": SIZE[1], "items": items}
        (self.home / "reels/twice.json").write_text(json.dumps(document))
        told = self.ask("reel/twice")
        self.assertEqual(told["count"], 2 * FRAMES)
        shown = self.pixels(f"reel/twice/frames/{FRAMES + 5}")
        self.assertEqual(number_in(shown[12, places(SIZE[0]), 0]), 5)
        self.assertEqual(len(self.measured("reel/twice")["curves"]["mean"]), 2 * FRAMES)

    def test_sixteen_bits_and_light(self):
        for form, bits in (("png16", 16), ("exr", 0)):
            with self.subTest(form):
                self.write(form, CODE, {"format": form})
                run = self.captured(form)
                told = self.ask(f"take/{run}/pixel?frame=2&x=80&y=80")
                self.assertEqual(told["bits"], bits)
                # IEC 61966-2-1: 60 of 255 is 60 · 257 of 65535, and 0.0452 of light.
                want = 60 * 257 if bits else 0.0452
                self.assertAlmostEqual(told["values"][0], want, delta=want / 500)
                shown = self.pixels(f"take/{run}/frames/2")
                self.assertEqual((shown.dtype, shown[80, 80, 0]), (np.uint8, 60))
                self.assertEqual(self.pixels(f"take/{run}/frames/2?stops=1")[80, 80, 0], 85)

    def test_notes_are_kept_closed_listed_and_deleted(self):
        self.write("noted", CODE)
        of = f"take/{self.captured('noted')}"
        mark = {"shape": "box", "x": 0.1, "y": 0.2, "to_x": 0.5, "to_y": 0.9}
        order = {"first": 3, "last": 5, "text": '=Edge, "jagged"', "author": "Ada", "mark": mark}
        (note,) = self.ask(f"{of}/notes", order)["notes"]
        self.assertEqual((note["first"], note["last"], note["mark"], note["is_open"]), (3, 5, mark, True))
        (note,) = self.server.ask(f"/api/notes/{note['id']}", {"is_open": False}, "PATCH")[1]["notes"]
        self.assertFalse(note["is_open"])
        table = self.ask(f"{of}/notes.csv").decode("utf-8-sig")
        (row,) = csv.DictReader(io.StringIO(table))
        self.assertEqual((row["from"], row["to"], row["state"]), ("00:00:00:03", "00:00:00:05", "done"))
        # OWASP, CSV injection: a spreadsheet must not take a note for a formula.
        self.assertEqual(row["text"], '\'=Edge, "jagged"')
        timeline = otio.adapters.read_from_string(json.dumps(self.ask(f"{of}/notes.otio")), "otio_json")
        (clip,) = timeline.find_clips()
        (marker,) = clip.markers
        self.assertEqual(marker.name, order["text"])
        self.assertEqual(marker.marked_range.start_time, otio.opentime.RationalTime(3, 24))
        self.assertEqual(marker.marked_range.duration, otio.opentime.RationalTime(3, 24))
        self.assertEqual(clip.source_range.duration.value, FRAMES)
        for wrong in ({"last": 2}, {"last": 99, "first": 99}, {"text": ""}, {"mark": mark | {"x": 2}}):
            status = 404 if "first" in wrong else 422
            self.refused(f"reviews/{of}/notes", order | wrong, status)
        self.assertEqual(self.server.ask(f"/api/notes/{note['id']}", method="DELETE")[0], 200)
        self.refused(f"notes/{note['id']}", {"is_open": True}, 404, "PATCH")
        self.assertEqual(self.ask(f"{of}/notes")["notes"], [])

    def test_notes_go_with_their_run_whose_number_another_one_may_get(self):
        self.write("gone", CODE)
        run = self.captured("gone")
        self.ask(f"take/{run}/notes", {"first": 0, "last": 0, "text": "a note"})
        self.assertEqual(self.server.ask(f"/api/runs/{run}", method="DELETE")[0], 200)
        self.refused(f"reviews/take/{run}", status=404)
        self.assertEqual(self.ask(f"take/{run}/notes")["notes"], [])

    def test_what_is_not_there_is_a_sentence(self):
        for path in ("take/99999", "take/x", "take/-1", "film/1", "file/99999", f"take/{'9' * 30}", "reel/none"):
            with self.subTest(path):
                self.refused(f"reviews/{path}", status=404)
        self.refused(f"reviews/take/{self.take}/frames/{FRAMES}", status=404)
        self.refused(f"reviews/take/{self.take}?camera_pass=3")
        for query in ("wide=-1", "wide=9999999", "stops=nan", "stops=1e9"):
            self.refused(f"reviews/take/{self.take}/frames/0?{query}")

    def test_a_damaged_frame_is_set_aside_with_a_sentence(self):
        self.write("damaged", CODE.replace("60", "61"))
        run = self.captured("damaged")
        key = self.server.ask(f"/api/runs/{run}/frames")[1]["frames"][4]["key"]
        (file,) = (self.home / "frames").rglob(f"{key}.png")
        file.write_bytes(file.read_bytes()[:-9] + b"123456789")
        self.assertIn("resume run", self.refused(f"reviews/take/{run}/frames/4"))
        self.assertFalse(file.exists())

    def test_all_that_can_be_reviewed_is_listed_and_what_goes_together_comes_first(self):
        self.file_of(self.take, "h264")
        listed = self.server.ask("/api/reviews")[1]["others"]
        self.assertIn(("take", str(self.take)), [(one["kind"], one["name"]) for one in listed])
        first = self.ask(f"take/{self.take}")["others"][0]
        self.assertTrue(first["title"].startswith("numbered"), first)


if __name__ == "__main__":
    unittest.main()
