"""Lengths and angles from a photograph, in the plane of four known points.

The plane is mapped by a homography (Hartley and Zisserman, Multiple View Geometry, 2nd ed., ch. 4: direct linear
transform with normalised coordinates). It holds in that plane only: what lies nearer to the camera looks longer.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from creekbed.core.errors import BadInput
from creekbed.core.measure import Reading

Array = npt.NDArray[np.float64]
Point = tuple[float, float]
CARD_MM = (85.60, 53.98)
"""Width and height of a bank or library card: ISO/IEC 7810, ID-1."""
RULER_TILT_DEG = 8.0
"""How far a ruler's plane may lie from square to the camera unseen, standard deviation: house default."""
Kind = Literal["length", "lean", "bow", "circle"]
POINTS: dict[Kind, tuple[str, ...]] = {
    "length": ("one end", "the other end"),
    "lean": ("top plate, tailpiece side", "top plate, fingerboard side", "back face, foot", "back face, top"),
    "bow": ("one end of the chord", "its other end", "the farthest point of the curve"),
    "circle": ("on the edge", "on the edge, a third round", "on the edge, two thirds round"),
}
"""What is pointed at for each kind of measure, in this order; a circle may take more points."""


@dataclass(frozen=True)
class Reference:
    """What is known in the photograph.

    Attributes:
        image_px: its points in the picture, shape (n, 2), pixels; corners in their order round the rectangle.
        world_mm: the same points in the plane, shape (n, 2), mm.
        u_world_mm: standard uncertainty of each known coordinate, mm.
        ruler: whether it is one known length only, so that tilt stays unseen.
    """

    image_px: tuple[Point, ...]
    world_mm: tuple[Point, ...]
    u_world_mm: float
    ruler: bool = False


def rectangle(corners_px: Sequence[Point], width_mm: float, height_mm: float, u_mm: float = 0.1) -> Reference:
    """A rectangle of known size lying in the plane.

    Args:
        corners_px: its four corners in order round it, the first side being the width.
        width_mm, height_mm: its sides. u_mm: standard uncertainty of each side.

    Raises:
        BadInput: not four corners, sides that cannot be, or corners that do not go round a rectangle.
    """
    if len(corners_px) != 4:
        raise BadInput("A rectangle has four corners.", todo="Point at each corner once, going round.")
    if not (0 < width_mm <= 5000 and 0 < height_mm <= 5000):
        raise BadInput("The sides must be more than 0 and at most 5 m.", todo="Type the sides again.")
    _need_convex(corners_px)
    world = ((0.0, 0.0), (width_mm, 0.0), (width_mm, height_mm), (0.0, height_mm))
    return Reference(tuple(corners_px), world, u_mm / math.sqrt(2))


def card(corners_px: Sequence[Point], upright: bool = False) -> Reference:
    """A bank or library card (ISO/IEC 7810, ID-1), long side first unless ``upright``.

    Raises:
        BadInput: as :func:`rectangle`.
    """
    width, height = CARD_MM[::-1] if upright else CARD_MM
    return rectangle(corners_px, width, height, 0.06)


def ruler(ends_px: Sequence[Point], length_mm: float, u_mm: float = 0.2) -> Reference:
    """Two marks of a ruler, at a known distance: gives the scale only, and takes the picture as square to it.

    Raises:
        BadInput: not two marks, a length that cannot be, or marks that lie together.
    """
    if len(ends_px) != 2 or not 0 < length_mm <= 5000:
        raise BadInput("A ruler needs two marks and the length between them.", todo="Point at two marks far apart.")
    (x0, y0), (x1, y1) = ends_px
    if math.hypot(x1 - x0, y1 - y0) < 20:
        raise BadInput("Those two marks lie too near each other.", todo="Take marks as far apart as you can.")
    return Reference(tuple(ends_px), ((0.0, 0.0), (length_mm, 0.0)), u_mm / math.sqrt(2), ruler=True)


def _need_convex(corners: Sequence[Point]) -> None:
    turns = []
    for n in range(4):
        (ax, ay), (bx, by), (cx, cy) = (corners[(n + k) % 4] for k in range(3))
        turns.append((bx - ax) * (cy - by) - (by - ay) * (cx - bx))
    if not (all(t > 0 for t in turns) or all(t < 0 for t in turns)) or min(abs(t) for t in turns) < 100:
        raise BadInput(
            "Those four points do not go round a rectangle.", todo="Point at the corners in order, going round it once."
        )


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


@dataclass(frozen=True)
class Depth:
    """How what is measured lies before or behind the known plane.

    Attributes:
        ratio: distance from the camera to what is measured over that to the known plane. u: its standard uncertainty.
    """

    ratio: float = 1.0
    u: float = 0.0


U_NEARER_MM, U_CAMERA_SHARE = 2.0, 0.05
"""Standard uncertainties of how far one thing lies before another, mm, and of the camera's distance, as a share of it:
by eye and tape, house default."""


def depth(nearer_mm: float, camera_mm: float) -> Depth:
    """The correction for what lies nearer to the camera than the known plane, and so looks longer.

    Args:
        nearer_mm: by how much; negative for what lies behind. camera_mm: from the camera to the known plane.

    Raises:
        BadInput: distances that cannot be.

    Reference:
        similar triangles: seen in a parallel plane, sizes go with 1/distance; JCGM 100:2008, eq. 10.
    """
    if not (math.isfinite(nearer_mm) and math.isfinite(camera_mm) and 50 <= camera_mm <= 20_000):
        raise BadInput("The camera must stand 5 cm to 20 m away.", todo="Measure from its lens to the known plane.")
    ratio = (camera_mm - nearer_mm) / camera_mm
    if not 0.2 <= ratio <= 5.0:
        raise BadInput("The two distances from the camera cannot be so different.", todo="Measure them again.")
    u = math.hypot(U_NEARER_MM, nearer_mm * U_CAMERA_SHARE) / camera_mm
    return Depth(ratio, u if nearer_mm else 0.0)


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


def _plane(reference: Reference, image: Array, world: Array, points: Array) -> Array:
    if reference.ruler:
        k = float(np.hypot(*(world[1] - world[0])) / np.hypot(*(image[1] - image[0])))
        return points * k
    return apply(homography(image, world), points)


def _length(p: Array) -> float:
    return float(np.hypot(*(p[1] - p[0])))


def _lean(p: Array) -> float:
    """Angle of the second line off square to the first, degrees; positive toward the first line's second point."""
    a, b = p[1] - p[0], p[3] - p[2]
    turn = math.degrees(math.atan2(float(a[0] * b[1] - a[1] * b[0]), float(a @ b)))
    return 90.0 - abs(turn)


def _bow(p: Array) -> float:
    a, b = p[1] - p[0], p[2] - p[0]
    return abs(float(a[0] * b[1] - a[1] * b[0])) / float(np.hypot(*a))


def _circle(p: Array) -> float:
    """Diameter of the circle through the points, by algebraic least squares (Kåsa 1976)."""
    m = np.column_stack([2 * p, np.ones(len(p))])
    solution, *_ = np.linalg.lstsq(m, (p**2).sum(axis=1), rcond=None)
    return 2 * math.sqrt(max(float(solution[2] + solution[0] ** 2 + solution[1] ** 2), 0.0))


_KINDS: dict[Kind, Callable[[Array], float]] = {"length": _length, "lean": _lean, "bow": _bow, "circle": _circle}


def measure(
    kind: Kind,
    reference: Reference,
    points_px: Sequence[Point],
    *,
    u_px: float = 0.7,
    off_plane: Depth = Depth(),
) -> Reading:
    """A length, lean, bow or diameter from points of the picture, with its uncertainty.

    The standard uncertainty is propagated to first order from every coordinate: known points and measured points
    each with ``u_px``, known sizes with theirs (JCGM 100:2008, eq. 10, derivatives by central differences,
    5.1.3 note 2). A ruler adds what an unseen tilt would do.

    Args:
        kind: "length", "lean" (off square), "bow" (off the chord) or "circle" (diameter).
        reference: what is known in the picture.
        points_px: points as :data:`POINTS` names them, pixels.
        u_px: standard uncertainty of placing one coordinate, pixels.
        off_plane: how what is measured lies before the known plane; angles do not change by it.

    Returns:
        In millimetres; a lean in degrees.

    Raises:
        BadInput: too few points, points that lie together, or a picture too steep.
    """
    least = len(POINTS[kind])
    if len(points_px) < least or (kind != "circle" and len(points_px) != least):
        raise BadInput(f"This measure takes {least} points.", todo="Point at each of them once.")
    image = np.asarray(reference.image_px, dtype=float)
    world = np.asarray(reference.world_mm, dtype=float)
    points = np.asarray(points_px, dtype=float)
    if not (np.isfinite(image).all() and np.isfinite(points).all()):
        raise BadInput("A point lies nowhere.", todo="Place it again.")
    lines = {"lean": ((0, 1), (2, 3)), "bow": ((0, 1),), "length": ((0, 1),), "circle": ((0, 1), (1, 2), (0, 2))}
    if any(np.hypot(*(points[b] - points[a])) < 2 for a, b in lines[kind]):
        raise BadInput("Two of those points lie on one another.", todo="Place them farther apart.")
    n, m = image.size, points.size
    start = np.concatenate([image.ravel(), world.ravel(), points.ravel()])
    sizes = np.concatenate([np.full(n, u_px), np.full(n, reference.u_world_mm), np.full(m, u_px)])
    scale = off_plane.ratio if kind != "lean" else 1.0

    def value(x: Array) -> float:
        flat = _plane(reference, x[:n].reshape(-1, 2), x[n : 2 * n].reshape(-1, 2), x[2 * n :].reshape(-1, 2))
        return _KINDS[kind](flat) * scale

    best = value(start)
    variance = 0.0
    for k in np.flatnonzero(sizes):
        step = np.zeros_like(start)
        step[k] = 0.5 * sizes[k]
        variance += (value(start + step) - value(start - step)) ** 2
    if kind != "lean":
        variance += (best * off_plane.u / off_plane.ratio) ** 2
    if reference.ruler:
        tilt = math.radians(RULER_TILT_DEG)
        # a length foreshortens by cos(tilt); of two lines one foreshortens and one does not
        variance += (best * (1 - math.cos(tilt))) ** 2 if kind != "lean" else math.degrees(1 - math.cos(tilt)) ** 2
    if not (math.isfinite(best) and math.isfinite(variance)):
        raise BadInput("The picture is too steep to measure in.", todo="Photograph it more from the front.")
    unit = "degree" if kind == "lean" else "millimeter"
    return Reading(best, math.sqrt(variance), unit, "from a photograph")
