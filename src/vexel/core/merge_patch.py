"""Merge patches of JSON documents."""

from typing import Any


def merged(target: Any, patch: Any) -> Any:
    """A JSON merge patch, applied (RFC 7396), with one rule more.

    A part whose ``kind`` the patch changes is another part: nothing of the old
    one is merged into it, since the keys of one kind mean nothing to another.
    """
    if not isinstance(patch, dict):
        return patch
    result = dict(target) if isinstance(target, dict) and not _another_kind(target, patch) else {}
    for key, value in patch.items():
        if value is None:
            result.pop(key, None)
        else:
            result[key] = merged(result.get(key), value)
    return result


def _another_kind(target: dict[str, Any], patch: dict[str, Any]) -> bool:
    # A dial may be named "kind" as well, but has a number.
    kind = patch.get("kind")
    return isinstance(kind, str) and kind != target.get("kind")


def difference(before: Any, after: Any) -> Any:
    """The merge patch that makes one JSON document of another; lists are one value."""
    if not (isinstance(before, dict) and isinstance(after, dict)):
        return after
    patch: dict[str, Any] = {key: None for key in before if key not in after}
    for key, value in after.items():
        if key not in before:
            patch[key] = value
        elif before[key] != value:
            patch[key] = difference(before[key], value)
    return patch


def clashes(patch: Any, other: Any, where: str = "") -> list[str]:
    """Places that two merge patches of one document set to different values, as ``clock.rate``.

    A part that either makes one of another kind is wholly theirs.
    """
    if not (isinstance(patch, dict) and isinstance(other, dict)):
        return [] if patch == other else [where]
    kinds = [one.get("kind") for one in (patch, other) if isinstance(one.get("kind"), str)]
    if kinds and patch != other:
        return [where]
    return [
        place
        for key in patch.keys() & other.keys()
        for place in clashes(patch[key], other[key], f"{where}.{key}" if where else key)
    ]
