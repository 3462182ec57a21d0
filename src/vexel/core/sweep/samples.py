"""Samples of several axes at once."""

import numpy as np
from numpy.typing import NDArray
from scipy.stats import qmc

from vexel.core.document.sweep_spec import AxisSpec, SampleSpec


def samples(axes: list[AxisSpec], sample: SampleSpec) -> NDArray[np.float64]:
    """Values of sampled axes.

    Latin hypercubes and Sobol sequences are those of `scipy.stats.qmc`, with
    scrambling, and the numbers depend on the seed alone.

    Returns
    -------
    ndarray of float, shape (count, axes)

    References
    ----------
    .. [1] scipy.stats.qmc, Quasi-Monte Carlo submodule.
    """
    low = np.array([min(axis.first or 0.0, axis.last or 0.0) for axis in axes])
    high = np.array([max(axis.first or 0.0, axis.last or 0.0) for axis in axes])
    generator = np.random.default_rng(sample.seed)
    if sample.method == "uniform":
        unit = generator.random((sample.count, len(axes)))
    elif sample.method == "latin":
        unit = qmc.LatinHypercube(len(axes), rng=generator).random(sample.count)
    else:
        # A whole power of two keeps the sequence's balance; the first of them are taken.
        whole = qmc.Sobol(len(axes), rng=generator).random_base2(int(np.ceil(np.log2(max(sample.count, 1)))))
        unit = whole[: sample.count]
    found: NDArray[np.float64] = low + unit * (high - low)
    return found
