"""Which piston sits in which casing, and which way round, from where air comes out.

Air meets casing 1 first: it is nearest the mouthpiece (from memory). A piston lets air through, up and down, only in
its own casing and the right way round. Blowing with one valve down and its slide drawn, air comes out at that
slide only if it and every valve before it sit right.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import permutations, product

from creekbed.core.errors import BadInput

OPEN = "open"
ASKED = (OPEN, "1", "2", "3")
"""Blown through with no valve down; then with each valve down and its slide drawn, listening at that slide."""


@dataclass(frozen=True)
class Seating:
    """How three pistons may sit: ``pistons[n]`` is in casing n + 1, ``right_way[n]`` says that it is turned right."""

    pistons: tuple[int, int, int]
    right_way: tuple[bool, bool, bool]

    def passes(self, casing: int) -> bool:
        """Whether air passes casing 1, 2 or 3."""
        return self.pistons[casing - 1] == casing and self.right_way[casing - 1]

    def answer(self, asked: str) -> bool:
        """Whether air comes out: at the bell for "open", at the drawn slide for "1", "2", "3"."""
        last = 3 if asked == OPEN else int(asked)
        return all(self.passes(c) for c in range(1, last + 1))

    @property
    def wrong(self) -> int:
        """How many casings hold a wrong or wrongly turned piston."""
        return sum(not self.passes(c) for c in (1, 2, 3))

    def words(self) -> str:
        """What is wrong, in words."""
        said = []
        for casing, (piston, right) in enumerate(zip(self.pistons, self.right_way, strict=True), 1):
            if piston != casing:
                said.append(f"piston {piston} is in casing {casing}")
            elif not right:
                said.append(f"piston {piston} is turned the wrong way")
        return "; ".join(said) or "all sit right"


ALL = tuple(
    Seating(p, r)  # type: ignore[arg-type]
    for p in permutations((1, 2, 3))
    for r in product((True, False), repeat=3)
)
"""All six orders, each piston either way: 48 seatings."""


def fitting(answers: Mapping[str, bool]) -> list[Seating]:
    """The seatings that fit the answers, fewest mistakes first.

    Args:
        answers: "open", "1", "2" or "3" → whether air came out.

    Raises:
        BadInput: something else was asked, or the answers contradict one another.
    """
    for asked in answers:
        if asked not in ASKED:
            raise BadInput(f"“{asked}” is not asked.", todo=f"There are: {', '.join(ASKED)}.")
    left = [s for s in ALL if all(s.answer(asked) == air for asked, air in answers.items())]
    if not left:
        raise BadInput(
            "Those answers contradict each other: air cannot pass a valve and yet not reach it.",
            todo="Blow again, one at a time, the other slides pushed in.",
        )
    return sorted(left, key=lambda s: (s.wrong, s.pistons, s.right_way))


def advice(answers: Mapping[str, bool]) -> str:
    """What to do after these answers, in one line.

    Raises:
        BadInput: as :func:`fitting`.
    """
    left = fitting(answers)
    if left[0].wrong == 0 and all(answers.get(a) for a in ASKED):
        return "All three sit right."
    bad = next((a for a in ASKED[1:] if answers.get(a) is False), None)
    if bad is not None:
        return (
            f"Casing {bad} is the first that stops the air. Draw it and read its number: another number, put each in "
            f"its own casing; number {bad}, turn it until the guide drops into its slot."
        )
    following = next(a for a in ASKED if a not in answers)
    where = "no valve down" if following == OPEN else f"valve {following} down and its slide drawn"
    return f"Now blow with {where}."
