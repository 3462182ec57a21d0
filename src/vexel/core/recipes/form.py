"""Forms: what each kind of file can hold, one record a container with its codec."""

from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

MILLISECOND, HUNDREDTH = Fraction(1, 1000), Fraction(1, 100)


@dataclass(frozen=True)
class Scale:
    """Numbers by which a codec counts quality.

    Attributes
    ----------
    best, worst, usual : float
        CRF counts down to the best, quality up.
    whole : bool
        Whether only whole numbers differ.
    """

    best: float
    worst: float
    usual: float
    whole: bool = True


@dataclass(frozen=True)
class Form:
    """What a kind of file can hold.

    Attributes
    ----------
    container, codec, suffix : str
        A folder of frames has no suffix for itself; `suffix` is then that of its frames.
    makes : str
        In a word, for buttons.
    pixels, alpha_pixels : tuple of str
        Pixel formats by FFmpeg's names, the usual one first: without and with alpha.
    quality : Scale or None
        None where nothing is lost.
    alpha : {"none", "cut", "whole"}
        What it keeps of transparency: nothing, whether a pixel is there, or all.
    grain : Fraction
        Seconds to which times are rounded; 0 where they are exact.
    plays : bool
        Whether the file itself stores how often it is played.
    most : int
        Longest side in pixels.
    sound : tuple of str
        Codecs of sound that it takes, the usual one first.
    limited : bool
        Whether codes are of limited range only: the file could not say that they go over the full one.
    most_kilobits : int
        A second, that its encoder takes.
    kind : {"video", "picture-file", "folder", "page", "text"}
        A picture file is read by picture viewers.
    exact : bool
        Whether every code of a picture is kept, of 16 bits too where it has a pixel format for them.
    """

    container: str
    codec: str
    suffix: str
    makes: str
    pixels: tuple[str, ...]
    alpha_pixels: tuple[str, ...] = ()
    quality: Scale | None = None
    alpha: Literal["none", "cut", "whole"] = "none"
    grain: Fraction = Fraction(0)
    plays: bool = False
    most: int = 16384
    sound: tuple[str, ...] = ()
    limited: bool = False
    most_kilobits: int = 10_000_000
    kind: Literal["video", "picture-file", "folder", "page", "text"] = "video"
    exact: bool = False

    @property
    def name(self) -> str:
        """Container and codec, such as ``mp4 h264``."""
        return f"{self.container} {self.codec}"

    @property
    def chapters(self) -> bool:
        """Whether it says at which time each part begins."""
        return self.kind == "video"

    @property
    def is_folder(self) -> bool:
        """Whether it makes a folder of frames."""
        return self.kind == "folder"


_AAC, _OPUS, _FREE = ("aac",), ("opus",), ("flac", "aac", "opus")
FORMS = {
    form.name: form
    for form in (
        Form("mp4", "h264", ".mp4", "MP4", ("yuv420p", "yuv422p", "yuv444p", "yuv420p10le"),
             quality=Scale(0, 51, 18, whole=False), sound=_AAC),
        Form("mp4", "h265", ".mp4", "H.265 MP4", ("yuv420p", "yuv420p10le", "yuv422p10le", "yuv444p", "yuv444p10le"),
             quality=Scale(0, 51, 22, whole=False), sound=_AAC),
        Form("mp4", "av1", ".mp4", "AV1 MP4", ("yuv420p10le", "yuv420p"), quality=Scale(0, 63, 28), sound=_AAC,
             most_kilobits=100_000),
        Form("mov", "h264", ".mov", "H.264 MOV", ("yuv420p", "yuv422p", "yuv444p", "yuv420p10le"),
             quality=Scale(0, 51, 18, whole=False), sound=_AAC),
        Form("mov", "prores-4444", ".mov", "ProRes 4444", ("yuv444p10le",), ("yuva444p10le",), alpha="whole",
             sound=("pcm",), limited=True),
        Form("mov", "prores-422-hq", ".mov", "ProRes 422 HQ", ("yuv422p10le",), sound=("pcm",), limited=True),
        Form("webm", "vp9", ".webm", "VP9 WebM", ("yuv420p", "yuv444p"), ("yuva420p",), Scale(0, 63, 24),
             "whole", MILLISECOND, sound=_OPUS),
        Form("webm", "av1", ".webm", "AV1 WebM", ("yuv420p10le", "yuv420p"), quality=Scale(0, 63, 28),
             grain=MILLISECOND, sound=_OPUS, most_kilobits=100_000),
        Form("mkv", "ffv1", ".mkv", "FFV1", ("bgr0", "gbrp16le"), ("bgra", "gbrap16le"), alpha="whole",
             grain=MILLISECOND, sound=_FREE, exact=True),
        Form("gif", "gif", ".gif", "GIF", ("pal8",), ("pal8",), alpha="cut", grain=HUNDREDTH, plays=True, most=65535,
             kind="picture-file"),
        Form("webp", "webp", ".webp", "WebP", ("yuv420p",), ("yuva420p",), Scale(100, 0, 85, whole=False), "whole",
             MILLISECOND, True, kind="picture-file"),
        Form("webp", "webp-lossless", ".webp", "lossless WebP", ("bgra",), ("bgra",), alpha="whole",
             grain=MILLISECOND, plays=True, kind="picture-file", exact=True),
        Form("apng", "apng", ".apng", "APNG", ("rgb24", "rgb48be"), ("rgba", "rgba64be"), alpha="whole", plays=True,
             kind="picture-file", exact=True),
        Form("folder", "as-made", "", "folder", (), (), alpha="whole", kind="folder"),
        Form("folder", "png", ".png", "PNG folder", ("rgb24", "rgb48"), ("rgba", "rgba64"), alpha="whole",
             kind="folder", exact=True),
        Form("folder", "tiff", ".tif", "TIFF folder", ("rgb48", "rgb24"), ("rgba64", "rgba"), alpha="whole",
             kind="folder", exact=True),
        Form("folder", "jpeg", ".jpg", "JPEG folder", ("yuv420p", "yuv444p"), quality=Scale(100, 1, 92),
             kind="folder"),
        Form("folder", "exr", ".exr", "EXR folder", ("rgb-half",), ("rgba-half",), alpha="whole", kind="folder"),
        Form("zip", "as-made", ".zip", "ZIP", (), (), alpha="whole", kind="picture-file"),
        Form("zip", "handover", ".zip", "hand-over", (), (), alpha="whole", kind="picture-file"),
        Form("vtt", "chapters", ".vtt", "chapter file", grain=MILLISECOND, kind="text", pixels=()),
        Form("vtt", "labels", ".vtt", "subtitle file", grain=MILLISECOND, kind="text", pixels=()),
        Form("still", "png", ".png", "still", ("rgb24", "rgb48"), ("rgba", "rgba64"), alpha="whole",
             kind="picture-file", exact=True),
        Form("still", "jpeg", ".jpg", "JPEG still", ("yuv444p", "yuv420p"), quality=Scale(100, 1, 92),
             kind="picture-file"),
        Form("page", "video", ".html", "page", ("yuv420p",), quality=Scale(0, 51, 20, whole=False), most=4096,
             plays=True, kind="page"),
        Form("page", "frames", ".html", "turning page", ("yuv420p",), ("yuva420p",), Scale(100, 0, 82, whole=False),
             "whole", most=4096, plays=True, kind="page"),
    )
}  # fmt: skip
"""By container and codec."""


def sides_step(form: Form, pixels: str) -> tuple[int, int]:
    """Numbers of which sides must be multiples: video with colour of half the resolution needs even ones."""
    if form.kind != "video" and form.codec != "video":
        return 1, 1
    if "420" in pixels:
        return 2, 2
    return (2, 1) if "422" in pixels else (1, 1)


def depth_of(pixels: str) -> int:
    """Bits a channel of a pixel format."""
    if "half" in pixels:
        return 16
    for bits in (16, 12, 10):
        if f"p{bits}le" in pixels or pixels.startswith(("rgb48", "rgba64")):
            return bits
    return 8
