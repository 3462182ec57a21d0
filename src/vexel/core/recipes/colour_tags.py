"""Colour tags of files: codes of ITU-T H.273, and their meaning."""

from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Tag:
    """A code of H.273 with FFmpeg's name of it."""

    code: int
    ffmpeg: str


MATRICES = MappingProxyType(
    {"rgb": Tag(0, "gbr"), "bt709": Tag(1, "bt709"), "bt601": Tag(6, "smpte170m"), "bt2020": Tag(9, "bt2020nc")}
)
PRIMARIES = MappingProxyType({"bt709": Tag(1, "bt709"), "bt2020": Tag(9, "bt2020"), "display-p3": Tag(12, "smpte432")})
TRANSFERS = MappingProxyType({"bt709": Tag(1, "bt709"), "srgb": Tag(13, "iec61966-2-1")})
"""Of the names that a recipe has."""
_WHITE = (0.3127, 0.3290)
"""D65, which all three have."""
_XY = {
    "bt709": ((0.640, 0.330), (0.300, 0.600), (0.150, 0.060)),
    "bt2020": ((0.708, 0.292), (0.170, 0.797), (0.131, 0.046)),
    "display-p3": ((0.680, 0.320), (0.265, 0.690), (0.150, 0.060)),
}
"""Chromaticities of red, green and blue (ITU-T H.273, table 2)."""
_LUMA = {"bt709": (0.2126, 0.0722), "bt601": (0.299, 0.114), "bt2020": (0.2627, 0.0593)}
"""Shares of red and blue in luma (ITU-T H.273, table 4)."""


def to_primaries(name: str) -> NDArray[np.float64]:
    """The matrix from linear R, G and B of BT.709 to those of other primaries, shape (3, 3)."""
    return np.asarray(np.linalg.solve(_to_xyz(name), _to_xyz("bt709")))


def luma_weights(matrix: str) -> NDArray[np.float64]:
    """Shares of R, G and B in luma; for RGB itself those of BT.709."""
    red, blue = _LUMA[matrix if matrix in _LUMA else "bt709"]
    return np.array([red, 1 - red - blue, blue])


def to_rgb(matrix: str) -> NDArray[np.float64]:
    """The matrix from Y, Cb and Cr, each of one unit's range, to R, G and B, shape (3, 3) (ITU-T H.273, 8.3)."""
    red, green, blue = luma_weights(matrix)
    cr, cb = 2 * (1 - red), 2 * (1 - blue)
    return np.array([[1, 0, cr], [1, -blue * cb / green, -red * cr / green], [1, cb, 0]])


def _to_xyz(name: str) -> NDArray[np.float64]:
    """From linear R, G and B to X, Y and Z (SMPTE RP 177)."""
    columns = np.array([[x, y, 1 - x - y] for x, y in _XY[name]]).T
    x, y = _WHITE
    scales = np.linalg.solve(columns, [x / y, 1, (1 - x - y) / y])
    return np.asarray(columns * scales)
