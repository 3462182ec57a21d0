"""Sound below a picture: decoded, cut or padded to the picture's end to the sample, and encoded."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import chain
from pathlib import Path
from tempfile import TemporaryFile
from typing import Any

import av
import numpy as np

from vexel.core.errors import Mistake, SourceError
from vexel.output.footage.footage import Sound
from vexel.output.job.job import Job
from vexel.output.job.receipt import Check
from vexel.sources.video.opening import open_media

RATE = 48_000
ENCODERS = {"aac": "aac", "opus": "libopus", "flac": "flac", "pcm": "pcm_s16le"}
_BLOCK = 4096
_SAMPLE = 8
"""Bytes of a sample of two channels."""
_PART = 10 * RATE
"""Samples that are looked at together."""
_FULL = 1.0 + 1 / 32768
"""Beyond this, and half a step of 16 bits, a sample is cut off."""
_GAP = Fraction(1, 50)
"""Seconds of silence that are no rounding of times."""


@dataclass(frozen=True)
class Level:
    """How loud samples are at most.

    Attributes
    ----------
    peak : float
        In dBFS; of what a file holds at most 0.
    clipped : float
        Share of the instants at which a channel is beyond that, and would be cut off.
    """

    peak: float
    clipped: float

    @classmethod
    def of(cls, samples: Any) -> "Level":
        """Of samples, shape (2, n)."""
        highest, beyond, count = 0.0, 0, samples.shape[1]
        for begin in range(0, count, _PART):
            loud = np.abs(samples[:, begin : begin + _PART]).max(axis=0, initial=0)
            highest = max(highest, float(loud.max(initial=0)))
            beyond += int((loud > _FULL).sum())
        return cls(20 * math.log10(max(highest, 1e-10)), beyond / count if count else 0.0)

    def check(self) -> Check:
        """A receipt's line."""
        cut = f": {self.clipped:.1%} of it is cut off" if self.clipped else ""
        return Check("peak", "at most 0 dBFS", f"{self.peak:.1f} dBFS{cut}", not self.clipped)


class SoundTrack:
    """The sound of a file."""

    def __init__(self, job: Job, stream: Any, samples: Any, once: int) -> None:
        """After `once` samples it is heard again."""
        self._stream = stream
        self._samples = samples
        self._once = once
        self.count = round(job.timeline.seconds * RATE)

    @property
    def level(self) -> Level:
        """How loud it is at most, before it is encoded."""
        return Level.of(self._samples[:, : min(self._once, self.count)])

    @classmethod
    def of(cls, job: Job, container: Any, notes: list[str]) -> "SoundTrack":
        """Add a stream of sound to an open container; `notes` receives what could not be done.

        Raises
        ------
        Mistake
            When the file has no sound, or cannot be read.
        """
        recipe = job.recipe
        if recipe.sound.file or job.footage.sound is None:
            samples = decoded(Path(recipe.sound.file))
            once = round(job.timeline.seconds * RATE)
            notes.extend(filter(None, [mixed_down(Path(recipe.sound.file))]))
        else:
            samples, said = _of_footage(job, job.footage.sound)
            once = round(job.timeline.seconds / job.timeline.repeats * RATE)
            notes.extend(said)
        codec = recipe.sound.codec or recipe.form.sound[0]
        stream = container.add_stream(ENCODERS[codec], rate=RATE, layout="stereo")
        if codec in ("aac", "opus"):
            stream.bit_rate = recipe.sound.kilobits * 1000
        return cls(job, stream, samples, once)

    def write(self, container: Any) -> None:
        """Encode as many samples as the picture lasts."""
        context = self._stream.codec_context
        resampler = av.AudioResampler(format=context.format, layout="stereo", rate=RATE)
        size = context.frame_size or _BLOCK
        for at in range(0, self.count, size):
            block = self._block(at, min(size, self.count - at))
            frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="stereo")
            frame.sample_rate, frame.pts = RATE, at
            for converted in resampler.resample(frame):
                container.mux(self._stream.encode(converted))
        container.mux(self._stream.encode())

    def _block(self, at: int, count: int) -> Any:
        """`count` samples from a position in the file; silence after the sound's end."""
        block = np.zeros((2, count), np.float32)
        done = 0
        while done < count:
            begin = (at + done) % self._once
            part = self._samples[:, begin : min(begin + count - done, self._once)]
            block[:, done : done + part.shape[1]] = part
            done += min(count - done, self._once - begin)
        return block


def _of_footage(job: Job, sound: Sound) -> tuple[Any, Sequence[str]]:
    """The sound of the frames that are shown: a stretch has its own."""
    timeline, clock = job.timeline, job.footage.clock
    whole, notes = sound.samples(round(clock.frames / clock.rate.fps * RATE))
    begin = round(timeline.picks[0][0] / clock.rate.fps * RATE)
    return whole[:, begin:], notes


def decoded(file: Path) -> Any:
    """All samples of a sound file at 48 kHz in stereo, shape (2, n), float32; kept on disk.

    Sound that begins later than the file does, or is interrupted, has silence there. One channel is heard on both
    sides at the same level.

    Raises
    ------
    Mistake
    """
    if not file.is_file():
        raise Mistake(f"there is no sound file {file}")
    try:
        with open_media(file) as container, TemporaryFile() as kept:
            if not container.streams.audio:
                raise Mistake(f"{file} has no sound")
            _write_decoded(container, kept)
            count = kept.tell() // _SAMPLE
            kept.flush()
            return np.memmap(kept, np.float32, "r", shape=(count, 2)).T if count else np.zeros((2, 0), np.float32)
    except SourceError as error:
        raise Mistake(str(error)) from None
    except av.FFmpegError as error:
        raise Mistake(f"{file} cannot be read as sound: {error.strerror}") from None


def _write_decoded(container: Any, kept: Any) -> None:
    stream = container.streams.audio[0]
    # Left to itself FFmpeg takes 3 dB off a single channel that becomes two.
    alone = _channels(stream) == 1
    resampler = av.AudioResampler(format="fltp", layout="mono" if alone else "stereo", rate=RATE)
    begin = Fraction(container.start_time or 0, av.time_base)
    heard = Fraction(0)
    for frame in chain(container.decode(audio=0), [None]):
        if frame is not None and frame.pts is not None and frame.time_base is not None:
            silent = frame.pts * frame.time_base - begin - heard
            if silent > _GAP:
                kept.write(bytes(round(silent * RATE) * _SAMPLE))
                heard += silent
        if frame is not None:
            heard += Fraction(frame.samples, frame.sample_rate)
        for made in resampler.resample(frame):
            samples = made.to_ndarray()
            kept.write((np.repeat(samples, 2, axis=0) if alone else samples).T.tobytes())


def mixed_down(file: Path) -> str:
    """The note on a sound of more than two channels; empty for others."""
    try:
        with open_media(file) as container:
            count = _channels(container.streams.audio[0]) if container.streams.audio else 0
    except (SourceError, av.FFmpegError):
        return ""
    return f"the {count} channels of {file.name} are mixed down to two" if count > 2 else ""


def _channels(stream: Any) -> int:
    return int(stream.codec_context.layout.nb_channels)
