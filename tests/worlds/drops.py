"""Hand slides that fall on to foam, timed by what a camera or a microphone recorded.

The fall is integrated with friction that may grow with speed; a camera takes pictures at its own moments, and somebody
picks the first that shows a move and the first that shows it lying. From memory.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.integrate import solve_ivp

STANDARD_G = 9.80665


@dataclass(frozen=True)
class Drop:
    """What was read off, and the truth: mean friction over weight."""

    mass: float
    drop: float
    time: float
    by: str
    frames: float | None
    ratio: float


World = Callable[[np.random.Generator], Drop]


def drop(
    rng: np.random.Generator, frames: float | None, *, viscous: float = 0.0, wrong: float = 0.0,
    seen: tuple[float, float] = (0.0003, 0.002),
) -> Drop:  # fmt: skip
    """One drop.

    Args:
        frames: of the camera each second; none: by sound. viscous: share of the friction that grows with speed.
        wrong: chance that somebody picks a picture too late, for each of the two. seen: move that is seen, m.
    """
    mass, height, friction = float(rng.uniform(0.3, 0.7)), float(rng.uniform(0.12, 0.25)), float(rng.uniform(0.1, 0.7))
    foam = float(rng.normal(0, 0.001))

    def slope(t: float, now: np.ndarray) -> list[float]:
        speed = float(now[1])
        held = friction * ((1 - viscous) + viscous * speed)
        return [speed, STANDARD_G * (1 - held)]

    def at(where: float) -> Callable[[float, np.ndarray], float]:
        def event(t: float, now: np.ndarray) -> float:
            return float(now[0]) - where

        return event

    move = float(rng.uniform(*seen))
    found = solve_ivp(slope, (0, 3), [0.0, 0.0], events=[at(move), at(height + foam)], rtol=1e-9, atol=1e-11)
    shows, lies = (float(e[0]) for e in found.t_events)
    ratio = 1 - 2 * (height + foam) / (STANDARD_G * lies**2)
    if frames is None:
        return Drop(mass, height, lies + float(rng.normal(0, 0.0015)), "sound", None, ratio)
    phase = float(rng.uniform(0, 1))
    first, last = (np.ceil(t * frames - phase) for t in (shows, lies))
    first += rng.random() < wrong
    last += rng.random() < wrong
    return Drop(mass, height, float(last - first) / frames, "video", frames, ratio)


WORLDS: dict[str, World] = {
    "by sound": lambda r: drop(r, None),
    "video, 30 frames a second": lambda r: drop(r, 30.0),
    "video, 60 frames a second": lambda r: drop(r, 60.0),
    "video, 120 frames a second": lambda r: drop(r, 120.0),
    "video, 240 frames a second": lambda r: drop(r, 240.0),
    "friction that grows with speed, 120": lambda r: drop(r, 120.0, viscous=float(r.uniform(0.2, 0.6))),
    "one picture off now and then, 120": lambda r: drop(r, 120.0, wrong=0.2),
}
