"""Reels within a reel, laid out as groups, with limits over the whole."""

from dataclasses import dataclass, field
from fractions import Fraction
from os.path import relpath
from pathlib import Path

from vexel.core.errors import Mistake, VexelError
from vexel.core.reel.item_spec import AnyItem, CellSpec, GroupItem, LayoutItem, ReelItem, StillsItem
from vexel.core.reel.reel_plan import frames_of
from vexel.core.reel.reel_spec import MOST_ITEMS, Reel, read_reel
from vexel.core.time.rate import Rate
from vexel.disk.named_place import named_place

MOST_DEPTH = 8
"""Greatest depth of reels within reels."""


class ContainsItself(Mistake):
    """A reel that lies within itself."""


@dataclass(frozen=True)
class WholeReel:
    """A reel with the reels within it.

    Attributes
    ----------
    reel : Reel
        With groups in place of other reels, their paths as seen from its own folder.
    files : tuple of Path
        The other reels, each once.
    notes : tuple of str
        What other reels do not bring: they bring their items.
    """

    reel: Reel
    files: tuple[Path, ...]
    notes: tuple[str, ...]


def whole_reel(reel: Reel, folder: Path, file: Path | None = None) -> WholeReel:
    """Lay out the reels within a reel.

    Parameters
    ----------
    folder : Path
        That its paths are relative to.
    file : Path, optional
        Path of the reel itself, which may not exist yet.

    Raises
    ------
    ContainsItself
    Mistake
        When one cannot be read, or all together hold too much.
    """
    inner = _InnerReels()
    above = (file.resolve(),) if file else ()
    # Counted before anything is laid out: three documents that name the next 50 times make 125,000 items.
    inner.count(reel, folder, above, reel.title)
    if not inner.counts:
        return WholeReel(reel, (), ())
    return WholeReel(inner.laid_out(reel, folder), tuple(inner.read), tuple(dict.fromkeys(inner.notes(reel, folder))))


def refuse_itself(reel: Reel, folder: Path, file: Path) -> None:
    """Refuse a reel that contains its own output file.

    Raises
    ------
    ContainsItself
    """
    try:
        whole_reel(reel, folder, file)
    except ContainsItself:
        raise
    except VexelError:
        # What else is off with reels within it is reported where it is opened.
        return


@dataclass
class _InnerReels:
    """The reels within one reel, each read once.

    Attributes
    ----------
    read : dict of Path to Reel
    counts : dict of Path to int
        Items of those that were counted, with those of the reels within them.
    """

    read: dict[Path, Reel] = field(default_factory=dict)
    counts: dict[Path, int] = field(default_factory=dict)

    def count(self, reel: Reel, folder: Path, above: tuple[Path, ...], name: str) -> int:
        """Items of a reel with those of the reels within it."""
        if len(above) > MOST_DEPTH:
            raise Mistake(f"{name} lies within more than {MOST_DEPTH} reels, one in another: take it out of some")
        total = 0
        for item in reel.walked():
            total += 1
            if isinstance(item, ReelItem) and (file := self.file_of(item, folder)) is not None:
                if file in above:
                    chain = " → ".join(path.name for path in (*above, file))
                    raise ContainsItself(f"{item.reel} contains itself ({chain}): take one of them out")
                if file not in self.counts:
                    self.counts[file] = self.count(self.inner(file, item), file.parent, (*above, file), item.reel)
                total += self.counts[file]
            if total > MOST_ITEMS:
                raise Mistake(
                    f"{name} holds more than {MOST_ITEMS:,} items with those of the reels within it: split it, or name "
                    "compiled files in place of reels"
                )
        return total

    def inner(self, file: Path, item: ReelItem) -> Reel:
        """The reel in a file."""
        if file not in self.read:
            try:
                self.read[file] = read_reel(file.read_bytes(), item.reel)
            except OSError as error:
                raise Mistake(f"{item.reel} cannot be read: {error.strerror}") from None
        return self.read[file]

    @staticmethod
    def file_of(item: ReelItem, folder: Path) -> Path | None:
        """The file that an item names; None where there is none."""
        try:
            file = named_place(folder, item.reel)
        except Mistake:
            return None
        return file if file.is_file() else None

    def laid_out(self, reel: Reel, folder: Path) -> Reel:
        """A reel with groups in place of the reels within it."""
        return reel.model_copy(update={"items": [self._laid_out(item, reel.exact_rate, folder) for item in reel.items]})

    def _laid_out(self, item: AnyItem, rate: Rate, folder: Path) -> AnyItem:
        """An item, in which lengths count frames of a rate, with groups in place of the reels within it."""
        if isinstance(item, GroupItem):
            own = Rate.parse(item.rate) if item.rate else rate
            return item.model_copy(update={"items": [self._laid_out(one, own, folder) for one in item.items]})
        if isinstance(item, LayoutItem):
            cells = [CellSpec.model_copy(c, update={"item": self._laid_out(c.item, rate, folder)}) for c in item.cells]
            return item.model_copy(update={"cells": cells})
        file = self.file_of(item, folder) if isinstance(item, ReelItem) else None
        if not isinstance(item, ReelItem) or file is None:
            return item
        inner = self.laid_out(self.inner(file, item), file.parent)
        of_stills = "" if inner.exact_rate == rate else str(inner.exact_rate.fps)
        items = [_moved(one, file.parent, folder, of_stills) for one in inner.items]
        return _group(item, inner, items, rate) if items else item

    def notes(self, reel: Reel, folder: Path) -> list[str]:
        """Notes on parts of nested reels that are not imported."""
        notes = []
        for item in reel.walked():
            file = self.file_of(item, folder) if isinstance(item, ReelItem) else None
            if not isinstance(item, ReelItem) or file is None:
                continue
            inner = self.inner(file, item)
            has = {
                "labels": inner.labels, "mark": inner.mark, "sound": inner.sound, "markers": inner.markers,
                "background": inner.background != reel.background,
            }  # fmt: skip
            if names := [name for name, there in has.items() if there]:
                notes.append(f"{inner.title} within it gives its items only, not its {' and '.join(names)}")
            notes += self.notes(inner, file.parent)
        return notes


def _group(item: ReelItem, inner: Reel, items: list[AnyItem], rate: Rate) -> GroupItem:
    stated = frames_of(inner.frames, inner.seconds, inner.exact_rate)
    frames = item.frames
    if stated is not None and item.seconds is None and item.frames is None:
        lasts = stated * item.repeat / inner.exact_rate.fps / Fraction(repr(item.speed))
        frames = max((lasts * rate.fps + Fraction(1, 2)).__floor__(), 1)
    fitted = item.seconds is not None or frames is not None
    return GroupItem(
        kind="group", items=items, repeat=item.repeat, speed=1 if fitted else item.speed, seconds=item.seconds,
        frames=frames, name=item.name or inner.title, fit=item.fit, transition=item.transition,
        rate=str(inner.exact_rate.fps),
    )  # fmt: skip


def _moved(item: AnyItem, there: Path, here: Path, of_stills: str) -> AnyItem:
    """An item of a reel in another folder, with its paths as seen from this one.

    Parameters
    ----------
    of_stills : str
        The reel's rate, for stills without one; empty where both reels have the same.
    """
    if isinstance(item, GroupItem):
        return item.model_copy(update={"items": [_moved(one, there, here, of_stills) for one in item.items]})
    if isinstance(item, LayoutItem):
        cells = [
            CellSpec.model_copy(cell, update={"item": _moved(cell.item, there, here, of_stills)}) for cell in item.cells
        ]
        return item.model_copy(update={"cells": cells})
    names = [name for name in ("take", "shot", "file", "image", "reel") if getattr(item, name, "")]
    paths = {name: getattr(item, name) for name in names if not getattr(item, name).startswith("run:")}
    base = here.resolve()
    more = {"rate": of_stills} if isinstance(item, StillsItem) and not item.rate and of_stills else {}
    moved = {name: path if Path(path).is_absolute() else relpath(there / path, base) for name, path in paths.items()}
    return item.model_copy(update=more | moved)
