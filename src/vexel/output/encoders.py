"""Encoders: how each kind of file is written and what its receipt checks, one record each."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from vexel.core.time.gif_timing import gif_timing
from vexel.output.colours import Tolerance
from vexel.output.footage import Footage
from vexel.output.gif import HUNDREDTH, write_gif
from vexel.output.mp4 import write_mp4
from vexel.output.pictures import Sized
from vexel.output.readback import VideoFacts
from vexel.output.receipt import Check, check
from vexel.output.spherical import mark_as_panorama

Step = Callable[[int], None]


CLOSELY, BY_PALETTE = Tolerance(1.5, 4), Tolerance(8, 8)


@dataclass(frozen=True)
class Encoder:
    """How a kind of file is written.

    Attributes
    ----------
    write : callable
        Writes footage at a size to a file, telling steps done; gives notes for the receipt.
    grain : Fraction
        Seconds to which a file of this kind rounds its times; 0 where they are exact.
    colours_within : Tolerance
    passes : int
        Steps a frame.
    checks : callable
        What is checked beside frames, rate, duration and size.
    """

    write: Callable[[Footage, Sized, Path, Step], list[str]]
    grain: Fraction = Fraction(0)
    colours_within: Tolerance = CLOSELY
    passes: int = 1
    checks: Callable[[Footage, VideoFacts], list[Check]] = lambda footage, found: []


def _write_mp4(footage: Footage, sized: Sized, file: Path, step: Step) -> list[str]:
    notes = write_mp4(footage, sized, file, step)
    if footage.panorama:
        mark_as_panorama(file, footage.panorama)
    return notes


def _mp4_checks(footage: Footage, found: VideoFacts) -> list[Check]:
    checks = [
        check("codec", "h264", found.codec),
        check("pixels", "yuv420p", found.pixel_format),
        check("colour", "bt709", found.colour),
        check("index", "at the front", "at the front" if found.index_first else "at the end"),
    ]
    if footage.panorama or found.panorama:
        planned, really = (seen.label if seen else "none" for seen in (footage.panorama, found.panorama))
        checks.append(check("panorama", planned, really))
    return checks


def _write_gif(footage: Footage, sized: Sized, file: Path, step: Step) -> list[str]:
    return write_gif(footage, sized, gif_timing(footage.clock), file, step)


ENCODERS: Mapping[str, Encoder] = {
    "h264": Encoder(_write_mp4, checks=_mp4_checks),
    # Twice over all frames: the first time for the palette.
    "gif": Encoder(_write_gif, HUNDREDTH, colours_within=BY_PALETTE, passes=2),
}
"""By the names that recipes use."""
