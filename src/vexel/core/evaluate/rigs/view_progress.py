"""Progress of a camera from one saved view to the next."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class ViewProgress:
    """Where the camera is between stops.

    Attributes
    ----------
    leaving, reaching : ndarray of int, shape (N,)
        Numbers of the views between which it is.
    share : ndarray, shape (N,)
        Share of the way that is done, with its easing.
    """

    leaving: NDArray[np.intp]
    reaching: NDArray[np.intp]
    share: Array

    def between(self, values: Array) -> Array:
        """Interpolated numbers or vectors, one a view; shape (N,) or (N, K)."""
        share = self.share if values.ndim == 1 else self.share[:, None]
        first, last = values[self.leaving], values[self.reaching]
        # Written so that at rest it is the view's own value to the bit.
        mixed: Array = np.where(share == 0, first, np.where(share == 1, last, first + share * (last - first)))
        return mixed
