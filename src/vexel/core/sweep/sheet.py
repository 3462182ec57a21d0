"""Rows and columns of a contact sheet."""

from math import ceil, sqrt

from vexel.core.document.sweep_spec import SweepSpec
from vexel.core.sweep.variants import Variant, variants

MOST_COLUMNS = 8


def sheet_rows(sweep: SweepSpec, favourites: bool = False) -> list[list[Variant | None]]:
    """Rows of variants that are not left out: the last axis runs across, the others down.

    Where there is one axis, or what is chosen is no longer a whole grid, rows
    are filled one after another.

    Parameters
    ----------
    favourites : bool
        Whether only those that are marked are shown.

    Returns
    -------
    list of list of Variant or None
        None for an empty place in a grid.
    """
    found = variants(sweep)
    kept = [one for one in found if not one.left_out and (one.favourite or not favourites)]
    crossed = sweep.table is None and sweep.join == "crossed" and len(found[0].place) > 1 and not favourites
    if not crossed:
        wide = min(max(ceil(sqrt(len(kept))), 1), MOST_COLUMNS)
        return [list(kept[begin : begin + wide]) for begin in range(0, len(kept), wide)]
    across = max(one.place[-1] for one in found) + 1
    rows: dict[tuple[int, ...], list[Variant | None]] = {}
    for one in kept:
        rows.setdefault(one.place[:-1], [None] * across)[one.place[-1]] = one
    return list(rows.values())
