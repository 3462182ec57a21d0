"""Workers of this machine and of a cluster: who makes what, and how they end."""

import queue
import threading
import unittest
from types import SimpleNamespace

import psutil

from tests.helpers import scratch, vexel, write_shot
from vexel.workers.bounded_process import ProcessEnded
from vexel.workers.worker_pool import LocalWorkers


class ScriptedStage:
    """A stage that makes nothing, and says which frames it was asked for."""

    def __init__(self, name, made, gate=None):
        self.name, self.made, self.gate = name, made, gate
        self.ended = threading.Event()
        self.begun = threading.Event()

    def start(self, kind):
        self.kind = kind

    def end(self):
        self.ended.set()
        if self.gate:
            self.gate.set()

    def make(self, at, recipe, path):
        self.begun.set()
        if self.gate:
            self.gate.wait()
            raise ProcessEnded("the process was ended")
        if recipe == "breaks":
            raise RuntimeError("of no kind that is known")
        self.made.append((self.name, recipe))
        path.write_bytes(b"x")
        return 0, 0.1, ""


class LocalWorkersTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)
        self.made, self.results = [], queue.Queue()

    def workers(self, *stages):
        workers = LocalWorkers(stages, "sketch")
        self.addCleanup(workers.close)
        self.assertEqual([stage.kind for stage in stages], ["sketch"] * len(stages))
        return workers

    def order(self, recipe):
        return [SimpleNamespace(number=recipe, spec=recipe, path=self.folder / str(recipe))]

    def test_an_order_for_a_certain_worker_goes_to_it_and_others_to_any(self):
        one, two = ScriptedStage("one", self.made), ScriptedStage("two", self.made)
        workers = self.workers(one, two)
        for number in range(20):
            workers.make(self.results.put, None, self.order(number), number if number < 10 else None)
        made = {results[0].number for results in (self.results.get(timeout=60) for _ in range(20))}
        self.assertEqual(made, set(range(20)))
        bound = {number: name for name, number in self.made if number < 10}
        self.assertEqual(bound, {number: ("one", "two")[number % 2] for number in range(10)})

    def test_what_breaks_a_worker_is_a_result_and_the_next_order_is_made(self):
        workers = self.workers(ScriptedStage("one", self.made))
        workers.make(self.results.put, None, self.order("breaks"))
        workers.make(self.results.put, None, self.order("next"))
        self.assertIn("the worker crashed: of no kind that is known", str(self.results.get(timeout=60)))
        self.assertEqual(self.results.get(timeout=60)[0].number, "next")

    def test_closing_ends_a_frame_in_the_middle_and_drops_what_waits(self):
        stage = ScriptedStage("one", self.made, threading.Event())
        workers = self.workers(stage)
        for number in range(3):
            workers.make(self.results.put, None, self.order(number))
        self.assertTrue(stage.begun.wait(60))
        workers.close()
        self.assertTrue(stage.ended.is_set())
        self.assertTrue(self.results.empty(), "nobody is told of a run that was stopped")
        self.assertEqual([thread for thread in threading.enumerate() if thread.name.startswith("worker ")], [])

    def test_they_open_no_port(self):
        before = {at.laddr for at in psutil.Process().net_connections("inet") if at.status == psutil.CONN_LISTEN}
        self.workers(ScriptedStage("one", self.made))
        after = {at.laddr for at in psutil.Process().net_connections("inet") if at.status == psutil.CONN_LISTEN}
        self.assertEqual(after, before)


class ClusterWorkersTest(unittest.TestCase):
    def test_a_cluster_makes_the_same_frames(self):
        from distributed import LocalCluster

        folder = scratch(self)
        shot = write_shot(folder)
        here = vexel("capture", shot, "--to", folder / "here")
        self.assertEqual(here.returncode, 0, here.stderr)
        with LocalCluster(n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None) as cluster:
            address = cluster.scheduler_address
            there = vexel("capture", shot, "--to", folder / "there", "--scheduler", address)
        self.assertEqual(there.returncode, 0, there.stderr)
        frames = sorted((folder / "here").glob("*.png"))
        self.assertEqual(len(frames), 6)
        for file in frames:
            self.assertEqual(file.read_bytes(), (folder / "there" / file.name).read_bytes())


if __name__ == "__main__":
    unittest.main()
