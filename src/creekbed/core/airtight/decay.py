"""The leak test: a closed joint is pumped to a low pressure and left alone; how fast the pressure falls is the leak.

What else spoils it is fitted beside it: air that was warmed by pumping cools and takes pressure along (a sudden pump-up
loses 1 − 1/γ = 28.6 % without any leak), a slow drift of temperature (1 K is 346 Pa) falls or rises whatever the
pressure, and a gauge shows something at nothing. Room air, never breath: breath cools for minutes. Low pressure, so
that sprung pads do not lift.

A fine gap lets air through as the pressure, a hole as its root; most leaks lie between, and several at once do too. So
the flow is taken as a power of the pressure whose exponent may change on the way, as far as the readings tell it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from creekbed.core.airtight.fall import DRIFT_PRIOR, P_REF, FallFit, Law, Still, falls, fit_fall
from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.core.measure import Reading
from creekbed.core.quick_dataclasses import dataclass

Array = npt.NDArray[np.float64]
P_ATM = 101_325.0
"""Standard atmosphere, Pa (ISO 2533)."""
LOWEST_PEAK, HIGHEST = 600.0, 6_000.0
"""Peaks below say too little, pressures above lift sprung pads, Pa: house default."""
SETTLE_S = 0.15
"""How long after the peak the last stroke of the pump is over for certain, s: house default."""
LONGEST_S, SLOWEST_S, FASTEST_S = 1200.0, 3.0, 0.0005
"""A leak test lasts no longer, and its gauge reads no slower and no faster, s: house default."""
RISES = 0.04
"""A pressure that rises by more than this share of the peak, after the pump stopped, is no leak test: house default."""
STRANGE = 0.03
"""Where the curve misses the readings by more than this share of the peak, it is no leak: house default."""
LAW_WORDS: dict[Law, str] = {
    "laminar": "a fine gap", "orifice": "a hole", "between": "a crack, or a gap beside a hole",
}  # fmt: skip


@dataclass(frozen=True)
class LeakFit:
    """What the fall of pressure says.

    Attributes:
        law: "laminar" (a fine gap: p falls as e^(−t/τ)), "orifice" (a hole: √p falls in a line) or "between".
        weight: how sure that is, 0 to 1.
        exponent: of the flow over the pressure, with its standard uncertainty: 1 for a gap, 0.5 for a hole.
        flow: leak at the reference pressure, ml/min of room air, with its standard uncertainty.
        rate: fall of the pressure by the leak alone, at the reference pressure, Pa/s.
        p0: pressure at the start of the fall, Pa, once the heat has gone.
        start_s: when the fall begins. offset: what the gauge shows at nothing, Pa.
        heat: pressure that compression heat took, Pa; u_heat: its standard uncertainty. heat_tau_s: its time constant.
        drift: Pa/s, falling or rising whatever the pressure; u_drift: its standard uncertainty.
        shape: exponent, its bend and the slow heat, Pa, of the likeliest curve.
        notes: what was seen besides, in words.
    """

    law: Law
    weight: float
    exponent: Reading
    flow: Reading
    rate: float
    p0: float
    start_s: float
    offset: float
    heat: float
    u_heat: float
    heat_tau_s: float
    drift: float
    u_drift: float
    shape: tuple[float, float, float]
    notes: tuple[str, ...]

    @property
    def tau_s(self) -> float:
        """Time constant of the fall at the reference pressure, s; infinite where nothing leaks."""
        return P_REF / self.rate if self.rate > 0 else math.inf

    def pressure(self, times: Array) -> Array:
        """The fitted curve at rising times, s; Pa."""
        return self._curve(times, self.drift, self.heat) + self.offset

    def leak_only(self, times: Array) -> Array:
        """What the leak alone would do from where the heat left it, Pa."""
        return self._curve(times, 0.0, 0.0)

    def _curve(self, times: Array, drift: float, heat: float) -> Array:
        t = np.maximum(np.asarray(times, dtype=float) - self.start_s, 0.0)
        x = np.array([[self.p0, self.rate, 0.0, self.shape[0], self.shape[1], drift, self.shape[2] if heat else 0.0]])
        drawn = np.array([[heat, math.log(self.heat_tau_s)]])
        return np.asarray(falls(x, drawn, np.append(0.0, t))[0, 1:])


def cone_volume_l(wide_mm: float, narrow_mm: float, length_mm: float) -> float:
    """Volume of a conical bore, l: πL/12·(d1² + d1·d2 + d2²).

    Raises:
        BadInput: a measure that is not positive.

    Reference:
        solid geometry, frustum of a cone.
    """
    if not (wide_mm > 0 and narrow_mm > 0 and length_mm > 0):
        raise BadInput("Bore and length must be more than 0 mm.", todo="Measure them again.")
    return math.pi * length_mm / 12 * (wide_mm**2 + wide_mm * narrow_mm + narrow_mm**2) / 1e6


def laminar_flow_ml_min(p_pa: float, volume_l: float, tau_s: float) -> float:
    """Flow of a laminar leak at gauge pressure p: Q = p·V/(p_atm·τ), in ml/min of room air.

    Reference:
        ideal gas at constant temperature, p much less than p_atm.
    """
    return p_pa * volume_l / (P_ATM * tau_s) * 60_000.0


def fit_leak(
    times_s: Sequence[float], pressures_pa: Sequence[float], volume_l: float, u_volume_l: float = 0.0
) -> LeakFit:
    """Fit the fall of pressure after the pump stops.

    A quiet stretch before pumping (at least 5 readings near 0) tells the drift and what the gauge shows at nothing;
    without one, house defaults stand for what a room and a gauge may do unseen, and widen the interval.

    Args:
        times_s, pressures_pa: readings, gauge pressure, shape (n,), times rising.
        volume_l: joint, hose and bulb together, l. u_volume_l: its standard uncertainty.

    Returns:
        The flow at the reference pressure, whatever the exponent may be.

    Raises:
        BadInput: too few readings, times that do not rise or cannot be seconds, a peak too low or so high that pads
            lift, no volume, a pressure that rises, or a curve that is no leak's.

    Reference:
        everything but the heat integrated about its best (Laplace: Tierney and Kadane 1986), the heat on a grid that
        is laid along what the readings leave open; flow as a power of pressure: ASTM E779.
    """
    t = np.asarray(times_s, dtype=float)
    p = np.asarray(pressures_pa, dtype=float)
    _need(t, p, volume_l, u_volume_l)
    peak = _pumped(t, p)
    still = _quiet(t, p, peak)
    t_fall, p_fall = t[peak:] - t[peak], p[peak:]
    if len(t_fall) < 12:
        raise BadInput("The fall is too short to say anything.", todo="Let it stand for half a minute.")
    top = float(p_fall[0]) - still.offset
    _need_fall(p_fall - still.offset, top)
    noise = _noise(p_fall)
    fit = fit_fall(t_fall, p_fall, noise, still, top)
    off = p_fall - falls(fit.x[None], fit.drawn[None], np.append(0.0, t_fall))[0, 1:] - float(fit.x[2])
    hangs = _hangs_on(off)
    if hangs > 1.2:  # neighbours err alike: so many readings say less than so many
        fit = fit_fall(t_fall, p_fall, noise * hangs, still, top)
    strange = float(np.sqrt(np.mean(off**2))) / top
    if strange > STRANGE:
        raise BadInput(
            f"This does not look like a leak: the pressure misses every leak's curve by {number(strange * top, 0)} Pa.",
            todo="Let it stand untouched for half a minute, plugs and hose tight, and record it again.",
        )
    per = volume_l / P_ATM * 60_000.0
    u = math.hypot(fit.u_rate * per, fit.rate * per * u_volume_l / volume_l)
    law, weight = fit.law()
    return LeakFit(
        law, weight, Reading(fit.exponent, fit.u_exponent, "dimensionless", "leak test"),
        Reading(fit.rate * per, u, "milliliter/minute", "leak test"), max(float(fit.x[1]), 0.0), float(fit.x[0]),
        float(t[peak]), float(fit.x[2]), float(fit.drawn[0]), fit.u_heat, math.exp(float(fit.drawn[1])),
        float(fit.x[5]), fit.u_drift, (float(fit.x[3]), float(fit.x[4]), float(fit.x[6])), _notes(fit, top, still),
    )  # fmt: skip


def _need(t: Array, p: Array, volume: float, u_volume: float) -> None:
    if t.ndim != 1 or t.shape != p.shape or len(t) < 15:
        raise BadInput("There are too few readings.", todo="At least 15, some ten each second.")
    if len(t) > 100_000:
        raise BadInput("That is more than a leak test holds.", todo="Half a minute is enough.")
    if not (np.isfinite(t).all() and np.isfinite(p).all()) or (np.diff(t) <= 0).any():
        raise BadInput("The readings are not in the order of time.", todo="Record it again.")
    each, whole = float(np.median(np.diff(t))), float(t[-1] - t[0])
    if each > SLOWEST_S or whole > LONGEST_S:
        raise BadInput(
            f"The readings are {each:.3g} s apart and last {whole:.3g} s: no leak test does.",
            todo="Are the times in milliseconds? They are read as seconds.",
        )
    if each < FASTEST_S:
        raise BadInput(f"The readings are {each:.2g} s apart: no gauge reads so fast.", todo="Give times in seconds.")
    if not 0.005 <= volume <= 200 or not 0 <= u_volume < volume:
        raise BadInput("The volume must be between 5 ml and 200 l.", todo="Count joint, hose and bulb.")
    if p.max() > HIGHEST:
        raise BadInput(
            f"{number(p.max() / 1000, 1)} kPa lifts sprung pads.", todo="Pump to 2.5 kPa and hold no more than 6."
        )
    if p.max() < LOWEST_PEAK:
        raise BadInput("It was hardly pumped up.", todo="Close it and pump to about 2.5 kPa.")


def _need_fall(p: Array, top: float) -> None:
    """What rises while it stands is pumped still, or warmed by more than a room does."""
    if top < LOWEST_PEAK / 2:
        raise BadInput("It was hardly pumped up.", todo="Close it and pump to about 2.5 kPa.")
    tenth = max(len(p) // 10, 3)
    means = [float(p[n : n + tenth].mean()) for n in range(0, len(p) - tenth + 1, tenth)]
    low = means[0]
    for mean in means[1:]:
        if mean - low > RISES * top:
            raise BadInput(
                f"The pressure rises by {number(mean - low, 0)} Pa while it stands: this does not look like a leak.",
                todo="Hands off the joint and the bulb, let it take the room's warmth, and record it again.",
            )
        low = min(low, mean)


def _pumped(t: Array, p: Array) -> int:
    """Where the fall begins: when the last stroke of the pump is over."""
    rise = p[3:] - p[:-3]
    strokes = np.flatnonzero(rise > 0.04 * p.max())
    begin = int(strokes[-1]) if len(strokes) else 0
    end = int(np.searchsorted(t, t[min(begin + 3, len(t) - 1)] + 0.3))
    top = begin + int(np.argmax(p[begin : end + 1]))
    return min(int(np.searchsorted(t, t[top] + SETTLE_S)), len(t) - 1)


def _quiet(t: Array, p: Array, peak: int) -> Still:
    first = float(np.median(p[:5]))
    before = np.flatnonzero(np.abs(p[:peak] - first) > 0.05 * (p[peak] - first))
    end = int(before[0]) if len(before) else peak
    if end < 5 or t[end - 1] - t[0] < 1.0 or abs(first) > 0.25 * p[peak]:
        return Still()
    x, y = t[:end] - t[:end].mean(), p[:end]
    sxx = float(x @ x)
    slope = float(x @ y) / sxx
    rest = y - y.mean() - slope * x
    s2 = max(float(rest @ rest) / max(end - 2, 1), 0.05**2)
    # what the room does next is not quite what it did before: a tenth of the unseen is kept
    u_slope = math.hypot(1.5 * math.sqrt(s2 / sxx), 0.1 * DRIFT_PRIOR)
    # what it showed at first; that a little air was warmed or squeezed by then is not known
    u_first = math.hypot(math.sqrt(s2 / end), 0.5 * abs(slope) * float(t[end - 1] - t[0]))
    return Still(slope, u_slope, float(y.mean()), math.hypot(u_first, 1.0), True)


def _noise(p: Array) -> float:
    """Standard deviation of the gauge's noise from second differences, which a smooth fall does not touch; Pa."""
    second = np.diff(p, 2)
    values = np.unique(p)
    # a coarse gauge shows the same number again and again: its step is noise too (JCGM 100, F.2.2.1)
    step = float(np.diff(values).min()) if 1 < len(values) < 0.8 * len(p) else 0.0
    seen = float(np.median(np.abs(second - np.median(second)))) * 1.4826 / math.sqrt(6)
    return max(math.hypot(seen, step / math.sqrt(12)), 0.05)


def _hangs_on(off: Array) -> float:
    """By how much the noise counts for more because neighbouring readings err alike, 1 and more.

    Reference:
        Bartlett 1946: the variance of a mean of AR(1) noise grows by (1 + ρ)/(1 − ρ).
    """
    away = off - off.mean()
    whole = float(away @ away)
    rho = float(away[1:] @ away[:-1]) / whole if whole > 0 else 0.0
    rho = min(max(rho - 2 / math.sqrt(len(off)), 0.0), 0.95)
    return math.sqrt((1 + rho) / (1 - rho))


def _notes(fit: FallFit, top: float, still: Still) -> tuple[str, ...]:
    """What was seen besides, as far as the record shows it."""
    notes = []
    if fit.heat - 2 * fit.u_heat > 0.03 * top:
        notes.append(
            f"Pumping warmed the air: about {fit.heat / top:.0%} of the pressure went as it cooled, and is not "
            "counted. Pump slower next time."
        )
    elif fit.u_rate > 0.08 * fit.rate and fit.u_heat > 0.02 * top:
        notes.append(
            "How much the heat of pumping took cannot be told from this record, and widens the result. Pump slower, or "
            "pump it up once more after ten seconds, when its air has cooled."
        )
    if abs(fit.drift) > max(3 * fit.u_drift, 0.5):
        word = "fell" if fit.drift < 0 else "rose"
        notes.append(f"The temperature {word} meanwhile ({fit.drift:+.1f} Pa/s); that is not counted.")
    if abs(still.offset) > 3 * still.u_offset + 5:
        notes.append(f"The gauge shows {still.offset:+.0f} Pa at nothing; that is taken off.")
    if not still.seen:
        notes.append(
            "No quiet stretch before pumping: what the gauge shows at nothing and what the room's temperature did is "
            "guessed, and widens the result."
        )
    return tuple(notes)
