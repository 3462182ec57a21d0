"""The version of everything that makes pixels."""

from functools import cache
from importlib.metadata import version

STAGE = 12
"""Raised whenever the stage draws the same recipe differently."""


@cache
def engine() -> str:
    """A part of every frame's key, so that no frame of older code is taken for a new one."""
    libraries = " ".join(f"{name}-{version(name)}" for name in ("vtk", "pyvista", "trimesh"))
    return f"stage-{STAGE} {libraries}"
