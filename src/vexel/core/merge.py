"""Merge patches of JSON documents."""

from typing import Any


def merged(target: Any, patch: Any) -> Any:
    """A JSON merge patch, applied (RFC 7396)."""
    if not isinstance(patch, dict):
        return patch
    result = dict(target) if isinstance(target, dict) else {}
    for key, value in patch.items():
        if value is None:
            result.pop(key, None)
        else:
            result[key] = merged(result.get(key), value)
    return result
