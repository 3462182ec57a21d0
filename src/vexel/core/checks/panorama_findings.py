"""Preflight of a panorama: its shape, its fineness, and where in it the subject lies."""

from fractions import Fraction

import numpy as np

from vexel.core.camera.panorama import frame_shape
from vexel.core.document.camera_spec import LensSpec
from vexel.core.document.shot import Shot
from vexel.core.evaluate.plan import Plan
from vexel.core.finding import Finding, Fix
from vexel.core.recipes.frame_size import even_sides

FINE_WIDTH = 7168
"""A whole sphere of fewer pixels around looks soft in a headset (common practice: 7168 × 3584 or 8192 × 4096)."""
EASY_DEG = 30.0
"""People look this far above and below the horizon without strain (common practice)."""


def panorama_shape(shot: Shot) -> list[Finding]:
    """A frame that has not the shape of its panorama."""
    lens = shot.camera.lens
    if lens.projection != "panorama":
        return []
    picture, shape = shot.picture, frame_shape(lens.covers, lens.eyes)
    if Fraction(picture.width, picture.height) == shape:
        return []
    width, height = even_sides(picture.width, round(picture.width / shape))
    return [
        Finding(
            "panorama-shape",
            f"{picture.width:,} × {picture.height:,} is not {shape.numerator}:{shape.denominator}, the shape of "
            f"{_told(lens)}",
            "Players will show it stretched.",
            (Fix(f"Make it {width:,} × {height:,}", {"picture": {"width": width, "height": height}}),),
        )
    ]


def panorama_findings(plan: Plan) -> list[Finding]:
    """How fine it is, and how far from the horizon its subject lies."""
    lens, path, sphere = plan.shot.camera.lens, plan.sampled.path, plan.inputs.subject.sphere
    if lens.projection != "panorama" or path is None or sphere is None:
        return []
    found = [_soft(plan, lens)]
    away = np.asarray(sphere.centre) - path.positions
    distance = np.linalg.norm(away, axis=1)
    outside = distance > sphere.radius
    heights = np.degrees(np.arcsin(np.clip(away[:, 2] / np.maximum(distance, 1e-300), -1, 1)))
    if outside.any():
        worst = int(np.abs(np.where(outside, heights, 0)).argmax())
        if abs(heights[worst]) > EASY_DEG:
            side = "above" if heights[worst] > 0 else "below"
            found.append(
                Finding(
                    "panorama-strains",
                    f"The subject's middle lies {abs(heights[worst]):.0f}° {side} the horizon at frame {worst:,}; "
                    f"beyond {EASY_DEG:g}° people must tilt their heads",
                    "Place the camera nearer to its height.",
                    (),
                )
            )
    return [finding for finding in found if finding is not None]


def _soft(plan: Plan, lens: LensSpec) -> Finding | None:
    picture = plan.shot.picture
    around = picture.width // (2 if lens.eyes == "left-right" else 1)
    degrees = 180 if lens.covers == "half" else 360
    fine = FINE_WIDTH * degrees // 360
    if around >= fine:
        return None
    shape = frame_shape(lens.covers, lens.eyes)
    width = fine * (2 if lens.eyes == "left-right" else 1)
    width, height = even_sides(width, round(width / shape))
    return Finding(
        "panorama-soft",
        f"{around:,} pixels for {degrees}° are {around / degrees:.3g} a degree, {fine / around:.3g} × too few for a "
        f"headset, which shows about {FINE_WIDTH / 360:.0f}",
        "It will look soft.",
        (Fix(f"Make it {width:,} × {height:,}", {"picture": {"width": width, "height": height}}),),
    )


def _told(lens: LensSpec) -> str:
    what = "a whole sphere" if lens.covers == "sphere" else "half a sphere"
    return what if lens.eyes == "one" else f"{what} for two eyes, {lens.eyes}"
