"""A spiral shell, after the logarithmic-spiral shell law (Raup, 1966): r = a · W^(θ/2π)."""

import numpy as np
import pyvista as pv

from vexel.author import dial, model, part

AROUND = 80  # points round the mouth
A_WHORL = 128  # rings a whorl


@model
def shell(
    whorls=dial(5.5, low=0.5, high=8, unit="whorls", about="how far the shell has grown"),
    expansion=dial(1.62, low=1.2, high=3, unit="a whorl", about="Raup's W: growth of the radius a whorl"),
    climb=dial(1.9, low=0, high=4, about="Raup's T: how fast it climbs along its axis"),
    ribs=dial(16, low=0, high=40, unit="a whorl", about="growth ribs"),
    rib_depth=dial(0.045, low=0, high=0.2, about="depth of the ribs, as a share of the mouth"),
):
    rings = max(int(whorls * A_WHORL), 8)
    theta = np.linspace(0, 2 * np.pi * whorls, rings)[:, None]
    phi = np.linspace(0, 2 * np.pi, AROUND)[None, :]

    size = expansion ** (theta / (2 * np.pi))
    mouth = size * (1 + rib_depth * np.cos(ribs * theta))
    radius = size + 0.86 * mouth * np.cos(phi)
    height = climb * (1 - size) + 1.05 * mouth * np.sin(phi)

    height = height - height.min()  # it rests on the ground and grows upward

    surface = pv.StructuredGrid(radius * np.cos(theta), radius * np.sin(theta), height)
    # Pigment: two bands that run along the whorl, broken by flecks laid down as it grew.
    bands = np.exp(-((np.sin(phi) - 0.45) ** 2) / 0.02) + np.exp(-((np.sin(phi) + 0.35) ** 2) / 0.012)
    flecks = 0.5 + 0.5 * np.sin(theta * 11 + 5 * np.sin(phi) + 2 * np.sin(theta * 2.3))
    blush = 0.12 + 0.10 * np.sin(phi) - 0.03 * np.cos(theta * ribs)
    surface["pigment"] = np.clip(bands * flecks + blush, 0, 1).ravel(order="F")
    return part(surface, scalars="pigment", colour_map="YlOrBr", low=-0.05, high=1.3)
