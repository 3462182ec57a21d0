"""What people ask first of a camera: how it moves, in words, and what its lens sees."""

from dataclasses import dataclass
from math import isfinite
from typing import NamedTuple

import numpy as np

from vexel.core.camera.lens import sharp_depth
from vexel.core.camera.path_figures import PathFigures, tilts_deg
from vexel.core.document.shot import Shot
from vexel.core.evaluate.camera_table import camera_of
from vexel.core.evaluate.plan import Plan
from vexel.core.wording import counted


class Figure(NamedTuple):
    """A figure with its name, for people."""

    name: str
    value: str


def camera_figures(plan: Plan, figures: PathFigures) -> list[Figure]:
    """What people ask first of a camera's movement."""
    shown = []
    if len(figures.speeds) and figures.speeds.any():
        mean, most = figures.speeds.mean(), figures.speeds.max()
        shown.append(Figure("speed", f"{mean:.3g} units per frame, {most:.3g} at most"))
        if figures.turns_deg.max() > 1e-6:
            shown.append(Figure("turn", f"{figures.turns_deg.max():.3g}° per frame at most"))
        before = np.isfinite(figures.margins[:-1]) & np.isfinite(figures.margins[1:])
        if before.any() and plan.shot.camera.lens.projection != "panorama":
            most = figures.subject_px[before].max()
            shown.append(Figure("subject moves", f"{most:.3g} px per frame at most"))
    lean = float(np.abs(tilts_deg(camera_of(plan).path)).max())
    if lean > 0.05:
        shown.append(Figure("horizon tilt", f"{lean:.3g}° at most"))
    if len(figures.jolts) and figures.jolts.any():
        shown.append(Figure("acceleration", f"{figures.jolts.max():.3g} units per frame² at most"))
    if plan.shot.camera.lens.projection == "panorama":
        return shown
    shares, margins = figures.shares[np.isfinite(figures.shares)], figures.margins
    if len(shares):
        shown.append(Figure("subject size", f"{_least_to_most(float(shares.min()), float(shares.max()))} of the frame"))
    least = float(margins.min())
    room = f"{least:.0%} of half the frame" if isfinite(least) and least >= 0 else None
    cut = counted(int((margins < -1e-6).sum()), "frame")
    shown.append(Figure("margin", room or f"cut off in {cut}"))
    return shown


def _least_to_most(least: float, most: float) -> str:
    """Two shares as percentages, or one where they read alike."""
    low, high = f"{least:.0%}", f"{most:.0%}"
    return low if low == high else f"{low} to {high}"


@dataclass(frozen=True)
class LensFigures:
    """Fields of view in degrees; distances in the source's units, None where there are none.

    Attributes
    ----------
    wide_deg, high_deg, diagonal_deg : float
    hyperfocal : float or None
        Focused there, all is sharp from half of it to infinity.
    near, far : float or None
        Between which all is sharp; `far` is None for infinity.
    """

    wide_deg: float
    high_deg: float
    diagonal_deg: float
    hyperfocal: float | None = None
    near: float | None = None
    far: float | None = None


def lens_figures(shot: Shot) -> LensFigures:
    """Figures of the lens of a shot's own camera."""
    spec, lens = shot.camera.lens, shot.camera.lens.lens()
    views = lens.view_deg(shot.picture.width, shot.picture.height)
    if spec.f_stop is None:
        return LensFigures(*views)
    depth = sharp_depth(spec.focal_mm, spec.f_stop, (spec.focus or 1) * spec.unit_mm, lens.blur_mm)
    hyperfocal = depth.hyperfocal / spec.unit_mm
    if spec.focus is None:
        return LensFigures(*views, hyperfocal)
    far = depth.far / spec.unit_mm if isfinite(depth.far) else None
    return LensFigures(*views, hyperfocal, depth.near / spec.unit_mm, far)
