"""Frames at the size that a recipe wants, all of one size."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Failure
from vexel.output.footage import Footage, read_picture
from vexel.store.disk.finished import Finished


@dataclass(frozen=True)
class Sized:
    """The size of all frames, and of the file made of them.

    Attributes
    ----------
    from_width, from_height : int
        Of the frames, in pixels.
    width, height : int
        Of the file, in pixels.
    premultiplied : bool
        Whether colours in PNG files are times alpha.
    known : mapping of Path to Finished
        See `Footage`.
    """

    from_width: int
    from_height: int
    width: int
    height: int
    premultiplied: bool = False
    known: Mapping[Path, Finished] = field(default_factory=dict)

    @classmethod
    def of(cls, footage: Footage, long_side: int | None) -> "Sized":
        """The size of the first frame, brought down to `long_side`."""
        height, width = read_picture(footage.files[0], footage.known.get(footage.files[0])).shape[:2]
        scale = min(1.0, (long_side or max(width, height)) / max(width, height))
        size = max(round(width * scale), 1), max(round(height * scale), 1)
        return cls(width, height, *size, footage.premultiplied, footage.known)

    def picture(self, file: Path) -> NDArray[np.uint8]:
        """Pixels of a frame, shape (height, width, 3 or 4), BGR or BGRA.

        Raises
        ------
        Failure
            When it has another size than the first.
        """
        pixels = read_picture(file, self.known.get(file))
        if pixels.shape[:2] != (self.from_height, self.from_width):
            raise Failure(
                f"{file} is {pixels.shape[1]} × {pixels.shape[0]}, but the first frame is "
                f"{self.from_width} × {self.from_height}: all frames of a file must be of one size"
            )
        if self.premultiplied and pixels.shape[2] == 4 and file.suffix.lower() == ".png":
            pixels = pixels.copy()
            pixels[..., :3] = np.minimum(pixels[..., :3] * np.uint32(255) // np.maximum(pixels[..., 3:], 1), 255)
        if (self.width, self.height) == (self.from_width, self.from_height):
            return pixels
        small: NDArray[np.uint8] = cv2.resize(pixels, (self.width, self.height), interpolation=cv2.INTER_AREA)
        return small
