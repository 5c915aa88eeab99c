"""Friction of a hand slide: from a steady pull, or from a short drop timed by sound or video."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from creekbed.core.errors import BadInput
from creekbed.core.measure import Reading, combine

G = 9.80665
"""Standard acceleration of gravity, m/s² (3rd CGPM, 1901)."""
LONGEST_DROP_M = 0.25
Timing = Literal["sound", "video", "hand"]


@dataclass(frozen=True)
class Friction:
    """Mean kinetic friction.

    Attributes:
        force_n, u_force_n: the force and its standard uncertainty, N.
        ratio: the force over the slide's weight, with its uncertainty, dimensionless.
    """

    force_n: float
    u_force_n: float
    ratio: Reading


def _need_mass(mass_kg: float, u_mass_kg: float) -> None:
    if not 0.05 <= mass_kg <= 3.0 or u_mass_kg < 0:
        raise BadInput("A hand slide weighs between 50 g and 3 kg.", todo="Weigh it again.")


def from_pull(pulls_n: Sequence[float], mass_kg: float, u_gauge_n: float = 0.02, u_mass_kg: float = 0.002) -> Friction:
    """Friction from steady pulls with a force gauge, slide lying level.

    Args:
        pulls_n: readings while it moves steadily, N. mass_kg: of the part that moves.
        u_gauge_n, u_mass_kg: standard uncertainties of gauge and scale.

    Raises:
        BadInput: no reading, a pull that is not positive, or a mass that cannot be.
    """
    _need_mass(mass_kg, u_mass_kg)
    if not pulls_n or any(not 0 < p <= 100 for p in pulls_n):
        raise BadInput("Each pull must be more than 0 N and at most 100 N.", todo="Zero the gauge and pull again.")
    mean = combine([Reading(p, u_gauge_n, "newton", "pull") for p in pulls_n])
    return _over_weight(mean.value, mean.u, mass_kg, u_mass_kg, "from a pull")


def from_drop(
    mass_kg: float, drop_m: float, time_s: float, timed_by: Timing,
    u_time_s: float = 0.001, u_drop_m: float = 0.001, u_mass_kg: float = 0.002,
) -> Friction:  # fmt: skip
    """Friction from a short fall on to foam, mouthpiece end open: F = m·(g − 2s/t²).

    dF/dt = 4·m·s/t³, so that a hand on a stop-watch says nothing: it is refused.

    Args:
        mass_kg: of the part that falls. drop_m: how far, at most 0.25 m. time_s: how long.
        timed_by: "sound" or "video"; "hand" is refused.
        u_time_s, u_drop_m, u_mass_kg: standard uncertainties.

    Raises:
        BadInput: timed by hand, too far, faster than a free fall, or so slow that it hung.

    Reference:
        Newton's second law with constant friction, from rest.
    """
    _need_mass(mass_kg, u_mass_kg)
    if timed_by == "hand":
        raise BadInput(
            "A drop timed by hand says nothing: a twentieth of a second is as much as the whole friction.",
            todo="Time it from a sound recording or a video, or use the force gauge.",
        )
    if not 0.05 <= drop_m <= LONGEST_DROP_M:
        raise BadInput("Let it drop between 5 and 25 cm, on to foam.", todo="Set the stop anew.")
    shortest = math.sqrt(2 * drop_m / G)
    if not time_s >= shortest:
        raise BadInput(
            f"Nothing falls {100 * drop_m:.0f} cm in less than {shortest:.3f} s.", todo="Read the two moments again."
        )
    force = mass_kg * (G - 2 * drop_m / time_s**2)
    if time_s > 10 * shortest:
        raise BadInput("It hung on its way.", todo="Clean it, or use the force gauge.")
    by_time = 4 * mass_kg * drop_m / time_s**3 * u_time_s
    by_drop = 2 * mass_kg / time_s**2 * u_drop_m
    u_force = math.hypot(by_time, by_drop, force / mass_kg * u_mass_kg)
    ratio = 1 - 2 * drop_m / (G * time_s**2)  # the mass falls out
    u_ratio = math.hypot(by_time, by_drop) / (mass_kg * G)
    return Friction(force, u_force, Reading(ratio, u_ratio, "dimensionless", f"from a drop, by {timed_by}"))


def _over_weight(force: float, u_force: float, mass: float, u_mass: float, how: str) -> Friction:
    ratio = force / (mass * G)
    u = math.hypot(u_force / (mass * G), ratio * u_mass / mass)
    return Friction(force, u_force, Reading(ratio, u, "dimensionless", how))
