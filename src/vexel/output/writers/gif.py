"""Animated GIF: exact in its total time; areas that do not change are left out."""

from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from fractions import Fraction
from itertools import accumulate
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from av.filter import Graph
from numpy.typing import NDArray

from vexel.core.recipes.recipe import Palette
from vexel.core.time.clock import Clock
from vexel.core.time.gif_timing import GifTiming, gif_timing
from vexel.output.job.frame_converter import frame_of
from vexel.output.job.job import Job
from vexel.output.job.pictures import Pixels
from vexel.output.origin.carried import with_record
from vexel.output.origin.record import origin_of
from vexel.output.writers.writer import Writer

HUNDREDTH = Fraction(1, 100)
BGRA = av.VideoFormat("bgra")
"""As the filters of palettes work, so that nothing is converted on the way."""
CELLS = 1 << 16
"""Of eight codes of red and blue and four of green, of which eyes see twice as much.

Finer cells gave 4 dB more where 57 dB were reached already, in files a third larger.
"""
COUNTED = 100_000
"""Pixels of a picture up to which all are counted."""
STATISTIC = 512
"""Side of the sample picture from which colours are chosen."""
SEEN = 128
"""Alpha from which a pixel is there."""
WAITING = 8
"""Pictures that may wait to be packed."""
Counted = tuple[NDArray[Any], NDArray[Any]]
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
        self._gathering = _Gathering(self._palette) if self._palette.of == "take" else None
        self._painter: Any = None if self._gathering else _OwnPalettes(size, self._palette)
        self._container: Any = None
        # While one picture is packed, the next is converted to the palette.
        self._packer = ThreadPoolExecutor(1)
        self._packing: deque[Future[None]] = deque()
        if self._delays.note:
            self.notes.append(self._delays.note)

    @property
    def may_repeat(self) -> bool:
        """Whether it may ask for another round."""
        return self._gathering is not None

    def prepare(self, pixels: Pixels) -> Any:
        """Its colours, counted, in the first round; then a frame of B, G, R and alpha."""
        if self._gathering:
            return _Gathering.counted(pixels)
        code = cv2.COLOR_RGBA2BGRA if pixels.shape[2] == 4 else cv2.COLOR_RGB2BGRA
        return frame_of(np.asarray(cv2.cvtColor(pixels, code)), "bgra")

    def add(self, prepared: Any, number: int) -> None:
        """Count its colours in the first round, and write it in the second."""
        if self._gathering:
            self._gathering.add(prepared)
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
        self._await(0)
        self._container.mux(self._stream.encode())
        self.close()
        if (origin := origin_of(self.job)) is not None:
            self.part.write_bytes(with_record(self.part.read_bytes(), origin.text))
        return False

    def close(self) -> None:
        """Close the file."""
        self._packer.shutdown(cancel_futures=True)
        if self._container is not None:
            self._container.close()
            self._container = None

    def _open(self) -> None:
        delays, plays = self._delays.hundredths, self.job.recipe.timing.plays
        self._starts = [0, *accumulate(delays)]
        # FFmpeg writes a frame when the next one comes, so the last one's delay is set first. Its loops are
        # what follows the first time; without any it writes none.
        options = {"loop": str({0: 0, 1: -1}.get(plays, plays - 1)), "final_delay": str(delays[-1])}
        self._container = av.open(str(self.part), "w", format="gif", options=options)
        self._stream = self._container.add_stream("gif", rate=100)
        self._stream.width, self._stream.height, self._stream.pix_fmt = self.job.width, self.job.height, "pal8"
        self._stream.time_base = self._stream.codec_context.time_base = HUNDREDTH

    def _write(self, painted: Iterator[av.VideoFrame]) -> None:
        for frame in painted:
            self._packing.append(self._packer.submit(self._pack, frame))
            self._await(WAITING)

    def _pack(self, frame: av.VideoFrame) -> None:
        self._container.mux(self._stream.encode(frame))

    def _await(self, most: int) -> None:
        """Wait until at most `most` pictures remain to pack."""
        while len(self._packing) > most:
            self._packing.popleft().result()


class _Gathering:
    """The colours that serve all pictures best.

    Colours are counted in cells, each with its mean, and one picture of those means is
    what the palette is made of: over a million single colours FFmpeg's filter sorts for seconds.
    """

    def __init__(self, palette: Palette) -> None:
        self._palette = palette
        self._sums = np.zeros((CELLS, 4))

    @staticmethod
    def counted(pixels: Pixels) -> Counted:
        """Cells of a picture with their number of pixels and the sums of blue, green and red."""
        flat = pixels.reshape(-1, pixels.shape[2])
        if len(flat) > COUNTED:
            # Of many pixels a part is enough; by a step that no column repeats, so that no thin line is left out.
            step = next(step for step in (5, 7, 3, 11, 13) if pixels.shape[1] % step or step == 13)
            flat = flat[::step]
        if flat.shape[1] == 4:
            flat = flat[flat[:, 3] >= SEEN]
        cell = (flat[:, 0].astype(np.int32) >> 3 << 11) | (flat[:, 1].astype(np.int32) >> 2 << 5) | (flat[:, 2] >> 3)
        there = np.flatnonzero(np.bincount(cell, minlength=CELLS))
        # Sums over the cells that are there: over all of them they would take four times as long.
        place = np.empty(CELLS, np.int32)
        place[there] = np.arange(len(there))
        within = place[cell]
        sums = [np.bincount(within, weights=flat[:, channel], minlength=len(there)) for channel in (2, 1, 0)]
        return there, np.stack([np.bincount(within, minlength=len(there)), *sums], axis=1)

    def add(self, counted: Counted) -> None:
        """Count a picture in."""
        there, sums = counted
        self._sums[there] += sums

    def palette(self) -> av.VideoFrame:
        """A picture of 16 × 16 colours, the last one for what is clear."""
        sums = self._sums[self._sums[:, 0] > 0]
        if not len(sums):
            sums = np.array([[1.0, 0, 0, 0]])
        means = np.rint(sums[:, 1:] / sums[:, :1]).astype(np.uint8)
        often = np.maximum(np.rint(sums[:, 0] / sums[:, 0].sum() * STATISTIC**2), 1).astype(int)
        colours = np.repeat(means, often, axis=0)
        rows = -(-len(colours) // STATISTIC)
        picture = np.full((rows * STATISTIC, 4), 255, np.uint8)
        picture[:, :3] = means[int(np.argmax(often))]
        picture[: len(colours), :3] = colours
        graph = Graph()
        put = _buffer(graph, (STATISTIC, rows))
        make = graph.add("palettegen", f"reserve_transparent=1:max_colors={max(self._palette.colours, 4)}")
        take = graph.add("buffersink")
        put.link_to(make)
        make.link_to(take)
        graph.configure()
        frame = frame_of(picture.reshape(rows, STATISTIC, 4), "bgra")
        frame.pts, frame.time_base = 0, HUNDREDTH
        put.push(frame)
        put.push(None)
        return next(_pulled(take))


class _Painter:
    """Converts pictures to the palette. Holds the graph, whose filters die with it."""

    def __init__(self, size: tuple[int, int], colours: av.VideoFrame, palette: Palette) -> None:
        self._graph = Graph()
        self._put = _buffer(self._graph, size)
        # A palette is a picture of 16 × 16.
        other = _buffer(self._graph, (16, 16))
        # Dithering spreads errors over lower rows: limited to changed areas, the rest does not move and packs well.
        # A GIF's alpha is on or off.
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
    """Gives each picture a separate palette."""

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
    return graph.add_buffer(width=size[0], height=size[1], format=BGRA, time_base=HUNDREDTH)


def _pulled(sink: Any) -> Iterator[av.VideoFrame]:
    while True:
        try:
            yield sink.pull()
        except (av.BlockingIOError, av.EOFError):
            return
