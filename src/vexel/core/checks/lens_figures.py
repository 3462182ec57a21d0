"""What a shot's lens sees, and how much of it is sharp."""

from dataclasses import dataclass
from math import isfinite

from vexel.core.camera.lens import sharp_depth
from vexel.core.document.shot import Shot


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
