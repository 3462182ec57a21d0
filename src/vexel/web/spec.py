"""The OpenAPI document, collected from the blueprints, and how a wrong body is refused."""

from typing import Any

from pydantic import BaseModel, ValidationError
from spectree import Response, SpecTree

from vexel.core.errors import Mistake
from vexel.core.refusal import sentence_of
from vexel.web.bodies import ErrorBody


def _refuse(_request: Any, _response: Any, error: Any, _instance: Any, _adapter: Any = None) -> None:
    if isinstance(error, ValidationError):
        raise Mistake(f"the request is wrong: {sentence_of(error, BaseModel)}")


REFUSALS = (400, 403, 404, 405, 409, 413, 422, 507)
"""Whatever is asked wrongly is refused in one sentence, and nothing else is answered."""
spec = SpecTree(
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
