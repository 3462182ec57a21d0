"""Sound below a picture: decoded, cut or padded to the picture's end to the sample, and encoded."""

from pathlib import Path
from typing import Any

import av
import numpy as np

from vexel.core.errors import Mistake
from vexel.output.footage import Sound
from vexel.output.job import Job

RATE = 48_000
ENCODERS = {"aac": "aac", "opus": "libopus", "flac": "flac", "pcm": "pcm_s16le"}
_BLOCK = 4096


class SoundTrack:
    """The sound of a file."""

    def __init__(self, job: Job, stream: Any, samples: Any) -> None:
        self._stream = stream
        self._samples = samples
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
        else:
            samples, note = _of_footage(job, job.footage.sound)
            notes.extend([note] if note else [])
        codec = recipe.sound.codec or recipe.form.sound[0]
        stream = container.add_stream(ENCODERS[codec], rate=RATE, layout="stereo")
        if codec in ("aac", "opus"):
            stream.bit_rate = recipe.sound.kilobits * 1000
        return cls(job, stream, samples)

    def write(self, container: Any) -> None:
        """Encode so many samples as the picture lasts."""
        whole = np.zeros((2, self.count), np.float32)
        length = min(self.count, self._samples.shape[1])
        whole[:, :length] = self._samples[:, :length]
        context = self._stream.codec_context
        resampler = av.AudioResampler(format=context.format, layout="stereo", rate=RATE)
        size = context.frame_size or _BLOCK
        for at in range(0, self.count, size):
            block = np.ascontiguousarray(whole[:, at : at + size])
            frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="stereo")
            frame.sample_rate, frame.pts = RATE, at
            for converted in resampler.resample(frame):
                container.mux(self._stream.encode(converted))
        container.mux(self._stream.encode())


def _of_footage(job: Job, sound: Sound) -> tuple[Any, str]:
    """The sound of the frames that are shown: a stretch has its own, and what is played again is heard again."""
    timeline, clock = job.timeline, job.footage.clock
    whole, note = sound.samples(round(clock.frames / clock.rate.fps * RATE))
    begin = round(timeline.picks[0][0] / clock.rate.fps * RATE)
    once = round(timeline.seconds / timeline.repeats * RATE)
    return np.tile(whole[:, begin : begin + once], timeline.repeats), note


def decoded(file: Path) -> Any:
    """All samples of a sound file at 48 kHz in stereo, shape (2, n), float32.

    Raises
    ------
    Mistake
    """
    if not file.is_file():
        raise Mistake(f"there is no sound file {file}")
    blocks = []
    try:
        with av.open(str(file)) as container:
            if not container.streams.audio:
                raise Mistake(f"{file} has no sound")
            resampler = av.AudioResampler(format="fltp", layout="stereo", rate=RATE)
            for frame in container.decode(audio=0):
                blocks += [made.to_ndarray() for made in resampler.resample(frame)]
            blocks += [made.to_ndarray() for made in resampler.resample(None)]
    except av.FFmpegError as error:
        raise Mistake(f"{file} cannot be read as sound: {error.strerror}") from None
    return np.concatenate(blocks, axis=1) if blocks else np.zeros((2, 0), np.float32)
