"""The floor of the tidal basin: made-up soundings, coloured by height over the lowest tide."""

import numpy as np
import pyvista as pv

from vexel.author import dial, model, part

SIDE = 260  # soundings a side


@model
def basin(
    channels=dial(3, low=1, high=6, unit="channels", about="tidal channels that wind to the sea"),
    winding=dial(0.9, low=0, high=2, about="how much the channels wind"),
    depth=dial(3.2, low=0.5, high=6, unit="m", about="depth of the channels"),
    ripples=dial(0.10, low=0, high=0.4, unit="m", about="height of the sand ripples"),
):
    x, y = np.meshgrid(np.linspace(-10, 10, SIDE), np.linspace(-10, 10, SIDE), indexing="ij")
    height = 0.09 * (y + 10) ** 1.25 - 0.6 * np.exp(-((x / 7) ** 2))
    for n in range(round(channels)):
        middle = -7 + 14 * (n + 0.5) / round(channels) + winding * np.sin(y * 0.55 + 2.1 * n) + 0.12 * y * np.cos(n)
        width = 0.5 + 0.35 * np.exp(-(y + 10) / 9)
        height -= depth * np.exp(-(((x - middle) / width) ** 2)) * np.exp(-(y + 10) / 14)
    height += ripples * np.sin(6.5 * x + 1.5 * np.sin(0.8 * y)) * np.clip(height + 1.5, 0, 1)
    floor = pv.StructuredGrid(x, y, height)
    floor["height over the lowest tide, m"] = height.ravel(order="F")
    return part(floor, scalars="height over the lowest tide, m", colour_map="gist_earth", low=-4.2, high=4.4)
