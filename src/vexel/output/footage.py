"""Footage: the frames that a file is compiled from, in order, with their clock."""

import glob
import json
import os
import re
from collections import deque
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.clock import Clock
from vexel.core.errors import Failure, Mistake
from vexel.core.numbered import gaps
from vexel.core.rate import Rate
from vexel.core.shot import Shot
from vexel.store.folder_take import LEDGER, read_ledger
from vexel.store.states import READY

MADE_AHEAD = 8
T = TypeVar("T")
IMAGES = (".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp", ".bmp")


@dataclass(frozen=True)
class Footage:
    """Frames to compile.

    Attributes
    ----------
    files : tuple of Path
        In order.
    clock : Clock
        Its count is that of `files`.
    """

    files: tuple[Path, ...]
    clock: Clock

    def each(self, make: Callable[[Path], T]) -> Iterator[T]:
        """What `make` makes of each frame's file, in order, made ahead by threads."""
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


def read_picture(file: Path) -> NDArray[np.uint8]:
    """Pixels of an image file as BGR or BGRA.

    Raises
    ------
    Failure
        When it is missing or damaged.
    """
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


def footage_of(place: Path, rate: str = "") -> Footage:
    """The frames of a take's folder, a folder of numbered images or a pattern such as ``out.%04d.png``.

    Parameters
    ----------
    place : Path
    rate : str
        Needed where no take says it; it overrides a take's.

    Raises
    ------
    Mistake, Failure
        When frames are missing, or the rate is not known.
    """
    given = Rate.parse(rate) if rate else None
    if (place / LEDGER).is_file():
        return _of_take(place, given)
    images = sequence(place)
    if missing := gaps(images):
        shown = ", ".join(map(str, missing[:5])) + (" and more" if len(missing) > 5 else "")
        raise Failure(f"{place}: {len(missing):,} numbers are missing ({shown}): bring those frames, or close the gaps")
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
            f"{name} lacks {len(missing):,} of {clock.frames:,} frames, the first is frame {missing[0]}: "
            "capture them first, by resuming"
        )
    return Footage(tuple(path for _, path in sorted(ready.items())), Clock(clock.rate, len(ready), clock.span))


def sequence(place: Path) -> dict[int, Path]:
    """The numbered images that a folder or pattern names, in order of number.

    Raises
    ------
    Mistake
        When there are none, or several sequences.
    """
    numbered = [(number, path) for path in _images(place) if (number := _number(path)) is not None]
    if not numbered:
        raise Mistake(f"{place} holds no numbered images: name a take's folder, or a pattern such as out.%04d.png")
    stems = sorted({_around(path) for _, path in numbered})
    if len(stems) > 1:
        (head, tail), (other, _) = stems[:2]
        raise Mistake(
            f"{place} holds {len(stems)} sequences ({head}…, {other}…): name one by a pattern, such as {head}%04d{tail}"
        )
    return dict(sorted(numbered))


def _images(place: Path) -> list[Path]:
    if place.is_dir():
        found = place.glob("[!.]*")
    elif place.parent.is_dir():
        wild = re.sub(r"%0?\d*d", "*", glob.escape(place.name)) if "%" in place.name else place.name
        found = place.parent.glob(wild)
    else:
        raise Mistake(f"there is no folder {place.parent}")
    return [path for path in found if path.suffix.lower() in IMAGES]


def _number(file: Path) -> int | None:
    """The last number in a file's name, which counts its frames."""
    found = re.findall(r"\d+", file.stem)
    return int(found[-1]) if found else None


def _around(file: Path) -> tuple[str, str]:
    head, _, tail = re.fullmatch(r"(.*?)(\d+)(\D*)", file.stem).groups()  # type: ignore[union-attr]
    return head, tail + file.suffix


def _of_take(folder: Path, given: Rate | None) -> Footage:
    ledger = read_ledger(folder)
    shot = Shot.model_validate_json(json.dumps(ledger["shot"]))
    clock = shot.clock.clock()
    ready = {row["number"]: folder / row["file"] for row in ledger["frames"] if row["state"] in READY}
    footage = footage_of_frames(ready, clock, str(folder))
    return Footage(footage.files, Clock(given or clock.rate, len(footage.files), clock.span))
