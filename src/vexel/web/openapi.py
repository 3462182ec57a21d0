"""Prints the OpenAPI document, from which the interface's types are made."""

import json

from flask import Flask

from vexel.web import outputs, runs, shots, sources, viewfinder
from vexel.web.spec import spec


def document() -> str:
    """The OpenAPI document as JSON text."""
    app = Flask("vexel")
    for part in (shots, sources, viewfinder, runs, outputs):
        app.register_blueprint(part.blueprint)
    spec.register(app)
    with app.app_context():
        return json.dumps(spec.spec, indent=1)


if __name__ == "__main__":
    print(document())
