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


def heard(rng: np.random.Generator, fell_s: float, rate: int = 44_100, foam_s: float = 0.008) -> np.ndarray:
    """A microphone at a fall: the snip of a thread, the slide's hiss, its thud on foam; in a room with hum and echoes.

    Args:
        fell_s: from when the thread parts to when the slide touches the foam. foam_s: until the thud is loudest.
    """
    count = int((1.6 + fell_s) * rate)
    at = np.arange(count) / rate
    start = 0.6 + float(rng.uniform(0, 0.1))
    sound = 3e-4 * np.cumsum(rng.normal(size=count)) * 0.02
    sound = sound - np.convolve(sound, np.ones(400) / 400, "same") + 3e-4 * rng.normal(size=count)
    sound = sound + 2e-3 * np.sin(2 * np.pi * 50 * at)
    snip = at - (start + float(rng.normal(0, 0.001)))  # the blades meet about when the thread parts
    for hz in rng.uniform(1500, 6000, 3):
        ring = np.sin(2 * np.pi * hz * np.maximum(snip, 0)) * np.exp(-np.maximum(snip, 0) / 0.004)
        sound = sound + float(rng.uniform(0.05, 0.15)) * np.where(snip >= 0, ring, 0.0)
    fall = np.clip((at - start) / fell_s, 0, 1)
    sound = sound + np.where(fall < 1, 1.5e-3 * fall, 0.0) * rng.normal(size=count)
    touch = at - (start + fell_s)
    swells = np.where(touch >= 0, np.clip(touch / foam_s, 0, 1) * np.exp(-np.maximum(touch - foam_s, 0) / 0.03), 0.0)
    thud = sum(np.sin(2 * np.pi * hz * touch + rng.uniform(0, 6)) for hz in rng.uniform(130, 500, 5))
    sound = sound + float(rng.uniform(0.05, 0.2)) * swells * (thud + rng.normal(size=count))
    for delay, back in ((0.011, 0.2), (0.023, 0.12), (0.041, 0.06)):
        late = int(delay * rate)
        sound[late:] += back * sound[:-late]
    return np.asarray(sound)
