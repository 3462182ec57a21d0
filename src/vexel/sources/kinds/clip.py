"""Source kind ``clip``: a video file, any frame by its number."""

from fractions import Fraction
from functools import cached_property
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceFacts, SourceFinding
from vexel.core.time.clock import decimal
from vexel.core.time.rate import Rate
from vexel.core.time.source_frames import SourceFrames
from vexel.imaging.light import mixed
from vexel.sources.pictures.sequence_members import stamp_of
from vexel.sources.protocols import FrameRequest
from vexel.sources.video.index import index_of, spread, steady_rate
from vexel.sources.video.pictures import Colours, Deinterlacer, aspect_of, picture_of, shown_size, turn_of
from vexel.sources.video.reader import VideoReader
from vexel.sources.video.wide_colour import is_bright, is_wide


class ClipFile:
    """A video file, opened.

    Parameters
    ----------
    file : Path
    between : str
        What stands between two frames: the one before, or ``blend`` for both.
    fields : {"as-is", "deinterlace"}
        Whether interlaced frames are deinterlaced.
    colours : {"as-is", "srgb"}
        Whether wide and bright colours are converted.

    Raises
    ------
    SourceError
        When it holds no video that can be decoded.
    """

    def __init__(self, file: Path, between: str = "nearest", fields: str = "as-is", colours: Colours = "as-is") -> None:
        self._file, self._blend, self._colours = file, between == "blend", colours
        self._stamp = stamp_of(file)
        try:
            self._index = index_of(file)
            if not self._index.shown:
                raise SourceError(f"{file.name} holds no frames that can be decoded: export it again")
            self._reader = VideoReader(file, self._index)
        except (av.FFmpegError, IndexError, OSError) as error:
            reason = "it holds no picture stream" if isinstance(error, IndexError) else f"it cannot be decoded: {error}"
            raise SourceError(f"{file.name} cannot be read as a video: {reason}") from None
        self._aspect = aspect_of(self._reader.stream)
        self._deinterlacer = Deinterlacer() if fields == "deinterlace" else None
        self._kept: dict[int, NDArray[np.uint8]] = {}

    @cached_property
    def facts(self) -> SourceFacts:
        """Exact count, rate and what is odd about the clip."""
        times, stream = self._index.times, self._reader.stream
        rate, uneven = steady_rate(times, stream.average_rate)
        frames = SourceFrames(
            str(rate),
            len(times.begins),
            (self._stamp,),
            tuple(map(str, times.begins)) if uneven else (),
            self._blend,
            tick=str(times.tick) if uneven else "",
            last=str(times.last) if uneven else "",
        )
        first = self.picture(0)
        context = stream.codec_context
        about = [
            ("frames", f"{frames.count:,}"),
            ("rate", Rate(rate).label + (" on average" if uneven else "")),
            ("length", f"{decimal(times.begins[-1] + times.last if uneven else frames.count / rate)} s"),
            ("size", f"{first.shape[1]} × {first.shape[0]}"),
            ("codec", f"{context.name}, {context.pix_fmt}"),
            ("alpha", "yes" if (first[..., 3] < 255).any() or self.keeps_alpha else "none seen"),
        ]
        return SourceFacts(
            time_inputs=("slot",),
            pictures=True,
            source_frames=frames,
            size=(first.shape[1], first.shape[0]),
            about=tuple(about),
            findings=tuple(self._findings(uneven)),
        )

    @property
    def keeps_alpha(self) -> bool:
        """Whether its frames have room for transparency."""
        pixels = self._reader.stream.codec_context.format
        return self._reader.keeps_alpha or (pixels is not None and any(part.is_alpha for part in pixels.components))

    @property
    def bits(self) -> int:
        """Bits a channel of its frames, at most."""
        pixels = self._reader.stream.codec_context.format
        return max((part.bits for part in pixels.components), default=8) if pixels is not None else 8

    def show(self, asked: FrameRequest) -> NDArray[np.uint8]:
        """A frame by its number; see `Source.show`."""
        slot, part = int(asked.time_inputs["slot"]), float(Fraction(asked.time_inputs.get("part", 0)))
        now = stamp_of(self._file)
        if asked.stamp and asked.stamp != (f"{now}|{now}" if part else now):
            raise SourceError(f"{self._file.name} has changed since this was planned: capture again")
        if not part:
            return self.picture(slot)
        pair = (slot, (slot + 1) % len(self._index.shown))
        # The next sample continues from the later of the two, so that no frame is decoded twice.
        self._kept = {n: self._kept[n] if n in self._kept else self.picture(n) for n in pair}
        return mixed([(self._kept[pair[0]], 1 - part), (self._kept[pair[1]], part)])

    def picture(self, number: int) -> NDArray[np.uint8]:
        """A frame by its number, as RGBA; see `picture_of`."""
        if self._deinterlacer is None:
            return picture_of(self._reader.frame(number), self._aspect, self._colours)
        near = [n for n in (number - 1, number, number + 1) if 0 <= n < len(self._index.shown)]
        whole = self._deinterlacer.frame([self._reader.frame(n) for n in near], near.index(number))
        return picture_of(whole, self._aspect, self._colours)

    def _findings(self, uneven: bool) -> list[SourceFinding]:
        """What is odd about it, and which oddities are left."""
        times, first, found = self._index.times, self._reader.frame(0), []
        if uneven:
            shortest, longest = spread(times)
            found.append(SourceFinding("uneven-frames", {"shortest": shortest, "longest": longest}))
        if times.jumps:
            found.append(SourceFinding("times-jump", {"count": len(times.jumps), "first": times.jumps[0]}))
        if times.assumed is not None:
            found.append(SourceFinding("untimed", {"rate": Rate(times.assumed).label}))
        if self._index.undecodable:
            found.append(SourceFinding("undecodable", {"count": self._index.undecodable}))
        if rotation := turn_of(first):
            found.append(SourceFinding("rotated", {"degrees": rotation}))
        if self._aspect != 1:
            width, height = shown_size(first, self._aspect)
            facts = {"aspect": f"{self._aspect.numerator}:{self._aspect.denominator}"}
            found.append(SourceFinding("stretched", facts | {"size": f"{width} × {height}"}))
        if self._deinterlacer is None and self._interlaced():
            found.append(SourceFinding("interlaced"))
        if self._colours == "as-is" and is_wide(first):
            found.append(SourceFinding("bright-colours" if is_bright(first) else "wide-colours"))
        return found

    def _interlaced(self) -> bool:
        """Whether the first frames or one in the middle are interlaced."""
        count = len(self._index.shown)
        return any(self._reader.frame(n).interlaced_frame for n in sorted({*range(min(count, 8)), count // 2}))
