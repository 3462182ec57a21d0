"""Turns a validation error into one sentence that names the key and the cure."""

from typing import Any, get_args

from pydantic import BaseModel, ValidationError

from vexel.core.errors import Mistake
from vexel.core.wording import nearest_name

_WANTED = {
    "string_type": "text in quotes",
    "int_type": "a whole number",
    "int_from_float": "a whole number",
    "float_type": "a number",
    "finite_number": "a finite number",
    "list_type": "a list in [ ]",
    "dict_type": "an object in { }",
    "model_type": "an object in { }",
    "model_attributes_type": "an object in { }",
    "tuple_type": "a list in [ ]",
    "none_required": "null",
}

_BOUNDS = {
    "greater_than_equal": "{ge} or more",
    "greater_than": "above {gt}",
    "less_than_equal": "{le} or less",
    "less_than": "below {lt}",
    "literal_error": "{expected}",
}


def validation_message(error: ValidationError, model: type[BaseModel]) -> str:
    """Put the first complaint of a validation error into words.

    Parameters
    ----------
    error : ValidationError
    model : type
        The model that was being read, for the names of its keys.
    """
    first = error.errors(include_url=False)[0]
    kind, loc, context = first["type"], first["loc"], first.get("ctx", {})
    where, owner = _walk(model, loc)
    if kind == "json_invalid":
        return f"is not valid JSON: {context['error']}"
    if kind == "extra_forbidden":
        return f"unknown key {where}; {nearest_name(str(loc[-1]), owner.model_fields if owner else ())}"
    if kind == "missing":
        return f"the key {where} is missing"
    if kind in ("union_tag_invalid", "union_tag_not_found"):
        return f"{where}.kind must be one of {context.get('expected_tags', 'the known kinds')}"
    prefix = f"{where}: " if where else ""
    if kind == "value_error" and isinstance(context.get("error"), Mistake):
        return prefix + str(context["error"])
    got = first["input"]
    if kind in _WANTED:
        return f"{prefix}must be {_WANTED[kind]}, not {_shown(got)}"
    if kind in _BOUNDS:
        bounds = {name: _short(value) for name, value in context.items()}
        return f"{prefix}must be {_BOUNDS[kind].format(**bounds)}, not {_shown(got)}"
    if kind == "too_short":
        return f"{prefix}needs at least {context['min_length']}, and has {context['actual_length']}: add more"
    return f"{prefix}{first['msg'][0].lower()}{first['msg'][1:]}, not {_shown(got)}"


def _walk(model: type[BaseModel], loc: tuple[int | str, ...]) -> tuple[str, type[BaseModel] | None]:
    """The place as ``a.b[2].c`` without union tags, and the model that holds its last key."""
    where, owner, here = "", None, _models_in(model)
    for step in loc:
        tags = {t for m in here for t in _tags(m)}
        # Of several kinds the tag comes first, also where one of them has a key of that name.
        if isinstance(step, str) and step in tags and len(here) > 1:
            here = [m for m in here if step in _tags(m)]
            continue
        where += f"[{step}]" if isinstance(step, int) else f".{step}" if where else step
        if isinstance(step, int):
            continue
        owner = here[0] if here else None
        field = owner.model_fields.get(step) if owner else None
        here = _models_in(field.annotation) if field else []
    return where, owner


def _models_in(annotation: Any) -> list[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return [annotation]
    return [m for inner in get_args(annotation) for m in _models_in(inner)]


def _tags(model: type[BaseModel]) -> tuple[str, ...]:
    kind = model.model_fields.get("kind")
    return get_args(kind.annotation) if kind else ()


def _shown(value: Any) -> str:
    text = repr(value)
    return text if len(text) <= 60 else text[:57] + "…"


def _short(value: Any) -> Any:
    return f"{value:g}" if isinstance(value, float) else value
