"""Figures of all frames of footage, read once and in several threads."""

from collections.abc import Callable, Collection, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from numpy.typing import NDArray

from vexel.core.errors import Mistake
from vexel.core.review.figures import Closer, Figures, Measured, Step
from vexel.core.wording import counted
from vexel.imaging.signal import apart_of, closer_of, figures_of, step_of
from vexel.output.footage.footage import Footage, footage_of
from vexel.store.folder_take import LEDGER, read_ledger

LOOKED_CLOSER = 5
"""Frames in which bands and fringes are looked for."""
UNKNOWN_RATE = 24
"""Frames a second of a folder, whose files do not state it: only their order counts here."""
STRETCH = 24
"""Frames that one thread measures; the two before are read once more."""


class Pictures(Protocol):
    """Frames that can be measured: footage, or what a file or a reel shows."""

    @property
    def count(self) -> int:
        """How many there are."""

    @property
    def file_names(self) -> Sequence[str]:
        """What they are called for people."""

    def picture(self, position: int, deep: bool = False) -> NDArray[Any]:
        """Pixels of a frame; see `Footage.picture`."""


@dataclass(frozen=True)
class Stretch:
    """What was measured of some frames in a row; see `Measured`."""

    frames: list[Figures]
    steps: list[Step]
    skips: list[float]
    closer: dict[int, Closer]


def measured(
    footage: Pictures,
    on_progress: Callable[[int, int], None] = lambda done, count: None,
    threads: int = 2,
) -> Measured:
    """Measure footage.

    Parameters
    ----------
    footage : Pictures
    on_progress : callable
        Receives the number of frames done, and of all.
    threads : int

    Raises
    ------
    Mistake
        When its frames have several sizes.
    Failure
        When one cannot be read.
    """
    count = footage.count
    chosen = set(looked_closer(count))
    done, parts = 0, []
    with ThreadPoolExecutor(threads) as pool:
        work = [
            pool.submit(measured_stretch, footage, range(begin, min(begin + STRETCH, count)), chosen)
            for begin in range(0, count, STRETCH)
        ]
        try:
            for one in work:
                parts.append(one.result())
                done += len(parts[-1].frames)
                on_progress(done, count)
        finally:
            for one in work:
                one.cancel()
    closer: dict[int, Closer] = {}
    for part in parts:
        closer |= part.closer
    return Measured(
        frames=tuple(frame for part in parts for frame in part.frames),
        steps=tuple(step for part in parts for step in part.steps),
        skips=tuple(skip for part in parts for skip in part.skips),
        closer=closer,
    )


def looked_closer(count: int) -> list[int]:
    """The frames of a sequence in which bands and fringes are looked for."""
    return sorted({n * (count - 1) // max(LOOKED_CLOSER - 1, 1) for n in range(LOOKED_CLOSER)})


def measured_stretch(footage: Pictures, stretch: range, chosen: Collection[int]) -> Stretch:
    """Measure frames in a row; see `measured`. The step to the first of all is that from the last one."""
    count, part = footage.count, Stretch([], [], [], {})
    before: NDArray[Any] = _picture(footage, (stretch.start - 1) % count)
    now = _picture(footage, stretch.start)
    for at in stretch:
        after = _picture(footage, (at + 1) % count)
        _refuse_mixed(footage, at, before, now)
        part.frames.append(figures_of(now))
        part.steps.append(step_of(before, now))
        if before.shape == after.shape and 0 < at < count - 1:
            part.skips.append(apart_of(before, after))
        else:
            part.skips.append(0.0)
        if at in chosen:
            part.closer[at] = closer_of(now)
        before, now = now, after
    return part


def _picture(footage: Pictures, at: int) -> NDArray[Any]:
    return footage.picture(at, deep=True)


def _refuse_mixed(footage: Pictures, at: int, before: NDArray[Any], now: NDArray[Any]) -> None:
    if before.shape != now.shape or before.dtype != now.dtype:
        sizes = " and ".join(f"{one.shape[1]} × {one.shape[0]}, {_kind(one)}" for one in (before, now))
        names = f"{footage.file_names[at - 1]} and {footage.file_names[at]}"
        raise Mistake(f"{names} are not alike ({sizes}): review frames of one size and kind")


def _kind(pixels: NDArray[Any]) -> str:
    return f"{8 * pixels.dtype.itemsize} bits{', alpha' if pixels.shape[2] == 4 else ''}"


def reviewed(place: Path, camera: str = "", render_pass: str = "") -> tuple[Footage, list[bool]]:
    """The frames of a take or a folder, and which of them their plan makes equal to the one before.

    Raises
    ------
    Mistake, Failure
        When there are none, or some are missing.
    """
    rate = "" if (place / LEDGER).is_file() else str(UNKNOWN_RATE)
    footage = footage_of(place, rate, camera, render_pass, hold=True)
    if footage.held:
        are = "is" if len(footage.held) == 1 else "are"
        raise Mistake(f"{counted(len(footage.held), 'frame')} of {place} {are} missing: make or add them first")
    if not (place / LEDGER).is_file():
        return footage, []
    keys = {row.get("file"): row.get("key") for row in read_ledger(place).get("frames", [])}
    own = [keys.get(file.name) for file in footage.files]
    return footage, [at > 0 and key is not None and key == own[at - 1] for at, key in enumerate(own)]
