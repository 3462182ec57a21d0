"""Composites pictures in linear light, at every bit depth.

The rule: colours are decoded to linear light, multiplied by their alpha, blended or averaged, and made codes last, as
the samples of a frame are (Porter and Duff, 1984, on IEC 61966-2-1). A half-clear white over black is 188 of 255, the
half of its light. Blended as codes it would be 128, and a transparent frame composited over a colour would differ from
the frame that is captured on that colour. Numbers of a data pass are not light: they are averaged without a curve.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.imaging.light import codes_of, light_of_opaque, light_of_straight
from vexel.imaging.transfer import STEPS, linear

Codes = NDArray[Any]
"""RGB or RGBA with straight alpha, of 8 or 16 bits; shape (H, W, 3 or 4)."""


def over(pixels: Codes, ground: tuple[int, int, int]) -> Codes:
    """Composite RGBA over a colour of 8 bits a channel; the result is RGB of the same depth."""
    most = int(np.iinfo(pixels.dtype).max)
    alpha = pixels[..., 3]
    made = np.ascontiguousarray(pixels[..., :3])
    if int(alpha.min(initial=most)) == most:
        return made
    made[alpha == 0] = np.array(ground, pixels.dtype) * (most // 255)
    # Most pixels of most frames are wholly there or wholly clear.
    part = (alpha > 0) & (alpha < most)
    if part.any():
        light = light_of_straight(pixels[part])
        behind = linear(np.array(ground) / 255).astype(np.float32)
        made[part] = codes_of(light[:, :3] + behind * (1 - light[:, 3:]), pixels.dtype)
    return made


def laid_over(below: Codes, above: Codes, opacity: float = 1.0) -> Codes:
    """Composite RGBA over RGB or RGBA of the same depth and size; the result has the channels of `below`."""
    top = light_of_straight(above) * np.float32(opacity)
    under = light_of_straight(below) if below.shape[-1] == 4 else light_of_opaque(below)
    whole = top + under * (1 - top[..., 3:])
    cover = whole[..., 3:]
    colour = codes_of(whole[..., :3] / np.maximum(cover, 1 / STEPS), below.dtype)
    if below.shape[-1] == 3:
        return colour
    most = np.iinfo(below.dtype).max
    return np.concatenate([colour, np.rint(cover * most).astype(below.dtype)], axis=-1)
