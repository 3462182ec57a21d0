"""What the lanes of a shot may drive, with values to begin from."""

from dataclasses import dataclass
from math import inf, isfinite

from vexel.core.document.shot import Shot
from vexel.core.evaluate.source_facts import SourceFacts, Subject
from vexel.core.lanes.targets import LIST_OFFSET, Bounds, target_name, target_of


@dataclass(frozen=True)
class LaneTarget:
    """Something that a lane of this shot may drive.

    Attributes
    ----------
    drive, name, unit : str
    low, high : float or None
        From where to where it may go; None where there is no end.
    first, second : float
        Where it is now, and another value for a new lane to go to.
    usual_low, usual_high : float
        Between which values a slider goes.
    """

    drive: str
    name: str
    unit: str
    low: float | None
    high: float | None
    first: float
    second: float
    usual_low: float
    usual_high: float


def lane_targets(shot: Shot, facts: SourceFacts, subject: Subject) -> list[LaneTarget]:
    """All that a lane may drive: dials, the camera and its light, parts, and labels."""
    values = {f"dial:{dial.name}": (dial.low, dial.default) for dial in facts.dials if dial.name not in facts.settings}
    bounds = {f"dial:{dial.name}": (dial.low, dial.high) for dial in facts.dials}
    units = {f"dial:{dial.name}": dial.unit for dial in facts.dials}
    usual: dict[str, Bounds] = {}
    if subject.sphere is not None:
        values |= _of_camera(shot)
        values |= {f"opacity:{part}": (1.0, 0.0) for part in subject.parts}
        for array in subject.arrays:
            values |= {f"range-low:{array}": (0.0, 0.5), f"range-high:{array}": (1.0, 2.0)}
        if "lens:focus" in values:
            focus = values["lens:focus"][0]
            usual["lens:focus"] = (focus / 4, focus * 4)
    if facts.source_frames is not None:
        values[LIST_OFFSET] = (0.0, 1.0)
    values |= {f"label:{label.name}": (0.0, 100.0) for label in shot.labels if label.name}
    return [
        _target(drive, *ends, bounds.get(drive), usual.get(drive), units.get(drive)) for drive, ends in values.items()
    ]


def _of_camera(shot: Shot) -> dict[str, tuple[float, float]]:
    camera, light = shot.camera, shot.light
    rig, focal = camera.rig, camera.lens.focal_mm
    found: dict[str, tuple[float, float]] = {}
    if not rig.traits.edit_instead:
        elevation, fill = getattr(rig, "elevation_deg", 0.0), getattr(rig, "fill", 1.0)
        if getattr(rig, "position", None) is None:
            found |= {
                "rig:elevation": (elevation, min(elevation + 30, 90)),
                "rig:azimuth": (0.0, 45.0),
                "rig:distance": (1.0, 2.0),
                "rig:fill": (fill, fill / 2),
            }
    found["lens:focal"] = (focal, min(focal * 2, 2000.0))
    if camera.lens.f_stop is not None:
        focus = camera.lens.focus or 10.0
        found["lens:focus"] = (focus, focus * 2)
    return found | {
        "light:azimuth": (light.azimuth_deg, light.azimuth_deg + 90),
        "light:elevation": (light.elevation_deg, 70.0),
        "light:strength": (light.strength, 0.3),
    }


def _target(
    drive: str, first: float, second: float, own: Bounds | None, usual: Bounds | None, unit: str | None
) -> LaneTarget:
    target = target_of(drive)
    assert target is not None
    low, high = own or target.bounds or (-inf, inf)
    slider = usual or target.usual or (low, high)
    return LaneTarget(
        drive,
        target_name(drive),
        target.unit if unit is None else unit,
        low if isfinite(low) else None,
        high if isfinite(high) else None,
        first,
        second,
        *slider,
    )
