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

    Returns
    -------
    ndarray, shape (samples, 2)
        In radii of the lens.
    """
    return _over_disc(samples, (5**0.5 - 1) / 2)


def light_offsets(samples: int) -> NDArray[np.float64]:
    """Where in the light's disc each accumulated sample's shadow is cast from, shape (samples, 2), in its radii."""
    return _over_disc(samples, 2**0.5 - 1)


def _over_disc(samples: int, step: float) -> NDArray[np.float64]:
    """Points of a sunflower (Vogel, 1979, from memory), which cover a disc evenly; their mean is its middle.

    Samples follow each other in time while a shutter is open. So the points
    are dealt out in the order of the multiples of an irrational `step`, by
    which neither radius nor angle goes along with the time, nor with what is
    dealt out by another step: counted outward, blur was sharp at its beginning
    and soft at its end.
    """
    order = np.argsort(np.argsort(np.arange(samples) * step % 1.0))
    index = order
    radius, angle = np.sqrt((index + 0.5) / samples), index * np.pi * (3 - 5**0.5)
    points = np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1)
    centred: NDArray[np.float64] = points - points.mean(axis=0)
    return centred
