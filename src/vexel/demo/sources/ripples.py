"""Ripples that cross the tidal basin of Tern Point.

The linear shallow-water equations on a staggered grid (forward-backward in
time): a wave runs at sqrt(g h). A drop falls at the quay and the walls reflect.
"""

import numpy as np
import pyvista as pv

from vexel.author import dial, part, simulation

GRAVITY = 9.81
CELLS = 160
SIDE = 40.0  # metres


@simulation(step=0.005)
class Ripples:
    depth = dial(2.0, low=0.5, high=5.0, unit="m", about="of the basin")
    drop = dial(0.5, low=0.1, high=1.0, unit="m", about="height of the drop at the quay")
    calm = dial(0.06, low=0.0, high=1.0, unit="1/s", about="how fast the water calms down")

    def start(self):
        x, y = grid()
        away = np.hypot(x - 0.3 * SIDE, y - 0.36 * SIDE)
        return {
            "height": self.drop * np.exp(-((away / 1.6) ** 2)),
            "u": np.zeros((CELLS + 1, CELLS)),
            "v": np.zeros((CELLS, CELLS + 1)),
        }

    def advance(self, state):
        width, step = SIDE / CELLS, 0.005
        height, u, v = state["height"], state["u"], state["v"]
        u[1:-1] -= GRAVITY * step / width * (height[1:] - height[:-1])
        v[:, 1:-1] -= GRAVITY * step / width * (height[:, 1:] - height[:, :-1])
        u *= 1 - self.calm * step
        v *= 1 - self.calm * step
        height -= self.depth * step / width * (u[1:] - u[:-1] + v[:, 1:] - v[:, :-1])

    def show(self, state, lift=dial(6.0, low=1, high=20, about="how much heights are drawn larger")):
        x, y = grid()
        water = pv.StructuredGrid(x[..., None], y[..., None], (lift * state["height"])[..., None])
        water["height"] = state["height"].ravel(order="F")
        return part(water, scalars="height", colour_map="GnBu_r", low=-0.12, high=0.12)


def grid():
    along = (np.arange(CELLS) + 0.5) * SIDE / CELLS
    return np.meshgrid(along, along, indexing="ij")
