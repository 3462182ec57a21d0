"""Receipts: what was read back from a compiled file, held against the plan."""

from dataclasses import asdict, dataclass
from fractions import Fraction
from typing import Any

from vexel.core.time.clock import decimal


@dataclass(frozen=True)
class Check:
    """One line of a receipt: what was planned, what the file holds, whether they agree."""

    what: str
    planned: str
    found: str
    holds: bool


@dataclass(frozen=True)
class Receipt:
    """What was read back from a compiled file, held against the plan."""

    file: str
    recipe: str
    bytes: int
    checks: tuple[Check, ...]
    notes: tuple[str, ...]

    @property
    def holds(self) -> bool:
        """Whether every check agrees."""
        return all(check.holds for check in self.checks)

    def document(self) -> dict[str, Any]:
        """As plain JSON values."""
        return asdict(self) | {"holds": self.holds}


def check(what: str, planned: str, found: str) -> Check:
    """A line whose two sides must be equal."""
    return Check(what, planned, found, planned == found)


def fps(rate: Fraction) -> str:
    """A rate as a label, with its fraction where a decimal is not exact."""
    exact = "" if rate.denominator in (1, 2, 4, 5, 10) else f" ({rate.numerator}/{rate.denominator})"
    return f"{decimal(rate, 3)} fps{exact}"
