"""Where a measured value goes from hire to hire, and when it would pass its limit at that pace.

A weighted straight line through the readings, with what scatters beyond their uncertainties widening all that is said
(Birge 1932). A pace that cannot be told from chance is said to be none.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from creekbed.core.errors import BadInput
from creekbed.core.measure import COVERAGE_FACTOR, Reading, Scale
from creekbed.core.quick_dataclasses import dataclass

LEAST_READINGS, LEAST_DAYS = 3, 60.0
"""Fewer readings, or closer together, tell no pace: house default."""
FARTHEST_DAYS = 3 * 365.25
"""How far ahead a pace is believed: house default."""
YEAR_DAYS = 365.25


@dataclass(frozen=True)
class TrendLine:
    """A straight line y = value + slope·(t − middle), in days.

    Attributes:
        middle: weighted mean of the times, where value and slope do not depend on each other.
        u_value, u_slope: standard uncertainties.
    """

    middle: float
    value: float
    slope: float
    u_value: float
    u_slope: float

    def at(self, day: float) -> tuple[float, float]:
        """The line's value on a day and its standard uncertainty."""
        away = day - self.middle
        return self.value + self.slope * away, math.hypot(self.u_value, self.u_slope * away)

    @property
    def goes(self) -> bool:
        """Whether its slope can be told from none (k = 2)."""
        return abs(self.slope) > COVERAGE_FACTOR * self.u_slope


@dataclass(frozen=True)
class Crossing:
    """When the line passes a limit, in days of its own time.

    Attributes:
        limit: the limit it heads for. day: when the line itself passes it.
        soonest, latest: between these the line with its uncertainty (k = 2) passes; ``latest`` may be infinite.
    """

    limit: float
    day: float
    soonest: float
    latest: float


def fit_line(days: Sequence[float], values: Sequence[float], us: Sequence[float]) -> TrendLine:
    """Weighted least squares.

    Args:
        days, values, us: of each reading, its standard uncertainty more than 0; shape (n,), n at least 2.

    Raises:
        BadInput: too few readings, all at one time, or an uncertainty that is not positive.

    Reference:
        JCGM 100:2008, annex H.3 (line about a chosen origin); Birge ratio: R. T. Birge, Phys. Rev. 40, 207 (1932).
    """
    t, y, u = (np.asarray(x, dtype=float) for x in (days, values, us))
    if t.ndim != 1 or not len(t) == len(y) == len(u) or len(t) < 2:
        raise BadInput("A line needs at least two readings.")
    if not (np.isfinite(t).all() and np.isfinite(y).all() and (u > 0).all()):
        raise BadInput("Each reading needs a time, a value and an uncertainty.")
    w: npt.NDArray[np.float64] = 1 / u**2
    middle = float((w * t).sum() / w.sum())
    away = t - middle
    sxx = float((w * away**2).sum())
    if not sxx > 1e-9 * w.sum():
        raise BadInput("Readings of one moment tell no pace.")
    value, slope = float((w * y).sum() / w.sum()), float((w * away * y).sum() / sxx)
    chi2 = float((w * (y - value - slope * away) ** 2).sum())
    wider = math.sqrt(max(1.0, chi2 / (len(t) - 2))) if len(t) > 2 else 1.0
    return TrendLine(middle, value, slope, wider / math.sqrt(float(w.sum())), wider / math.sqrt(sxx))


def crossing(line: TrendLine, scale: Scale, today: float) -> Crossing | None:
    """When the line passes the act limit that it heads for; ``None`` where it heads for none or not within three years.

    Args:
        today: in the line's days; a limit passed before is passed today.

    Reference:
        interval: where the line's band of k = 2 meets the limit (Draper and Smith, Applied Regression Analysis, 3.2).
    """
    low, high = scale.amber
    limit = high if line.slope > 0 else low
    if not line.goes or limit is None:
        return None
    end = today + FARTHEST_DAYS
    day = line.middle + (limit - line.value) / line.slope
    if day > end:
        return None
    days = np.linspace(today, end, 600)
    toward = math.copysign(1.0, line.slope)
    gap = toward * (limit - line.value - line.slope * (days - line.middle))
    wide = COVERAGE_FACTOR * np.hypot(line.u_value, line.u_slope * (days - line.middle))
    soon, late = np.flatnonzero(gap <= wide), np.flatnonzero(gap <= -wide)
    return Crossing(
        limit, max(day, today), float(days[soon[0]]) if len(soon) else max(day, today),
        float(days[late[0]]) if len(late) else math.inf,
    )  # fmt: skip


@dataclass(frozen=True)
class Trend:
    """Readings over time with what they tell.

    Attributes:
        days, readings: in order of time. line: ``None`` where there are too few. crossing: as :func:`crossing` says.
    """

    days: tuple[float, ...]
    readings: tuple[Reading, ...]
    line: TrendLine | None
    crossing: Crossing | None


def trend(days: Sequence[float], readings: Sequence[Reading], scale: Scale, today: float, least_u: float) -> Trend:
    """Line and forecast through readings of one check.

    Args:
        days: times in days, rising. readings: all in one unit. scale: bands. today: in the same days.
        least_u: smallest standard uncertainty that is believed, more than 0: instruments alike, hands not.
    """
    line = None
    if len(days) >= LEAST_READINGS and days[-1] - days[0] >= LEAST_DAYS:
        line = fit_line(days, [r.value for r in readings], [max(r.u, least_u) for r in readings])
    return Trend(tuple(days), tuple(readings), line, crossing(line, scale, today) if line is not None else None)
