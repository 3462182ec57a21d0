"""Codecs of video: their encoder, its settings by a recipe, and what their files are checked for."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from fractions import Fraction
from types import MappingProxyType

from vexel.core.recipes.video_levels import level_for
from vexel.core.time.audio_samples import USUAL as SOUND_RATE
from vexel.output.job.job import Job

Settings = Mapping[str, str]
_EFFORT = {"quick": "veryfast", "usual": "medium", "thorough": "slow"}


@dataclass(frozen=True)
class Knob:
    """What the size of a file is steered by.

    Attributes
    ----------
    level : float or None
        On the codec's own scale.
    bits : int or None
        A second.
    """

    level: float | None = None
    bits: int | None = None


@dataclass(frozen=True)
class Codec:
    """How a codec is asked for.

    Attributes
    ----------
    encoder : str
        FFmpeg's name of it.
    settings : callable
        Options of the encoder, by the job and its knob.
    decoded_as : str
        FFmpeg's name of what reads it back.
    by_bits : bool
        Whether a size is reached by bits a second; else by the level, which then may be a fraction.
    tag : str
        In MP4 and MOV, where the usual one is not the one that players know.
    frame_threads : bool
        Whether pictures are encoded side by side.
    """

    encoder: str
    settings: Callable[[Job, Knob], Settings]
    decoded_as: str
    by_bits: bool = True
    tag: str = ""
    frame_threads: bool = False


def _level(job: Job, knob: Knob) -> str:
    scale = job.recipe.form.quality
    level = knob.level if knob.level is not None else job.recipe.quality.level
    usual = scale.usual if scale else 0
    return f"{usual if level is None else level:g}"


def _x264(job: Job, knob: Knob) -> Settings:
    options = {"preset": _EFFORT[job.recipe.quality.effort], "x264-params": "chromaloc=0"}
    options |= {"b": str(knob.bits)} if knob.bits else {"crf": _level(job, knob)}
    if job.recipe.compatible:
        level = level_for(job.width, job.height, job.timeline.rate.fps)
        options |= {"profile": "high", "bf": "2", "refs": "3"} | ({"level": level.name} if level else {})
        if level:
            limit = f"vbv-maxrate={level.kilobits}:vbv-bufsize={level.kilobits}"
            options["x264-params"] += f":{limit}"
    return options


def _x265(job: Job, knob: Knob) -> Settings:
    options = {"preset": _EFFORT[job.recipe.quality.effort], "x265-params": "log-level=error:chromaloc=0"}
    return options | ({"b": str(knob.bits)} if knob.bits else {"crf": _level(job, knob)})


def _vp9(job: Job, knob: Knob) -> Settings:
    options = {"deadline": "good", "row-mt": "1", "auto-alt-ref": "0" if job.placement.alpha else "1"}
    options["cpu-used"] = {"quick": "6", "usual": "4", "thorough": "1"}[job.recipe.quality.effort]
    return options | ({"b": str(knob.bits)} if knob.bits else {"crf": _level(job, knob), "b": "0"})


def _av1(job: Job, knob: Knob) -> Settings:
    options = {"preset": {"quick": "10", "usual": "8", "thorough": "5"}[job.recipe.quality.effort]}
    return options | ({"b": str(knob.bits)} if knob.bits else {"crf": _level(job, knob)})


def _prores(profile: str) -> Callable[[Job, Knob], Settings]:
    return lambda job, knob: (
        {"profile": profile, "vendor": "apl0"} | ({"alpha_bits": "16"} if job.placement.alpha else {})
    )


def _ffv1(job: Job, knob: Knob) -> Settings:
    # Version 3 with checksums of its slices: what is damaged later is noticed (RFC 9043).
    return {"level": "3", "slicecrc": "1", "slices": "4"}


CODECS: Mapping[str, Codec] = MappingProxyType(
    {
        "h264": Codec("libx264", _x264, "h264", by_bits=False, frame_threads=True),
        "h265": Codec("libx265", _x265, "hevc", by_bits=False, tag="hvc1"),
        "vp9": Codec("libvpx-vp9", _vp9, "vp9"),
        "av1": Codec("libsvtav1", _av1, "av1"),
        "prores-4444": Codec("prores_ks", _prores("4444"), "prores", frame_threads=True),
        "prores-422-hq": Codec("prores_ks", _prores("hq"), "prores", frame_threads=True),
        "ffv1": Codec("ffv1", _ffv1, "ffv1"),
    }
)
"""By the names that recipes use."""


def muxing(job: Job) -> Settings:
    """Options of a container, by FFmpeg's names."""
    if job.recipe.container not in ("mp4", "mov"):
        # Matroska gives every file an identity drawn by lot, and the same frames would give other bytes each time.
        return {"fflags": "+bitexact"}
    # The index at the front, so that a browser plays before the whole file has arrived. Track lengths are
    # written in ticks, by default in milliseconds: sound ended up to half a millisecond beside its sample.
    ticks = math.lcm(job.timeline.rate.fps.numerator, SOUND_RATE)
    return {"movflags": "+faststart"} | ({"movie_timescale": str(ticks)} if ticks < 1 << 31 else {})


def key_distance(job: Job) -> int:
    """Pictures from one key frame to the next; 0 leaves it to the encoder."""
    seconds = Fraction(repr(job.recipe.key_seconds))
    return max(round(seconds * job.timeline.rate.fps), 1) if seconds else 0
