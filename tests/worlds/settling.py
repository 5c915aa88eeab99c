"""New strings that creep by laws of several kinds, retuned and read by somebody who comes by now and then.

Constants of a string lie about the house's (12 cents, 5 min), but are none of them; readings are off by 1.5 cents, and
now and then by more. From memory; creep of polymers and wire is told as a logarithm, a power, or some exponentials.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Real = NDArray[np.float64]
Law = Callable[[Real], Real]
ROUND = (8, 15, 30, 60, 120, 240)
"""A technician comes by after so many minutes, more or less."""
TOLERANCE_CENTS, LIMIT_CENTS = 8.0, 40.0
DAY_MIN, LONGEST_MIN = 1440.0, 30 * 1440.0


@dataclass(frozen=True)
class Settled:
    """A string after some rounds: what was read (from, to, cents flat), and what comes.

    Attributes:
        next_min: when it will be flat by the tolerance, minutes since it was hung. day_cents: how flat it will be a day
            after its last retune.
    """

    rows: tuple[tuple[float, float, float], ...]
    next_min: float
    day_cents: float


World = Callable[[np.random.Generator], Settled]


def logarithm(rng: np.random.Generator) -> Law:
    """a·ln(1 + t/τ)."""
    a, tau = 12 * np.exp(0.6 * rng.normal()), 5 * np.exp(0.8 * rng.normal())
    return lambda t: a * np.log1p(t / tau)


def two(rng: np.random.Generator) -> Law:
    """Two exponentials, of minutes and of hours."""
    a = np.array([20, 45]) * np.exp(0.5 * rng.normal(size=2))
    tau = np.array([12, 500]) * np.exp(0.6 * rng.normal(size=2))
    return lambda t: np.asarray(sum(x * -np.expm1(-t / y) for x, y in zip(a, tau, strict=True)))


def three(rng: np.random.Generator) -> Law:
    """Three exponentials."""
    a = np.array([15, 20, 30]) * np.exp(0.5 * rng.normal(size=3))
    tau = np.array([4, 60, 900]) * np.exp(0.4 * rng.normal(size=3))
    return lambda t: np.asarray(sum(x * -np.expm1(-t / y) for x, y in zip(a, tau, strict=True)))


def power(rng: np.random.Generator) -> Law:
    """A power of time, which creeps on and on."""
    p, tau = rng.uniform(0.08, 0.2), 5 * np.exp(0.6 * rng.normal())
    a = 12 * np.exp(0.5 * rng.normal()) / p / 1.5
    return lambda t: a * ((1 + t / tau) ** p - 1)


def settled(rng: np.random.Generator, law: Law) -> Settled:
    """One string of a law, after none to five rounds."""
    at, rows = 0.0, []
    for minutes in ROUND[: rng.integers(0, 6)]:
        then = at + minutes * float(np.exp(0.3 * rng.normal()))
        wrong = 1.5 * rng.normal() * (3 if rng.random() < 0.05 else 1)  # now and then somebody misreads
        rows.append((at, then, max(float(law(np.array(then)) - law(np.array(at))) + wrong, -5.0)))
        at = then
    times = at + np.concatenate([[0.0], np.geomspace(0.05, LONGEST_MIN, 3000)])
    out = np.flatnonzero(law(times) - law(np.array(at)) >= TOLERANCE_CENTS)
    return Settled(
        tuple(rows),
        float(times[out[0]]) if out.size else at + LONGEST_MIN,
        float(law(np.array(at + DAY_MIN)) - law(np.array(at))),
    )


WORLDS: dict[str, World] = {
    "a logarithm of other constants": lambda r: settled(r, logarithm(r)),
    "two exponentials": lambda r: settled(r, two(r)),
    "three exponentials": lambda r: settled(r, three(r)),
    "a power of time": lambda r: settled(r, power(r)),
}
