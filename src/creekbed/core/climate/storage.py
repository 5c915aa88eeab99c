"""A storage room over weeks: hours outside its band, spells that feed mould, how fast the wood is driven."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
import numpy.typing as npt

from creekbed.core.climate.wood import emc_pct
from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

Array = npt.NDArray[np.float64]
BAND = (0.40, 0.60)
"""Relative humidity that instruments are kept at: common practice, no source."""
MOULD_FROM, MOULD_HIGH = 0.68, 0.80
"""From about 65 to 70 % held for days closed cases grow mould: museum practice, from memory; 80 % as a monthly mean is
the criterion of ISO 13788, from memory."""
MOULD_SPELL_H = 48.0
"""How long a spell above the first limit is let pass without a warning: house default."""
LONGEST_GAP_H = 12.0
"""Readings farther apart than this are not joined: house default."""
FAST_PCT_DAY = 1.0
"""Change of equilibrium moisture in a day that is called fast, percentage points: house default."""
Risk = Literal["none", "watch", "act"]


@dataclass(frozen=True)
class Storage:
    """What a log says.

    Attributes:
        hours: that the log covers, gaps left out. dry_h, damp_h: below and above the band.
        mould_h: above the limit at which mould begins. longest_h: the longest spell of that.
        risk: of mould. mean_rh: over the hours covered, 0 to 1.
        trend_week: change of humidity in a week by a straight line, 0 to 1. moistures: least and most equilibrium
        moisture of wood, %. fastest_day: largest change of it within 24 h, percentage points.
    """

    hours: float
    dry_h: float
    damp_h: float
    mould_h: float
    longest_h: float
    risk: Risk
    mean_rh: float
    trend_week: float
    moistures: tuple[float, float]
    fastest_day: float

    def words(self) -> str:
        """What to do about it, in words."""
        said = []
        if self.risk == "act":
            said.append(
                f"Mould grows in this: {number(self.longest_h, 0)} h in one spell above {MOULD_FROM:.0%}. Dry the room."
            )
        elif self.risk == "watch":
            said.append(f"Damp enough for mould for {number(self.mould_h, 0)} h so far. Open the cases, watch it.")
        if self.dry_h > 0.1 * self.hours:
            said.append(
                f"Too dry for {number(self.dry_h, 0)} of {number(self.hours, 0)} h: wood shrinks and "
                "cracks. Humidify slowly."
            )
        if self.fastest_day >= FAST_PCT_DAY:
            said.append(
                f"It changes fast: wood is driven by {number(self.fastest_day, 1)} points of moisture within a day."
            )
        return " ".join(said) or "The room is as it should be."


def storage(hours: Sequence[float], celsius: Sequence[float], humidity: Sequence[float]) -> Storage:
    """Read a log of a storage room.

    Between two readings the air is taken to change in a straight line; readings more than 12 h apart leave a gap.

    Args:
        hours, celsius, humidity: times rising, h; °C; relative humidity 0 to 1; shape (n,), n at least 2.

    Raises:
        BadInput: fewer than two readings, times that do not rise, or values that no room has.
    """
    t, c, h = (np.asarray(x, dtype=float) for x in (hours, celsius, humidity))
    if t.ndim != 1 or not len(t) == len(c) == len(h) or len(t) < 2:
        raise BadInput("A log needs at least two readings.", todo="Let the hygrometer run on.")
    if not all(np.isfinite(x).all() for x in (t, c, h)) or (np.diff(t) <= 0).any():
        raise BadInput("The readings are not in the order of time.")
    if (c < -10).any() or (c > 60).any() or (h < 0).any() or (h > 1).any():
        raise BadInput("Those readings are of no room.", todo="Look at the hygrometer.")
    joined = np.diff(t) <= LONGEST_GAP_H
    covered = float(np.diff(t)[joined].sum())
    above = _spells(t, h, MOULD_FROM, joined)
    mould, longest = float(sum(above)), float(max(above, default=0.0))
    dry = covered - float(sum(_spells(t, h, BAND[0], joined)))
    damp = float(sum(_spells(t, h, BAND[1], joined)))
    middles, widths = (h[1:] + h[:-1])[joined] / 2, np.diff(t)[joined]
    mean = float(middles @ widths / covered) if covered > 0 else float(h.mean())
    if mean >= MOULD_HIGH or longest >= MOULD_SPELL_H:
        risk: Risk = "act"
    else:
        risk = "watch" if mould > 0 else "none"
    wood = np.array([emc_pct(float(a), min(float(b), 0.98)) for a, b in zip(c, h, strict=True)])
    slope = float(np.polyfit(t - t.mean(), h, 1)[0]) * 168 if t[-1] - t[0] >= 24 else 0.0
    return Storage(
        covered, dry, damp, mould, longest, risk, mean, slope, (float(wood.min()), float(wood.max())), _fastest(t, wood)
    )


def _spells(t: Array, y: Array, limit: float, joined: npt.NDArray[np.bool_]) -> list[float]:
    """Lengths of the spells above a limit, h, with crossings between readings; a gap ends a spell."""
    spells: list[float] = []
    running = 0.0
    for n in range(len(t) - 1):
        if not joined[n]:
            if running:
                spells.append(running)
            running = 0.0
            continue
        a, b, width = float(y[n]), float(y[n + 1]), float(t[n + 1] - t[n])
        if a > limit and b > limit:
            running += width
        elif a > limit:
            spells.append(running + width * (a - limit) / (a - b))
            running = 0.0
        elif b > limit:
            running = width * (b - limit) / (b - a)
    if running:
        spells.append(running)
    return spells


def _fastest(t: Array, wood: Array) -> float:
    """Largest difference of moisture within 24 h."""
    worst, first = 0.0, 0
    for n in range(len(t)):
        while t[n] - t[first] > 24.0:
            first += 1
        worst = max(worst, float(wood[first : n + 1].max() - wood[first : n + 1].min()))
    return worst
