"""Video files: MP4, MOV, WebM and Matroska."""

import os
from collections.abc import Callable
from contextlib import nullcontext
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
from av.video.reformatter import ColorRange

from vexel.core.recipes.colour_tags import MATRICES, PRIMARIES, TRANSFERS
from vexel.core.recipes.cue import Cue
from vexel.core.recipes.form import FORMS
from vexel.output.job.frame_converter import FrameConverter, PixelForm
from vexel.output.job.job import Job
from vexel.output.job.memory import memory_zeroed
from vexel.output.job.pictures import Pixels, bled
from vexel.output.mp4.spherical import mark_as_panorama
from vexel.output.origin.record import origin_of
from vexel.output.writers.codecs import CODECS, Knob, key_distance, muxing
from vexel.output.writers.container import ContainerWriter
from vexel.output.writers.search import SizeSearch
from vexel.output.writers.sound import SoundTrack

# AV1's encoder otherwise prints its settings.
os.environ.setdefault("SVT_LOG", "1")
FILLING = 120 + 2 * (os.cpu_count() or 1)
"""Pictures within which an encoder allocates: its look-ahead of 40 to 60, and those that it works on side by side."""
MUXERS = {"mp4": "mp4", "mov": "mov", "webm": "webm", "mkv": "matroska"}


class VideoWriter(ContainerWriter):
    """Encodes pictures; once, or as often as a size needs."""

    def __init__(self, job: Job, part: Path, weigh: Callable[[int], int] = lambda size: size) -> None:
        """`weigh` converts a video's size to the one that the limit applies to: a page holds more than its video."""
        recipe = job.recipe
        self._codec = CODECS[recipe.codec]
        super().__init__(job, part, SizeSearch.of(job, by_bits=self._codec.by_bits))
        self._weigh = weigh
        colour = recipe.colour
        self._form = PixelForm(job.pixels, colour.matrix, colour.range == "full", colour.primaries, colour.transfer)
        self._convert = FrameConverter(self._form)
        self.transparent = job.loses_alpha
        if job.pixels and ("420" in job.pixels or "422" in job.pixels):
            self.notes.append(f"colours are {'4:2:0' if '420' in job.pixels else '4:2:2'}, sited to the left")
        if recipe.container in ("mkv", "webm") and (1000 / job.timeline.rate.fps).denominator != 1:
            kind = "Matroska" if recipe.container == "mkv" else "WebM"
            self.notes.append(f"frame times are whole milliseconds, as in each {kind} file; the rate is stored exactly")

    def prepare(self, pixels: Pixels) -> av.VideoFrame:
        """A frame of the file's pixel format."""
        lossless = FORMS[self.job.recipe.form.name].quality is None and not self._form.is_yuv
        return self._convert(bled(pixels) if self.job.placement.alpha and not lossless else pixels)

    def add(self, prepared: av.VideoFrame, number: int) -> None:
        """Encode the next frame."""
        prepared.pts, prepared.time_base = number, 1 / self.job.timeline.rate.fps
        prepared.pict_type = 0
        # Once its look-ahead is full, an encoder works in the memory that it has.
        with memory_zeroed() if number < FILLING else nullcontext():
            if self._container is None:
                self._open()
            packets = self._stream.encode(prepared)
        self._container.mux(packets)

    def weighed(self, size: int) -> int:
        """What a size is held against the one that is wanted by."""
        return self._weigh(size)

    def finishing(self) -> None:
        """Write the sound."""
        if self._sound:
            self._sound.write(self._container)
            self.checks[:] = [self._sound.level.check()]

    def finished(self) -> None:
        """Mark a panorama as one."""
        if self.job.footage.panorama and self.job.recipe.container in ("mp4", "mov"):
            mark_as_panorama(self.part, self.job.footage.panorama)

    def _open(self) -> None:
        job, recipe = self.job, self.job.recipe
        self._container = av.open(str(self.part), "w", format=MUXERS[recipe.container], options=dict(muxing(job)))
        if (origin := origin_of(job)) is not None:
            title = {"title": origin.title} if origin.title else {}
            self._container.metadata.update(title | {"date": origin.date, "comment": origin.text})
        self._stream = stream = self._container.add_stream(self._codec.encoder, rate=job.timeline.rate.fps)
        stream.width, stream.height, stream.pix_fmt = job.width, job.height, job.pixels
        knob = self.search.knob if self.search else self._given()
        options = dict(self._codec.settings(job, knob))
        context = stream.codec_context
        if bits := int(options.pop("b", "0")):
            context.bit_rate = bits
        stream.options = options
        if distance := key_distance(job):
            context.gop_size = distance
        # Frames in parallel, as the encoder itself would choose. PyAV would encode by slices, at 0.70 of the speed of
        # ffmpeg's command line; by frames, with pictures converted in the reading threads, it is as fast.
        context.thread_type, context.thread_count = "FRAME" if self._codec.frame_threads else "AUTO", 0
        if self._codec.tag and recipe.container in ("mp4", "mov"):
            context.codec_tag = self._codec.tag
        self._tag(context)
        if job.placement.alpha and recipe.container == "webm":
            stream.metadata["alpha_mode"] = "1"
        self._sound = SoundTrack.of(job, self._container, self.notes) if job.has_sound else None
        if cues := job.cues:
            self._container.set_chapters([_chapter(n, cue, job.timeline.rate.fps) for n, cue in enumerate(cues)])

    def _given(self) -> Knob:
        quality = self.job.recipe.quality
        return Knob(quality.level, round(quality.kilobits * 1000) if quality.kilobits else None)

    def _tag(self, context: Any) -> None:
        colour = self.job.recipe.colour
        yuv = self._form.is_yuv
        context.color_primaries = PRIMARIES[colour.primaries].code
        context.color_trc = TRANSFERS[colour.transfer if yuv else "srgb"].code
        context.colorspace = MATRICES[colour.matrix if yuv else "rgb"].code
        full = colour.range == "full" or not yuv
        context.color_range = ColorRange.JPEG if full else ColorRange.MPEG


def _chapter(number: int, cue: Cue, fps: Fraction) -> dict[str, Any]:
    return {
        "id": number,
        "start": cue.begin,
        "end": cue.end,
        "time_base": 1 / fps,
        "metadata": {"title": cue.text},
    }
