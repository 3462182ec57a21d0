"""Points without surfaces: clouds of dots, and scans as soft ellipsoids."""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

Array = NDArray[np.float32]
LOW_PASS = 0.3
SH_0 = 0.28209479177387814
"""The constant real spherical harmonic, 1 / (2·√π)."""


@dataclass(frozen=True)
class Splats:
    """How points of a part look.

    Attributes
    ----------
    scales : ndarray, shape (N, 3)
        Half axes of each: of a soft one, where it has faded to e^(−½); of a
        hard one, its radius.
    turns : ndarray, shape (N, 4)
        Unit quaternions (w, x, y, z).
    opacities : ndarray, shape (N,)
        0 to 1.
    harmonics : ndarray, shape (N, K, 3)
        Coefficients of the real spherical harmonics of its colours, 1, 4, 9 or
        16 of them.
    soft : bool
        Ellipsoids that fade outward, in place of discs.
    low_pass : float
        Of soft ones: what is added to their variance on a view, in square pixels. Scans are made with 0.3, so that
        no point is smaller than a pixel.
    coloured : bool
        Whether its colours are the file's.
    axes : ndarray, shape (3, 3)
        The file's own axes in the scene, a column each: its colours are seen along directions in them.
    """

    scales: Array
    turns: Array
    opacities: Array
    harmonics: Array
    soft: bool
    low_pass: float = LOW_PASS
    coloured: bool = True
    axes: Array = field(default_factory=lambda: np.eye(3, dtype=np.float32))

    def turned(self, rotation: Rotation) -> "Splats":
        """All of them turned about the origin, with their own axes and what is seen of their colours."""
        turns = (rotation * Rotation.from_quat(self.turns, scalar_first=True)).as_quat(scalar_first=True)
        axes = rotation.as_matrix() @ self.axes
        return replace(self, turns=turns.astype(np.float32), axes=axes.astype(np.float32))

    def colours(self, directions: Array) -> tuple[NDArray[np.uint8], Array | None]:
        """Colours as seen along unit vectors, shape (N, 3).

        Returns
        -------
        ndarray, shape (N, 4), uint8
            Red, green, blue and alpha.
        ndarray, shape (N,), or None
            Factors of red, green and blue, 1 or more; None where no colour is brighter than white.
        """
        count = self.harmonics.shape[1]
        basis = harmonics_of(directions @ self.axes, count)
        # Scans store the constant as the difference to middle grey.
        light = 0.5 + np.einsum("nk,nkc->nc", basis, self.harmonics)
        brightest = light.max(axis=1)
        brightness = np.maximum(brightest, 1).astype(np.float32) if (brightest > 1).any() else None
        if brightness is not None:
            light /= brightness[:, None]
        codes = np.concatenate([light, self.opacities[:, None]], axis=1)
        pixels: NDArray[np.uint8] = np.rint(np.clip(codes, 0, 1) * 255).astype(np.uint8)
        return pixels, brightness


def harmonics_of(directions: Array, count: int) -> Array:
    """The first 1, 4, 9 or 16 real spherical harmonics in the order of degree and order.

    Parameters
    ----------
    directions : ndarray, shape (N, 3)
        Unit vectors.
    count : int

    Returns
    -------
    ndarray, shape (N, count)
        With the signs of the Condon–Shortley phase, as scans are stored.
    """
    x, y, z = directions.T
    basis = np.empty((len(directions), count), np.float32)
    basis[:, 0] = SH_0
    if count > 1:
        c = 0.4886025119029199
        basis[:, 1], basis[:, 2], basis[:, 3] = -c * y, c * z, -c * x
    if count > 4:
        xx, yy, zz, xy, yz, xz = x * x, y * y, z * z, x * y, y * z, x * z
        c2 = 1.0925484305920792
        basis[:, 4], basis[:, 5], basis[:, 7] = c2 * xy, -c2 * yz, -c2 * xz
        basis[:, 6] = 0.31539156525252005 * (2 * zz - xx - yy)
        basis[:, 8] = 0.5462742152960396 * (xx - yy)
    if count > 9:
        basis[:, 9] = -0.5900435899266435 * y * (3 * xx - yy)
        basis[:, 10] = 2.890611442640554 * xy * z
        basis[:, 11] = -0.4570457994644658 * y * (4 * zz - xx - yy)
        basis[:, 12] = 0.3731763325901154 * z * (2 * zz - 3 * xx - 3 * yy)
        basis[:, 13] = -0.4570457994644658 * x * (4 * zz - xx - yy)
        basis[:, 14] = 1.445305721320277 * z * (xx - yy)
        basis[:, 15] = -0.5900435899266435 * x * (xx - 3 * yy)
    return basis


def plain_harmonics(colours: NDArray[np.uint8]) -> Array:
    """Coefficients of colours that are the same from all sides, shape (N, 3) → (N, 1, 3)."""
    return ((colours[:, None, :3].astype(np.float32) / 255 - 0.5) / np.float32(SH_0)).astype(np.float32)
