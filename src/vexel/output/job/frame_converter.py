"""Pictures as video frames of any pixel format and back: rounded, with chroma sited where the format puts it."""

import threading
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import av
import numpy as np
from av.filter import Graph
from numpy.typing import NDArray

from vexel.core.recipes.colour_tags import MATRICES, PRIMARIES, TRANSFERS

_TICK = Fraction(1, 25)
_INPUT = {(3, 1): "rgb24", (4, 1): "rgba", (3, 2): "rgb48le", (4, 2): "rgba64le"}
"""Of channels and bytes a channel."""
_PADDING = 128
"""Bytes after the last row: the scaler reads on by up to one step of its widest instructions.

Without them, pictures of 2388 × 1194 ended the process now and then: behind the array there was no memory.
"""
# Left to itself the scaler cuts codes instead of rounding them, takes the colour of every second pixel only, and
# puts it between two of them, where a player would not look: white came back as 253, 255, 255, greys were tinted,
# and colours lay half a pixel aside. H.264 has them to the left (ITU-T H.264 E.2.1, chroma_sample_loc_type 0).
_CHROMA = "bicubic+full_chroma_inp+full_chroma_int"
_EXACT = f"flags={_CHROMA}+accurate_rnd"
# From RGB of 8 bits, these give identical codes in two thirds of the time; from B, G, R they are less exact.
_EXACT_OF_RGB = f"flags={_CHROMA}+bitexact"


@dataclass(frozen=True)
class PixelForm:
    """What frames are converted to.

    Attributes
    ----------
    pixels : str
        FFmpeg's name of the format.
    matrix : str
    full : bool
        Whether codes go over the full range.
    primaries, transfer : str
        What frames are tagged with.
    """

    pixels: str
    matrix: str = "bt709"
    full: bool = False
    primaries: str = "bt709"
    transfer: str = "bt709"

    @property
    def is_yuv(self) -> bool:
        """Whether it is of brightness and colour differences."""
        return self.pixels.startswith("yuv")

    def placing(self, side: str) -> str:
        """Where colour of half the resolution lies, as a setting of the scaler's ``in`` or ``out``."""
        across = f":{side}_h_chr_pos=0" if "420" in self.pixels or "422" in self.pixels else ""
        return across + (f":{side}_v_chr_pos=128" if "420" in self.pixels else "")


class FrameConverter(threading.local):
    """Converts pictures; each thread that uses it has a separate scaler."""

    def __init__(self, form: PixelForm) -> None:
        self._form = form
        self._of: tuple[int, int, str] | None = None
        self._count = 0

    def __call__(self, pixels: NDArray[Any]) -> av.VideoFrame:
        """A picture of RGB or RGBA, shape (H, W, 3 or 4), 8 or 16 bits; its time is for the caller to set."""
        high, wide, channels = pixels.shape
        name = _INPUT[channels, pixels.dtype.itemsize]
        if (of := (wide, high, name)) != self._of:
            self._graph, self._of = _scaler(wide, high, name, self._form), of
        frame = frame_of(pixels, name)
        frame.pts, frame.time_base = self._count, _TICK
        self._count += 1
        self._graph.push(frame)
        converted: av.VideoFrame = self._graph.pull()
        return converted


def frame_of(pixels: NDArray[Any], name: str) -> av.VideoFrame:
    """A frame of these pixels without conversion, of a format whose channels are interleaved."""
    held = np.empty(pixels.nbytes + _PADDING, np.uint8)
    padded = held[: pixels.nbytes].view(pixels.dtype).reshape(pixels.shape)
    padded[...] = pixels
    return av.VideoFrame.from_numpy_buffer(padded, format=name)


def _scaler(width: int, height: int, name: str, form: PixelForm) -> Graph:
    graph = Graph()
    # Pictures are converted in several threads already.
    graph.threads = 1
    put = graph.add_buffer(width=width, height=height, format=av.VideoFormat(name), time_base=_TICK)
    out = "pc" if form.full or not form.is_yuv else "tv"
    settings = f"{_EXACT_OF_RGB if name == 'rgb24' else _EXACT}:in_range=pc:out_range={out}"
    if form.is_yuv:
        settings += f":out_color_matrix={form.matrix}{form.placing('out')}"
    scale, shape, take = graph.add("scale", settings), graph.add("format", form.pixels), graph.add("buffersink")
    # Some encoders take the tags of the file from its frames.
    matrix = MATRICES[form.matrix if form.is_yuv else "rgb"].ffmpeg
    primaries, transfer = PRIMARIES[form.primaries].ffmpeg, TRANSFERS[form.transfer if form.is_yuv else "srgb"].ffmpeg
    told = graph.add("setparams", f"color_primaries={primaries}:color_trc={transfer}:colorspace={matrix}")
    graph.link_nodes(put, scale, shape, told, take)
    graph.configure()
    return graph


def rgb_of_yuv(frame: av.VideoFrame, form: PixelForm) -> NDArray[np.uint8]:
    """A frame of brightness and colour differences as RGB, or as RGBA where it has alpha.

    FFmpeg's usual way cuts codes: it is 1.3 of 255 too dark on average, and its pictures seem 5 dB worse.
    """
    told = f"in_color_matrix={form.matrix}:in_range={'pc' if form.full else 'tv'}:out_range=pc"
    alpha = any(part.is_alpha for part in frame.format.components)
    return _scaled(frame, f"{told}{form.placing('in')}", "rgba" if alpha else "rgb24")


def planes_of_yuv(frame: av.VideoFrame, form: PixelForm) -> NDArray[np.uint8]:
    """A frame's own brightness and colour differences, each at full resolution; shape (3, H, W).

    Colour lies where the format says: taken as lying between two pixels, it would be half a pixel aside at every edge.
    """
    told = f"in_range={'pc' if form.full else 'tv'}:out_range={'pc' if form.full else 'tv'}{form.placing('in')}"
    # Told no matrix, the scaler would convert to its usual one.
    told += f":in_color_matrix={form.matrix}:out_color_matrix={form.matrix}"
    return _scaled(frame, told, "yuv444p")


def _scaled(frame: av.VideoFrame, settings: str, pixels: str) -> NDArray[np.uint8]:
    graph = Graph()
    graph.threads = 1
    put = graph.add_buffer(width=frame.width, height=frame.height, format=frame.format, time_base=_TICK)
    scale = graph.add("scale", f"{_EXACT}:{settings}")
    graph.link_nodes(put, scale, graph.add("format", pixels), graph.add("buffersink"))
    graph.configure()
    graph.push(frame)
    return np.asarray(graph.pull().to_ndarray(), np.uint8)
