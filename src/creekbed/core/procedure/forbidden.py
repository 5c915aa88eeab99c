"""What open findings forbid: a fallen post, a dented hand slide, a cracked bow. What is forbidden waits until the
instrument is back from whoever mends it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from creekbed.core.catalogue.models.base import Deed
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Check
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.situation import Situation


def forbidden_by(family: Family, situation: Situation) -> dict[Deed, tuple[str, ...]]:
    """Deed → the checks whose open finding forbids it."""
    found: dict[Deed, tuple[str, ...]] = {}
    for check in family.check:
        for deed in _forbids(check, situation):
            found[deed] = (*found.get(deed, ()), check.key)
    return found


def _forbids(check: Check, situation: Situation) -> tuple[Deed, ...]:
    result = situation.findings.get(check.key)
    if result is None or check.key in situation.closed:
        return ()
    if check.kind == "measure":
        return check.forbids if result.band == "act" else ()
    return tuple(dict.fromkeys(deed for o in check.options if o.key in result.facts for deed in o.forbids))


def hold_back(
    built: Mapping[str, BuiltStep],
    does: Mapping[str, frozenset[Deed]],
    forbidden: Mapping[Deed, tuple[str, ...]],
    send: str,
) -> dict[str, BuiltStep]:
    """The steps of a job with those held back that an open finding forbids.

    Sending it out comes after all that can be done before, and before what is held back.

    Args:
        does: step → what it does. send: the step that sends it out; it is left out where nothing is held back.
    """
    held = {
        key: tuple(dict.fromkeys(c for deed in sorted(does.get(step.base, ())) for c in forbidden.get(deed, ())))
        for key, step in built.items()
    }
    held = {key: checks for key, checks in held.items() if checks}
    if not held:
        return {key: step for key, step in built.items() if key != send}
    later = all_after(built, held)
    sooner = tuple(key for key in built if key not in later and key != send)
    found = {}
    for key, step in built.items():
        if key == send:
            found[key] = replace(step, after=sooner, deeds=frozenset(sooner))
        elif key in held:
            found[key] = replace(step, held=held[key], after=(*step.after, *({send} & built.keys())))
        else:
            found[key] = step
    return found


def all_after(steps: Mapping[str, BuiltStep], first: Iterable[str]) -> set[str]:
    """These steps, what ends a wait of theirs, and all that comes after them."""
    found = set(first)
    while more := {key for key, step in steps.items() if found & step.before} - found:
        found |= more
    return found
