"""Tuning the strings of a job by sound: which are new, and what their readings say to the step that asks."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from creekbed.core.conventions import number
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.shop.shop import Shop

if TYPE_CHECKING:
    from creekbed.core.sound.string_tuning import StringState, Target


def strings_of(shop: Shop, family: str, *, pure_fifths: bool = False) -> tuple[Target, ...]:
    """The strings of a family at the shop's pitch, the lowest first; none for one without strings.

    Raises:
        BadInput: pure fifths for strings that do not lie in fifths.
    """
    from creekbed.core.sound.string_tuning import targets  # the window opens without it

    stringed = shop.catalogue.families[family].stringed
    if stringed is None:
        return ()
    return targets(stringed, shop.catalogue.house.limits.a4_hz, pure_fifths=pure_fifths)


def new_strings(view: JobView) -> tuple[str, ...]:
    """Keys of the strings that were found worn or missing, and so are new."""
    found = view.findings.get("strings")
    return tuple(found.places) if found is not None else ()


def wants_tuning(view: JobView, step: StepView) -> bool:
    """Whether a step is one at which strings are tuned, or the test in which all of them are played."""
    return view.family.stringed is not None and (
        step.step.kind == "retune" or step.step.base == "hang" or is_test(step)
    )


def is_test(step: StepView) -> bool:
    """Whether a step is the play-test."""
    return step.step.kind == "test" and step.step.base == "play"


def readings_of(states: Iterable[StringState]) -> dict[str, dict[str, float]]:
    """What was read of each string that was played, as it is kept: string → cents above its pitch.

    As it was found ("found", "u_found") and as it was left ("left", "u_left").
    """
    kept: dict[str, dict[str, float]] = {}
    for state in states:
        if state.found is None or state.now is None:
            continue
        kept[state.target.key] = {
            "found": round(state.found.cents, 2), "u_found": round(state.found.u_cents, 3),
            "left": round(state.now.cents, 2), "u_left": round(state.now.u_cents, 3),
        }  # fmt: skip
    return kept


def flat_words(states: Iterable[StringState], new: Iterable[str]) -> str:
    """How flat the new string was before it was turned, as a retune takes it; "" when none was heard.

    Of several new strings the one that went flat most counts: the job waits for it.
    """
    wanted = set(new)
    flat = [-s.found.cents for s in states if s.found is not None and (not wanted or s.target.key in wanted)]
    return f"{number(max(flat), 1)} cents" if flat else ""
