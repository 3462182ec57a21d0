"""Proves a compiled file: what was read back, held against what it was to be."""

import os
import zipfile
from collections.abc import Mapping, Sequence
from concurrent.futures import Executor, ThreadPoolExecutor
from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake
from vexel.core.recipes.byte_size import said_bytes
from vexel.core.recipes.recipe import Colour
from vexel.core.time.clock import decimal
from vexel.core.wording import counted
from vexel.output.job.job import Job
from vexel.output.job.pictures import Pixels, mixed_with
from vexel.output.job.receipt import Check, Receipt, check, fps
from vexel.output.proving.colours import colours_check, luma_of, on_grey, parts_apart, rgb_of, tolerance_of
from vexel.output.proving.cues import cues_check, receipt_of_cues
from vexel.output.proving.likeness import SAME, luma, psnr, ssim
from vexel.output.proving.pictures_back import facts_of
from vexel.output.proving.readback import VideoFacts

COMPARED = 8
"""Pictures that are compared with their frames, spread over all."""
LEAST_PSNR = 20.0
"""Decibels; below, a picture shows something else."""
MOST_CUT = 0.005
"""Share of a picture's pixels that may be clear where they should not, or the reverse: edges that were scaled."""
_CODECS = {
    "h264": "h264", "h265": "hevc", "av1": "av1", "vp9": "vp9", "prores-4444": "prores", "prores-422-hq": "prores",
    "ffv1": "ffv1", "gif": "gif", "apng": "apng", "webp": "webp", "webp-lossless": "webp",
}  # fmt: skip


def receipt_of(job: Job, notes: list[str], further: Sequence[Check] = ()) -> Receipt:
    """Read a job's file back and hold it against the plan; `further` are lines that only its writer could give."""
    if job.recipe.form.kind == "text":
        return receipt_of_cues(job, notes)
    count = 1 if job.recipe.container == "still" else job.timeline.count
    compared = sorted({round(n * (count - 1) / max(COMPARED - 1, 1)) for n in range(COMPARED)} | {count // 2})
    # Frames are read again while the file is decoded, and compared when both are there.
    with ThreadPoolExecutor(os.cpu_count() or 1) as readers:
        frames = {number: readers.submit(shown_picture, job, number) for number in compared}
        try:
            found = facts_of(job, compared)
        except (Mistake, zipfile.BadZipFile, OSError, SyntaxError, ValueError) as error:
            unread = Check("whole", "can be read", str(error), False)
            return Receipt(str(job.file), job.recipe.name, bytes_of(job), (unread, *further), (*_told(job), *notes))
        made = {number: frames[number].result() for number in found.pictures}
        pictures = _pictures(job, found, made, readers)
    checks = [
        check("frames", f"{count:,}", f"{found.frames:,}"),
        *_time(job, found, count),
        check("size", f"{job.width} × {job.height}", f"{found.width} × {found.height}"),
        *_codec(job, found),
        *pictures,
        *further,
    ]
    if found.spoilt or found.cut_short:
        checks.append(Check("whole", "all frames decode", f"{counted(found.spoilt, 'frame')} damaged", False))
    size = bytes_of(job)
    if most := job.recipe.quality.most_bytes:
        checks.append(Check("bytes", f"at most {said_bytes(most)}", said_bytes(size), size <= most))
    return Receipt(str(job.file), job.recipe.name, size, tuple(checks), (*_told(job), *notes))


def bytes_of(job: Job) -> int:
    """Size of a file, or of all in a folder."""
    if job.file.is_dir():
        return sum(file.stat().st_size for file in job.file.iterdir())
    return job.file.stat().st_size


def _told(job: Job) -> list[str]:
    """Notes on frame properties that the file does not show."""
    notes = [*job.footage.notes, *job.footage.told_by_pictures()]
    if job.loses_alpha:
        format_ = "GIF" if job.recipe.form.alpha == "cut" else job.recipe.makes
        why = "the recipe drops transparency" if job.recipe.alpha == "drop" else f"{format_} has no alpha"
        notes.append(f"the frames are transparent; {why}, so they are on {job.recipe.ground}")
    elif job.placement.alpha and job.recipe.form.alpha == "cut":
        notes.append("each pixel is either there or clear: soft edges and shadows are cut hard")
    if job.loses_depth:
        notes.append(f"the frames have 16 bits a channel; the recipe's pixels, {job.pixels}, keep 8 of them")
    if any(file.suffix.lower() == ".exr" for file in job.footage.files) and job.recipe.codec not in ("exr", "as-made"):
        notes.append("the frames are OpenEXR: light from 0 to 1 as sRGB codes, what is brighter is cut off")
    if job.timeline.note:
        more = "; captured at that rate, each would be a separate frame" if job.footage.renewable else ""
        notes.append(job.timeline.note + more)
    footage = job.footage
    if footage.sound is not None and not job.has_sound:
        notes.append(f"{job.recipe.makes} holds no sound: that of the reel is left out")
    if footage.count < footage.planned:
        last = footage.first + footage.count - 1
        notes.append(f"of the shot's {footage.planned:,} frames the take holds {footage.first:,} to {last:,}")
    if held := footage.held:
        notes.append(f"{counted(len(held), 'frame is', 'frames are')} missing, the first is {held[0]}: held instead")
    fitted = job.placement.fitted
    left = job.source.width - fitted.part[2], job.source.height - fitted.part[3]
    if any(left):
        notes.append(f"cut off: {left[0]} px of the width and {left[1]} px of the height")
    if fitted.enlarged > 1:
        notes.append(f"enlarged {decimal(fitted.enlarged)} times")
    return notes


def _time(job: Job, found: VideoFacts, count: int) -> list[Check]:
    """Rate and length, exactly or within what the kind of file can hold."""
    if job.recipe.form.kind == "folder" or job.recipe.container in ("still", "zip"):
        return []
    grain, planned = job.recipe.form.grain, job.timeline.rate.fps
    lasts = abs(found.seconds - count / planned) <= grain / 2 if grain else found.seconds == count / planned
    even = found.rate == planned if grain == 0 else lasts
    return [
        Check("rate", fps(planned), fps(found.rate), even),
        Check("duration", f"{decimal(count / planned)} s", f"{decimal(found.seconds)} s", lasts),
    ]


def _codec(job: Job, found: VideoFacts) -> list[Check]:
    recipe, checks = job.recipe, []
    is_video = recipe.form.kind == "video" or (recipe.container == "page" and recipe.codec == "video")
    if recipe.codec in _CODECS or is_video:
        checks.append(check("codec", _CODECS.get(recipe.codec, "h264"), found.codec))
    if is_video:
        checks.append(check("pixels", job.pixels, _told_pixels(job, found)))
        if found.profile:
            checks.append(Check("profile", "", f"{found.profile} {found.level}".strip(), True))
        checks += _tags(job, found)
    if found.index_first is not None:
        checks.append(check("index", "at the front", "at the front" if found.index_first else "at the end"))
    if recipe.form.alpha == "whole" and recipe.form.kind != "page":
        checks.append(check("alpha", _yes(job.placement.alpha), _yes(found.alpha)))
    if recipe.form.plays and found.plays is not None:
        checks.append(check("plays", _plays(recipe.timing.plays), _plays(found.plays)))
    if job.has_sound:
        lasts, heard = job.timeline.seconds, found.sound or Fraction(0)
        # Codecs of sound work by blocks, which they may fill up at the end.
        near = abs(heard - lasts) < Fraction(1, 20)
        checks.append(Check("sound", f"{decimal(lasts)} s", f"{decimal(heard)} s", near))
    if planned := job.cues:
        checks.append(cues_check("chapters", planned, found.chapters, job.timeline.rate.fps))
    if (footage := job.footage).panorama or found.panorama:
        # A page holds an MP4.
        says = recipe.container in ("mp4", "mov") or recipe.codec == "video"
        wanted = footage.panorama if says else None
        stated, really = (seen.label if seen else "none" for seen in (wanted, found.panorama))
        checks.append(check("panorama", stated, really))
    return checks


def _told_pixels(job: Job, found: VideoFacts) -> str:
    """FFmpeg's older names for full range, and the depth at which it decodes all ProRes 4444, put right."""
    name = found.pixel_format.replace("yuvj", "yuv")
    return name.replace("444p12le", "444p10le") if job.recipe.codec == "prores-4444" else name


def _tags(job: Job, found: VideoFacts) -> list[Check]:
    colour, yuv = job.recipe.colour, job.pixels.startswith("yuv")
    planned: tuple[str, ...] = (colour.range, colour.matrix, colour.primaries, colour.transfer)
    if not yuv:
        planned = ("full", "rgb", colour.primaries, "srgb")
    tags = ", ".join(dict.fromkeys(found.tags))
    return [Check("colour", ", ".join(dict.fromkeys(planned)), tags, found.tags == planned)]


def _pictures(job: Job, found: VideoFacts, made: Mapping[int, Pixels], workers: Executor) -> list[Check]:
    """Compare pictures with the frames that they show."""
    if not found.pictures:
        return [Check("colours", "pictures to compare", "none", False)]
    if (found.width, found.height) != (job.width, job.height):
        return [Check("colours", "pictures to compare", "of another size", False)]
    ends = {min(made), max(made), sorted(made)[len(made) // 2]}
    colour = job.recipe.colour
    parts = workers.map(lambda n: parts_apart(made[n], found.pictures[n], colour), ends)
    checks = [colours_check(list(parts), tolerance_of(job.recipe))]
    exact = job.recipe.form.exact
    alphas = [_alpha_apart(made[n], found.pictures[n], colour) for n in made if job.placement.alpha]
    if job.recipe.codec == "as-made":
        checks.append(_same_files(job))
    elif exact:
        apart = max(_apart(made[n], found.pictures[n], colour) for n in made)
        planned = "no difference in 8 bits" if job.loses_depth else "no difference"
        checks.append(Check("lossless", planned, f"{apart:g} of 255 at most", apart == 0))
    elif job.recipe.codec != "gif":
        values = list(workers.map(lambda n: alike(made[n], found.pictures[n], colour), made))
        worst, least = (min(one[k] for one in values) for k in (0, 1))
        of = f"of {counted(len(values), 'picture')}"
        said = "no difference" if worst >= SAME else f"{worst:.1f} dB at least"
        checks.append(Check("PSNR", f"above {LEAST_PSNR:g} dB", f"{said}, {of}", worst >= LEAST_PSNR))
        checks.append(Check("SSIM", "", f"{least:.4f} at least, {of}", True))
    if job.recipe.form.alpha == "cut":
        checks.append(_cut_alpha(job, found, made))
    if alphas and job.recipe.form.alpha == "whole":
        off = max(alphas)
        within = 0 if exact or not job.pixels else 6
        checks.append(Check("clear", f"within {within} of 255 on average", f"{off:.1f}", off <= within))
    return checks


def _cut_alpha(job: Job, found: VideoFacts, made: Mapping[int, Pixels]) -> Check:
    """Whether the pixels that are clear in a file are those that are more clear than not in the frames."""
    planned, clear, apart = _yes(job.placement.alpha), False, 0.0
    for number, picture in made.items():
        there = rgb_of(found.pictures[number], job.recipe.colour)
        cut = there[..., 3] == 0 if there.shape[2] == 4 else np.zeros(there.shape[:2], bool)
        wanted = picture[..., 3] < 128 if picture.shape[2] == 4 else np.zeros(cut.shape, bool)
        clear = clear or bool(cut.any())
        apart = max(apart, float((cut != wanted).mean()))
    if apart > MOST_CUT:
        return Check("alpha", planned, f"{_yes(clear)}, {apart:.1%} of the pixels otherwise", False)
    shown = any(picture.shape[2] == 4 and bool((picture[..., 3] < 128).any()) for picture in made.values())
    # Of pictures without a clear pixel none can be there to prove it.
    return check("alpha", planned, _yes(clear) if shown or clear else planned)


def _same_files(job: Job) -> Check:
    """Frames that are copied unchanged, byte for byte."""
    names, files = job.footage.file_names, job.footage.files
    shown = [position for position, _ in job.timeline.picks]
    if job.file.is_dir():
        same = sum((job.file / names[n]).is_file() and (job.file / names[n]).read_bytes() == files[n].read_bytes()
                   for n in shown)  # fmt: skip
    else:
        with zipfile.ZipFile(job.file) as archive:
            there = set(archive.namelist())
            same = sum(names[n] in there and archive.read(names[n]) == files[n].read_bytes() for n in shown)
    return Check("frames' bytes", f"{len(shown):,} the same", f"{same:,} the same", same == len(shown))


def shown_picture(job: Job, number: int) -> Pixels:
    """The picture that a file is to show as its n-th.

    A file that keeps every code is compared with the unscaled frames, for every conversion.
    """
    position, mix = job.timeline.shows(number)
    deep = job.placement.deep or (job.recipe.form.exact and job.source.deep and not job.loses_depth)
    placement = replace(job.placement, deep=deep)

    def placed(at: int) -> Pixels:
        return placement.placed(job.source.picture(at, deep))

    if not mix:
        return placed(position)
    return mixed_with(placed(position), placed((position + 1) % job.footage.count), mix)


def alike(made: Pixels, found: Any, colour: Colour) -> tuple[float, float]:
    """PSNR and SSIM of a picture and its decoded copy, both over mid grey."""
    one, other = luma(on_grey(made), colour.matrix), luma_of(found, colour)
    return psnr(one, other), ssim(one, other)


def _apart(made: Pixels, found: Any, colour: Colour) -> float:
    """The largest difference in codes of 255; colours of pixels that are clear on both sides are never seen."""
    pair = [_unit(picture) for picture in (made, rgb_of(found, colour))]
    channels = min(picture.shape[2] for picture in pair)
    apart = np.abs(pair[0][..., :channels] - pair[1][..., :channels])
    if channels == 4:
        apart[(pair[0][..., 3] == 0) & (pair[1][..., 3] == 0)] = 0
    return float(apart.max())


def _unit(pixels: Pixels) -> NDArray[np.float64]:
    return pixels.astype(np.float64) * (255 / np.iinfo(pixels.dtype).max)


def _alpha_apart(made: Pixels, found: Any, colour: Colour) -> float:
    other = rgb_of(found, colour)
    return 255.0 if other.shape[2] < 4 else float(np.abs(_unit(made)[..., 3] - _unit(other)[..., 3]).mean())


def _yes(kept: bool) -> str:
    return "kept" if kept else "none"


def _plays(times: int) -> str:
    return "for ever" if times == 0 else counted(times, "time")
