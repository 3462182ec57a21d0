"""What all parts of documents are: strict, frozen, and said in words and units."""

from collections.abc import Mapping
from typing import Any, Self, get_args

from pydantic import BaseModel, ConfigDict


def shown(unit: str = "", step: float | None = None) -> dict[str, Any]:
    """How a number is shown and changed, for its JSON Schema.

    Parameters
    ----------
    unit : str
    step : float, optional
        By which it usually changes.
    """
    return ({"unit": unit} if unit else {}) | ({"step": step} if step else {})


class Part(BaseModel):
    """Any part of a shot document: strict, frozen, and without unknown keys."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, allow_inf_nan=False)

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy with other values; what was worked out of the old ones stays behind."""
        copied = super().model_copy(update=update, deep=deep)
        for name in copied.__dict__.keys() - type(self).model_fields.keys():
            del copied.__dict__[name]
        return copied

    @classmethod
    def kind_name(cls) -> str:
        """What the document says in ``kind`` for a part of this form."""
        return str(get_args(cls.model_fields["kind"].annotation)[0])
