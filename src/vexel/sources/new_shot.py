"""A new shot from a file: kind by its content, sensible values for the rest."""

import os
from fractions import Fraction
from pathlib import Path
from typing import Any

from vexel.core.checks.preflight import length_patch, upright_axis
from vexel.core.document.shot import Shot, edited, read_shot_document
from vexel.core.document.source_spec import ObjectSource, PageSource, PhotoSource, SourceTraits
from vexel.core.errors import Mistake
from vexel.core.evaluate.source_facts import SourceFacts
from vexel.core.recipes.frame_size import even_sides
from vexel.core.time.rate import USUAL_RATE
from vexel.sources.detect_kind import kind_of
from vexel.sources.registry import KINDS

SECONDS = 5
PHOTO_ZOOM: dict[str, Any] = {"drive": "dial:zoom", "keys": [[0, 1], [1, 1.25]], "ease": "ease-in-out"}
"""How a photograph moves at first: lanes for x and y pan it."""
PHOTO_SIDE = 1920
PAGE_PICTURE = {"width": 1280, "height": 720, "samples": 1, "background": "#ffffff"}


def shot_of_file(
    file: Path, shots: Path, title: str = "", rate: str = "", gaps: str = "", other_sizes: str = ""
) -> Shot:
    """A shot that shows what the file holds.

    Parameters
    ----------
    file : Path
        Absolute.
    shots : Path
        Folder of the shot documents, to which the file's path is made relative if it is in the project.
    title, rate : str
        A sequence of stills needs its rate, which nothing in it says.
    gaps, other_sizes : str
        What its missing numbers, and pictures of another size, show; empty for the usual.
    """
    if not file.is_absolute():
        raise Mistake(f"{file} is not an absolute path: begin it with / or ~")
    if not file.is_file():
        raise Mistake(f"there is no file {file}: check the path")
    kind = KINDS[kind_of(file)]
    traits = kind.spec.traits
    inside = file.resolve().is_relative_to(shots.parent.resolve())
    place = os.path.relpath(file.resolve(), shots.resolve()) if inside else str(file.resolve())
    source: dict[str, Any] = {"kind": kind.name, "file": place}
    if traits.needs_rate:
        if not rate:
            raise Mistake(f"{file.name} is part of a sequence without a rate: give one, such as 24")
        source["rate"] = rate
        if gaps:
            source["gaps"] = gaps
        if other_sizes:
            source["other_sizes"] = other_sizes
    document: dict[str, Any] = {
        "title": title or _title(file, traits),
        "source": source,
        "clock": {"rate": rate or USUAL_RATE, "seconds": SECONDS, "span": "ends" if traits.runs_once else "loop"},
    }
    if kind.spec is PageSource:
        document["picture"] = PAGE_PICTURE
    if kind.spec is PhotoSource:
        document |= {"lanes": [PHOTO_ZOOM]}
    return read_shot_document(document, file.name)


def fitted_to(shot: Shot, facts: SourceFacts) -> Shot:
    """The shot with the length, rate and size that its source has by itself, and upright where its shape tells."""
    axis, guess = upright_axis(facts), facts.up_guess
    if isinstance(shot.source, ObjectSource) and axis and guess and guess.sure and not facts.up_stated:
        return edited(shot, {"source": {"up": axis}})
    if facts.length is not None:
        span = "loop" if facts.length.loops else "ends"
        length = length_patch(shot.clock.exact.rate.fps, Fraction(facts.length.seconds))
        return edited(shot, {"clock": length | {"span": span}})
    if isinstance(shot.source, PhotoSource) and facts.size:
        # Not enlarged where it is seen largest.
        scale = min(PHOTO_SIDE / max(facts.size), 1 / PHOTO_ZOOM["keys"][-1][1])
        width, height = even_sides(*(max(round(side * scale), 16) for side in facts.size))
        return edited(shot, {"picture": {"width": width, "height": height, "samples": 1}})
    if facts.source_frames is None:
        return shot
    rate = facts.source_frames.rate or shot.clock.rate
    document = shot.model_dump(mode="json")
    document["clock"] |= {"rate": rate, "frames": facts.source_frames.count, "seconds": None}
    if facts.size:
        width, height = even_sides(*facts.size)
        document["picture"] |= {"width": width, "height": height, "samples": 1}
    return read_shot_document(document)


def is_fixable(shot: Shot) -> bool:
    """Whether the source is the user's text, which is fixed in the editor beside its error."""
    return shot.source.traits.own_text and not shot.source.file.lower().endswith(".zip")


def _title(file: Path, traits: SourceTraits) -> str:
    words = file.stem.replace("_", " ").replace("-", " ").strip(" .0123456789") or file.stem or "shot"
    name = f"{words[0].upper()}{words[1:]}"
    return f"{name}, once round" if traits.gives == "geometry" else name
