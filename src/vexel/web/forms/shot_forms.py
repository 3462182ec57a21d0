"""The sheets of a shot."""

from vexel.core.camera.lens import SENSORS
from vexel.core.document.camera_spec import AnyRig, LensSpec
from vexel.core.document.picture_spec import LabelSpec
from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import AnySource
from vexel.web.forms.form import (
    Condition,
    Forms,
    Hint,
    Option,
    Preset,
    Row,
    field,
    heading,
    row,
    special,
    unless,
    usual,
    when,
)
from vexel.web.forms.kinds import members
from vexel.web.forms.resolve import resolved

RATES = usual("12", "24", "25", "30", "50", "60", "24000/1001", "30000/1001")
BLURS, CLEAR = when("$blurs"), when("picture.background", "transparent")
CLOCK = [
    row("clock.rate", name="Rate", label="Rate", unit="fps", width="8.5rem", presets=RATES),
    special("length"),
    row(
        "clock.span",
        options={"loop": "loop", "ends": "both ends"},
        hints=[
            Hint(
                text="First and last frame are both shown, for a video that plays once.",
                when=[when("clock.span", "ends")],
            ),
            Hint(text="The end equals the start and is left out, for a video that repeats."),
        ],
    ),
    special("motion"),
    row(
        "clock.shutter",
        width="4.6rem",
        hint="Exposure time per frame: an angle, a fraction, or seconds such as 1/48 s.",
        presets={"closed": "0", "90°": "90°", "180°": "180°", "360°": "360°"},
        when=[BLURS],
    ),
    row(
        "clock.shutter_sits",
        name="Alignment",
        label="Shutter alignment",
        options={
            "leading": ("after", "It opens at the frame's instant"),
            "centred": ("around", "The instant is in its middle"),
            "trailing": ("before", "It closes at the frame's instant"),
        },
        when=[BLURS, unless("clock.shutter", "0")],
        what="where the shutter is open",
    ),
    special("like"),
    heading("Frames shown"),
    special("shown"),
    row("clock.every", name="Show every", unit="frame|frames", label="Show every Nth frame", width="3.6rem"),
    row(
        "clock.play",
        name="Playback",
        options={
            "pace": ("keep speed", "The motion keeps its speed, at a lower rate"),
            "rate": ("full rate", "The motion goes faster, at the same rate"),
        },
        when=[unless("clock.every", 1)],
        what="how picked frames are played",
    ),
    row("clock.speed", name="Speed", label="Playback speed", unit="× capture speed", width="4.6rem"),
    row(
        "clock.order",
        label="Order of the frames",
        widget="choice",
        options={
            "forward": "forward",
            "backward": "backward",
            "there-and-back": ("both ways", "Ping-pong: captures the same frames, shows them in both directions"),
        },
    ),
    row(
        field("clock.hold_start", label="Frames held at the start", width="4.6rem", after="and"),
        field("clock.hold_end", label="Frames held at the end", width="4.6rem"),
        name="Hold",
        hint="Still frames before and after the motion.",
    ),
    row(
        "clock.repeats",
        name="Play count",
        unit="times",
        width="4.6rem",
        hint="In a video file; a GIF always loops.",
    ),
    row(
        field("names.start", label="Start number", before="from", width="3.8rem"),
        field("names.digits", label="Digits of file numbers", before="digits", width="3.6rem", nothing="auto"),
        name="File names",
        hint="Start number and zero padding.",
        what="the numbers of the files",
    ),
]

LOOKS = when("$looks")
LIGHT = [
    heading("Light", LOOKS),
    row(
        "light.stands",
        name="Attached to",
        label="What the light is attached to",
        when=[LOOKS],
        what="what the light is attached to",
    ),
    row(
        field("light.azimuth_deg", label="Light azimuth, degrees", width="4.4rem", after="and"),
        field("light.elevation_deg", label="Light elevation, degrees", width="4.4rem"),
        name="Direction",
        hints=[
            Hint(text="Azimuth and elevation, degrees from the front.", when=[when("light.stands", "world")]),
            Hint(text="Azimuth and elevation, degrees from the camera."),
        ],
        when=[LOOKS],
        what="the direction of the light",
    ),
    row(
        "light.strength",
        label="Strength of the light",
        unit="× default",
        width="4.4rem",
        when=[LOOKS],
        what="the strength of the light",
    ),
    row(
        "light.shadow",
        label="Shadow, per cent",
        unit="%",
        scale=100,
        step=10,
        width="4.4rem",
        hints=[Hint(text="Shadow strength; 0 turns shadows off.", when=[when("light.shadow", 0)])],
        when=[LOOKS],
    ),
    row(
        "light.soft_deg",
        name="Softness",
        label="Softness of the shadow, degrees",
        unit="° wide",
        width="4.4rem",
        hint="Soft shadows need 16 or more samples.",
        when=[LOOKS, unless("light.shadow")],
        what="the softness of the shadow",
    ),
    row(
        "light.environment",
        name="Environment light",
        label="Environment light, per cent",
        unit="%",
        scale=100,
        step=10,
        width="4.4rem",
        hints=[
            Hint(text="From sky and earth colours; replaces key and fill light.", when=[when("light.environment", 0)])
        ],
        when=[LOOKS],
    ),
    row(
        field("light.sky", label="Colour of the sky", widget="colour", after="sky"),
        field("light.earth", label="Colour of the earth", widget="colour", after="earth"),
        when=[LOOKS, unless("light.environment")],
        what="the colours of the environment",
    ),
    row(
        "light.surround",
        name="Ambient occlusion",
        label="Ambient occlusion, per cent",
        unit="%",
        scale=100,
        step=10,
        width="4.4rem",
        hint="Darkens corners and crevices; slow.",
        when=[LOOKS],
    ),
]
SIZES = {"720p": (1280, 720), "1080p": (1920, 1080), "2160p": (3840, 2160), "square": (1080, 1080),
         "portrait": (1080, 1920)}  # fmt: skip
PICTURE = [
    row(
        field("picture.width", width="4.2rem", after="×"),
        field("picture.height", width="4.2rem"),
        name="Size",
        unit="px",
        presets=[
            Preset(label=name, title=f"{wide} × {high}", sets={"picture.width": wide, "picture.height": high})
            for name, (wide, high) in SIZES.items()
        ],
    ),
    row(
        "picture.samples",
        width="4.2rem",
        hint="Per pixel: 1 is fast and jagged, 4 is clean, 16 is for fine lines.",
        presets=usual(1, 4, 8, 16),
        presets_in="beside",
    ),
    special("passes", LOOKS),
    special("background"),
    row(
        "picture.ground",
        options={False: "none", True: "under the subject"},
        hints=[Hint(text="Catches shadows, matches the background.", when=[when("picture.ground")])],
        when=[LOOKS],
    ),
    row(
        "picture.contact",
        name="Contact",
        label="Contact shadow, per cent",
        unit="% dark",
        scale=100,
        step=10,
        width="4.4rem",
        when=[LOOKS, when("picture.ground")],
        what="the contact shadow",
    ),
    row(
        "picture.format",
        name="Frames",
        label="Format of the frames",
        options={
            "png": "PNG",
            "png16": ("16 bits", "PNG with 16 bits a channel"),
            "exr": ("EXR", "OpenEXR: linear light in half floats"),
        },
        what="the format of the frames",
    ),
    row(
        "picture.alpha",
        label="Alpha of the frames",
        hints=[
            Hint(text="Colours multiplied by alpha: for compositing.", when=[when("picture.alpha", "premultiplied")]),
            Hint(text="Colours as they are: for most programs."),
        ],
        when=[CLEAR],
    ),
    row(
        "recipe",
        name="Output format",
        options_from="recipes",
        hint="Findings list what this kind of file cannot keep.",
        what="what it is made into",
    ),
    *LIGHT,
    special("labels"),
]

FLAT, ALL = when("projection", "parallel"), when("projection", "panorama")
NOT_ALL, DEEP = unless("projection", "panorama"), when("projection", "perspective")
OPEN = unless("f_stop", None)
LENS = [
    row("focal_mm", name="Focal length", label="Focal length", presets=usual(24, 35, 50, 85, 135), when=[NOT_ALL]),
    row(
        "sensor",
        unit="mm",
        width="7rem",
        hint="width x height; frames of another shape are cropped from it",
        presets={name: size for size, name in SENSORS.items()},
        when=[NOT_ALL],
    ),
    row(
        "projection",
        options=[
            Option(value="perspective", label="perspective"),
            Option(value="parallel", label="parallel", sets={"f_stop": None}),
            Option(
                value="panorama",
                label="sphere",
                hint="360°, equirectangular",
                sets={"f_stop": None, "shift_mm": None},
            ),
        ],
        hints=[
            Hint(text="Renders a 360° panorama (equirectangular).", when=[ALL]),
            Hint(text="Equal lengths appear equal at any distance (orthographic).", when=[FLAT]),
        ],
    ),
    row(
        "covers",
        label="What the panorama covers",
        options={"sphere": ("whole sphere", "360° × 180°"), "half": ("half", "180° × 180°, ahead")},
        when=[ALL],
        what="what the panorama covers",
    ),
    row(
        "eyes",
        label="Mono or stereo",
        options={
            "one": "one",
            "top-bottom": ("stacked", "left eye above, right eye below"),
            "left-right": ("beside", "left eye on the left"),
        },
        when=[ALL],
    ),
    row(
        "eye_mm",
        name="Eye separation",
        label="Between the eyes, mm",
        hint="One unit of the source is {=unit_mm} mm.",
        when=[ALL, unless("eyes", "one")],
    ),
    row(
        field("shift_mm.0", label="Shift to the right, mm", width="3.6rem", after="and"),
        field("shift_mm.1", label="Shift up, mm", width="3.6rem"),
        name="Shift",
        unit="mm",
        hint="right and up on the sensor; verticals stay vertical",
        when=[NOT_ALL],
    ),
    row(
        "f_stop",
        name="Depth of field",
        label="What is sharp",
        options=[
            Option(value=None, label="all sharp"),
            Option(value=2.8, label="blurred", others=True),
        ],
        hints=[Hint(text="Blur is made of samples: use 32 or more.", when=[OPEN])],
        when=[DEEP],
        what="what is sharp",
    ),
    row(
        "f_stop",
        name="Aperture",
        label="Aperture, f-number",
        unit="f-number",
        width="4rem",
        when=[DEEP, OPEN],
    ),
    row(
        field(
            "focus",
            options=[
                Option(value=None, label="look-at point"),
                Option(value=10, label="a distance", others=True),
            ],
        ),
        name="Focus",
        hints=[Hint(text="on the point that the camera looks at", when=[when("focus", None)])],
        when=[DEEP, OPEN],
    ),
    row(
        "focus",
        name="",
        label="Focus distance",
        width="4rem",
        when=[DEEP, OPEN, unless("focus", None)],
        what="the focus",
    ),
    row(
        "unit_mm",
        name="Source unit",
        label="Millimetres in one unit of the source",
        width="5rem",
        hint="size of one source unit; sets the scale of the blur",
        when=[DEEP, OPEN],
        what="the size of a unit",
    ),
]

SIDES: dict[str, tuple[float, float]] = {
    "front": (0, 0),
    "right": (90, 0),
    "back": (180, 0),
    "left": (-90, 0),
    "top": (0, 90),
    # All three axes are equally foreshortened: elevation atan(1/√2).
    "isometric": (45, 35.2644),
}
"""Usual ways to look at something: start and elevation in degrees."""
PLACED, BY_ANGLE = unless("position", None), when("position", None)


def _sides(**others: object) -> Row:
    return Row(
        presets=[
            Preset(label=name, sets={"start_deg": start, "elevation_deg": elevation, **others})
            for name, (start, elevation) in SIDES.items()
        ],
        what="the side that is seen",
    )


def _angles(*conditions: Condition) -> list[Row]:
    at_all = list(conditions)
    by_fill, by_distance = [*at_all, when("distance", None)], [*at_all, unless("distance", None)]
    return [
        row(
            "start_deg",
            name="Start",
            label="Start angle",
            hint="0° looks at the front, along +y; 90° from the right",
            when=at_all,
            what="the start angle",
        ),
        row("elevation_deg", hint="above the horizon; below 0 looks from underneath", when=at_all),
        row(
            field(
                "distance",
                label="Framing",
                options=[
                    Option(value=None, label="by fill"),
                    Option(value=10, label="by distance", others=True),
                ],
            ),
            name="Framing",
            when=at_all,
            what="how far off it stands",
        ),
        row(
            "fill",
            label="Fill, per cent",
            unit="%",
            scale=100,
            step=1,
            hint="share of the frame's shorter side that the subject fills",
            when=by_fill,
        ),
        row(
            "distance",
            label="Distance from the centre",
            hint="from the centre, in the source's units",
            when=by_distance,
        ),
    ]


def _centre(name: str) -> list[Row]:
    at_point = unless("centre", None, "centroid")
    return [
        row(
            field(
                "centre",
                label="The centre",
                options=[
                    Option(value=None, label="middle"),
                    Option(value="centroid", label="centroid"),
                    Option(value=[0, 0, 0], label="a point", others=True),
                ],
            ),
            name=name,
            hints=[
                Hint(text="the centre of its bounding box over the whole shot", when=[when("centre", None)]),
                Hint(text="the centroid of its surface", when=[when("centre", "centroid")]),
                Hint(text="x, y, z in the source's units"),
            ],
            what="the centre",
        ),
        row(field("centre", label="Centre", widget="point"), name="", when=[at_point], what="the centre"),
        special("pick"),
    ]


RIGS = {
    "still": [
        _sides(roll_deg=0, position=None),
        row(field("position", label="Position", widget="point"), when=[PLACED], what="the camera position"),
        Row(
            presets=[Preset(label="Place by angle and fill", sets={"position": None})],
            when=[PLACED],
            what="the camera position",
        ),
        *_angles(BY_ANGLE),
        *_centre("Looks at"),
        row("roll_deg", name="Roll", label="Roll", hint="clockwise; 0 keeps the horizon level"),
        Row(
            presets=[Preset(label="Level the horizon", sets={"roll_deg": 0})],
            when=[unless("roll_deg", 0)],
            what="the horizon",
        ),
    ],
    "orbit": [
        special("turns"),
        _sides(),
        *_angles(),
        *_centre("Round"),
        row(
            field("axis", label="Axis", widget="point"),
            name="Axis",
            hint="of rotation, pointing up: 0, 0, 1 is vertical",
        ),
        row(
            "ease",
            name="Easing",
            label="Easing of each turn",
            widget="easing",
            hint="linear turns at constant speed",
            what="the easing of the turns",
        ),
    ],
    "path": [
        row("curve", label="Curve between keys", what="the way from key to key"),
        row(
            "closed",
            name="Path",
            label="Whether the path is closed",
            options={False: "open", True: "closed"},
            what="where the path ends",
        ),
        special("path-looks"),
        row(
            "up",
            label="Which way is up",
            options={
                "world": "level",
                "steady": ("steady", "Turns as little as possible; passes over a pole"),
            },
            what="which way is up",
        ),
        row(
            "bank",
            name="Banking",
            label="Banking, degrees per degree of turn",
            unit="° per ° of turn",
            step=0.5,
            width="4rem",
        ),
        special("path-keys"),
    ],
    "stops": [
        row("dwell_seconds", name="Dwell", label="Dwell at each view, seconds", unit="s at each view", width="4.2rem"),
        row(
            "travel_seconds",
            name="Travel",
            label="Travel to the next view, seconds",
            unit="s to the next",
            width="4.2rem",
            hint="{$reason}",
        ),
        row(
            "way",
            name="Route",
            label="Route between views",
            options={
                "around": ("around", "About the subject's middle, on the shorter side"),
                "straight": "straight",
                "cut": ("cut", "Takes no time"),
            },
        ),
        row(
            "closed",
            name="Last view",
            label="Whether the route is closed",
            options={False: "open", True: "closed"},
            what="where the walk ends",
        ),
        row(
            "ease",
            name="Easing",
            label="Easing of each travel",
            widget="easing",
            what="the easing of the travels",
        ),
    ],
}
"""Rows of rigs; a value that none of them shows has one at the end."""
BETWEEN = row(
    "between",
    label="Between pictures",
    options={
        "nearest": "the one before",
        "blend": "both",
        "refuse": ("refuse", "No frame may be dropped or doubled"),
    },
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
        row(
            "animation",
            label="Animation of the file",
            options_from="animations",
            when=[when("$several_animations")],
        ),
    ],
    "stills": [
        row(
            "rate",
            label="Rate of the stills",
            unit="pictures per second",
            width="5rem",
            what="the rate of the stills",
        ),
        row("reverse", name="Order", label="Order", options={False: "forwards", True: "backwards"}),
        row(
            "gaps",
            hint="what to show for a missing number",
            options={
                "refuse": "refuse",
                "hold": ("hold", "The previous picture"),
                "blend": ("blend", "A blend of its neighbours"),
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
            options={"as-is": "as they are", "deinterlace": "deinterlace"},
            what="deinterlacing",
        ),
        row(
            "colours",
            hint="of HDR and BT.2020 video",
            options={"as-is": "as they are", "srgb": ("convert to sRGB", "HDR through a tone curve")},
        ),
    ],
    "series": [
        row(
            field(
                "rate",
                label="Slices",
                options=[
                    Option(value=None, label="one per frame"),
                    Option(value="12", label="at a rate", others=True),
                ],
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
            options={"nearest": "the one before", "linear": "both, mixed"},
            hint="what is shown between two slices",
            when=[AT_RATE],
            what="interpolation",
        ),
    ],
}
"""Rows of kinds of sources; a value that none of them shows has one at the end."""
PLACES = {
    "top left": ([0.03, 0.06], "left"),
    "top right": ([0.97, 0.06], "right"),
    "bottom left": ([0.03, 0.94], "left"),
    "bottom": ([0.5, 0.94], "middle"),
    "bottom right": ([0.97, 0.94], "right"),
}
LABEL = [
    Row(
        name="Stands",
        presets=[Preset(label=name, sets={"at": at, "align": align}) for name, (at, align) in PLACES.items()],
        presets_in="list",
        what="the place",
    ),
    row(
        field("at.0", label="From the left, per cent", scale=100, width="3.6rem", after="across,"),
        field("at.1", label="From the top, per cent", scale=100, width="3.6rem"),
        name="At",
        unit="%",
        what="the place",
    ),
    row("align", name="Aligned", label="Alignment", what="the alignment"),
    row(
        field("size", scale=100, step=0.5, width="3.6rem"),
        field("colour", widget="colour"),
        name="Size",
        unit="% of the height",
    ),
    row(
        field("value", width="4rem", after="named"),
        field("name", width="5rem", nothing="no name", empty=""),
        name="Value",
        hint="A name lets a lane drive {value}.",
        when=[when("$driven")],
    ),
]

RIG_PARTS = ["what", "turns", "direction", "looks", "pace"]
"""Shown by `special` rows: what turns, and what goes with the keys of a path."""


def shot_forms() -> Forms:
    """See the module; worked out of the documents' schemas."""
    return {
        "clock": resolved(Shot, CLOCK, hidden="*"),
        "picture": resolved(Shot, PICTURE, hidden="*"),
        "lens": resolved(LensSpec, LENS, "camera.lens."),
        "label": resolved(LabelSpec, LABEL, hidden=["text", "name", "value"]),
        **{
            f"rig.{kind}": resolved(model, RIGS.get(kind, []), "camera.rig.", hidden=RIG_PARTS)
            for kind, model in members(AnyRig).items()
        },
        **{
            f"source.{kind}": resolved(model, SOURCES.get(kind, []), "source.", hidden=["file"])
            for kind, model in members(AnySource).items()
        },
    }
