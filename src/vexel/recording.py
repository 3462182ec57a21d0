"""Frames that your running program sends.

::

    import vexel

    with vexel.recorder("out/tide", rate=25) as r:
        for step in range(300):
            r.add(draw(step))

Frames are numbered in the order of adding, at any program speed.
"""

import sys
from collections.abc import Callable
from pathlib import Path
from types import TracebackType
from typing import Any, Literal, Protocol, Self

import numpy as np

from vexel.core.document.background import TRANSPARENT, Background
from vexel.core.errors import Mistake
from vexel.core.time.rate import Rate
from vexel.core.wording import counted
from vexel.imaging.images import header_of
from vexel.imaging.light import Picture
from vexel.sources.code.drawing_result import drawing_result
from vexel.sources.protocols import FrameRequest
from vexel.stage.encode import deep_png_bytes, png_bytes
from vexel.stage.fit import fitted, fitted_light
from vexel.store.recordings.sinks import FolderRecording, ServerRecording

DEFAULT_SIZE = (1920, 1080)


class Recording(Protocol):
    """The destination of frames."""

    def keep(self, data: bytes) -> int:
        """Store a PNG file as the next frame; return its number."""

    def close(self) -> None:
        """Finish: all frames have been added."""


class Recorder:
    """Takes pictures one after the other; see `recorder`.

    Attributes
    ----------
    recording : bool
        Whether pictures are taken now.
    frames : int
        How many were taken.
    """

    def __init__(
        self,
        place: Recording,
        size: tuple[int, int] | None,
        background: str,
        recording: bool,
        say: Callable[[str], None],
    ) -> None:
        self._place = place
        self._size = size
        self._background = background
        self._say = say
        self.recording = recording
        self.frames = 0
        self._tell()

    def add(self, picture: Any) -> int | None:
        """Take a picture.

        Parameters
        ----------
        picture : skia surface, picture or image; matplotlib figure; Pillow image; ndarray; SVG text
            As a sketch may return it. The first one decides the frames' size,
            unless a size was given; the others are fitted into it.

        Returns
        -------
        int or None
            The frame's number, or None while switched off.

        Raises
        ------
        TypeError, ValueError
            When it is no picture, naming its type and shape.
        """
        if not self.recording:
            return None
        size = self._size or _own_size(picture) or DEFAULT_SIZE
        pixels = drawing_result(picture, FrameRequest({}, {}, size, size, self._background))
        if not isinstance(pixels, np.ndarray):
            raise TypeError("geometry has no camera here: draw it, or make it the source of a shot (@model)")
        if self._size is None:
            self._size = size = (pixels.shape[1], pixels.shape[0])
        number = self._place.keep(self._encoded(pixels, size))
        self.frames += 1
        return number

    def on(self) -> None:
        """Take pictures from now on."""
        self._switch(True)

    def off(self) -> None:
        """Take none until switched on again; `add` may be called all the same."""
        self._switch(False)

    def close(self) -> None:
        """Write the ledger. Frames that were taken are kept in any case."""
        self._place.close()
        self._say(f"vexel: {counted(self.frames, 'frame was', 'frames were')} recorded")

    def __enter__(self) -> Self:
        """Begin a block that closes the recording at its end."""
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        """Close, whether the block ended well or not."""
        self.close()

    def _switch(self, on: bool) -> None:
        if on != self.recording:
            self.recording = on
            self._tell()

    def _tell(self) -> None:
        state = "recording" if self.recording else "not recording"
        self._say(f"vexel: {state}, {counted(self.frames, 'frame')} so far")

    def _encoded(self, picture: Picture, size: tuple[int, int]) -> bytes:
        """As a PNG file, of 16 bits where the picture has them."""
        if picture.dtype == np.float32:
            return deep_png_bytes(fitted_light(picture.astype(np.float32, copy=False), size, self._background), False)
        return png_bytes(fitted(picture.astype(np.uint8, copy=False), size, self._background))


def recorder(
    folder: str | Path = "",
    *,
    rate: str | int,
    server: str = "",
    title: str = "Recording",
    size: tuple[int, int] | None = None,
    background: str = TRANSPARENT,
    recording: bool = True,
    existing: Literal["refuse", "resume", "fresh"] = "refuse",
    say: Callable[[str], None] | None = None,
    studio: str = "",
) -> Recorder:
    """Record frames of a running program.

    Parameters
    ----------
    folder : str or Path
        Folder for numbered frames and their ledger, for ``vexel compile``.
    rate : str or int
        Frames per second of the video, independent of the program's speed.
    server : str
        Instead of a folder: the address for frames that a running Vexel prints.
    title : str
        Of the shot, and of the files.
    size : (int, int), optional
        Width and height; that of the first picture if left out.
    background : str
        ``#rrggbb`` or ``transparent``: what shows through.
    recording : bool
        Whether it begins switched on.
    existing : str
        How to treat frames that the folder already holds.
    say : callable, optional
        Takes a line whenever it is switched on or off; standard error if left
        out, so that nothing shows in the picture.
    studio : str
        Older name of `server`.

    Raises
    ------
    Mistake
        When the call is wrong, or the folder holds other frames.
    """
    exact = Rate.parse(str(rate))
    if Background.parse(background).is_backdrop:
        raise Mistake(f'background {background!r} is not a plain colour: write "#rrggbb" or "transparent"')
    server = server or studio
    if bool(folder) == bool(server):
        raise Mistake("recorder() takes either a folder or the address of a running Vexel")
    place: Recording
    if server:
        place = ServerRecording(server, str(exact), title)
    else:
        held = FolderRecording(Path(folder), str(exact), title, existing)
        place, say = held, say or _to_standard_error
        for note in held.notes:
            say(f"vexel: {note}")
        size = _size_beside(held, size)
    return Recorder(place, size, background, recording, say or _to_standard_error)


def _size_beside(held: FolderRecording, size: tuple[int, int] | None) -> tuple[int, int] | None:
    """The size of frames that are there already, which others must have too."""
    if held.first is None:
        return size
    header = header_of(held.first)
    if size is not None and size != (header.width, header.height):
        held.close()
        raise Mistake(
            f"{held.first.parent} holds frames of {header.width} × {header.height}, not {size[0]} × {size[1]}: give "
            'their size, or say existing="fresh" to replace them'
        )
    return header.width, header.height


def _own_size(picture: Any) -> tuple[int, int] | None:
    """Size in pixels that a picture has by itself; None for drawings that take any."""
    if hasattr(picture, "get_size_inches"):
        wide, high = picture.get_size_inches() * picture.dpi
        return round(wide), round(high)
    return None


def _to_standard_error(line: str) -> None:
    print(line, file=sys.stderr)
