"""The brief: a shot as one sentence."""

from itertools import pairwise

from vexel.core.brief_part import BriefPart, article_of, listed
from vexel.core.document.lane_spec import LaneSpec
from vexel.core.document.passes import PASSES
from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.lanes.targets import target_name
from vexel.core.sweep.variants import variants
from vexel.core.wording import counted

MOST_TURNS = 5
"""A lane that turns more often is described by its ends and its range alone."""


def brief(shot: Shot) -> list[BriefPart]:
    """The sentence, in parts that are joined by spaces; none follows a comma that a part begins with."""
    spec, clock = shot.clock, shot.clock.exact
    length = counted(clock.motion, "frame") if spec.seconds is None else f"{spec.seconds:.6g} s"
    parts = [
        BriefPart("Film"),
        BriefPart(shot.source.name, "source", "Source"),
        BriefPart("for"),
        BriefPart(length, "clock", "Length"),
        BriefPart("at"),
        BriefPart(clock.rate.label, "clock", "Rate"),
        *_span(shot),
        *_after_comma(shot.source.brief()),
        *_camera(shot),
        *_lanes(shot),
        BriefPart(","),
        BriefPart("in"),
        BriefPart(f"{shot.picture.width} × {shot.picture.height}", "picture", "Size"),
    ]
    if shot.picture.passes != ["shaded"]:
        labels = listed([PASSES[name].label for name in shot.picture.passes])
        parts.append(BriefPart(labels, "picture", "Passes", "camera"))
    return [*parts, BriefPart("frames on"), _background(shot), *_sweep(shot), BriefPart(".")]


def _sweep(shot: Shot) -> list[BriefPart]:
    sweep = shot.sweep
    if sweep is None or shot.is_swept:
        return []
    try:
        found = variants(sweep)
    except Mistake:
        return [BriefPart(", in"), BriefPart("variants", "sweep", "Variants")]
    kept = [one for one in found if not one.left_out]
    overs = list(dict.fromkeys(over.partition(":")[2] or over for one in found[:1] for over in one.values))
    ways = {"shots": ", in", "stills": ", as stills of", "film": ", as a film through"}
    return [
        BriefPart(ways[sweep.makes]),
        BriefPart(counted(len(kept), "variant"), "sweep", "Variants"),
        BriefPart("of"),
        BriefPart(listed(overs), "sweep", "Axes"),
    ]


def _span(shot: Shot) -> list[BriefPart]:
    ways = {"forward": "", "backward": "backward", "there-and-back": "ping-pong"}
    way = ways[shot.clock.order]
    order = [BriefPart(","), BriefPart(way, "clock", "Order")] if way else []
    if shot.clock.span == "ends":
        return [*order, BriefPart(","), BriefPart("played once", "clock", "Span")]
    return [*order, BriefPart("as"), BriefPart("a loop", "clock", "Span")]


def _after_comma(parts: list[BriefPart]) -> list[BriefPart]:
    return [BriefPart(","), *parts] if parts else []


def _camera(shot: Shot) -> list[BriefPart]:
    camera = shot.camera
    parts, focal = [*_after_comma(camera.rig.brief(camera.views))], f"{camera.lens.focal_mm:.6g}"
    if camera.lens.projection == "panorama":
        panorama = "180° panorama" if camera.lens.covers == "half" else "360° panorama"
        parts += [BriefPart("as a"), BriefPart(panorama, "lens", "Lens")]
    else:
        parts += [
            BriefPart(f"through {article_of(focal)}"),
            BriefPart(f"{focal} mm", "lens", "Lens"),
            BriefPart("lens"),
        ]
    if shot.cameras:
        parts += [BriefPart(", and with"), BriefPart(counted(len(shot.cameras), "more camera"), "camera", "Cameras")]
    return [BriefPart(part.text, part.topic, part.name, "camera") for part in parts]


def _lanes(shot: Shot) -> list[BriefPart]:
    parts: list[BriefPart] = []
    for number, lane in enumerate(shot.lanes):
        joint = ", while" if number == 0 else "and" if number == len(shot.lanes) - 1 else ","
        parts += [BriefPart(joint), BriefPart(lane_in_words(lane), "lanes", "Lane")]
    return parts


def _background(shot: Shot) -> BriefPart:
    behind = shot.picture.behind
    text = {
        "transparent": "a transparent background",
        "gradient": "a gradient",
        "image": behind.image,
        "colour": behind.text,
    }[behind.kind]
    colours = tuple(behind.text.split()) if behind.kind in ("colour", "gradient") else ()
    return BriefPart(text, "picture", "Background", colours=colours)


def lane_in_words(lane: LaneSpec) -> str:
    """Where a lane goes, with its turns on the way and its pauses."""
    if lane.follows is not None:
        return f"{lane.name} follows {target_name(lane.follows)}"
    if lane.formula is not None:
        return f"{lane.name} follows a formula"
    values = [float(decimal_of(key[1])) for key in lane.keys]
    if len(values) == 1:
        return f"{lane.name} stays at {values[0]:g}"
    turns = _turns_of(values)
    if len(turns) == 3 and turns[0] == turns[2]:
        course = f"{turns[0]:g} to {turns[1]:g} and back"
    else:
        course = f"{_course(turns)}{' and back' if lane.back else ''}"
    pauses = _pauses_of(lane, values)
    rests = "" if pauses == 0 else " with a pause" if pauses == 1 else f" with {pauses} pauses"
    return f"{lane.name} goes from {course}{rests}{'' if lane.repeat == 1 else f', {lane.repeat:g} times'}"


def decimal_of(value: float) -> str:
    """A value with as few decimals as the brief shows."""
    return f"{value:.3f}".rstrip("0").rstrip(".")


def _course(turns: list[float]) -> str:
    first, *rest = turns
    if len(turns) <= MOST_TURNS:
        return f"{first:g} to {', then '.join(f'{value:g}' for value in rest)}"
    return f"{first:g} to {rest[-1]:g}, between {min(turns):g} and {max(turns):g}"


def _turns_of(values: list[float]) -> list[float]:
    """First and last value, and between them those at which the lane turns."""
    steps = [values[0], *(b for a, b in pairwise(values) if a != b)]
    if len(steps) == 1:
        return [steps[0], steps[0]]
    inner = [b for a, b, c in zip(steps, steps[1:], steps[2:], strict=False) if (b > a) != (c > b)]
    return [steps[0], *inner, steps[-1]]


def _pauses_of(lane: LaneSpec, values: list[float]) -> int:
    """Stretches in which nothing moves, though the lane does elsewhere."""
    if len(set(values)) == 1:
        return 0
    pauses = 0
    for number, (a, b) in enumerate(pairwise(values)):
        key = lane.keys[number]
        rests = a == b or (key[2] if len(key) == 3 else lane.ease) == "hold"
        rested = number > 0 and values[number - 1] == a
        pauses += rests and not rested
    return pauses
