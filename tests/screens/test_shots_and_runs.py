"""New shots, and runs that fail, stop and go on."""

import signal
import time
import unittest

import trimesh
from playwright.sync_api import expect

from tests.helpers import HEADER, Server
from tests.screens.base import FRAMES, ScreenTest


class NewShotTest(ScreenTest):
    def setUp(self):
        super().setUp()
        self.open("/")
        self.press("New shot")

    def upload(self, *names):
        self.page.get_by_test_id("upload").set_input_files([self.home.parent / name for name in names])

    def test_from_a_demo_source(self):
        self.press("Spiral shell")
        self.page.wait_for_url("**/shots/shell-growth-once-round-2")
        self.see(self.page.get_by_test_id("viewfinder").locator("img"))

    def test_from_an_uploaded_obj_with_its_material(self):
        folder = self.home.parent
        (folder / "roof.mtl").write_text("newmtl slate\nKd 0.3 0.4 0.5\n")
        (folder / "roof.obj").write_text(
            "mtllib roof.mtl\nusemtl slate\nv 0 0 0\nv 2 0 0\nv 1 2 0\nv 1 1 1.5\nf 1 2 4\nf 2 3 4\nf 3 1 4\nf 1 3 2\n"
        )
        self.upload("roof.obj", "roof.mtl")
        self.page.wait_for_url("**/shots/roof-once-round")
        self.see(self.page.get_by_test_id("viewfinder").locator("img"))
        self.see(self.page.get_by_test_id("brief"), "Film roof.obj for 5 s at 24 fps")
        self.see(self.page.get_by_test_id("capture"), "Capture 120 frames")

    def test_what_cannot_be_shown_is_a_sentence(self):
        folder = self.home.parent
        (folder / "cut.stl").write_bytes(trimesh.creation.icosphere(2).export(file_type="stl")[:900])
        (folder / "empty.obj").write_text("")
        alert = self.page.get_by_role("dialog").get_by_role("alert")
        for name, words in (("cut.stl", "is cut short"), ("empty.obj", "empty.obj is empty")):
            self.upload(name)
            self.see(alert, words)
        self.page.get_by_label("or a path on this machine").fill("/nowhere/hull.stl")
        self.press("Create shot")
        self.see(alert, "there is no file /nowhere/hull.stl")
        self.press("Cancel")
        self.assertEqual(self.page.get_by_role("dialog").count(), 0)

    def test_a_shot_is_taken_off_the_list(self):
        self.press("Cancel")
        card = self.page.get_by_test_id("shot").filter(has_text="Basin floor, half a turn")
        self.see(card)
        self.press("Hide Basin floor")
        card.wait_for(state="detached")
        self.assertFalse((self.home / "shots/basin-floor.json").exists())
        self.press("Undo")
        self.see(card)
        # It is found again when the message is gone.
        self.press("Hide Basin floor")
        card.wait_for(state="detached")
        self.open("/")
        self.page.get_by_text("1 hidden shot").click()
        self.press("Show again: Basin floor, half a turn")
        self.see(card)
        self.page.get_by_test_id("hidden-shots").wait_for(state="detached")
        self.press("Duplicate Basin floor, half a turn")
        self.see(self.page.get_by_test_id("shot").filter(has_text="Basin floor, half a turn 2"))
        self.assertTrue((self.home / "shots/basin-floor.json").exists())


class RunsTest(ScreenTest):
    def trial(self, name, body):
        """A shot of a model that looks at the time, already on the Bench."""
        file = self.home / f"sources/{name}.py"
        file.write_text(HEADER + f"import time\n@model\ndef f(instant=None):\n{body}    return pv.Cone()\n")
        _, shot = self.server.ask("/api/shots", {"path": str(file)})
        patch = {"clock": {"frames": FRAMES, "seconds": None}, "picture": {"width": 64, "height": 64, "samples": 1}}
        self.server.ask(f"/api/shots/{shot['id']}", {"patch": patch}, "PATCH")
        self.open_bench(shot["id"])

    def test_a_failed_frame_is_listed_and_the_rest_go_on(self):
        page = self.page
        self.trial("fails", "    if instant.frame == 7:\n        raise ValueError('too deep')\n")
        self.press(f"Capture {FRAMES} frames")
        self.see(page.get_by_test_id("run-state"), "done, some frames failed", seconds=120)
        self.see(page.get_by_test_id("failures"), "✕ Frame 7: fails.py, line 10: ValueError: too deep")
        self.assertTrue(page.get_by_role("button", name="MP4 video").is_disabled())
        page.get_by_test_id("cells").get_by_title("frame 3: made").click()
        self.until("document.querySelector('[data-testid=frame-picture]')?.naturalWidth === 64")

    def test_a_run_is_stopped_and_resumed(self):
        page = self.page
        self.open("/runs")
        self.trial("slow", "    time.sleep(0.4)\n")
        self.press(f"Capture {FRAMES} frames")
        self.see(page.get_by_test_id("done"), r"^[1-9]\d* of")
        self.see(page.get_by_test_id("under-way"))
        self.press("Stop")
        self.see(page.get_by_test_id("run-state"), "^stopped$")
        page.reload()
        self.press("Resume")
        self.see(page.get_by_test_id("run-state"), "^done$", seconds=120)
        page.get_by_role("link", name="Runs").click()
        self.see(page.get_by_role("link", name="Slow, once round"), f"{FRAMES} / {FRAMES}")
        page.get_by_role("link", name="Slow, once round").click()
        page.get_by_role("link", name="Open shot").click()
        self.press(f"Capture {FRAMES} frames")
        self.see(page.get_by_test_id("run-state"), "^done$")
        self.see(page.get_by_label("Progress").locator("dl"), f"made0reused{FRAMES}")

    def test_news_that_comes_before_the_first_answer_is_not_lost(self):
        page, held = self.page, []
        _, run = self.server.ask("/api/shots/mooring-buoy/runs", {})
        self.server.wait_for_run(run["id"], lambda told: told["state"] == "done")

        def gate(route):
            if held:
                route.continue_()
            else:
                held.append((route, route.fetch()))

        page.route(f"**/api/runs/{run['id']}", gate)
        self.open(f"/runs/{run['id']}")
        self.see(page.get_by_text("Opening the run"))
        listen = "() => { heard = []; new BroadcastChannel('vexel-news').onmessage = (one) => heard.push(one.data) }"
        page.evaluate(listen)
        end = time.monotonic() + 120
        while not held:
            # The first answer is of before the file is ordered.
            self.assertLess(time.monotonic(), end)
            page.wait_for_timeout(20)
        _, output = self.server.ask(f"/api/runs/{run['id']}/outputs", {"recipe": "h264"})
        while self.server.ask(f"/api/outputs/{output['id']}")[1]["state"] != "done":
            self.assertLess(time.monotonic(), end)
            page.wait_for_timeout(50)
        self.until("() => heard.some((one) => one.open || one.news?.includes('done'))")
        route, answer = held[0]
        self.assertEqual(answer.json()["outputs"], [], "it is of before")
        route.fulfill(response=answer)
        self.see(page.get_by_role("link", name="Play"), seconds=30)

    def test_a_page_whose_shared_stream_does_not_start_asks_by_itself(self):
        self.page.add_init_script("window.SharedWorker = class { port = { close() {} } }")
        self.open("/")
        self.see(self.page.get_by_role("heading", name="Shots"))
        patch = {"patch": {"title": "Told without a stream"}, "what": "the title"}
        self.assertEqual(self.server.ask("/api/shots/tide-week", patch, "PATCH")[0], 200)
        self.see(self.page.get_by_text("Told without a stream").first)


class ServerLostTest(ScreenTest):
    def test_a_page_shows_that_the_server_is_gone_and_recovers(self):
        banner = self.page.get_by_test_id("server-lost")
        self.open("/runs")
        self.see(self.page.get_by_role("heading", name="Runs"))
        self.server.process.send_signal(signal.SIGSTOP)
        self.see(banner)
        self.server.process.send_signal(signal.SIGCONT)
        expect(banner).to_have_count(0)
        self.server.kill()
        self.see(banner)
        self.page.get_by_role("link", name="Dispatch").click()
        self.see(banner)
        port = int(self.server.base.rsplit(":", 1)[1])
        state = str(self.home.parent / "state")
        server = Server(self, self.home, self.SERVE, port=port, XDG_STATE_HOME=state)
        expect(banner).to_have_count(0)
        patch = {"patch": {"title": "After the pause"}, "what": "the title"}
        self.assertEqual(server.ask("/api/shots/tide-week", patch, "PATCH")[0], 200)
        self.page.get_by_role("link", name="Shots").click()
        self.see(self.page.get_by_text("After the pause").first)


if __name__ == "__main__":
    unittest.main()
