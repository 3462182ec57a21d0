"""The rigs: how a camera moves."""

from vexel.web.forms.form import Condition, Hint, Option, Preset, Row, field, rare, row, special, unless, when

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
                options=[Option(value=None, label="by fill"), Option(value=10, label="by distance", others=True)],
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
        *rare(
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
            options={"world": "level", "steady": ("steady", "Turns as little as possible; passes over a pole")},
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
        *rare(
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
                "ease", name="Easing", label="Easing of each travel", widget="easing", what="the easing of the travels"
            ),
        ),
    ],
}
"""Rows of rigs; a value that none of them shows has one at the end."""
RIG_PARTS = ["what", "turns", "direction", "looks", "pace"]
"""Shown by `special` rows: what turns, and what goes with the keys of a path."""
