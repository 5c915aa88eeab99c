"""Closed joints that were pumped up and left alone, with everything that may spoil it.

The pressure follows from the amount of air inside and its temperature, integrated by a general-purpose solver. A gap
lets air through in proportion to pressure, a hole with its root (Idelchik, Handbook of Hydraulic Resistance); a real
crack lies between (flow ~ pressure to a power of 0.5 to 1, as in blower-door practice, ASTM E779), and a path with an
entry loss follows a·Q + b·Q² (Forchheimer). From memory.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
from scipy.integrate import solve_ivp

Array = npt.NDArray[np.float64]
ROOM_PA, AT_PA = 101_325.0, 2_500.0


@dataclass(frozen=True)
class Record:
    """What a gauge wrote, and the truth: leak at 2.5 kPa, ml/min of room air."""

    t: Array
    p: Array
    volume_l: float
    flow: float


@dataclass(frozen=True)
class Setting:
    """How one case is. heat: (share of the peak, time constant in s). air: temperature of the joint's air, K off, at t.

    noise: standard deviation of the gauge, Pa. red: share of it that hangs on from reading to reading (AR(1)).
    step: the gauge's smallest step. lag_s: of the gauge. offset: that it shows at nothing. quiet, span: s.
    """

    volume_l: float = 0.1
    top: float = 2_500.0
    heat: tuple[tuple[float, float], ...] = ()
    air: Callable[[float], float] = lambda t: 0.0
    noise: float = 4.0
    red: float = 0.0
    tails: float = 0.0
    step: float = 0.0
    lag_s: float = 0.0
    offset: float = 0.0
    quiet: float = 5.0
    span: float = 30.0
    hertz: float = 10.0


def record(flow_of: Callable[[float], float], given: Setting, rng: np.random.Generator) -> Record:
    """A record of one case.

    Args:
        flow_of: leak at a gauge pressure in Pa, ml/min of room air, at 0 nothing.
    """

    def run(p0: float, times: Array, begin: float, hot: tuple[tuple[float, float], ...]) -> Array:
        """Gauge pressure from the air inside: p = (room + p0)·(air left)·(warmth) − room."""
        volume_ml = given.volume_l * 1000

        def warmth(t: float) -> float:
            cooled = sum(share * given.top * np.exp(-t / tau) for share, tau in hot)
            return float(cooled) + (ROOM_PA + p0) * given.air(begin + t) / 293.15

        def slope(t: float, inside: Array) -> list[float]:
            p = float(inside[0]) + warmth(t)
            q = flow_of(abs(p)) * (1 if p > 0 else -1)
            return [-q / 60.0 * ROOM_PA / volume_ml]

        start = p0 - ((ROOM_PA + p0) * given.air(begin) / 293.15)
        if len(times) == 0:
            return np.zeros(0)
        found = solve_ivp(slope, (0.0, float(times[-1]) + 1e-9), [start], t_eval=times, rtol=1e-7, atol=1e-4)
        return np.asarray(found.y[0] + [warmth(float(t)) for t in times])

    every = 1.0 / given.hertz
    before, after = np.arange(0.0, given.quiet, every), np.arange(0.0, given.span, every)
    still = run(0.0, before, 0.0, ())
    begin = given.quiet + 0.5
    fall = run(given.top + (float(still[-1]) if len(still) else 0.0), after, begin, given.heat)
    t, p = np.concatenate([before, begin + after]), np.concatenate([still, fall])
    if given.lag_s:
        for n in range(1, len(p)):
            p[n] = p[n - 1] + (p[n] - p[n - 1]) * (1 - np.exp(-(t[n] - t[n - 1]) / given.lag_s))
    white = rng.standard_t(given.tails, len(p)) if given.tails else rng.standard_normal(len(p))
    for n in range(1, len(p)) if given.red else ():
        white[n] = given.red * white[n - 1] + np.sqrt(1 - given.red**2) * white[n]
    p = p + given.offset + given.noise * white
    if given.step:
        p = np.round(p / given.step) * given.step
    return Record(t, p, given.volume_l, flow_of(AT_PA))


def power(flow: float, n: float) -> Callable[[float], float]:
    """A crack: flow ~ pressure to the n."""
    return lambda p: flow * (p / AT_PA) ** n


def together(gap: float, hole: float) -> Callable[[float], float]:
    """A gap and a hole side by side; both flows at 2.5 kPa."""
    return lambda p: gap * p / AT_PA + hole * (p / AT_PA) ** 0.5


def entry(flow: float, share: float) -> Callable[[float], float]:
    """A path with an entry loss: p = a·Q + b·Q², of which ``share`` is the second at 2.5 kPa."""
    a, b = (1 - share) * AT_PA / flow, share * AT_PA / flow**2

    def of(p: float) -> float:
        return 2 * p / (a + float(np.sqrt(a * a + 4 * b * p)))

    return of


def lifting(flow: float, more: float) -> Callable[[float], float]:
    """A sprung pad that opens a little more the higher the pressure."""
    return lambda p: flow * p / AT_PA * (1 + more * p / AT_PA) / (1 + more)


def _usual(rng: np.random.Generator) -> Setting:
    heat = float(rng.choice([0.0, 0.05, 0.12, 0.2]))
    slope = float(rng.normal(0, 0.0012))  # K/s: some tenths of a kelvin in a minute
    return Setting(
        volume_l=float(rng.uniform(0.08, 0.5)), top=float(rng.uniform(1800, 3200)),
        heat=((heat, float(rng.lognormal(np.log(3.0), 0.4))),), air=lambda t: slope * t, noise=float(rng.uniform(2, 8)),
    )  # fmt: skip


def _flow(rng: np.random.Generator, given: Setting, low: float = 0.8, high: float = 60.0) -> float:
    """A leak whose time constant is ``low`` to ``high`` seconds in this volume."""
    tau = float(np.exp(rng.uniform(np.log(low), np.log(high))))
    return AT_PA / ROOM_PA * given.volume_l * 1000 / tau * 60


def _case(make: Callable[[np.random.Generator, Setting], tuple[Callable[[float], float], Setting]]) -> World:
    def draw(rng: np.random.Generator) -> Record:
        law, given = make(rng, _usual(rng))
        return record(law, given, rng)

    return draw


World = Callable[[np.random.Generator], Record]


def _wander(rng: np.random.Generator) -> Callable[[float], float]:
    """A temperature that wanders: 0.02 K in a second, 0.15 K in a minute."""
    steps = np.concatenate([[0.0], np.cumsum(rng.normal(0, 0.02, 120))])
    return lambda t: float(np.interp(t, np.arange(len(steps)), steps))


WORLDS: dict[str, World] = {
    "a gap": _case(lambda r, s: (power(_flow(r, s), 1.0), s)),
    "a hole": _case(lambda r, s: (power(_flow(r, s), 0.5), s)),
    "a gap and a hole together": _case(
        lambda r, s: ((lambda f, x: together(f * x, f * (1 - x)))(_flow(r, s), float(r.uniform(0.15, 0.85))), s)
    ),
    "a crack, power 0.5 to 1": _case(lambda r, s: (power(_flow(r, s), float(r.uniform(0.5, 1.0))), s)),
    "a path with an entry loss": _case(lambda r, s: (entry(_flow(r, s), float(r.uniform(0.1, 0.9))), s)),
    "a pad that lifts": _case(lambda r, s: (lifting(_flow(r, s), float(r.uniform(0.1, 0.5))), s)),
    "airtight": _case(lambda r, s: (power(0.0, 1.0), s)),
    "hardly a leak": _case(lambda r, s: (power(_flow(r, s, 60, 600), float(r.choice([0.5, 1.0]))), s)),
    "noise that hangs on": _case(
        lambda r, s: (power(_flow(r, s), float(r.choice([0.5, 1.0]))), replace(s, red=float(r.uniform(0.3, 0.8))))
    ),
    "noise with far readings": _case(
        lambda r, s: (power(_flow(r, s), float(r.choice([0.5, 1.0]))), replace(s, tails=3.0, noise=3.0))
    ),
    "a coarse gauge, 10 Pa": _case(
        lambda r, s: (power(_flow(r, s), float(r.choice([0.5, 1.0]))), replace(s, step=10.0, noise=1.0))
    ),
    "a slow gauge, 0.2 s": _case(
        lambda r, s: (power(_flow(r, s, 2.0), float(r.choice([0.5, 1.0]))), replace(s, lag_s=0.2))
    ),
    "a gauge that shows 20 to 120 Pa at nothing": _case(
        lambda r, s: (
            power(_flow(r, s), float(r.choice([0.5, 1.0]))),
            replace(s, offset=float(r.choice([-1, 1]) * r.uniform(20, 120))),
        )
    ),
    "heat that goes at two paces": _case(
        lambda r, s: (
            power(_flow(r, s), float(r.choice([0.5, 1.0]))),
            replace(s, heat=((float(r.uniform(0.03, 0.12)), 1.2), (float(r.uniform(0.02, 0.06)), 8.0))),
        )
    ),
    "a temperature that wanders": _case(
        lambda r, s: (power(_flow(r, s), float(r.choice([0.5, 1.0]))), replace(s, air=_wander(r)))
    ),
    "no quiet stretch": _case(
        lambda r, s: (power(_flow(r, s), float(r.choice([0.5, 1.0]))), replace(s, quiet=0.0))
    ),
}  # fmt: skip
