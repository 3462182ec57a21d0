"""Pictures as YUV 4:2:0 of BT.709: rounded, and with the colour where H.264 says that it lies."""

import threading
from fractions import Fraction

import av
import numpy as np
from av.filter import Graph
from numpy.typing import NDArray

_TICK = Fraction(1, 25)
_BGR = av.VideoFormat("bgr24")
_SCALE = (
    # Left to itself the scaler cuts codes instead of rounding them, takes the colour of every second pixel only, and
    # puts it between two of them, where a player would not look: white came back as 253, 255, 255, greys were tinted,
    # and colours lay half a pixel aside. H.264 has them to the left (ITU-T H.264 E.2.1, chroma_sample_loc_type 0).
    "flags=bicubic+accurate_rnd+full_chroma_inp+full_chroma_int:in_range=pc:out_range=tv:out_color_matrix=bt709:"
    "out_h_chr_pos=0:out_v_chr_pos=128"
)


class YuvConverter(threading.local):
    """Converts pictures; each thread that uses it has a scaler of its own."""

    def __init__(self) -> None:
        self._size = (0, 0)
        self._count = 0

    def __call__(self, pixels: NDArray[np.uint8]) -> av.VideoFrame:
        """A picture of BGR, shape (H, W, 3), with even sides; its time is for the caller to set."""
        size = (pixels.shape[1], pixels.shape[0])
        if size != self._size:
            self._graph, self._size = _scaler(*size), size
        frame = av.VideoFrame.from_numpy_buffer(np.ascontiguousarray(pixels), format="bgr24")
        frame.pts, frame.time_base = self._count, _TICK
        self._count += 1
        self._graph.push(frame)
        converted: av.VideoFrame = self._graph.pull()
        return converted


def _scaler(width: int, height: int) -> Graph:
    graph = Graph()
    put = graph.add_buffer(width=width, height=height, format=_BGR, time_base=_TICK)
    scale, form, take = graph.add("scale", _SCALE), graph.add("format", "yuv420p"), graph.add("buffersink")
    for one, other in ((put, scale), (scale, form), (form, take)):
        one.link_to(other)
    graph.configure()
    return graph
