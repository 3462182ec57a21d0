"""Details of the OpenAPI document that operations do not state one by one: tags, names, errors, uploads, examples."""

import re
import sys
from typing import Any

from flask import Flask

Document = dict[str, Any]

EXAMPLES: dict[str, Any] = {
    "TrustOrder": {"digests": ["9f2c61d0b0a4"]},
    "CaptureOrder": {"draft": True, "to_file": True},
    "DispatchOrder": {"recipes": [{"name": "h264", "container": "mp4", "codec": "h264"}], "camera_passes": [0]},
    "Edit": {"patch": {"clock": {"rate": "24", "frames": 360}}, "what": "the number of frames"},
    "MarkerOrder": {"what": "cuts"},
    "NewReel": {"title": "Hall, east wall", "runs": [7, 9]},
    "NewShot": {"demo": "shell-growth", "title": "Shell growth"},
    "RateOrder": {"rate": "50"},
    "ReelEdit": {"patch": {"rate": "25"}, "what": "the rate"},
    "Stagger": {"overlap": 0.25},
    "TermBody": {"term": "seconds", "text": "15"},
}
"""One example for each body that is hard to guess, by its schema."""
_FILE = {"type": "string", "format": "binary"}
_UPLOADS = {
    "multipart/form-data": {
        "schema": {
            "type": "object",
            "required": ["files"],
            "properties": {"files": {"type": "array", "items": _FILE, "description": "the files, with their folders"}},
        }
    }
}
_BODIES = {
    "/api/sources": _UPLOADS,
    "/api/reels/{reel_id}/files": _UPLOADS,
    "/api/reels/timelines": _UPLOADS,
    "/push/{key}/{name}": {"application/octet-stream": {"schema": _FILE}},
}
"""Bodies that are no JSON, by path."""
_EVENTS = {
    "summary": "News of runs, files and shots as server-sent events.",
    "description": "Each event's data is a JSON object as in the list of /api/news. A comment keeps the stream alive.",
    "operationId": "news_events",
    "tags": ["news"],
    "parameters": [],
    "responses": {
        "200": {"description": "the stream", "content": {"text/event-stream": {"schema": {"type": "string"}}}},
    },
}


def described(document: Document, app: Flask) -> Document:
    """The document with all details.

    Parameters
    ----------
    document : dict
        As the blueprints give it: each operation has all refusals in its responses.
    app : Flask
        Its rules give the operations' names and tags.
    """
    endpoints = {
        (method.lower(), re.sub(r"<(?:[^:<>]+:)?([^<>]+)>", r"{\1}", rule.rule)): rule.endpoint
        for rule in app.url_map.iter_rules()
        for method in rule.methods or ()
    }
    document["info"] |= {
        "summary": "Capture frames at fixed time steps and encode them to verified video.",
        "description": "The server listens on 127.0.0.1 only. Errors are one sentence each.",
        "license": {"name": "MIT", "identifier": "MIT"},
    }
    for path, operations in document["paths"].items():
        for method, operation in operations.items():
            part, name = endpoints[method, path].split(".")
            operation |= {"operationId": f"{part}_{name}", "tags": [part]}
            if path in _BODIES and method == "post":
                operation["requestBody"] = {"required": True, "content": _BODIES[path]}
            refused = _refusals(method, operation)
            operation["responses"] = {
                status: answer
                for status, answer in operation["responses"].items()
                if status < "400" or status in refused
            }
            if path.startswith("/push/"):
                operation["security"] = []
    document["paths"]["/api/events"] = {"get": _events(document)}
    _without_object_defaults(document["components"]["schemas"])
    for name, example in EXAMPLES.items():
        document["components"]["schemas"][name]["examples"] = [example]
    document["components"]["securitySchemes"] = {
        "session": {
            "type": "apiKey",
            "in": "cookie",
            "name": "vexel_8137",
            "description": "Set by the address that the server prints when it starts; the number is that of its port.",
        }
    }
    document["security"] = [{"session": []}]
    document["tags"] = [{"name": name, "description": _about(module)} for name, module in sorted(_parts(app).items())]
    return document


def _refusals(method: str, operation: Document) -> set[str]:
    """Statuses by which an operation can refuse a call."""
    # Any operation may find no session, or a full disk: asking makes what is kept.
    found = {"403", "507"}
    if operation["parameters"]:
        found |= {"400", "404", "422"}
    if method != "get":
        found |= {"400", "404", "409", "413", "415", "422"}
    if "206" in operation["responses"]:
        found |= {"416"}
    return found


def _without_object_defaults(schemas: Document) -> None:
    """Leave out defaults that are objects, which generators of clients cannot write down."""
    for schema in schemas.values():
        for value in schema.get("properties", {}).values():
            if isinstance(value, dict) and isinstance(value.get("default"), dict):
                del value["default"]


def _events(document: Document) -> Document:
    news = document["paths"]["/api/news"]["get"]["responses"]
    return _EVENTS | {"responses": _EVENTS["responses"] | {"403": news["403"]}}  # type: ignore[operator]


def _parts(app: Flask) -> dict[str, str]:
    return {name: blueprint.import_name for name, blueprint in app.blueprints.items() if name in _tagged(app)}


def _tagged(app: Flask) -> set[str]:
    return {rule.endpoint.split(".")[0] for rule in app.url_map.iter_rules() if "." in rule.endpoint}


def _about(module: str) -> str:
    """What a blueprint is for, from the first line of its module."""
    first = (sys.modules[module].__doc__ or "").strip().splitlines()[0].removeprefix("Blueprint: ")
    return first[:1].upper() + first[1:]
