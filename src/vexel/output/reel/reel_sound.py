"""The sound of a reel: files on top of each other, cut at the end of the picture to the sample."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from vexel.core.reel.loudness import RATE, Samples, gain_to
from vexel.core.reel.reel_spec import SoundSpec
from vexel.output.writers.sound import decoded


@dataclass(frozen=True)
class ReelSound:
    """What is heard below a reel.

    Attributes
    ----------
    sounds : sequence of SoundSpec
    folder : Path
        That their paths are relative to.
    loudness : float or None
        LUFS to which the whole is brought.
    """

    sounds: Sequence[SoundSpec]
    folder: Path
    loudness: float | None = None

    def samples(self, count: int) -> tuple[Samples, str]:
        """So many samples of two channels at 48 kHz, and what could not be had.

        Raises
        ------
        Mistake
            When a file has no sound, or cannot be read.
        """
        whole = np.zeros((2, count), np.float32)
        for sound in self.sounds:
            self._add(whole, sound)
        if self.loudness is None:
            return whole, ""
        gain, note = gain_to(whole, self.loudness)
        whole *= np.float32(10 ** (gain / 20))
        return whole, note

    def _add(self, whole: Samples, sound: SoundSpec) -> None:
        samples = decoded(self.folder / sound.file)
        begin = round(sound.first * RATE)
        end = samples.shape[1] if sound.seconds is None else begin + round(sound.seconds * RATE)
        at = round(sound.at * RATE)
        # The end of the picture ends it too, and a fade belongs to what is heard.
        part = samples[:, begin:end][:, : max(whole.shape[1] - at, 0)]
        whole[:, at : at + part.shape[1]] += part * faded(part.shape[1], sound)


def faded(count: int, sound: SoundSpec) -> Samples:
    """Gain of each sample of a sound, shape (count,): straight fades in and out."""
    gain = np.full(count, 10 ** (sound.gain_db / 20), np.float32)
    for seconds, at_end in ((sound.fade_in, False), (sound.fade_out, True)):
        length = min(round(seconds * RATE), count)
        ramp = np.arange(length, dtype=np.float32) / max(length, 1)
        if at_end and length:
            gain[count - length :] *= ramp[::-1]
        elif length:
            gain[:length] *= ramp
    return gain
