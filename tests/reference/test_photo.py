"""Photo measuring against the outside: Heckbert's closed form, OpenCV, rendered pictures, Monte Carlo."""

from __future__ import annotations

import math

import cv2
import numpy as np
import numpy.typing as npt
import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.errors import BadInput
from creekbed.core.inspection.homography import apply, homography
from creekbed.core.inspection.photo import (
    CARD_MM,
    PLACED_PX,
    Depth,
    Kind,
    Placings,
    Point,
    card,
    depth,
    measure,
    rectangle,
    ruler,
)

Array = npt.NDArray[np.float64]
QUAD = np.array([[110.0, 90.0], [930.0, 130.0], [880.0, 700.0], [70.0, 640.0]])


def heckbert(quad: Array) -> Array:
    """Unit square to quadrilateral in closed form (Heckbert 1989, Fundamentals of Texture Mapping, 2.2.3)."""
    (x0, y0), (x1, y1), (x2, y2), (x3, y3) = quad
    sx, sy = x0 - x1 + x2 - x3, y0 - y1 + y2 - y3
    dx1, dx2, dy1, dy2 = x1 - x2, x3 - x2, y1 - y2, y3 - y2
    det = dx1 * dy2 - dx2 * dy1
    g, h = (sx * dy2 - dx2 * sy) / det, (dx1 * sy - sx * dy1) / det
    return np.array(
        [
            [x1 - x0 + g * x1, x3 - x0 + h * x3, x0],
            [y1 - y0 + g * y1, y3 - y0 + h * y3, y0],
            [g, h, 1.0],
        ]
    )


def test_against_the_closed_form() -> None:
    square = np.array([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]])
    ours = homography(QUAD, square)
    theirs = np.linalg.inv(heckbert(QUAD))
    assert np.allclose(ours, theirs / theirs[2, 2], rtol=1e-9, atol=1e-12)


@given(st.lists(st.tuples(st.floats(-80, 80), st.floats(-80, 80)), min_size=4, max_size=4))
def test_against_opencv(moves: list[Point]) -> None:
    image = QUAD + np.array(moves)
    world = np.array([[0.0, 0.0], [85.6, 0.0], [85.6, 53.98], [0.0, 53.98]])
    ours = homography(image, world)
    theirs = cv2.getPerspectiveTransform(image.astype(np.float32), world.astype(np.float32))
    points = np.array([[200.0, 200.0], [500.0, 400.0], [700.0, 600.0]])
    theirs_there = cv2.perspectiveTransform(points[None], np.asarray(theirs, dtype=float))[0]
    assert np.allclose(apply(ours, points), theirs_there, atol=0.02)  # theirs starts from single precision


def test_more_than_four_points_against_opencv() -> None:
    rng = np.random.default_rng(3)
    world = np.array([[x, y] for x in (0.0, 40.0, 80.0) for y in (0.0, 30.0, 60.0)])
    true = np.linalg.inv(homography(QUAD, np.array([[0.0, 0.0], [80.0, 0.0], [80.0, 60.0], [0.0, 60.0]])))
    image = apply(true, world) + rng.normal(0, 0.3, world.shape)
    theirs, _ = cv2.findHomography(image, world, 0)
    middle = np.array([[480.0, 380.0]])
    assert np.allclose(apply(homography(image, world), middle), apply(np.asarray(theirs), middle), atol=0.05)


# --- rendered pictures ----------------------------------------------------------------------------------------------


def camera(tilt_deg: float, turn_deg: float, distance_mm: float = 420.0, focal_px: float = 1500.0) -> Array:
    """Plane (mm) to picture (px) of a pinhole camera that looks at (60, 40) of the plane, tilted and turned."""
    a, b = math.radians(tilt_deg), math.radians(turn_deg)
    rx = np.array([[1, 0, 0], [0, math.cos(a), -math.sin(a)], [0, math.sin(a), math.cos(a)]])
    ry = np.array([[math.cos(b), 0, math.sin(b)], [0, 1, 0], [-math.sin(b), 0, math.cos(b)]])
    r = rx @ ry
    k = np.array([[focal_px, 0, 800.0], [0, focal_px, 600.0], [0, 0, 1]])
    t = np.array([0, 0, distance_mm]) - r @ np.array([60.0, 40.0, 0.0])
    return np.asarray(k @ np.column_stack([r[:, 0], r[:, 1], t]))


def picture_of(dots_mm: Array, h: Array, blur_px: float, noise: float, seed: int) -> tuple[Array, Array]:
    """Dark dots on a light plane as the camera sees them, blurred and noisy; and where each was found again."""
    rng = np.random.default_rng(seed)
    image = np.full((1200, 1600), 220.0)
    at = apply(h, dots_mm)
    ys, xs = np.mgrid[0:1200, 0:1600]
    for x, y in at:
        image -= 180.0 * np.exp(-(((xs - x) ** 2 + (ys - y) ** 2) / (2 * 4.0**2)))
    image = cv2.GaussianBlur(image, (0, 0), blur_px) + rng.normal(0, noise, image.shape)
    found = []
    for x, y in at:
        x0, y0 = round(x) - 12, round(y) - 12
        window = np.clip(215.0 - image[y0 : y0 + 25, x0 : x0 + 25], 0, None)
        window[window < 25] = 0
        gy, gx = np.mgrid[y0 : y0 + 25, x0 : x0 + 25]
        found.append([(gx * window).sum() / window.sum(), (gy * window).sum() / window.sum()])
    return image, np.array(found)


CORNERS = np.array([[10.0, 10.0], [110.0, 10.0], [110.0, 70.0], [10.0, 70.0]])
SHAPES: dict[Kind, tuple[Array, float]] = {
    "length": (np.array([[25.0, 20.0], [85.0, 60.0]]), math.hypot(60, 40)),
    "lean": (np.array([[20.0, 60.0], [100.0, 60.0], [60.0, 58.0], [60.0 + 36 * math.tan(math.radians(4)), 22.0]]), 4.0),
    "angle": (
        np.array([
            [22.0, 40 + 38 * math.tan(math.radians(8))], [60.0, 40.0], [98.0, 40 + 38 * math.tan(math.radians(14))],
        ]),
        158.0,
    ),
    "bow": (np.array([[20.0, 30.0], [100.0, 30.0], [60.0, 31.2]]), 1.2),
    "offset": (np.array([[40.0, 40.0], [43.1, 40.0], [71.7, 40.0], [74.0, 40.0]]), 0.4),
    "circle": (
        np.array([[60 + 8 * math.cos(a), 40 + 8 * math.sin(a)] for a in (0.3, 2.2, 4.4, 5.5)]),
        16.0,
    ),
}  # fmt: skip


@pytest.mark.parametrize("kind", SHAPES)
@pytest.mark.parametrize(("tilt", "turn"), [(0.0, 0.0), (25.0, 0.0), (-20.0, 30.0)])
def test_rendered_pictures(kind: Kind, tilt: float, turn: float) -> None:
    """Tilt, blur and noise: the truth lies within three standard uncertainties."""
    dots, truth = SHAPES[kind]
    h = camera(tilt, turn)
    _, found = picture_of(np.vstack([CORNERS, dots]), h, blur_px=1.2, noise=4.0, seed=int(abs(tilt) * 7 + turn))
    reference = rectangle([tuple(p) for p in found[:4]], 100.0, 60.0, u_mm=0.02)
    reading = measure(kind, reference, [tuple(p) for p in found[4:]], u_px=0.3)
    assert abs(reading.value - truth) < 3 * reading.u + 1e-3, (reading, truth)
    assert reading.u < (0.7 if kind == "angle" else 0.35 if kind == "lean" else 0.2)


@pytest.mark.parametrize("kind", SHAPES)
def test_uncertainty_against_monte_carlo(kind: Kind) -> None:
    """JCGM 101: the same model with drawn inputs."""
    dots, _ = SHAPES[kind]
    h = camera(20.0, -15.0)
    image, points = apply(h, CORNERS), apply(h, dots)
    u_px, u_mm = 0.8, 0.1
    stated = measure(
        kind, rectangle([tuple(p) for p in image], 100.0, 60.0, u_mm), [tuple(p) for p in points], u_px=u_px
    )
    rng = np.random.default_rng(11)
    world = np.array([[0.0, 0.0], [100.0, 0.0], [100.0, 60.0], [0.0, 60.0]])
    values = []
    for _ in range(1500):
        noisy = homography(image + rng.normal(0, u_px, image.shape), world + rng.normal(0, u_mm / 2**0.5, world.shape))
        flat = apply(noisy, points + rng.normal(0, u_px, points.shape))
        values.append(independent(kind, flat))
    assert stated.u == pytest.approx(float(np.std(values)), rel=0.1)
    assert stated.value == pytest.approx(float(np.mean(values)), abs=0.25 * stated.u + 0.02)


def independent(kind: Kind, p: Array) -> float:
    """The same quantities another way."""
    if kind == "length":
        return float(np.linalg.norm(p[0] - p[1]))
    if kind == "lean":
        a, b = p[1] - p[0], p[3] - p[2]
        return 90.0 - math.degrees(math.acos(float(a @ b / np.linalg.norm(a) / np.linalg.norm(b))))
    if kind == "angle":
        sides = [np.linalg.norm(p[a] - p[b]) for a, b in ((0, 1), (1, 2), (0, 2))]  # law of cosines
        return math.degrees(
            math.acos(float((sides[0] ** 2 + sides[1] ** 2 - sides[2] ** 2) / (2 * sides[0] * sides[1])))
        )
    if kind == "bow":
        along = (p[1] - p[0]) / np.linalg.norm(p[1] - p[0])
        off = (p[2] - p[0]) - ((p[2] - p[0]) @ along) * along
        return float(np.linalg.norm(off))
    if kind == "offset":  # half the difference of the gaps at both sides
        return abs(float(np.linalg.norm(p[1] - p[0]) - np.linalg.norm(p[3] - p[2]))) / 2
    centre = np.linalg.solve(2 * (p[1:3] - p[0]), (p[1:3] ** 2).sum(1) - (p[0] ** 2).sum())
    guess = np.array([*centre, np.linalg.norm(p[0] - centre)])
    for _ in range(20):  # Gauss-Newton on the geometric distance
        d = p - guess[:2]
        r = np.linalg.norm(d, axis=1)
        j = np.column_stack([-d / r[:, None], -np.ones(len(p))])
        guess = guess - np.linalg.lstsq(j, r - guess[2], rcond=None)[0]
    return 2 * float(guess[2])


# --- what is known, and what cannot be ------------------------------------------------------------------------------


def test_a_card_and_a_ruler() -> None:
    assert CARD_MM == (85.60, 53.98)  # ISO/IEC 7810, ID-1
    seen = [(100.0, 100.0), (956.0, 100.0), (956.0, 639.8), (100.0, 639.8)]
    long = measure("length", card(seen), [(100.0, 100.0), (100.0, 639.8)])
    assert long.value == pytest.approx(53.98) and long.unit == "millimeter"
    for turn in range(4):  # begun at any corner, long side or short side first, the same
        begun = card([*seen[turn:], *seen[:turn]])
        assert measure("length", begun, [(100.0, 100.0), (956.0, 100.0)]).value == pytest.approx(85.60)
        assert ("short" if turn % 2 else "long") in begun.words
    with pytest.raises(BadInput, match="no card's"):
        card([(100.0, 100.0), (956.0, 100.0), (956.0, 200.0), (100.0, 200.0)])
    scale = measure("length", ruler([(0.0, 0.0), (1000.0, 0.0)], 100.0), [(0.0, 50.0), (500.0, 50.0)])
    assert scale.value == pytest.approx(50.0)
    assert scale.u > measure("length", card(seen), [(100.0, 100.0), (600.0, 100.0)]).u  # tilt stays unseen


def test_what_no_picture_can_say() -> None:
    """Three points in a line are no circle, and beyond where the plane vanishes there is nothing of it."""
    seen = card([(100.0, 100.0), (956.0, 100.0), (956.0, 639.8), (100.0, 639.8)])
    with pytest.raises(BadInput, match="no circle"):
        measure("circle", seen, [(200.0, 200.0), (400.0, 300.0), (601.0, 400.0)])
    # the far side looks half as long as the near one: by similar triangles the plane vanishes as far above it again
    steep = rectangle([(300.0, 300.0), (500.0, 300.0), (600.0, 500.0), (200.0, 500.0)], 100.0, 100.0)
    for y in (100.0, 50.0, -400.0):
        with pytest.raises(BadInput, match="vanished"):
            measure("length", steep, [(380.0, y), (420.0, y)])
    assert measure("length", steep, [(300.0, 300.0), (500.0, 300.0)]).value == pytest.approx(100.0)
    for wrong in (0.0, -1.0, math.nan, 1e9):
        with pytest.raises(BadInput, match="placed to within"):
            measure("length", seen, [(100.0, 100.0), (956.0, 100.0)], u_px=wrong)


def test_a_ruler_shows_its_tilt_by_the_mark_halfway() -> None:
    """Perspective: of a ruler that leads away from the camera, the nearer half looks longer (similar triangles)."""
    far, tilt = 400.0, math.radians(12)

    def seen(mm: float) -> Point:
        return 1000.0 + 3000.0 * mm * math.cos(tilt) / (far + mm * math.sin(tilt)), 500.0

    two, three = [seen(-50), seen(50)], [seen(-50), seen(0), seen(50)]
    points = [seen(60), seen(100)]  # 40 mm, beyond the ruler's end
    rough, fine = (measure("length", ruler(marks, 100.0), points, u_px=0.5) for marks in (two, three))
    assert abs(rough.value - 40.0) < 2 * rough.u
    assert fine.u < 2 * rough.u and abs(fine.value - 40.0) < 3 * fine.u
    with pytest.raises(BadInput, match="halfway"):
        ruler([(0.0, 0.0), (900.0, 0.0), (1000.0, 0.0)], 100.0)


def test_how_well_points_are_placed_is_learned() -> None:
    """Pooled variance by numpy; with nothing known the house's value."""
    rng = np.random.default_rng(3)
    twice = [[tuple(p) for p in rng.normal(500.0, 2.0, (2, 2))] for _ in range(200)]
    found = Placings().and_(twice)  # type: ignore[arg-type]
    own = np.sqrt(np.mean([np.var(p, axis=0, ddof=1) for p in np.array(twice)]))
    assert found.u_px == pytest.approx(own, rel=0.03) and found.free == 400
    assert Placings().u_px == PLACED_PX and Placings().and_(twice, pixel=2.0).u_px < 0.6 * found.u_px  # type: ignore[arg-type]
    with pytest.raises(BadInput, match="placed once"):
        Placings().and_([[(1.0, 1.0)]])


def test_what_lies_off_the_plane() -> None:
    """Similar triangles: 500 mm away instead of 600, it looks 600/500 long; the ratio puts it right."""
    seen = card([(100.0, 100.0), (956.0, 100.0), (956.0, 639.8), (100.0, 639.8)])
    raw = measure("length", seen, [(100.0, 100.0), (700.0, 100.0)])
    right = measure("length", seen, [(100.0, 100.0), (700.0, 100.0)], off_plane=Depth(500 / 600))
    assert right.value == pytest.approx(raw.value * 500 / 600) and 1 - right.value / raw.value == pytest.approx(
        0.1667, abs=1e-3
    )
    lean = [(100.0, 600.0), (700.0, 600.0), (400.0, 590.0), (420.0, 200.0)]
    assert measure("lean", seen, lean).value == measure("lean", seen, lean, off_plane=Depth(0.8, 0.1)).value


@pytest.mark.parametrize(
    ("corners", "words"),
    [
        ([(0, 0), (100, 100), (100, 0), (0, 100)], "go round"),
        ([(0, 0), (100, 0), (200, 0), (0, 100)], "go round"),
        ([(0, 0), (0, 0), (0, 0), (0, 0)], "go round"),
        ([(0, 0), (100, 0)], "four corners"),
    ],
)
def test_corners_that_are_none(corners: list[Point], words: str) -> None:
    with pytest.raises(BadInput, match=words):
        rectangle(corners, 100, 60)


def test_points_that_say_nothing() -> None:
    seen = card([(100.0, 100.0), (956.0, 100.0), (956.0, 639.8), (100.0, 639.8)])
    with pytest.raises(BadInput, match="2 points"):
        measure("length", seen, [(1.0, 1.0)])
    with pytest.raises(BadInput, match="lie on one another"):
        measure("length", seen, [(1.0, 1.0), (1.5, 1.0)])
    with pytest.raises(BadInput, match="nowhere"):
        measure("length", seen, [(math.nan, 1.0), (50.0, 1.0)])
    with pytest.raises(BadInput, match="distances"):
        depth(-9000.0, 1000.0)
    with pytest.raises(BadInput, match="5 cm"):
        depth(1.0, 10.0)
    with pytest.raises(BadInput, match="sides"):
        rectangle([(0, 0), (100, 0), (100, 100), (0, 100)], -1, 5)
    with pytest.raises(BadInput, match="too near"):
        ruler([(0, 0), (3, 0)], 100)
