"""Calls made up from the OpenAPI document, right ones and hostile ones, and what must hold of every answer."""

import json
import re
from dataclasses import dataclass, field
from urllib.parse import quote, urlencode

from hypothesis import strategies as st

from vexel.core.document.shot import Shot
from vexel.web.openapi import document

RIGHT = 9
"""For each strange value so many that the schema allows: half of the values of a call must be right to get anywhere,
and of equal strategies `one_of` counts but one."""
HUGE = st.sampled_from([2**31, 2**53 + 1, 2**63, 2**63 + 1, -1, 10**30, 10**100])
STRANGE_TEXT = st.sampled_from(
    ["", "\0", "a\0b", "..", "../..", "/etc/passwd", "%00", "é" * 300, "x" * 300, "\ud800", "1e400", "9" * 100, "１２",
     "<b>", "null", "\u202e", "-1", "NaN"]
)  # fmt: skip
STRANGE = st.one_of(
    st.none(), st.booleans(), HUGE, STRANGE_TEXT, st.floats(), st.lists(st.integers(0, 3), max_size=3),
    st.dictionaries(st.sampled_from(["kind", "a", ""]), st.integers(0, 3), max_size=2),
)  # fmt: skip
TEXT = st.one_of(st.text(st.characters(codec="utf-8"), max_size=12), STRANGE_TEXT)


@dataclass(frozen=True)
class Call:
    """One call of an operation."""

    method: str
    path: str
    body: bytes = b""
    headers: dict = field(default_factory=dict)
    documented: tuple[str, ...] = ()

    def wrong(self, status: int, told: bytes) -> str:
        """What of an answer must not be; empty where all is well."""
        if status >= 500 and status != 507:
            return f"status {status}: {told[:300]!r}"
        if str(status) not in self.documented:
            return f"status {status} is not in the document: {told[:300]!r}"
        if status >= 400 and not (isinstance(sentence := json.loads(told).get("error"), str) and sentence):
            return f"no sentence: {told[:300]!r}"
        if status >= 400 and re.search(r"Traceback|Error\(|\.py\", line", told.decode()):
            return f"no sentence for people: {told[:300]!r}"
        return ""


def mostly(right: st.SearchStrategy, strange: st.SearchStrategy) -> st.SearchStrategy:
    """A right value, and now and then a strange one."""
    return st.sampled_from([right] * RIGHT + [strange]).flatmap(lambda chosen: chosen)


def of_schema(schema: dict, names: dict, deep: int = 0) -> st.SearchStrategy:
    """Values of a JSON schema, and now and then another one."""
    right = _right(schema, names, deep)
    return right if deep > 6 else mostly(right, STRANGE)


def _right(schema: dict, names: dict, deep: int) -> st.SearchStrategy:
    if "$ref" in schema:
        return _right(names[schema["$ref"].rsplit("/", 1)[1]], names, deep + 1)
    for key in ("anyOf", "oneOf", "allOf"):
        if key in schema:
            return st.one_of([_right(one, names, deep + 1) for one in schema[key]])
    if "const" in schema:
        return st.just(schema["const"])
    if "enum" in schema:
        return st.sampled_from(schema["enum"])
    kind = schema.get("type")
    if kind == "object":
        known = {name: of_schema(one, names, deep + 1) for name, one in schema.get("properties", {}).items()}
        needed = {name: known.pop(name) for name in schema.get("required", ()) if name in known}
        return (
            st.fixed_dictionaries(needed, optional=known)
            if needed or known
            else st.dictionaries(TEXT, STRANGE, max_size=2)
        )
    if kind == "array":
        return st.lists(of_schema(schema.get("items", {}), names, deep + 1), max_size=3)
    if kind == "integer":
        return st.one_of(st.integers(int(schema.get("minimum", 0)), int(schema.get("maximum", 20))), st.integers(0, 12))
    if kind == "number":
        return st.one_of(st.floats(-10, 10), st.integers(0, 3))
    return {"boolean": st.booleans(), "null": st.none(), "string": TEXT}.get(kind, STRANGE)


def patches() -> st.SearchStrategy:
    """Merge patches of a shot: parts of documents that the schema allows, and others."""
    schema = Shot.model_json_schema()
    names = schema["$defs"]
    parts = {name: of_schema(one, names) for name, one in schema["properties"].items()}
    return st.one_of(
        st.fixed_dictionaries({}, optional=parts),
        *(st.fixed_dictionaries({name: part}) for name, part in parts.items()),
    )


def calls(shots: list[str], runs: list[int], skipped: tuple[str, ...] = ()) -> st.SearchStrategy:
    """Calls of all operations but those that are skipped, each told as ``post /api/shots``."""
    told = json.loads(document())
    names = told["components"]["schemas"]
    known = {
        "shot_id": mostly(st.sampled_from(shots), TEXT),
        "suffix": st.sampled_from([".csv", ".json", ".gltf", ".exe"]),
        "run_id": mostly(st.sampled_from(runs), HUGE),
        "output_id": mostly(st.sampled_from([1, 2]), HUGE),
    }
    made = [
        _calls_of(method, path, operation, names, known)
        for path, methods in told["paths"].items()
        for method, operation in methods.items()
        # A stream of events does not end.
        if f"{method} {path}" not in skipped and "text/event-stream" not in operation["responses"]["200"]["content"]
    ]
    return st.one_of(made)


def _calls_of(method: str, path: str, operation: dict, names: dict, known: dict) -> st.SearchStrategy:
    places = {
        one["name"]: known[one["name"]] if one["name"] in known else of_schema(one["schema"], names)
        for one in operation.get("parameters", [])
        if one["in"] == "path"
    }
    query = {
        one["name"]: patches().map(json.dumps) if one["name"] == "patch" else of_schema(one["schema"], names)
        for one in operation.get("parameters", [])
        if one["in"] == "query"
    }
    content = operation.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema")
    body = st.none() if content is None else _body(content, names)
    documented = tuple(operation["responses"])

    @st.composite
    def call(draw):
        chosen = {name: _plain(draw(values)) for name, values in places.items()}
        address = path
        for name, value in chosen.items():
            address = address.replace(f"{{{name}}}", quote(value, safe="", errors="replace"))
        asked = {name: _plain(value) for name, value in draw(st.fixed_dictionaries({}, optional=query)).items()}
        headers, data = {}, b""
        value = draw(body)
        if content is not None:
            form = draw(st.sampled_from(["json"] * RIGHT + ["form", "cut", "empty"]))
            headers = {"Content-Type": "application/x-www-form-urlencoded" if form == "form" else "application/json"}
            text = json.dumps(value)
            data = {"json": text, "form": "a=1&b=2", "cut": text[: len(text) // 2], "empty": ""}[form].encode()
        tail = "?" + urlencode(asked, errors="replace") if asked else ""
        return Call(method.upper(), address + tail, data, headers, documented)

    return call()


def _body(schema: dict, names: dict) -> st.SearchStrategy:
    made = of_schema(schema, names)
    own = names.get(schema.get("$ref", "").rsplit("/", 1)[-1], {})
    if "patch" not in own.get("properties", {}):
        return made
    # Left to the schema, a patch is any object, and hardly ever one of a shot.
    return st.tuples(made, patches()).map(
        lambda two: two[0] | {"patch": two[1]} if isinstance(two[0], dict) else two[0]
    )


def _plain(value) -> str:
    return value if isinstance(value, str) else json.dumps(value)
