"""Animated WebP and APNG."""

from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from vexel.output.job.frame_converter import frame_of
from vexel.output.job.job import Job
from vexel.output.job.pictures import Pixels
from vexel.output.origin.carried import with_record
from vexel.output.origin.record import origin_of
from vexel.output.writers.codecs import Knob
from vexel.output.writers.container import ContainerWriter
from vexel.output.writers.search import SizeSearch
from vexel.output.writers.single_frame import animate_png, animate_webp

MILLISECOND = Fraction(1, 1000)
_EFFORT = {"quick": "2", "usual": "4", "thorough": "6"}


class AnimatedWriter(ContainerWriter):
    """Encodes pictures of one animated file."""

    def __init__(self, job: Job, part: Path) -> None:
        super().__init__(job, part, SizeSearch.of(job))
        self._is_webp = job.recipe.container == "webp"

    def prepare(self, pixels: Pixels) -> av.VideoFrame:
        """A frame that the encoder takes: WebP converts to Y, Cb and Cr itself, with a matrix of its choice."""
        if self._is_webp:
            code = cv2.COLOR_RGBA2BGRA if pixels.shape[2] == 4 else cv2.COLOR_RGB2BGRA
            return av.VideoFrame.from_ndarray(cv2.cvtColor(pixels, code), format="bgra")
        if self.job.placement.deep:
            # PNG counts the higher byte first.
            return frame_of(pixels.astype(">u2").view(np.uint16), self.job.pixels)
        return av.VideoFrame.from_ndarray(pixels, format="rgba" if pixels.shape[2] == 4 else "rgb24")

    def add(self, prepared: av.VideoFrame, number: int) -> None:
        """Encode the next picture."""
        if self._container is None:
            self._open()
        if self._is_webp:
            start = self._start(number)
            prepared.pts, prepared.time_base = start, MILLISECOND
        else:
            prepared.pts, prepared.time_base = number, 1 / self.job.timeline.rate.fps
        self._container.mux(self._stream.encode(prepared))

    def _start(self, number: int) -> int:
        """When a picture begins, in whole milliseconds."""
        return (number * 1000 / self.job.timeline.rate.fps + Fraction(1, 2)).__floor__()

    def finished(self) -> None:
        """Give the last picture its length."""
        timeline, plays = self.job.timeline, self.job.recipe.timing.plays
        if self._is_webp:
            lasts = self._start(timeline.count)
            if not _end_at(self.part, lasts):
                animate_webp(self.part, (self.job.width, self.job.height), lasts, plays)
        elif timeline.count == 1:
            animate_png(self.part, 1 / timeline.rate.fps, plays)
        if (origin := origin_of(self.job)) is not None:
            self.part.write_bytes(with_record(self.part.read_bytes(), origin.text))

    def _open(self) -> None:
        job, recipe = self.job, self.job.recipe
        plays = str(recipe.timing.plays)
        if self._is_webp:
            self._container = av.open(str(self.part), "w", format="webp", options={"loop": plays})
            self._stream = self._container.add_stream("libwebp_anim", rate=job.timeline.rate.fps)
            self._stream.pix_fmt = "bgra"
            knob = self.search.knob if self.search else Knob(level=recipe.quality.level)
            level = knob.level if knob.level is not None else 85
            lossless = recipe.codec == "webp-lossless"
            options = {"lossless": "1" if lossless else "0", "quality": f"{75 if lossless else level:g}"}
            self._stream.options = options | {"compression_level": _EFFORT[recipe.quality.effort]}
            self._stream.time_base = self._stream.codec_context.time_base = MILLISECOND
        else:
            self._container = av.open(str(self.part), "w", format="apng", options={"plays": plays})
            self._stream = self._container.add_stream("apng", rate=job.timeline.rate.fps)
            self._stream.pix_fmt = job.pixels
            self._stream.options = {"pred": "mixed"}
            self._stream.codec_context.thread_type = "FRAME"
        self._stream.width, self._stream.height = job.width, job.height


def _end_at(file: Path, milliseconds: int) -> bool:
    """Let the last picture of an animated WebP last to an instant; the encoder gives it the mean of the others.

    Whether it is animated: of equal pictures the encoder makes a still.

    Chunks ``ANMF`` store each duration in three bytes (WebP container specification).
    """
    data = bytearray(file.read_bytes())
    at, places = 12, []
    while at + 8 <= len(data):
        size = int.from_bytes(data[at + 4 : at + 8], "little")
        if data[at : at + 4] == b"ANMF":
            places.append(at + 8 + 12)
        at += 8 + size + size % 2
    if not places:
        return False
    before = sum(int.from_bytes(data[place : place + 3], "little") for place in places[:-1])
    data[places[-1] : places[-1] + 3] = max(milliseconds - before, 1).to_bytes(3, "little")
    file.write_bytes(data)
    return True
