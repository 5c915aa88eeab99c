"""Closed cases that come to a room's temperature, read by a thermometer on the instrument.

An instrument in the air of a case behind a lid: two bodies that exchange heat with one another and with the room, which
need not be what its thermometer says, nor stand still. Ordinary heat balance; from memory.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.integrate import solve_ivp

Array = npt.NDArray[np.float64]
TOLERANCE = 3.0


@dataclass(frozen=True)
class Case:
    """Readings, the room as it is said, the house's time constant, and the truth: minutes from the last reading until
    the instrument is within 3 K of the said room; 0 if it is already."""

    minutes: Array
    celsius: Array
    room: float
    house_tau: float
    wait: float


World = Callable[[np.random.Generator], Case]


def case(
    rng: np.random.Generator, *, air_share: float = 0.0, air_tau: float = 8.0, room_off: float = 0.0,
    room_slope: float = 0.0, noise: float = 0.15, step: float = 0.1, spread: float = 0.4, away: bool = False,
    late: bool = False,
) -> Case:  # fmt: skip
    """One case.

    Args:
        air_share: of the probe's reading that is the case's air, which runs ahead. air_tau: its time constant, min.
        room_off, room_slope: of the air about the case, K and K/min.
        spread: of the case's time constant about the house's.
        late: readings end when 3 to 4 K are left.
    """
    house = float(rng.uniform(20, 90))
    tau = float(house * np.exp(rng.normal(0, spread)))
    room, gap = float(rng.uniform(18, 23)), float(rng.choice([-1, 1]) * rng.uniform(6, 28))

    def about(t: float) -> float:
        return room + room_off + room_slope * t

    def slope(t: float, now: Array) -> list[float]:
        air, instrument = now
        return [(about(t) - air) / air_tau + 0.3 * (instrument - air) / air_tau, (air - instrument) / tau]

    end = tau * (np.log(abs(gap) / rng.uniform(3.0, 4.0)) if late and abs(gap) > 6 else rng.uniform(0.3, 1.6))
    n = int(rng.integers(2, 8))
    t = np.sort(rng.uniform(0.0, end, n))
    t = np.concatenate([[0.0], t[1:-1], [end]]) if n > 2 else np.array([0.0, end])
    whole = np.linspace(0.0, 12 * tau + 4 * house, 20_000)
    # both begin off the room by the same; the air has had a few minutes by the first reading
    found = solve_ivp(slope, (0.0, float(whole[-1])), [room + 0.7 * gap, room + gap], dense_output=True, rtol=1e-8)
    air, instrument = found.sol(whole)
    read = air_share * np.interp(t, whole, air) + (1 - air_share) * np.interp(t, whole, instrument)
    read = np.round((read + rng.normal(0, noise, n)) / step) * step
    after = whole[whole >= end]
    gone = np.abs(np.interp(after, whole, instrument) - room) <= TOLERANCE
    wait = float(after[int(np.argmax(gone))] - end) if gone.any() else 5760.0
    return Case(t, read, room, house, wait)


WORLDS: dict[str, World] = {
    "one case, one room": lambda r: case(r, air_tau=3.0),
    "air about the instrument": lambda r: case(r, air_tau=float(r.uniform(5, 20))),
    "probe half in the air": lambda r: case(r, air_share=float(r.uniform(0.2, 0.5)), air_tau=float(r.uniform(5, 15))),
    "room not as it is said": lambda r: case(r, room_off=float(r.normal(0, 0.7))),
    "room that warms": lambda r: case(r, room_slope=float(r.normal(0, 0.004))),
    "case far from the house's pace": lambda r: case(r, spread=0.8),
    "3 to 4 K left": lambda r: case(r, late=True),
    "thermometer of whole degrees": lambda r: case(r, step=1.0),
    "noisy probe": lambda r: case(r, noise=0.6),
}
