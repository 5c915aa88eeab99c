"""Lengths and angles from a photograph, in the plane of four known points.

The plane is mapped by a homography (Hartley and Zisserman, Multiple View Geometry, 2nd ed., ch. 4: direct linear
transform with normalised coordinates). It holds in that plane only: what lies nearer to the camera looks longer.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Literal

import numpy as np

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.core.inspection.homography import Array, apply, homography
from creekbed.core.measure import Reading
from creekbed.core.quick_dataclasses import dataclass

Point = tuple[float, float]
CARD_MM = (85.60, 53.98)
"""Width and height of a bank or library card: ISO/IEC 7810, ID-1."""
RULER_TILT_DEG = 8.0
"""How far a ruler may lie from square to the camera unseen, standard deviation about each axis: house default."""
CAMERA_MM, CAMERA_SPREAD = 400.0, 0.4
"""How far the camera usually stands from a bench, mm, and within what factor (standard deviation of the logarithm):
house default."""
STEEPEST = 0.6
"""A plane seen with its one direction shortened to less than this (tilted by more than 53°) is too steep: house
default."""
NEAREST = 0.2
"""How near the vanishing line may lie: the depth of a point over that of the corners' middle; house default."""
PLACED_PX = 1.0
"""Standard uncertainty of placing a point, pixels, before anybody's placings are known: house default."""
PLACINGS = 6
"""How many repeated placings the house's value is worth against those that were made: house default."""
Kind = Literal["length", "lean", "angle", "bow", "circle", "offset"]
POINTS: dict[Kind, tuple[str, ...]] = {
    "length": ("one end", "the other end"),
    "lean": ("top plate, tailpiece side", "top plate, fingerboard side", "back face, foot", "back face, top"),
    "angle": ("on the string, toward the nut", "where it lies on the bridge", "on the string, toward the tailpiece"),
    "bow": ("one end of the chord", "its other end", "the farthest point of the curve"),
    "circle": ("on the edge", "on the edge, a third round", "on the edge, two thirds round"),
    "offset": ("outer edge, one side", "inner edge, that side", "inner edge, other side", "outer edge, other side"),
}
"""What is pointed at for each kind of measure, in this order; a circle may take more points."""


@dataclass(frozen=True)
class Reference:
    """What is known in the photograph.

    Attributes:
        image_px: its points in the picture, shape (n, 2), pixels; corners in their order round the rectangle.
        world_mm: the same points in the plane, shape (n, 2), mm.
        u_world_mm: standard uncertainty of each known coordinate, mm.
        ruler: whether it is one known length only, so that tilt stays unseen; a mark halfway shows some of it.
        words: how it was understood, for people.
    """

    image_px: tuple[Point, ...]
    world_mm: tuple[Point, ...]
    u_world_mm: float
    ruler: bool = False
    words: str = ""


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


def card(corners_px: Sequence[Point]) -> Reference:
    """A bank or library card (ISO/IEC 7810, ID-1), begun at either side: what looks least tilted counts.

    Raises:
        BadInput: as :func:`rectangle`; corners that cannot be a card's, whichever side is first.
    """
    long_first, short_first = (rectangle(corners_px, *sides, 0.06) for sides in (CARD_MM, CARD_MM[::-1]))
    tilts = [_shortened(r) for r in (long_first, short_first)]
    best = max(tilts)
    if best < STEEPEST:
        raise BadInput(
            "Those corners are no card's, or it is seen too steeply.",
            todo="Photograph it from the front, and point at its four corners, going round it once.",
        )
    found = long_first if tilts[0] >= tilts[1] else short_first
    side = "long" if found is long_first else "short"
    tilt = math.degrees(math.acos(min(best, 1.0)))
    seen = f", tilted by about {number(tilt, 0)}°" if tilt > TOLD_DEG else ""
    return replace(found, words=f"A card, begun at its {side} side{seen}.")


TOLD_DEG = 15.0
"""Corners show no smaller tilt for certain: house default."""


def _shortened(reference: Reference) -> float:
    """How much shorter one direction in the plane looks than another at the corners' middle: cos of the tilt, seen from
    afar; 1 from the front."""
    image = np.asarray(reference.image_px, dtype=float)
    world = np.asarray(reference.world_mm, dtype=float)
    h = homography(world, image)
    x, y, w = h @ np.append(world.mean(axis=0), 1.0)
    slopes = (h[:2, :2] * w - np.outer((x, y), h[2, :2])) / w**2
    size = np.linalg.svd(slopes, compute_uv=False)
    return float(size[1] / size[0]) if size[0] > 0 else 0.0


def ruler(marks_px: Sequence[Point], length_mm: float, u_mm: float = 0.2) -> Reference:
    """Two marks of a ruler at a known distance, and if possible the mark halfway between them.

    Two marks give the scale only: how the ruler is tilted stays unseen, and widens every result. The mark halfway shows
    how the scale changes along the ruler.

    Args:
        marks_px: one end and the other; or one end, the mark halfway, the other end. length_mm: between the ends.

    Raises:
        BadInput: not two or three marks, a length that cannot be, marks that lie together or not on one line.
    """
    if len(marks_px) not in (2, 3) or not 0 < length_mm <= 5000:
        raise BadInput("A ruler needs two marks and the length between them.", todo="Point at two marks far apart.")
    (x0, y0), (x1, y1) = marks_px[0], marks_px[-1]
    long = math.hypot(x1 - x0, y1 - y0)
    if long < 20:
        raise BadInput("Those two marks lie too near each other.", todo="Take marks as far apart as you can.")
    if len(marks_px) == 3:
        x, y = marks_px[1]
        along = ((x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)) / long**2
        off = abs((x - x0) * (y1 - y0) - (y - y0) * (x1 - x0)) / long
        if not 0.3 < along < 0.7 or off > max(5.0, 0.03 * long):
            raise BadInput("That is not the mark halfway.", todo="Point at one mark, the one halfway, the other.")
    world = tuple((length_mm * n / (len(marks_px) - 1), 0.0) for n in range(len(marks_px)))
    return Reference(tuple(marks_px), world, u_mm / math.sqrt(2), ruler=True)


def _need_convex(corners: Sequence[Point]) -> None:
    turns = []
    for n in range(4):
        (ax, ay), (bx, by), (cx, cy) = (corners[(n + k) % 4] for k in range(3))
        turns.append((bx - ax) * (cy - by) - (by - ay) * (cx - bx))
    if not (all(t > 0 for t in turns) or all(t < 0 for t in turns)) or min(abs(t) for t in turns) < 100:
        raise BadInput(
            "Those four points do not go round a rectangle.", todo="Point at the corners in order, going round it once."
        )


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


def _plane(reference: Reference, image: Array, world: Array, points: Array) -> Array:
    if reference.ruler:
        k = float(np.hypot(*(world[-1] - world[0])) / np.hypot(*(image[-1] - image[0])))
        return points * k
    return apply(homography(image, world), points)


def _need_before_vanishing(reference: Reference, points: Array) -> None:
    """What lies near or beyond the line where the plane vanishes has no place in it."""
    if reference.ruler:
        return
    image = np.asarray(reference.image_px, dtype=float)
    h = homography(image, np.asarray(reference.world_mm, dtype=float))
    usual = float(np.mean(image @ h[2, :2] + h[2, 2]))
    # the farther away in the plane, the larger this; beyond the vanishing line it changes its sign
    depths = (points @ h[2, :2] + h[2, 2]) / usual
    if (depths <= NEAREST).any():
        raise BadInput(
            "A point lies where the plane of what is known has vanished, or almost.",
            todo="Photograph it more from the front, with what is known near what is measured.",
        )


def _length(p: Array) -> float:
    return float(np.hypot(*(p[1] - p[0])))


def _lean(p: Array) -> float:
    """Angle of the second line off square to the first, degrees; positive toward the first line's second point."""
    a, b = p[1] - p[0], p[3] - p[2]
    turn = math.degrees(math.atan2(float(a[0] * b[1] - a[1] * b[0]), float(a @ b)))
    return 90.0 - abs(turn)


def _angle(p: Array) -> float:
    """Angle at the second point between the other two, degrees, 0 to 180."""
    a, b = p[0] - p[1], p[2] - p[1]
    return abs(math.degrees(math.atan2(float(a[0] * b[1] - a[1] * b[0]), float(a @ b))))


def _bow(p: Array) -> float:
    a, b = p[1] - p[0], p[2] - p[0]
    return float(a[0] * b[1] - a[1] * b[0]) / float(np.hypot(*a))


def _offset(p: Array) -> float:
    """How far the middle of the inner edges lies from that of the outer ones, along the line through these."""
    along = (p[3] - p[0]) / float(np.hypot(*(p[3] - p[0])))
    return float((p[1] + p[2] - p[0] - p[3]) @ along) / 2


def _circle(p: Array) -> float:
    """Diameter of the circle through the points, by algebraic least squares (Kåsa 1976)."""
    m = np.column_stack([2 * p, np.ones(len(p))])
    solution, *_ = np.linalg.lstsq(m, (p**2).sum(axis=1), rcond=None)
    return 2 * math.sqrt(max(float(solution[2] + solution[0] ** 2 + solution[1] ** 2), 0.0))


ROUND = 0.15
"""A diameter known no better than to this share is no circle: house default."""


def _unseen_tilt(
    reference: Reference, points: Array, u_px: float, value: Callable[[Array], float], straight: float
) -> float:
    """Mean square of what a tilt that a ruler does not show would change, in the measure's unit squared.

    The plane is tilted by drawn angles before a camera at a drawn distance, so that the ruler's ends lie where they are
    seen; a mark halfway weighs the draws by how well they explain it.
    """
    rng = np.random.default_rng(1)
    tilts = np.radians(RULER_TILT_DEG) * rng.standard_normal((400, 2))
    far = CAMERA_MM * np.exp(CAMERA_SPREAD * rng.standard_normal(400))
    marks, world = np.asarray(reference.image_px, dtype=float), np.asarray(reference.world_mm, dtype=float)
    middle, length = marks[[0, -1]].mean(axis=0), float(world[-1, 0])
    per_px = length / float(np.hypot(*(marks[-1] - marks[0])))
    weights, squares = np.zeros(400), np.zeros(400)
    for k in range(400):
        flat = _tilted(np.concatenate([marks, points]) - middle, per_px, tilts[k], far[k])
        if flat is None:
            continue
        flat *= length / float(np.hypot(*(flat[len(marks) - 1] - flat[0])))
        weights[k] = 1.0
        if len(marks) == 3:
            off = (float(np.hypot(*(flat[1] - flat[0]))) - length / 2) / per_px
            weights[k] = math.exp(-0.5 * (off / (1.3 * u_px)) ** 2)
        squares[k] = (value(flat[len(marks) :]) - straight) ** 2
    if not weights.sum() > 0:
        raise BadInput("Those marks are not evenly apart.", todo="Point at one mark, the one halfway, the other.")
    return float(weights @ squares / weights.sum())


def _tilted(seen: Array, per_px: float, tilt: Array, far_mm: float) -> Array | None:
    """Where points lie in a plane tilted about two axes through the origin, mm, by the rays of a pinhole camera.

    Args:
        seen: from where the ruler's middle is seen, pixels. per_px: mm at that middle. far_mm: the camera's distance.
    """
    (sx, sy), (cx, cy) = np.sin(tilt), np.cos(tilt)
    along, across = (
        np.array([cy, sx * sy, -cx * sy]),
        np.array([0.0, cx, sx]),
    )  # the plane's axes; z away from the camera
    normal = np.cross(along, across)
    rays = np.column_stack([seen * per_px / far_mm, np.ones(len(seen))])
    reach = rays @ normal
    if (reach <= 0.05).any():
        return None
    at = rays * (far_mm * normal[2] / reach)[:, None] - np.array([0.0, 0.0, far_mm])
    return np.column_stack([at @ along, at @ across])


_KINDS: dict[Kind, Callable[[Array], float]] = {
    "length": _length, "lean": _lean, "angle": _angle, "bow": _bow, "circle": _circle,
    "offset": _offset,
}  # fmt: skip
ANGLES: frozenset[Kind] = frozenset({"lean", "angle"})
"""Kinds that are measured in degrees, and do not change in a parallel plane."""


@dataclass(frozen=True)
class Placings:
    """What repeated placings said: sum of squares about their means, pixels squared, and free numbers in it."""

    squares: float = 0.0
    free: int = 0

    @property
    def u_px(self) -> float:
        """Standard uncertainty of one coordinate, pixels, the house's value with it.

        Reference:
            pooled variance; the house's value counts as :data:`PLACINGS` numbers (Gelman et al., ch. 2.6).
        """
        return math.sqrt((PLACINGS * PLACED_PX**2 + self.squares) / (PLACINGS + self.free))

    def and_(self, repeats: Sequence[Sequence[Point]], pixel: float = 1.0) -> Placings:
        """The same with points that were placed more than once.

        Args:
            repeats: for each point all its placings, two or more. pixel: what counts as one pixel, in large pictures.

        Raises:
            BadInput: a point that was placed once, or nowhere.
        """
        squares, free = self.squares, self.free
        for placed in repeats:
            at = np.asarray(placed, dtype=float) / pixel
            if at.ndim != 2 or len(at) < 2 or not np.isfinite(at).all():
                raise BadInput("A point that was placed once says nothing of how well.", todo="Point at each again.")
            squares += float(((at - at.mean(axis=0)) ** 2).sum())
            free += 2 * (len(at) - 1)
        return Placings(squares, free)


def _checked(kind: Kind, reference: Reference, points_px: Sequence[Point], u_px: float) -> tuple[Array, Array]:
    """The known points and the measured points of a picture, where they can be measured by."""
    if not 0 < u_px <= 100:
        raise BadInput("A point is placed to within more than 0 and at most 100 pixels.", todo="0.7 is usual.")
    least = len(POINTS[kind])
    if len(points_px) < least or (kind != "circle" and len(points_px) != least):
        raise BadInput(f"This measure takes {least} points.", todo="Point at each of them once.")
    image = np.asarray(reference.image_px, dtype=float)
    points = np.asarray(points_px, dtype=float)
    if not (np.isfinite(image).all() and np.isfinite(points).all()):
        raise BadInput("A point lies nowhere.", todo="Place it again.")
    lines = {
        "lean": ((0, 1), (2, 3)), "angle": ((0, 1), (1, 2)), "bow": ((0, 1),), "length": ((0, 1),),
        "offset": ((0, 3), (1, 2)), "circle": ((0, 1), (1, 2), (0, 2)),
    }  # fmt: skip
    if any(np.hypot(*(points[b] - points[a])) < 2 for a, b in lines[kind]):
        raise BadInput("Two of those points lie on one another.", todo="Place them farther apart.")
    _need_before_vanishing(reference, points)
    return image, points


def measure(
    kind: Kind,
    reference: Reference,
    points_px: Sequence[Point],
    *,
    u_px: float = PLACED_PX,
    off_plane: Depth = Depth(),  # noqa: B008  # frozen
) -> Reading:
    """A length, lean, angle, bow, diameter or offset from points of the picture, with its uncertainty.

    The standard uncertainty is propagated to first order from every coordinate: known points and measured points
    each with ``u_px``, known sizes with theirs (JCGM 100:2008, eq. 10, derivatives by central differences,
    5.1.3 note 2). A ruler adds what an unseen tilt would do, by drawn tilts.

    Args:
        kind: "length", "lean" (off square), "angle" (at the second point), "bow" (off the chord), "circle" (diameter)
            or "offset" (how far one thing stands off the middle of another).
        reference: what is known in the picture.
        points_px: points as :data:`POINTS` names them, pixels.
        u_px: standard uncertainty of placing one coordinate, pixels.
        off_plane: how what is measured lies before the known plane; angles do not change by it.

    Returns:
        In millimetres; a lean or an angle in degrees.

    Raises:
        BadInput: too few points, points that lie together, beyond where the plane vanishes, a circle of points in a
            line, no uncertainty of placing, or a picture too steep.
    """
    image, points = _checked(kind, reference, points_px, u_px)
    world = np.asarray(reference.world_mm, dtype=float)
    n, m = image.size, points.size
    start = np.concatenate([image.ravel(), world.ravel(), points.ravel()])
    sizes = np.concatenate([np.full(n, u_px), np.full(n, reference.u_world_mm), np.full(m, u_px)])
    scale = off_plane.ratio if kind not in ANGLES else 1.0

    def value(x: Array) -> float:
        flat = _plane(reference, x[:n].reshape(-1, 2), x[n : 2 * n].reshape(-1, 2), x[2 * n :].reshape(-1, 2))
        return _KINDS[kind](flat) * scale

    best = value(start)
    variance = 0.0
    for k in np.flatnonzero(sizes):
        step = np.zeros_like(start)
        step[k] = 0.5 * sizes[k]
        variance += (value(start + step) - value(start - step)) ** 2
    if kind not in ANGLES:
        variance += (best * off_plane.u / off_plane.ratio) ** 2
    if reference.ruler:
        variance += _unseen_tilt(reference, points, u_px, _KINDS[kind], best / scale if scale else best) * scale**2
    if not (math.isfinite(best) and math.isfinite(variance)):
        raise BadInput("The picture is too steep to measure in.", todo="Photograph it more from the front.")
    if kind == "circle" and math.sqrt(variance) > ROUND * best:
        raise BadInput("Those points lie almost in a line: that is no circle.", todo="Place them all round its edge.")
    unit = "degree" if kind in ANGLES else "millimeter"
    told = abs(best) if kind in ("bow", "offset") else best  # to either side
    return Reading(told, math.sqrt(variance), unit, "from a photograph")
