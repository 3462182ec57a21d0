"""The one way in which video and sound files are opened for reading: the file that is named, and no other."""

import errno
from pathlib import Path
from typing import Any

import av

from vexel.core.errors import SourceError

SINGLE_FILE_FORMATS = (
    "mov", "matroska", "webm", "avi", "mpegts", "mpeg", "mpegvideo", "m4v", "h264", "hevc", "vvc", "obu", "ivf", "av1",
    "ogg", "gif", "apng", "flv", "live_flv", "asf", "mxf", "gxf", "yuv4mpegpipe", "dv", "nut", "rm", "wtv", "webp_pipe",
    "mjpeg", "vc1", "dirac", "dnxhd",
    "wav", "w64", "aiff", "caf", "au", "mp3", "flac", "aac", "ac3", "eac3", "dts", "truehd", "ape", "tta", "wv", "amr",
    "voc", "mpc", "mpc8", "tak",
)  # fmt: skip
"""FFmpeg's readers of files that hold everything themselves.

Playlists (HLS, DASH, concat), session descriptions and numbered images name other files, which nobody chose.
"""
_PLAYLISTS = (b"#EXTM3U", b"ffconcat", b"<?xml", b"<MPD", b"v=0")
_PROTOCOLS = "file"


def open_media(file: Path, **options: str) -> Any:
    """Open a video or sound file; to be closed, or used in a ``with`` statement.

    Parameters
    ----------
    file : Path
    **options : str
        Of FFmpeg's reader.

    Raises
    ------
    SourceError
        When it is a list that names other files.
    av.FFmpegError
        When it cannot be read.
    OSError
        When it is not there, or is no regular file.
    """
    if not file.is_file():
        # A pipe would be waited for, maybe for ever.
        raise FileNotFoundError(errno.ENOENT, "no such file, or none that holds anything", str(file))
    with file.open("rb") as stream:
        head = stream.read(64)
    if head.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(_PLAYLISTS):
        raise SourceError(f"{file.name} is a list that names other files: name the video or sound file itself")
    limits = {"protocol_whitelist": _PROTOCOLS, "format_whitelist": ",".join(SINGLE_FILE_FORMATS)}
    # With its protocol: a name such as concat:a|b is the name of a file here.
    try:
        return av.open(f"file:{file.absolute()}", options=options | limits)
    except av.error.ArgumentError:
        raise SourceError(f"{file.name} is not a video or sound file that Vexel reads") from None
