"""Prints the OpenAPI document, from which the interface's types are made."""

import json
from typing import Any

from flask import Flask

from vexel.web.app import BLUEPRINTS
from vexel.web.spec import spec


def document() -> str:
    """The OpenAPI document as JSON text."""
    app = Flask("vexel")
    for blueprint in BLUEPRINTS:
        app.register_blueprint(blueprint)
    spec.register(app)
    with app.app_context():
        whole = spec.spec
    for schema in whole["components"]["schemas"].values():
        # What the server answers has all defaults in, and the interface sends patches, never whole documents.
        if _is_of_document(schema):
            schema["required"] = list(schema["properties"])
    return json.dumps(whole, indent=1)


def _is_of_document(schema: dict[str, Any]) -> bool:
    """Whether it is a part of the shot document, none of which takes unknown keys."""
    return schema.get("additionalProperties") is False and "properties" in schema


if __name__ == "__main__":
    print(document())
