"""Where media of a reel are found: paths beside its file."""

import json
from dataclasses import replace
from os.path import relpath
from pathlib import Path
from typing import Protocol

from vexel.core.document.shot import Shot, read_shot
from vexel.core.errors import Mistake, VexelError
from vexel.core.reel.item_spec import AnyItem, CellSpec, GroupItem, LayoutItem, ReelItem
from vexel.core.reel.media import MediaRef
from vexel.core.reel.reel_plan import frames_of
from vexel.core.reel.reel_spec import Reel, read_reel
from vexel.core.reel.true_frames import TrueFrames
from vexel.core.time.clock import Clock
from vexel.output.footage import Footage, footage_of, footage_of_images
from vexel.output.reading.picture_file import IMAGES
from vexel.output.reel.media import AnewMedia, ClipMedia, FootageMedia, Media, PlannedMedia, shown_pass, shows_the_same
from vexel.store.folder_take import LEDGER, read_ledger


class Library(Protocol):
    """Opens media."""

    def open(self, ref: MediaRef, rate: str) -> Media:
        """Media; `rate` is that of the reel, for images that say none.

        Raises
        ------
        VexelError
            When they are not there, or cannot be read.
        """

    def anew(self, ref: MediaRef, frames: TrueFrames) -> Media | None:
        """Frames that were captured for real; None where they are not there yet."""


class FolderLibrary:
    """Media beside a reel's file.

    Parameters
    ----------
    folder : Path
    takes : Path, optional
        Where takes of shots are; `take_of` and `anew_of` name them.
    """

    def __init__(self, folder: Path, takes: Path | None = None) -> None:
        self.folder = folder
        self.takes = folder / "takes" if takes is None else takes

    def take_of(self, ref: MediaRef) -> Path:
        """The folder for the take of a shot."""
        return self.takes / Path(ref.place).stem

    def anew_of(self, ref: MediaRef, frames: TrueFrames) -> Path:
        """The folder for frames of a shot's motion in so many steps."""
        return self.takes / f"{Path(ref.place).stem}.{frames.motion}"

    def open(self, ref: MediaRef, rate: str) -> Media:
        """See `Library.open`."""
        place = (self.folder / ref.place).expanduser()
        if ref.kind == "shot":
            return self._shot(ref, place)
        if ref.kind == "take":
            return self._take(ref, place)
        if ref.kind == "clip":
            if not place.is_file():
                raise Mistake(f"there is no file {ref.place}: check the path, which is relative to the reel")
            return ClipMedia.of(place)
        if place.is_file() and place.suffix.lower() in IMAGES:
            from vexel.core.time.rate import Rate

            return FootageMedia.of(footage_of_images([place], Clock(Rate.parse(ref.rate or rate), 1, "ends")))
        return FootageMedia.of(footage_of(place, ref.rate or rate))

    def anew(self, ref: MediaRef, frames: TrueFrames) -> Media | None:
        """See `Library.anew`."""
        folder = self.anew_of(ref, frames)
        if ref.kind != "shot" or not (folder / LEDGER).is_file():
            return None
        shot = Shot.model_validate_json(json.dumps(read_ledger(folder)["shot"]))
        media = AnewMedia(_footage(folder, shot, ref, hold=True))
        return media if media.holds(frames.numbers) else None

    def _take(self, ref: MediaRef, folder: Path) -> Media:
        if ref.place.startswith("run:"):
            raise Mistake(f"{ref.place} is a run of a project: open the reel there, or name a take's folder")
        if not (folder / LEDGER).is_file():
            raise Mistake(f"there is no take in {ref.place}: capture one with --to, or check the path")
        shot = Shot.model_validate_json(json.dumps(read_ledger(folder)["shot"]))
        media = FootageMedia.of(_footage(folder, shot, ref), shot)
        # Where the shot's document and its source lie is not known here: true frames are captured of a shot.
        return FootageMedia(media.footage, media.source, replace(media.facts, renewable=False))

    def _shot(self, ref: MediaRef, file: Path) -> Media:
        if not file.is_file():
            raise Mistake(f"there is no shot {ref.place}: check the path, which is relative to the reel")
        shot = read_shot(file.read_bytes(), file.name)
        folder = self.take_of(ref)
        if not (folder / LEDGER).is_file():
            shown_pass(shot, ref)
            return PlannedMedia.of(shot, ref.place)
        made = Shot.model_validate_json(json.dumps(read_ledger(folder)["shot"]))
        media = FootageMedia.of(_footage(folder, made, ref), made)
        return FootageMedia(media.footage, media.source, replace(media.facts, stale=not shows_the_same(made, shot)))


def _footage(folder: Path, shot: Shot, ref: MediaRef, *, hold: bool = False) -> Footage:
    """The frames of what media show of a take."""
    shown = shown_pass(shot, ref)
    return footage_of(folder, "", shown.camera, shown.render_pass, hold=hold)


def opened(reel: Reel, library: Library) -> tuple[dict[MediaRef, Media], dict[MediaRef, VexelError]]:
    """All media of a reel that can be opened, and why others cannot."""
    there: dict[MediaRef, Media] = {}
    gone: dict[MediaRef, VexelError] = {}
    for ref in reel.refs():
        try:
            there[ref] = library.open(ref, reel.rate)
        except VexelError as error:
            gone[ref] = error
    return there, gone


class ContainsItself(Mistake):
    """A reel that lies within itself."""


def refuse_itself(reel: Reel, folder: Path, file: Path) -> None:
    """Refuse a reel that contains the file that it is to be written to.

    Raises
    ------
    ContainsItself
    """
    try:
        with_reels(reel, folder, (file.resolve(),))
    except ContainsItself:
        raise
    except VexelError:
        # What else is off with reels within it is told where it is opened.
        return


def with_reels(reel: Reel, folder: Path, above: tuple[Path, ...] = ()) -> Reel:
    """A reel with other reels in it laid out as groups, their paths as seen from its own folder.

    Raises
    ------
    Mistake
        When one contains itself, or cannot be read.
    """
    return reel.model_copy(update={"items": [_resolved(item, reel, folder, above) for item in reel.items]})


def left_out(reel: Reel, folder: Path) -> list[str]:
    """What reels within a reel do not bring: they bring their items."""
    notes = []
    for item in reel.walked():
        file = folder / item.reel if isinstance(item, ReelItem) else None
        if file is None or not file.is_file():
            continue
        inner = read_reel(file.read_bytes(), file.name)
        has = {
            "labels": inner.labels, "mark": inner.mark, "sound": inner.sound, "markers": inner.markers,
            "background": inner.background != reel.background,
        }  # fmt: skip
        if names := [name for name, there in has.items() if there]:
            notes.append(f"{inner.title} within it brings its items only, not its {' and '.join(names)}")
        notes += left_out(inner, file.parent)
    return list(dict.fromkeys(notes))


def _resolved(item: AnyItem, reel: Reel, folder: Path, above: tuple[Path, ...]) -> AnyItem:
    if isinstance(item, GroupItem):
        return item.model_copy(update={"items": [_resolved(one, reel, folder, above) for one in item.items]})
    if isinstance(item, LayoutItem):
        cells = [CellSpec.model_copy(c, update={"item": _resolved(c.item, reel, folder, above)}) for c in item.cells]
        return item.model_copy(update={"cells": cells})
    if not isinstance(item, ReelItem):
        return item
    file = (folder / item.reel).resolve()
    if file in above:
        chain = " → ".join(path.name for path in (*above, file))
        raise ContainsItself(f"{item.reel} contains itself ({chain}): take one of them out")
    if not file.is_file():
        return item
    inner = with_reels(read_reel(file.read_bytes(), item.reel), file.parent, (*above, file))
    items = [_moved(one, file.parent, folder) for one in inner.items]
    if not items:
        return item
    stated = frames_of(inner.frames, inner.seconds, inner.exact_rate)
    seconds = item.seconds
    if stated is not None and item.seconds is None and item.frames is None:
        seconds = float(stated * item.repeat / inner.exact_rate.fps) / item.speed
    fitted = seconds is not None or item.frames is not None
    return GroupItem(
        kind="group", items=items, repeat=item.repeat, speed=1 if fitted else item.speed, seconds=seconds,
        frames=item.frames, name=item.name or inner.title, fit=item.fit, joint=item.joint,
    )  # fmt: skip


def _moved(item: AnyItem, there: Path, here: Path) -> AnyItem:
    """An item of a reel in another folder, with its paths as seen from this one."""
    if isinstance(item, GroupItem):
        return item.model_copy(update={"items": [_moved(one, there, here) for one in item.items]})
    if isinstance(item, LayoutItem):
        cells = [CellSpec.model_copy(cell, update={"item": _moved(cell.item, there, here)}) for cell in item.cells]
        return item.model_copy(update={"cells": cells})
    names = [name for name in ("take", "shot", "file", "image", "reel") if getattr(item, name, "")]
    paths = {name: getattr(item, name) for name in names if not getattr(item, name).startswith("run:")}
    base = here.resolve()
    moved = {name: path if Path(path).is_absolute() else relpath(there / path, base) for name, path in paths.items()}
    return item.model_copy(update=moved)
