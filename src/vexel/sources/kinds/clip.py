"""Source kind ``clip``: a video file, any frame by its number."""

import itertools
from collections.abc import Iterator
from fractions import Fraction
from functools import cached_property
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from vexel.core.evaluate.source_facts import SourceFacts, SourceFinding
from vexel.core.time.clock import decimal
from vexel.core.time.rate import Rate
from vexel.core.time.source_frames import SourceFrames
from vexel.sources.pictures.mixing import mixed
from vexel.sources.pictures.sequence_members import stamp_of
from vexel.sources.protocols import FrameRequest, SourceError

HD_LINES = 720
"""From this height on, a clip without colour tags is taken as BT.709, as players do; below as BT.601."""
_ALPHA_DECODERS = {"vp8": "libvpx", "vp9": "libvpx-vp9"}


class ClipFile:
    """A video file, opened.

    Parameters
    ----------
    file : Path
    between : str
        What stands between two frames: the one before, or ``blend`` for both.

    Raises
    ------
    SourceError
        When it holds no video that can be decoded.
    """

    def __init__(self, file: Path, between: str = "nearest") -> None:
        self._file, self._blend = file, between == "blend"
        self._stamp = stamp_of(file)
        try:
            self._container = av.open(str(file))
            self._stream = self._container.streams.video[0]
            self._pts = self._presented()
        except (av.FFmpegError, IndexError, OSError) as error:
            reason = "it holds no picture stream" if isinstance(error, IndexError) else f"it cannot be decoded: {error}"
            raise SourceError(f"{file.name} cannot be read as a video: {reason}") from None
        if not self._pts:
            raise SourceError(f"{file.name} holds no frames: export it again")
        self._decoder = self._alpha_decoder()
        self._frames: Iterator[Any] | None = None
        self._next = -1
        self._kept: dict[int, NDArray[np.uint8]] = {}

    @cached_property
    def facts(self) -> SourceFacts:
        """Exact count, rate and what is odd about the clip."""
        base = Fraction(self._stream.time_base or Fraction(1, 1000))
        times = [(pts - self._pts[0]) * base for pts in self._pts]
        rate, uneven = _rate(times, self._stream.average_rate)
        slots = SourceFrames(
            str(rate), len(times), (self._stamp,), tuple(map(str, times)) if uneven else (), self._blend
        )
        first = self._picture_of(self._decoded(0))
        context = self._stream.codec_context
        about = [
            ("frames", f"{len(times):,}"),
            ("rate", Rate(rate).label + (" on average" if uneven else "")),
            ("length", f"{decimal(len(times) / rate)} s"),
            ("size", f"{first.shape[1]} × {first.shape[0]}"),
            ("codec", f"{context.name}, {context.pix_fmt}"),
            ("alpha", "yes" if (first[..., 3] < 255).any() or self._decoder is not None else "none seen"),
        ]
        findings = []
        if uneven:
            shortest, longest = map(decimal, _spread(times))
            findings.append(SourceFinding("uneven-frames", {"shortest": shortest, "longest": longest}))
        if rotation := self._turn():
            findings.append(SourceFinding("rotated", {"degrees": rotation}))
        return SourceFacts(
            sees=("slot",),
            pictures=True,
            source_frames=slots,
            size=(first.shape[1], first.shape[0]),
            about=tuple(about),
            findings=tuple(findings),
        )

    def show(self, asked: FrameRequest) -> NDArray[np.uint8]:
        """A frame by its number; see `Source.show`."""
        slot, part = int(asked.seen["slot"]), float(Fraction(asked.seen.get("part", 0)))
        now = stamp_of(self._file)
        if asked.stamp and asked.stamp != (f"{now}|{now}" if part else now):
            raise SourceError(f"{self._file.name} has changed since this was planned: capture again")
        if not part:
            return self._picture_of(self._decoded(slot))
        pair = (slot, (slot + 1) % len(self._pts))
        # The next look goes on from the later of the two, so that no frame is decoded twice.
        self._kept = {n: self._kept[n] if n in self._kept else self._picture_of(self._decoded(n)) for n in pair}
        return mixed([(self._kept[pair[0]], 1 - part), (self._kept[pair[1]], part)])

    def _presented(self) -> list[int]:
        """Times of all frames in the order in which they are shown, in the stream's own units."""
        # Packets alone are read, and none decoded, which is quick for long clips too.
        shown = [p.pts for p in self._container.demux(self._stream) if p.pts is not None and not p.is_discard]
        return sorted(set(shown))

    def _decoded(self, number: int) -> Any:
        """A frame: the next one at once, another one from the key frame before it."""
        wanted = self._pts[number]
        # A dozen frames on are decoded sooner than a seek to the key frame before them.
        if self._frames is None or not 0 <= number - self._next < 12:
            self._container.seek(wanted, stream=self._stream, backward=True, any_frame=False)
            self._frames = self._decoding()
        for frame in self._frames:
            if frame.pts is not None and frame.pts >= wanted:
                self._next = number + 1
                return frame
        self._frames = None
        raise SourceError(f"{self._file.name} is damaged: its frame {number:,} cannot be decoded; export it again")

    def _decoding(self) -> Iterator[Any]:
        if self._decoder is None:
            self._stream.codec_context.flush_buffers()
        else:
            self._decoder.flush_buffers()
        decoder = self._decoder or self._stream.codec_context
        try:
            for packet in self._container.demux(self._stream):
                yield from decoder.decode(None if packet.dts is None and packet.size == 0 else packet)
        except av.EOFError:
            return
        except av.FFmpegError as error:
            raise SourceError(
                f"{self._file.name} is damaged and cannot be decoded ({error}): export it again"
            ) from None

    def _alpha_decoder(self) -> Any:
        """A decoder that keeps alpha, where the usual one drops it."""
        name = _ALPHA_DECODERS.get(self._stream.codec_context.name)
        if name is None or self._stream.metadata.get("alpha_mode") != "1":
            return None
        decoder = av.CodecContext.create(name, "r")
        decoder.extradata = self._stream.codec_context.extradata
        return decoder

    def _turn(self) -> int:
        return int(getattr(self._decoded(0), "rotation", 0)) % 360

    def _picture_of(self, frame: Any) -> NDArray[np.uint8]:
        tagged = int(frame.colorspace) not in (2,)
        # FFmpeg takes untagged clips as BT.601 whatever their size, and players do not.
        matrix = int(frame.colorspace) if tagged else (1 if frame.height >= HD_LINES else 5)
        pixels = frame.reformat(format="rgba", src_colorspace=matrix).to_ndarray()
        turned = int(getattr(frame, "rotation", 0)) % 360
        return np.ascontiguousarray(np.rot90(pixels, turned // 90)) if turned % 90 == 0 and turned else pixels


def _rate(times: list[Fraction], stated: Any) -> tuple[Fraction, bool]:
    """Frames a second, and whether frames last differently by more than the file's own clock rounds."""
    if len(times) < 2:
        return Fraction(stated or 25), False
    mean = (len(times) - 1) / (times[-1] - times[0])
    rate = Fraction(stated) if stated and abs(Fraction(stated) / mean - 1) < Fraction(1, 500) else mean
    drift = max(abs(time - number / rate) for number, time in enumerate(times))
    if drift <= Fraction(1, 2) / rate:
        return rate, False
    return mean.limit_denominator(1001), True


def _spread(times: list[Fraction]) -> tuple[Fraction, Fraction]:
    steps = [b - a for a, b in itertools.pairwise(times)]
    return min(steps), max(steps)
