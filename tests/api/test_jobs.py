"""The desk: orders wait their turn, are called off, stopped, and told after an end of the server."""

import errno
import sqlite3
import threading
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from unittest import mock

from sqlalchemy import event
from sqlalchemy.exc import DatabaseError

from tests.helpers import Server, scratch, write_shot
from vexel.core.errors import Failure, Stopped
from vexel.core.recipes.shipped import RECIPES
from vexel.disk.claim import claim
from vexel.store.consent import Consent
from vexel.store.project import Project
from vexel.web.jobs.frames.captures import run_key
from vexel.web.jobs.job import Ending, Job, JobKey
from vexel.web.jobs.jobs import Jobs
from vexel.web.services import Services

SLOW = """import time
@model
def thing(instant=None):
    time.sleep(0.3)
    return pv.Cone(height=1 + float(instant.phase))
"""
UNDER_WAY = ("queued", "running")


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
        for _ in range(2400):
            output = self.server.ask(f"/api/outputs/{output_id}")[1]
            if ready(output):
                return output
            time.sleep(0.05)
        raise AssertionError(output)

    def test_a_run_waits_for_the_one_before_and_can_be_called_off(self):
        first, second = self.order(), self.order()
        self.at(first, lambda run: run["made"] > 0)
        told = self.server.ask(f"/api/runs/{second}")[1]
        self.assertEqual((told["state"], told["after"]), ("queued", first))
        third = self.order()
        self.assertEqual(self.server.ask(f"/api/runs/{third}")[1]["after"], second)
        self.assertEqual(self.server.ask(f"/api/runs/{second}/stop", {})[1]["state"], "stopped")
        self.assertEqual(self.server.ask(f"/api/runs/{third}")[1]["after"], first)
        self.server.ask(f"/api/runs/{third}/stop", {})
        self.assertIsNone(self.server.ask(f"/api/runs/{third}")[1]["after"])
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
        self.output_at(output["id"], lambda o: o["progress"] and o["progress"]["done"] > 0)
        self.server.ask(f"/api/outputs/{output['id']}/stop", {})
        stopped = self.output_at(output["id"], lambda o: o["state"] not in UNDER_WAY)
        self.assertEqual(
            (stopped["state"], stopped["message"]), ("stopped", "Compiling was stopped; no file was left.")
        )
        self.assertEqual([path.name for path in self.home.rglob("*.gif")], [])
        again = self.server.ask(f"/api/runs/{run_id}/outputs", {"recipe": "h264"})[1]
        self.assertEqual(self.output_at(again["id"], lambda o: o["state"] not in UNDER_WAY)["state"], "done")


class OrdersTest(unittest.TestCase):
    """Orders in this process, with steps that the test takes itself."""

    def setUp(self):
        self.home = scratch(self) / "home"
        (self.home / "shots").mkdir(parents=True)
        write_shot(
            self.home / "shots",
            "@model\ndef thing(instant=None):\n    return pv.Cone(height=1 + float(instant.phase))\n",
            frames=3,
        )
        self.services = Services(Project(self.home), 1, Consent(self.home, trusted=True))
        self.addCleanup(self.services.close)
        self.captures, self.ledger = self.services.captures, self.services.project.ledger

    def settled(self, run_id):
        for _ in range(2400):
            row = self.ledger.run(run_id)
            if row.state not in UNDER_WAY:
                return row
            time.sleep(0.05)
        raise AssertionError(row.state)

    def test_a_queued_run_that_was_stopped_and_resumed_runs_once(self):
        begun, go_on = [], threading.Event()

        def prepared(row, stop):
            begun.append(row.id)
            go_on.wait(60)
            raise Stopped

        with mock.patch.object(self.captures, "_prepared", prepared):
            first, second = self.captures.capture("shot"), self.captures.capture("shot")
            for _ in range(3):
                self.services.jobs.stop(run_key(second))
                self.assertEqual(self.ledger.run(second).state, "stopped")
                with ThreadPoolExecutor(4) as together:
                    list(together.map(self.captures.resume, [second] * 4))
                self.assertEqual(self.ledger.run(second).state, "queued")
            last = self.captures.capture("shot")
            go_on.set()
            self.settled(last)
        self.assertEqual(begun, [first, second, last])

    def test_a_resumed_run_keeps_what_was_measured(self):
        run_id = self.captures.capture("shot")
        self.assertEqual(self.settled(run_id).state, "done")
        made = {row.number: (row.state, row.seconds) for row in self.ledger.rows(run_id)}
        self.assertEqual({state for state, _ in made.values()}, {"made"})
        self.ledger.set(run_id, state="stopped")
        self.captures.resume(run_id)
        self.assertEqual(self.settled(run_id).state, "done")
        self.assertEqual({row.number: (row.state, row.seconds) for row in self.ledger.rows(run_id)}, made)
        other = self.captures.capture("shot")
        self.assertEqual(self.settled(other).state, "done")
        self.assertEqual({row.state for row in self.ledger.rows(other)}, {"kept"})

    def test_how_a_run_ended_is_recorded_when_there_is_room_again(self):
        full, engine = threading.Event(), self.ledger._sessions.kw["bind"]

        def refuse(connection, cursor, statement, *_):
            if full.is_set() and not statement.startswith("SELECT"):
                raise sqlite3.OperationalError("database or disk is full")

        event.listen(engine, "before_cursor_execute", refuse)

        def prepared(row, stop):
            full.set()
            raise OSError(errno.ENOSPC, "No space left on device")

        with mock.patch.object(self.captures, "_prepared", prepared):
            run_id = self.captures.capture("shot")
            row = self.settled(run_id)
        self.assertEqual(row.state, "stopped")
        self.assertIn("is full. Free some space", row.message)
        with self.assertRaises(DatabaseError):
            self.captures.resume(run_id)
        full.clear()
        self.captures.resume(run_id)
        self.assertEqual(self.settled(run_id).state, "done")

    def test_every_order_has_a_file_of_its_own(self):
        run_id = self.captures.capture("shot")
        self.settled(run_id)
        files, gif = self.services.files, RECIPES["gif"]
        with ThreadPoolExecutor(4) as together:
            list(together.map(lambda n: files.dispatch(run_id, [0], [gif], "", ""), range(4)))
            list(together.map(lambda n: files.compile(run_id, "gif"), range(4)))
        for _ in range(2400):
            rows = self.services.project.outputs.of(run_id)
            if not any(row.state in UNDER_WAY for row in rows):
                break
            time.sleep(0.05)
        self.assertEqual([row.state for row in rows], ["done"] * 8, [row.message for row in rows])
        self.assertEqual(len({row.file for row in rows}), 8)
        self.assertEqual(len(list((self.home / "outputs").glob("*.gif"))), 8)
        self.assertEqual([path.name for path in (self.home / "outputs").iterdir() if path.name.startswith(".")], [])

    def test_of_files_ordered_together_one_that_is_stopped_leaves_the_others(self):
        made, jobs = [], Jobs(lambda news: None, self.home, {}, threads=False)
        keys = [JobKey("file", number) for number in range(3)]
        jobs.order("files", [Job(key) for key in keys], lambda some: [])
        jobs.stop(keys[1])
        order = jobs.begin_next("files")
        made += [job.key.name for job in order.jobs]
        self.assertEqual(made, [0, 2])
        jobs.settle(order, [Ending("done"), Failure("the disk is full")])
        self.assertEqual([jobs.find(key) for key in keys], [None] * 3, "none is under way")

    def test_when_one_of_several_files_cannot_be_ordered_none_is_made(self):
        run_id = self.captures.capture("shot")
        self.settled(run_id)
        recipes, claimed = [RECIPES["gif"], RECIPES["h264"]], []

        def second_fails(place):
            claimed.append(place)
            if len(claimed) == 2:
                raise OSError(errno.EACCES, "Permission denied")
            return claim(place)

        with mock.patch("vexel.web.jobs.file_orders.claim", second_fails), self.assertRaises(OSError):
            self.services.files.dispatch(run_id, [0], recipes, "", "")
        self.assertEqual([row.state for row in self.services.project.outputs.of(run_id)], ["failed"])
        self.assertEqual(list((self.home / "outputs").iterdir()), [], "neither a file nor the claim of a name")


if __name__ == "__main__":
    unittest.main()
