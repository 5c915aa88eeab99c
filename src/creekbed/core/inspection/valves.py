"""Which piston sits in which casing, and which way round, from where air comes out.

The air's way is not the order in which the valves stand. On a trumpet or cornet the mouthpipe enters casing 3, then
the air passes 2 and 1; on most euphoniums, baritones and tubas it meets 1 first (from memory). A piston lets air
through, up and down, only in its own casing and the right way round. Blowing with one valve down and its slide drawn,
air comes out at that slide only if that valve and every one that the air meets before it sit right.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache
from itertools import permutations, product

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

OPEN = "open"
TRUMPET_WAY, TUBA_WAY = (3, 2, 1), (1, 2, 3)
MOST = 4
_WORDS = {3: "three", 4: "four"}


@dataclass(frozen=True)
class Seating:
    """How the pistons may sit: ``pistons[n]`` is in casing n + 1, ``right_way[n]`` says that it is turned right."""

    pistons: tuple[int, ...]
    right_way: tuple[bool, ...]

    def passes(self, casing: int) -> bool:
        """Whether air passes a casing, 1 and on."""
        return self.pistons[casing - 1] == casing and self.right_way[casing - 1]

    def answer(self, asked: str, way: Sequence[int]) -> bool:
        """Whether air comes out: at the bell for "open", at the drawn slide for "1", "2" …

        Args:
            way: casings in the order in which the air meets them.
        """
        until = len(way) if asked == OPEN else way.index(int(asked)) + 1
        return all(self.passes(c) for c in way[:until])

    @property
    def wrong(self) -> int:
        """How many casings hold a wrong or wrongly turned piston."""
        return sum(not self.passes(c) for c in range(1, len(self.pistons) + 1))

    def words(self) -> str:
        """What is wrong, in words."""
        said = []
        for casing, (piston, right) in enumerate(zip(self.pistons, self.right_way, strict=True), 1):
            if piston != casing:
                said.append(f"piston {piston} is in casing {casing}")
            elif not right:
                said.append(f"piston {piston} is turned the wrong way")
        return "; ".join(said) or "all sit right"


def checked(way: Sequence[int]) -> tuple[int, ...]:
    """A way of the air that can be.

    Raises:
        BadInput: not each of three or four casings once.
    """
    found = tuple(way)
    if len(found) not in _WORDS or sorted(found) != list(range(1, len(found) + 1)):
        raise BadInput(
            f"{', '.join(map(str, found)) or 'Nothing'} is no way through three or four casings.",
            todo="Write each once, the first that the air meets first: 3,2,1.",
        )
    return found


def asked_of(way: Sequence[int]) -> tuple[str, ...]:
    """What is blown, in the best order: with no valve down, then each in the order in which the air meets it."""
    return (OPEN, *(str(c) for c in way))


@lru_cache(maxsize=4)
def seatings(count: int) -> tuple[Seating, ...]:
    """All orders of so many pistons, each either way round: 48 of three, 384 of four."""
    every = range(1, count + 1)
    return tuple(Seating(p, r) for p in permutations(every) for r in product((True, False), repeat=count))


def fitting(answers: Mapping[str, bool], way: Sequence[int] = TRUMPET_WAY) -> list[Seating]:
    """The seatings that fit the answers, fewest mistakes first.

    Args:
        answers: "open", "1", "2" … → whether air came out. way: casings in the order in which the air meets them.

    Raises:
        BadInput: something else was asked, or the answers contradict one another; the message names those of which one
            must be repeated.
    """
    way = checked(way)
    for asked in answers:
        if asked not in asked_of(way):
            raise BadInput(f"“{asked}” is not asked.", todo=f"There are: {', '.join(asked_of(way))}.")
    left = _fit(answers, way)
    if not left:
        again = [a for a in answers if _fit({**answers, a: not answers[a]}, way)] or list(answers)
        raise BadInput(
            "Those answers contradict each other: air cannot pass a valve and yet not reach it.",
            todo=f"Blow again, the other slides pushed in: {' and '.join(_asked_words(a) for a in again)}.",
        )
    return sorted(left, key=lambda s: (s.wrong, s.pistons, s.right_way))


def _fit(answers: Mapping[str, bool], way: tuple[int, ...]) -> list[Seating]:
    return [s for s in seatings(len(way)) if all(s.answer(a, way) == air for a, air in answers.items())]


def _asked_words(asked: str) -> str:
    return "with no valve down" if asked == OPEN else f"with valve {asked} down"


def advice(answers: Mapping[str, bool], way: Sequence[int] = TRUMPET_WAY) -> str:
    """What to do after these answers, in one line.

    Raises:
        BadInput: as :func:`fitting`.
    """
    way = checked(way)
    left = fitting(answers, way)
    if left[0].wrong == 0 and all(answers.get(a) for a in asked_of(way)):
        return f"All {_WORDS[len(way)]} sit right."
    bad = next((a for a in asked_of(way)[1:] if answers.get(a) is False), None)
    before = asked_of(way)[1 : asked_of(way).index(bad)] if bad is not None else ()
    if bad is not None and all(answers.get(a) for a in before):
        return (
            f"Casing {bad} is the first that stops the air. Draw it and read its number: another number, put each in "
            f"its own casing; number {bad}, turn it until the guide drops into its slot."
        )
    following = next(a for a in asked_of(way) if a not in answers)
    where = "no valve down" if following == OPEN else f"valve {following} down and its slide drawn"
    return f"Now blow with {where}."


def way_words(way: Sequence[int]) -> str:
    """The way in words: "The air meets casing 3 first, then 2, then 1."."""
    first, *rest = way
    return f"The air meets casing {first} first, then {', then '.join(map(str, rest))}."
