"""The queue of runs over HTTP: its order, pauses, limits, frames that are made again, and the command at the end."""

import json
import time
import unittest

from tests.helpers import Server, scratch, vexel, write_shot

FRAMES = 6
CODE = """import pathlib, time
@model
def cone(size=dial(1, low=0.5, high=2), instant=None):
    time.sleep(0.05)
    return pv.Cone(height=size)
"""
LANES = [{"drive": "dial:size", "keys": [[0, 1], [1, 2]]}]


class QueueTest(unittest.TestCase):
    def server(self, code=CODE, frames=FRAMES):
        self.home = scratch(self) / "home"
        (self.home / "shots").mkdir(parents=True)
        write_shot(self.home / "shots", code, frames=frames, lanes=LANES)
        server = Server(self, self.home)
        self.addCleanup(server.end)
        return server

    def ordered(self, server, **order):
        return server.ask("/api/shots/shot/runs", order)[1]["id"]

    def ended(self, server, run):
        return server.wait_for_run(run, lambda r: r["state"] not in ("queued", "running"))

    def test_queued_runs_are_put_in_another_order_and_a_pause_holds_them_all(self):
        server = self.server(CODE.replace("0.05", "0.3"), frames=20)
        first = self.ordered(server)
        server.wait_for_run(first, lambda r: r["made"] > 0)
        server.ask(f"/api/runs/{first}/pause", {})
        paused = server.wait_for_run(first, lambda r: (r["progress"] or {}).get("paused"))
        self.assertTrue(paused["paused"])
        others = [self.ordered(server, draft=True) for _ in range(3)]
        queue = server.ask("/api/queue")[1]
        self.assertEqual((queue["running"], queue["queued"], queue["paused"]), (first, others, True))
        wanted = [others[2], others[0]]
        self.assertEqual(server.ask("/api/queue", {"runs": [*wanted, 999]})[1]["queued"], [*wanted, others[1]])
        self.assertEqual(server.ask(f"/api/runs/{others[2]}")[1]["after"], first)
        made = server.ask(f"/api/runs/{first}")[1]["made"]
        time.sleep(1)
        self.assertEqual(server.ask(f"/api/runs/{first}")[1]["made"], made, "nothing is made in a pause")
        server.ask(f"/api/runs/{first}/continue", {})
        ended = [self.ended(server, run) for run in (first, *others)]
        self.assertEqual([run["state"] for run in ended], ["done"] * 4)
        by_end = sorted(ended[1:], key=lambda run: run["kept"])
        self.assertEqual(by_end[0]["id"], others[2], "the first in the new order made the frames, the others reused")

    def test_all_are_stopped_at_once_and_none_begins(self):
        server = self.server(CODE.replace("0.05", "0.3"), frames=20)
        runs = [self.ordered(server, draft=draft) for draft in (False, True, True)]
        server.wait_for_run(runs[0], lambda r: r["made"] > 0)
        self.assertEqual(server.ask("/api/queue/stop", {})[1]["queued"], [])
        ended = [self.ended(server, run) for run in runs]
        self.assertEqual([run["state"] for run in ended], ["stopped"] * 3)
        self.assertEqual([run["made"] for run in ended[1:]], [0, 0])
        listed = server.ask("/api/runs")[1]
        self.assertEqual((listed["total"], [run["id"] for run in listed["runs"]]), (3, runs[::-1]))

    def test_a_stop_ends_a_pause(self):
        server = self.server(CODE.replace("0.05", "0.3"), frames=20)
        run = self.ordered(server)
        server.wait_for_run(run, lambda r: r["made"] > 0)
        server.ask(f"/api/runs/{run}/pause", {})
        server.wait_for_run(run, lambda r: (r["progress"] or {}).get("paused"))
        server.ask(f"/api/runs/{run}/stop", {})
        self.assertEqual(self.ended(server, run)["state"], "stopped")

    def test_frames_are_made_again_by_number_and_by_error_with_the_reason_kept(self):
        fails = CODE.replace("    return", "    assert size < 1.7, 'too tall'\n    return")
        server = self.server(fails)
        run = self.ended(server, self.ordered(server))
        self.assertEqual((run["state"], run["failed"]), ("failed", 1))
        (failure,) = server.ask(f"/api/runs/{run['id']}/failures")[1]["failures"]
        self.assertEqual((failure["count"], failure["first"]), (1, 5))
        before = server.ask(f"/api/runs/{run['id']}/frames/2.png")[1]
        key = server.ask(f"/api/runs/{run['id']}/frames")[1]["frames"][2]["key"]
        (stored,) = self.home.glob(f"frames/*/{key}.png")
        written = stored.stat().st_mtime_ns
        again = f"/api/runs/{run['id']}/again"
        self.assertIn("write numbers", server.ask(again, {"frames": "", "reason": "x"})[1]["error"])
        self.assertIn("outside the shot", server.ask(again, {"frames": "1,9", "reason": "x"})[1]["error"])
        self.assertEqual(server.ask(again, {"frames": "1", "reason": ""})[0], 422)
        self.assertEqual(server.ask(again, {"frames": "0-2x2", "reason": "stale light"})[0], 200)
        ended = self.ended(server, run["id"])
        rows = server.ask(f"/api/runs/{run['id']}/frames")[1]["frames"]
        self.assertEqual([row["reason"] for row in rows], ["stale light", "", "stale light", "", "", ""])
        self.assertEqual({row["state"] for row in rows[:5]}, {"made"})
        self.assertEqual(ended["failed"], 1)
        self.assertGreater(stored.stat().st_mtime_ns, written, "it was made again")
        self.assertEqual(server.ask(f"/api/runs/{run['id']}/frames/2.png")[1], before, "with the same bytes")
        server.ask(again, {"error": failure["error"], "reason": "failed before"})
        self.assertEqual(self.ended(server, run["id"])["failed"], 1)
        self.assertEqual(server.ask(f"/api/runs/{run['id']}/frames")[1]["frames"][5]["reason"], "failed before")

    def test_limits_of_one_run(self):
        slow = CODE.replace("0.05", "3 if size > 1.8 else 0.01")
        server = self.server(slow)
        run = self.ended(server, self.ordered(server, frame_seconds=1))
        self.assertEqual((run["made"], run["failed"]), (5, 1), run)
        error = server.ask(f"/api/runs/{run['id']}/frames?state=failed")[1]["frames"][0]["error"]
        self.assertIn("did not finish within 1 s", error)
        self.assertEqual(server.ask("/api/shots/shot/runs", {"frame_seconds": 0})[0], 422)
        self.assertEqual(server.ask("/api/shots/shot/runs", {"tries": 0})[0], 422)

    def test_frames_of_a_folder_are_captured_again_by_command(self):
        folder = scratch(self)
        shot = write_shot(folder, CODE, frames=3, lanes=LANES)
        self.assertEqual(vexel("capture", shot, "--to", folder / "a").returncode, 0)
        again = vexel("capture", shot, "--to", folder / "a", "--again", "0", "--reason", "stale")
        self.assertIn("1 made, 0 reused", again.stdout)
        rows = json.loads((folder / "a/take.json").read_text())["frames"]
        self.assertEqual([row.get("reason", "") for row in rows], ["stale", "", ""])
        for wrong in (("--again", "0"), ("--reason", "x"), ("--again", "0", "--reason", "x", "--frames", "1"),
                      ("--frame-seconds", "0"), ("--tries", "0")):  # fmt: skip
            self.assertEqual(vexel("capture", shot, "--to", folder / "a", "--resume", *wrong).returncode, 2, wrong)

    def test_a_folder_whose_version_counts_up(self):
        folder = scratch(self)
        shot = write_shot(folder, frames=2)
        for _ in range(2):
            vexel("capture", shot, "--to", folder / "{title}.{version}")
        vexel("capture", shot, "--to", folder / "{title}.{version}", "--resume")
        self.assertEqual([place.name for place in sorted(folder.glob("trial*"))], ["trial.v001", "trial.v002"])
        for pattern, words in (("{titel}", "did you mean title"), ("{title}/../..", "without leading dots or ..")):
            told = vexel("capture", shot, "--to", folder / pattern)
            self.assertEqual((told.returncode, told.stdout), (2, ""))
            self.assertIn(words, told.stderr)

    def test_a_command_of_the_users_own_hears_of_the_end(self):
        server = self.server()
        heard = self.home / "heard.txt"
        command = f"sh -c 'echo $VEXEL_RUN $VEXEL_STATE $VEXEL_TITLE > {heard}'"
        self.assertEqual(server.ask("/api/settings")[1]["on_end"], "")
        _, saved = server.ask("/api/settings", {"on_end": command}, "PUT")
        server.ask("/api/settings", {"keep_free_mb": 12}, "PUT")
        self.assertEqual(server.ask("/api/settings")[1]["on_end"], saved["on_end"], "what is left out stays")
        self.assertEqual(server.ask("/api/storage")[1]["keep"], 12_000_000)
        self.assertEqual(server.ask("/api/settings", {"keep_free_mb": -1}, "PUT")[0], 422)
        self.assertTrue(saved["allowed"])
        run = self.ended(server, self.ordered(server))
        end = time.monotonic() + 20
        while not heard.exists() or not heard.read_text():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.05)
        self.assertEqual(heard.read_text(), f"{run['id']} done Trial\n")
        server.ask("/api/settings", {"on_end": "no-such-program-here"}, "PUT")
        run = self.ended(server, self.ordered(server, draft=True))
        told = server.wait_for_run(run["id"], lambda r: "on_end" in r["message"])
        self.assertIn("cannot be run: no-such-program-here", told["message"])
        self.assertIn("close its quotes", server.ask("/api/settings", {"on_end": "a 'b"}, "PUT")[1]["error"])
        (self.home / "settings.json").write_text('{"on_end": "rm"}')
        self.assertIn("settings.json", server.ask("/api/settings")[1]["trouble"])

    def test_a_command_that_came_with_a_received_project_does_not_run(self):
        home, heard = scratch(self) / "theirs", scratch(self) / "heard"
        (home / "shots").mkdir(parents=True)
        (home / ".project").write_text("made on another machine")
        (home / "settings.json").write_text(json.dumps({"on_end": ["touch", str(heard)]}))
        (home / "shots/shot.json").write_text(json.dumps({
            "title": "Theirs", "source": {"kind": "object", "file": "a.stl"}, "clock": {"rate": "12", "frames": 1},
            "picture": {"width": 32, "height": 32, "samples": 1},
        }))  # fmt: skip
        import trimesh

        trimesh.creation.box().export(home / "shots/a.stl")
        server = Server(self, home, "serve")
        self.addCleanup(server.end)
        self.assertFalse(server.ask("/api/settings")[1]["allowed"])
        server.ask("/api/settings", {"keep_free_mb": 12}, "PUT")
        self.assertFalse(server.ask("/api/settings")[1]["allowed"], "another setting does not allow the command")
        run = self.ended(server, self.ordered(server))
        self.assertEqual(run["state"], "done")
        told = server.wait_for_run(run["id"], lambda r: "on_end" in r["message"])
        self.assertIn("did not run", told["message"])
        self.assertFalse(heard.exists())


if __name__ == "__main__":
    unittest.main()
