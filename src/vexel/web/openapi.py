"""Prints the OpenAPI document, from which the interface's types are made."""

import json

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
        return json.dumps(spec.spec, indent=1)


if __name__ == "__main__":
    print(document())
