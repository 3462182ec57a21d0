"""Footage: the frames that a file is compiled from, in order, with their clock."""

import glob
import json
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path
from typing import Any, Literal, Protocol

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.panorama import Panorama
from vexel.core.document.passes import PASSES, CameraPass
from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import WithFixedFrames
from vexel.core.errors import Failure, Mistake
from vexel.core.evaluate.cues import chapters_of, subtitles_of
from vexel.core.recipes.cue import Cue
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.core.wording import counted, said_missing
from vexel.disk.finished import Finished, set_aside
from vexel.output.reading.picture_file import READABLE, DamagedFrame, PictureKind, read_picture, said_of
from vexel.output.reading.sequence_kind import kind_of_sequence
from vexel.sources.contained_path import contained_file
from vexel.sources.pictures.image_sequence import ImageSequence, gaps, sequence_of
from vexel.store.documents.shots import spelled
from vexel.store.folder_take import DAMAGED, LEDGER, finished_of, read_ledger
from vexel.store.frame_states import READY


class Sound(Protocol):
    """What is heard with footage."""

    def samples(self, count: int) -> tuple[NDArray[np.float32], Sequence[str]]:
        """`count` samples of two channels at 48 kHz, and notes on what could not be done as asked."""


@dataclass(frozen=True)
class LeftInPlace:
    """Moves no damaged file; the asking process does."""

    def __call__(self, file: Path) -> None:
        """Leave a file where it is."""


@dataclass(frozen=True)
class Footage:
    """Frames to compile.

    Attributes
    ----------
    files : tuple of Path
        In order.
    clock : Clock
        Its count is that of `files`.
    premultiplied : bool
        Whether colours in PNG files are times alpha.
    panorama : Panorama or None
    known : mapping of Path to Finished
        What is known of files since they were made; each is held against that when it is read.
    set_aside : callable
        Moves a file that is no longer what it was out of the way, so that a resumed capture makes it again.
    title : str
        Of its shot; empty where none is known.
    names : tuple of str
        File names that the frames have for people; empty for those that they have.
    clear : bool
        Whether the shot says that the background is transparent.
    held : tuple of int
        Positions of missing frames, which repeat the previous one.
    first, planned : int
        Number of the first frame in its shot, and how many that has; 0 where no shot is known.
    chapters, subtitles : tuple of Cue
        What the shot says at which of its frames.
    unsaid : tuple of str
        Labels that are left out of subtitles, since their values are known while capturing only.
    renewable : bool
        Whether its shot can be captured at another rate, with other frames.
    sound : Sound or None
        What is heard with it.
    notes : tuple of str
        Notes for receipts.
    made_of : {"shot", "reel", "frames"}
    document : str
        Of the shot or the reel, in its saved form; empty for images that belong to none.
    camera_pass : str
        Label of the camera and pass of a shot.
    dated : str
        Day that files are to name as that on which they were made; empty for today.
    is_data : bool
        Whether its codes are numbers of a data pass, and no light.
    sense : int
        1 where the camera goes round counter-clockwise from frame to frame, -1 where clockwise.
    """

    files: tuple[Path, ...]
    clock: Clock
    premultiplied: bool = False
    panorama: Panorama | None = None
    known: Mapping[Path, Finished] = field(default_factory=dict)
    set_aside: Callable[[Path], object] = LeftInPlace()
    title: str = ""
    names: tuple[str, ...] = ()
    clear: bool = False
    held: tuple[int, ...] = ()
    sense: int = 1
    first: int = 0
    planned: int = 0
    chapters: tuple[Cue, ...] = ()
    subtitles: tuple[Cue, ...] = ()
    unsaid: tuple[str, ...] = ()
    renewable: bool = False
    sound: Sound | None = None
    notes: tuple[str, ...] = ()
    is_data: bool = False
    made_of: Literal["shot", "reel", "frames"] = "frames"
    document: str = ""
    camera_pass: str = ""
    dated: str = ""

    @property
    def count(self) -> int:
        """How many frames there are."""
        return len(self.files)

    def picture(self, position: int, deep: bool = False) -> NDArray[Any]:
        """Pixels of a frame as RGB or RGBA with straight alpha; of 16 bits where it has them and `deep` asks for them.

        Raises
        ------
        DamagedFrame
            When it is not what it was; it is set aside.
        Failure
            When it is missing, or cannot be read.
        """
        file = self.files[position]
        try:
            pixels = read_picture(file, self.known.get(file), deep)
        except DamagedFrame as error:
            self.set_aside(error.file)
            raise
        if self.premultiplied and pixels.shape[2] == 4 and file.suffix.lower() == ".png":
            most = np.uint64(np.iinfo(pixels.dtype).max)
            cover = np.maximum(pixels[..., 3:], 1)
            straight = np.minimum(pixels[..., :3] * most // cover, most).astype(pixels.dtype)
            pixels = np.concatenate([straight, pixels[..., 3:]], axis=2)
        return pixels

    @cached_property
    def kind(self) -> PictureKind:
        """Size, depth and transparency of all frames.

        Raises
        ------
        DamagedFrame, Failure
            See `picture`; and when a frame has another size than the first.
        """
        return kind_of_sequence(self.files, self.file_names, self.known, lambda n: self.picture(n, True), self.clear)

    def part(self, positions: Sequence[int]) -> "Footage":
        """Some of the frames, as if there were no others."""
        clock = Clock(self.clock.rate, len(positions), "ends")
        files = tuple(self.files[n] for n in positions)
        return replace(self, files=files, names=tuple(self.file_names[n] for n in positions), clock=clock, held=())

    def told_by_pictures(self) -> list[str]:
        """What receipts are to say that only its pictures tell, once all have been read."""
        return []

    @property
    def file_names(self) -> tuple[str, ...]:
        """File names for people, frame by frame."""
        return self.names or tuple(file.name for file in self.files)

    def of_shot(self, shot: Shot, camera_pass: int) -> "Footage":
        """The same frames with the facts from their shot."""
        subtitles, unsaid = subtitles_of(shot)
        return replace(
            self,
            premultiplied=shot.picture.alpha == "premultiplied",
            panorama=shot.lens_of(camera_pass).panorama,
            title=shot.title,
            made_of="shot",
            document=spelled(shot),
            camera_pass=shot.camera_passes[camera_pass].label,
            is_data=PASSES[shot.camera_passes[camera_pass].render_pass].data,
            clear=shot.picture.behind.kind == "transparent",
            planned=shot.clock.exact.frames,
            chapters=chapters_of(shot),
            subtitles=subtitles,
            unsaid=unsaid,
            renewable=not isinstance(shot.source, WithFixedFrames),
            sense=-1 if getattr(shot.camera.rig, "direction", "ccw") == "cw" else 1,
        )


class MissingFrames(Failure):
    """Frames in between are not there; `fits` are ways to make a file all the same, as patches of a recipe."""

    fits = (("with the frames before held", {"timing": {"missing": "hold"}}),)


def footage_of(place: Path, rate: str = "", camera: str = "", render_pass: str = "", *, hold: bool = False) -> Footage:
    """The frames of a take's folder, a folder of numbered images or a pattern such as ``out.%04d.png``.

    Parameters
    ----------
    place : Path
    rate : str
        Needed where no take gives it; it overrides a take's.
    camera, render_pass : str
        Which camera pass of a take that holds several.
    hold : bool
        Whether a missing frame repeats the previous one.

    Raises
    ------
    Mistake, Failure
        When frames are missing, or the rate is not known.
    """
    given = Rate.parse(rate) if rate else None
    if (place / LEDGER).is_file():
        return _of_take(place, given, camera, render_pass, hold)
    if camera or render_pass:
        raise Mistake(f"{place} is not a take, so it has no cameras or passes: name its files by a pattern")
    images = sequence(place)
    if (missing := gaps(images)) and not hold:
        raise MissingFrames(
            f"{place}: {said_missing(missing)}: add those frames, or hold the ones before (--missing hold)"
        )
    if given is None:
        raise Mistake(f"the rate of {place} is not known: add --rate, such as --rate 24")
    files, held = _with_gaps_held(images)
    return replace(footage_of_images(files, Clock(given, len(files))), held=held, first=min(images))


def footage_of_images(files: Sequence[Path], clock: Clock) -> Footage:
    """Images that belong to no take, with what is odd about the first of them."""
    return Footage(tuple(files), clock, notes=said_of(files[0]))


def footage_of_frames(ready: Mapping[int, Path], clock: Clock, name: str, *, hold: bool = False) -> Footage:
    """The finished frames of a take: all of the shot, or one stretch of it that was asked for.

    Raises
    ------
    Failure
        When none is finished, or some are missing in between and are not to be held.
    """
    if not ready:
        raise Failure(f"{name} holds no finished frame: capture it first")
    if (missing := gaps(ready)) and not hold:
        raise MissingFrames(
            f"{name} is missing {len(missing):,} of {counted(clock.frames, 'frame')}, the first is frame {missing[0]}: "
            "capture them first, by resuming, or hold the ones before (--missing hold)"
        )
    files, held = _with_gaps_held(ready)
    repeats = clock.repeats if len(files) == clock.frames else 1
    whole = Clock(clock.playback, len(files), clock.span, repeats=repeats)
    return Footage(files, whole, held=held, first=min(ready))


def _with_gaps_held(there: Mapping[int, Path]) -> tuple[tuple[Path, ...], tuple[int, ...]]:
    """Files in order of number, the one before in place of each that is missing; and the places of those."""
    first, last = min(there), max(there)
    files: list[Path] = []
    held = []
    for number in range(first, last + 1):
        if number not in there:
            held.append(number - first)
        files.append(there.get(number) or files[-1])
    return tuple(files), tuple(held)


def chosen_pass(shot: Shot, camera: str, render_pass: str, *, or_first: bool = False) -> CameraPass:
    """The one camera pass of a shot that a camera's name and a pass tell, either of them left out where there is one.

    With `or_first` it is the first of those that are meant, where there are several.

    Raises
    ------
    Mistake
        When there is none, or more than one.
    """
    found = [s for s in shot.camera_passes if camera in ("", s.camera) and render_pass in ("", s.render_pass)]
    if len(found) == 1 or (found and or_first):
        return found[0]
    known = "; ".join(camera_pass.label for camera_pass in shot.camera_passes)
    if not found:
        raise Mistake(f"the take has no {' '.join(filter(None, [camera, render_pass]))}: it holds {known}")
    raise Mistake(f"the take holds {known}: choose one with --camera and --pass")


def sequence(place: Path) -> dict[int, Path]:
    """The numbered images that a folder or pattern names, in order of number.

    Raises
    ------
    Mistake
        When there are none, or several sequences.
    """
    images = {path.name: path for path in _images(place)}
    found: list[ImageSequence] = []
    left = set(images)
    while left:
        like = sequence_of(min(left), images)
        if like is not None:
            found.append(like)
        left -= {name for _, name in like.names} | set(like.doubles) if like else {min(left)}
    if not found:
        raise Mistake(f"{place} holds no numbered images: name a take's folder, or a pattern such as out.%04d.png")
    first = found[0]
    if len(found) > 1:
        raise Mistake(
            f"{place} holds {len(found)} sequences ({first.pattern}, {found[1].pattern}…): "
            f"name one by its pattern, such as {first.pattern}"
        )
    if first.doubles:
        raise Mistake(f"{place}: {first.doubles[0]} has a number that another file has too: take one of them away")
    return {number: images[name] for number, name in first.names}


def _images(place: Path) -> list[Path]:
    if place.is_dir():
        found = place.glob("[!.]*")
    elif place.parent.is_dir():
        wild = re.sub(r"%0?\d*d", "*", glob.escape(place.name)) if "%" in place.name else place.name
        # Two numbers one behind the other would be a pattern of folders.
        found = place.parent.glob(re.sub(r"\*\*+", "*", wild))
    else:
        raise Mistake(f"there is no folder {place.parent}")
    # A pipe would be waited for, and what it brings is no sequence.
    return [path for path in found if path.suffix.lower() in READABLE and path.is_file()]


def _of_take(folder: Path, given: Rate | None, camera: str, render_pass: str, hold: bool) -> Footage:
    ledger = read_ledger(folder)
    shot = Shot.model_validate_json(json.dumps(ledger["shot"]))
    clock = shot.clock.exact
    camera_pass = chosen_pass(shot, camera, render_pass)
    rows = [
        row
        for row in ledger["frames"]
        if row["state"] in READY
        and row.get("camera_pass", camera_pass.label) == camera_pass.label
        and row["number"] < clock.frames
    ]
    ready = {row["number"]: contained_file(folder, row["file"], LEDGER) for row in rows}
    known = {ready[row["number"]]: file for row in rows if (file := finished_of(row))}
    footage = footage_of_frames(ready, clock, str(folder), hold=hold)
    rate = given or clock.playback
    clock = replace(footage.clock, rate=rate)
    footage = replace(footage, clock=clock, known=known, set_aside=lambda file: set_aside(file, folder / DAMAGED))
    return footage.of_shot(shot, shot.camera_passes.index(camera_pass))
