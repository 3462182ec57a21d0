"""Preflight: what is off in a shot before it is captured, each finding with its fix."""

from fractions import Fraction
from typing import Any, Literal

import numpy as np

from vexel.core.checks.clock_findings import clock_findings
from vexel.core.checks.lane_findings import clipped_lanes, lane_findings, motion_ends_early
from vexel.core.checks.panorama_findings import panorama_shape
from vexel.core.checks.source_sentences import source_sentence
from vexel.core.document.background import PLAIN
from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import ObjectSource, PhotoSource, SeriesSource, StillsSource, WithFixedFrames
from vexel.core.evaluate.lane_sampling import lane_tracks
from vexel.core.evaluate.moments import substeps_of
from vexel.core.evaluate.source_facts import SourceFacts, SourceFinding, SourceOddity
from vexel.core.finding import Finding, Fix
from vexel.core.recipes.frame_size import even_sides
from vexel.core.recipes.shipped import RECIPES
from vexel.core.time.clock import decimal, nearest_whole
from vexel.core.time.rate import Rate
from vexel.core.time.source_frames import RateFit
from vexel.core.wording import counted


def preflight(shot: Shot) -> list[Finding]:
    """All findings of a shot."""
    picture = [finding for finding in (_odd_size(shot), _alpha_lost(shot)) if finding is not None]
    return [*clock_findings(shot), *lane_findings(shot), *picture, *panorama_shape(shot)]


def _alpha_lost(shot: Shot) -> Finding | None:
    """A clear background in a file that keeps little or nothing of it."""
    recipe = RECIPES[shot.recipe]
    if shot.picture.behind.kind != "transparent" or recipe.keeps_alpha == "whole":
        return None
    if recipe.keeps_alpha == "none":
        what, cost = (
            f"The background is clear, and the {recipe.makes} keeps no transparency",
            "The frames will be on black.",
        )
    else:
        what = f"The background is clear, and the {recipe.makes} keeps each pixel either clear or not"
        cost = "Soft edges and shadows will be cut hard."
    fixes = (
        Fix("Make WebM with transparency", {"recipe": "vp9-alpha"}),
        Fix("Make ProRes 4444, which keeps it for editing", {"recipe": "prores-4444"}),
        Fix("Output numbered frames, which keep it", {"recipe": "frames"}),
        Fix(f"Use the background {PLAIN}", {"picture": {"background": PLAIN}}),
    )
    return Finding("alpha-lost", what, cost, fixes)


def _odd_size(shot: Shot) -> Finding | None:
    picture = shot.picture
    width, height = even_sides(picture.width, picture.height)
    if (width, height) == (picture.width, picture.height) or not RECIPES[shot.recipe].even_sides:
        return None
    return Finding(
        "odd-size",
        f"{picture.width} × {picture.height} has an odd side",
        "Video in 4:2:0 needs even sides: a line of pixels will be cut off.",
        (Fix(f"Make it {width} × {height}", {"picture": {"width": width, "height": height}}),),
    )


def source_findings(shot: Shot, facts: SourceFacts) -> list[Finding]:
    """What is odd about a source, and where the shot does not fit it."""
    found = [Finding("odd-source", _begun(source_sentence(odd)), "", _odd_fixes(shot, odd)) for odd in facts.findings]
    early = [] if facts.time_inputs else motion_ends_early(shot)
    found += [*_other_length(shot, facts), *_dropped_or_doubled(shot, facts), *_uneven_pace(shot, facts)]
    found += [*_on_its_side(shot, facts), *_other_course(shot, facts), *_photo_enlarged(shot, facts)]
    return [*found, *clipped_lanes(shot, facts.dials), *early]


def _photo_enlarged(shot: Shot, facts: SourceFacts) -> list[Finding]:
    """A photo of which a frame shows fewer pixels than it has itself."""
    if not isinstance(shot.source, PhotoSource) or facts.size is None:
        return []
    zoom = shot.source.dials.get("zoom", 1.0)
    driven = lane_tracks(shot, np.append(shot.clock.exact.phases(), 1.0)).get("dial:zoom")
    most = zoom if driven is None else float(driven.max())
    width, height = shot.picture.width, shot.picture.height
    scale = most / min(facts.size[0] / width, facts.size[1] / height)
    if scale <= 1 + 1e-9:
        return []
    smaller = even_sides(int(width / scale), int(height / scale))
    fixes = (Fix(f"Make it {smaller[0]} × {smaller[1]}", {"picture": {"width": smaller[0], "height": smaller[1]}}),)
    what = f"The photo is enlarged up to {decimal(Fraction(round(scale, 2)).limit_denominator(100))} times"
    return [Finding("photo-enlarged", what, "It will look soft there.", fixes if min(smaller) >= 16 else ())]


def upright_axis(facts: SourceFacts) -> Literal["y", "z"] | None:
    """The axis that points up by a mesh's shape, where that is not the one that is taken."""
    guess = facts.up_guess
    return guess.axis if guess is not None and facts.up is not None and guess.axis != facts.up else None


def by_chance(name: str) -> Finding:
    """Code that gives something else each time it is asked for the same frame."""
    return Finding(
        "non-deterministic-source",
        f"{name} gives a different result each time for the same frame",
        "A frame that is made again will not match its neighbours. Use the argument random for random numbers, and "
        "keep no state between calls.",
    )


def _on_its_side(shot: Shot, facts: SourceFacts) -> list[Finding]:
    """A mesh whose shape suggests that another axis points up; nothing where the user has chosen one."""
    axis, guess = upright_axis(facts), facts.up_guess
    if not isinstance(shot.source, ObjectSource) or shot.source.up != "auto" or axis is None or guess is None:
        return []
    fixes = (
        Fix("Turn it upright", {"source": {"up": axis}}),
        Fix("It is upright", {"source": {"up": facts.up}}),
    )
    lies = "lies" if guess.sure else "may lie"
    what = f"The object {lies} on its side: its shape suggests that +{axis} points up, but +{facts.up} is used"
    return [Finding("on-its-side", what, "It would turn about a wrong axis.", fixes)]


def _other_course(shot: Shot, facts: SourceFacts) -> list[Finding]:
    """A shot that cuts off the source's own animations, or loops where they do not."""
    length, clock = facts.length, shot.clock.exact
    if length is None:
        return []
    own, lasts = Fraction(length.seconds), clock.motion / clock.rate.fps
    loops, tolerance = clock.span == "loop", 1 / clock.rate.fps / 2
    whole = abs(lasts - max(round(lasts / own), 1) * own) <= tolerance
    if (loops and length.loops and whole) or (not loops and lasts >= own - tolerance):
        return []
    patch = {"clock": length_patch(clock.rate.fps, own) | {"span": "loop" if length.loops else "ends"}}
    what = f"The source's animations {'repeat' if length.loops else 'end'} after {decimal(own)} s"
    cost = "A loop will jump at its seam." if loops else "The rest will not be seen."
    fix = Fix(f"Use {decimal(own)} s{'' if length.loops else ', played once'}", patch)
    return [Finding("animation-length-differs", f"{what}, the shot lasts {decimal(lasts)} s", cost, (fix,))]


def length_patch(fps: Fraction, seconds: Fraction) -> dict[str, Any]:
    """A patch of the clock to a length: in seconds where a decimal is exact, else in frames."""
    exact = Fraction(repr(float(seconds))) == seconds
    if exact:
        return {"seconds": float(seconds), "frames": None}
    return {"frames": max(nearest_whole(seconds * fps), 1), "seconds": None}


_CLIP_FIXES: dict[SourceOddity, Fix] = {
    "interlaced": Fix("Deinterlace", {"source": {"fields": "deinterlace"}}),
    "bright-colours": Fix("Convert to sRGB with a tone curve", {"source": {"colours": "srgb"}}),
    "wide-colours": Fix("Convert to sRGB", {"source": {"colours": "srgb"}}),
}


def _odd_fixes(shot: Shot, odd: SourceFinding) -> tuple[Fix, ...]:
    if odd.code in _CLIP_FIXES:
        return (_CLIP_FIXES[odd.code],)
    if not isinstance(shot.source, StillsSource):
        return ()
    if odd.code == "other-size" and shot.source.other_sizes == "contain":
        return (
            Fix("Fill the frame", {"source": {"other_sizes": "cover"}}),
            Fix("Crop without scaling", {"source": {"other_sizes": "none"}}),
            Fix("Leave them out", {"source": {"other_sizes": "skip"}}),
        )
    if odd.code != "frames-missing" or shot.source.gaps != "refuse":
        return ()
    return (
        Fix("Hold the picture before", {"source": {"gaps": "hold"}}),
        Fix("Blend the neighbours", {"source": {"gaps": "blend"}}),
        Fix("Leave them out", {"source": {"gaps": "skip"}}),
    )


def _other_length(shot: Shot, facts: SourceFacts) -> list[Finding]:
    """A shot that shows less or more than a source of fixed pictures has."""
    slots, clock = facts.source_frames, shot.clock.exact
    if slots is None:
        return []
    needed = slots.count if slots.seconds is None else max(nearest_whole(slots.seconds * clock.rate.fps), 1)
    if (clock.own or clock.motion) == needed:
        return []
    end = clock.instant_at(Fraction(clock.motion - 1), clock.motion - 1).seconds
    last, _ = slots.at(end * clock.rate.fps, end)
    if clock.motion > needed:
        what = f"The source ends after {counted(needed, 'frame')}, the shot has {clock.motion:,}"
        cost = "Its last picture will be held for the rest."
    else:
        what = f"The shot ends with picture {last + 1:,} of {slots.count:,}"
        cost = "The rest will not be seen."
    fix = Fix(f"Use all {counted(needed, 'frame')}", {"clock": {"frames": needed, "seconds": None}})
    return [Finding("other-length", what, cost, (fix,))]


def _dropped_or_doubled(shot: Shot, facts: SourceFacts) -> list[Finding]:
    """Fixed pictures at another rate than their own, said before any is captured."""
    slots, source, clock = facts.source_frames, shot.source, shot.clock.exact
    if slots is None or slots.mixed:
        return []
    fit = slots.fit(clock)
    if slots.times:
        # Frames of uneven length are shown for as long as they last, and so repeat by themselves.
        fit = RateFit(fit.dropped, 0)
    if not fit.dropped and not fit.doubled:
        return []
    counts = [f"{counted(count, kind)}" for count, kind in ((fit.dropped, "picture"), (fit.doubled, "frame")) if count]
    what = f"{counts[0]} will be dropped" if fit.dropped else f"{counts[0]} will repeat the previous picture"
    if fit.dropped and fit.doubled:
        what += f", and {counts[1]} will repeat the previous picture"
    fixes = []
    if slots.rate and not slots.times:
        own = {"rate": slots.rate, "frames": slots.count, "seconds": None, "retimed_from": None}
        also = "" if clock.own is None else ", and remove the retiming"
        fixes.append(Fix(f"Use its own rate, {Rate(Fraction(slots.rate)).label}{also}", {"clock": own}))
    if isinstance(source, WithFixedFrames):
        fixes.append(Fix("Blend the neighbours", {"source": {"between": "blend"}}))
    elif isinstance(source, SeriesSource):
        fixes.append(Fix("Mix the neighbours", {"source": {"between": "linear"}}))
    return [Finding("dropped-or-doubled", what, "Motion will look uneven.", tuple(fixes))]


def _uneven_pace(shot: Shot, facts: SourceFacts) -> list[Finding]:
    pace = substeps_of(shot, facts)
    if pace is None or pace.steps_a_frame.denominator == 1:
        return []
    fixes = [
        Fix(
            f"{(even / pace.rate / pace.step).numerator:,} steps per frame, pace {decimal(even)}",
            {"source": {"pace": float(even)}},
        )
        for even in pace.even_paces()
    ]
    return [Finding("uneven-pace", pace.sentence, "Very quick motion may look unsteady.", tuple(fixes))]


def _begun(sentence: str) -> str:
    """A sentence with a capital letter, unless it begins with the name of a file."""
    first = sentence.partition(" ")[0]
    return sentence[0].upper() + sentence[1:] if first in ("the", "it", "its", "line") else sentence
