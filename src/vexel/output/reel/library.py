"""Where media of a reel are found: paths beside its file."""

import json
from dataclasses import replace
from pathlib import Path
from typing import Protocol

from vexel.core.document.shot import Shot, read_shot
from vexel.core.errors import Failure, Mistake, VexelError
from vexel.core.reel.media import MediaRef
from vexel.core.reel.reel_spec import Reel
from vexel.core.reel.true_frames import TrueFrames
from vexel.core.time.clock import Clock
from vexel.disk.disk_errors import os_sentence
from vexel.disk.named_place import named_place
from vexel.output.footage.footage import Footage, footage_of, footage_of_images
from vexel.output.reading.picture_file import READABLE
from vexel.output.reel.media import (
    ClipMedia,
    FootageMedia,
    Media,
    PlannedMedia,
    TrueFramesMedia,
    shown_pass,
    shows_the_same,
)
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

    def true_frames(self, ref: MediaRef, frames: TrueFrames) -> Media | None:
        """Frames that were captured for real; None where they are not there yet."""


class FolderLibrary:
    """Media beside a reel's file.

    Parameters
    ----------
    folder : Path
    takes : Path, optional
        Where takes of shots are; `take_of` and `true_frames_of` name them.
    """

    def __init__(self, folder: Path, takes: Path | None = None) -> None:
        self.folder = folder
        self.takes = folder / "takes" if takes is None else takes

    def take_of(self, ref: MediaRef) -> Path:
        """The folder for the take of a shot."""
        return self.takes / Path(ref.place).stem

    def true_frames_of(self, ref: MediaRef, frames: TrueFrames) -> Path:
        """The folder for the true frames of a shot, by their number of steps of motion."""
        return self.takes / f"{Path(ref.place).stem}.{frames.motion}"

    def open(self, ref: MediaRef, rate: str) -> Media:
        """See `Library.open`."""
        place = named_place(self.folder, ref.place)
        if ref.kind == "shot":
            return self._shot(ref, place)
        if ref.kind == "take":
            return self._take(ref, place)
        if ref.kind == "clip":
            if not place.is_file():
                raise Mistake(f"there is no file {ref.place}: check the path, which is relative to the reel")
            return ClipMedia.of(place)
        if place.is_file() and place.suffix.lower() in READABLE:
            from vexel.core.time.rate import Rate

            return FootageMedia.of(footage_of_images([place], Clock(Rate.parse(ref.rate or rate), 1, "ends")))
        return FootageMedia.of(footage_of(place, ref.rate or rate))

    def true_frames(self, ref: MediaRef, frames: TrueFrames) -> Media | None:
        """See `Library.true_frames`."""
        folder = self.true_frames_of(ref, frames)
        if ref.kind != "shot" or not (folder / LEDGER).is_file():
            return None
        shot = Shot.model_validate_json(json.dumps(read_ledger(folder)["shot"]))
        media = TrueFramesMedia(_footage(folder, shot, ref, hold=True))
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
        except OSError as error:
            gone[ref] = Failure(f"{ref.label} cannot be read: {os_sentence(error)}")
    return there, gone
