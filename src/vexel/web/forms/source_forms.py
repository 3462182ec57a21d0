"""The options of sources, by their kinds."""

from vexel.web.forms.form import Option, field, row, unless, when

BETWEEN = row(
    "between",
    label="Between pictures",
    options={"nearest": "previous", "blend": "blended", "refuse": ("refuse", "No frame may be dropped or doubled")},
    hint="Where frame times differ from the source's.",
    what="interpolation",
)
AT_RATE = unless("rate", None)
SOURCES = {
    "model": [],
    "sketch": [row("seed", hint="for the random numbers passed to the drawing")],
    "page": [row("seed", hint="for Math.random")],
    "simulation": [
        row("pace", step=0.1, hint="simulated seconds per second of video"),
        row("warm_up", name="Warm-up", label="Warm-up steps", unit="steps", step=10, hint="run before frame 0"),
        row("seed", hint="for the random numbers passed to start"),
    ],
    "object": [
        row(
            "up", label="Up axis", hint="the file's axis that points up; auto is y for glTF, else z", what="the up axis"
        ),
        row(
            "low_pass",
            label="Low pass of soft points",
            step=0.1,
            hint="added to the variance of a scan's soft points; scans are made with 0.3",
            when=[when("$suffix", "ply")],
        ),
        row("animation", label="Animation of the file", options_from="animations", when=[when("$several_animations")]),
    ],
    "photo": [row("layer", label="Layer of the file", options_from="layers", when=[when("$several_layers")])],
    "stills": [
        row(
            "rate", label="Rate of the stills", unit="pictures per second", width="5rem", what="the rate of the stills"
        ),
        row("reverse", name="Order", label="Order", options={False: "forwards", True: "backwards"}),
        row(
            "gaps",
            hint="what to show for a missing number",
            options={
                "refuse": "refuse",
                "hold": ("hold", "The previous picture"),
                "blend": ("blend", "A blend of its neighbours"),
                "skip": ("leave out", "Nothing: the next picture follows at once"),
            },
        ),
        row(
            "other_sizes",
            hint="pictures of another size than most",
            widget="select",
            options={
                "contain": "whole picture",
                "cover": "fill the frame",
                "none": "crop, not scaled",
                "skip": "leave out",
            },
        ),
        BETWEEN,
        row("layer", label="Layer of the files", options_from="layers", when=[when("$several_layers")]),
    ],
    "clip": [
        BETWEEN,
        row(
            "fields",
            hint="of interlaced video",
            options={"as-is": "unchanged", "deinterlace": "deinterlace"},
            what="deinterlacing",
        ),
        row(
            "colours",
            hint="of HDR and BT.2020 video",
            options={"as-is": "unchanged", "srgb": ("convert to sRGB", "HDR through a tone curve")},
        ),
    ],
    "series": [
        row(
            field(
                "rate",
                label="Slices",
                options=[Option(value=None, label="one per frame"), Option(value="12", label="at a rate", others=True)],
            ),
            name="Show",
            what="the rate of the data",
        ),
        row(
            "rate",
            label="Rate of the data",
            unit="slices per second",
            width="5rem",
            when=[AT_RATE],
            what="the rate of the data",
        ),
        row(
            "between",
            label="Between slices",
            options={"nearest": "previous", "linear": "interpolated"},
            hint="what is shown between two slices",
            when=[AT_RATE],
            what="interpolation",
        ),
    ],
}
"""Rows of kinds of sources; a value that none of them shows has one at the end."""
