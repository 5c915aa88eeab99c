"""How fast a case comes to the room's temperature, from readings of a thermometer on the instrument."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from creekbed.core.conventions import temperature
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

Array = npt.NDArray[np.float64]
LEAST_U_C = 0.4
"""Standard uncertainty of one reading, °C: where the probe lies, and its last digit; house default."""
ROOM_U_C = 0.35
"""How far the air about the case may lie from what is said of the room (standard deviation), °C: house default."""
TAU_RANGE_MIN = (1.0, 2000.0)
TAU_SPREAD = 0.5
"""How far a case's time constant may lie from the house's value, standard deviation of its logarithm: house default."""
SHAPE_SPREAD = 0.15
"""How far the curve is from one time constant (standard deviation of the logarithm of its exponent): a case has a lid,
air, an instrument; house default."""
AHEAD = 0.1
"""By how much the instrument may lag behind what a probe that half hangs in the case's air reads: standard deviation of
the logarithm of the difference from the room, to one side; house default."""
LEAST_FALL_C = 1.0
"""A difference that grew by more than this, beyond what the readings may be off, does not come to this room, °C: house
default."""
DRAWS = 4000
LONGEST_MIN = 4 * 24 * 60.0
"""Longest wait that is stated, minutes: house default."""


@dataclass(frozen=True)
class CaseFit:
    """Newton's law through readings, as far as it holds.

    Attributes:
        tau_min: time constant; low_min, high_min: 95 % interval.
        gap_c: difference from the room at the last reading, °C, signed, the likeliest.
        room_c: of the room, as it was said.
        gaps, taus, shapes, offsets: draws of what the readings leave open: difference at the first reading, time
            constant, exponent, and how far the air about the case lies from the room's.
        since: from the first to the last reading, min.
    """

    tau_min: float
    low_min: float
    high_min: float
    gap_c: float
    room_c: float
    gaps: Array
    taus: Array
    shapes: Array
    offsets: Array
    since: float

    def at(self, minutes: float) -> float:
        """Median temperature some time after the last reading, °C."""
        return self.room_c + float(np.median(self._gap(minutes)))

    def at_95(self, minutes: float) -> tuple[float, float]:
        """95 % interval of that, °C."""
        low, high = np.quantile(self._gap(minutes), [0.025, 0.975])
        return self.room_c + float(low), self.room_c + float(high)

    def band(self, minutes: Array) -> Array:
        """Median and 95 % interval of the temperature at minutes after the first reading, shape (3, n), °C."""
        some = slice(0, 400)
        left = np.exp(-((minutes[:, None] / self.taus[some]) ** self.shapes[some]))
        gaps = self.offsets[some] + self.gaps[some] * left
        return self.room_c + np.quantile(gaps, [0.5, 0.025, 0.975], axis=1)

    def until(self, gap_c: float) -> tuple[float, float, float]:
        """Minutes after the last reading until the difference is so small: median, soonest, latest (95 %)."""
        if not gap_c > 0:
            raise BadInput("The tolerance must be more than 0.")
        behind = np.exp(AHEAD * np.abs(np.random.default_rng(2).normal(size=len(self.gaps))))
        best, soon = np.quantile(self._wait(gap_c, self.gaps), [0.5, 0.025])
        late = np.quantile(
            self._wait(gap_c, self.gaps * behind), 0.975
        )  # only the late end minds where the probe hangs
        return float(best), float(soon), float(late)

    def _wait(self, gap_c: float, gaps: Array) -> Array:
        target = gap_c - np.sign(gaps) * self.offsets  # what may be left so that it and the offset together are small
        with np.errstate(divide="ignore", invalid="ignore"):
            ratio = np.where(target > 0, np.abs(gaps) / np.maximum(target, 1e-9), np.inf)
            wait = self.taus * np.maximum(np.log(ratio), 0.0) ** (1 / self.shapes) - self.since
        return np.asarray(np.clip(np.where(np.isfinite(wait), wait, LONGEST_MIN), 0.0, LONGEST_MIN))

    def _gap(self, minutes: float) -> Array:
        left = np.exp(-(((self.since + minutes) / self.taus) ** self.shapes))
        return np.asarray(self.offsets + self.gaps * left)


def fit_case(
    minutes: Sequence[float], celsius: Sequence[float], room_c: float, house_tau_min: float, u_c: float = LEAST_U_C,
    *, seed: int = 1,
) -> CaseFit:  # fmt: skip
    """Time constant of a case from two or more readings, with the house's value as what is expected.

    For each time constant, exponent and offset of the room on a grid the start follows in closed form (the curve is
    linear in it); all of them are drawn together, so that the wait's interval holds what each of them leaves open.

    Args:
        minutes, celsius: readings, times rising. room_c: of the room, steady. house_tau_min: what such cases take.
        u_c: standard uncertainty of one reading. seed: of the draws.

    Raises:
        BadInput: fewer than two readings, times that do not rise, temperatures that cannot be, or readings that do not
            come to the room's.

    Reference:
        Newton's law of cooling; Gelman et al., Bayesian Data Analysis, ch. 14.
    """
    from scipy.special import softmax  # not at the top: the window opens without

    t, y = np.asarray(minutes, dtype=float), np.asarray(celsius, dtype=float) - room_c
    if t.ndim != 1 or t.shape != y.shape or len(t) < 2:
        raise BadInput("Two readings are needed.", todo="Read the thermometer again in some minutes.")
    if len(t) > 2000:
        raise BadInput("Those are more readings than a case needs.", todo="One each minute is more than enough.")
    if not (np.isfinite(t).all() and np.isfinite(y).all()) or (np.diff(t) <= 0).any():
        raise BadInput("The readings are not in the order of time.")
    if (np.abs(y) > 90).any() or not TAU_RANGE_MIN[0] <= house_tau_min <= TAU_RANGE_MIN[1] or not u_c > 0:
        raise BadInput("Those temperatures cannot be.", todo="Read the thermometer again.")
    if t[-1] - t[0] > LONGEST_MIN:
        raise BadInput("Those readings lie days apart.", todo="Begin again with today's.")
    _need_nearing(y, u_c, room_c)
    since = t - t[0]
    logs = np.linspace(math.log(house_tau_min) - 3, math.log(house_tau_min) + 3, 121)
    shapes = SHAPE_SPREAD * np.linspace(-2.2, 2.2, 9)
    offsets = ROOM_U_C * np.linspace(-2.6, 2.6, 13)
    log_tau, log_shape, offset = (x.ravel() for x in np.meshgrid(logs, shapes, offsets, indexing="ij"))
    curve = np.exp(-((since / np.exp(log_tau)[:, None]) ** np.exp(log_shape)[:, None]))
    size = (curve**2).sum(axis=1)
    rest = y - offset[:, None]
    start = (curve * rest).sum(axis=1) / size
    chi2 = (((rest - start[:, None] * curve) / u_c) ** 2).sum(axis=1)
    excess = max(float(chi2.min()) / max(len(t) - 2, 1), 1.0)
    prior = ((log_tau - math.log(house_tau_min)) / TAU_SPREAD) ** 2 + (log_shape / SHAPE_SPREAD) ** 2
    prior += (offset / ROOM_U_C) ** 2
    log_w = -0.5 * chi2 / excess - 0.5 * prior - 0.5 * np.log(size)
    rng = np.random.default_rng(seed)
    pick = rng.choice(len(log_w), DRAWS, p=softmax(log_w))
    step = logs[1] - logs[0]
    gaps = start[pick] + rng.normal(size=DRAWS) * u_c * math.sqrt(excess) / np.sqrt(size[pick])
    taus = np.exp(log_tau[pick] + step * (rng.random(DRAWS) - 0.5))
    low, mid, high = (float(x) for x in np.quantile(taus, [0.025, 0.5, 0.975]))
    fit = CaseFit(
        mid, low, high, 0.0, room_c, gaps, taus, np.exp(log_shape[pick]),
        offset[pick] + (offsets[1] - offsets[0]) * (rng.random(DRAWS) - 0.5), float(since[-1]),
    )  # fmt: skip
    return CaseFit(**{**fit.__dict__, "gap_c": fit.at(0.0) - room_c})


def _need_nearing(gap: Array, u_c: float, room_c: float) -> None:
    """A case that lies in the room comes nearer to it."""
    first, last = float(gap[0]), float(gap[-1])
    grew = abs(last) - float(np.abs(gap).min())
    crossed = first * last < 0 and abs(last) > LEAST_FALL_C + 3 * u_c
    if grew > LEAST_FALL_C + 3 * u_c or crossed:
        raise BadInput(
            f"The case goes away from the room's {temperature(room_c)}: by these readings it does not "
            "lie in that room.",
            todo="Measure the room where the case lies, or take readings only since it came in.",
        )
