"""Planning: the source is copied, asked once, and a run keeps the plan that it began with."""

import json
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

from tests.helpers import scratch, write_shot
from vexel.core.camera.framing import Sphere
from vexel.core.checks.clearance_findings import Clearance
from vexel.core.document.shot import read_shot, read_shot_document
from vexel.core.errors import Mistake
from vexel.core.evaluate.moments import measured_frames
from vexel.core.evaluate.source_facts import PlanInputs, SourceFacts, Subject
from vexel.core.lanes.dial import Dial
from vexel.core.merge_patch import merged
from vexel.workers.planner import OpenGate, Planner

DIAL = Dial("size", 1, 0, 2)


class Memory:
    """A facts cache in memory."""

    def __init__(self):
        self.kept = {}

    def get(self, key):
        return self.kept.get(key)

    def put(self, key, value):
        self.kept[key] = json.loads(json.dumps(value))


class CountingStage:
    """A stand-in that notes what it is asked, and measures a ball as large as the dial says."""

    def __init__(self):
        self.answers = SourceFacts((DIAL,))
        self.asked = []

    def facts(self, at):
        self.asked.append("facts")
        return self.answers

    def repeats(self, at, moments, layout):
        return True

    def readings(self, at, moments, layout):
        return []

    def measure(self, at, moments, layout):
        self.asked.append(len(moments))
        time.sleep(0.1)
        return Subject(Sphere((0, 0, 0), max(dials["size"] for dials, _ in moments)))

    def nearness(self, at, places, layout):
        return Clearance(tuple(place[0] for place in places), (9.0,) * len(places), (False,) * len(places), False)


class PlannerTest(unittest.TestCase):
    def setUp(self):
        self.folder, self.copies = scratch(self), scratch(self)
        self.stage = CountingStage()
        self.planner = Planner(self.copies, self.stage, Memory(), OpenGate())

    def prepare(self, **document):
        file = write_shot(self.folder, **document)
        return self.planner.prepare(read_shot(file.read_bytes()), self.folder)

    def test_requests_that_come_together_ask_once(self):
        file = write_shot(self.folder)
        shot = read_shot(file.read_bytes())
        with ThreadPoolExecutor(6) as requests:
            plans = list(requests.map(lambda _: self.planner.prepare(shot, self.folder).plan, range(6)))
        self.assertEqual([asked for asked in self.stage.asked if asked != "facts"], [1])
        self.assertTrue(all(plan.inputs == plans[0].inputs for plan in plans))

    def test_each_camera_has_findings_and_fixes_of_its_own(self):
        ways = {"near": [(2.2, -2, 0.5), (2.2, 2, 0.5), (-6, 6, 1)], "far": [(40, -9, 0), (40, 9, 0)]}
        cameras = [
            {"name": name, "rig": {"kind": "path", "keys": [{"position": list(place)} for place in way]}}
            for name, way in ways.items()
        ]
        clock = {"rate": "24", "frames": 48, "span": "ends"}
        prepared = self.prepare(cameras=cameras, clock=clock)
        (found,) = self.planner.findings(prepared)
        self.assertEqual((found.name, found.what[:6]), ("subject-cut-off", "near: "))
        (fix,) = found.fixes
        document = merged(prepared.plan.shot.model_dump(mode="json"), fix.patch)
        fixed = self.planner.prepare(read_shot_document(document), self.folder)
        self.assertEqual(self.planner.findings(fixed), [])
        self.assertEqual(fixed.plan.shot.cameras[1], prepared.plan.shot.cameras[1], "the other one stays")

    def test_the_source_is_asked_once(self):
        self.prepare()
        self.prepare(picture={"width": 32, "height": 32})
        self.assertEqual(self.stage.asked, ["facts", 1], "another size asks nothing anew")
        self.prepare(lanes=[{"drive": "dial:size", "keys": [[0, 0.5], [1, 2]]}])
        self.assertEqual(self.stage.asked[2:], [6], "a subject that changes is measured along the shot")

    def test_a_growing_subject_is_framed_at_its_largest(self):
        grown = self.prepare(
            lanes=[{"drive": "dial:size", "keys": [[0, 0.5], [1, 2]]}],
            clock={"rate": "12", "frames": 7, "span": "ends"},
        )
        self.assertEqual(grown.plan.inputs.subject.sphere.radius, 2)

    def test_the_frames_come_from_a_copy(self):
        prepared = self.prepare()
        before = prepared.at.file.read_text()
        (self.folder / "thing.py").write_text("changed = True\n")
        self.assertEqual(prepared.at.file.read_text(), before)
        self.assertTrue(prepared.at.file.is_relative_to(self.copies))

    def test_a_run_goes_on_with_its_own_plan(self):
        prepared = self.prepare()
        inputs = PlanInputs.loads(prepared.plan.inputs.dumps())
        again = self.planner.again(prepared.plan.shot, inputs)
        self.assertEqual(again.plan.frame_spec(3).key, prepared.plan.frame_spec(3).key)
        self.assertIsNone(self.planner.again(prepared.plan.shot, replace(inputs, engine="other")))
        gone = replace(inputs, source=replace(inputs.source, digest="0" * 64))
        self.assertIsNone(self.planner.again(prepared.plan.shot, gone))

    def test_refuses_dials_that_do_not_fit(self):
        for document, words in (
            ({"source": {"kind": "model", "file": "gone.py"}}, "there is no file .*gone.py"),
            (
                {"source": {"kind": "model", "file": "thing.py", "dials": {"siez": 1}}},
                "no dial 'siez'; did you mean size",
            ),
            (
                {"source": {"kind": "model", "file": "thing.py", "dials": {"size": 3}}},
                "3 is outside the dial size, which goes from 0 to 2",
            ),
            ({"lanes": [{"drive": "dial:size", "keys": [[0, -1]]}]}, r"lanes\[0\]: -1 is outside the dial size"),
        ):
            with self.subTest(words), self.assertRaisesRegex(Mistake, words):
                self.prepare(**document)

    def test_every_key_is_measured(self):
        shot = read_shot(
            write_shot(
                self.folder, frames=101, lanes=[{"drive": "dial:size", "keys": [[0, 0], [0.33, 2], [1, 0]]}]
            ).read_bytes()
        )
        self.assertIn(33, measured_frames(shot, SourceFacts((DIAL,))))
        still = read_shot(write_shot(self.folder, frames=101).read_bytes())
        self.assertEqual(measured_frames(still, SourceFacts((DIAL,))), [0])


if __name__ == "__main__":
    unittest.main()
