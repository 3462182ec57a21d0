"""What a media process answers about pictures that are reviewed: how they look, their numbers, and their figures."""

from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake
from vexel.core.reel.media import MediaFacts, MediaRef
from vexel.core.review.figures import Step
from vexel.imaging.look import exposed, for_review
from vexel.imaging.signal import step_of
from vexel.output.bounded.given_library import GivenLibrary
from vexel.output.bounded.media_orders import ReelOrder
from vexel.output.footage.footage import Footage, footage_of
from vexel.output.inspecting.inspect import inspect
from vexel.output.reading.picture_file import exr_numbers
from vexel.output.reel.kept_media import KeptMedia
from vexel.output.reel.media import Media
from vexel.output.reel.open_reel import OpenReel, still_of
from vexel.output.reviewing.file_frames import FileFrames
from vexel.output.reviewing.measure import Stretch, measured_stretch


@dataclass(frozen=True)
class Pictures:
    """Pictures that are reviewed: some frames of a take, all of a file, or all of a reel.

    Attributes
    ----------
    footage : Footage or None
    file : Path or None
    token : int
        Of a reel that is held; 0 for none.
    """

    footage: Footage | None = None
    file: Path | None = None
    token: int = 0


@dataclass(frozen=True)
class PixelNumbers:
    """Numbers of a pixel, in those of its file, and how many bits each has; 0 bits are floating-point numbers."""

    values: tuple[float, ...]
    bits: int


@dataclass(frozen=True)
class _OfReel:
    """Frames of a reel; see `vexel.output.reviewing.measure.Pictures`."""

    reel: OpenReel

    @property
    def count(self) -> int:
        return self.reel.plan.frames

    @property
    def file_names(self) -> Sequence[str]:
        return [f"frame {n}" for n in range(self.count)]

    def picture(self, position: int, deep: bool = False) -> NDArray[Any]:
        return still_of(self.reel, position)


class ReviewCommands:
    """Questions about reviewed pictures, for a process that keeps media and reels open."""

    _kept: KeptMedia
    _reels: Mapping[int, OpenReel]

    def file_facts(self, file: Path) -> MediaFacts:
        """What is known of a file of pictures.

        Raises
        ------
        Mistake, Failure
            When it holds none, or cannot be read.
        """
        return self._media(file).facts

    def inspected(self, place: Path) -> dict[str, Any]:
        """Facts and findings of a file, or of a folder of images; see `vexel.output.inspecting.inspect`."""
        return inspect(place)

    def stills(self, folder: Path, rate: str) -> tuple[Footage, int, int, int]:
        """The images of a folder as footage, with their width, height and bits."""
        footage = footage_of(folder, rate, hold=True)
        kind = footage.kind
        return footage, kind.width, kind.height, 16 if kind.deep else 8

    def review_picture(self, of: Pictures, number: int, wide: int, stops: float) -> bytes:
        """A picture for the screen.

        Parameters
        ----------
        of : Pictures
        number : int
        wide : int
            Width of a small one; 0 for its own.
        stops : float
            By how much its light is raised.
        """
        if of.footage is not None and not of.footage.is_data and _is_exr(of.footage, number):
            pixels: NDArray[Any] = _straight(exr_numbers(of.footage.files[number]))
        else:
            pixels = self._frames(of).picture(number, deep=True)
        return for_review(exposed(pixels, stops), wide)

    def review_pixel(self, of: Pictures, number: int, x: int, y: int) -> PixelNumbers:
        """The numbers of a pixel.

        Raises
        ------
        Mistake
            When it is outside the picture.
        """
        pixels = self._numbers(of, number)
        high, wide = pixels.shape[:2]
        if not (0 <= x < wide and 0 <= y < high):
            raise Mistake(f"pixel {x}, {y} is outside the picture, which has {wide} × {high}")
        bits = 0 if pixels.dtype.kind == "f" else 8 * pixels.itemsize
        return PixelNumbers(tuple(float(value) for value in pixels[y, x]), bits)

    def review_step(self, one: Pictures, at: int, other: Pictures, at_other: int) -> tuple[Step, tuple[int, int]]:
        """How two pictures differ, and the pixel that differs most.

        Raises
        ------
        Mistake
            When they have other sizes.
        """
        mine, theirs = _alike(self._numbers(one, at), self._numbers(other, at_other))
        apart = np.abs(mine.astype(np.float64) - theirs.astype(np.float64)).max(axis=2)
        y, x = np.unravel_index(int(np.nan_to_num(apart).argmax()), apart.shape)
        return step_of(mine, theirs), (int(x), int(y))

    def review_steps(self, one: Pictures, ats: list[int], other: Pictures, other_ats: list[int]) -> list[Step]:
        """How pictures differ, one after the other.

        Raises
        ------
        Mistake
            When they have other sizes.
        """

        def step(at: int, at_other: int) -> Step:
            return step_of(*_alike(self._numbers(one, at), self._numbers(other, at_other)))

        with ThreadPoolExecutor(2) as pool:
            return list(pool.map(step, ats, other_ats))

    def review_figures(self, of: Pictures, begin: int, end: int, chosen: list[int]) -> Stretch:
        """Figures of frames in a row, measured in two threads."""
        frames, middle = self._frames(of), (begin + end + 1) // 2
        with ThreadPoolExecutor(2) as pool:
            halves = [range(begin, middle), range(middle, end)]
            work = [pool.submit(measured_stretch, frames, half, chosen) for half in halves if half]
            first, *rest = [one.result() for one in work]
        for one in rest:
            first.frames.extend(one.frames)
            first.steps.extend(one.steps)
            first.skips.extend(one.skips)
            first.closer.update(one.closer)
        return first

    def _numbers(self, of: Pictures, number: int) -> NDArray[Any]:
        if of.footage is not None and _is_exr(of.footage, number):
            return exr_numbers(of.footage.files[number])
        return self._frames(of).picture(number, deep=True)

    def _frames(self, of: Pictures) -> Footage | FileFrames | _OfReel:
        if of.footage is not None:
            return of.footage
        return FileFrames(self._media(of.file)) if of.file is not None else _OfReel(self._reels[of.token])

    def _media(self, file: Path) -> Media:
        ref = MediaRef("clip", str(file))
        return GivenLibrary(ReelOrder("", file.parent), self._kept).open(ref, "")


def _is_exr(footage: Footage, number: int) -> bool:
    return footage.files[number].suffix.lower() == ".exr"


def _straight(numbers: NDArray[np.float32]) -> NDArray[np.float32]:
    """Light that is not multiplied by alpha, as OpenEXR has it."""
    if numbers.shape[2] < 4:
        return numbers
    alpha = numbers[..., 3:4]
    straight = np.where(alpha > 0, numbers[..., :3] / np.maximum(alpha, 1e-6), numbers[..., :3])
    return np.concatenate([straight, alpha], axis=2).astype(np.float32)


def _alike(mine: NDArray[Any], theirs: NDArray[Any]) -> tuple[NDArray[Any], NDArray[Any]]:
    """Two pictures with the same channels and depth: an opaque alpha is added, 8 bits become 16.

    Raises
    ------
    Mistake
        When they have other sizes, or one has codes and the other floating-point numbers.
    """
    if mine.shape[:2] != theirs.shape[:2]:
        sizes = " and ".join(f"{one.shape[1]} × {one.shape[0]}" for one in (mine, theirs))
        raise Mistake(f"the pictures have {sizes}: only pictures of one size are compared by their pixels")
    if (mine.dtype.kind == "f") != (theirs.dtype.kind == "f"):
        raise Mistake("one picture holds light and the other one codes: compare pictures of one kind")
    if mine.dtype != theirs.dtype:
        mine, theirs = (one.astype(np.uint16) * 257 if one.dtype == np.uint8 else one for one in (mine, theirs))
    most = max(mine.shape[2], theirs.shape[2])
    if most == 4 and mine.shape[2] != theirs.shape[2]:
        mine, theirs = (_with_alpha(one) for one in (mine, theirs))
    if mine.shape != theirs.shape:
        raise Mistake("the pictures have other channels: compare pictures of one kind")
    return np.ascontiguousarray(mine), np.ascontiguousarray(theirs)


def _with_alpha(pixels: NDArray[Any]) -> NDArray[Any]:
    if pixels.shape[2] == 4:
        return pixels
    top = 1.0 if pixels.dtype.kind == "f" else np.iinfo(pixels.dtype).max
    return np.concatenate([pixels, np.full((*pixels.shape[:2], 1), top, pixels.dtype)], axis=2)
