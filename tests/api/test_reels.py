"""Reels of a project over HTTP: made of runs, edited, looked at, completed by captures, compiled."""

import json
import subprocess
import unittest
from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np
import opentimelineio as otio
from PIL import Image

from tests.helpers import Server, scratch, write_shot

FRAMES = 8
CODE = "@model\ndef thing(instant=None):\n    return pv.Cube().rotate_z(90 * float(instant.phase))\n"


class ReelsTest(unittest.TestCase):
    def setUp(self):
        self.home = scratch(self) / "home"
        (self.home / "shots").mkdir(parents=True)
        write_shot(self.home / "shots", CODE, frames=FRAMES)
        self.server = Server(self, self.home)
        self.addCleanup(self.server.end)

    def done(self, run_id):
        self.server.wait_for_run(run_id, lambda run: run["state"] == "done")
        return run_id

    def picture(self, reel, frame):
        data = self.server.ask(f"/api/reels/{reel}/picture?frame={frame}&side=4096")[1]
        return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR).astype(int)

    def test_from_a_run_to_a_proven_file(self):
        ask = self.server.ask
        run = self.done(ask("/api/shots/shot/runs", {})[1]["id"])
        _, reel = ask("/api/reels", {"title": "Hall", "runs": [run, run]})
        self.assertEqual((reel["frames"], reel["document"]["items"][0]["take"]), (16, f"run:{run}"))
        self.assertIn("2 × 8 = 16 frames", reel["reason"])
        address = f"/api/reels/{reel['id']}"
        first = reel["document"]["items"][0] | {
            "frames": 12,
            "between": "true",
            "transition": {"kind": "wipe", "frames": 2},
        }
        items = [first, {"kind": "shot", "shot": "../shots/shot.json"}, {"kind": "clip", "file": "lost.mp4"}]
        _, reel = ask(f"{address}?revision={reel['revision']}", {"patch": {"items": items}, "what": "items"}, "PATCH")
        self.assertEqual(reel["to_capture"], [{"label": "Trial", "frames": 8}])
        self.assertIn("there is no file lost.mp4", reel["items"][2]["trouble"])
        self.assertEqual([part["text"] for part in reel["brief"] if part["of"] == "transition"], ["2 frames of wipe"])
        before = self.picture(reel["id"], 1)
        _, ordered = ask(f"{address}/captures", {})
        for number in ordered["runs"]:
            self.done(number)
        self.assertEqual(ask(address)[1]["to_capture"], [])
        self.assertEqual([one["whole"] for one in ask("/api/runs")[1]["runs"]], [False, True])
        self.assertGreater(np.abs(self.picture(reel["id"], 1) - before).max(), 20, "the instant itself")
        status, refused = ask(f"{address}/captures", {})
        self.assertEqual((status, refused["error"]), (422, "Hall has no missing frames"))
        _, sent = ask(f"{address}/dispatch", {"recipes": [{"name": "x", "container": "mp4", "codec": "h264"}]})
        self.assertIn("lost.mp4 of the reel is missing", self.ended(sent["outputs"][0])["message"])
        (fix,) = next(one for one in reel["findings"] if one["name"] == "item-missing")["fixes"]
        ask(address, {"patch": fix["patch"], "what": "the hole"}, "PATCH")
        _, sent = ask(f"{address}/dispatch", {"recipes": [{"name": "x", "container": "mp4", "codec": "h264"}]})
        made = self.ended(sent["outputs"][0])
        self.assertTrue(made["receipt"]["holds"], made)
        self.assertEqual((made["reel"], made["run_id"], made["file"]), ("hall", 0, "hall.x.mp4"))
        self.assertEqual(ask("/api/outputs")[1]["outputs"][0]["reel"], "hall")
        self.assertEqual(ask(f"{address}/undo", {})[1]["undo"], "items")
        named = {one["name"] for one in ask(address)[1]["findings"]}
        ask("/api/shots/shot", {"patch": {"title": "Cube"}}, "PATCH")
        self.assertEqual({one["name"] for one in ask(address)[1]["findings"]}, named)
        ask("/api/shots/shot", {"patch": {"picture": {"background": "#111111"}}}, "PATCH")
        _, reel = ask(address)
        self.assertIn("take-outdated", {one["name"] for one in reel["findings"]} - named)
        self.assertEqual([one["frames"] for one in reel["to_renew"]], [8, 8])
        _, reel = ask(f"{address}/renewals", {})
        self.assertEqual([item["kind"] for item in reel["document"]["items"][:2]], ["shot", "shot"])
        for one in ask("/api/runs")[1]["runs"]:
            self.done(one["id"])
        self.assertEqual(ask(address)[1]["to_renew"], [])

    def test_a_trial_that_nobody_waits_for_is_ended(self):
        """Its process ends in the middle of the work, and another trial is not disturbed."""
        ask = self.server.ask
        run = self.done(ask("/api/shots/shot/runs", {})[1]["id"])
        items = [{"kind": "take", "take": f"run:{run}", "repeat": 200}]
        _, reel = ask("/api/reels", {"title": "Long", "runs": [run]})
        ask(f"/api/reels/{reel['id']}", {"patch": {"items": items}, "what": "items"}, "PATCH")
        limit = {"name": "g", "container": "gif", "codec": "gif", "quality": {"at_most": "20 kB"}}
        order = {"recipe": limit, "ticket": "one"}
        with ThreadPoolExecutor() as pool:
            first = pool.submit(ask, f"/api/reels/{reel['id']}/gif-table", order | {"ticket": "one"})
            second = pool.submit(ask, f"/api/reels/{reel['id']}/trial", order | {"ticket": "two"})
            while not first.done():
                self.assertEqual(ask("/api/trials/one", method="DELETE")[0], 200)
            status, ended = first.result()
            self.assertEqual((status in (409, 422, 500, 503), "error" in ended), (True, True), (status, ended))
            self.assertEqual(second.result()[0], 200)
        self.assertEqual(ask("/api/trials/two", method="DELETE")[0], 200, "one that has ended already")

    def test_files_in_several_formats(self):
        ask = self.server.ask
        run = self.done(ask("/api/shots/shot/runs", {})[1]["id"])
        _, reel = ask("/api/reels", {"title": "Two sizes", "runs": [run]})
        address = f"/api/reels/{reel['id']}"
        wide = (reel["document"]["width"], reel["document"]["height"])
        side = min(wide) // 2 * 2
        formats = [{"name": "square", "width": side, "height": side}]
        ask(address, {"patch": {"formats": formats}, "what": "formats"}, "PATCH")
        recipes = [
            {"name": "x", "container": "mp4", "codec": "h264"},
            {"name": "g", "container": "gif", "codec": "gif"},
        ]
        _, named = ask(f"{address}/file-names", {"recipes": recipes})
        self.assertEqual(len(set(named["names"])), 4, named)
        self.assertEqual(sum(f".{side}x{side}." in name for name in named["names"]), 2)
        _, sent = ask(f"{address}/dispatch", {"recipes": recipes})
        made = [self.ended(one) for one in sent["outputs"]]
        self.assertEqual([one["file"] for one in made], named["names"])
        for one in made:
            self.assertTrue(one["receipt"]["holds"], one)
            shape = (side, side) if f"{side}x{side}" in one["file"] else wide
            seen = next(check["found"] for check in one["receipt"]["checks"] if check["what"] == "size")
            self.assertEqual(seen, "{} × {}".format(*shape))
        _, sent = ask(f"{address}/dispatch", {"recipes": recipes[:1], "formats": ["square"]})
        self.assertEqual(self.ended(sent["outputs"][0])["file"], f"two-sizes.x.{side}x{side}.v002.mp4")
        for body, words in (({"formats": ["sqare"]}, "did you mean square"), ({"formats": []}, "at least one size")):
            status, refused = ask(f"{address}/dispatch", {"recipes": recipes} | body)
            self.assertEqual((status, words in refused["error"]), (422, True), refused)
        status, refused = ask(f"{address}/picture?frame=0&format=sqare")
        self.assertEqual((status, "did you mean square" in refused["error"]), (422, True))
        data = ask(f"{address}/picture?frame=0&side=4096&format=square")[1]
        self.assertEqual(cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR).shape[:2], (side, side))

    def ended(self, output):
        while output["state"] in ("queued", "running"):
            _, output = self.server.ask(f"/api/outputs/{output['id']}")
        return output

    def test_what_is_wrong_is_a_sentence_and_nothing_is_lost(self):
        ask = self.server.ask
        _, reel = ask("/api/reels", {})
        address = f"/api/reels/{reel['id']}"
        for patch, words in (
            ({"items": [{"kind": "tilte"}]}, "title"),
            ({"items": [{"kind": "take", "take": "run:1", "frist": 3}]}, "frist"),
            ({"rate": "0"}, "rate"),
        ):
            status, told = ask(address, {"patch": patch}, "PATCH")
            self.assertEqual(status, 422, told)
            self.assertIn(words, told["error"])
        self.assertEqual(ask(f"{address}/picture?frame=0")[0], 422)
        _, outer = ask("/api/reels", {"title": "Outer"})
        within = [{"kind": "gap", "frames": 2}, {"kind": "reel", "reel": f"{reel['id']}.json"}]
        ask(f"/api/reels/{outer['id']}", {"patch": {"items": within}}, "PATCH")
        status, told = ask(address, {"patch": {"items": [{"kind": "reel", "reel": f"{outer['id']}.json"}]}}, "PATCH")
        self.assertEqual((status, "contains itself" in told["error"]), (422, True), told)
        self.assertEqual(ask(address)[1]["revision"], reel["revision"])
        mine = {"title": "Mine", "items": [{"kind": "gap", "frames": 9}]}
        (self.home / "reels/mine.json").write_text(json.dumps(mine))
        (self.home / "reels/torn.json").write_text("{")
        lines = {line["id"]: line for line in ask("/api/reels")[1]["reels"]}
        self.assertIn("9 frames", lines["mine"]["summary"])
        self.assertIn("torn.json", lines["torn"]["error"])
        self.assertEqual(ask("/api/reels/none")[0], 404)
        self.assertNotIn("mine", [line["id"] for line in ask("/api/reels/mine", method="DELETE")[1]["reels"]])


class BroughtTest(unittest.TestCase):
    """Files from outside: made by ffmpeg and Pillow."""

    def setUp(self):
        self.home, self.own = scratch(self) / "home", scratch(self)
        self.server = Server(self, self.home)
        self.addCleanup(self.server.end)
        self.reel = self.server.ask("/api/reels", {"title": "Hall"})[1]
        self.address = f"/api/reels/{self.reel['id']}"

    def made(self, name, *options):
        subprocess.run(["ffmpeg", "-v", "error", *options, self.own / name], check=True)
        return self.own / name

    def bring(self, *files):
        return self.server.send(f"{self.address}/files", files)

    def edit(self, **patch):
        return self.server.ask(self.address, {"patch": patch}, "PATCH")[1]

    def test_clips_images_and_sounds_become_parts_of_the_reel(self):
        clip = self.made("tide.mov", "-f", "lavfi", "-i", "testsrc=s=96x64:r=25:d=1", "-c:v", "mjpeg")
        self.made("m.%02d.png", "-f", "lavfi", "-i", "testsrc=s=64x48:r=5:d=1")
        images = sorted(self.own.glob("m.*.png"))
        Image.new("RGB", (40, 30), "#204060").save(self.own / "sign.jpg")
        _, found = self.bring(clip, *images, self.own / "sign.jpg")
        self.assertEqual([item["kind"] for item in found["items"]], ["clip", "stills", "stills"])
        reel = self.edit(items=found["items"])
        self.assertEqual([item["frames"] for item in reel["items"]], [24, 5, 72])
        self.assertEqual([item["media"] for item in reel["items"]], [25, 5, 1])
        self.assertEqual(reel["items"][1]["name"], "m.%02d.png")
        data = self.server.ask(f"{self.address}/items/1/picture?frame=4&side=4096")[1]
        seen = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR).astype(int)
        apart = [np.abs(seen - cv2.imread(str(image))).mean() for image in images]
        self.assertEqual(int(np.argmin(apart)), 4, apart)
        for place, said in (("items/1/picture?frame=5", "frames 0 to 4"), ("items/7/picture", "plays no frames")):
            status, told = self.server.ask(f"{self.address}/{place}")
            self.assertEqual((status, said in told["error"]), (422, True), told)

    def test_what_a_reel_cannot_play_is_not_kept(self):
        for name, content, said in (
            ("notes.txt", b"tide tables", "not a video, image or sound"),
            ("torn.mp4", b"not a video at all", "torn.mp4"),
            ("mute.wav", b"RIFF", "mute.wav cannot be read as sound"),
        ):
            (self.own / name).write_bytes(content)
            status, told = self.bring(self.own / name)
            self.assertEqual((status, said in told["error"]), (422, True), told)
        self.assertEqual(list((self.home / "reels/files").iterdir()), [])

    def test_timelines_go_out_and_come_in_by_the_library_of_their_own(self):
        titles = [{"kind": "title", "text": text, "frames": 24} for text in ("Tide", "Light")]
        layout = {"kind": "layout", "cells": [{"item": title} for title in titles]}
        titles[1]["framing"] = {"square": {"size": 0.05}}
        formats = [{"name": "square", "width": 64, "height": 64, "fit": "contain"}]
        self.edit(items=[*titles, layout], formats=formats)
        _, told = self.server.ask(f"{self.address}/list?ending=otio")
        self.assertTrue(any("1 format is kept in its metadata alone" in note for note in told["notes"]), told["notes"])
        self.assertIn("1 format is left out", str(self.server.ask(f"{self.address}/list?ending=csv")[1]["notes"]))
        (self.own / "own.otio").write_text(told["text"])
        back = self.server.send("/api/reels/timelines", [self.own / "own.otio"])[1]["id"]
        document = self.server.ask(f"/api/reels/{back}")[1]["document"]
        self.assertEqual((document["formats"], document["items"][1]["framing"]["square"]["size"]), (formats, 0.05))
        timeline = otio.adapters.read_from_string(told["text"], "otio_json")
        self.assertEqual(timeline.duration().to_seconds(), 3)
        self.assertTrue(any("layout" in note for note in told["notes"]), told["notes"])
        self.assertIn("Tide", self.server.ask(f"{self.address}/list?ending=csv")[1]["text"])
        self.assertEqual(self.server.ask(f"{self.address}/list?ending=xml")[0], 422)
        track = otio.schema.Track(kind="Video")
        place = otio.schema.ExternalReference(target_url="tide.mov")
        span = otio.opentime.TimeRange(otio.opentime.RationalTime(5, 25), otio.opentime.RationalTime(50, 25))
        track.append(otio.schema.Clip("Tide", place, span))
        over = otio.schema.Track(kind="Video", children=[otio.schema.Gap(duration=otio.opentime.RationalTime(9, 25))])
        made = otio.schema.Timeline("Elsewhere")
        made.tracks.extend([track, over])
        (self.own / "cut.otio").write_text(otio.adapters.write_to_string(made, "otio_json"))
        status, came = self.server.send("/api/reels/timelines", [self.own / "cut.otio"])
        self.assertEqual(status, 200, came)
        _, reel = self.server.ask(f"/api/reels/{came['id']}")
        self.assertEqual((reel["document"]["title"], reel["frames"]), ("Elsewhere", 50))
        self.assertIn("there is no file tide.mov", reel["items"][0]["trouble"])
        (self.own / "torn.otio").write_bytes(b"\xff\xfe")
        for files in ([self.own / "torn.otio"], [self.own / "cut.otio", self.own / "cut.otio"]):
            self.assertEqual(self.server.send("/api/reels/timelines", files)[0], 422)

    def test_a_recipe_is_tried_on_a_reel(self):
        self.edit(items=[{"kind": "title", "text": "Tern Point", "frames": 30}], width=96, height=64)
        order = {"recipe": {"name": "x", "container": "mp4", "codec": "h264"}, "frame": 12}
        _, came = self.server.ask(f"{self.address}/trial", order)
        self.assertEqual((came["pictures"], came["width"], came["height"]), (30, 96, 64))
        self.assertGreater(came["psnr"], 30)
        gif = {"recipe": {"name": "x", "container": "gif", "codec": "gif"}}
        _, table = self.server.ask(f"{self.address}/gif-table", gif)
        self.assertEqual(table["rows"][0]["pictures"], 30)
        self.edit(items=[{"kind": "clip", "file": "lost.mp4"}])
        status, told = self.server.ask(f"{self.address}/trial", order)
        self.assertEqual((status, "lost.mp4 of the reel is missing" in told["error"]), (422, True), told)

    def test_pictures_tell_their_findings_once_for_each_reel(self):
        blinks = [
            {"kind": "title", "text": "", "frames": 2, "background": colour} for colour in ("#000000", "#ffffff") * 24
        ]
        self.edit(items=blinks)
        _, told = self.server.ask(f"{self.address}/looks")
        self.assertEqual([one["name"] for one in told["findings"]], ["flashes"])
        self.assertEqual(self.server.ask(f"{self.address}/looks")[1], told)
        self.edit(items=[blinks[0] | {"frames": 1501}])
        _, told = self.server.ask(f"{self.address}/looks")
        self.assertEqual((told["findings"], "1,501" in told["left_out"]), ([], True), told)
        self.edit(items=[])
        self.assertEqual(self.server.ask(f"{self.address}/looks")[1]["findings"], [])
        self.edit(items=blinks[:1])
        self.assertEqual(self.server.ask(f"{self.address}/looks")[1]["findings"], [])

    def test_cuts_are_laid_to_beats_that_were_found(self):
        pulse = "aevalsrc=0.8*sin(440*t)*exp(-30*mod(t\\,0.5)):d=8:s=44100"
        _, found = self.bring(self.made("pulse.flac", "-f", "lavfi", "-i", pulse))
        titles = [{"kind": "title", "text": "Tern Point", "frames": frames} for frames in (40, 50, 70)]
        self.edit(items=titles)
        status, told = self.server.ask(f"{self.address}/markers", {"what": "beats"})
        self.assertEqual((status, "no sound yet" in told["error"]), (422, True))
        self.edit(sound=found["sounds"])
        _, reel = self.server.ask(f"{self.address}/markers", {"what": "beats"})
        beats = [marker["frame"] for marker in reel["document"]["markers"]]
        self.assertTrue(all(min(abs(beat - 12 * n) for beat in beats) <= 1 for n in range(1, 13)), beats)
        for what, count in (("twice", 2 * len(beats) - 1), ("half", len(beats))):
            _, reel = self.server.ask(f"{self.address}/markers", {"what": what})
            self.assertEqual(len(reel["document"]["markers"]), count)
        _, reel = self.server.ask(f"{self.address}/markers", {"what": "cuts"})
        self.assertLessEqual(set(reel["starts"][1:]), set(beats))
        self.assertEqual(reel["undo"], "the cuts at markers")


if __name__ == "__main__":
    unittest.main()
