"""The members of a union that is discriminated by ``kind``."""

from typing import Any, get_args

from pydantic import BaseModel


def members(union: Any) -> dict[str, type[BaseModel]]:
    """The members of such a union, by their kinds."""
    models: tuple[type[BaseModel], ...] = get_args(get_args(union)[0])
    return {str(get_args(model.model_fields["kind"].annotation)[0]): model for model in models}
