"""Samples as the renderer gives them, in light: sRGB codes times alpha, blended over what is behind them.

The renderer multiplies codes by alpha. Blending happens in linear light, so the codes are divided by alpha, decoded,
multiplied again, and made codes last.
"""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.imaging.codes import whole
from vexel.imaging.transfer import ENCODED, LINEAR, encoded_light, linear

Pixels = NDArray[np.uint8]
Light = NDArray[np.float32]
DARKNESS, LEVELS = 2.2, 4096
"""Of a shadow that leaves a share of the codes, so a power of it is left of the light; and steps of such shares."""


def light_of_sample(sample: Pixels) -> Light:
    """Linear light, premultiplied by alpha, of a sample; shape (H, W, 4)."""
    light: Light = cv2.LUT(sample, LINEAR)
    partly = _partly(sample)
    if partly.any():
        light[partly] = _light(sample[partly])
    return light


def sample_of_light(light: Light) -> Pixels:
    """The sample whose light, premultiplied by alpha, this is; shape (H, W, 4)."""
    levels = np.rint(np.clip(light, 0, 1) * np.float32(65535)).astype(np.uint16)
    partly = (levels[..., 3] > 0) & (levels[..., 3] < 65535)
    if partly.any():
        alpha = levels[partly][:, 3:].astype(np.float32)
        levels[partly, :3] = np.rint(np.minimum(levels[partly][:, :3] * (65535 / alpha), 65535))
    made = np.empty(light.shape, np.uint8)
    made[..., :3] = cv2.LUT(np.ascontiguousarray(levels[..., :3]), ENCODED)
    made[..., 3] = np.rint(levels[..., 3] / np.float32(257))
    if partly.any():
        made[partly, :3] = np.rint(made[partly][:, :3] * (levels[partly][:, 3:] / np.float32(65535)))
    return made


def over_colour(sample: Pixels, colour: tuple[int, int, int], darkness: Light | None = None) -> Pixels:
    """A sample over a colour, which a shadow may darken; opaque."""
    made = np.empty_like(sample)
    whole(made)[...] = whole(np.array([*colour, 255], np.uint8))
    if darkness is not None:
        dark = darkness > 0
        left = (1 - np.linspace(0, 1, LEVELS)[:, None]) ** DARKNESS
        table = np.append(_codes(linear(np.array(colour) / 255) * left), np.full((LEVELS, 1), 255), axis=1)
        levels = np.rint(darkness[dark] * (LEVELS - 1)).astype(np.intp)
        whole(made)[dark] = np.take(whole(table.astype(np.uint8)), levels)
    np.copyto(whole(made), whole(sample), where=sample[..., 3] == 255)
    partly = _partly(sample)
    if partly.any():
        light = _light(sample[partly])
        under = linear(made[partly][:, :3] / 255).astype(np.float32)
        made[partly, :3] = _codes(light[:, :3] + under * (1 - light[:, 3:]))
    return made


def over_shadow(sample: Pixels, darkness: Light) -> Pixels:
    """A sample over nothing but a shadow, premultiplied as samples are."""
    cover = 1 - (1 - darkness) ** np.float32(DARKNESS)
    made = sample.copy()
    behind = (darkness > 0) & (sample[..., 3] < 255)
    if behind.any():
        light = _light(sample[behind])
        alpha = light[:, 3] + cover[behind] * (1 - light[:, 3])
        straight = _codes(light[:, :3] / np.maximum(alpha, 1e-6)[:, None])
        made[behind, :3] = np.rint(straight * alpha[:, None])
        made[behind, 3] = np.rint(255 * alpha)
    return made


def _partly(sample: Pixels) -> NDArray[np.bool_]:
    return (sample[..., 3] > 0) & (sample[..., 3] < 255)


def _light(pixels: Pixels) -> Light:
    """Of pixels, shape (N, 4)."""
    shares = pixels.astype(np.float32) / np.float32(255)
    alpha = shares[:, 3:]
    straight = np.minimum(shares[:, :3] / np.maximum(alpha, np.float32(1e-6)), 1)
    return np.concatenate([linear(straight) * alpha, alpha], axis=1, dtype=np.float32)


def _codes(light: NDArray[Any]) -> NDArray[Any]:
    return np.asarray(np.rint(255 * encoded_light(np.clip(light, 0, 1))))
