"""What is really in a compiled file, read back by decoding every frame."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import av

from vexel.core.camera.panorama import Panorama
from vexel.core.errors import Mistake
from vexel.output.mp4.boxes import boxes_of_file
from vexel.output.mp4.spherical import panorama_of
from vexel.output.proving.cut_short import is_cut_short
from vexel.sources.video.opening import open_media

_PRIMARIES = {1: "bt709", 4: "bt470m", 5: "bt470bg", 6: "smpte170m", 9: "bt2020", 12: "display-p3"}
_TRANSFERS = {
    1: "bt709",
    4: "gamma22",
    5: "gamma28",
    6: "smpte170m",
    8: "linear",
    13: "srgb",
    14: "bt2020",
    16: "pq",
    18: "hlg",
}
_MATRICES = {0: "rgb", 1: "bt709", 5: "bt470bg", 6: "bt601", 9: "bt2020"}
_RANGES = {1: "limited", 2: "full"}
"""Codes of ITU-T H.273; ranges as FFmpeg counts them."""


@dataclass(frozen=True)
class VideoFacts:
    """Facts of a video file, or of pictures that are read like one.

    Attributes
    ----------
    container, codec, pixel_format : str
    width, height, frames : int
    seconds : Fraction
        From the first frame's start to the last one's end.
    rate : Fraction
        ``frames / seconds``.
    colour : str
        Colour tags, such as ``bt709``, or ``untagged``.
    index_first : bool or None
        Whether playing can begin before all has arrived; None where it makes no difference.
    uneven : bool
        Whether frames last differently.
    panorama : Panorama or None
        The panorama that it declares.
    spoilt : int
        Frames that are there and do not decode as they should.
    cut_short : bool
        Whether the file ends before it says that it ends.
    pictures : mapping of int to frame or ndarray
        The requested frames, decoded; arrays are RGB or RGBA.
    profile, level : str
        Empty where the codec has none.
    tags : tuple of str
        Range, matrix, primaries and transfer; ``untagged`` where none is set.
    alpha : bool
        Whether it holds transparency.
    plays : int or None
        How often it says that it is played, 0 for ever; None where it says nothing.
    sound : Fraction or None
        Seconds of sound.
    chapters : tuple of (str, Fraction, Fraction)
        Title, begin and end in seconds of each.
    """

    container: str
    codec: str
    pixel_format: str
    width: int
    height: int
    frames: int
    seconds: Fraction
    rate: Fraction
    colour: str
    index_first: bool | None
    uneven: bool
    panorama: Panorama | None
    spoilt: int = 0
    cut_short: bool = False
    pictures: Mapping[int, Any] = field(default_factory=dict, repr=False, compare=False)
    profile: str = ""
    level: str = ""
    tags: tuple[str, str, str, str] = ("untagged",) * 4
    alpha: bool = False
    plays: int | None = None
    sound: Fraction | None = None
    chapters: tuple[tuple[str, Fraction, Fraction], ...] = ()


def video_facts(file: Path, wanted: Collection[int] = ()) -> VideoFacts:
    """Decode a video file from end to end.

    Parameters
    ----------
    file : Path
    wanted : collection of int
        Frames whose pictures are wanted too, by their numbers.

    Raises
    ------
    Mistake
        When it is no video.
    """
    # The GIF reader would otherwise rewrite the delays that are read here.
    options = {"min_delay": "0", "default_delay": "0"} if file.suffix.lower() == ".gif" else {}
    try:
        with open_media(file, **options) as container:
            if not container.streams.video:
                raise Mistake(f"{file} has no video stream")
            return _facts(file, container, wanted)
    except (av.FFmpegError, OSError) as error:
        raise Mistake(f"{file} cannot be read as video: {getattr(error, 'strerror', '') or error}") from None


def _facts(file: Path, container: Any, wanted: Collection[int]) -> VideoFacts:
    stream = container.streams.video[0]
    decoder = _decoder(stream)
    if not wanted:
        # Frames are counted, not looked at, so their last polish may be left out.
        decoder.options = {"skip_loop_filter": "all"}
    frames, spoilt, times, keys = 0, 0, [], 0
    pictures: dict[int, av.VideoFrame] = {}
    sounds = container.streams.audio[:1]
    samples = 0
    for packet in container.demux(stream, *sounds):
        if packet.stream.type == "audio":
            samples += sum(frame.samples for frame in packet.decode())
            continue
        if packet.pts is not None:
            times.append((packet.pts, packet.duration or 0))
            keys += packet.is_keyframe
        decoded = decoder.decode(packet if packet.size else None)
        for number, frame in enumerate(decoded, frames):
            if number in wanted:
                pictures[number] = frame
        frames += len(decoded)
        spoilt += packet.is_corrupt or any(frame.is_corrupt for frame in decoded)
    base = stream.time_base or Fraction(1)
    context = stream.codec_context
    tags = (context.color_primaries, context.color_trc, context.colorspace)
    lasts = _extent(times) * base
    if (delays := apng_delays(file)) is not None:
        # FFmpeg rounds them to hundred-thousandths.
        lasts = sum(delays, Fraction(0))
    elif stream.average_rate and container.format.name.startswith("matroska"):
        lasts = _matroska_extent([pts for pts, _ in times], base, stream.average_rate)
    return VideoFacts(
        # FFmpeg names all that its MP4 reader reads by one list: mov, mp4, m4a and more.
        container=container.format.name.split(",")[0] if file.suffix != ".mp4" else "mp4",
        codec=stream.codec_context.codec.canonical_name,
        pixel_format=decoder.pix_fmt or context.pix_fmt or "",
        width=context.width,
        height=context.height,
        frames=frames,
        seconds=lasts,
        rate=Fraction(frames) / lasts if lasts else Fraction(0),
        # Codes of ITU-T H.273: 1 is BT.709, 2 means unspecified.
        colour="bt709" if tags == (1, 1, 1) else "untagged" if set(tags) == {2} else str(tags),
        index_first=_index_first(file),
        uneven=len({duration for _, duration in times}) > 1,
        panorama=panorama_of(file),
        spoilt=spoilt,
        cut_short=is_cut_short(file),
        pictures=pictures,
        profile=str(context.profile or ""),
        level=_level(context),
        tags=(
            _RANGES.get(int(context.color_range), "untagged"),
            _MATRICES.get(int(context.colorspace), "untagged"),
            _PRIMARIES.get(int(context.color_primaries), "untagged"),
            _TRANSFERS.get(int(context.color_trc), "untagged"),
        ),
        alpha="a" in _channels(decoder.pix_fmt or context.pix_fmt or ""),
        plays=_plays(file),
        sound=_heard(sounds[0], samples) if sounds else None,
        chapters=tuple(
            (one["metadata"].get("title", ""), one["start"] * one["time_base"], one["end"] * one["time_base"])
            for one in container.chapters()
        ),
    )


def _decoder(stream: Any) -> Any:
    """What decodes a stream; FFmpeg's own decoder of VP9 passes over its transparency."""
    if stream.codec_context.name == "vp9" and _said(stream, "alpha_mode") == "1":
        decoder = av.CodecContext.create("libvpx-vp9", "r")
        decoder.width, decoder.height = stream.codec_context.width, stream.codec_context.height
        return decoder
    stream.thread_type = "AUTO"
    return stream.codec_context


def _said(stream: Any, name: str) -> str:
    """What a stream says by a tag, whose letters muxers write large or small."""
    return next((str(value) for key, value in stream.metadata.items() if key.lower() == name), "")


def _channels(pixel_format: str) -> str:
    try:
        return "a" if any(part.is_alpha for part in av.VideoFormat(pixel_format).components) else ""
    except ValueError:
        return ""


def _level(context: Any) -> str:
    """Level of H.264 and H.265 for people."""
    level = getattr(context, "level", None)
    if level is None or level <= 0:
        return ""
    unit = {"h264": 10, "hevc": 30}.get(context.codec.canonical_name)
    return f"{level / unit:.1f}" if unit else ""


def _heard(stream: Any, samples: int) -> Fraction:
    """Seconds of sound: the decoded length, at most the length that the file declares."""
    decoded = Fraction(samples, stream.codec_context.sample_rate)
    return min(decoded, stream.duration * stream.time_base) if stream.duration else decoded


def _extent(times: list[tuple[int, int]]) -> int:
    if not times:
        return 0
    last, duration = max(times)
    return last + duration - min(times)[0]


def _matroska_extent(times: list[int], base: Fraction, rate: Fraction) -> Fraction:
    """Seconds of a Matroska video, which stores a rate and times in steps of its time base, as a rule milliseconds.

    Where each time is that of its frame by the rate, to a step, the video lasts as the rate says. Else its times count.
    """
    if not times:
        return Fraction(0)
    times = sorted(times)
    if all(abs((time - times[0]) * base - number / rate) <= base for number, time in enumerate(times)):
        return len(times) / rate
    return (times[-1] - times[0]) * base + 1 / rate


def _index_first(file: Path) -> bool | None:
    """Whether an MP4's ``moov`` box comes before its ``mdat`` box."""
    first = next((box.kind for box in boxes_of_file(file) if box.kind in (b"moov", b"mdat")), None)
    return None if first is None else first == b"moov"


def apng_delays(file: Path) -> list[Fraction] | None:
    """Seconds of each frame of an APNG, exactly (PNG third edition, 11.3.6.2, fcTL); None for other files."""
    with file.open("rb") as stream:
        if stream.read(8) != b"\x89PNG\r\n\x1a\n":
            return None
        delays = []
        while len(head := stream.read(8)) == 8:
            length, kind = int.from_bytes(head[:4], "big"), head[4:]
            if kind == b"fcTL":
                body = stream.read(length)
                top, below = int.from_bytes(body[20:22], "big"), int.from_bytes(body[22:24], "big")
                delays.append(Fraction(top, below or 100))
                stream.seek(4, 1)
            else:
                stream.seek(length + 4, 1)
    return delays


def _plays(file: Path) -> int | None:
    """How often a GIF or APNG says that it is played; None for other files."""
    with file.open("rb") as stream:
        head = stream.read(4096)
    if head[:3] == b"GIF":
        at = head.find(b"NETSCAPE2.0\x03\x01")
        if at < 0:
            return 1
        loops = int.from_bytes(head[at + 13 : at + 15], "little")
        return 0 if loops == 0 else loops + 1
    at = head.find(b"acTL")
    if head[:4] == b"\x89PNG" and at > 0:
        return int.from_bytes(head[at + 8 : at + 12], "big")
    return None
