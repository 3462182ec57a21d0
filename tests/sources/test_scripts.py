"""Plain scripts as sources: what is proposed draws what the script itself saves."""

import ast
import subprocess
import sys
import unittest
from fractions import Fraction
from pathlib import Path
from types import MappingProxyType

import numpy as np
from PIL import Image

from tests import LONG
from tests.helpers import asked, scratch
from vexel.core.errors import SourceError
from vexel.sources.detect_kind import kind_of
from vexel.sources.kinds.model import ModelFile
from vexel.sources.kinds.simulation import SimulationFile
from vexel.sources.kinds.sketch import SketchFile
from vexel.sources.scripts import NoProposal, Proposal, propose

MATPLOTLIB = """
import matplotlib
matplotlib.use("Agg")
import matplotlib.pyplot as plt
import numpy as np

x = np.linspace(0, 6, 100)
t = 0.25
amplitude = 1.5


def wave(x):
    return amplitude * np.sin(x + t)


fig = plt.figure(figsize=(3, 2), dpi=100)
ax = fig.add_subplot()
ax.plot(x, wave(x))  # the curve
ax.set_title('''two
lines''')
fig.savefig("out.png", dpi=100)
"""
LOOP = """
import numpy as np
from PIL import Image

N = 6
if __name__ == "__main__":
    side = 40
    for k in range(2, 2 + 2 * N, 2):
        pixels = np.zeros((side, side, 3), np.uint8)
        pixels[:, : 3 * k] = 255 - 10 * k
        picture = Image.fromarray(pixels)
        picture.save(f"out{k}.png")
    print("done")
"""
ANIMATION = """
import matplotlib
matplotlib.use("Agg")
import matplotlib.pyplot as plt
from matplotlib.animation import FuncAnimation

fig, ax = plt.subplots(figsize=(2, 2), dpi=50)
line, = ax.plot([0, 1], [0, 0])
ax.set_ylim(0, 10)

def update(n):
    line.set_ydata([n, n])
    return line,

made = FuncAnimation(fig, update, frames=8, interval=40)
made.save("out.gif")
plt.show()
"""
PYVISTA = """
import pyvista as pv

ball = pv.Sphere()
floor = pv.Plane(center=(0, 0, -0.5))
p = pv.Plotter(off_screen=True)
p.add_mesh(ball, color="tomato")
p.add_mesh(floor, color="white", opacity=0.5)
p.camera_position = "iso"
p.show()
"""


LIFE = """
import numpy as np
import matplotlib.pyplot as plt
from matplotlib.animation import FuncAnimation

SIZE = 24


class Life:
    def __init__(self, n=SIZE):
        self.grid = np.random.default_rng(3).random((n, n)) < 0.4

    def step(self):
        g = self.grid.astype(int)
        near = sum(np.roll(np.roll(g, a, 0), b, 1) for a in (-1, 0, 1) for b in (-1, 0, 1)) - g
        self.grid = (near == 3) | (self.grid & (near == 2))


life = Life(32)
fig, ax = plt.subplots()
im = ax.imshow(life.grid)


def update(i):
    life.step()
    im.set_data(life.grid)
    return [im]


anim = FuncAnimation(fig, update, frames=90, interval=50)
anim.save("life.mp4")
"""
SWARM = """
import numpy as np


class Swarm:
    def __init__(self, count=9):
        self.heat = np.linspace(0, 1, count * count).reshape(count, count)

    def advance(self, dt):
        self.heat = self.heat * (1 - dt)

    def image(self):
        return self.heat


if __name__ == "__main__":
    swarm = Swarm()
    for k in range(60):
        swarm.advance(0.25)
"""


class ProposalTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)

    def test_an_interval_is_any_constant_expression(self):
        for interval, rate in (
            ("1000/30", "30"), ("1000 / 23.976", "23976/1000"), ("40", "25"), ("33", "1000/33"), ("PERIOD * 2", "25/2"),
            ("1000/0", ""), ("-40", ""), ("len(x)", ""), ("1e400", ""), ("10.0**9", ""),
        ):  # fmt: skip
            script = ANIMATION.replace("interval=40", f"interval={interval}").replace(
                "def update", "PERIOD = 40\n\ndef update"
            )
            expected = str(Fraction(rate)) if rate else ""
            self.assertEqual(propose(script).rate, expected, interval)

    def proposed(self, text) -> tuple[Proposal, Path]:
        """What is proposed, written to a file."""
        made = propose(text)
        assert isinstance(made, Proposal), made
        file = self.folder / "source.py"
        file.write_text(made.text)
        self.assertEqual(kind_of(file), made.mark)
        return made, file

    def run_plain(self, text):
        """Run the script as it was, in a program of its own."""
        (self.folder / "plain.py").write_text(text)
        subprocess.run([sys.executable, "plain.py"], cwd=self.folder, check=True, capture_output=True)

    def saved(self, name):
        return np.asarray(Image.open(self.folder / name).convert("RGB")).astype(int)

    def drawn(self, file, size, **seen):
        source = SketchFile(file)
        return source.show(asked(seen, {d.name: d.default for d in source.facts.dials}, size=size))[..., :3].astype(int)

    def test_a_script_that_draws_once_takes_the_phase_and_its_numbers_as_dials(self):
        made, file = self.proposed(MATPLOTLIB)
        self.run_plain(MATPLOTLIB)
        self.assertIn("def picture(phase, amplitude=dial(1.5, low=0, high=3)):", made.text)
        self.assertIn("# the curve", made.text)
        self.assertIn("set_title('''two\nlines''')", made.text, "the inside of a text stays where it is")
        plain = self.saved("out.png")
        self.assertEqual(np.abs(self.drawn(file, (300, 200), phase=Fraction(1, 4)) - plain).max(), 0)
        self.assertGreater(np.abs(self.drawn(file, (300, 200), phase=Fraction(3, 4)) - plain).max(), 100)

    def test_a_loop_becomes_its_frames(self):
        made, file = self.proposed(LOOP)
        self.run_plain(LOOP)
        self.assertEqual(made.frames, 6)
        for frame, name in ((0, "out2.png"), (5, "out12.png")):
            np.testing.assert_array_equal(self.drawn(file, (40, 40), frame=frame), self.saved(name))

    def test_an_animation_keeps_its_count_and_rate(self):
        made, file = self.proposed(ANIMATION)
        self.assertEqual((made.frames, made.rate), (8, "25"))
        self.run_plain(ANIMATION)
        with Image.open(self.folder / "out.gif") as gif:
            gif.seek(5)
            saved = np.asarray(gif.convert("L")).astype(int)
        picture = self.drawn(file, (100, 100), frame=5).mean(axis=2)
        dark = [np.argwhere(one[20:80, 30:70] < 200)[:, 0].mean() for one in (picture, saved)]
        self.assertAlmostEqual(*dark, delta=1)

    def test_meshes_of_a_plotter_become_parts(self):
        made, file = self.proposed(PYVISTA)
        parts = ModelFile(file).show(asked())
        self.assertEqual([(p.colour, p.opacity) for p in parts], [("#ff6347", 1.0), ("#ffffff", 0.5)])
        self.assertNotIn("camera_position", made.text)

    def test_a_class_that_steps_itself_becomes_a_simulation(self):
        """Against the class stepped by hand, in an order that a capture may take."""
        for text, name, called, frames, rate in (
            (LIFE, "Life(32)", "step()", 90, "20"),
            (SWARM, "Swarm()", "advance(0.25)", 60, ""),
        ):
            with self.subTest(name):
                made = propose(text)
                self.assertEqual((made.mark, made.frames, made.rate), ("simulation", frames, rate), made)
                file = scratch(self) / "thing.py"
                file.write_text(made.text)
                simulation = SimulationFile(file)
                plain = {}
                exec(text[: text.index("\n\n\n", text.index("class "))], plain)
                thing, seen = eval(name, plain), {}
                for step in range(8):
                    values = thing.grid if name.startswith("Life") else thing.heat
                    seen[step] = np.round(np.asarray(values, float) * 255)
                    eval(f"thing.{called}", {"thing": thing})
                for step in (0, 7, 3, 4):
                    shown = simulation.show(asked(MappingProxyType({"step": step})))
                    self.assertLess(np.abs(shown[..., 0].astype(float) - seen[step]).max(), 1.01, step)
                self.assertFalse(np.array_equal(seen[0], seen[7]), "it moves")

    def test_what_of_a_class_cannot_be_known_is_asked_for(self):
        for change, words in (
            (("def __init__(self, n=SIZE)", "def __init__(self, n)"), "needs n: give each a default"),
            (("def step(self)", "def step(self, wind)"), "needs wind: give each a default, or let it take dt alone"),
            (("class Life:\n", "class Life:\n    __slots__ = ('grid',)\n"), "has __slots__"),
        ):
            text = LIFE.replace(*change)
            text = text.replace("Life(32)", "Life(side)") if "needs n" in words else text
            if "needs n" in words:
                text = text[: text.index("life = ")]
            refused = propose(text)
            self.assertIsInstance(refused, NoProposal, change)
            self.assertIn(words, refused.why)

    def test_a_function_is_marked_or_called(self):
        made, _ = self.proposed("import numpy as np\n\ndef draw(phase):\n    return np.full((4, 4), phase)\n")
        self.assertIn("@sketch\ndef draw(phase):", made.text)
        made, _ = self.proposed("import numpy as np\n\ndef draw(t, size=4):\n    return np.full((size, size), t)\n")
        self.assertIn("@sketch\ndef picture(phase):\n    return draw(t=phase)", made.text)

    def test_frames_that_follow_from_each_other_are_refused_with_a_way(self):
        carried = "import numpy as np, matplotlib.pyplot as plt\nz = np.zeros((4, 4))\n"
        carried += "for i in range(9):\n    z += 1\n    plt.imsave(f'{i}.png', z)\n"
        for text, why in (
            (carried, "changes z from frame to frame"), ("print(1)\n", "imports none of"),
            ("def f(:\n", "cannot be read"),
            ("import numpy as np\nx = 1; y = 2\n", "no function of it returns"),
        ):  # fmt: skip
            made = propose(text)
            self.assertIsInstance(made, NoProposal, text)
            self.assertIn(why, made.why)

    def test_whatever_is_proposed_can_be_read(self):
        """Scripts from elsewhere: the examples and tests that come with the drawing libraries."""
        import matplotlib
        import pyvista

        read = 0
        for library in (matplotlib, pyvista):
            for file in sorted(Path(library.__file__).parent.rglob("*.py"))[: 150 if LONG else 40]:
                made = propose(file.read_text(errors="replace"))
                if isinstance(made, Proposal):
                    ast.parse(made.text)
                    read += 1
        self.assertGreater(read, 10)

    def test_a_plain_script_is_not_run_to_find_that_it_is_one(self):
        (self.folder / "plain.py").write_text("import numpy\nopen('ran', 'w')\n")
        with self.assertRaisesRegex(SourceError, "marks no function as its sketch"):
            SketchFile(self.folder / "plain.py")
        self.assertFalse((self.folder / "ran").exists())


if __name__ == "__main__":
    unittest.main()
