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
