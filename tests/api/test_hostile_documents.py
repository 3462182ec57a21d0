"""Documents that no person would write: each is refused, or is a row with its reason; no list is lost to one."""

import io
import json
import os
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from unittest import mock

from tests.api.test_api import HOST, OWN, ApiTest
from vexel.output.reel.open_reel import open_reel

LISTS = ("shots", "reels", "runs", "outputs", "recipes", "consent")
LONG = "x" * 300
ITEMS = (
    {"kind": "take", "take": "run:" + "9" * 20}, {"kind": "take", "take": "run:\u0663"}, {"kind": "take", "take": LONG},
    {"kind": "shot", "shot": LONG}, {"kind": "clip", "file": LONG}, {"kind": "stills", "file": LONG, "rate": "24"},
    {"kind": "stills", "file": "%s%n%d%d", "rate": "24"}, {"kind": "stills", "file": "%99999999999d", "rate": "24"},
    {"kind": "reel", "reel": LONG}, {"kind": "reel", "reel": "loop"}, {"kind": "clip", "file": "/dev/zero"},
    {"kind": "title", "text": "x", "image": LONG, "seconds": 1}, {"kind": "take", "take": "~nobodyhere/x"},
    {"kind": "stills", "file": "loop/x.png", "rate": "24"}, {"kind": "clip", "file": "\ud800"},
    {"kind": "stills", "file": "/dev/zero", "rate": "24"}, {"kind": "clip", "file": "a", "first": 2**63},
)  # fmt: skip
REELS = (
    {"sound": [{"file": LONG}]}, {"sound": [{"file": "/dev/zero"}]}, {"mark": {"file": LONG}}, {"frames": 1_000_000},
    {"rate": "1/" + "9" * 400}, {"rate": "1/999999999999999999999"}, {"markers": [{"frame": 10**18, "name": "x"}]},
)  # fmt: skip
SHOTS = (
    {"clock": {"speed": 1e-308}}, {"clock": {"speed": 1e308}}, {"clock": {"seconds": 1e300}},
    {"clock": {"rate": "1/" + "9" * 400}}, {"clock": {"like": LONG}}, {"clock": {"like": "/dev/zero"}},
    {"source": {"file": LONG}}, {"source": {"file": "/dev/zero"}}, {"source": {"file": "loop"}},
    {"source": {"kind": "stills", "file": "loop/x1.png", "rate": "24"}}, {"source": {"file": "\ud800x"}},
    {"source": {"kind": "stills", "file": "%s%n%d%d", "rate": "24"}}, {"picture": {"background": f"image:{LONG}"}},
    {"picture": {"background": "image:/dev/zero"}}, {"camera": {"lens": {"focal_mm": 1e-308}}},
    {"camera": {"rig": {"turns": 1e308}}}, {"lanes": [{"drive": "dial:x", "keys": [[0, 1e308], [1, -1e308]]}]},
)  # fmt: skip


class HostileDocumentsTest(ApiTest):
    def setUp(self):
        super().setUp()
        self.enter()
        for part in ("shots", "reels"):
            (self.home / part / "loop").symlink_to("loop")

    def asked(self, *addresses):
        """No address breaks down."""
        for address in addresses:
            answer = self.client.get(f"/api/{address}", headers=HOST)
            self.assertLess(answer.status_code, 500, (address, answer.json))

    def test_reels(self):
        reel = self.client.post("/api/reels", json={"title": "R"}, headers=OWN).json["id"]
        gap = {"kind": "gap", "frames": 5}
        for patch in (*({"items": [item]} for item in ITEMS), *({"items": [gap]} | more for more in REELS)):
            with self.subTest(json.dumps(patch)[:60]):
                answer = self.client.patch(f"/api/reels/{reel}", json={"patch": patch, "what": "x"}, headers=OWN)
                self.assertLess(answer.status_code, 500, answer.json)
                within = ("", "/picture?frame=0", "/looks", "/list?ending=otio", "/list?ending=edl", "/list?ending=csv")
                self.asked(*(f"reels/{reel}{part}" for part in within), *LISTS)

    def test_reels_within_reels_have_limits_and_hold_up_no_other(self):
        """Three documents that name the next 50 times make 125,000 items: they held all reels for 65 s."""
        reels = self.home / "reels"
        for name, inner in (("a", "b"), ("b", "c"), ("c", "")):
            item = {"kind": "reel", "reel": f"{inner}.json"} if inner else {"kind": "gap", "frames": 1}
            (reels / f"{name}.json").write_text(json.dumps({"title": name, "items": [item] * 50}))
        for n in range(12):
            item = {"kind": "reel", "reel": f"deep{n + 1}.json"}
            (reels / f"deep{n}.json").write_text(json.dumps({"title": f"deep{n}", "items": [item]}))
        (reels / "deep12.json").write_text(json.dumps({"title": "deep12", "items": [{"kind": "gap", "frames": 1}]}))
        lines = {line["id"]: line for line in self.client.get("/api/reels", headers=HOST).json["reels"]}
        self.assertIn("a holds more than 5,000 items with those of the reels within it", lines["a"]["error"])
        self.assertEqual((lines["b"]["error"], lines["b"]["frames"]), ("", 2500))
        self.assertIn("more than 8 reels, one in another", lines["deep0"]["error"])
        self.assertEqual((lines["deep6"]["error"], lines["deep6"]["frames"]), ("", 1))
        begun, go_on = threading.Event(), threading.Event()

        def slow(reel, *rest, **more):
            if reel.title == "b":
                begun.set()
                self.assertTrue(go_on.wait(60))
            return open_reel(reel, *rest, **more)

        (reels / "b.json").write_text((reels / "b.json").read_text() + " \n")
        (reels / "c.json").touch()
        clients = [self.guarded(), self.guarded()]
        with mock.patch("vexel.web.jobs.reel_service.open_reel", slow), ThreadPoolExecutor(2) as together:
            waiting = together.submit(clients[0].get, "/api/reels/b", headers=HOST)
            self.assertTrue(begun.wait(60))
            other = clients[1].get("/api/reels/c", headers=HOST)
            self.assertEqual((other.status_code, waiting.done()), (200, False))
            go_on.set()
            self.assertEqual(waiting.result().status_code, 200)

    def test_shots_are_refused_before_they_are_saved(self):
        file = self.home / "shots/mooring-buoy.json"
        before = file.read_bytes()
        for patch in SHOTS:
            with self.subTest(json.dumps(patch)[:60]):
                answer = self.client.patch("/api/shots/mooring-buoy", json={"patch": patch, "what": "x"}, headers=OWN)
                self.assertLess(answer.status_code, 500, answer.json)
                if answer.status_code != 200:
                    self.assertEqual(file.read_bytes(), before)
                self.asked(*(f"shots/mooring-buoy{part}" for part in ("", "/source", "/glance", "/code")), *LISTS)
                file.write_bytes(before)

    def test_files_that_are_no_documents_are_rows_with_their_reason(self):
        (self.home / "recipes").mkdir()
        for part in ("shots", "reels", "recipes"):
            folder = self.home / part
            (folder / "folder.json").mkdir()
            (folder / "circle.json").symlink_to("circle.json")
            os.mkfifo(folder / "pipe.json")
            (folder / "bytes.json").write_bytes(b"\xff\xfe{")
            (folder / "deep.json").write_text("[" * 100_000)
            (folder / "large.json").write_bytes(b" " * 17_000_000)
            with open(os.fsencode(folder) + b"/\xff.json", "wb") as odd:
                odd.write(b"{}")
        self.asked(*LISTS)
        for part in ("shots", "reels"):
            lines = {line["id"]: line for line in self.client.get(f"/api/{part}", headers=HOST).json[part]}
            for name, words in (
                ("folder", "is not a file"), ("circle", "symbolic links"), ("pipe", "is not a file"),
                ("bytes", "bytes.json"), ("deep", "deep.json"), ("large", "has 17 MB, more than the 16 MB"),
                ("", "rename it"),
            ):  # fmt: skip
                self.assertIn(words, lines[name]["error"], (part, name))
                if name:
                    self.asked(f"{part}/{name}", f"{part}/{name}/text")
                    removed = self.client.delete(f"/api/{part}/{name}", headers=OWN)
                    self.assertEqual(removed.status_code, 200, removed.json)
                    self.assertNotIn(name, [line["id"] for line in removed.json[part]])
        text = self.client.get("/api/shots/tide-week/text", headers=HOST)
        self.assertEqual(text.data, (self.home / "shots/tide-week.json").read_bytes())
        self.assertTrue(text.content_type.startswith("text/plain"))

    def test_addresses_and_bodies(self):
        for address in (f"shots/{LONG}", f"reels/{LONG}", "shots/%ff", "runs/" + "9" * 30, f"removed/{LONG}/restore"):
            for ask in (self.client.get, self.client.post, self.client.delete):
                answer = ask(f"/api/{address}", headers=OWN)
                self.assertIn(answer.status_code, (404, 405, 422), address)
        for address in (f"/{LONG}", f"/assets/{LONG}"):
            self.assertEqual(self.client.get(address, headers=HOST).status_code, 404, address)
        for body, words in ((b"[" * 100_000, "nested too deeply"), (b" " * 16_000_001, "more than the 16 MB")):
            answer = self.client.patch(
                "/api/shots/tide-week", input_stream=io.BytesIO(body), content_length=len(body),
                content_type="application/json", headers=OWN,
            )  # fmt: skip
            self.assertIn(words, answer.json["error"])


del ApiTest

if __name__ == "__main__":
    unittest.main()
