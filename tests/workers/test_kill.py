"""A server killed in mid-run: the run resumes and ends with the bytes of an undisturbed one."""

import unittest

from tests.helpers import Server, scratch, write_shot

FRAMES = 16
CODE = """import time
@model
def thing(instant=None):
    time.sleep(0.1)
    return pv.Cone(height=1 + float(instant.phase))
"""


class KillTest(unittest.TestCase):
    def project(self):
        home = scratch(self) / "home"
        (home / "shots").mkdir(parents=True)
        write_shot(home / "shots", CODE, frames=FRAMES)
        return home

    def frames(self, server, run):
        return [server.ask(f"/api/runs/{run['id']}/frames/{n}.png")[1] for n in range(FRAMES)]

    def test_resumes_to_the_same_bytes(self):
        calm = Server(self, self.project())
        _, run = calm.ask("/api/shots/shot/runs", {})
        calm.wait_for_run(run["id"], lambda r: r["state"] == "done")
        expected = self.frames(calm, run)

        home = self.project()
        server = Server(self, home)
        _, run = server.ask("/api/shots/shot/runs", {})
        server.wait_for_run(run["id"], lambda r: r["made"] >= 3)
        server.kill()

        again = Server(self, home)
        _, stopped = again.ask(f"/api/runs/{run['id']}")
        self.assertEqual(stopped["state"], "stopped")
        self.assertIn("Resume it", stopped["message"])
        before = stopped["made"]
        self.assertLess(before, FRAMES)
        # The file may change meanwhile: the run goes on with the source that it began with.
        (home / "shots/thing.py").write_text("broken(")
        again.ask(f"/api/runs/{run['id']}/resume", {})
        done = again.wait_for_run(run["id"], lambda r: r["state"] == "done")
        self.assertEqual(done["made"] + done["kept"], FRAMES)
        self.assertGreaterEqual(done["made"], before, "what was measured stays")
        self.assertEqual(self.frames(again, run), expected)


if __name__ == "__main__":
    unittest.main()
