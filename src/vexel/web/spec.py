"""The OpenAPI document, collected from the blueprints, and how a wrong body is refused."""

from typing import Any

from flask import current_app, request
from pydantic import BaseModel, ValidationError
from spectree import Response, SpecTree
from werkzeug.routing import IntegerConverter

from vexel.core.errors import Mistake
from vexel.core.validation_message import validation_message
from vexel.web.schemas.common import MOST_NUMBER, ErrorBody
from vexel.web.spec_details import described


class BoundedInt(IntegerConverter):
    """Numbers in addresses, up to the largest that the database takes; an address with a larger one does not exist."""

    def __init__(self, url_map: Any) -> None:
        super().__init__(url_map, max=MOST_NUMBER)


def _refuse(_request: Any, _response: Any, error: Any, _instance: Any, _adapter: Any = None) -> None:
    if isinstance(error, ValidationError):
        raise Mistake(f"the request is wrong: {validation_message(error, BaseModel)}")
    operation = current_app.view_functions[request.endpoint or ""]
    if "json" in operation.__annotations__ and getattr(getattr(request, "context", None), "json", None) is None:
        raise Mistake("the request is wrong: its body must be JSON, with Content-Type: application/json")


REFUSALS = (400, 403, 404, 405, 409, 413, 415, 416, 422, 507)
"""Every wrong request is refused in one sentence, and nothing else is answered."""
FILES = {"200": "the file", "206": "the requested part of the file", "304": "the file has not changed"}


class _Spec(SpecTree):  # type: ignore[misc]  # spectree has no types
    """Describes operations that answer with a file too: nothing of theirs is read into memory to be checked.

    Schemas are made when the document is asked for: made with every operation,
    those of the shot would take a second and a half of every start.
    """

    def __init__(self, *given: Any, **named: Any) -> None:
        self._models: dict[tuple[str, str], type[BaseModel]] = {}
        super().__init__(*given, **named)

    def _add_model(self, model: type[BaseModel], mode: str = "validation") -> str:
        key: str = self.naming_strategy(model)
        self._models[key, mode] = model
        return key

    def _generate_spec(self) -> dict[str, Any]:
        for (_, mode), model in self._models.items():
            super()._add_model(model=model, mode=mode)
        document: dict[str, Any] = super()._generate_spec()
        operations = [one for methods in document["paths"].values() for one in methods.values()]
        refusals = next(one["responses"] for one in operations if one["responses"])
        content = {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}
        files = {status: {"description": about, "content": content} for status, about in FILES.items()}
        for operation in operations:
            if not operation["responses"]:
                operation["responses"] = {str(status): refusals[str(status)] for status in REFUSALS} | files
        return described(document, current_app)


spec = _Spec(
    "flask",
    title="Vexel",
    version="1",
    path="api/doc",
    before=_refuse,
    annotations=True,
    naming_strategy=lambda model: model.__name__,
    nested_naming_strategy=lambda _parent, child: child,
)


def answers(body: type[BaseModel]) -> Response:
    """The answer of an operation: its body, or an error in one sentence."""
    return Response(**{f"HTTP_{status}": ErrorBody for status in REFUSALS}, HTTP_200=body)
