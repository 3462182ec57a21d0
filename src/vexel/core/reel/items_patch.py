"""Changes of a reel's items by their places: of 5,000 items an edit of one says that one alone.

A merge patch (RFC 7396) replaces a list as a whole. In place of the list a patch of a reel may have an object::

    {"items": {"change": {"12": {"first": 24}}, "remove": [13, 14], "insert": {"20": [{"kind": "gap", "frames": 12}]}}}

Places are those before the change; an inserted item comes before the item at its place.
"""

from collections.abc import Sequence
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from vexel.core.errors import Mistake
from vexel.core.merge_patch import merged
from vexel.core.reel.item_spec import AnyItem
from vexel.core.validation_message import validation_message

_ITEM: TypeAdapter[AnyItem] = TypeAdapter(AnyItem)


class ItemsPatch(BaseModel):
    """What is changed, removed and inserted."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    change: dict[int, dict[str, Any]] = Field(default={}, description="merge patches of items, by their places")
    remove: list[int] = []
    insert: dict[int, list[dict[str, Any]]] = Field(default={}, description="before which places")


def change_item(number: int, **values: Any) -> dict[str, Any]:
    """A patch of a reel that sets values of one item."""
    return {"items": {"change": {str(number): values}}}


def remove_item(number: int) -> dict[str, Any]:
    """A patch of a reel without one item."""
    return {"items": {"remove": [number]}}


def patched_items(items: Sequence[AnyItem], document: dict[str, Any]) -> list[AnyItem]:
    """The items with a change applied; those that stay are the same objects.

    Raises
    ------
    Mistake
        When a place is none, or an item would be wrong.
    """
    try:
        patch = ItemsPatch.model_validate(document)
    except ValidationError as error:
        raise Mistake(f"items: {validation_message(error, ItemsPatch)}") from None
    for place in (*patch.change, *patch.remove, *patch.insert):
        if not 0 <= place <= len(items) - (place not in patch.insert):
            raise Mistake(f"items: there is no place {place}; the reel has {len(items):,} items")
    gone, made = set(patch.remove), []
    for place, item in enumerate(items):
        made += [_item(one, place) for one in patch.insert.get(place, ())]
        if place in patch.change:
            made.append(_item(merged(item.model_dump(mode="json"), patch.change[place]), place))
        elif place not in gone:
            made.append(item)
    return made + [_item(one, len(items)) for one in patch.insert.get(len(items), ())]


def _item(document: dict[str, Any], place: int) -> AnyItem:
    try:
        return _ITEM.validate_python(document, strict=False)
    except ValidationError as error:
        raise Mistake(f"items.{place}: {validation_message(error, ItemsPatch)}") from None
