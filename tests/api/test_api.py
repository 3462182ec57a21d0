"""The server's operations, through Flask's own test client."""

import io
import os
import shutil
import subprocess
import sys
import unittest
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import cv2
import numpy as np
import trimesh
from pydantic import BaseModel

from tests.helpers import HEADER, demo_home, scratch
from vexel.store.consent import Consent
from vexel.store.project import Project
from vexel.web.app import create_app
from vexel.web.guard import Guard
from vexel.web.openapi import document as openapi_document
from vexel.web.services import Services
from vexel.web.spec_details import EXAMPLES

PORT = 8137
HOST = {"Host": f"127.0.0.1:{PORT}"}
OWN = HOST | {"Origin": f"http://127.0.0.1:{PORT}"}


class ApiTest(unittest.TestCase):
    def setUp(self):
        self.home = scratch(self) / "home"
        shutil.copytree(demo_home(), self.home)
        self.services = Services(Project(self.home), 1, Consent(self.home, trusted=True))
        self.addCleanup(self.services.close)
        self.guard = Guard("secret", PORT)
        self.client = create_app(self.services, self.guard).test_client()

    def enter(self):
        self.client.set_cookie(self.guard.cookie, "secret", domain="127.0.0.1")

    def guarded(self):
        """Another client that is let in."""
        client = self.client.application.test_client()
        client.set_cookie(self.guard.cookie, "secret", domain="127.0.0.1")
        return client

    def upload(self, *files):
        data = {"files": [(io.BytesIO(content), name) for name, content in files]}
        return self.client.post("/api/sources", data=data, headers=OWN)


class GuardTest(ApiTest):
    def test_refuses_strangers(self):
        self.assertEqual(self.client.get("/api/shots", headers=HOST).status_code, 403, "no session")
        self.enter()
        self.assertEqual(self.client.get("/api/shots", headers=HOST).status_code, 200)
        for headers in (
            {"Host": "evil.example"},
            {"Host": f"127.0.0.1:{PORT + 1}"},
            HOST | {"Origin": "http://evil.example"},
        ):
            self.assertEqual(self.client.get("/api/shots", headers=headers).status_code, 403, headers)
        for headers in (HOST, HOST | {"Origin": "null"}, HOST | {"Origin": f"http://127.0.0.1:{PORT + 1}"}):
            for method in ("post", "patch", "delete"):
                answer = getattr(self.client, method)("/api/shots/shell-growth", headers=headers)
                self.assertEqual(answer.status_code, 403, headers)
        self.assertIn("shell-growth", self.services.project.shots.ids())

    def test_an_empty_or_strange_cookie_never_passes(self):
        for secret in ("", "secret"):
            guard = Guard(secret, PORT)
            client = create_app(self.services, guard).test_client()
            for cookie in ("", "sécret", "secre"):
                client.set_cookie(guard.cookie, cookie, domain="127.0.0.1")
                self.assertEqual(client.get("/api/shots", headers=HOST).status_code, 403, (secret, cookie))

    def test_start_address_works_once(self):
        token = self.guard.start_url.split("token=")[1]
        for wrong in ("wrong", "w%C3%B6rng", "%ff", ""):
            self.assertEqual(self.client.get(f"/?token={wrong}", headers=HOST).status_code, 403)
        entered = self.client.get(f"/?token={token}", headers=HOST)
        self.assertEqual(entered.status_code, 303)
        cookie = entered.headers["Set-Cookie"]
        self.assertTrue("HttpOnly" in cookie and "SameSite=Strict" in cookie, cookie)
        self.client.delete_cookie(self.guard.cookie, domain="127.0.0.1")
        self.assertEqual(self.client.get(f"/?token={token}", headers=HOST).status_code, 403)

    def test_pages_carry_a_policy_and_no_cors(self):
        headers = self.client.get("/", headers=HOST).headers
        self.assertIn("default-src 'self'", headers["Content-Security-Policy"])
        self.assertNotIn("Access-Control-Allow-Origin", headers)


class AnswersTest(ApiTest):
    """What was answered with a breakdown once, and is a sentence now."""

    def setUp(self):
        super().setUp()
        self.enter()

    def refused(self, status, words, method, path, **body):
        answer = getattr(self.client, method)(path, headers=OWN, **body)
        self.assertEqual(answer.status_code, status, (path, answer.data[:200]))
        self.assertIn(words, answer.json["error"])

    def test_names_and_numbers_that_cannot_be(self):
        for name in ("x" * 300, "a%00b", ".hidden", "a%2Fb"):
            self.refused(404, "there is no", "get", f"/api/shots/{name}")
        for number in (2**63, 10**30):
            for path in (f"runs/{number}", f"runs/{number}/frames", f"outputs/{number}"):
                self.refused(404, "there is no operation", "get", f"/api/{path}")
        for path in ("", "/frames", "/states", "/frames/0.png", "/frames.zip", "/removal"):
            self.refused(404, "run 77", "get", f"/api/runs/77{path}")
        for path in ("stop", "resume", "check", "outputs"):
            body = {"json": {"recipe": "h264"}} if path == "outputs" else {}
            self.refused(404, "there is no run 77", "post", f"/api/runs/77/{path}", **body)
        self.refused(404, "there is no operation", "post", "/api/nothing")

    def test_bodies_that_are_none(self):
        self.refused(422, "its body must be JSON", "patch", "/api/shots/tide-week", data={"patch": "1"})
        self.refused(422, "holds no file", "post", "/api/sources", json={})
        for text in ("9" * 100, "1e400", "-1e400"):
            body = {"json": {"term": "seconds", "text": text}}
            answer = self.client.post("/api/shots/tide-week/terms", headers=OWN, **body)
            self.assertEqual(answer.status_code, 422, text)
        before = self.client.get("/api/shots/tide-week", headers=HOST).json["document"]
        for patch in ({"title": "a\0b"}, {"source": {"file": "a\0.py"}}):
            body = {"json": {"patch": patch, "what": ""}}
            self.refused(422, "a character of code 0", "patch", "/api/shots/tide-week", **body)
        self.assertEqual(self.client.get("/api/shots/tide-week", headers=HOST).json["document"], before)

    def test_archives_that_are_traps_or_damaged(self):
        def archive(*names):
            held = io.BytesIO()
            with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as packed:
                for name in names:
                    packed.writestr(name, "<p>page</p>" * 99)
            return held.getvalue()

        whole = archive("index.html")
        damaged = whole[:45] + b"\xff" * 9 + whole[54:]
        for data, words in (
            (archive("."), "which is no file"),
            (archive("../index.html"), "leaves the folder"),
            (archive("index.html", "index.html/more"), "damaged"),
            (damaged, "damaged"),
            (whole[:-30], "damaged"),
        ):
            answer = self.upload(("page.zip", data))
            self.assertIn(answer.status_code, (422,), words)
            self.assertTrue(answer.json["error"], words)
        self.assertEqual(self.upload(("page.zip", whole)).status_code, 200)

    def test_frames_that_are_handed_over_without_a_title(self):
        guard = Guard("secret", PORT, "key")
        client = create_app(self.services, guard).test_client()
        picture = cv2.imencode(".png", np.zeros((32, 32, 3), np.uint8))[1].tobytes()
        answer = client.post("/push/key/quay-walk?rate=24&title=%00", data=picture, headers=HOST)
        self.assertEqual(answer.status_code, 200, answer.data)
        self.assertEqual(self.services.project.shots.shot("quay-walk").title, "quay-walk")

    def test_of_two_who_remove_a_shot_one_is_told_that_it_is_gone(self):
        clients = [self.guarded() for _ in range(4)]
        with ThreadPoolExecutor(4) as together:
            answers = list(together.map(lambda one: one.delete("/api/shots/quay", headers=OWN).status_code, clients))
        self.assertEqual(sorted(answers), [200, 404, 404, 404])

    def test_new_shots_of_one_title_at_once_are_all_there(self):
        clients = [self.guarded() for _ in range(12)]
        body = {"demo": "mooring-buoy"}
        with ThreadPoolExecutor(12) as together:
            made = list(together.map(lambda one: one.post("/api/shots", json=body, headers=OWN).json["id"], clients))
        self.assertEqual(len(set(made)), 12)
        self.assertLessEqual(set(made), set(self.services.project.shots.ids()))


class ShotsTest(ApiTest):
    def setUp(self):
        super().setUp()
        self.enter()

    def patch(self, patch):
        answer = self.client.patch("/api/shots/shell-growth", json={"patch": patch, "what": "x"}, headers=OWN)
        return answer.status_code, answer.json

    def test_an_edit_answers_with_the_new_timing(self):
        status, shot = self.patch({"clock": {"frames": 361, "seconds": None}})
        self.assertEqual((status, shot["timing"]["frames"], shot["timing"]["given"]), (200, 361, "frames"))
        undone = self.client.post("/api/shots/shell-growth/undo", headers=OWN).json
        self.assertEqual((undone["timing"]["frames"], undone["redo"]), (360, "x"))

    def test_a_wrong_edit_is_a_sentence(self):
        for patch, words in (
            ({"clock": {"rate": "abc"}}, "'abc' is not a frame rate"),
            ({"clock": {"seconds": 1e9}}, "more than the 1,000,000"),
            ({"camera": {"rig": {"trns": 2}}}, "did you mean turns"),
        ):
            status, told = self.patch(patch)
            self.assertEqual(status, 422)
            self.assertIn(words, told["error"])

    def test_a_term_brings_the_others_along_and_an_instant_tells_every_clock(self):
        body = {"term": "degrees", "text": "0.5°"}
        shot = self.client.post("/api/shots/shell-growth/terms", json=body, headers=OWN).json
        terms = {term["name"]: term for term in shot["terms"]}
        self.assertEqual((terms["frames"]["value"], terms["turn_seconds"]["shown"]), ("720", "30 s per turn"))
        self.assertEqual(shot["undo"], "the degrees per frame")
        self.patch({"clock": {"first": 100, "every": 3, "hold_start": 24, "play": "rate"}})
        where = self.client.get("/api/shots/shell-growth/instants/74", headers=HOST).json
        self.assertEqual((where["motion_frame"], where["timecode"]), (250, "00:00:03:02"))
        self.assertAlmostEqual(where["phase"], 250 / 720)
        curve = self.client.get("/api/shots/shell-growth", headers=HOST).json["curves"][0]["values"]
        self.assertEqual(curve[:9], [curve[0]] * 9, "a lane stands still while the first frame is held")
        body = {"term": "frames", "text": "many"}
        refused = self.client.post("/api/shots/shell-growth/terms", json=body, headers=OWN)
        self.assertIn("'many' is not a length", refused.json["error"])

    def test_a_shot_takes_the_clock_of_another_now_and_later(self):
        def clock_of(shot):
            return self.client.get(f"/api/shots/{shot}", headers=HOST).json["document"]["clock"]

        self.client.patch(
            "/api/shots/mooring-buoy", json={"patch": {"clock": {"like": "shell-growth.json"}}}, headers=OWN
        )
        self.assertEqual((clock_of("mooring-buoy")["rate"], clock_of("mooring-buoy")["seconds"]), ("24", 15))
        self.client.post("/api/shots/shell-growth/terms", json={"term": "frames", "text": "77"}, headers=OWN)
        self.assertEqual(clock_of("mooring-buoy")["frames"], 77)
        kept = self.client.get("/api/shots/mooring-buoy", headers=HOST).json
        self.assertEqual((kept["undo"], kept["findings"]), ("the clock, as in Shell growth, once round", []))

    def test_a_motion_is_retimed_and_told(self):
        answer = self.client.post(
            "/api/shots/tide-week/terms", json={"term": "retimed", "text": "0:30"}, headers=OWN
        ).json
        self.assertEqual((answer["undo"], answer["timing"]["seconds_label"]), ("the retiming", "30 s"))
        self.assertTrue(any("first and last stay" in reason for reason in answer["timing"]["reasons"]))

    def test_a_stretch_of_the_strip_and_a_gesture(self):
        where = "/api/shots/shell-growth"
        stretch = {"first": 100, "last": 120, "unit": "seconds", "marks": 5}
        told = self.client.post(f"{where}/strip", json=stretch, headers=OWN).json
        self.assertEqual(told["curves"][0]["frames"], list(range(100, 121)))
        self.assertEqual([tick["label"] for tick in told["ticks"]], ["4.2 s", "4.4 s", "4.6 s", "4.8 s", "5 s"])
        other = {"lanes": [{"drive": "dial:whorls", "keys": [[0, 2]]}]}
        told = self.client.post(f"{where}/strip", json={"patch": other, "last": 5}, headers=OWN).json
        self.assertEqual(told["curves"][0]["values"], [2] * 6)
        course = [[n, 1 + abs(n - 180) / 90] for n in range(360)]
        body = {"tracks": [{"drive": "dial:whorls", "samples": course}]}
        kept = self.client.post(f"{where}/played-in", json=body, headers=OWN).json
        (lane,) = kept["document"]["lanes"]
        self.assertEqual((lane["keys"], kept["undo"]), ([[0, 3], [0.5, 1], [0.997222222, 2.98889]], "recording whorls"))
        wrong = self.client.post(
            f"{where}/played-in", json={"tracks": [body["tracks"][0] | {"samples": []}]}, headers=OWN
        )
        self.assertIn("nothing was recorded", wrong.json["error"])

    def test_a_damaged_document_spoils_no_other(self):
        (self.home / "shots/shell-growth.json").write_text('{"title": 3}')
        lines = self.client.get("/api/shots", headers=HOST).json["shots"]
        self.assertEqual([line["id"] for line in lines if line["error"]], ["shell-growth"])

    def test_viewfinder_shows_a_drag_without_saving_it(self):
        def look(**patch):
            order = {"frame": 3, "width": 80, "height": 80, "patch": patch}
            return self.client.post("/api/shots/mooring-buoy/view", json=order, headers=OWN)

        still = look()
        self.assertEqual((still.status_code, still.data[:4]), (200, b"\x89PNG"))
        turned = look(camera={"rig": {"start_deg": 90}})
        self.assertNotEqual(turned.data, still.data)
        self.assertEqual(self.client.get("/api/shots/mooring-buoy", headers=HOST).json["revision"], 0)
        wrong = look(camera={"rig": {"fill": 0}})
        self.assertIn("camera.rig.fill", wrong.json["error"])

    def test_an_upload_becomes_a_shot(self):
        place = self.upload(("ring.stl", trimesh.creation.torus(2, 0.5).export(file_type="stl"))).json
        shot = self.client.post("/api/shots", json={"path": place["path"]}, headers=OWN).json
        self.assertEqual((shot["document"]["title"], shot["timing"]["frames"]), ("Ring, once round", 120))
        self.assertEqual(shot["document"]["source"]["file"], "../sources/ring/ring.stl")

    def test_many_pictures_become_one_shot_when_their_rate_is_said(self):
        pictures = [cv2.imencode(".png", np.full((18, 32, 3), n, np.uint8))[1].tobytes() for n in (10, 20, 30)]
        # A name may say anything: what a file is shows in its content.
        names = ("tern.003.png", "tern.001.png", "tern.002.png")
        brought = self.upload(*zip(names, pictures, strict=True)).json
        self.assertEqual((brought["kind"], brought["about"][3]), ("stills", {"name": "pictures", "value": "3"}))
        refused = self.client.post("/api/shots", json={"path": brought["path"]}, headers=OWN)
        self.assertIn("is part of a sequence without a rate: give one, such as 24", refused.json["error"])
        shot = self.client.post("/api/shots", json={"path": brought["path"], "rate": "29.97"}, headers=OWN).json
        self.assertEqual((shot["timing"]["frames"], shot["timing"]["rate"]), (3, "30000/1001"))
        self.assertEqual([shot["document"]["picture"][side] for side in ("width", "height")], [32, 18])

    def test_the_kind_shows_in_the_content(self):
        movie = self.home / "sources/quay.mp4"
        for name, data, kind in (
            ("film.dat", movie.read_bytes(), "clip"),
            ("page.txt", b"<!doctype html><p>hello", "page"),
            ("sketch.py", b"from vexel.author import sketch\n@sketch\ndef f(size):\n    return '<svg/>'\n", "sketch"),
        ):
            self.assertEqual(self.upload((name, data)).json.get("kind"), kind, name)

    def test_code_is_read_and_written_within_the_project_alone(self):
        address = "/api/shots/tide-week/code"
        text = self.client.get(address, headers=HOST).json["text"]
        saved = self.client.put(address, json={"text": text + "\n# mine\n"}, headers=OWN).json
        self.assertTrue(saved["text"].endswith("# mine\n"))
        outside = scratch(self) / "mine.py"
        outside.write_text(text)
        shot = self.client.post("/api/shots", json={"path": str(outside)}, headers=OWN).json["id"]
        self.assertFalse(self.client.get(f"/api/shots/{shot}/code", headers=HOST).json["writable"])
        refused = self.client.put(f"/api/shots/{shot}/code", json={"text": "x = 1"}, headers=OWN)
        self.assertIn("is outside the project", refused.json["error"])
        self.assertEqual(outside.read_text(), text)
        told = self.client.get("/api/shots/mooring-buoy/code", headers=HOST).json["error"]
        self.assertIn("buoy.obj is not a text file", told)

    def test_an_upload_that_cannot_be_shown_leaves_nothing(self):
        before = sorted((self.home / "sources").iterdir())
        for files, words in (
            ([("a.obj", b"")], "a.obj is empty"),
            ([("a.exe", b"MZ")], "is not a source that Vexel can read"),
            ([("a.obj", b"v 0 0 0"), ("b.obj", b"v 0 0 0")], "one of the files must be the source"),
            ([("../../up.obj", b"")], "is not a usable file name"),
            ([("a/.x.obj", b"")], "is not a usable file name"),
            ([("one/a.obj", b"v 0 0 0"), ("one/a.obj", b"v 1 0 0")], "two of the files are named one/a.obj"),
            ([], "holds no file"),
        ):
            answer = self.upload(*files)
            self.assertIn(words, answer.json["error"])
        self.assertEqual(sorted((self.home / "sources").iterdir()), before)

    def test_files_out_of_folders_keep_their_places_and_names(self):
        self.enter()
        page = b"<img src='day/tide one.svg'><img src='night/tide one.svg'>"
        svg = b"<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'><rect width='%d' height='9'/></svg>"
        brought = self.upload(
            ("site/index.html", page), ("site/day/tide one.svg", svg % 3), ("site/night/tide one.svg", svg % 6)
        )
        folder = Path(brought.json["path"]).parent
        self.assertEqual(brought.json["kind"], "page")
        self.assertEqual((folder / "day/tide one.svg").read_bytes(), svg % 3)
        self.assertEqual((folder / "night/tide one.svg").read_bytes(), svg % 6)

    def test_uploads_of_one_name_at_once_are_all_kept(self):
        self.enter()
        obj = "v 0 0 0\nv 1 0 0\nv 0 {} 0\nf 1 2 3\n"
        clients = [self.guarded() for _ in range(6)]

        def bring(number):
            data = {"files": [(io.BytesIO(obj.format(number + 1).encode()), "sail.obj")]}
            return clients[number].post("/api/sources", data=data, headers=OWN)

        with ThreadPoolExecutor(6) as together:
            answers = list(together.map(bring, range(6)))
        self.assertEqual([answer.status_code for answer in answers], [200] * 6)
        texts = {Path(answer.json["path"]).read_text() for answer in answers}
        self.assertEqual(texts, {obj.format(number + 1) for number in range(6)})

    def test_code_that_is_wrong_becomes_a_shot_to_be_fixed(self):
        bad = (HEADER + "@model\ndef f():\n    return None\n").encode()
        path = self.upload(("a.py", bad)).json["path"]
        shot = self.client.post("/api/shots", json={"path": path}, headers=OWN).json
        address = f"/api/shots/{shot['id']}"
        source = self.client.get(f"{address}/source", headers=HOST)
        self.assertIn("f() returned None", source.json["error"])
        self.assertEqual((source.json["line"] > 0, source.json["limited"]), (True, False))
        refused = self.client.post(f"{address}/runs", json={}, headers=OWN)
        self.assertEqual(refused.status_code, 200, "it opens, so that each frame may say what is wrong with it")
        self.client.put(f"{address}/code", json={"text": "import vexel\ndef f(:\n"}, headers=OWN)
        refused = self.client.post(f"{address}/runs", json={}, headers=OWN)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("a.py, line 2: the code cannot be read", refused.json["error"])

    def test_a_plain_script_is_proposed_and_taken(self):
        text = "import numpy as np\n\ndef draw(t):\n    return np.full((8, 8, 3), t)\n"
        path = self.upload(("plain.py", text.encode())).json["path"]
        shot = self.client.post("/api/shots", json={"path": path}, headers=OWN).json
        address = f"/api/shots/{shot['id']}"
        proposal = self.client.get(f"{address}/code", headers=HOST).json["proposal"]
        self.assertEqual((proposal["mark"], proposal["file"]), ("sketch", "plain.py"))
        added = [line["text"] for line in proposal["lines"] if line["sign"] == "+"]
        self.assertIn("from vexel.author import sketch", added)
        self.assertEqual([line for line in proposal["lines"] if line["sign"] == "-"], [])
        taken = self.client.post(f"{address}/wrapped", headers=OWN).json
        self.assertEqual(taken["document"]["source"]["kind"], "sketch")
        self.assertEqual(self.client.get(f"{address}/view?width=32&height=32", headers=HOST).status_code, 200)
        self.assertIsNone(self.client.get(f"{address}/code", headers=HOST).json["proposal"])

        outside = self.home.parent / "own.py"
        outside.write_text(text)
        shot = self.client.post("/api/shots", json={"path": str(outside)}, headers=OWN).json
        taken = self.client.post(f"/api/shots/{shot['id']}/wrapped", headers=OWN).json
        self.assertEqual(taken["document"]["source"]["file"], str(self.home.parent / "own_vexel.py"))
        self.assertEqual(outside.read_text(), text, "a person's own file stays as it is")

    def test_a_proof_is_a_frame_that_a_capture_keeps(self):
        address = "/api/shots/mooring-buoy"
        patch = {"clock": {"frames": 3, "seconds": None}, "picture": {"width": 64, "height": 36}}
        self.client.patch(address, json={"patch": patch}, headers=OWN)
        self.assertEqual(self.client.get(f"{address}/left", headers=HOST).json, {"count": 3, "left": 3})
        made = self.client.post(f"{address}/proof", json={"frame": 1}, headers=OWN).json
        self.assertEqual((made["frame"], made["width"], made["samples"]), (1, 64, 4))
        self.assertEqual(made["name"], "mooring-buoy-once-round.shaded.0001.png")
        self.assertGreater(made["seconds"], 0)
        again = self.client.post(f"{address}/proof", json={"frame": 1}, headers=OWN).json
        self.assertEqual(again, made, "it is made once, and its time is kept")
        picture = self.client.get(f"/api/proofs/{made['picture']}", headers=HOST).data
        self.assertEqual(cv2.imdecode(np.frombuffer(picture, np.uint8), -1).shape[:2], (36, 64))
        self.assertEqual(self.client.get(f"{address}/left", headers=HOST).json["left"], 2)
        for wrong in ("nothing.png", f"{'0' * 64}.txt", "..%2f.session"):
            self.assertIn(self.client.get(f"/api/proofs/{wrong}", headers=HOST).status_code, (404, 405), wrong)
        self.assertEqual(self.client.post("/api/proof/stop", headers=OWN).status_code, 200)

    def test_shots_are_copied_taken_off_and_put_back(self):
        titles = [line["title"] for line in self.client.post("/api/shots/survey/copies", headers=OWN).json["shots"]]
        survey = next(title for title in titles if title.endswith(" 2"))
        self.assertIn(survey.removesuffix(" 2"), titles)
        lines = self.client.delete("/api/shots/survey", headers=OWN).json
        removed = lines["removed"]
        self.assertIn({"name": removed, "title": survey.removesuffix(" 2")}, lines["hidden"])
        grave = self.home / "shots/removed"
        (grave / "torn.2026-01-01T000000Z.json").write_text("{" * 5000)
        (grave / "linked.json").symlink_to("/etc/passwd")
        hidden = self.client.get("/api/shots", headers=HOST).json["hidden"]
        self.assertEqual([one["title"] for one in hidden], [survey.removesuffix(" 2"), "torn"])
        self.assertEqual(self.client.get("/api/shots/survey", headers=HOST).status_code, 404)
        self.client.post(f"/api/removed/{removed}/restore", headers=OWN)
        self.assertEqual(self.client.get("/api/shots/survey", headers=HOST).status_code, 200)
        self.assertNotIn(removed, str(self.client.get("/api/shots", headers=HOST).json["hidden"]))
        self.assertEqual(self.client.post(f"/api/removed/{removed}/restore", headers=OWN).status_code, 404)

    def test_the_api_is_described(self):
        told = self.client.get("/api/doc/openapi.json", headers=HOST).json
        paths, schemas = told["paths"], told["components"]["schemas"]
        self.assertIn("patch", paths["/api/shots/{shot_id}"])
        operations = [one for methods in paths.values() for one in methods.values()]
        self.assertEqual(len({one["operationId"] for one in operations}), len(operations))
        self.assertLessEqual({tag for one in operations for tag in one["tags"]}, {tag["name"] for tag in told["tags"]})
        for one in operations:
            self.assertTrue(one["summary"], one["operationId"])
        self.assertIn("text/event-stream", paths["/api/events"]["get"]["responses"]["200"]["content"])
        self.assertEqual(told["security"], [{"session": []}])
        bodies = {model.__name__: model for model in BaseModel.__subclasses__()}
        for name, example in EXAMPLES.items():
            self.assertEqual(schemas[name]["examples"], [example])
            bodies[name].model_validate(example)

    def test_a_client_is_generated_without_a_warning(self):
        """By openapi-python-client, from the registry."""
        folder = scratch(self)
        (folder / "openapi.json").write_text(openapi_document())
        words = ["generate", "--path", "openapi.json", "--output-path", "client", "--meta", "none", "--fail-on-warning"]
        bare = {"PATH": str(Path(sys.executable).parent)}
        done = subprocess.run(
            [sys.executable, "-m", "openapi_python_client", *words], cwd=folder, env=os.environ | bare,
            capture_output=True, text=True,
        )  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stdout[:2000] + done.stderr[-2000:])
        self.assertTrue(
            (folder / "client/api/shots/shots_edit_shot.py").is_file(), sorted((folder / "client/api/shots").glob("*"))
        )

    def test_what_is_not_there_is_404(self):
        self.assertEqual(self.client.get("/api/nothing", headers=HOST).status_code, 404)
        self.assertEqual(self.client.get("/api/runs/99", headers=HOST).status_code, 404)


if __name__ == "__main__":
    unittest.main()
