"""MP4: H.264 in 4:2:0, BT.709, index at the front."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.video.reformatter import ColorRange
from numpy.typing import NDArray

from vexel.core.errors import Failure
from vexel.output.footage import Footage
from vexel.output.pictures import Sized
from vexel.output.yuv import YuvConverter

CRF = "18"
PRESET = "medium"
BT709 = 1
"""Number of BT.709 for primaries, transfer and matrix (ITU-T H.273)."""


def write_mp4(footage: Footage, sized: Sized, file: Path, on_step: Callable[[int], None]) -> list[str]:
    """Encode; returns notes for the receipt.

    Raises
    ------
    Failure
        When a side is odd, or frames differ in size.
    """
    width, height = sized.width, sized.height
    if width % 2 or height % 2:
        raise Failure(
            f"the frames are {width} × {height}, but H.264 in 4:2:0 needs even sides: capture them "
            f"{width - width % 2} × {height - height % 2}, or compile a GIF"
        )
    transparent, in_yuv = False, YuvConverter()

    def frame_of(file: Path) -> av.VideoFrame:
        nonlocal transparent
        pixels = sized.picture(file)
        if pixels.shape[2] == 4:
            transparent = transparent or bool((pixels[..., 3] < 255).any())
            pixels = over_black(pixels)
        return in_yuv(pixels)

    # The index at the front, so that a browser plays before all has arrived.
    with av.open(str(file), "w", format="mp4", options={"movflags": "+faststart"}) as container:
        stream = container.add_stream("libx264", rate=footage.clock.rate.fps)
        _set_up(stream, width, height)
        for number, frame in enumerate(footage.each(frame_of)):
            frame.pts, frame.time_base = number, 1 / footage.clock.rate.fps
            container.mux(stream.encode(frame))
            on_step(number + 1)
        container.mux(stream.encode())
    notes = ["colours are 4:2:0, sited to the left"]
    return [*notes, "the frames are transparent; H.264 has no alpha, so they are on black"] if transparent else notes


def _set_up(stream: Any, width: int, height: int) -> None:
    stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
    stream.options = {"crf": CRF, "preset": PRESET, "x264-params": "chromaloc=0"}
    context = stream.codec_context
    # Frames in parallel, as the encoder itself would choose. PyAV would encode by slices, at 0.70 of the speed of
    # ffmpeg's command line; by frames, with pictures converted in the reading threads, it is as fast.
    context.thread_type, context.thread_count = "FRAME", 0
    context.color_primaries = context.color_trc = context.colorspace = BT709
    context.color_range = ColorRange.MPEG


def over_black(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Straight BGRA laid over black (Porter and Duff, 1984)."""
    alpha = pixels[..., 3:].astype(np.uint16)
    return np.ascontiguousarray((pixels[..., :3] * alpha + 127) // 255).astype(np.uint8)
