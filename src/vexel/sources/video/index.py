"""Which frames a video file holds, in the order in which they are shown, and from where each can be decoded."""

import zlib
from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from itertools import accumulate, pairwise
from pathlib import Path
from typing import Any

import av

from vexel.core.time.clock import decimal
from vexel.sources.video.opening import open_media

EXACT_CONTAINERS = ("mov", "matroska")
"""Containers that hold one frame in each packet. Others may hold one field of an interlaced frame."""
JUMPING_CONTAINERS = ("mpegts", "mpeg")
"""Containers for broadcasting, whose times may restart within a file."""
FAR = Fraction(10)
"""Seconds ahead from which times jump; FFmpeg takes as many (dts_delta_threshold)."""
PROGRESSIVE = 1
"""Of `field_order`: frames are never two fields."""
PROVED = 16
"""Number of frames that are decoded to check that a file's frames are those that its packets promise."""

JITTER = Fraction(1, 20)
"""Share of a frame by which one may come early or late in a file of a steady rate."""
_TICKS = Fraction(101, 100)
"""Ticks of its clock by which a time may be off: half of one, and half of one of the first frame's."""

PacketIdentity = tuple[int | None, int | None, int | None, int, int]
"""Presentation time, decoding time where there is no other, place in the file, size and checksum of a packet."""


@dataclass(frozen=True)
class FrameTimes:
    """When the frames of a file are shown.

    Attributes
    ----------
    begins : tuple of Fraction
        Seconds from the first frame, one for each.
    last : Fraction
        Seconds that the last frame lasts.
    tick : Fraction
        What the file's own clock counts in, seconds; 0 where it states no times.
    assumed : Fraction or None
        Rate that was taken, since the file states no times or states them out of order.
    jumps : tuple of int
        Frames before which the times of a stream jump, back or far ahead: they follow the one before all the same.
    """

    begins: tuple[Fraction, ...]
    last: Fraction
    tick: Fraction = Fraction(0)
    assumed: Fraction | None = None
    jumps: tuple[int, ...] = ()


@dataclass(frozen=True)
class VideoIndex:
    """Frames of a file by number.

    Attributes
    ----------
    packets : mapping of PacketIdentity to int
        Every packet's place in the file's own order.
    shown : tuple of int
        The packet of each frame, in the order in which frames are shown.
    restarts : tuple of int
        Packets at which decoding may begin, ascending; the first packet is always one.
    times : FrameTimes
    undecodable : int
        Packets that give no frame since they cannot be decoded; known only of a file that was decoded once.
    """

    packets: dict[PacketIdentity, int] = field(repr=False)
    shown: tuple[int, ...]
    restarts: tuple[int, ...]
    times: FrameTimes
    undecodable: int = 0

    @cached_property
    def numbers(self) -> dict[int, int]:
        """The number of each packet's frame."""
        return {packet: number for number, packet in enumerate(self.shown)}

    def restarts_before(self, number: int) -> Iterator[int]:
        """Packets from which a frame can be decoded, the latest first: neither stored nor shown after it."""
        for place in range(bisect_right(self.restarts, self.shown[number]) - 1, 0, -1):
            restart = self.restarts[place]
            if self.numbers.get(restart, number + 1) <= number:
                yield restart
        yield 0


@dataclass(frozen=True)
class _Packet:
    identity: PacketIdentity
    pts: int | None
    dts: int | None
    duration: int
    key: bool
    discarded: bool


def identity(packet: Any) -> PacketIdentity:
    """Values that distinguish a packet from all others of its file, from every starting point."""
    pts = packet.pts
    return pts, packet.dts if pts is None else None, packet.pos, packet.size, zlib.crc32(packet)


def index_of(file: Path) -> VideoIndex:
    """Read a file's packets and, where these do not settle it, decode it once from its start.

    They do where each has its own time and one frame, and the first frames come as they promise.

    Raises
    ------
    av.FFmpegError, IndexError
        When it cannot be opened, or holds no pictures.
    """
    with open_media(file) as container:
        stream = container.streams.video[0]
        packets = [
            _Packet(identity(p), p.pts, p.dts, p.duration or 0, p.is_keyframe, p.is_discard)
            for p in container.demux(stream)
            if p.size
        ]
        kind = container.format.name.split(",")[0]
        exact = kind in EXACT_CONTAINERS
        whole = exact or int(stream.codec_context.field_order) == PROGRESSIVE
        base, rate = Fraction(stream.time_base or Fraction(1, 1000)), stream.average_rate
    promised = _by_packets(packets) if whole else None
    decoded = _decode(file, PROVED if promised is not None else None)
    if promised is not None and decoded.shown != promised[: len(decoded.shown)]:
        promised, decoded = None, _decode(file, None)
    if promised is None:
        shown = tuple(decoded.shown)
        keys = {n for n in decoded.keys if packets[n].key}
    else:
        shown, keys = tuple(promised), {n for n, packet in enumerate(packets) if packet.key}
    times = _times(shown, packets, base, Fraction(decoded.rate or rate or 25), may_jump=kind in JUMPING_CONTAINERS)
    places = {packet.identity: n for n, packet in enumerate(packets)}
    if len(places) < len(packets):
        keys = set()  # two packets look the same: only a start from the first one is sure
    restarts = tuple(sorted(keys | {0}))
    return VideoIndex(places, shown, restarts, times, 0 if promised is not None else decoded.undecodable)


def _by_packets(packets: list[_Packet]) -> list[int] | None:
    """Packets in the order in which their frames are shown; None where they do not settle it."""
    if not packets or not packets[0].key or any(packet.pts is None for packet in packets):
        return None
    wanted = [n for n, packet in enumerate(packets) if not packet.discarded]
    if len({packets[n].pts for n in wanted}) < len(wanted):
        return None
    return sorted(wanted, key=lambda n: packets[n].pts or 0)


@dataclass
class _Decoded:
    """What came of decoding a file from its start: frames, by their packets, in the order in which they came."""

    shown: list[int] = field(default_factory=list)
    keys: list[int] = field(default_factory=list)
    undecodable: int = 0
    rate: Fraction | None = None


def _decode(file: Path, most: int | None) -> _Decoded:
    found = _Decoded()
    with open_media(file) as container:
        stream = container.streams.video[0]
        context = stream.codec_context
        if most is None:
            context.thread_type = "AUTO"
        for number, packet in enumerate(p for p in container.demux(stream) if p.size):
            # A decoder passes a packet's time to its frame unchanged.
            packet.pts = number
            try:
                _take(found, context.decode(packet))
            except av.FFmpegError:
                found.undecodable += 1
            if most is not None and len(found.shown) >= most:
                return found
        try:
            _take(found, context.decode(None))
        except av.FFmpegError:
            found.undecodable += 1
        found.rate = context.framerate
    return found


def _take(found: _Decoded, frames: list[Any]) -> None:
    for frame in frames:
        found.shown.append(frame.pts)
        if frame.key_frame:
            found.keys.append(frame.pts)


def _times(
    shown: tuple[int, ...], packets: list[_Packet], base: Fraction, rate: Fraction, may_jump: bool
) -> FrameTimes:
    """Times of presentation; else of decoding, which are the same once sorted; else those of the rate."""
    if not shown:
        return FrameTimes((), Fraction(0))
    if may_jump and (times := _without_jumps([packets[n].pts for n in shown], base)) is not None:
        return times
    for stated in ([packets[n].pts for n in shown], _sorted([packets[n].dts for n in shown])):
        ticks = [tick for tick in stated if tick is not None]
        if len(ticks) == len(shown) and all(a < b for a, b in pairwise(ticks)):
            begins = tuple((tick - ticks[0]) * base for tick in ticks)
            last = packets[shown[-1]].duration * base
            return FrameTimes(begins, last or (begins[-1] / (len(begins) - 1) if begins[-1] else 1 / rate), base)
    begins = tuple(n / rate for n in range(len(shown)))
    return FrameTimes(begins, 1 / rate, assumed=rate)


def _without_jumps(ticks: list[int | None], base: Fraction) -> FrameTimes | None:
    """Times of a stream in which they jump, as where two were put together; None where they do not."""
    known = [tick for tick in ticks if tick is not None]
    steps = [(b - a) * base for a, b in pairwise(known)]
    usual = sorted(step for step in steps if 0 < step <= FAR)
    jumps = tuple(n for n, step in enumerate(steps, 1) if not 0 < step <= FAR)
    # More jumps than a few are no joins: such times say nothing.
    if len(known) < len(ticks) or not usual or not jumps or len(jumps) > len(ticks) // 10:
        return None
    typical = usual[len(usual) // 2]
    begins = tuple(accumulate((typical if not 0 < step <= FAR else step for step in steps), initial=Fraction(0)))
    return FrameTimes(begins, typical, base, jumps=jumps)


def _sorted(times: list[int | None]) -> list[int | None]:
    return sorted(times, key=lambda tick: (tick is None, tick or 0))


def steady_rate(times: FrameTimes, stated: Any) -> tuple[Fraction, bool]:
    """Frames a second, and whether frames last differently by more than the file's own clock rounds.

    Parameters
    ----------
    times : FrameTimes
    stated : Fraction or None
        The rate in the file's header.
    """
    begins = times.begins
    if times.assumed is not None:
        return times.assumed, False
    if len(begins) < 2:
        return Fraction(stated or 25), False
    mean = (len(begins) - 1) / begins[-1]
    rate = Fraction(stated) if stated and abs(Fraction(stated) / mean - 1) < Fraction(1, 500) else mean
    # Each frame at its own time, but for what the file's clock rounds; and none half a frame from what is stated.
    apart = max(abs(time - number / mean) for number, time in enumerate(begins))
    drift = max(abs(time - number / rate) for number, time in enumerate(begins))
    if drift <= Fraction(1, 2) / rate and apart <= max(times.tick * _TICKS, JITTER / mean):
        return rate, False
    return mean.limit_denominator(1001), True


def spread(times: FrameTimes) -> tuple[str, str]:
    """The shortest and the longest time for which a frame is shown, as text."""
    steps = [b - a for a, b in pairwise(times.begins)]
    return decimal(min(steps)), decimal(max(steps))
