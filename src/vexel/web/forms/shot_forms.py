"""The sheets of a shot: clock, picture, light and labels, with those of lens, rigs and sources."""

from vexel.core.document.camera_spec import AnyRig, LensSpec
from vexel.core.document.picture_spec import LabelSpec
from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import AnySource
from vexel.web.forms.form import Forms, Hint, Preset, Row, field, heading, row, special, unless, usual, when
from vexel.web.forms.kinds import members
from vexel.web.forms.lens_forms import LENS
from vexel.web.forms.resolve import resolved
from vexel.web.forms.rig_forms import RIG_PARTS, RIGS
from vexel.web.forms.source_forms import SOURCES

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
    row(
        "clock.speed",
        name="Play speed",
        label="Playback speed",
        unit="× capture speed",
        width="4.6rem",
        hint="Plays the same frames faster or slower. To capture more frames, use Retime motion.",
    ),
    row(
        "clock.order",
        label="Order of the frames",
        widget="choice",
        options={
            "forward": "forward",
            "backward": "backward",
            "there-and-back": ("ping-pong", "Captures the same frames, shows them in both directions"),
        },
    ),
    row(
        field("clock.hold_start", label="Frames held at the start", width="4.6rem", after="and"),
        field("clock.hold_end", label="Frames held at the end", width="4.6rem"),
        name="Hold",
        hint="Still frames before and after the motion.",
    ),
    row("clock.repeats", name="Play count", unit="times", width="4.6rem", hint="In a video file; a GIF always loops."),
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
            Hint(text="Colours not multiplied by alpha: for most programs."),
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
