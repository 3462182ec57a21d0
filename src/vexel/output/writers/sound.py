"""Sound below a picture: decoded, cut or padded to the picture's end to the sample, and encoded."""

from itertools import chain
from pathlib import Path
from tempfile import TemporaryFile
from typing import Any

import av
import numpy as np

from vexel.core.errors import Mistake
from vexel.output.footage import Sound
from vexel.output.job import Job
from vexel.sources.protocols import SourceError
from vexel.sources.video.opening import open_media

RATE = 48_000
ENCODERS = {"aac": "aac", "opus": "libopus", "flac": "flac", "pcm": "pcm_s16le"}
_BLOCK = 4096
_SAMPLE = 8
"""Bytes of a sample of two channels."""


class SoundTrack:
    """The sound of a file."""

    def __init__(self, job: Job, stream: Any, samples: Any, once: int) -> None:
        """After `once` samples it is heard again."""
        self._stream = stream
        self._samples = samples
        self._once = once
        self.count = round(job.timeline.seconds * RATE)

    @classmethod
    def of(cls, job: Job, container: Any, notes: list[str]) -> "SoundTrack":
        """Add a stream of sound to a container that is being written; `notes` is told what could not be had.

        Raises
        ------
        Mistake
            When the file has no sound, or cannot be read.
        """
        recipe = job.recipe
        if recipe.sound.file or job.footage.sound is None:
            samples = decoded(Path(recipe.sound.file))
            once = round(job.timeline.seconds * RATE)
        else:
            samples, note = _of_footage(job, job.footage.sound)
            once = round(job.timeline.seconds / job.timeline.repeats * RATE)
            notes.extend([note] if note else [])
        codec = recipe.sound.codec or recipe.form.sound[0]
        stream = container.add_stream(ENCODERS[codec], rate=RATE, layout="stereo")
        if codec in ("aac", "opus"):
            stream.bit_rate = recipe.sound.kilobits * 1000
        return cls(job, stream, samples, once)

    def write(self, container: Any) -> None:
        """Encode so many samples as the picture lasts."""
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
        """So many samples from a place of the file; silence after the sound's end."""
        block = np.zeros((2, count), np.float32)
        done = 0
        while done < count:
            begin = (at + done) % self._once
            part = self._samples[:, begin : min(begin + count - done, self._once)]
            block[:, done : done + part.shape[1]] = part
            done += min(count - done, self._once - begin)
        return block


def _of_footage(job: Job, sound: Sound) -> tuple[Any, str]:
    """The sound of the frames that are shown: a stretch has its own."""
    timeline, clock = job.timeline, job.footage.clock
    whole, note = sound.samples(round(clock.frames / clock.rate.fps * RATE))
    begin = round(timeline.picks[0][0] / clock.rate.fps * RATE)
    return whole[:, begin:], note


def decoded(file: Path) -> Any:
    """All samples of a sound file at 48 kHz in stereo, shape (2, n), float32; they lie on disk, however many.

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
            resampler = av.AudioResampler(format="fltp", layout="stereo", rate=RATE)
            for frame in chain(container.decode(audio=0), [None]):
                for made in resampler.resample(frame):
                    kept.write(made.to_ndarray().T.tobytes())
            count = kept.tell() // _SAMPLE
            kept.flush()
            return np.memmap(kept, np.float32, "r", shape=(count, 2)).T if count else np.zeros((2, 0), np.float32)
    except SourceError as error:
        raise Mistake(str(error)) from None
    except av.FFmpegError as error:
        raise Mistake(f"{file} cannot be read as sound: {error.strerror}") from None
