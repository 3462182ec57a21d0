"""A reel of the takes of a sweep."""

from collections.abc import Mapping
from math import ceil, sqrt
from typing import Any, Literal

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.sweep.variants import chosen

MOST_CELLS = 64
"""Pictures in one layout of a reel."""
TITLE_SECONDS = 3


def reel_of_sweep(
    shot: Shot, places: Mapping[str, str], arrangement: Literal["one after another", "grid"], favourites: bool = False
) -> dict[str, Any]:
    """The document of a reel: the takes one after another with a title each, or in a synchronized grid.

    Parameters
    ----------
    shot : Shot
        With its sweep.
    places : mapping of str to str
        Where a reel finds the finished takes, such as ``run:3`` or a folder, by the variants' names.

    Raises
    ------
    Mistake
        When a variant has no take yet, or a grid would hold too many.
    """
    sweep = shot.sweep
    if sweep is None or sweep.makes != "shots":
        raise Mistake("the variants are frames of one take: add that take to a reel")
    kept = chosen(sweep, favourites)
    missing = [one.name for one in kept if one.name not in places]
    if missing:
        raise Mistake(f"{len(missing):,} of {len(kept):,} variants have no take, such as {missing[0]}: capture them")
    only = shot.camera_passes[0] if len(shot.camera_passes) > 1 else None
    of_pass = {"camera": only.camera, "render_pass": only.render_pass} if only else {}
    takes = [{"kind": "take", "take": places[one.name], "name": one.name} | of_pass for one in kept]
    rate = str(shot.clock.exact.playback.fps)
    document: dict[str, Any] = {
        "title": f"{shot.title}, variants",
        "rate": rate,
        "width": shot.picture.width,
        "height": shot.picture.height,
    }
    if arrangement == "grid":
        if len(kept) > MOST_CELLS:
            raise Mistake(
                f"a grid holds {MOST_CELLS} takes, and these are {len(kept):,}: mark favourites, or leave out"
            )
        cells = [{"item": take, "caption": one.name} for take, one in zip(takes, kept, strict=True)]
        columns = ceil(sqrt(len(cells)))
        document["items"] = [{"kind": "layout", "arrangement": "grid", "columns": columns, "cells": cells}]
        return document
    titles = [{"kind": "title", "text": one.name, "seconds": TITLE_SECONDS} for one in kept]
    document["items"] = [item for pair in zip(titles, takes, strict=True) for item in pair]
    return document
