"""What is really in a video file, read back by decoding every frame."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import av

from vexel.core.camera.panorama import Panorama
from vexel.core.errors import Mistake
from vexel.output.boxes import boxes_of_file
from vexel.output.cut_short import is_cut_short
from vexel.output.spherical import panorama_of


@dataclass(frozen=True)
class VideoFacts:
    """Facts of a video file.

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
        What it says of itself as one.
    spoilt : int
        Frames that are there and do not decode as they should.
    cut_short : bool
        Whether the file ends before it says that it ends.
    pictures : mapping of int to av.VideoFrame
        The frames that were wanted, as they are decoded.
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
    pictures: Mapping[int, av.VideoFrame] = field(default_factory=dict, repr=False, compare=False)


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
    # The GIF reader would otherwise rewrite the very delays that are to be read.
    options = {"min_delay": "0", "default_delay": "0"} if file.suffix.lower() == ".gif" else {}
    try:
        with av.open(str(file), options=options) as container:
            if not container.streams.video:
                raise Mistake(f"{file} has no video stream")
            stream = container.streams.video[0]
            stream.thread_type = "AUTO"
            if not wanted:
                # Frames are counted, not looked at, so their last polish may be left out.
                stream.codec_context.options = {"skip_loop_filter": "all"}
            frames, spoilt, times = 0, 0, []
            pictures: dict[int, av.VideoFrame] = {}
            for packet in container.demux(stream):
                if packet.pts is not None:
                    times.append((packet.pts, packet.duration or 0))
                decoded = packet.decode()
                for number, frame in enumerate(decoded, frames):
                    if number in wanted:
                        pictures[number] = frame
                frames += len(decoded)
                spoilt += packet.is_corrupt or any(frame.is_corrupt for frame in decoded)
            base = stream.time_base or Fraction(1)
            context = stream.codec_context
            tags = (context.color_primaries, context.color_trc, context.colorspace)
            return VideoFacts(
                # FFmpeg names all that its MP4 reader reads by one list: mov, mp4, m4a and more.
                container=container.format.name.split(",")[0] if file.suffix != ".mp4" else "mp4",
                codec=context.name,
                pixel_format=context.pix_fmt or "",
                width=context.width,
                height=context.height,
                frames=frames,
                seconds=_extent(times) * base,
                rate=Fraction(frames) / (_extent(times) * base) if _extent(times) else Fraction(0),
                # Codes of ITU-T H.273: 1 is BT.709, 2 says that nothing was said.
                colour="bt709" if tags == (1, 1, 1) else "untagged" if set(tags) == {2} else str(tags),
                index_first=_index_first(file),
                uneven=len({duration for _, duration in times}) > 1,
                panorama=panorama_of(file),
                spoilt=spoilt,
                cut_short=is_cut_short(file),
                pictures=pictures,
            )
    except (av.FFmpegError, OSError) as error:
        raise Mistake(f"{file} cannot be read as video: {getattr(error, 'strerror', '') or error}") from None


def _extent(times: list[tuple[int, int]]) -> int:
    if not times:
        return 0
    last, duration = max(times)
    return last + duration - min(times)[0]


def _index_first(file: Path) -> bool | None:
    """Whether an MP4's ``moov`` box stands before its ``mdat`` box."""
    first = next((box.kind for box in boxes_of_file(file) if box.kind in (b"moov", b"mdat")), None)
    return None if first is None else first == b"moov"
