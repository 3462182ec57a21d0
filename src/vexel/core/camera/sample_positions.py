"""Where accumulated samples look: within the pixel, and on the lens."""

import numpy as np
from numpy.typing import NDArray


def sample_offsets(samples: int) -> NDArray[np.float64]:
    """Where in the pixel each accumulated sample looks.

    The first points of the R2 low-discrepancy sequence (additive recurrence by
    the plastic number, M. Roberts 2018, from memory), moved so that their mean
    is the pixel's centre: more samples never shift the picture.

    Returns
    -------
    ndarray, shape (samples, 2)
        Offsets in pixels from the pixel's centre, within one pixel; (0, 0)
        for a single sample.
    """
    plastic = 1.32471795724474602596
    index = np.arange(1, samples + 1)
    points = np.stack([index / plastic, index / plastic**2], axis=1) % 1.0
    centred: NDArray[np.float64] = points - points.mean(axis=0)
    return centred


def lens_offsets(samples: int) -> NDArray[np.float64]:
    """Where on the lens each accumulated sample looks from.

    Points of a sunflower (Vogel, 1979, from memory), which cover the disc
    evenly, moved so that their mean is its middle.

    Returns
    -------
    ndarray, shape (samples, 2)
        In radii of the lens.
    """
    index = np.arange(samples)
    radius, angle = np.sqrt((index + 0.5) / samples), index * np.pi * (3 - 5**0.5)
    points = np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1)
    centred: NDArray[np.float64] = points - points.mean(axis=0)
    return centred
