"""The variants of a sweep: every combination of its values, with a name, and the shot that each is."""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from math import prod

import numpy as np

from vexel.core.document.naming import filled
from vexel.core.document.passes import PASSES
from vexel.core.document.shot import Shot, edited
from vexel.core.document.sweep_spec import (
    MOST_VARIANTS,
    NAME_COLUMN,
    VARIANT,
    AxisSpec,
    SweepSpec,
    TableSpec,
    Value,
    said_value,
)
from vexel.core.errors import Mistake
from vexel.core.lanes.dial import Dial, check_values
from vexel.core.merge_patch import merged
from vexel.core.short_number import short
from vexel.core.sweep.samples import samples
from vexel.core.sweep.settings import Setting
from vexel.core.wording import counted, nearest_name

_FIELD = re.compile(r"\{([^{}]*)\}")


@dataclass(frozen=True)
class Variant:
    """One variant.

    Attributes
    ----------
    number : int
        From 1, also counting those that are left out.
    name : str
    values : mapping of str to float or str
        By what varies, such as ``dial:whorls``.
    place : tuple of int
        Its position on each axis, or its row alone.
    left_out, favourite : bool
    """

    number: int
    name: str
    values: Mapping[str, Value]
    place: tuple[int, ...]
    left_out: bool = False
    favourite: bool = False


def variants(sweep: SweepSpec) -> list[Variant]:
    """All variants of a sweep, those that are left out included.

    The last axis changes fastest, as in `itertools.product`.

    Raises
    ------
    Mistake
        When there are too many, two have one name, or a name that is left out or marked is none of theirs.
    """
    found = _of_table(sweep.table) if sweep.table is not None else _of_axes(sweep)
    names = [_name(sweep, number, len(found), own, values) for number, (own, values, _) in enumerate(found, start=1)]
    _refuse_twins(names)
    for listed, what in ((sweep.without, "without"), (sweep.favourites, "favourites")):
        if unknown := sorted(set(listed) - set(names)):
            raise Mistake(f"sweep.{what} names {unknown[0]!r}, but no variant: {nearest_name(unknown[0], names[:200])}")
    without, favourites = set(sweep.without), set(sweep.favourites)
    return [
        Variant(number, name, values, place, name in without, name in favourites)
        for number, (name, (_, values, place)) in enumerate(zip(names, found, strict=True), start=1)
    ]


def chosen(sweep: SweepSpec, favourites: bool = False) -> list[Variant]:
    """The variants that are made: all that are not left out, or the favourites among them.

    Raises
    ------
    Mistake
        When none is left.
    """
    kept = [one for one in variants(sweep) if not one.left_out and (one.favourite or not favourites)]
    if not kept:
        raise Mistake(
            "no variant is marked: mark some on the contact sheet"
            if favourites
            else "all variants are left out: keep one"
        )
    return kept


def variant_shot(shot: Shot, variant: Variant) -> Shot:
    """The shot that a variant is, without a sweep.

    Raises
    ------
    Mistake
        Naming the variant, where its values do not fit the shot.
    """
    drives = {lane.drive for lane in shot.lanes}
    patch: dict[str, object] = {}
    try:
        for over, value in variant.values.items():
            setting = Setting(over)
            if setting.lane in drives:
                raise Mistake(f"a lane drives {over}: remove the lane, or the axis")
            patch = merged(patch, setting.patch(shot, value))
        names = {"pattern": named(shot.names.pattern, variant)} if shot.names.pattern else {}
        own = {"title": f"{shot.title} · {variant.number} {variant.name}"[:200], "names": names}
        return edited(shot, merged(patch, own) | {"sweep": None}, "the shot")
    except Mistake as error:
        raise Mistake(f"variant {variant.name}: {error}") from None


def check_dials(kept: Sequence[Variant], dials: Sequence[Dial]) -> None:
    """Refuse variants that set a dial which the source does not have, or outside its bounds.

    Raises
    ------
    Mistake
        Naming the first such variant.
    """
    known = {dial.name: dial for dial in dials}
    for variant in kept:
        # Another source has other dials.
        for over, value in variant.values.items() if "source" not in variant.values else ():
            if over.startswith("dial:") and not isinstance(value, str):
                check_values(known, over.removeprefix("dial:"), [value], f"variant {variant.name}")


def named(pattern: str, variant: Variant) -> str:
    """A pattern of frames' names with the fields of a variant filled in."""
    values = {_label(over): said_value(value) for over, value in variant.values.items()}
    return filled(pattern, values | {VARIANT: variant.name})


def expanded(sweep: SweepSpec, kept: Sequence[Variant]) -> SweepSpec:
    """The same sweep as a table of the variants that are made, which names each."""
    overs = list(dict.fromkeys(over for one in kept for over in one.values))
    rows: list[list[Value]] = [[one.name, *(one.values[over] for over in overs)] for one in kept]
    table = TableSpec(columns=[NAME_COLUMN, *overs], rows=rows)
    update = {"axes": [], "table": table, "without": [], "favourites": [], "name": ""}
    return sweep.model_copy(update=update)


def swept_shot(shot: Shot, kept: Sequence[Variant]) -> Shot:
    """The shot whose frames are variants: a still of each at one instant, or a film that goes through them.

    Raises
    ------
    Mistake
        When its variants cannot be frames of one take.
    """
    sweep = shot.sweep
    assert sweep is not None
    if sweep.clock is not None:
        # The document of a take, as a hand-over brings it: its variants are those of the shot's own clock.
        own = sweep.clock
        sweep = sweep.model_copy(update={"clock": None})
        shot = shot.model_copy(update={"clock": own, "sweep": sweep})
    for variant in kept:
        _refuse_in_one_take(shot, variant)
    clock = {"frames": len(kept), "seconds": None, "span": "ends", "retimed_from": None, "like": None}
    shown = {"first": 0, "last": None, "every": 1, "order": "forward", "hold_start": 0, "hold_end": 0, "repeats": 1}
    table = expanded(sweep, kept).model_copy(update={"clock": shot.clock}).model_dump(mode="json")
    plain = shot.model_copy(update={"sweep": None})
    return edited(plain, {"clock": clock | shown, "sweep": table}, "the shot")


def _refuse_in_one_take(shot: Shot, variant: Variant) -> None:
    if "source" in variant.values:
        raise Mistake("a take has one source: make a shot of each variant, or remove the axis source")
    if str(variant.values.get("background", "")).startswith("image:"):
        raise Mistake("a take has one image behind it: make a shot of each variant, or use colours")
    if data := [one for one in shot.picture.passes if PASSES[one].distances]:
        raise Mistake(f"pass {data[0]} has other codes in each variant: make a shot of each, or remove the pass")


def shots_in(shot: Shot) -> list[tuple[Shot, int]]:
    """The shot of each frame of a swept one, and its frame there.

    Raises
    ------
    Mistake
        Naming the variant, where its values do not fit the shot.
    """
    sweep = shot.sweep
    assert sweep is not None and sweep.clock is not None
    base = shot if sweep.makes == "film" else shot.model_copy(update={"clock": sweep.clock})
    last = base.clock.exact.frames - 1
    return [
        (variant_shot(base, one), n if sweep.makes == "film" else min(sweep.frame, last))
        for n, one in enumerate(variants(sweep))
    ]


def axis_values(sweep: SweepSpec) -> list[tuple[str, list[str]]]:
    """Names and values along each place of `Variant.place`, for the edges of a contact sheet; none of a table."""
    if sweep.table is not None or sweep.join != "crossed":
        return []
    plain = [(axis.label, [said_value(value) for value in _values(axis)]) for axis in sweep.axes if not axis.is_sampled]
    sampled = [axis.label for axis in sweep.axes if axis.is_sampled]
    drawn = [(", ".join(sampled), [str(n + 1) for n in range(sweep.sample.count)])] if sampled else []
    return plain + drawn


_Found = tuple[str, Mapping[str, Value], tuple[int, ...]]
"""The name in a table, the values, and the place on the axes."""


def _of_axes(sweep: SweepSpec) -> list[_Found]:
    sampled = [axis for axis in sweep.axes if axis.is_sampled]
    plain = [axis for axis in sweep.axes if not axis.is_sampled]
    lengths = [len(axis.values) or axis.steps or 0 for axis in plain] + ([sweep.sample.count] if sampled else [])
    if sweep.join == "crossed":
        _refuse_many(prod(lengths))
        places: Iterable[tuple[int, ...]] = product(*(range(length) for length in lengths))
    else:
        if len(set(lengths)) > 1:
            names = [*(axis.over for axis in plain), "samples"]
            told = ", ".join(f"{name} {length:,}" for name, length in zip(names, lengths, strict=False))
            raise Mistake(f"paired axes need as many values each, but have {told}: add some, or cross them")
        _refuse_many(lengths[0])
        places = ((n,) * len(lengths) for n in range(lengths[0]))
    drawn = samples(sampled, sweep.sample) if sampled else np.zeros((0, 0))
    values_of = [_values(axis) for axis in plain]
    found: list[_Found] = []
    for place in places:
        values: dict[str, Value] = {axis.over: values_of[n][place[n]] for n, axis in enumerate(plain)} | {
            axis.over: short(float(drawn[place[-1], n])) for n, axis in enumerate(sampled)
        }
        found.append(("", {axis.over: values[axis.over] for axis in sweep.axes}, place))
    return found


def _values(axis: AxisSpec) -> list[Value]:
    if axis.values:
        return axis.values
    assert axis.first is not None and axis.last is not None and axis.steps is not None
    return [short(float(value)) for value in np.linspace(axis.first, axis.last, axis.steps)]


def _of_table(table: TableSpec) -> list[_Found]:
    overs = [_over(column) for column in table.columns]
    found: list[_Found] = []
    for number, row in enumerate(table.rows):
        by_column = dict(zip(overs, row, strict=True))
        own = by_column.pop(NAME_COLUMN, "")
        found.append((said_value(own), by_column, (number,)))
    if not found[0][1]:
        raise Mistake("the table has no column but the names: add one for what varies")
    return found


def _over(column: str) -> str:
    """What a column of a table varies: a bare name is that of a dial."""
    whole = (NAME_COLUMN, "background", "source", "view")
    return column if ":" in column or column in whole else f"dial:{column}"


def _refuse_many(count: int) -> None:
    if count > MOST_VARIANTS:
        raise Mistake(
            f"the sweep has {count:,} variants, and {MOST_VARIANTS:,} are the most: use fewer values, or sample them"
        )


def _refuse_twins(names: Sequence[str]) -> None:
    if len(set(names)) == len(names):
        return
    seen: dict[str, int] = {}
    for number, name in enumerate(names, start=1):
        if name in seen:
            raise Mistake(
                f"variants {seen[name]:,} and {number:,} are both named {name!r}: change a value, or add "
                "{variant} to sweep.name"
            )
        seen[name] = number


def _name(sweep: SweepSpec, number: int, count: int, own: str, values: Mapping[str, Value]) -> str:
    if own:
        return own[:120]
    said = {_label(over): said_value(value) for over, value in values.items()}
    if not sweep.name:
        return ", ".join(f"{label} {value}" for label, value in said.items())[:120] or str(number)
    said |= {VARIANT: str(number).zfill(len(str(count)))}

    def one(found: re.Match[str]) -> str:
        if found[1] not in said:
            raise Mistake(f"sweep.name has no field {{{found[1]}}}: {nearest_name(found[1], list(said))}")
        return said[found[1]]

    return _FIELD.sub(one, sweep.name).strip()[:120] or str(number)


def _label(over: str) -> str:
    return over.partition(":")[2] or over


def pictures_of(shot: Shot, count: int) -> int:
    """How many pictures a shot's sweep makes of a number of variants."""
    each = shot.clock.exact.frames if shot.sweep is None or shot.sweep.makes == "shots" else 1
    return count * each * len(shot.camera_passes)


def said_size(shot: Shot, count: int) -> str:
    """How many pictures a sweep makes, as a reason of the timing."""
    passes = len(shot.picture.passes)
    whole_shots = shot.sweep is None or shot.sweep.makes == "shots"
    factors = [
        counted(count, "variant"),
        *([counted(shot.clock.exact.frames, "frame")] if whole_shots else []),
        *([counted(len(shot.all_cameras), "camera")] if shot.cameras else []),
        *([counted(passes, "pass", "passes")] if passes > 1 else []),
    ]
    return f"{' × '.join(factors)} = {counted(pictures_of(shot, count), 'picture')}"
