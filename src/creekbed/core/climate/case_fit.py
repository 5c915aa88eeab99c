"""How fast a case comes to the room's temperature, from readings of a thermometer on the instrument."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from creekbed.core.climate.acclimatise import minutes_until
from creekbed.core.errors import BadInput

LEAST_U_C = 0.3
"""Standard uncertainty of where the probe lies, °C: air in the case runs ahead of the instrument; house default."""
TAU_RANGE_MIN = (1.0, 2000.0)
TAU_SPREAD = 0.5
"""How far a case's time constant may lie from the house's value, standard deviation of its logarithm: house default."""


@dataclass(frozen=True)
class CaseFit:
    """Newton's law through readings.

    Attributes:
        tau_min: time constant; low_min, high_min: 95 % interval.
        gap_c: difference from the room at the last reading, °C, signed.
        room_c: of the room.
    """

    tau_min: float
    low_min: float
    high_min: float
    gap_c: float
    room_c: float

    def at(self, minutes: float) -> float:
        """Temperature so long after the last reading, °C."""
        return self.room_c + self.gap_c * math.exp(-minutes / self.tau_min)

    def until(self, gap_c: float) -> tuple[float, float, float]:
        """Minutes after the last reading until the difference is so small: best, soonest, latest."""
        best, soon, late = (
            minutes_until(self.room_c + self.gap_c, self.room_c, gap_c, tau)
            for tau in (self.tau_min, self.low_min, self.high_min)
        )
        return best, soon, late


def fit_case(
    minutes: Sequence[float], celsius: Sequence[float], room_c: float, house_tau_min: float, u_c: float = LEAST_U_C
) -> CaseFit:
    """Time constant of a case from two or more readings, with the house's value as what is expected.

    For each time constant the start follows in closed form (the curve is linear in it); the time constant itself is
    averaged over a grid of its logarithm, expected about the house's.

    Args:
        minutes, celsius: readings, times rising. room_c: of the room, steady. house_tau_min: what such cases take.
        u_c: standard uncertainty of one reading.

    Raises:
        BadInput: fewer than two readings, times that do not rise, or temperatures that cannot be.

    Reference:
        Newton's law of cooling; Gelman et al., Bayesian Data Analysis, ch. 14.
    """
    t, y = np.asarray(minutes, dtype=float), np.asarray(celsius, dtype=float) - room_c
    if t.ndim != 1 or t.shape != y.shape or len(t) < 2:
        raise BadInput("Two readings are needed.", todo="Read the thermometer again in some minutes.")
    if not (np.isfinite(t).all() and np.isfinite(y).all()) or (np.diff(t) <= 0).any():
        raise BadInput("The readings are not in the order of time.")
    if (np.abs(y) > 90).any() or not TAU_RANGE_MIN[0] <= house_tau_min <= TAU_RANGE_MIN[1] or not u_c > 0:
        raise BadInput("Those temperatures cannot be.", todo="Read the thermometer again.")
    logs = np.linspace(math.log(TAU_RANGE_MIN[0]), math.log(TAU_RANGE_MIN[1]), 1200)
    curve = np.exp(-t / np.exp(logs)[:, None])
    start = (curve @ y) / (curve**2).sum(axis=1)
    chi2 = (((y - start[:, None] * curve) / u_c) ** 2).sum(axis=1)
    excess = max(float(chi2.min()) / max(len(t) - 1, 1), 1.0)
    log_w = -0.5 * chi2 / excess - 0.5 * ((logs - math.log(house_tau_min)) / TAU_SPREAD) ** 2
    log_w -= 0.5 * np.log((curve**2).sum(axis=1))
    w = np.exp(log_w - log_w.max())
    w /= w.sum()
    low, mid, high = (float(np.exp(np.interp(p, np.cumsum(w), logs))) for p in (0.025, 0.5, 0.975))
    at = int(np.argmin(np.abs(logs - math.log(mid))))
    return CaseFit(mid, low, high, float(start[at] * curve[at, -1]), room_c)
