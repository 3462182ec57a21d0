"""Simulations: exact steps, states that come back, waves as fast as theory says."""

import os
import unittest
from fractions import Fraction
from pathlib import Path

import numpy as np

from tests.helpers import asked, scratch
from vexel.core.document.shot import read_shot_document
from vexel.core.errors import Mistake, SourceError
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, Subject
from vexel.demo import HERE
from vexel.sources.detect_kind import kind_of
from vexel.sources.kinds.simulation import SimulationFile, not_finite

HEADER = "import numpy as np\nfrom vexel.author import dial, simulation\n\n\n"
COUNTER = """@simulation(step=0.1)
class Counter:
    by = dial(1, low=0, high=9)

    def start(self, random):
        return {"n": 0.0, "log": [], "noise": random.random(3)}

    def advance(self, state):
        state["n"] += self.by
        state["log"].append(state["n"])

    def show(self, state, time, step, grey=dial(1, low=0, high=1)):
        return np.full((4, 4), grey * state["n"] / 1000)
"""
# Gray and Scott's reaction and diffusion with the constants that Pearson published (Science 261, 1993):
# Du 2e-5, Dv 1e-5 on 2.5 x 2.5 with 256 x 256 cells, a time step of 1; F = 0.04, k = 0.06 grows spots and stripes.
GRAY_SCOTT = """def spread(a):
    return np.roll(a, 1, 0) + np.roll(a, -1, 0) + np.roll(a, 1, 1) + np.roll(a, -1, 1) - 4 * a


@simulation(step=1)
class Spots:
    feed = dial(0.04, low=0, high=0.1)
    kill = dial(0.06, low=0, high=0.1)

    def start(self, random):
        u, v = np.ones((256, 256)), np.zeros((256, 256))
        u[118:138, 118:138], v[118:138, 118:138] = 0.5, 0.25
        return {"u": u + 0.01 * random.random(u.shape), "v": v + 0.01 * random.random(u.shape)}

    def advance(self, state):
        u, v, cell = state["u"], state["v"], (2.5 / 256) ** 2
        react = u * v * v
        u += 2e-5 / cell * spread(u) - react + self.feed * (1 - u)
        v += 1e-5 / cell * spread(v) + react - (self.feed + self.kill) * v

    def show(self, state):
        return np.clip(state["v"], 0, 1)
"""


class SimulationTest(unittest.TestCase):
    def open(self, code=COUNTER, **options):
        self.file = scratch(self) / "sim.py"
        self.file.write_text(HEADER + code)
        return SimulationFile(self.file, **options)

    def at(self, source, step, **dials):
        return source.show(asked({"step": step}, dials))

    def value(self, source, step, **dials):
        return round(int(self.at(source, step, **dials)[0, 0, 0]) * 1000 / 255)

    def test_the_mark_tells_the_kind_and_its_dials(self):
        facts = self.open().facts
        self.assertEqual(kind_of(self.file), "simulation")
        self.assertEqual(([d.name for d in facts.dials], facts.settings, facts.step), (["by", "grey"], ("by",), "1/10"))

    def test_any_step_in_any_order(self):
        source = self.open()
        for step in (0, 500, 100, 101, 900, 0):
            self.assertAlmostEqual(self.value(source, step), step, delta=2)
        self.assertAlmostEqual(self.value(source, 200, by=2.0), 400, delta=2)

    def test_the_same_bytes_run_through_resumed_and_in_another_process_s_hands(self):
        through = self.open(GRAY_SCOTT, seed=3)
        frames = {step: self.at(through, step).copy() for step in range(0, 200, 20)}
        again = SimulationFile(self.file, seed=3)
        for step in (180, 20, 100, 40):
            np.testing.assert_array_equal(self.at(again, step), frames[step])
        # Two that take turns, as two workers do.
        one, two = self.open(GRAY_SCOTT, seed=3), SimulationFile(self.file, seed=3)
        for turn, step in enumerate(frames):
            np.testing.assert_array_equal(self.at((one, two)[turn % 2], step), frames[step])

    def test_a_damaged_state_is_stepped_anew(self):
        source = self.open()
        expected = self.at(source, 300).copy()
        for file in self.file.parent.rglob("*.state"):
            file.write_bytes(b"cut")
        np.testing.assert_array_equal(self.at(SimulationFile(self.file), 300), expected)

    def test_only_the_latest_states_and_some_others_stay(self):
        source = self.open()
        for step in range(0, 400, 2):
            self.at(source, step)
        self.assertLessEqual(len(list(self.file.parent.rglob("*.state"))), 14)

    def test_nan_says_which_step(self):
        code = COUNTER.replace('state["n"] += self.by', 'state["n"] += self.by if len(state["log"]) < 136 else np.nan')
        source = self.open(code)
        self.at(source, 100)
        with self.assertRaisesRegex(SourceError, r"sim.py: after step 137 \(13.7 s\) n is no longer a finite number"):
            self.at(source, 200)
        self.assertAlmostEqual(self.value(source, 100), 100, delta=2)
        self.assertEqual(not_finite({"a": [np.ones(3), np.array([np.inf])]}), "a[1]")

    def test_what_is_wrong_is_said(self):
        for code, words in (
            (
                COUNTER.replace("def advance", "def advanced"),
                "Counter has no advance(): a simulation has start, advance",
            ),
            (COUNTER.replace("step=0.1", "step=0"), "a step must be above 0 seconds"),
            (COUNTER.replace("return {", "{"), "start() returned None; it must return the first state"),
            (COUNTER.replace('state["n"] +=', 'state["m"] +='), "sim.py, line 13: KeyError: 'm'"),
            (COUNTER.replace("grey * state", "grey * 7e3 + state"), "show() returned an array of shape (4, 4)"),
        ):
            with self.subTest(words), self.assertRaises(SourceError) as caught:
                self.at(self.open(code), 5)
            self.assertIn(words, str(caught.exception))

    def test_a_lane_drives_what_is_shown_and_not_what_runs(self):
        facts = self.open().facts
        document = {
            "title": "T",
            "source": {"kind": "simulation", "file": "sim.py", "pace": 2.4},
            "clock": {"rate": "24", "frames": 8},
        }
        inputs = PlanInputs("e", SourceIdentity("simulation", "sim.py", "d"), facts, Subject(None))
        keys = [[0, 0], [1, 1]]
        plan = make_plan(read_shot_document(document | {"lanes": [{"drive": "dial:grey", "keys": keys}]}), inputs)
        self.assertEqual(
            [plan.frame_spec(n).shutter_samples[0].time_inputs for n in (0, 7)], [{"step": 0}, {"step": 7}]
        )
        with self.assertRaisesRegex(Mistake, "by decides the whole course of the simulation"):
            make_plan(read_shot_document(document | {"lanes": [{"drive": "dial:by", "keys": keys}]}), inputs)

    def test_pearsons_constants_grow_a_pattern(self):
        source = self.open(GRAY_SCOTT)
        first, later = self.at(source, 0), self.at(source, 1500)
        grown = [int((picture[..., 0] > 50).sum()) for picture in (first, later)]
        self.assertGreater(grown[1], 2 * grown[0], "the square has spread")
        self.assertLess(later[..., 0].max(), 160)


class WaveTest(unittest.TestCase):
    def test_ripples_run_at_the_speed_of_shallow_water(self):
        # Airy wave theory: c = sqrt(g h) in shallow water.
        here = Path.cwd()
        self.addCleanup(os.chdir, here)
        copy = scratch(self) / "ripples.py"
        copy.write_bytes((HERE / "sources/ripples.py").read_bytes())
        source = SimulationFile(copy)
        for depth in (1.0, 4.0):
            step = Fraction(1, 200)
            crest = []
            for seconds in (1.0, 2.0):
                (part,) = source.show(asked({"step": int(seconds / step)}, {"depth": depth, "drop": 0.1, "calm": 0.0}))
                height = np.asarray(part.mesh["height"])
                x, y = part.mesh.points[:, 0], part.mesh.points[:, 1]
                line = (np.abs(y - 14.4) < 0.13) & (x > 12)
                crest.append(x[line][np.argmax(height[line])])
            self.assertAlmostEqual((crest[1] - crest[0]) / np.sqrt(9.81 * depth), 1, delta=0.08)


if __name__ == "__main__":
    unittest.main()
