"""What parts are made of and what lies on them: the possible pairs, and what to ask of a new instrument."""

from __future__ import annotations

from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Part
from creekbed.core.quick_dataclasses import dataclass

UNKNOWN = "unknown"
"""The material of a part whose material has no entry; in a record the name that it was told by follows a colon."""


def known_as(recorded: str) -> str:
    """The entry that stands for a recorded material: "unknown" for "unknown:rose gold"."""
    return UNKNOWN if recorded == UNKNOWN or recorded.startswith(f"{UNKNOWN}:") else recorded


def surfaces(part: Part) -> list[tuple[str, str]]:
    """All pairs of material and finish ("" for none) that a part may have."""
    return [(m, f) for m in part.materials for f in (part.finishes or ("",))]


@dataclass(frozen=True)
class Question:
    """One thing to ask of a new instrument, for all the parts that share the answer.

    Attributes:
        kind: "material" or "finish". words: the parts, in words. parts: keys. choices: keys of materials.
    """

    kind: str
    words: str
    parts: tuple[str, ...]
    choices: tuple[str, ...]


def questions(family: Family) -> list[Question]:
    """What must be known of a new instrument because steps depend on it; parts with the same choices are asked once."""
    asked = {c.fact for c in family.conditions if c.fact.startswith(("material.", "finish."))} | {"material.mouthpiece"}
    found: list[Question] = []
    for kind in ("material", "finish"):
        by_choice: dict[tuple[str, ...], list[Part]] = {}
        for part in family.part:
            choices = part.materials if kind == "material" else part.finishes
            if len(choices) > 1:
                by_choice.setdefault(choices, []).append(part)
        for choices, parts in by_choice.items():
            named = [p for p in parts if f"{kind}.{p.key}" in asked]
            if named:
                words = ", ".join(p.name for p in named)
                found.append(Question(kind, words, tuple(p.key for p in parts), choices))
    return found
