"""Animated GIF: one palette made from all frames, endless, true in its total time."""

from collections.abc import Callable, Iterator
from fractions import Fraction
from itertools import accumulate
from pathlib import Path
from typing import Any

import av
import cv2
from av.filter import Graph

from vexel.core.time.gif_timing import GifTiming
from vexel.output.footage import Footage
from vexel.output.pictures import Sized

HUNDREDTH = Fraction(1, 100)
RGBA = av.VideoFormat("rgba")


def write_gif(
    footage: Footage, sized: Sized, delays: GifTiming, file: Path, on_step: Callable[[int], None]
) -> list[str]:
    """Encode in two passes, the first for the palette; returns notes for the receipt.

    `on_step` counts both passes, so it ends at twice the number of frames.
    """
    painter = _Painter(sized, _palette(footage, sized, on_step))
    starts = [0, *accumulate(delays.hundredths)]
    # FFmpeg writes a frame when the next one comes, so the last one's delay is told beforehand.
    options = {"loop": "0", "final_delay": str(delays.hundredths[-1])}
    with av.open(str(file), "w", format="gif", options=options) as container:
        stream: Any = container.add_stream("gif", rate=100)
        stream.width, stream.height, stream.pix_fmt = sized.width, sized.height, "pal8"
        stream.time_base = stream.codec_context.time_base = HUNDREDTH
        count = len(footage.files)
        for number, frame in enumerate(_frames(footage, sized)):
            frame.pts, frame.time_base = starts[number], HUNDREDTH
            for painted in painter.painted(frame):
                container.mux(stream.encode(painted))
            on_step(count + number + 1)
        for painted in painter.painted(None):
            container.mux(stream.encode(painted))
        container.mux(stream.encode())
    return [delays.note] if delays.note else []


def _frames(footage: Footage, sized: Sized) -> Iterator[av.VideoFrame]:
    def frame_of(file: Path) -> av.VideoFrame:
        pixels = sized.picture(file)
        code = cv2.COLOR_BGR2RGBA if pixels.shape[2] == 3 else cv2.COLOR_BGRA2RGBA
        return av.VideoFrame.from_ndarray(cv2.cvtColor(pixels, code), format="rgba")

    return footage.each(frame_of)


def _palette(footage: Footage, sized: Sized, on_step: Callable[[int], None]) -> av.VideoFrame:
    """The 255 colours, and transparency, that serve all frames best."""
    graph = Graph()
    put = graph.add_buffer(width=sized.width, height=sized.height, format=RGBA, time_base=HUNDREDTH)
    # Over all frames: a palette for each would make areas that stand still flicker.
    make = graph.add("palettegen", "stats_mode=full:reserve_transparent=1")
    take = graph.add("buffersink")
    put.link_to(make)
    make.link_to(take)
    graph.configure()
    for number, frame in enumerate(_frames(footage, sized)):
        frame.pts, frame.time_base = number, HUNDREDTH
        put.push(frame)
        on_step(number + 1)
    put.push(None)
    return next(_pulled(take))


class _Painter:
    """Brings frames to the palette. Holds the graph, whose filters die with it."""

    def __init__(self, sized: Sized, palette: av.VideoFrame) -> None:
        self._graph = Graph()
        self._put = self._graph.add_buffer(width=sized.width, height=sized.height, format=RGBA, time_base=HUNDREDTH)
        # A palette is a picture of 16 × 16.
        colours = self._graph.add_buffer(width=16, height=16, format=RGBA, time_base=HUNDREDTH)
        # Dithering spreads errors over what lies below: kept to what changed, the rest stays still and packs well.
        # Of alpha, a GIF knows there and not there.
        paint = self._graph.add("paletteuse", "dither=sierra2_4a:diff_mode=rectangle:alpha_threshold=128")
        self._take = self._graph.add("buffersink")
        self._put.link_to(paint, 0, 0)
        colours.link_to(paint, 0, 1)
        paint.link_to(self._take)
        self._graph.configure()
        colours.push(palette)
        colours.push(None)

    def painted(self, frame: av.VideoFrame | None) -> Iterator[av.VideoFrame]:
        """Frames that are ready once this one came; None ends them."""
        self._put.push(frame)
        return _pulled(self._take)


def _pulled(sink: Any) -> Iterator[av.VideoFrame]:
    while True:
        try:
            yield sink.pull()
        except (av.BlockingIOError, av.EOFError):
            return
