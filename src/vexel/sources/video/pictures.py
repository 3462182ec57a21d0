"""A decoded frame as a picture: its colours, its pixels square, and upright."""

from fractions import Fraction
from typing import Any, Literal

import av
import numpy as np
from av.video.reformatter import Interpolation
from numpy.typing import NDArray

from vexel.sources.video.wide_colour import is_wide, to_srgb

HD_LINES = 720
"""From this height on, a clip without colour tags is taken as BT.709, as players do; below as BT.601."""
UNTAGGED, BT709, BT601 = 2, 1, 5
ROUNDED = Interpolation.BICUBIC | Interpolation.ACCURATE_RND | Interpolation.FULL_CHR_H_INT
"""Left to itself the scaler cuts codes instead of rounding them, and takes one colour for two pixels."""
Colours = Literal["as-is", "srgb"]


def picture_of(frame: Any, aspect: Fraction, colours: Colours) -> NDArray[np.uint8]:
    """Shape (H, W, 4), sRGB with straight alpha.

    Parameters
    ----------
    frame : av.VideoFrame
    aspect : Fraction
        Width of a pixel, as a part of its height.
    colours : {"as-is", "srgb"}
        Whether what is wider or brighter than sRGB is shown as if it were that, or converted.
    """
    # FFmpeg takes untagged clips of every size as BT.601, and players do not.
    untagged = BT709 if frame.height >= HD_LINES else BT601
    matrix = untagged if int(frame.colorspace) == UNTAGGED else int(frame.colorspace)
    width, height = shown_size(frame, aspect)
    wide = colours == "srgb" and is_wide(frame)
    shaped = frame.reformat(
        width=width,
        height=height,
        format="rgba64le" if wide else "rgba",
        src_colorspace=matrix,
        interpolation=ROUNDED,
    )
    pixels = to_srgb(shaped.to_ndarray(), frame) if wide else shaped.to_ndarray()
    turned = turn_of(frame)
    return np.ascontiguousarray(np.rot90(pixels, turned // 90)) if turned % 90 == 0 and turned else pixels


def shown_size(frame: Any, aspect: Fraction) -> tuple[int, int]:
    """Width and height with square pixels, before the frame is turned: the one side stretched, none made smaller."""
    if aspect >= 1:
        return round(frame.width * aspect), frame.height
    return frame.width, round(frame.height / aspect)


def aspect_of(stream: Any) -> Fraction:
    """Width of a pixel as a part of its height; 1 where the file does not say."""
    stated = stream.sample_aspect_ratio or stream.codec_context.sample_aspect_ratio
    return Fraction(stated) if stated else Fraction(1)


def turn_of(frame: Any) -> int:
    """By how many degrees the file says that its pictures are turned."""
    return int(getattr(frame, "rotation", 0)) % 360


class Deinterlacer:
    """Interlaced frames, of two instants, as progressive ones of the first instant.

    FFmpeg's ``bwdif``, which looks at the frames before and after.
    """

    def frame(self, neighbours: list[Any], place: int) -> Any:
        """One of up to three frames that follow each other, as a whole picture."""
        graph = av.filter.Graph()
        first = neighbours[place]
        source = graph.add_buffer(
            width=first.width, height=first.height, format=first.format, time_base=Fraction(1, 1000)
        )
        bwdif, sink = graph.add("bwdif", "mode=send_frame:deint=all"), graph.add("buffersink")
        source.link_to(bwdif)
        bwdif.link_to(sink)
        graph.configure()
        whole: list[Any] = []
        for number, frame in enumerate(neighbours):
            frame.pts, frame.time_base = number, Fraction(1, 1000)
            graph.push(frame)
        graph.push(None)
        while len(whole) <= place:
            whole.append(graph.pull())
        return whole[place]
