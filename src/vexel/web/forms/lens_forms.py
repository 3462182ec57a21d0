"""The lens of a camera."""

from vexel.core.camera.lens import SENSORS
from vexel.web.forms.form import Hint, Option, field, row, unless, usual, when

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
                value="panorama", label="sphere", hint="360°, equirectangular", sets={"f_stop": None, "shift_mm": None}
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
        options=[Option(value=None, label="all sharp"), Option(value=2.8, label="blurred", others=True)],
        hints=[Hint(text="Blur is made of samples: use 32 or more.", when=[OPEN])],
        when=[DEEP],
        what="what is sharp",
    ),
    row("f_stop", name="Aperture", label="Aperture, f-number", unit="f-number", width="4rem", when=[DEEP, OPEN]),
    row(
        field(
            "focus",
            options=[Option(value=None, label="look-at point"), Option(value=10, label="a distance", others=True)],
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
