"""Jobs of a server, step by step and in any order: what was asked for, and what the database says of it."""

import unittest

from hypothesis import Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from tests import LONG
from tests.helpers import scratch
from vexel.core.errors import Mistake
from vexel.store.project import Project
from vexel.web.jobs.frames.captures import Captures, RunRecord, run_key
from vexel.web.jobs.job import Ending, Job, JobKey
from vexel.web.jobs.jobs import Jobs

DOCUMENT = {"title": "Tide"}
ENDINGS = st.sampled_from(
    [Ending("done"), Ending("failed", "2 frames failed."), Ending("stopped"), RuntimeError("broke")]
)


class JobStates(RuleBasedStateMachine):
    """A line whose steps this machine takes itself, against a model of what a person is told."""

    project = None

    @initialize()
    def open(self):
        for run, *_ in self.project.ledger.states():
            self.project.ledger.remove(run, ".png")
        self.model, self.news, self.running, self.begun = {}, [], None, []
        self.start()

    def start(self):
        self.project.ledger.interrupt_all()
        record = {"run": RunRecord(self.project.ledger)}
        self.jobs = Jobs(self.news.append, self.project.home, record, threads=False)
        self.captures = Captures(self.project, self.jobs, None, None, lambda run, makes: None)
        self.queue, self.running = [], None

    def some(self, data, *states):
        return data.draw(st.sampled_from([run for run, state in self.model.items() if not states or state in states]))

    def any_run(*states):
        return precondition(lambda self: any(not states or state in states for state in self.model.values()))

    @rule()
    def order(self):
        run = self.project.ledger.begin("tide", DOCUMENT, range(2))
        self.captures._order(run)
        self.model[run] = "queued"
        self.queue.append(run)

    @rule(data=st.data())
    @any_run()
    def resume(self, data):
        run = self.some(data)
        self.captures.resume(run)
        if self.model[run] not in ("queued", "running"):
            self.model[run] = "queued"
            self.queue.append(run)

    @rule(data=st.data())
    @any_run()
    def stop(self, data):
        run = self.some(data)
        self.jobs.stop(run_key(run))
        if self.model[run] == "queued":
            self.model[run] = "stopped"
            self.queue.remove(run)
        elif self.model[run] == "running":
            assert self.jobs.find(run_key(run)).stop.asked

    @rule()
    @precondition(lambda self: self.running is None)
    def begin(self):
        self.running = self.jobs.begin_next("frames")
        assert (self.running is not None) == bool(self.queue)
        if self.running:
            (job,) = self.running.jobs
            assert job.key.name == self.queue.pop(0), "in the order of the orders"
            self.model[job.key.name] = "running"

    @rule(ending=ENDINGS)
    @precondition(lambda self: self.running is not None)
    def end(self, ending):
        order, self.running = self.running, None
        (job,) = order.jobs
        self.jobs.settle(order, [ending])
        broke = "stopped" if isinstance(ending, Exception) else ending.state
        self.model[job.key.name] = broke
        assert not isinstance(ending, Exception) or job.stop.asked or "Resume it" in job.ending.sentence

    @rule(data=st.data())
    @any_run()
    def remove(self, data):
        run = self.some(data)
        try:
            with self.jobs.removing(run_key(run)):
                for late in (lambda: self.captures.resume(run), lambda: self.use(run)):
                    try:
                        late()
                    except Mistake:
                        continue
                    raise AssertionError("a run that is being removed was used")
                self.project.ledger.remove(run, ".png")
        except Mistake:
            assert self.model[run] in ("queued", "running")
            return
        assert self.model.pop(run) in ("done", "failed", "stopped")

    def use(self, run):
        self.jobs.order("files", [Job(JobKey("file", 1), run_key(run))], list)

    @rule(data=st.data())
    @any_run()
    def refuse_removal_of_what_is_used(self, data):
        run = self.some(data)
        with self.jobs.using(run_key(run)):
            try:
                with self.jobs.removing(run_key(run)):
                    raise AssertionError("a run that files are ordered of was removed")
            except Mistake:
                pass

    @rule()
    def restart(self):
        """A server that was killed: nothing goes on by itself, and all can be resumed."""
        self.start()
        for run, state in self.model.items():
            if state in ("queued", "running"):
                self.model[run] = "stopped"

    @invariant()
    def the_database_says_so(self):
        if hasattr(self, "model"):
            assert {run: state for run, state, _ in self.project.ledger.states()} == self.model

    @invariant()
    def the_last_news_of_each_run_says_so(self):
        told = {one.id: one.state for one in getattr(self, "news", [])}
        for run, state in getattr(self, "model", {}).items():
            assert told[run] == state or (told[run], state) == ("running", "stopped") or state == "stopped"


class JobStatesTest(unittest.TestCase):
    def test_any_order_of_steps(self):
        JobStates.project = Project(scratch(self))
        JobStates.TestCase.settings = settings(
            max_examples=300 if LONG else 15, stateful_step_count=40, deadline=None, derandomize=not LONG
        )
        result = unittest.TestResult()
        JobStates.TestCase("runTest").run(result)
        self.assertEqual([text for _, text in result.errors + result.failures], [])

    def test_the_machine_finds_a_queue_that_runs_a_resumed_run_twice(self):
        """The model sees the fault that it is there for: an order whose key is queued already, queued once more."""
        JobStates.project = Project(scratch(self))

        class Wrong(JobStates):
            def start(self):
                super().start()
                find = self.jobs._jobs
                self.jobs._jobs = type("Forgetful", (dict,), {"get": lambda *_: None})(find)

        Wrong.TestCase.settings = settings(
            max_examples=30, stateful_step_count=30, deadline=None, derandomize=True, phases=[Phase.generate]
        )
        result = unittest.TestResult()
        Wrong.TestCase("runTest").run(result)
        self.assertTrue(result.errors or result.failures)


if __name__ == "__main__":
    unittest.main()
