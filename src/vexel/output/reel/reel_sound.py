"""The sound of a reel: files on top of each other, cut at the end of the picture to the sample."""

import math
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from tempfile import TemporaryFile

import av
import av.filter
import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake, SourceError
from vexel.core.finding import Finding, Fix
from vexel.core.reel.items_patch import change_item
from vexel.core.reel.reel_plan import ReelPlan
from vexel.core.reel.reel_spec import SoundSpec
from vexel.core.reel.sound.loudness import RATE, Samples, gain_to
from vexel.core.reel.sound.own_sound import own_sounds
from vexel.core.time.clock import decimal
from vexel.disk.named_place import named_place
from vexel.output.writers.sound import Level, decoded, mixed_down
from vexel.sources.video.opening import open_media

PART = 10 * RATE
"""Samples that are worked on at once."""
CEILING = -1.0
"""dBFS below which a limiter holds peaks."""
NEAR = Fraction(1, 20)
"""Seconds by which sound and picture may end apart without a word."""


@dataclass(frozen=True)
class ReelSound:
    """What is heard below a reel.

    Attributes
    ----------
    sounds : sequence of SoundSpec
    folder : Path
        That their paths are relative to.
    loudness : float or None
        Loudness of the whole, in LUFS.
    limit : bool
        Whether peaks are held below `CEILING`.
    """

    sounds: Sequence[SoundSpec]
    folder: Path
    loudness: float | None = None
    limit: bool = False

    def samples(self, count: int) -> tuple[Samples, Sequence[str]]:
        """`count` samples of two channels at 48 kHz, and notes on what could not be done as asked.

        Raises
        ------
        Mistake
            When a file has no sound, or cannot be read.
        """
        # Sound of any length is kept on disk and processed in parts.
        with TemporaryFile() as kept:
            whole = np.memmap(kept, np.float32, "w+", shape=(2, count)) if count else np.zeros((2, 0), np.float32)
        for sound in self.sounds:
            self._add(whole, sound)
        files = dict.fromkeys(named_place(self.folder, sound.file) for sound in self.sounds)
        notes = list(filter(None, map(mixed_down, files)))
        if self.loudness is not None:
            gain, note = gain_to(whole, self.loudness)
            notes += [note] if note else []
            for begin in range(0, count, PART):
                whole[:, begin : begin + PART] *= np.float32(10 ** (gain / 20))
        if self.limit:
            _hold_peaks(whole)
        return whole, notes

    def level_findings(self, seconds: Fraction) -> Iterator[Finding]:
        """Whether the mix, so long, is too loud for any file."""
        level = Level.of(self.samples(round(seconds * RATE))[0])
        if not level.clipped:
            return
        down = math.ceil(level.peak * 10) / 10 + 0.1
        quieter = [one.model_dump(mode="json") | {"gain_db": max(one.gain_db - down, -96)} for one in self.sounds]
        fixes = (
            Fix(f"Lower all sounds by {down:.1f} dB", {"sound": quieter}),
            Fix(f"Limit peaks to {CEILING:g} dBFS", {"limit": True}),
            Fix("Set the loudness to −16 LUFS", {"loudness": -16.0}),
        )
        loud = f"The mixed sound reaches {level.peak:.1f} dBFS, and {level.clipped:.1%} of it is above 0"
        yield Finding("sound-clips", loud, "That part is cut off in every file, and is heard as distortion.", fixes)

    def _add(self, whole: Samples, sound: SoundSpec) -> None:
        samples = decoded(named_place(self.folder, sound.file))
        begin = round(sound.first * RATE)
        end = samples.shape[1] if sound.seconds is None else begin + round(sound.seconds * RATE)
        at = round(sound.at * RATE)
        # The end of the picture ends it too, and a fade belongs to what is heard.
        heard = samples[:, begin:end][:, : max(whole.shape[1] - at, 0)]
        count = heard.shape[1]
        for n in range(0, count, PART):
            places = np.arange(n, min(n + PART, count))
            whole[:, at + n : at + n + len(places)] += heard[:, n : n + PART] * _gain_at(places, count, sound)


def _hold_peaks(whole: Samples) -> None:
    """Hold peaks below the ceiling, in place, by FFmpeg's limiter, which looks ahead and adds no delay."""
    graph = av.filter.Graph()
    put = graph.add_abuffer(format="fltp", sample_rate=RATE, layout="stereo", time_base=Fraction(1, RATE))
    settings = f"limit={10 ** (CEILING / 20):.6f}:attack=5:release=50:level=0:latency=1"
    limiter, shape = graph.add("alimiter", settings), graph.add("aformat", "sample_fmts=fltp")
    graph.link_nodes(put, limiter, shape, graph.add("abuffersink")).configure()
    done = 0
    for begin in [*range(0, whole.shape[1], PART), None]:
        frame = None
        if begin is not None:
            part = np.ascontiguousarray(whole[:, begin : begin + PART])
            frame = av.AudioFrame.from_ndarray(part, format="fltp", layout="stereo")
            frame.sample_rate, frame.pts = RATE, begin
        graph.push(frame)
        with suppress(BlockingIOError, EOFError):
            while True:
                held = graph.pull().to_ndarray()
                # Never past what was given: what is not read yet lies behind it.
                whole[:, done : done + held.shape[1]] = held[:, : whole.shape[1] - done]
                done += held.shape[1]


def _gain_at(places: NDArray[np.int64], count: int, sound: SoundSpec) -> NDArray[np.float32]:
    """Gain of some of the samples of a sound, shape (n,): straight fades in and out."""
    gain = np.full(len(places), 10 ** (sound.gain_db / 20))
    for seconds, along in ((sound.fade_in, places), (sound.fade_out, count - 1 - places)):
        length = min(round(seconds * RATE), count)
        gain *= np.clip(along / length, 0, 1) if length else 1
    return gain.astype(np.float32)


def sound_of(plan: ReelPlan, folder: Path) -> ReelSound | None:
    """What is heard below a reel: its own sounds, and those of its clips; None where there is neither."""
    sounds = [*plan.reel.sound, *(sound for own in own_sounds(plan) for sound in own.sounds)]
    return ReelSound(sounds, folder, plan.reel.loudness, plan.reel.limit) if sounds else None


def _clip_findings(plan: ReelPlan, folder: Path, seconds: Callable[[Path], Fraction]) -> Iterator[Finding]:
    """Clips whose sound is wanted and cannot be read."""
    for own in own_sounds(plan):
        trouble = own.trouble
        for sound in own.sounds[:1]:
            try:
                seconds(named_place(folder, sound.file))
            except Mistake as error:
                trouble = str(error)
        if trouble:
            silent = (Fix("Leave it silent", change_item(own.number, audible=False)),) if own.number >= 0 else ()
            yield Finding("sound-left-out", f"The sound of {own.name} is not heard: {trouble}", "It is silent.", silent)


def sound_findings(plan: ReelPlan, folder: Path, seconds: Callable[[Path], Fraction]) -> Iterator[Finding]:
    """Sounds that are not there, and where what is heard ends before or after the picture.

    Parameters
    ----------
    seconds : callable
        How long a sound is; see `vexel.output.reel.beside.Beside.seconds`.
    """
    yield from _clip_findings(plan, folder, seconds)
    sounds, picture = plan.reel.sound, plan.frames / plan.rate.fps
    ends: list[Fraction] = []
    fixes: tuple[Fix, ...]
    for number, sound in enumerate(sounds):
        name = Path(sound.file).name
        try:
            there = seconds(named_place(folder, sound.file))
        except Mistake as error:
            left = [one.model_dump(mode="json") for n, one in enumerate(sounds) if n != number]
            fixes = (Fix("Remove the sound", {"sound": left}),)
            yield Finding("sound-missing", f"{name}: {error}", "No file with sound can be made.", fixes)
            continue
        heard = max(there - Fraction(sound.first), Fraction(0))
        if sound.seconds is not None:
            heard = min(heard, Fraction(sound.seconds))
        ends.append(Fraction(sound.at) + heard)
    if not ends or len(ends) < len(sounds) or not plan.frames:
        return
    last = max(ends)
    if last < picture - NEAR:
        lasts = {"seconds": float(last), "frames": None}
        fixes = (Fix(f"Fit the picture to {decimal(last, 2)} s", lasts),)
        short = f"The sound ends at {decimal(last, 2)} s, the picture at {decimal(picture, 2)} s"
        yield Finding("sound-ends-early", short, "The rest is silent.", fixes)
    elif last > picture + NEAR:
        fading = [one.model_dump(mode="json") | {"fade_out": max(one.fade_out, 1.0)} for one in sounds]
        fixes = () if all(one.fade_out for one in sounds) else (Fix("Fade it out", {"sound": fading}),)
        goes = f"The sound lasts to {decimal(last, 2)} s, the picture ends at {decimal(picture, 2)} s"
        yield Finding("sound-too-long", goes, "It is cut off there, to the sample.", fixes)


def peaks_of(file: Path, count: int) -> tuple[Fraction, list[float]]:
    """How long a sound file is, in seconds, and its loudest sample in each of `count` equal parts, from 0 to 1."""
    samples = decoded(file)
    seconds = Fraction(samples.shape[1], RATE)
    bounds = [round(part * samples.shape[1] / count) for part in range(count + 1)]
    parts = (samples[:, begin:end] for begin, end in pairwise(bounds))
    return seconds, [round(min(float(np.abs(part).max(initial=0)), 1.0), 3) for part in parts]


def seconds_of(file: Path) -> Fraction:
    """How long a sound file is, as it says.

    Raises
    ------
    Mistake
    """
    if not file.is_file():
        raise Mistake("there is no such file: check the path, which is relative to the reel")
    try:
        with open_media(file) as container:
            if not container.streams.audio:
                raise Mistake("it has no sound")
            stream = container.streams.audio[0]
            if stream.duration is not None and stream.time_base is not None:
                return Fraction(stream.duration * stream.time_base)
            return Fraction(container.duration or 0, av.time_base)
    except SourceError as error:
        raise Mistake(str(error)) from None
    except av.FFmpegError as error:
        raise Mistake(f"it cannot be read as sound ({error.strerror})") from None
