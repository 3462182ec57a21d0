"""The forms of the interface: every value of a document has a control, with the bounds that the document has."""

import copy
import json
import re
import unittest
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from vexel.core.document.camera_spec import AnyRig, LensSpec
from vexel.core.document.shot import Shot, read_shot_document
from vexel.core.document.source_spec import AnySource
from vexel.core.recipes.recipe import Recipe
from vexel.core.reel.item_spec import AnyItem
from vexel.core.reel.reel_spec import Reel
from vexel.web.forms import forms
from vexel.web.forms.form import row, unless, when
from vexel.web.forms.kinds import members
from vexel.web.forms.resolve import resolved


class Spiral(BaseModel):
    """A rig that no table knows."""

    kind: Literal["spiral"]
    rise: Annotated[float, Field(gt=0, le=5, json_schema_extra={"unit": "m", "step": 0.5})] = 1
    turns: int = Field(default=2, ge=1, lt=100, title="Rounds")
    sense: Literal["in", "out"] = "in"
    tint: str = Field(default="#ffffff", pattern=r"^#[0-9a-fA-F]{6}$")
    held: bool = False
    limit: float | None = Field(default=None, ge=0)
    keys: list[int] = []


def fields_of(name):
    return {field.path: field for row in forms()[name] for field in row.fields}


class FormsTest(unittest.TestCase):
    def test_a_part_without_a_table_has_a_control_for_each_plain_value(self):
        rows = resolved(Spiral, [], "camera.rig.")
        (rise, turns, sense, tint, held, limit) = (row.fields[0] for row in rows)
        self.assertEqual([row.name for row in rows], ["Rise", "Rounds", "Sense", "Tint", "Held", "Limit"])
        self.assertEqual(
            (rise.path, rise.above, rise.high, rise.step, rows[0].unit), ("camera.rig.rise", 0, 5, 0.5, "m")
        )
        self.assertEqual((turns.low, turns.high, turns.whole, turns.default), (1, 99, True, 2))
        self.assertEqual([one.value for one in sense.options], ["in", "out"])
        self.assertEqual([one.widget for one in (tint, held, limit)], ["colour", "check", "number"])
        self.assertEqual((limit.nothing, limit.empty), ("none", None))
        self.assertTrue(all(row.more for row in rows))

    def test_a_value_that_a_table_does_not_know_can_be_chosen(self):
        (first, *_) = resolved(Spiral, [row("sense", options={"in": "inwards"})])
        self.assertEqual(
            [(one.value, one.label) for one in first.fields[0].options], [("in", "inwards"), ("out", "out")]
        )

    def test_a_table_names_what_there_is(self):
        with self.assertRaisesRegex(KeyError, "Spiral has no rize"):
            resolved(Spiral, [row("rize")])
        (first, *_) = resolved(Spiral, [row("rise", scale=100, when=[unless("held"), when("$big")])], "a.")
        self.assertEqual((first.fields[0].high, first.what), (500, "the rise"))
        self.assertEqual([one.path for one in first.when], ["a.held", "$big"])

    def test_every_kind_has_a_form(self):
        names = forms().keys()
        for prefix, union in (("rig", AnyRig), ("source", AnySource), ("item", AnyItem)):
            self.assertLessEqual({f"{prefix}.{kind}" for kind in members(union)}, names)

    def test_bounds_are_those_that_the_document_refuses_beyond(self):
        base = LensSpec().model_dump(mode="json")
        for path, field in fields_of("lens").items():
            name = path.removeprefix("camera.lens.")
            if field.widget != "number" or "." in name:
                continue
            below = field.above if field.above is not None else field.low - 0.001
            for value in (below, None if field.high is None else field.high + 0.001):
                if value is None:
                    continue
                with self.subTest(path, value=value), self.assertRaisesRegex(ValueError, name):
                    LensSpec.model_validate_json(json.dumps(base | {name: value}))
            for value in (field.low, field.high):
                if value is not None:
                    LensSpec.model_validate_json(json.dumps(base | {name: value}))

    def test_what_options_and_presets_set_is_valid(self):
        document = {
            "title": "T", "source": {"kind": "model", "file": "a.py"}, "clock": {"rate": "24", "frames": 24},
        }  # fmt: skip
        shot = read_shot_document(document).model_dump(mode="json")
        count = 0
        for name in ("clock", "picture", "lens", "rig.orbit"):
            for one in forms()[name]:
                sets = [preset.sets for preset in one.presets]
                sets += [{field.path: option.value, **option.sets} for field in one.fields for option in field.options]
                for values in sets:
                    with self.subTest(name, values=values):
                        read_shot_document(_set(shot, values))
                        count += 1
        self.assertGreater(count, 60)

    def test_a_wrong_option_would_be_found(self):
        lens = LensSpec().model_dump(mode="json")
        with self.assertRaisesRegex(ValueError, "has no aperture"):
            LensSpec.model_validate_json(json.dumps(_set(lens, {"projection": "panorama", "f_stop": 2})))

    def test_every_value_has_a_control_or_a_reason(self):
        special = re.compile(
            r"vexel|title|format|items|lanes|labels|markers|sound|mark|cameras|camera\.(name|rig|views)|source|"
            r"clock\.(seconds|frames|first|last|retimed_from|like|pins)|picture\.(passes|background|layout)|ease|"
            r"names\.pattern|sweep(\..*)?|frames|name|about|loses|container|codec|pixels|names|sphere|page\..*|sound\..*|mark\..*|"
            r"quality\.kilobits|size\.(width|height)"
        )
        for model, names in (
            (Shot, ("clock", "picture", "lens")),
            (Reel, ("reel", "reel.sound")),
            (Recipe, ("recipe",)),
        ):
            shown = {path for name in names for path in fields_of(name)}
            everything = [row.fields[0].path for row in resolved(model, [])]
            left = [path for path in everything if path not in shown and not special.fullmatch(path)]
            self.assertEqual(left, [], model)


def _set(document, values):
    anew = copy.deepcopy(document)
    for path, value in values.items():
        *places, name = path.split(".")
        at = anew
        for place in places:
            at = at[place]
        if value is None and name == "shift_mm":
            at.pop(name)
        else:
            at[name] = value
    return anew


if __name__ == "__main__":
    unittest.main()
