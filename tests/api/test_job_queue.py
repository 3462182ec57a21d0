"""The desk: orders wait their turn, are called off, stopped, and told after an end of the server."""

import time
import unittest

from tests.helpers import Server, scratch, write_shot

SLOW = """import time
@model
def thing(instant=None):
    time.sleep(0.3)
    return pv.Cone(height=1 + float(instant.phase))
"""
UNDER_WAY = ("waiting", "running")


class DeskTest(unittest.TestCase):
    def setUp(self):
        self.home = scratch(self) / "home"
        (self.home / "shots").mkdir(parents=True)
        write_shot(self.home / "shots", SLOW, frames=20)
        self.server = Server(self, self.home)

    def order(self):
        return self.server.ask("/api/shots/shot/runs", {})[1]["id"]

    def at(self, run_id, ready):
        return self.server.wait_for_run(run_id, ready)

    def output_at(self, output_id, ready):
        for _ in range(600):
            output = self.server.ask(f"/api/outputs/{output_id}")[1]
            if ready(output):
                return output
            time.sleep(0.05)
        raise AssertionError(output)

    def test_a_run_waits_for_the_one_before_and_can_be_called_off(self):
        first, second = self.order(), self.order()
        self.at(first, lambda run: run["made"] > 0)
        self.assertEqual(self.server.ask(f"/api/runs/{second}")[1]["state"], "waiting")
        self.assertEqual(self.server.ask(f"/api/runs/{second}/stop", {})[1]["state"], "stopped")
        self.server.ask(f"/api/runs/{first}/stop", {})
        stopped = self.at(first, lambda run: run["state"] not in UNDER_WAY)
        self.assertEqual((stopped["state"], stopped["failed"]), ("stopped", 0))
        self.assertGreater(stopped["waiting"], 0)
        self.assertEqual(self.server.ask(f"/api/runs/{second}")[1]["made"], 0, "called off, so nothing was made")
        # The same frames, whichever run asks: the second one finds what the first one made.
        self.server.ask(f"/api/runs/{second}/resume", {})
        done = self.at(second, lambda run: run["state"] not in UNDER_WAY)
        self.assertEqual((done["state"], done["made"] + done["kept"]), ("done", 20))
        self.assertGreaterEqual(done["kept"], stopped["made"])

    def test_compiling_is_stopped_without_leaving_a_file(self):
        picture = {"width": 1920, "height": 1080, "samples": 1}
        code = "@model\ndef thing(a=dial(1, low=1, high=2)):\n    return pv.Cone(height=a)\n"
        lanes = [{"drive": "dial:a", "keys": [[0, 1], [1, 2]]}]
        write_shot(self.home / "shots", code, frames=24, picture=picture, lanes=lanes)
        run_id = self.order()
        self.at(run_id, lambda run: run["state"] == "done")
        output = self.server.ask(f"/api/runs/{run_id}/outputs", {"recipe": "gif"})[1]
        self.output_at(output["id"], lambda o: o["done"] > 0)
        self.server.ask(f"/api/outputs/{output['id']}/stop", {})
        stopped = self.output_at(output["id"], lambda o: o["state"] not in UNDER_WAY)
        self.assertEqual(
            (stopped["state"], stopped["message"]), ("stopped", "Compiling was stopped; no file was left.")
        )
        self.assertEqual([path.name for path in self.home.rglob("*.gif")], [])
        again = self.server.ask(f"/api/runs/{run_id}/outputs", {"recipe": "h264"})[1]
        self.assertEqual(self.output_at(again["id"], lambda o: o["state"] not in UNDER_WAY)["state"], "done")


if __name__ == "__main__":
    unittest.main()
