"""Compiles footage to a file and proves it by a receipt."""

import errno
from collections.abc import Callable
from dataclasses import asdict, dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from vexel.core.document.recipes import Recipe
from vexel.core.errors import Failure, Stopped
from vexel.core.time.clock import decimal
from vexel.core.time.gif_timing import gif_timing
from vexel.output.footage import DamagedFrame, Footage
from vexel.output.gif import write_gif
from vexel.output.mp4 import write_mp4
from vexel.output.pictures import Sized
from vexel.output.readback import VideoFacts, video_facts
from vexel.output.spherical import mark_as_panorama
from vexel.store.disk.write import arriving


@dataclass(frozen=True)
class Check:
    """One line of a receipt: what was planned, what the file holds, whether they agree."""

    what: str
    planned: str
    found: str
    holds: bool


@dataclass(frozen=True)
class Receipt:
    """What was read back from a compiled file, held against the plan."""

    file: str
    recipe: str
    bytes: int
    checks: tuple[Check, ...]
    notes: tuple[str, ...]

    @property
    def holds(self) -> bool:
        """Whether every check agrees."""
        return all(check.holds for check in self.checks)

    def document(self) -> dict[str, Any]:
        """As plain JSON values."""
        return asdict(self) | {"holds": self.holds}


def compile_footage(
    footage: Footage,
    file: Path,
    recipe: Recipe,
    told: Callable[[int, int], None] = lambda done, of: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Receipt:
    """Compile to `file`; it appears whole, or not at all.

    Parameters
    ----------
    told : callable
        Called with steps done and steps in all.
    stopped : callable
        Asked after each step whether to end.

    Raises
    ------
    DamagedFrame
        When a frame is no longer what was made; it is set aside.
    Failure
        When a frame is missing or cannot be read, a size does not fit, or the disk is full.
    Stopped
    """
    if recipe.suffix != ".gif":
        footage = footage.times_over()
    steps = len(footage.files) * (2 if recipe.suffix == ".gif" else 1)

    def step(done: int) -> None:
        if stopped():
            raise Stopped("Compiling was stopped; no file was left.")
        told(done, steps)

    try:
        with arriving(file) as part:
            sized = Sized.of(footage, recipe.long_side)
            if recipe.suffix == ".gif":
                delays = gif_timing(footage.clock)
                seconds = delays.seconds
                notes = write_gif(footage, sized, delays, part, step)
            else:
                seconds = footage.clock.seconds
                notes = write_mp4(footage, sized, part, step)
                if footage.panorama:
                    mark_as_panorama(part, footage.panorama)
    except DamagedFrame as error:
        footage.set_aside(error.file)
        raise
    except OSError as error:
        full = error.errno == errno.ENOSPC
        reason = "the disk is full: free some space" if full else f"{error.strerror or error}"
        raise Failure(f"{file} cannot be written: {reason}, then compile again") from None
    return receipt_of(file, recipe, footage, sized, seconds, notes)


def receipt_of(
    file: Path, recipe: Recipe, footage: Footage, sized: Sized, seconds: Fraction, notes: list[str]
) -> Receipt:
    """Read the file back and hold it against the plan."""
    found = video_facts(file)
    checks = [
        _check("frames", f"{len(footage.files):,}", f"{found.frames:,}"),
        _rate_check(footage, recipe, seconds, found),
        _check("duration", f"{decimal(seconds)} s", f"{decimal(found.seconds)} s"),
        _check("size", f"{sized.width} × {sized.height}", f"{found.width} × {found.height}"),
    ]
    if recipe.suffix == ".mp4":
        checks += [
            _check("codec", "h264", found.codec),
            _check("pixels", "yuv420p", found.pixel_format),
            _check("colour", "bt709", found.colour),
            _check("index", "at the front", "at the front" if found.index_first else "at the end"),
        ]
        if footage.panorama or found.panorama:
            planned, really = (seen.told if seen else "none" for seen in (footage.panorama, found.panorama))
            checks.append(_check("panorama", planned, really))
    return Receipt(str(file), recipe.name, file.stat().st_size, tuple(checks), tuple(notes))


def _rate_check(footage: Footage, recipe: Recipe, seconds: Fraction, found: VideoFacts) -> Check:
    """MP4 keeps the rate exactly; a GIF's mean rate follows from its whole delays."""
    planned = footage.clock.rate.fps if recipe.suffix == ".mp4" else len(footage.files) / seconds
    return Check("rate", _fps(planned), _fps(found.rate), planned == found.rate)


def _fps(rate: Fraction) -> str:
    exact = "" if rate.denominator in (1, 2, 4, 5, 10) else f" ({rate.numerator}/{rate.denominator})"
    return f"{decimal(rate, 3)} fps{exact}"


def _check(what: str, planned: str, found: str) -> Check:
    return Check(what, planned, found, planned == found)
