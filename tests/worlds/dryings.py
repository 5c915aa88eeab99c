"""Things that dry on a rack and are weighed now and then, with what people and scales do to it.

One and two time constants, a constant rate that falls once the surface is no longer wet (Perry's Chemical Engineers'
Handbook, section 12), a rate by a power of what is left; parts lifted off or put on, a scale that drifts, air that
changes. From memory.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.integrate import solve_ivp

Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Weighed:
    """Weighings, the scale's step, and the truth: water left at the last weighing, g; minutes until 0.3 g are left."""

    minutes: Array
    grams: Array
    step: float
    left: float
    wait: float


World = Callable[[np.random.Generator], Weighed]
Rate = Callable[[float, float], float]
"""Grams lost in a minute at (minutes, grams of water left)."""
LIMIT = 0.3


def _times(rng: np.random.Generator, long: float) -> Array:
    n = int(rng.integers(5, 13))
    apart = rng.uniform(0.6, 1.4, n)
    return np.asarray(np.cumsum(apart) / apart.sum() * long)


def _weighed(
    rng: np.random.Generator, rate: Rate, water: float, long: float, *, jumps: tuple[tuple[float, float], ...] = (),
    drift: Callable[[float], float] = lambda t: 0.0, sigma: float = 0.0, odd: bool = False,
) -> Weighed:  # fmt: skip
    """Dry ``water`` grams by a rate and weigh it. jumps: (at which share of the time, g). drift: of the scale."""
    t = _times(rng, long)
    t -= t[0]
    end = float(t[-1])

    def slope(at: float, left: Array) -> list[float]:
        return [-rate(at, max(float(left[0]), 0.0))]

    def little(at: float, left: Array) -> float:
        return float(left[0]) - LIMIT

    little.terminal = True  # type: ignore[attr-defined]
    dried = solve_ivp(slope, (0.0, end), [water], t_eval=t, rtol=1e-8, atol=1e-8)
    left = np.maximum(dried.y[0], 0.0)
    wait = 0.0
    if left[-1] > LIMIT:
        after = solve_ivp(slope, (end, end + 40_000.0), [float(left[-1])], events=little, rtol=1e-8, atol=1e-8)
        wait = float(after.t_events[0][0]) - end if len(after.t_events[0]) else 40_000.0
    dry = float(rng.uniform(200, 1500))
    step = float(rng.choice([0.01, 0.1]))
    shown = dry + left + np.array([sum(g for share, g in jumps if x > share * end) + drift(float(x)) for x in t])
    shown = shown + rng.normal(0, sigma or 0.6 * step, len(t))
    if odd and len(t) > 6:
        shown[int(rng.integers(2, len(t) - 2))] += float(rng.choice([-1, 1]) * rng.uniform(2, 10))
    return Weighed(t, np.round(shown / step) * step, step, float(left[-1]), wait)


def one(tau: float) -> Rate:
    """One time constant."""
    return lambda t, left: left / tau


def two(quick: float, slow: float, share: float, water: float) -> Rate:
    """Two time constants side by side; the share of the slow one at the beginning."""

    def rate(t: float, left: float) -> float:
        a, b = water * (1 - share) * np.exp(-t / quick), water * share * np.exp(-t / slow)
        return float(a / quick + b / slow)

    return rate


def falling(pace: float, below: float) -> Rate:
    """A constant rate, which falls with what is left below so many grams."""
    return lambda t, left: pace * min(left / below, 1.0)


def power(tau: float, exponent: float, water: float) -> Rate:
    """A rate by a power of what is left: more than 1, the last water goes ever more slowly."""
    return lambda t, left: left / tau * (left / water) ** (exponent - 1)


def _water(rng: np.random.Generator) -> float:
    return float(np.exp(rng.uniform(np.log(1.0), np.log(20.0))))


def _tau(rng: np.random.Generator) -> float:
    return float(np.exp(rng.normal(np.log(60.0), 0.6)))


def _long(rng: np.random.Generator, tau: float) -> float:
    return float(tau * rng.uniform(1.0, 5.0))


def _world(make: Callable[[np.random.Generator, float, float], tuple[Rate, float, dict[str, object]]]) -> World:
    def draw(rng: np.random.Generator) -> Weighed:
        water, tau = _water(rng), _tau(rng)
        rate, long, more = make(rng, water, tau)
        return _weighed(rng, rate, water, long, **more)  # type: ignore[arg-type]

    return draw


def _swing(rng: np.random.Generator, tau: float) -> Rate:
    phase, period = float(rng.uniform(0, 2 * np.pi)), float(rng.uniform(60, 600))
    return lambda t, left: left / tau * (1 + 0.35 * np.sin(phase + 2 * np.pi * t / period))


def _drift(rng: np.random.Generator) -> Callable[[float], float]:
    steps = np.concatenate([[0.0], np.cumsum(rng.normal(0, 0.03, 200))])
    return lambda t: float(np.interp(t / 15, np.arange(len(steps)), steps))


WORLDS: dict[str, World] = {
    "one time constant": _world(lambda r, w, tau: (one(tau), _long(r, tau), {})),
    "two stages": _world(
        lambda r, w, tau: (two(tau / 3, 2 * tau, float(r.uniform(0.2, 0.7)), w), _long(r, 1.5 * tau), {})
    ),
    "two stages, the second ten times as slow": _world(
        lambda r, w, tau: (two(tau / 4, 2.5 * tau, float(r.uniform(0.15, 0.5)), w), _long(r, 1.5 * tau), {})
    ),
    "a constant rate, then falling": _world(
        lambda r, w, tau: (falling(w / (2 * tau), float(r.uniform(0.2, 0.7)) * w), _long(r, tau), {})
    ),
    "ever more slowly": _world(lambda r, w, tau: (power(tau, float(r.uniform(1.2, 1.6)), w), _long(r, tau), {})),
    "a part lifted off between weighings": _world(
        lambda r, w, tau: (
            one(tau), _long(r, tau), {"jumps": ((float(r.uniform(0.05, 0.95)), -float(r.uniform(0.5, 30))),)}
        )
    ),
    "a part put on between weighings": _world(
        lambda r, w, tau: (
            one(tau), _long(r, tau), {"jumps": ((float(r.uniform(0.05, 0.95)), float(r.uniform(0.5, 30))),)}
        )
    ),
    "lifted off, two stages": _world(
        lambda r, w, tau: (
            two(tau / 3, 2 * tau, 0.4, w), _long(r, tau),
            {"jumps": ((float(r.uniform(0.05, 0.95)), -float(r.uniform(0.5, 30))),)},
        )
    ),
    "one reading with a hand on it": _world(lambda r, w, tau: (one(tau), _long(r, tau), {"odd": True})),
    "a scale that drifts": _world(lambda r, w, tau: (one(tau), _long(r, tau), {"drift": _drift(r)})),
    "air that changes": _world(lambda r, w, tau: (_swing(r, tau), _long(r, tau), {})),
    "thirty hours": _world(lambda r, w, tau: (two(tau, 6 * tau, 0.3, w), 1800.0, {})),
}  # fmt: skip
