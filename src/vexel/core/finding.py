"""What preflight says: findings, each with its mends."""

from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class Mend:
    """What one press does: a label, and a merge patch (RFC 7396) of the shot document."""

    label: str
    patch: dict[str, Any]


@dataclass(frozen=True)
class Finding:
    """Something off: what, what it would cost, and how to mend it."""

    name: str
    what: str
    cost: str
    mends: tuple[Mend, ...] = field(default=())
