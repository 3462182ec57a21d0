"""Footage: the frames that a file is compiled from, in order, with their clock."""

import glob
import json
import os
import re
from collections import deque
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.panorama import Panorama
from vexel.core.document.passes import CameraPass
from vexel.core.document.shot import Shot
from vexel.core.errors import Failure, Mistake
from vexel.core.time.clock import Clock
from vexel.core.time.rate import Rate
from vexel.core.wording import counted, said_missing
from vexel.sources.contained import contained_file
from vexel.sources.pictures.image_sequence import ImageSequence, gaps, sequence_of
from vexel.store.disk.finished import Finished, is_whole, set_aside
from vexel.store.folder_take import DAMAGED, LEDGER, finished_of, read_ledger
from vexel.store.frame_states import READY

MADE_AHEAD = 8
THUMBNAIL_SIDE = 240
T = TypeVar("T")
IMAGES = (".png", ".exr", ".jpg", ".jpeg", ".tif", ".tiff", ".webp", ".bmp")


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
    """

    files: tuple[Path, ...]
    clock: Clock
    premultiplied: bool = False
    panorama: Panorama | None = None
    known: Mapping[Path, Finished] = field(default_factory=dict)
    set_aside: Callable[[Path], object] = lambda file: None

    def of_shot(self, shot: Shot, camera_pass: int) -> "Footage":
        """The same frames with what their shot says of them."""
        premultiplied = shot.picture.alpha == "premultiplied"
        return replace(self, premultiplied=premultiplied, panorama=shot.lens_of(camera_pass).panorama)

    def times_over(self) -> "Footage":
        """The frames as often as the clock repeats them."""
        clock, count = self.clock, len(self.files) * self.clock.repeats
        return replace(self, files=self.files * clock.repeats, clock=Clock(clock.rate, count, clock.span))

    def each(self, make: Callable[[Path], T]) -> Iterator[T]:
        """What `make` makes of each frame's file, in order, made ahead by threads."""
        # Reading and converting in threads took compiling from 0.94 of the encoder's own speed to all of it.
        with ThreadPoolExecutor(os.cpu_count() or 1) as makers:
            ahead: deque[Future[T]] = deque()
            try:
                for file in self.files:
                    ahead.append(makers.submit(make, file))
                    if len(ahead) > MADE_AHEAD:
                        yield ahead.popleft().result()
                while ahead:
                    yield ahead.popleft().result()
            finally:
                for future in ahead:
                    future.cancel()


class DamagedFrame(Failure):
    """A frame is no longer what was made; `file` is its place."""

    def __init__(self, file: Path) -> None:
        super().__init__(
            f"{file} is no longer the frame that was made: it is set aside, and a resumed capture makes it again"
        )
        self.file = file


def read_picture(file: Path, known: Finished | None = None) -> NDArray[np.uint8]:
    """Pixels of an image file as BGR or BGRA.

    Parameters
    ----------
    known : Finished, optional
        What the file was when it was made.

    Raises
    ------
    DamagedFrame
        When it is not what it was.
    Failure
        When it is missing, or cannot be read.
    """
    if known is not None and file.exists() and not is_whole(file, known, deep=True):
        raise DamagedFrame(file)
    if file.suffix.lower() == ".exr" and file.exists():
        return _of_exr(file)
    pixels: NDArray[Any] | None = cv2.imread(str(file), cv2.IMREAD_UNCHANGED)
    if pixels is None:
        if not file.exists():
            raise Failure(f"{file} is missing: capture it again with --resume")
        raise Failure(f"{file} is damaged and cannot be read: capture or export it again")
    if pixels.dtype == np.uint16:
        pixels = (pixels >> 8).astype(np.uint8)
    if pixels.ndim == 2:
        pixels = cv2.cvtColor(pixels, cv2.COLOR_GRAY2BGR)
    return pixels


def png_of(file: Path) -> bytes:
    """A frame's file as 8-bit PNG."""
    data: bytes = cv2.imencode(".png", read_picture(file), [cv2.IMWRITE_PNG_COMPRESSION, 1])[1].tobytes()
    return data


def thumbnail(file: Path) -> bytes:
    """A frame's file as a small JPEG, over mid grey where it is clear."""
    picture = read_picture(file)
    scale = min(THUMBNAIL_SIDE / max(picture.shape[:2]), 1)
    size = [max(round(side * scale), 1) for side in picture.shape[1::-1]]
    small = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
    if small.ndim == 3 and small.shape[2] == 4:
        cover = small[..., 3:].astype(np.float32) / 255
        small = np.rint(small[..., :3] * cover + 119 * (1 - cover)).astype(np.uint8)
    data: bytes = cv2.imencode(".jpg", small, [cv2.IMWRITE_JPEG_QUALITY, 85])[1].tobytes()
    return data


def _of_exr(file: Path) -> NDArray[np.uint8]:
    """Pixels of an OpenEXR file as 8-bit BGRA, from linear light premultiplied by alpha; depths as greys."""
    from vexel.sources.pictures.mixing import encoded
    from vexel.stage.exr import read_exr

    try:
        channels = read_exr(file)
    except (RuntimeError, OSError, ValueError, KeyError) as error:
        raise Failure(f"{file} is damaged and cannot be read ({error}): capture or export it again") from None
    if "Z" in channels:
        depths = channels["Z"]
        seen = depths[np.isfinite(depths)]
        near, far = (float(seen.min()), float(seen.max())) if seen.size else (0.0, 1.0)
        grey = np.where(np.isfinite(depths), (depths - near) / max(far - near, 1e-30), 1)
        return np.asarray(cv2.cvtColor(np.rint(grey * 255).astype(np.uint8), cv2.COLOR_GRAY2BGR), np.uint8)
    if "codes" in channels:
        codes = np.rint(255 * np.clip(channels["codes"], 0, 1)).astype(np.uint8)
        return np.asarray(cv2.cvtColor(codes, cv2.COLOR_RGBA2BGRA), np.uint8)
    light = np.clip(channels["RGBA"].astype(np.float32), 0, 1)
    return np.asarray(cv2.cvtColor(encoded(np.ascontiguousarray(light)), cv2.COLOR_RGBA2BGRA), np.uint8)


def footage_of(place: Path, rate: str = "", camera: str = "", render_pass: str = "") -> Footage:
    """The frames of a take's folder, a folder of numbered images or a pattern such as ``out.%04d.png``.

    Parameters
    ----------
    place : Path
    rate : str
        Needed where no take says it; it overrides a take's.
    camera, render_pass : str
        Which camera pass of a take that holds several.

    Raises
    ------
    Mistake, Failure
        When frames are missing, or the rate is not known.
    """
    given = Rate.parse(rate) if rate else None
    if (place / LEDGER).is_file():
        return _of_take(place, given, camera, render_pass)
    if camera or render_pass:
        raise Mistake(f"{place} is not a take, so it has no cameras or passes: name its files by a pattern")
    images = sequence(place)
    if missing := gaps(images):
        raise Failure(f"{place}: {said_missing(missing)}: add those frames, or close the gaps")
    if given is None:
        raise Mistake(f"{place} does not say its rate: add --rate, such as --rate 24")
    return Footage(tuple(images.values()), Clock(given, len(images)))


def footage_of_frames(ready: Mapping[int, Path], clock: Clock, name: str) -> Footage:
    """The finished frames of a take: all of the shot, or one stretch of it that was asked for.

    Raises
    ------
    Failure
        When none is finished, or some are missing in between.
    """
    if not ready:
        raise Failure(f"{name} holds no finished frame: capture it first")
    if missing := gaps(ready):
        raise Failure(
            f"{name} lacks {len(missing):,} of {counted(clock.frames, 'frame')}, the first is frame {missing[0]}: "
            "capture them first, by resuming"
        )
    files = tuple(path for _, path in sorted(ready.items()))
    repeats = clock.repeats if len(files) == clock.frames else 1
    return Footage(files, Clock(clock.playback, len(files), clock.span, repeats=repeats))


def chosen_pass(shot: Shot, camera: str, render_pass: str) -> CameraPass:
    """The one camera pass of a shot that a camera's name and a pass tell, either of them left out where there is one.

    Raises
    ------
    Mistake
        When there is none, or more than one.
    """
    found = [s for s in shot.camera_passes if camera in ("", s.camera) and render_pass in ("", s.render_pass)]
    if len(found) == 1:
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
        found = place.parent.glob(wild)
    else:
        raise Mistake(f"there is no folder {place.parent}")
    return [path for path in found if path.suffix.lower() in IMAGES]


def _of_take(folder: Path, given: Rate | None, camera: str, render_pass: str) -> Footage:
    ledger = read_ledger(folder)
    shot = Shot.model_validate_json(json.dumps(ledger["shot"]))
    clock = shot.clock.exact
    camera_pass = chosen_pass(shot, camera, render_pass)
    rows = [
        row
        for row in ledger["frames"]
        if row["state"] in READY and row.get("camera_pass", camera_pass.label) == camera_pass.label
    ]
    ready = {row["number"]: contained_file(folder, row["file"], LEDGER) for row in rows}
    known = {ready[row["number"]]: file for row in rows if (file := finished_of(row))}
    footage = footage_of_frames(ready, clock, str(folder))
    rate = given or clock.playback
    clock = replace(footage.clock, rate=rate)
    footage = replace(footage, clock=clock, known=known, set_aside=lambda file: set_aside(file, folder / DAMAGED))
    return footage.of_shot(shot, shot.camera_passes.index(camera_pass))
