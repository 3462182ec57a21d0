"""Stages as forks: each for itself, and gone with whoever asked for it."""

import os
import select
import signal
import socket
import subprocess
import sys
import unittest
from pathlib import Path
from unittest import mock

from tests.helpers import HEADER, scratch
from vexel.core.errors import VexelError
from vexel.core.evaluate.source_facts import SourceAt, SourceFacts
from vexel.workers.bounded_process import LimitReached
from vexel.workers.bounds.isolation import OFF
from vexel.workers.bounds.limits import Limits
from vexel.workers.fork_server import Fork, ForkServer, StageOrder
from vexel.workers.stage_process import StageProcess

DRAWS = """import os, random
print(np.random.rand(), random.random(), os.getpid())
print(*{"shell", "buoy", "basin", "quay", "tide"})
@model
def thing():
    return pv.Cone()
"""
ENDS_ITS_PARENT = """import os, signal
os.kill(os.getppid(), signal.SIGKILL)
os._exit(0)
"""
ASKER = """import sys
from pathlib import Path
from vexel.core.evaluate.source_facts import SourceAt
from vexel.workers.bounds.limits import Limits
from vexel.workers.stage_process import StageProcess
stage, at = StageProcess(Limits(600, 2000)), SourceAt("model", Path(sys.argv[1]))
stage.facts(at)
print(stage.printed(at))
stage.close()
"""
SETTINGS = """import os
import matplotlib
print(matplotlib.get_backend(), os.environ["OMP_NUM_THREADS"], os.environ["OPENBLAS_NUM_THREADS"], os.getenv("DISPLAY"))
@model
def thing():
    return pv.Cone()
"""
LOOPS = """import os
from pathlib import Path
Path(__file__).with_name("pid").write_text(str(os.getpid()))
while True:
    pass
"""


class ForkedStagesTest(unittest.TestCase):
    def source(self, code):
        file = scratch(self) / "thing.py"
        file.write_text(HEADER + code)
        return SourceAt("model", file)

    def stage(self):
        stage = StageProcess(Limits(30, 2000))
        self.addCleanup(stage.close)
        return stage

    def test_all_stages_draw_the_same_lots_and_have_one_order_of_a_set(self):
        at, said = self.source(DRAWS), []
        for _ in range(2):
            stage = self.stage()
            stage.facts(at)
            lots, names = stage.printed(at).splitlines()
            said.append((*lots.split(), names))
        (first, second, _, names), (again, twice, _, other) = said
        self.assertEqual((first, second, names), (again, twice, other))

    def test_code_that_ends_the_fork_server_is_blamed_and_the_next_question_is_answered(self):
        stage, beside = self.stage(), self.stage()
        good = self.source("@model\ndef thing():\n    return pv.Cone()\n")
        self.assertIsInstance(beside.facts(good), SourceFacts)
        with self.assertRaisesRegex(VexelError, "thing.py, line 7: PermissionError"):
            stage.facts(self.source(ENDS_ITS_PARENT))
        stage.close()
        with mock.patch.dict(os.environ, {OFF: "off"}), self.assertRaisesRegex(LimitReached, "ended its process"):
            stage.facts(self.source(ENDS_ITS_PARENT))
        self.assertIsInstance(stage.facts(good), SourceFacts)
        self.assertIsInstance(beside.facts(good), SourceFacts)

    def test_a_persons_settings_of_screens_and_threads_do_not_reach_it(self):
        at = self.source(SETTINGS)
        theirs = {"MPLBACKEND": "TkAgg", "OMP_NUM_THREADS": "8", "OPENBLAS_NUM_THREADS": "8", "DISPLAY": ":7"}
        order = [sys.executable, "-c", ASKER, at.file]
        said = subprocess.run(order, env=os.environ | theirs, check=True, capture_output=True, text=True).stdout
        self.assertEqual(said.split(), ["Agg", "1", "1", "None"])

    def test_a_stage_ends_with_its_asker_in_the_midst_of_a_loop(self):
        at = self.source(LOOPS)
        noted = at.file.with_name("pid")
        asker = subprocess.Popen([sys.executable, "-c", ASKER, at.file], env=os.environ | {OFF: "off"})
        while not (noted.is_file() and noted.read_text()):
            self.assertIsNone(asker.poll())
        gone = os.pidfd_open(int(noted.read_text()))
        self.addCleanup(os.close, gone)
        asker.kill()
        asker.wait()
        self.assertEqual(select.select([gone], [], [], 30)[0], [gone])


class ForkTest(unittest.TestCase):
    def test_one_that_is_not_there_yet_is_called_off_without_waiting(self):
        ours, theirs = socket.socketpair()
        with theirs:
            fork = Fork(ours)
            self.assertIsNone(fork.poll())
            with self.assertRaises(TimeoutError):
                fork.pid(0.01)
            fork.kill()
            with self.assertRaises(EOFError):
                fork.pid(30)
            self.assertEqual(fork.poll(), -signal.SIGKILL)
            fork.close()

    def test_a_fork_tells_its_number_and_how_it_ended(self):
        ours, theirs = socket.socketpair()
        stacks = Path(scratch(self)) / "own/stacks"
        stacks.parent.mkdir()
        server = ForkServer()
        with theirs:
            fork = server.fork(StageOrder(os.getpid(), "", str(stacks), 2000, dict(os.environ)), theirs)
        self.assertTrue(Path(f"/proc/{fork.pid(60)}").is_dir())
        # Its channel closes before it has a key: nobody asks any more.
        ours.close()
        self.assertEqual(fork.wait(60), 1)
        fork.close()
        server.close()


if __name__ == "__main__":
    unittest.main()
