"""Video that is wider or brighter than sRGB: BT.2020 primaries, and the curves PQ and HLG."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.imaging.transfer import encoded_light

Light = NDArray[np.floating[Any]]

BT2020_PRIMARIES = 9
PQ, HLG = 16, 18
"""Of `color_primaries` and `color_trc`, as ITU-T H.273 numbers them."""
REFERENCE_WHITE = 203.0
"""Luminance of a white page in HDR video, cd/m² (ITU-R BT.2408)."""
PEAK = 1000.0
"""Luminance that the tone curve makes the brightest, cd/m² (the nominal peak of HLG, ITU-R BT.2100)."""
KEPT = 0.3
"""Up to this share of white the tone curve does not change light."""
_TO_BT709 = np.array([
    [1.660491, -0.587641, -0.072850],
    [-0.124550, 1.132900, -0.008349],
    [-0.018151, -0.100579, 1.118730],
])  # fmt: skip
"""Linear BT.2020 to linear BT.709 (ITU-R BT.2087, inverse of its table)."""
_LUMA_2020 = np.array([0.2627, 0.6780, 0.0593])


def is_bright(frame: Any) -> bool:
    """Whether a frame is high dynamic range."""
    return int(frame.color_trc) in (PQ, HLG)


def is_wide(frame: Any) -> bool:
    """Whether a frame is wider or brighter than sRGB."""
    return is_bright(frame) or int(frame.color_primaries) == BT2020_PRIMARIES


def to_srgb(pixels: NDArray[np.uint16], frame: Any) -> NDArray[np.uint8]:
    """Converted to sRGB, with a tone curve for what is brighter than its white.

    Parameters
    ----------
    pixels : ndarray of uint16, shape (H, W, 4)
        As the frame codes them.
    frame : av.VideoFrame
        Says by which curve and primaries.
    """
    codes = pixels[..., :3].astype(np.float32) / 65535
    trc = int(frame.color_trc)
    light = _pq_light(codes) if trc == PQ else _hlg_light(codes) if trc == HLG else np.where(
        codes < 0.081, codes / 4.5, ((codes + 0.099) / 1.099) ** (1 / 0.45)
    )  # fmt: skip
    if is_bright(frame):
        light = _toned(light / REFERENCE_WHITE)
    if int(frame.color_primaries) == BT2020_PRIMARIES:
        light = light @ _TO_BT709.T.astype(np.float32)
    light = np.clip(light, 0, 1)
    out = np.empty(pixels.shape, np.uint8)
    out[..., :3] = np.rint(encoded_light(light) * 255)
    out[..., 3] = np.rint(pixels[..., 3].astype(np.float32) / 257)
    return out


def _pq_light(codes: Light) -> Light:
    """Luminance in cd/m² (SMPTE ST 2084)."""
    m1, m2, c1, c2, c3 = 2610 / 16384, 2523 / 32, 3424 / 4096, 2413 / 128, 2392 / 128
    root = codes ** (1 / m2)
    light: Light = 10000 * (np.maximum(root - c1, 0) / (c2 - c3 * root)) ** (1 / m1)
    return light


def _hlg_light(codes: Light) -> Light:
    """Luminance in cd/m² on a display of 1000 (ITU-R BT.2100, system gamma 1.2)."""
    a, b, c = 0.17883277, 0.28466892, 0.55991073
    scene = np.where(codes <= 0.5, codes**2 / 3, (np.exp((codes - c) / a) + b) / 12)
    luma = scene @ _LUMA_2020.astype(np.float32)
    light: Light = PEAK * scene * np.maximum(luma, 1e-6)[..., None] ** 0.2
    return light


def _toned(light: Light) -> Light:
    """Light with what is brighter than `KEPT` pressed so that the peak becomes white; ratios of colours are kept.

    The Möbius curve, whose slope is continuous with the part that is kept.
    """
    peak, j = PEAK / REFERENCE_WHITE, KEPT
    a = -(j**2) * (peak - 1) / (j**2 - 2 * j + peak)
    b = (j**2 - 2 * j * peak + peak) / (peak - 1)
    brightest = np.maximum(light.max(axis=-1, keepdims=True), 1e-9)
    pressed = (b**2 + 2 * b * j + j**2) / (b - a) * (brightest + a) / (brightest + b)
    toned: Light = light * np.where(brightest <= j, 1, pressed / brightest)
    return toned
