"""The run controller, with workers that follow a script."""

import errno
import os
import unittest
from dataclasses import replace
from unittest import mock

from tests.helpers import scratch, shot_document
from vexel.core.camera.framing import Sphere
from vexel.core.document.shot import Shot
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, SourceAt, SourceFacts, Subject
from vexel.disk.disk_errors import disk_trouble
from vexel.disk.finished import finished
from vexel.disk.room import Room
from vexel.store.folder_take import FolderTake, read_ledger
from vexel.workers.planner import Prepared
from vexel.workers.run import Run, RunOptions
from vexel.workers.stop import Pause, Stop
from vexel.workers.worker_task import FrameResult


class ScriptedWorkers:
    """Makes each frame at once in this process, by a script of what goes wrong where."""

    count = 2
    seconds = 0.3

    def __init__(self, script=lambda number: None):
        self.script, self.made, self.workers_asked, self.orders = script, [], [], []

    def make(self, done, at, orders, worker=None):
        self.orders.append(len(orders))
        results = []
        for order in orders:
            self.workers_asked.append((order.number, worker))
            result = self.script(order.number)
            if result is None:
                order.path.write_bytes(order.spec.key.encode())
                self.made.append(order.number)
                result = FrameResult(order.number, self.seconds, finished(order.path))
            results.append(result)
            if result.halt or result.at_limit:
                break
        done(results)

    def clock_set_back(self):
        return 0.0


class StalledWorkers(ScriptedWorkers):
    """Makes two frames; the messages of all others wait for a clock that was set back."""

    def make(self, done, at, orders, worker=None):
        if len(self.made) < 2:
            super().make(done, at, orders, worker)

    def clock_set_back(self):
        return 3600.0


class RunTest(unittest.TestCase):
    def setUp(self):
        # Turning by 120 degrees a frame: frames 0, 3, 6, 9 are one picture.
        document = shot_document(
            {"kind": "object", "file": "a.obj"}, frames=12, camera={"rig": {"kind": "orbit", "turns": 4}}
        )
        self.shot = Shot.model_validate(document, strict=False)
        inputs = PlanInputs("e", SourceIdentity("object", "a.obj", "d"), SourceFacts(), Subject(Sphere((0, 0, 0), 1)))
        self.prepared = Prepared(make_plan(self.shot, inputs), SourceAt("object", scratch(self)))
        self.folder = scratch(self)

    def go(self, workers, resume=False, **options):
        take = FolderTake(self.folder, self.shot)
        take.enter(resume=resume, fresh=not resume)
        stop = Stop()
        room = options.get("room", Room(self.folder, 0))
        run = Run(self.prepared, range(options.get("frames", 12)), take, stop, room, options.get("options"))
        told = options.get("told", lambda stop, progress: None)
        outcome = run.go(
            lambda: options.get("before", lambda stop: None)(stop) or workers, lambda progress: told(stop, progress)
        )
        take.save()
        return outcome

    def states(self):
        return [row["state"] for row in read_ledger(self.folder)["frames"]]

    def test_a_clock_that_was_set_back_ends_it_with_a_sentence(self):
        with mock.patch("vexel.workers.run.CLOCK_SECONDS", 0.05):
            outcome = self.go(StalledWorkers())
        self.assertRegex(outcome.halt, "clock of this machine was set back by 3,600 s. Resume the run")
        self.assertGreater(outcome.waiting, 0)
        self.assertEqual(self.go(ScriptedWorkers(), resume=True).waiting, 0)

    def test_a_frame_that_fails_is_tried_as_often_as_allowed(self):
        for tries, failed in ((1, 4), (2, 0)):
            left = [4]

            def script(number, left=left):
                if number == 1 and left[0] > 3:
                    left[0] -= 1
                    return FrameResult(number, error="busy")
                return None

            outcome = self.go(ScriptedWorkers(script), options=RunOptions(tries=tries))
            self.assertEqual((outcome.failed, outcome.waiting), (failed, 0), "one picture is of four frames")
        outcome = self.go(ScriptedWorkers(lambda n: FrameResult(n, error="never")), options=RunOptions(tries=3))
        self.assertEqual((outcome.made, outcome.failed), (0, 12))

    def test_a_pause_begins_no_frame_and_ends_by_itself_or_by_a_stop(self):
        for ends_by in ("continue", "stop"):
            pause, told = Pause(), []
            pause.ask()

            def tell(stop, progress, pause=pause, told=told, ends_by=ends_by):
                if progress.paused:
                    told.append(progress)
                    pause.end() if ends_by == "continue" else stop.ask()

            workers = ScriptedWorkers()
            outcome = self.go(workers, told=tell, options=RunOptions(pause=pause))
            self.assertEqual(outcome.waiting, 0 if ends_by == "continue" else 12)
            self.assertEqual((told[0].done, told[0].rate), (0, 0.0))

    def test_pictures_that_are_there_are_made_again_on_request(self):
        self.go(ScriptedWorkers())
        workers = ScriptedWorkers()
        outcome = self.go(workers, resume=True, options=RunOptions(again=frozenset([1, 4, 7, 10])))
        self.assertEqual((outcome.made, len(workers.made)), (1, 1))

    def test_a_run_pauses_while_the_disk_is_nearly_full_and_continues(self):
        """A quota that the frames themselves use up; it is raised once the pause is told."""
        folder, quota = self.folder, [1_000_000 - 1]

        class Quota(Room):
            @property
            def free(self):
                return quota[0] - len(list(folder.glob("*.png")))

        pauses = []

        def told(stop, progress):
            if progress.paused:
                pauses.append((progress.done, progress.paused))
                quota[0] += 100

        with mock.patch("vexel.workers.run.ROOM_SECONDS", 0.01):
            workers = ScriptedWorkers()
            outcome = self.go(workers, room=Quota(folder, 1_000_000), told=told)
        self.assertEqual((outcome.waiting, outcome.halt, sorted(workers.made)), (0, "", [0, 1, 2]))
        self.assertTrue(pauses)
        self.assertRegex(
            pauses[0][1], r"^Paused: 1e\+03 kB|^Paused: .* free on the disk of .*, and 1 MB must stay free"
        )
        # A stop ends a pause, and keeps what is there.
        with mock.patch("vexel.workers.run.ROOM_SECONDS", 60):
            stopped = self.go(
                ScriptedWorkers(), room=Room(folder, 10**18), told=lambda stop, progress: progress.paused and stop.ask()
            )
        self.assertEqual((stopped.made, stopped.waiting, stopped.halt), (0, 12, ""))

    def test_equal_frames_are_made_once_and_nothing_twice(self):
        workers = ScriptedWorkers()
        outcome = self.go(workers)
        self.assertEqual((outcome.made, outcome.kept, sorted(workers.made)), (3, 9, [0, 1, 2]))
        self.assertEqual(len(list(self.folder.glob("*.png"))), 12)
        again = ScriptedWorkers()
        self.assertEqual(self.go(again, resume=True).kept, 12)
        self.assertEqual(again.made, [])

    def test_a_source_that_walks_gives_each_worker_a_stretch(self):
        inputs = self.prepared.plan.inputs
        plan = replace(
            self.prepared.plan,
            inputs=replace(inputs, facts=replace(inputs.facts, sequential=True, time_inputs=("frame",))),
        )
        self.prepared = replace(self.prepared, plan=plan)
        workers = ScriptedWorkers()
        outcome = self.go(workers)
        self.assertEqual((outcome.made, outcome.waiting), (12, 0))
        self.assertEqual(sorted(workers.workers_asked), [(n, n // 6) for n in range(12)])

    def test_quick_frames_are_ordered_several_at_a_time_and_none_is_lost_when_one_of_them_halts(self):
        document = shot_document({"kind": "object", "file": "a.obj"}, frames=200)
        self.shot = Shot.model_validate(document, strict=False)
        self.prepared = replace(self.prepared, plan=make_plan(self.shot, self.prepared.plan.inputs))
        workers = ScriptedWorkers(lambda n: FrameResult(n, error="x", halt="full") if n == 90 else None)
        workers.seconds = 0.02
        outcome = self.go(workers, frames=200)
        self.assertEqual((max(workers.orders), outcome.halt), (25, "full"))
        self.assertEqual(outcome.made + outcome.waiting, 200)
        workers = ScriptedWorkers(lambda n: None)
        workers.seconds = 0.02
        outcome = self.go(workers, resume=True, frames=200)
        self.assertEqual((outcome.made + outcome.kept, workers.orders[-1]), (200, 1))

    def test_a_frame_that_is_not_what_it_was_is_set_aside_and_made_again(self):
        self.go(ScriptedWorkers())
        frames = sorted(self.folder.glob("*.png"))
        whole = frames[0].read_bytes()
        for harm in (whole[:32], b"", whole[:9] + b"!" + whole[10:], frames[1].read_bytes()):
            with self.subTest(harm):
                # Frames 0, 3, 6 and 9 are one picture: as long as one of them is whole it is not made again.
                for frame in frames[::3]:
                    frame.write_bytes(harm)
                outcome = self.go(ScriptedWorkers(), resume=True)
                self.assertEqual((outcome.made, outcome.kept, outcome.damaged), (1, 11, 4))
                self.assertEqual({frame.read_bytes() for frame in frames[::3]}, {whole})
        self.assertEqual(len(list((self.folder / "damaged").iterdir())), 16)

    def test_a_touched_frame_is_kept_since_its_bytes_are_the_same(self):
        self.go(ScriptedWorkers())
        for frame in self.folder.glob("*.png"):
            os.utime(frame, (1, 1))
        outcome = self.go(ScriptedWorkers(), resume=True)
        self.assertEqual((outcome.made, outcome.damaged), (0, 0))

    def test_a_failed_frame_is_listed_and_the_rest_go_on(self):
        workers = ScriptedWorkers(lambda n: FrameResult(n, error="thing.py, line 9: no") if n == 1 else None)
        outcome = self.go(workers)
        self.assertEqual((outcome.failed, outcome.made + outcome.kept), (4, 8))
        row = read_ledger(self.folder)["frames"][1]
        self.assertEqual((row["state"], row["error"]), ("failed", "thing.py, line 9: no"))

    def test_a_full_disk_stops_and_can_be_resumed(self):
        halt = disk_trouble(OSError(errno.ENOSPC, os.strerror(errno.ENOSPC)), self.folder)
        outcome = self.go(ScriptedWorkers(lambda n: FrameResult(n, error="x", halt=halt) if n == 1 else None))
        self.assertIn("is full. Free some space, then continue", outcome.halt)
        self.assertGreater(outcome.waiting, 0)
        self.assertNotIn("failed", self.states())
        self.assertEqual(self.go(ScriptedWorkers(), resume=True).waiting, 0)

    def test_limits_in_a_row_stop_the_run(self):
        outcome = self.go(ScriptedWorkers(lambda n: FrameResult(n, error="too long", at_limit=True)))
        self.assertIn("3 frames in a row went wrong alike: too long", outcome.halt)

    def test_a_stop_leaves_the_rest_waiting(self):
        outcome = self.go(ScriptedWorkers(), before=lambda stop: stop.ask())
        self.assertEqual((outcome.made, outcome.waiting, outcome.halt), (0, 12, ""))


if __name__ == "__main__":
    unittest.main()
