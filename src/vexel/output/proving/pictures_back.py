"""Pictures read back: animated WebP, sequences, stills, archives and pages, as facts like those of a video."""

import base64
import io
import json
import re
import tempfile
import zipfile
from collections.abc import Collection, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image, ImageSequence

from vexel.core.errors import Failure, Mistake
from vexel.output.job.job import Job
from vexel.output.proving.readback import VideoFacts, video_facts
from vexel.output.reading.picture_file import read_picture


def facts_of(job: Job, wanted: Collection[int]) -> VideoFacts:
    """Read a job's file back.

    Raises
    ------
    Mistake
        When it cannot be read.
    """
    container = job.recipe.container
    if container == "webp":
        return _webp(job, wanted)
    if container == "folder":
        return _images(job, sorted(job.file.iterdir()), wanted)
    if container == "still":
        return _images(job, [job.file], wanted)
    if container == "zip":
        return _archive(job, wanted)
    if container == "page":
        return _page(job, wanted)
    return video_facts(job.file, wanted)


def _webp(job: Job, wanted: Collection[int]) -> VideoFacts:
    """FFmpeg reads no animated WebP; Pillow does. Equal pictures that follow each other are one there."""
    pictures, alpha, shown = {}, False, 0
    fps, lasted = job.timeline.rate.fps, Fraction(0)
    with Image.open(job.file) as image:
        for frame in ImageSequence.Iterator(image):
            pixels = np.asarray(frame.convert("RGBA"))
            alpha = alpha or bool((pixels[..., 3] < 255).any())
            lasted += Fraction(round(frame.info.get("duration", 0)), 1000)
            until = round(lasted * fps)
            for number in set(range(shown, until)) & set(wanted):
                pictures[number] = pixels
            shown = until
        plays, size = image.info.get("loop"), image.size
    return _facts("webp", "webp", "rgba" if alpha else "rgb24", size, shown, lasted, pictures, alpha, plays)


def _images(job: Job, files: Sequence[Path], wanted: Collection[int]) -> VideoFacts:
    pictures: dict[int, Any] = {}
    sizes, kinds, spoilt = set(), set(), 0
    for number, file in enumerate(files):
        try:
            pixels = read_picture(file, deep=True)
        except Failure:
            spoilt += 1
            continue
        sizes.add((pixels.shape[1], pixels.shape[0]))
        channels = _exr_channels(file) if file.suffix == ".exr" else pixels.shape[2]
        kinds.add((channels, pixels.dtype.itemsize))
        if number in wanted:
            pictures[number] = pixels
    if len(sizes) > 1:
        raise Mistake(f"{job.file} holds pictures of {len(sizes)} sizes")
    channels, width = max(kinds, default=(3, 1))
    names = {(3, 1): "rgb24", (4, 1): "rgba", (3, 2): "rgb48", (4, 2): "rgba64"}
    kind = names[channels, width]
    rate = job.timeline.rate.fps
    found = _facts(
        job.recipe.container, job.recipe.codec, kind, next(iter(sizes), (0, 0)), len(files), len(files) / rate,
        pictures, channels == 4, None,
    )  # fmt: skip
    return found if not spoilt else VideoFacts(**{**vars(found), "spoilt": spoilt})


def _exr_channels(file: Path) -> int:
    """Whether a file stores alpha; read as a picture, one without gets a full one."""
    from vexel.stage.exr import raw_channels

    return 4 if "A" in raw_channels(file) else 3


def _archive(job: Job, wanted: Collection[int]) -> VideoFacts:
    with zipfile.ZipFile(job.file) as archive, tempfile.TemporaryDirectory() as folder:
        if (bad := archive.testzip()) is not None:
            raise Mistake(f"{job.file} is damaged at {bad}")
        names = archive.namelist()
        # Its bytes were held against their sums; pictures are looked at where they are compared.
        places = []
        for number in sorted(wanted):
            if number < len(names):
                place = Path(folder) / f"{number}{Path(names[number]).suffix}"
                place.write_bytes(archive.read(names[number]))
                places.append((number, place))
        pictures = {number: read_picture(place, deep=True) for number, place in places}
    shown = next(iter(pictures.values()))
    size = (shown.shape[1], shown.shape[0])
    seconds = len(names) / job.timeline.rate.fps
    return _facts("zip", "as-made", "", size, len(names), seconds, pictures, shown.shape[2] == 4, None)


def _page(job: Job, wanted: Collection[int]) -> VideoFacts:
    text = job.file.read_text("utf-8")
    found = re.search(r'<script id="take" type="application/json">(.*?)</script>', text, re.DOTALL)
    if found is None:
        raise Mistake(f"{job.file} holds no take")
    take = json.loads(found[1])
    if "video" in take:
        with tempfile.TemporaryDirectory() as folder:
            film = Path(folder) / "film.mp4"
            film.write_bytes(_decoded(take["video"]))
            within = video_facts(film, wanted)
        return VideoFacts(**{**vars(within), "container": "page", "plays": take["plays"]})
    pictures = {}
    sizes = set()
    alpha = False
    for number, uri in enumerate(take["frames"]):
        with Image.open(io.BytesIO(_decoded(uri))) as image:
            sizes.add(image.size)
            alpha = alpha or image.mode == "RGBA"
            if number in wanted:
                pictures[number] = np.asarray(image.convert("RGBA"))
            else:
                image.load()
    count = len(take["frames"])
    return _facts(
        "page", "frames", "rgba" if alpha else "rgb24", next(iter(sizes)), count, count / job.timeline.rate.fps,
        pictures, alpha, take["plays"],
    )  # fmt: skip


def _decoded(uri: str) -> bytes:
    return base64.b64decode(uri.partition(",")[2])


def _facts(
    container: str,
    codec: str,
    pixels: str,
    size: tuple[int, int],
    frames: int,
    seconds: Fraction,
    pictures: dict[int, Any],
    alpha: bool,
    plays: int | None,
) -> VideoFacts:
    rate = frames / seconds if seconds else Fraction(0)
    return VideoFacts(
        container, codec, pixels, *size, frames, seconds, rate, "", None, False, None,
        pictures=pictures, alpha=alpha, plays=plays,
    )  # fmt: skip
