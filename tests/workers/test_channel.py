"""The talk with a stage process: what a person's code does to it ends the stage, and never mixes up answers."""

import os
import socket
import unittest

from tests.helpers import HEADER, scratch, shot_document
from vexel.core.document.shot import Shot
from vexel.core.errors import VexelError
from vexel.core.evaluate.source_facts import SourceAt, SourceFacts, Subject
from vexel.workers.bounded_process import ProcessEnded
from vexel.workers.bounds.limits import Limits
from vexel.workers.channel import Channel, ProtocolError, first_key
from vexel.workers.planner import OpenGate, Planner
from vexel.workers.stage_process import StageProcess
from vexel.workers.stop import Stop
from vexel.workers.worker_task import FrameOrder, _made

INSTANT = {"frame": 0, "count": 6, "seconds": "0", "phase": "0", "rate": "12"}
CONE = "@model\ndef thing(instant=None):\n{}    return pv.Cone()\n"
DISTURBING = {
    "writes to every descriptor": (
        "    import os\n"
        "    for n in range(3, 1024):\n"
        "        try:\n            os.write(n, b'x' * 100)\n        except OSError:\n            pass\n"
    ),
    "closes every descriptor": "    import os\n    os.closerange(3, 1024)\n",
}
HARMLESS = {
    "forks, and both come back": "    import os\n    os.fork()\n",
    "closes low descriptors": "    import os\n    os.closerange(3, 64)\n",
    "writes to its standard streams": "    import os\n    os.write(1, b'x' * 9999)\n    os.write(2, b'x' * 9999)\n",
}


def spoken(first, second, key=b"k" * 32):
    return Channel(first, key), Channel(second, key)


class ChannelTest(unittest.TestCase):
    def setUp(self):
        self.ends = socket.socketpair()
        for end in self.ends:
            self.addCleanup(end.close)

    def test_messages_are_numbered_and_sealed(self):
        ours, theirs = spoken(*self.ends)
        ours.send(7, ("facts", 1.5))
        self.assertEqual(theirs.receive(7, os.getpid()), (7, ("facts", 1.5)))
        for number, sender in ((8, os.getpid()), (7, os.getpid() + 1)):
            ours.send(7, "late")
            with self.assertRaises(ProtocolError):
                theirs.receive(number, sender)

    def test_what_is_no_message_is_refused_and_nothing_in_it_is_called(self):
        for noise in (b"x" * 200, b"VXL1" + b"\0" * 24 + b"s" * 16):
            ours, theirs = socket.socketpair()
            with ours, theirs, self.assertRaises(ProtocolError):
                ours.sendall(noise)
                Channel(theirs, b"k" * 32).receive(None, 0, 5)
        ours, theirs = spoken(*self.ends)
        ours.send(1, [print])
        with self.assertRaisesRegex(ProtocolError, "is no value"):
            theirs.receive(1, os.getpid())

    def test_half_a_message_does_not_hold_for_ever(self):
        ours, theirs = self.ends
        channel = first_key(theirs)
        ours.sendall(b"VXL1\0\0")
        with self.assertRaises(TimeoutError):
            channel.receive(1, 0, 0.05)


class DisturbedTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.stage = StageProcess(Limits(30, 2000))
        cls.addClassCleanup(cls.stage.close)

    def at(self, body):
        file = scratch(self) / "thing.py"
        file.write_text(HEADER + CONE.format(body))
        return SourceAt("model", file)

    def measure(self, at):
        return self.stage.measure(at, [({}, INSTANT)], (96, 64))

    def test_code_that_disturbs_the_talk_ends_the_stage_and_no_answer_goes_astray(self):
        for what, body in DISTURBING.items():
            with self.subTest(what):
                with self.assertRaisesRegex(VexelError, "interfered with the connection|ended its process"):
                    self.measure(self.at(body))
                self.assertIsInstance(self.measure(self.at("")), Subject)
                self.assertIsInstance(self.stage.facts(self.at("")), SourceFacts)

    def test_code_that_keeps_to_itself_is_answered_once(self):
        for what, body in HARMLESS.items():
            with self.subTest(what):
                self.assertAlmostEqual(self.measure(self.at(body)).sphere.radius, 0.707, 2)
                self.assertIsInstance(self.stage.facts(self.at("")), SourceFacts)

    def test_a_stage_that_is_ended_says_so_and_blames_nobody(self):
        stage = StageProcess(Limits(30, 2000))
        stop = Stop()
        at = self.at("    while True:\n        pass\n")
        stage.facts(at)
        stop.ask()
        with stop.cutting(stage.cut), self.assertRaises(ProcessEnded):
            stage.measure(at, [({}, INSTANT)], (96, 64))


class ReportedTest(unittest.TestCase):
    def test_a_frame_is_made_only_when_the_file_is_what_the_stage_reported(self):
        path = scratch(self) / "frame.png"

        class Stage:
            def make(self, at, recipe, where):
                where.write_bytes(b"another picture")
                return 15, 0.1, "0" * 64

        result = _made(Stage(), None, FrameOrder(3, None, path))
        self.assertRegex(result.error, "was changed on disk while it was made")


class PlannerTest(unittest.TestCase):
    def test_facts_that_do_not_validate_are_neither_stored_nor_trusted(self):
        folder = scratch(self)
        (folder / "thing.py").write_text(HEADER + CONE.format(""))
        shot = Shot.model_validate(shot_document({"kind": "model", "file": "thing.py"}), strict=False)
        kept, wrong, asked = {}, SourceFacts(dials="not dials"), []

        class Cache:
            get, put = kept.get, kept.__setitem__

            def forget(self, key):
                kept.pop(key)

        class Stage:
            answer = SourceFacts()

            def facts(self, at):
                asked.append(at)
                return self.answer

        planner = Planner(folder / "copies", Stage(), Cache(), OpenGate())
        source = planner.source(shot, folder)
        self.assertEqual(planner.facts(*source), SourceFacts())
        (key,) = kept
        kept[key] = {"dials": 7}
        self.assertEqual(planner.facts(*source), SourceFacts(), "dropped, and asked for again")
        self.assertEqual(len(asked), 2)
        kept.clear()
        Stage.answer = wrong
        with self.assertRaisesRegex(VexelError, "gave wrong facts"):
            planner.facts(*source)
        self.assertEqual(kept, {})


if __name__ == "__main__":
    unittest.main()
