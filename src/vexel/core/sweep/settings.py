"""What an axis of a sweep may vary, and where that is in the shot document."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from vexel.core.document.camera_spec import LensSpec, LightSpec
from vexel.core.document.part import Part
from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import WithDials
from vexel.core.document.sweep_spec import OVER, Value
from vexel.core.errors import Mistake
from vexel.core.lanes.dial import Dial
from vexel.core.wording import nearest_name

_LIGHT = {
    "azimuth": "azimuth_deg",
    "elevation": "elevation_deg",
    "strength": "strength",
    "shadow": "shadow",
    "softness": "soft_deg",
    "environment": "environment",
    "surround": "surround",
    "sky": "sky",
    "earth": "earth",
}
_LENS = {"focal": "focal_mm", "focus": "focus", "f_stop": "f_stop", "projection": "projection"}
_RIG = {"elevation": "elevation_deg", "fill": "fill", "start": "start_deg", "distance": "distance", "turns": "turns"}
_TEXTS = ("background", "source", "view", "sky", "earth", "projection")
"""Last parts of what has texts for values; all else has numbers."""


@dataclass(frozen=True)
class Setting:
    """One value of a shot that a variant sets.

    Attributes
    ----------
    over : str
        As the document of the sweep names it.
    lane : str
        The lane that would drive the same; empty where none can.
    """

    over: str

    @property
    def lane(self) -> str:
        """See the class."""
        return self.over if ":" in self.over else ""

    def patch(self, shot: Shot, value: Value) -> dict[str, Any]:
        """The merge patch of a shot that sets the value.

        Raises
        ------
        Mistake
            When the shot has nothing of that name, or the value is of another kind.
        """
        family, colon, name = self.over.partition(":")
        if family not in (("dial", "light", "lens", "rig") if colon else ("background", "source", "view")):
            raise Mistake(f"an axis cannot vary {self.over!r}: {OVER}")
        wants_text = (name or family) in _TEXTS
        if wants_text != isinstance(value, str):
            raise Mistake(f"{self.over} is {value!r}: give {'a text' if wants_text else 'a number'}")
        if not colon:
            return self._whole(shot, str(value))
        if family == "dial":
            if not isinstance(shot.source, WithDials):
                raise Mistake(f"{self.over} varies a dial, but {shot.source.kind} has none: remove the axis")
            return {"source": {"dials": {name: value}}}
        if family == "light":
            return {"light": {_named(self.over, name, _LIGHT): value}}
        if family == "lens":
            return {"camera": {"lens": {_named(self.over, name, _LENS): value}}}
        key, rig = _named(self.over, name, _RIG), shot.camera.rig
        if key not in type(rig).model_fields:
            raise Mistake(f"a rig of kind {rig.traits.label} has no {name}: remove the axis {self.over}")
        return {"camera": {"rig": {key: value}}}

    def _whole(self, shot: Shot, value: str) -> dict[str, Any]:
        if self.over == "background":
            return {"picture": {"background": value}}
        if self.over == "source":
            return {"source": {"file": value}}
        names = [view.name for view in shot.camera.views]
        if value not in names:
            cure = nearest_name(value, names) if names else "save one at the Bench"
            raise Mistake(f"the shot has no saved view {value!r}: {cure}")
        view = shot.camera.views[names.index(value)]
        rig: dict[str, Any] = {
            "kind": "still",
            "position": list(view.position),
            "centre": list(view.look),
            "roll_deg": (view.roll_deg + 180) % 360 - 180,
        }
        patch: dict[str, Any] = {"camera": {"rig": rig}}
        if view.focal_mm is not None:
            patch["camera"]["lens"] = {"focal_mm": view.focal_mm}
        if view.drawn is not None:
            raise Mistake(f"view {value!r} is drawn as pass {view.drawn}, which a variant cannot be: clear that")
        for drive, shown in view.shows.items():
            family, _, name = drive.partition(":")
            if family not in ("dial", "light"):
                raise Mistake(f"view {value!r} shows {drive}, which a variant cannot: remove it from the view")
            if family == "dial":
                patch.setdefault("source", {}).setdefault("dials", {})[name] = shown
            elif family == "light":
                patch.setdefault("light", {})[_LIGHT[name]] = shown
        return patch


def _named(over: str, name: str, known: dict[str, str]) -> str:
    if name not in known:
        raise Mistake(f"an axis cannot vary {over!r}: {nearest_name(name, list(known))}")
    return known[name]


@dataclass(frozen=True)
class Choice:
    """A parameter that an axis may vary.

    Attributes
    ----------
    over, label, unit : str
    low, high : float or None
    value : float, str or None
        The shot's own.
    choices : list of str or None
        All values that a text may have, where these are few.
    """

    over: str
    label: str
    unit: str = ""
    low: float | None = None
    high: float | None = None
    value: Value | None = None
    choices: list[str] | None = None


def settings_of(shot: Shot, dials: Sequence[Dial]) -> list[Choice]:
    """All that an axis of a shot may vary; not what a lane drives."""
    driven = {lane.drive for lane in shot.lanes}
    own = getattr(shot.source, "dials", {})
    found = [
        Choice(f"dial:{one.name}", one.name, one.unit, one.low, one.high, own.get(one.name, one.default))
        for one in dials
    ]
    if shot.source.traits.gives != "picture":
        found += [_choice("light", name, key, LightSpec, shot.light) for name, key in _LIGHT.items()]
        found += [_choice("lens", name, key, LensSpec, shot.camera.lens) for name, key in _LENS.items()]
        rig = shot.camera.rig
        fields = type(rig).model_fields
        found += [_choice("rig", name, key, type(rig), rig) for name, key in _RIG.items() if key in fields]
    found += [Choice("background", "background", value=shot.picture.background)]
    found += [Choice("source", "source file", value=shot.source.file)]
    if views := [view.name for view in shot.camera.views if view.name]:
        found.append(Choice("view", "saved view", value=views[0], choices=views))
    return [one for one in found if one.over not in driven]


def _choice(family: str, name: str, key: str, part: type[Part], now: Part) -> Choice:
    schema = part.model_json_schema()["properties"][key]
    bounds = next((one for one in schema.get("anyOf", []) if one.get("type") == "number"), schema)
    low = bounds.get("minimum", bounds.get("exclusiveMinimum"))
    high, label = bounds.get("maximum", bounds.get("exclusiveMaximum")), schema.get("title", name).lower()
    return Choice(
        f"{family}:{name}",
        f"{family} {label}",
        schema.get("unit", ""),
        low,
        high,
        getattr(now, key),
        schema.get("enum"),
    )
