"""Animated GIF: true in its total time, what stands still is left out."""

from collections.abc import Iterator
from fractions import Fraction
from itertools import accumulate
from pathlib import Path
from typing import Any

import av
import cv2
from av.filter import Graph

from vexel.core.recipes.recipe import Palette
from vexel.core.time.clock import Clock
from vexel.core.time.gif_timing import GifTiming, gif_timing
from vexel.output.job import Job
from vexel.output.pictures import Pixels
from vexel.output.writers.writer import Writer

HUNDREDTH = Fraction(1, 100)
RGBA = av.VideoFormat("rgba")
GIF_DITHER = {"none": "none", "ordered": "bayer:bayer_scale=3", "diffuse": "sierra2_4a"}


def delays_of(job: Job) -> GifTiming:
    """The delay of each picture."""
    return gif_timing(Clock(job.timeline.rate, job.timeline.count))


class GifWriter(Writer):
    """Twice over all pictures, the first time for the palette; once with a palette for each."""

    def __init__(self, job: Job, part: Path) -> None:
        super().__init__(job, part)
        self._delays = delays_of(job)
        self._palette = job.recipe.palette
        size = (job.width, job.height)
        self._gathering = _Gathering(size, self._palette) if self._palette.of == "take" else None
        self._painter: Any = None if self._gathering else _OwnPalettes(size, self._palette)
        self._container: Any = None
        if self._delays.note:
            self.notes.append(self._delays.note)

    def prepare(self, pixels: Pixels) -> av.VideoFrame:
        """A frame of R, G, B and alpha."""
        code = cv2.COLOR_BGR2RGBA if pixels.shape[2] == 3 else cv2.COLOR_BGRA2RGBA
        return av.VideoFrame.from_ndarray(cv2.cvtColor(pixels, code), format="rgba")

    def add(self, prepared: av.VideoFrame, number: int) -> None:
        """Count its colours in the first round, and write it in the second."""
        if self._gathering:
            self._gathering.add(prepared, number)
            return
        if self._container is None:
            self._open()
        prepared.pts, prepared.time_base = self._starts[number], HUNDREDTH
        self._write(self._painter.painted(prepared))

    def end(self) -> bool:
        """After the first round the palette is there; after the second the file."""
        if self._gathering:
            size = (self.job.width, self.job.height)
            self._painter = _Painter(size, self._gathering.palette(), self._palette)
            self._gathering = None
            return True
        self._write(self._painter.painted(None))
        self._container.mux(self._stream.encode())
        self.close()
        return False

    def close(self) -> None:
        """Close the file."""
        if self._container is not None:
            self._container.close()
            self._container = None

    def _open(self) -> None:
        delays, plays = self._delays.hundredths, self.job.recipe.timing.plays
        self._starts = [0, *accumulate(delays)]
        # FFmpeg writes a frame when the next one comes, so the last one's delay is told beforehand. Its loops are
        # what follows the first time; without any it writes none.
        options = {"loop": str({0: 0, 1: -1}.get(plays, plays - 1)), "final_delay": str(delays[-1])}
        self._container = av.open(str(self.part), "w", format="gif", options=options)
        self._stream = self._container.add_stream("gif", rate=100)
        self._stream.width, self._stream.height, self._stream.pix_fmt = self.job.width, self.job.height, "pal8"
        self._stream.time_base = self._stream.codec_context.time_base = HUNDREDTH

    def _write(self, painted: Iterator[av.VideoFrame]) -> None:
        for frame in painted:
            self._container.mux(self._stream.encode(frame))


class _Gathering:
    """The colours, and transparency, that serve all pictures best."""

    def __init__(self, size: tuple[int, int], palette: Palette) -> None:
        self._graph = Graph()
        self._put = _buffer(self._graph, size)
        # Over all pictures: a palette for each would make areas that stand still flicker.
        settings = f"stats_mode=full:reserve_transparent=1:max_colors={max(palette.colours, 4)}"
        make = self._graph.add("palettegen", settings)
        self._take = self._graph.add("buffersink")
        self._put.link_to(make)
        make.link_to(self._take)
        self._graph.configure()

    def add(self, frame: av.VideoFrame, number: int) -> None:
        frame.pts, frame.time_base = number, HUNDREDTH
        self._put.push(frame)

    def palette(self) -> av.VideoFrame:
        self._put.push(None)
        return next(_pulled(self._take))


class _Painter:
    """Brings pictures to the palette. Holds the graph, whose filters die with it."""

    def __init__(self, size: tuple[int, int], colours: av.VideoFrame, palette: Palette) -> None:
        self._graph = Graph()
        self._put = _buffer(self._graph, size)
        # A palette is a picture of 16 × 16.
        other = _buffer(self._graph, (16, 16))
        # Dithering spreads errors over what lies below: kept to what changed, the rest stays still and packs well.
        # Of alpha, a GIF knows there and not there.
        paint = self._graph.add(
            "paletteuse", f"dither={GIF_DITHER[palette.dither]}:diff_mode=rectangle:alpha_threshold=128"
        )
        self._take = self._graph.add("buffersink")
        self._put.link_to(paint, 0, 0)
        other.link_to(paint, 0, 1)
        paint.link_to(self._take)
        self._graph.configure()
        other.push(colours)
        other.push(None)

    def painted(self, frame: av.VideoFrame | None) -> Iterator[av.VideoFrame]:
        """Pictures that are ready once this one came; None ends them."""
        self._put.push(frame)
        return _pulled(self._take)


class _OwnPalettes:
    """Gives each picture a palette of its own."""

    def __init__(self, size: tuple[int, int], palette: Palette) -> None:
        self._graph = Graph()
        self._put = _buffer(self._graph, size)
        both = self._graph.add("split")
        settings = f"stats_mode=single:reserve_transparent=1:max_colors={max(palette.colours, 4)}"
        make = self._graph.add("palettegen", settings)
        paint = self._graph.add("paletteuse", f"dither={GIF_DITHER[palette.dither]}:new=1:alpha_threshold=128")
        self._take = self._graph.add("buffersink")
        self._put.link_to(both)
        both.link_to(paint, 0, 0)
        both.link_to(make, 1, 0)
        make.link_to(paint, 0, 1)
        paint.link_to(self._take)
        self._graph.configure()

    def painted(self, frame: av.VideoFrame | None) -> Iterator[av.VideoFrame]:
        self._put.push(frame)
        return _pulled(self._take)


def _buffer(graph: Graph, size: tuple[int, int]) -> Any:
    return graph.add_buffer(width=size[0], height=size[1], format=RGBA, time_base=HUNDREDTH)


def _pulled(sink: Any) -> Iterator[av.VideoFrame]:
    while True:
        try:
            yield sink.pull()
        except (av.BlockingIOError, av.EOFError):
            return
