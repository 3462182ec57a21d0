"""The settings of a recipe."""

from vexel.core.recipes.recipe import Recipe
from vexel.web.forms.form import Forms, field, row, unless, when
from vexel.web.forms.resolve import resolved

PLAIN, NOT_HANDED = when("$plain"), unless("codec", "handover")
VIDEO = when("$video")
RECIPE = [
    row(
        "quality.level",
        label="Quality",
        name="Quality",
        width="5rem",
        bounds_from=["low", "high"],
        unit="{$best} is best, {$worst} smallest",
        sets={"quality.at_most": "", "quality.kilobits": None},
        when=[when("$scale")],
    ),
    row(
        "quality.at_most",
        name="File at most",
        label="File at most",
        nothing="no limit",
        empty="",
        unit="such as 8 MB",
        width="8rem",
        sets={"quality.level": None, "quality.kilobits": None},
        when=[when("$limited")],
    ),
    row(
        "size.long_side",
        label="Long side",
        nothing="as captured",
        width="8rem",
        unit="px at most",
        sets={"size.width": None, "size.height": None},
        when=[PLAIN],
    ),
    row(
        field("timing.rate", label="Rate of the file", width="8rem", nothing="as captured", empty=""),
        name="Rate",
        unit="fps",
        when=[PLAIN, when("$timed")],
    ),
    row(
        "timing.between",
        name="",
        label="Between frames",
        widget="select",
        options={"nearest": "nearest frame", "blend": "blended", "refuse": "refuse"},
        when=[PLAIN, when("$timed"), unless("timing.rate")],
    ),
    row(
        "timing.frames",
        label="Frames of the file",
        name="Frames",
        nothing="all",
        empty="",
        unit="such as 24-95",
        width="8rem",
        when=[NOT_HANDED, unless("container", "still")],
    ),
    row(
        "timing.frames",
        label="Frames of the file",
        name="Frames",
        nothing="all",
        empty="",
        unit="a number, first, middle or last",
        width="8rem",
        when=[NOT_HANDED, when("container", "still")],
    ),
    row(
        "timing.missing",
        name="Missing frames",
        label="Missing frames",
        widget="select",
        options={"refuse": "refuse", "hold": "hold the previous frame"},
        unit="of the take",
        when=[NOT_HANDED, when("$holes")],
    ),
    row("timing.plays", name="Plays", label="Plays", width="5rem", unit="0 is for ever", when=[when("$plays")]),
    row(
        field("palette.colours", width="5rem"),
        field(
            "palette.dither",
            widget="select",
            options={"diffuse": "diffused", "ordered": "ordered", "none": "no dither"},
        ),
        name="Colours",
        unit="",
        when=[when("codec", "gif")],
    ),
    row(
        "size.fit",
        options={"contain": "whole, with bars", "cover": "filled", "none": "not scaled"},
        when=[PLAIN, unless("size.width", None), unless("size.height", None)],
    ),
    *[
        row(path, more=True, when=conditions)
        for path, conditions in {
            "quality.effort": [when("$scale")],
            "size.filter": [PLAIN],
            "size.enlarge": [PLAIN],
            "size.odd": [PLAIN, VIDEO],
            "timing.repeats": [PLAIN, when("$timed")],
            "palette.of": [when("codec", "gif")],
            "alpha": [PLAIN, unless("$keeps_alpha", "none")],
            "key_seconds": [VIDEO],
            "chapters": [VIDEO],
            "compatible": [when("codec", "h264")],
            "colour.range": [VIDEO],
            "colour.matrix": [VIDEO],
            "colour.primaries": [VIDEO],
            "colour.transfer": [VIDEO],
        }.items()
    ],
    row(
        "origin",
        options={"digest": "title, date and digests", "full": "the whole document too", "nothing": "nothing"},
        widget="select",
        more=True,
        when=[NOT_HANDED],
    ),
    row(
        "made_files",
        name="Files",
        label="Include the files made of the take",
        what="the files of the hand-over",
        when=[when("codec", "handover")],
    ),
    row(
        "ground",
        name="Matte",
        label="Matte",
        widget="colour",
        unit="under transparent frames",
        when=[PLAIN, unless("$keeps_alpha", "whole")],
    ),
]
"""Rows of settings; one that none of them shows has one below."""
HIDDEN = ["name", "about", "loses", "container", "codec", "pixels", "names", "sphere", "sound.*", "page.*"]


def recipe_forms() -> Forms:
    """See the module; worked out of the documents' schemas."""
    return {"recipe": resolved(Recipe, RECIPE, hidden=HIDDEN)}
