"""Footage: the frames that a file is compiled from, in order, with their clock."""

import glob
import re
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.clock import Clock
from vexel.core.errors import Failure, Mistake
from vexel.core.rate import Rate
from vexel.core.shot import Shot
from vexel.store.folder_take import LEDGER, read_ledger
from vexel.store.takes import READY

READ_AHEAD = 8
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

    def pictures(self) -> Iterator[tuple[Path, NDArray[np.uint8]]]:
        """Each frame's file and pixels, shape (H, W, 3 or 4), BGR or BGRA, uint8; read ahead by threads."""
        with ThreadPoolExecutor(2) as readers:
            ahead: list[Future[NDArray[np.uint8]]] = []
            for number, file in enumerate(self.files):
                while len(ahead) < READ_AHEAD and number + len(ahead) < len(self.files):
                    ahead.append(readers.submit(read_picture, self.files[number + len(ahead)]))
                yield file, ahead.pop(0).result()


def read_picture(file: Path) -> NDArray[np.uint8]:
    """Pixels of an image file as BGR or BGRA.

    Raises
    ------
    Failure
        When it is missing or damaged.
    """
    pixels = cv2.imread(str(file), cv2.IMREAD_UNCHANGED)
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
    files = tuple(numbered_files(place))
    if given is None:
        raise Mistake(f"{place} does not say its rate: add --rate, such as --rate 24")
    return Footage(files, Clock(given, len(files)))


def numbered_files(place: Path) -> list[Path]:
    """Images of one numbered sequence in order of number, none left out.

    Raises
    ------
    Mistake
        When there are none, several sequences, or gaps.
    """
    files = sequence_files(place)
    numbers = [number_of(file) for file in files]
    missing = sorted(set(range(numbers[0], numbers[-1] + 1)) - set(numbers))
    if missing:
        shown = ", ".join(map(str, missing[:5])) + (" and more" if len(missing) > 5 else "")
        raise Failure(
            f"{place}: {len(missing):,} numbers are missing between {numbers[0]} and {numbers[-1]} ({shown}): "
            "bring those frames, or rename the others without gaps"
        )
    return files


def sequence_files(place: Path) -> list[Path]:
    """All numbered images that a folder or pattern names, in order of number."""
    text = str(place)
    if place.is_dir():
        found = [p for p in place.iterdir() if p.suffix.lower() in IMAGES and not p.name.startswith(".")]
    else:
        folder, name = place.parent, place.name
        if not folder.is_dir():
            raise Mistake(f"there is no folder {folder}")
        wild = re.sub(r"%0?\d*d", "*", glob.escape(name)) if "%" in name else name
        found = [p for p in folder.glob(wild) if p.suffix.lower() in IMAGES]
    numbered = [p for p in found if number_of(p) is not None]
    if not numbered:
        raise Mistake(f"{text} holds no numbered images: name a take's folder, or a pattern such as out.%04d.png")
    stems = sorted({_around(p) for p in numbered})
    if len(stems) > 1:
        raise Mistake(
            f"{text} holds {len(stems)} sequences ({stems[0][0]}…, {stems[1][0]}…): name one by a pattern, "
            f"such as {stems[0][0]}%04d{stems[0][1]}"
        )
    return sorted(numbered, key=lambda p: number_of(p) or 0)


def number_of(file: Path) -> int | None:
    """The last number in a file's name, which counts its frames."""
    found = re.findall(r"\d+", file.stem)
    return int(found[-1]) if found else None


def _around(file: Path) -> tuple[str, str]:
    head, _, tail = re.fullmatch(r"(.*?)(\d+)(\D*)", file.stem).groups()  # type: ignore[union-attr]
    return head, tail + file.suffix


def _of_take(folder: Path, given: Rate | None) -> Footage:
    ledger = read_ledger(folder)
    shot = Shot.model_validate_json(_json(ledger["shot"]))
    clock = shot.clock.clock()
    ready = {row["number"]: folder / row["file"] for row in ledger["frames"] if row["state"] in READY}
    missing = [n for n in range(clock.frames) if n not in ready]
    chosen = sorted(ready)
    if not ready:
        raise Failure(f"{folder} holds no finished frame: capture it again with --resume")
    if missing and chosen != list(range(chosen[0], chosen[-1] + 1)):
        raise Failure(
            f"{folder} lacks {len(missing):,} of {clock.frames:,} frames, the first is frame {missing[0]}: "
            "capture it again with --resume"
        )
    files = tuple(ready[number] for number in chosen)
    return Footage(files, Clock(given or clock.rate, len(files), clock.span))


def _json(document: object) -> str:
    import json

    return json.dumps(document)
