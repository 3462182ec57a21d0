"""Pictures as image files: a sequence in a folder, one still, or the frames themselves in a ZIP archive."""

import shutil
import zipfile
from collections.abc import Mapping
from fractions import Fraction
from pathlib import Path, PurePath
from typing import Any

import av
import cv2
import numpy as np

from vexel.imaging.image_bytes import encoded_image, encoded_png
from vexel.output.job.frame_converter import frame_of
from vexel.output.job.job import Job
from vexel.output.job.pictures import Pixels, with_alpha
from vexel.output.origin.carried import with_record
from vexel.output.origin.record import origin_of
from vexel.output.writers.search import SizeSearch
from vexel.output.writers.writer import Writer

_PNG_LEVEL, _JPEG_USUAL = 4, 92
_TIFF = {(3, 1): "rgb24", (4, 1): "rgba", (3, 2): "rgb48le", (4, 2): "rgba64le"}
"""Of channels and bytes a channel."""


def image_bytes(job: Job, pixels: Pixels, level: float | None) -> bytes:
    """One picture as the job's kind of image file."""
    codec = job.recipe.codec
    origin = origin_of(job)
    if codec == "exr":
        return _exr(pixels, {} if origin is None else {"comments": origin.text})
    if codec == "jpeg":
        made = _jpeg(pixels, round(level if level is not None else _JPEG_USUAL), full="444" in job.pixels)
        return made if origin is None else with_record(made, origin.text)
    if codec == "tiff":
        return _tiff(pixels)
    data = encoded_png(pixels, _PNG_LEVEL, is_colour=not job.placement.is_data)
    return data if origin is None else with_record(data, origin.text)


def _jpeg(pixels: Pixels, quality: int, *, full: bool) -> bytes:
    sampling = cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444 if full else cv2.IMWRITE_JPEG_SAMPLING_FACTOR_420
    options = [cv2.IMWRITE_JPEG_QUALITY, quality, cv2.IMWRITE_JPEG_SAMPLING_FACTOR, sampling]
    return encoded_image(".jpg", pixels, [*options, cv2.IMWRITE_JPEG_OPTIMIZE, 1])


def _tiff(pixels: Pixels) -> bytes:
    """By FFmpeg: OpenCV does not say in a file that its fourth channel is alpha."""
    frame = frame_of(np.ascontiguousarray(pixels), _TIFF[pixels.shape[2], pixels.dtype.itemsize])
    encoder = av.CodecContext.create("tiff", "w")
    encoder.width, encoder.height, encoder.pix_fmt = frame.width, frame.height, frame.format.name
    encoder.time_base = Fraction(1, 25)
    encoder.options = {"compression_algo": "lzw"}
    return b"".join(bytes(packet) for packet in [*encoder.encode(frame), *encoder.encode(None)])


def _exr(pixels: Pixels, attributes: Mapping[str, str]) -> bytes:
    """Linear light, premultiplied by alpha, in half floats."""
    from vexel.imaging.light import light_of_codes
    from vexel.stage.exr import exr_bytes

    alpha = pixels.shape[2] == 4
    light = light_of_codes(pixels if alpha else with_alpha(pixels)).astype(np.float16)
    return exr_bytes({"RGBA": light} if alpha else {"RGB": light[..., :3]}, attributes)


class SequenceWriter(Writer):
    """Numbered image files in a folder."""

    def __init__(self, job: Job, part: Path) -> None:
        super().__init__(job, part)
        self._search = SizeSearch.of(job)
        part.mkdir(parents=True)
        self._names = sequence_names(job)

    @property
    def may_repeat(self) -> bool:
        """Whether it may ask for another round."""
        return self._search is not None

    def prepare(self, pixels: Pixels) -> bytes:
        """An image file."""
        level = self._search.knob.level if self._search else self.job.recipe.quality.level
        return image_bytes(self.job, pixels, level)

    def add(self, prepared: bytes, number: int) -> None:
        """Write the next file."""
        (self.part / self._names[number]).write_bytes(prepared)

    def end(self) -> bool:
        """Another round where the size of all is not yet that wanted."""
        size = sum(file.stat().st_size for file in self.part.iterdir())
        if self._search and self._search.another(size):
            return True
        self.notes.extend(self._search.notes if self._search else [])
        return False


def sequence_names(job: Job) -> list[str]:
    """Names of a sequence's files: those of the frames, or new numbers where pictures are not frame by frame."""
    picks, suffix = job.timeline.picks, job.recipe.form.suffix
    frames = [n for n, _ in picks]
    if job.timeline.repeats == 1 and all(mix == 0 for _, mix in picks) and len(set(frames)) == len(frames):
        return [str(PurePath(job.footage.file_names[n]).with_suffix(suffix)) for n in frames]
    digits = max(4, len(str(job.timeline.count - 1)))
    stem = PurePath(job.footage.file_names[0]).name.split(".")[0]
    return [f"{stem}.{n:0{digits}d}{suffix}" for n in range(job.timeline.count)]


class StillWriter(Writer):
    """One image file."""

    def __init__(self, job: Job, part: Path) -> None:
        super().__init__(job, part)
        self._search = SizeSearch.of(job)

    @property
    def may_repeat(self) -> bool:
        """Whether it may ask for another round."""
        return self._search is not None

    def prepare(self, pixels: Pixels) -> bytes:
        """An image file."""
        level = self._search.knob.level if self._search else self.job.recipe.quality.level
        return image_bytes(self.job, pixels, level)

    def add(self, prepared: bytes, number: int) -> None:
        """Write it; the first picture is the one."""
        if number == 0:
            self.part.write_bytes(prepared)
        elif number == 1 and not self.notes:
            self.notes.append("a still holds one picture: the first of those asked for")

    def end(self) -> bool:
        """Another round where its size is not yet that wanted."""
        if self._search and self._search.another(self.part.stat().st_size):
            return True
        self.notes.extend(self._search.notes if self._search else [])
        return False


class AsMadeWriter(Writer):
    """The frames' own files, in a folder or a ZIP archive. Its pictures are read and left, to notice damage."""

    def __init__(self, job: Job, part: Path) -> None:
        super().__init__(job, part)
        self._archive: zipfile.ZipFile | None = None
        if job.recipe.is_folder:
            part.mkdir(parents=True)
        else:
            self._archive = zipfile.ZipFile(part, "w", zipfile.ZIP_STORED)

    def prepare(self, pixels: Pixels) -> Any:
        """Nothing: the file is copied unchanged."""
        return None

    def add(self, prepared: Any, number: int) -> None:
        """Copy the next file."""
        frame, _ = self.job.timeline.shows(number)
        file, name = self.job.footage.files[frame], self.job.footage.file_names[frame]
        if self._archive is not None:
            self._archive.write(file, name)
        else:
            shutil.copyfile(file, self.part / name)

    def end(self) -> bool:
        """Close the archive."""
        self.close()
        return False

    def close(self) -> None:
        """Close the archive."""
        if self._archive is not None:
            self._archive.close()
            self._archive = None
