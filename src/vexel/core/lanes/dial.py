"""Dials: the named numbers of a source that the user can change."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from vexel.core.errors import Mistake
from vexel.core.wording import nearest_name


@dataclass(frozen=True)
class Dial:
    """A number of a source with its bounds.

    Attributes
    ----------
    name : str
    default, low, high : float
        In `unit`; low ≤ default ≤ high.
    unit, about : str
        For people; may be empty.
    """

    name: str
    default: float
    low: float
    high: float
    unit: str = ""
    about: str = ""


def check_values(dials: Mapping[str, Dial], name: str, values: Iterable[float], where: str) -> None:
    """Refuse values for a dial that does not exist or outside its bounds.

    Raises
    ------
    Mistake
        Naming `where`, the place in the document.
    """
    dial = dials.get(name)
    if dial is None:
        raise Mistake(f"{where}: the source has no dial {name!r}; {nearest_name(name, dials)}")
    for value in values:
        if not dial.low <= value <= dial.high:
            raise Mistake(
                f"{where}: {value:g} is outside the dial {name}, which goes from "
                f"{dial.low:g} to {dial.high:g} {dial.unit}".rstrip()
            )
