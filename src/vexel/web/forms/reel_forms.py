"""The sheets of a reel."""

from vexel.core.reel.item_spec import AnyItem, CellSpec, FramingSpec, TransitionSpec
from vexel.core.reel.reel_spec import FormatSpec, MarkSpec, Reel, SoundSpec
from vexel.web.forms.form import Forms, Option, Row, field, row, special, unless, when
from vexel.web.forms.kinds import members
from vexel.web.forms.resolve import resolved

CUT = when("kind", "cut")
TRANSITION = [
    row(
        "kind",
        label="Transition",
        widget="select",
        options={
            "cut": "cut",
            "cross-dissolve": "cross-dissolve",
            "dip-to-colour": "dip to colour",
            "wipe": "wipe",
            "slide": "slide",
        },
    ),
    row(
        "frames",
        label="Frames of the transition",
        unit="{$seconds} s",
        low=1,
        width="4.5rem",
        when=[unless("kind", "cut")],
    ),
    row("colour", label="Colour of the transition", widget="colour", when=[when("kind", "dip-to-colour")]),
    row("towards", label="Direction", widget="select", when=[when("kind", "wipe", "slide")]),
    row("in_step", name="Match motion", label="The motion continues across the transition"),
]


def _length(**sets: object) -> Row:
    length = field("seconds", label="Length", widget="length", width="6rem", nothing="its own", sets=sets)
    return row(length, name="Length", unit="2.5 s or 60 f", what="the length")


LENGTH, PLAYED_LENGTH = _length(), _length(speed=1)
UNFITTED = {"seconds": None, "frames": None}
SPEED = field("speed", width="4.5rem", before="speed", sets=UNFITTED)
REPEAT = row(field("repeat", width="4.5rem"), SPEED, name="Repeat", what="the repeats")
FITS = {"contain": "whole picture", "cover": "fill the frame", "none": "not scaled"}
FIT = row("fit", widget="select", options=FITS)
FOCUS = row(
    field("focus_x", scale=100, width="3.5rem", before="x"),
    field("focus_y", scale=100, width="3.5rem", before="y"),
    name="Focus %",
    what="the focus",
    hint="The point that stays in sight where edges are cut off",
    when=[unless("fit", "contain")],
)
ARRANGEMENTS = [
    Option(value="row", label="side by side"),
    Option(value="column", label="stacked"),
    Option(value="grid", label="a grid"),
    Option(value="large", label="one large, others small"),
    Option(value="inset", label="one in the other"),
    Option(value="divided", label="a dividing line", when=[when("$cells", 2)]),
]
PLAYED = [
    special("shows"),
    row(
        field("first", label="First frame", width="4.5rem", after="–"),
        field("last", label="Last frame", width="4.5rem", nothing="last"),
        name="Frames",
        what="the frames",
    ),
    row(
        field("repeat", width="4.5rem"),
        field(
            "order",
            widget="select",
            options={"forward": "forward", "backward": "backward", "there-and-back": "ping-pong"},
        ),
        name="Repeat",
        what="the repeats",
    ),
    PLAYED_LENGTH,
    row(
        field("speed", width="4.5rem", sets=UNFITTED),
        field(
            "between",
            label="Between frames",
            widget="select",
            options={"nearest": "nearest frame", "blend": "blended", "refuse": "refuse", "true": "true frames"},
        ),
        name="Speed",
        what="the speed",
    ),
    row(
        field("hold_start", label="Frames held before", width="4.5rem"),
        field("hold_end", label="Frames held after", width="4.5rem"),
        name="Hold",
        unit="before, after",
    ),
    FIT,
    FOCUS,
]
SOUND = [
    row(
        field("at", label="Sound begins at", width="4rem", after="from"),
        field("first", label="From second of the file", width="4rem"),
        name="Begins at",
        what="the sound",
    ),
    row(
        field("seconds", label="Seconds of the sound", width="4.5rem", nothing="all", after="gain"),
        field("gain_db", label="Gain in dB", width="4rem"),
        name="Lasts",
        unit="dB",
        what="the sound",
    ),
    row(
        field("fade_in", width="4rem"), field("fade_out", width="4rem"), name="Fades", unit="in, out", what="the sound"
    ),
]
ITEMS = {
    "take": PLAYED,
    "shot": PLAYED,
    "clip": [*PLAYED, row("audible", name="Sound", label="Play the clip's own sound", what="the clip's sound")],
    "stills": [
        *PLAYED,
        row("rate", label="Rate of the stills", unit="fps", width="6rem", nothing="the reel's", empty=""),
    ],
    "title": [
        special("title-text"),
        row("size", label="Height of a line", width="4.5rem"),
        row(
            field("colour", label="Colour of the text", widget="colour", after="on"),
            field("background", label="Background of the title", widget="text", width="7rem", nothing="the reel's"),
            name="Colour",
            what="the colours",
        ),
        row("image", label="Image behind the title", width="100%", nothing="none", empty=""),
        FOCUS.model_copy(update={"when": [unless("image")]}),
        LENGTH,
    ],
    "gap": [LENGTH],
    "reel": [REPEAT, PLAYED_LENGTH],
    "group": [
        REPEAT,
        row("ease", name="Easing", label="Group easing", widget="easing", what="the course of time"),
        PLAYED_LENGTH,
    ],
    "layout": [
        row(
            "arrangement",
            name="As",
            label="Arrangement",
            widget="select",
            options=ARRANGEMENTS,
        ),
        row("columns", unit="0: as many as rows", width="4.5rem", when=[when("arrangement", "grid")]),
        row("share", name="Size", label="Size", width="4.5rem", when=[when("arrangement", "large", "inset")]),
        LENGTH,
    ],
}
WHOLE = [
    row("rate", label="Rate of the reel", unit="fps", width="6rem"),
    row(field("width", width="5rem"), field("height", width="5rem"), name="Size"),
    row("background", label="Background of the reel", width="7rem"),
    row(
        field("seconds", label="Length of the reel", widget="length", width="6rem", nothing="its own"),
        name="Fit length to",
        unit="12 s or 288 f",
        what="the length",
    ),
]
SOUND_AS_A_WHOLE = [
    row("loudness", unit="LUFS, such as −23", width="6rem", nothing="unchanged"),
    row("limit", name="Peaks", label="Limit to −1 dBFS", what="the limiter"),
]
MARK = [
    row("corner", label="Corner of the watermark", widget="select"),
    row(
        field("size", label="Height of the watermark", width="4rem", after="opacity"),
        field("opacity", label="Opacity of the watermark", width="4rem"),
        name="Height",
        what="the watermark",
    ),
]
CELL = [
    row("caption", nothing="none", empty="", width="9rem"),
    row("offset", name="Delay", label="Delay in frames", unit="frames", width="4.5rem"),
]
CELLS = [
    row(
        field("margin", label="Margin around each", width="4rem", after="border"),
        field("border", label="Border of each", width="4rem"),
        name="Margin",
    )
]
UNFRAMED = ("gap", "group", "layout", "reel")
"""Kinds of items without a picture to fit."""
FRAMING = [
    row(
        "fit",
        widget="select",
        options=[Option(value=None, label="as the format"), *field("fit", options=FITS).options],
        when=[when("$shows", "pictures")],
    ),
    row(
        field("focus_x", scale=100, width="3.5rem", nothing="own", before="x"),
        field("focus_y", scale=100, width="3.5rem", nothing="own", before="y"),
        name="Focus %",
        what="the focus",
        hint="The point that stays in sight where edges are cut off",
        when=[when("$cropped")],
    ),
    row(
        "arrangement",
        widget="select",
        options=[Option(value=None, label="usual"), *ARRANGEMENTS],
        hint="Usual: side by side becomes stacked where the frame is upright",
        when=[when("$shows", "cells")],
    ),
    row("size", width="4.5rem", nothing="usual", when=[when("$shows", "text")]),
]
FORMAT = [
    row(field("width", width="5rem"), field("height", width="5rem"), name="Size", unit="px"),
    row("fit", widget="select", options=FITS),
]
OF_ITEMS = ["frames", "transition.*", "file", "take", "shot", "reel", "camera", "render_pass", "name"]


def reel_forms() -> Forms:
    """See the module; worked out of the documents' schemas."""
    return {
        "reel": resolved(Reel, WHOLE, hidden="*"),
        "reel.sound": resolved(Reel, SOUND_AS_A_WHOLE, hidden="*"),
        "transition": resolved(TransitionSpec, TRANSITION),
        "sound": resolved(SoundSpec, SOUND, hidden=["file"]),
        "mark": resolved(MarkSpec, MARK, hidden=["file"]),
        "framing": resolved(FramingSpec, FRAMING),
        "format": resolved(FormatSpec, FORMAT, hidden=["name"]),
        "cell": resolved(CellSpec, CELL, hidden="*"),
        "cells": resolved(CellSpec, CELLS, hidden="*"),
        **{
            f"item.{kind}": resolved(
                model,
                ITEMS.get(kind, []),
                hidden=[
                    *OF_ITEMS,
                    *(["text", "fit"] if kind == "title" else []),
                    *(["fit", "focus_x", "focus_y"] if kind in UNFRAMED else []),
                ],
            )
            for kind, model in members(AnyItem).items()
        },
    }
