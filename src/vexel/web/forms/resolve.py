"""Rows completed by the JSON Schema of their document: types, bounds, titles, units and defaults."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from pydantic import BaseModel

from vexel.web.forms.form import Condition, Field, Hint, Option, Row, Rows, Widget

MOST_BESIDE = 3
"""More values than this are chosen from a list, and not side by side."""
HEX = r"^#[0-9a-fA-F]{6}$"
"""Pattern of colours in documents."""
Schema = Mapping[str, Any]


def resolved(model: type[BaseModel], rows: Rows, prefix: str = "", *, hidden: Iterable[str] = ()) -> list[Row]:
    """Complete rows, and add one for each plain value of the model that none of them shows.

    Parameters
    ----------
    prefix : str
        Path of the model in the document, before those of the rows.
    hidden : iterable of str
        Values that have a control elsewhere, or none; ``name.*`` hides a whole part, ``*`` all.
    """
    schema = model.model_json_schema()
    done = [_completed(row, schema, prefix) for row in rows]
    shown = {field.path for row in rows for field in row.fields}
    shown |= {path for row in rows for field in row.fields for path in field.sets}
    plain = _plain(schema, _followed(schema, schema))
    left = [path for path in plain if path not in shown and not _is_hidden(path, set(hidden))]
    return done + [_completed(_further(path, schema), schema, prefix) for path in left]


def _further(path: str, schema: Schema) -> Row:
    """A row for a value that no table names."""
    found = _property(schema, path)
    may_be_null = bool(found.get("null"))
    nothing = "none" if may_be_null or (found.get("type") == "string" and found.get("default") == "") else ""
    return Row(fields=[Field(path=path, nothing=nothing, empty=None if may_be_null else "")], more=True)


def _completed(row: Row, schema: Schema, prefix: str) -> Row:
    called = row.name if len(row.fields) == 1 else ""
    fields = [_field(field, schema, prefix, called or "") for field in row.fields]
    alone = _property(schema, row.fields[0].path) if len(fields) == 1 else {}
    name = row.name
    if name is None:
        name = _title(row.fields[0].path, alone) if alone else ""
    edited = name or (fields[0].label if fields else "")
    return row.model_copy(
        update={
            "name": name,
            "fields": fields,
            "unit": row.unit or str(alone.get("unit", "")),
            "hints": [_placed_hint(hint, prefix) for hint in row.hints],
            "presets": [preset.model_copy(update={"sets": _sets(preset.sets, prefix)}) for preset in row.presets],
            "when": _placed(row.when, prefix),
            "what": row.what or f"the {edited[:1].lower()}{edited[1:]}",
        }
    )


def _field(field: Field, schema: Schema, prefix: str, called: str) -> Field:
    found = _property(schema, field.path)
    kind = found.get("type")
    values: dict[str, Any] = {
        "path": prefix + field.path,
        "label": field.label or called or _title(field.path, found),
        "default": found.get("default"),
        "sets": _sets(field.sets, prefix),
        "options": [
            one.model_copy(update={"sets": _sets(one.sets, prefix), "when": _placed(one.when, prefix)})
            for one in _options(field, found)
        ],
    }
    if field.widget is None:
        if values["options"] or field.options_from:
            beside = len(values["options"]) <= MOST_BESIDE and not field.options_from
            values["widget"] = "choice" if beside else "select"
        else:
            values["widget"] = _widget(found)
    if kind in ("number", "integer"):
        values |= _bounds(field, found)
    return field.model_copy(update=values)


def _options(field: Field, found: Schema) -> list[Option]:
    """The options of a field, and further values that the document allows."""
    listed = [one.value for one in field.options]
    further = [value for value in found.get("enum", ()) if value not in listed]
    return [*field.options, *(Option(value=value, label=_words(str(value))) for value in further)]


def _widget(found: Schema) -> Widget:
    match found.get("type"), found.get("format", ""):
        case "number" | "integer", _:
            return "number"
        case "boolean", _:
            return "check"
        case _, "easing":
            return "easing"
    return "colour" if found.get("pattern") == HEX else "text"


def _bounds(field: Field, found: Schema) -> dict[str, Any]:
    """Bounds in the shown unit."""
    whole = found["type"] == "integer"
    low, high = found.get("minimum"), found.get("maximum")
    if whole and (beyond := found.get("exclusiveMaximum")) is not None:
        high = beyond - 1
    times = field.scale
    return {
        "whole": whole and times == 1,
        "low": field.low if field.low is not None or low is None else low * times,
        "high": field.high if field.high is not None or high is None else high * times,
        "above": found.get("exclusiveMinimum"),
        "step": field.step or found.get("step"),
    }


def _property(schema: Schema, path: str) -> Schema:
    """The schema of a value; of one that may be null, that of the value itself."""
    at: Schema = _followed(schema, schema)
    for name in path.split("."):
        if name.isdecimal():
            items = at.get("prefixItems")
            at = _followed(schema, items[int(name)] if items else at.get("items", {}))
        else:
            properties = at.get("properties", {})
            if name not in properties:
                raise KeyError(f"{schema.get('title')} has no {path}")
            at = _followed(schema, properties[name])
    return at


def _followed(schema: Schema, at: Schema) -> Schema:
    """The target of a reference, with keywords beside the reference; of a union with null, the other member."""
    if "$ref" in at:
        target = schema["$defs"][str(at["$ref"]).rsplit("/", 1)[-1]]
        return _followed(schema, {**target, **{name: value for name, value in at.items() if name != "$ref"}})
    if "anyOf" in at:
        others = [one for one in at["anyOf"] if one.get("type") != "null"]
        if len(others) < len(at["anyOf"]) and len(others) == 1:
            rest = {name: value for name, value in at.items() if name != "anyOf"}
            return {**_followed(schema, others[0]), **rest, "null": True}
    return at


def _plain(schema: Schema, at: Schema, prefix: str = "") -> Iterable[str]:
    """Paths of all numbers, texts, choices and yes-or-noes, also in parts of parts."""
    for name, of in at.get("properties", {}).items():
        found = _followed(schema, of)
        if "properties" in found:
            yield from _plain(schema, found, f"{prefix}{name}.")
        elif "const" not in found and ("enum" in found or found.get("type") in _PLAIN):
            yield prefix + name


_PLAIN = ("number", "integer", "string", "boolean")


def _is_hidden(path: str, hidden: set[str]) -> bool:
    return "*" in hidden or path in hidden or any(one.endswith(".*") and path.startswith(one[:-1]) for one in hidden)


def _title(path: str, found: Schema) -> str:
    """What a value is called: by the document, or by its name there."""
    title = str(found.get("title", ""))
    name = next(part for part in reversed(path.split(".")) if not part.isdecimal())
    # Without a title, pydantic capitalizes every word of the name.
    return title if title and title != name.replace("_", " ").title() else _words(name).capitalize()


def _words(name: str) -> str:
    return name.replace("_", " ").replace("-", " ")


def _placed(conditions: Sequence[Condition], prefix: str) -> list[Condition]:
    return [
        one if one.path.startswith("$") else one.model_copy(update={"path": prefix + one.path}) for one in conditions
    ]


def _placed_hint(hint: Hint, prefix: str) -> Hint:
    return hint.model_copy(update={"text": hint.text.replace("{=", "{=" + prefix), "when": _placed(hint.when, prefix)})


def _sets(sets: Mapping[str, Any], prefix: str) -> dict[str, Any]:
    return {prefix + path: value for path, value in sets.items()}
