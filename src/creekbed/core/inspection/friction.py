"""Friction of a hand slide: from a steady pull, or from a short drop timed by sound or video."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.core.measure import Reading, combine
from creekbed.core.quick_dataclasses import dataclass

G = 9.80665
"""Standard acceleration of gravity, m/s² (3rd CGPM, 1901)."""
LONGEST_DROP_M = 0.25
RATES = (20.0, 10_000.0)
"""Frames each second that cameras record: house default."""
SEEN_M, U_SEEN_M = 0.001, 0.0005
"""How far it has moved before an eye sees on a picture that it moves, m: house default."""
U_SOUND_S = 0.002
"""Standard uncertainty of a fall that was timed by its two sounds, s: house default."""
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
    mass_kg: float, drop_m: float, time_s: float, timed_by: Timing, *, frames_per_s: float | None = None,
    u_time_s: float = 0.0, u_drop_m: float = 0.001, u_mass_kg: float = 0.002,
) -> Friction:  # fmt: skip
    """Friction from a short fall on to foam, mouthpiece end open: F = m·a', a' = g − 2s/t².

    A video shows a moment only to within a frame: each of the two lies anywhere in one, which makes 1/√6 of a frame in
    the time between them. And it shows a move only once that is a millimetre: the fall has begun before.
    dF/dt = 4·m·s/t³, so that a hand on a stop-watch says nothing: it is refused.

    Args:
        mass_kg: of the part that falls. drop_m: how far, at most 0.25 m. time_s: how long, from the first picture that
            shows it moving to the first that shows it lying.
        timed_by: "sound" or "video"; "hand" is refused. frames_per_s: of the video.
        u_time_s, u_drop_m, u_mass_kg: standard uncertainties; that of the time beyond what sound or frames bring.

    Raises:
        BadInput: timed by hand, a video without its rate, too far, faster than a free fall, or so slow that it hung.

    Reference:
        Newton's second law with constant friction, from rest; JCGM 100, 4.3.7 for what lies anywhere in a frame.
    """
    _need_mass(mass_kg, u_mass_kg)
    if timed_by == "hand":
        raise BadInput(
            "A drop timed by hand says nothing: a twentieth of a second is as much as the whole friction.",
            todo="Time it from a sound recording or a video, or use the force gauge.",
        )
    if not 0.05 <= drop_m <= LONGEST_DROP_M:
        raise BadInput("Let it drop between 5 and 25 cm, on to foam.", todo="Set the stop anew.")
    if not u_time_s >= 0 or not u_drop_m >= 0:
        raise BadInput("An uncertainty is not less than 0.")
    seen, u_seen, by_clock = 0.0, 0.0, U_SOUND_S
    if timed_by == "video":
        seen, u_seen, by_clock = SEEN_M, U_SEEN_M, 1 / _frame_rate(frames_per_s) / math.sqrt(6)
    u_time = math.hypot(by_clock, u_time_s)
    path = math.sqrt(drop_m) - math.sqrt(seen)  # √s of the part of the fall that was timed
    shortest = path * math.sqrt(2 / G)
    if not time_s >= shortest - 2 * u_time:
        raise BadInput(
            f"Nothing falls {number(100 * drop_m, 0)} cm in less than {number(shortest, 3)} s.",
            todo="Read the two moments again.",
        )
    if time_s > 10 * shortest:
        raise BadInput("It hung on its way.", todo="Clean it, or use the force gauge.")
    fell = 2 * path**2 / time_s**2
    by_time = 2 * fell / time_s * u_time
    by_drop = 2 * path / time_s**2 / math.sqrt(drop_m) * u_drop_m
    by_sight = 2 * path / time_s**2 / math.sqrt(seen) * u_seen if seen else 0.0
    ratio = 1 - fell / G  # the mass falls out
    u_ratio = math.hypot(by_time, by_drop, by_sight) / G
    force = mass_kg * (G - fell)
    u_force = math.hypot(u_ratio * mass_kg * G, force / mass_kg * u_mass_kg)
    how = f"from a drop, by {timed_by}" + (f", {number(frames_per_s)} frames a second" if frames_per_s else "")
    return Friction(force, u_force, Reading(ratio, u_ratio, "dimensionless", how))


def _frame_rate(frames_per_s: float | None) -> float:
    """The rate of a video, frames a second.

    Raises:
        BadInput: it is missing, or no camera has it.
    """
    if frames_per_s is None:
        raise BadInput(
            "A video says no more than its frames do.", todo="Say how many frames it has each second, such as 60."
        )
    if not RATES[0] <= frames_per_s <= RATES[1]:
        raise BadInput("A camera records 20 to 10 000 frames each second.", todo="Look at the video's details.")
    return frames_per_s


def _over_weight(force: float, u_force: float, mass: float, u_mass: float, how: str) -> Friction:
    ratio = force / (mass * G)
    u = math.hypot(u_force / (mass * G), ratio * u_mass / mass)
    return Friction(force, u_force, Reading(ratio, u, "dimensionless", how))
