"""The map from one plane to another through a lens without distortion.

Hartley and Zisserman, Multiple View Geometry, 2nd ed., ch. 4: direct linear transform with normalised coordinates.
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from creekbed.core.errors import BadInput

Array = npt.NDArray[np.float64]


def homography(image_px: Array, world_mm: Array) -> Array:
    """The map from picture to plane.

    Args:
        image_px, world_mm: the same n ≥ 4 points, shape (n, 2).

    Returns:
        H, shape (3, 3), with H[2, 2] = 1: plane ~ H · (x, y, 1).

    Raises:
        BadInput: points of which three lie on a line, so that no plane is fixed.

    Reference:
        Hartley and Zisserman, algorithm 4.2 (normalised DLT).
    """
    a, ta = _normalised(image_px)
    b, tb = _normalised(world_mm)
    rows = np.zeros((2 * len(a), 9))
    x, y, u, v = a[:, 0], a[:, 1], b[:, 0], b[:, 1]
    rows[0::2, 0], rows[0::2, 1], rows[0::2, 2] = x, y, 1.0
    rows[0::2, 6], rows[0::2, 7], rows[0::2, 8] = -u * x, -u * y, -u
    rows[1::2, 3], rows[1::2, 4], rows[1::2, 5] = x, y, 1.0
    rows[1::2, 6], rows[1::2, 7], rows[1::2, 8] = -v * x, -v * y, -v
    _, s, vt = np.linalg.svd(rows)
    if s[7] < 1e-9 * s[0]:
        raise BadInput("Three of those points lie on one line.", todo="Point at the four corners again.")
    h = np.linalg.inv(tb) @ vt[-1].reshape(3, 3) @ ta
    if abs(h[2, 2]) < 1e-12 * np.abs(h).max():
        raise BadInput("The picture is too steep to measure in.", todo="Photograph it more from the front.")
    return np.asarray(h / h[2, 2])


def _normalised(points: Array) -> tuple[Array, Array]:
    middle = points.mean(axis=0)
    spread = np.sqrt(((points - middle) ** 2).sum(axis=1)).mean()
    if not spread > 0:
        raise BadInput("All those points are one.", todo="Point at the four corners again.")
    k = math.sqrt(2) / spread
    t = np.array([[k, 0.0, -k * middle[0]], [0.0, k, -k * middle[1]], [0.0, 0.0, 1.0]])
    return (points - middle) * k, t


def apply(h: Array, points: Array) -> Array:
    """Points of the picture, shape (n, 2), in the plane, mm."""
    full = points @ h[:, :2].T + h[:, 2]
    return np.asarray(full[:, :2] / full[:, 2:])
