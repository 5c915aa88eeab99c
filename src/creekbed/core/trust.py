"""How far each kind of number may be trusted, in a sentence: coverage tested, propagated, or a house default.

What was tested stands in ``tried.toml``, written by ``benchmarks.trust``: intervals stated as 95 % against worlds that
their estimators do not assume. ``docs/trust.md`` has the whole table.
"""

from __future__ import annotations

import tomllib
from functools import lru_cache
from pathlib import Path
from typing import Literal

from creekbed.core.quick_dataclasses import dataclass

Basis = Literal["coverage tested", "propagated", "house default"]
TRIED = Path(__file__).parent / "tried.toml"
POOR = 90.0
"""A world in which fewer of a hundred intervals hold is named: house default."""


@dataclass(frozen=True)
class Trust:
    """How far a kind of number may be trusted: on what that rests, and in words."""

    basis: Basis
    words: str


@dataclass(frozen=True)
class Tried:
    """The result in one simulated world: cases, answers, and how many of a hundred intervals held the truth."""

    world: str
    cases: int
    answered: int
    covered: float


PLAIN: dict[str, Trust] = {
    "typed": Trust("house default", "What one reading may be off is the house's value for this check; it decides only "
                   "where twice that lies on one side of a limit."),
    "pull": Trust("propagated", "From the scatter of the pulls, the gauge's and the scale's own uncertainty."),
    "lean": Trust("propagated", "From the uncertainty of both lengths."),
    "mix": Trust("propagated", "As strong as the bottle's label says, to half a mark of the measure."),
    "bath": Trust("house default", "One time constant of the tub, the house's until it is measured."),
    "wood": Trust("house default", "Published averages of a species; one piece may move half as much again."),
    "string": Trust("house default", "Mersenne's law is exact; what a wire bears, and its stiffness, are published "
                    "averages."),
    "playing": Trust("house default", "The pitch is measured; how far a player bends it, and what is slow, weak or "
                     "breathy, are house values. A suspicion, not a verdict."),
    "water": Trust("propagated", "The bound is moist air's own; the share below it comes from weighings, or "
                   "else from a house guess."),
    "storage": Trust("house default", "Limits and mould's growth as published for the walls of houses, not for cases."),
    "case": Trust("house default", "One time constant, the house's for such cases, until two readings tell its own."),
    "journey": Trust("house default", "From how far a case's time constant may lie from the house's."),
    "pads": Trust("house default", "Chances by the house's guess of how surely a leaking pad spoils a note."),
    "marks": Trust("house default", "What a tape or an eye may be off is the house's value."),
}  # fmt: skip
"""Kinds whose uncertainty is propagated or a house default."""


@lru_cache(maxsize=1)
def tried() -> dict[str, tuple[Tried, ...]]:
    """Subject → the worlds it was tried in; empty where the file is not there."""
    try:
        rows = tomllib.loads(TRIED.read_text(encoding="utf-8"))["tried"]
    except (OSError, KeyError, tomllib.TOMLDecodeError):
        return {}
    found: dict[str, list[Tried]] = {}
    for row in rows:
        one = Tried(row["world"], int(row["cases"]), int(row["answered"]), float(row["covered"]))
        found.setdefault(row["subject"], []).append(one)
    return {subject: tuple(worlds) for subject, worlds in found.items()}


def trust(kind: str) -> Trust:
    """How far a kind of number may be trusted.

    Args:
        kind: a subject of ``benchmarks.trust`` or one of :data:`PLAIN`.
    """
    told = [w for w in tried().get(kind, ()) if w.answered]
    if not told:
        return PLAIN.get(kind, Trust("house default", "Its interval has not been tried in other worlds yet."))
    best, worst = max(w.covered for w in told), min(w.covered for w in told)
    words = (
        f"Its 95 % was tried in {len(told)} worlds that it does not assume, {sum(w.cases for w in told)} cases: it "
        f"held in {worst:.0f} to {best:.0f} of a hundred."
    )
    poor = [w for w in told if w.covered < POOR]
    if poor:
        words += f" Least: {'; '.join(f'{w.world}, {w.covered:.0f}' for w in poor[:2])}."
    return Trust("coverage tested", words)
