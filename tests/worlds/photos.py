"""Photographs of a bench: a camera with its own place, tilt, lens and picture, and somebody who points at what is seen.

An ordinary pinhole camera (Hartley and Zisserman, ch. 6) with radial distortion (Brown 1966); sizes of a card from
ISO/IEC 7810. Points are placed with errors that need not be what an estimator takes them for.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Kind = Literal["length", "lean", "bow", "circle", "offset"]
LONG, SHORT = 85.60, 53.98


@dataclass(frozen=True)
class Photo:
    """Known points and measured points as they were placed, pixels; again: a second placing of all; and the truth."""

    known: str
    kind: Kind
    corners: list[tuple[float, float]]
    points: list[tuple[float, float]]
    again: list[tuple[float, float]]
    ruler_mm: float
    truth: float


World = Callable[[np.random.Generator], Photo]


@dataclass(frozen=True)
class Camera:
    """tilt: about both axes, radians. far: mm. focal: pixels. distortion: k₁ at half the picture's width."""

    tilt: tuple[float, float]
    turn: float
    far: float
    focal: float
    distortion: float

    def sees(self, plane_mm: Array) -> Array:
        """Where points of the plane stand in the picture, pixels."""
        a, b, c = self.tilt[0], self.tilt[1], self.turn
        turn = np.array([[np.cos(c), -np.sin(c), 0], [np.sin(c), np.cos(c), 0], [0, 0, 1]])
        over = np.array([[1, 0, 0], [0, np.cos(a), -np.sin(a)], [0, np.sin(a), np.cos(a)]])
        side = np.array([[np.cos(b), 0, np.sin(b)], [0, 1, 0], [-np.sin(b), 0, np.cos(b)]])
        at = np.column_stack([plane_mm, np.zeros(len(plane_mm))]) @ (over @ side @ turn).T + [0, 0, self.far]
        flat = at[:, :2] / at[:, 2:]
        size = 2000 / self.focal
        bent = flat * (1 + self.distortion * ((flat**2).sum(axis=1, keepdims=True) / size**2))
        return np.asarray(bent * self.focal + [2000, 1500])


def _camera(rng: np.random.Generator, degrees: float, distortion: float = 0.0) -> Camera:
    way = rng.uniform(0, 2 * np.pi)
    tilt = np.radians(degrees)
    return Camera(
        (float(tilt * np.cos(way)), float(tilt * np.sin(way))), float(rng.uniform(-0.6, 0.6)),
        float(rng.uniform(250, 700)), float(rng.uniform(2800, 4200)), distortion,
    )  # fmt: skip


def _measured(rng: np.random.Generator, kind: Kind, reach: float) -> tuple[Array, float]:
    """Points of a measure in the plane, mm, and its truth."""
    middle = rng.uniform(-reach, reach, 2)
    way = float(rng.uniform(0, 2 * np.pi))
    along, across = np.array([np.cos(way), np.sin(way)]), np.array([-np.sin(way), np.cos(way)])
    if kind == "length":
        size = float(rng.uniform(10, 90))
        return np.array([middle - along * size / 2, middle + along * size / 2]), size
    if kind == "circle":
        size, n = float(rng.uniform(8, 60)), int(rng.integers(3, 7))
        angles = np.arange(n) * 2 * np.pi / n + rng.normal(0, 0.15, n)
        return np.array([middle + size / 2 * np.array([np.cos(a), np.sin(a)]) for a in angles]), size
    if kind == "bow":
        chord, bow = float(rng.uniform(40, 90)), float(rng.uniform(0.8, 6))
        return np.array([middle - along * chord / 2, middle + along * chord / 2, middle + across * bow]), bow
    if kind == "offset":  # a reed on a mouthpiece
        outer, inner, off = float(rng.uniform(12, 18)), float(rng.uniform(11, 16)), float(rng.uniform(0, 1))
        at = (-outer / 2, off - inner / 2, off + inner / 2, outer / 2)
        return np.array([middle + along * x for x in at]), off
    lean = float(rng.uniform(-8, 8))
    up = np.array([np.cos(way + np.pi / 2 - np.radians(lean)), np.sin(way + np.pi / 2 - np.radians(lean))])
    foot = middle + across * 3
    return np.array([middle - along * 30, middle + along * 30, foot, foot + up * 35]), abs(lean)


def photo(
    rng: np.random.Generator, *, degrees: float = 10.0, placed_px: float = 0.7, tails: float = 0.0,
    distortion: float = 0.0, first: str = "long", known: str = "card",
    kinds: tuple[Kind, ...] = ("length", "circle", "bow"),
) -> Photo:  # fmt: skip
    """One photograph.

    Args:
        degrees: how far the plane is tilted. placed_px: error of placing. tails: degrees of freedom of a wider law.
        first: side of the card that somebody begins with. known: "card", "ruler" or "ruler and its halfway mark".
    """
    kind = kinds[int(rng.integers(len(kinds)))]
    camera = _camera(rng, degrees, distortion)
    at = rng.uniform(-60, 60, 2)
    ruler_mm = 100.0
    if known == "card":
        corners = np.array([[0, 0], [LONG, 0], [LONG, SHORT], [0, SHORT]]) - [LONG / 2, SHORT / 2] + at
        if first == "short":
            corners = np.roll(corners, -1, axis=0)
    else:
        marks = [0.0, 50.0, 100.0] if "halfway" in known else [0.0, 100.0]
        corners = np.array([[m - 50.0, 0.0] for m in marks]) + at
    points, truth = _measured(rng, kind, 70.0)

    def place(seen: Array) -> list[tuple[float, float]]:
        wide = rng.standard_t(tails, seen.shape) if tails else rng.standard_normal(seen.shape)
        return [(float(x), float(y)) for x, y in seen + placed_px * wide]

    seen = camera.sees(np.concatenate([corners, points]))
    once, twice = place(seen), place(seen)
    n = len(corners)
    return Photo(known, kind, once[:n], once[n:], twice, ruler_mm, truth)


def _tilt(rng: np.random.Generator) -> float:
    return float(abs(rng.normal(0, 8.0)) + abs(rng.normal(0, 4.0)))


WORLDS: dict[str, World] = {
    "a card, from the front": lambda r: photo(r, degrees=float(r.uniform(0, 15))),
    "a card, tilted by 20 to 40°": lambda r: photo(r, degrees=float(r.uniform(20, 40))),
    "a card begun at its short side": lambda r: photo(r, degrees=float(r.uniform(0, 30)), first="short"),
    "far misplacings now and then": lambda r: photo(r, tails=3.0, placed_px=0.5),
    "points placed within 2 pixels": lambda r: photo(r, placed_px=2.0),
    "points placed within 2 pixels, twice": lambda r: photo(r, placed_px=2.0),
    "a lens that bends lines": lambda r: photo(r, distortion=float(r.normal(0, 0.02))),
    "a ruler, tilted by about 8°": lambda r: photo(r, known="ruler", degrees=_tilt(r)),
    "a ruler with its halfway mark, tilted": lambda r: photo(r, known="ruler and its halfway mark", degrees=_tilt(r)),
    "a ruler, tilted by 15°": lambda r: photo(r, known="ruler", degrees=15.0),
    "a reed on its mouthpiece, by a card": lambda r: photo(r, kinds=("offset",), degrees=float(r.uniform(0, 15))),
    "lean by a card": lambda r: photo(r, kinds=("lean",), degrees=float(r.uniform(0, 20))),
}
