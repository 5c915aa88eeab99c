"""What another choice of policy would change in a job: steps, their order, minutes, supplies, and what is due."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import replace

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.family import Family
from creekbed.core.conventions import number
from creekbed.core.inspection.verdicts import Result
from creekbed.core.procedure.build import build
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.imagine import imagine
from creekbed.core.procedure.situation import Situation, intervals
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import before_list


@dataclass(frozen=True)
class Difference:
    """What changes.

    Attributes:
        before, after: steps whose words change, that fall away or come in, in words.
        moved: steps that change places, in words.
        minutes: further minutes of hands (less, if negative). wait_minutes: likewise of shortest waits.
        supplies: item → further amount.
        due: what is due how often, where that changes, in words.
    """

    before: tuple[str, ...]
    after: tuple[str, ...]
    moved: tuple[str, ...]
    minutes: float
    wait_minutes: float
    supplies: Mapping[str, float]
    due: tuple[str, ...]

    @property
    def nothing(self) -> bool:
        """Whether the job stays as it is."""
        changed = (self.before, self.after, self.moved, self.minutes, self.wait_minutes, self.supplies, self.due)
        return not any(changed)


def compare_policies(catalogue: Catalogue, situation: Situation, topic: str, choice: str) -> Difference:
    """How a job would change under another choice of one topic; nothing is stored.

    Args:
        situation: a job, real or imagined. topic, choice: keys in the catalogue.
    """
    other = replace(situation, policies={**situation.policies, topic: choice})
    now, then = build(catalogue, situation), build(catalogue, other)
    old, new = {s.key: s for s in now}, {s.key: s for s in then}
    before, after = [], []
    for key in {**old, **new}:
        words = _said(old.get(key), new.get(key))
        if words != ("", ""):
            before += [words[0]] if words[0] else []
            after += [words[1]] if words[1] else []
    family = catalogue.families[situation.family]
    due_now = {d.what: d for d in intervals(catalogue, family, situation.policies)}
    due_then = intervals(catalogue, family, other.policies)
    return Difference(
        tuple(before),
        tuple(after),
        tuple(_moved(old, new)),
        round(sum(s.hands_min for s in then) - sum(s.hands_min for s in now), 2),
        round(_waits(then) - _waits(now), 2),
        _further(now, then),
        tuple(f"{d.what}: every {number(d.every_days)} days" for d in due_then if due_now[d.what] != d),
    )


def _waits(steps: list[BuiltStep]) -> float:
    return sum(s.wait.min_minutes for s in steps if s.wait is not None)


def _further(now: list[BuiltStep], then: list[BuiltStep]) -> dict[str, float]:
    amounts: Counter[str] = Counter()
    for steps, sign in ((then, 1), (now, -1)):
        for step in steps:
            for item, amount in step.supplies:
                amounts[item] += sign * amount  # type: ignore[assignment]
    return {item: round(amount, 3) for item, amount in amounts.items() if abs(amount) > 1e-9}


def _said(old: BuiltStep | None, new: BuiltStep | None) -> tuple[str, str]:
    """The words by which two steps differ, the shortest that show it; empty where they say the same."""
    if old is None or new is None:
        return (old.what if old else "", new.what if new else "")
    if old.what != new.what:
        return old.what, new.what
    for name in ("amount", "how"):
        a, b = getattr(old, name), getattr(new, name)
        if a != b:
            return f"{old.what}: {a}".rstrip(": "), f"{new.what}: {b}".rstrip(": ")
    for a, b in zip(old.moves, new.moves, strict=False):
        if (a.what, a.how) != (b.what, b.how):
            return f"{a.what}. {a.how}", f"{b.what}. {b.how}"
    tools = (", ".join(old.tools), ", ".join(new.tools))
    return (f"{old.what}: {tools[0]}", f"{new.what}: {tools[1]}") if tools[0] != tools[1] else ("", "")


def _moved(old: Mapping[str, BuiltStep], new: Mapping[str, BuiltStep]) -> Iterator[str]:
    """Steps that now wait for one which did not come before them."""
    place = {key: n for n, key in enumerate(old)}
    for key, step in new.items():
        later = [b for b in step.after if b in place and key in place and place[b] > place[key]]
        for before in later:
            yield f"“{before_list(step.what)}” comes after “{before_list(new[before].what)}”"


def telling(catalogue: Catalogue, family: Family, policies: Mapping[str, str]) -> Iterator[tuple[str, Situation]]:
    """Imagined jobs in which a choice may show, the plainest first, each with its words ("for the same renter")."""
    known = {t.key for t in catalogue.topics_for(family)}
    plain = imagine(catalogue, family, policies={k: v for k, v in policies.items() if k in known})
    yield "", plain
    yield "for the same renter again", replace(plain, renter="same")
    findings, places = everything_out(family)
    yield "with everything out of order", replace(plain, findings=findings, places=places)
    silver = {p.key: "silver_plate" for p in family.part if "silver_plate" in p.finishes}
    yield "in silver plate", replace(plain, finishes=silver)
    days = {s.key: 9.0 for s in family.step if s.every_days or s.every_by}
    yield "cleaned nine days ago", replace(plain, lately=days)


def everything_out(family: Family, which: int = 0) -> tuple[dict[str, Result], dict[str, dict[str, str]]]:
    """Findings that call for as many steps as can be: every check out, each place with one answer.

    Args:
        which: shifts the answer taken from each check's list.
    """
    results: dict[str, Result] = {}
    places: dict[str, dict[str, str]] = {}
    for check in family.check:
        if check.kind == "measure":
            results[check.key] = Result("act", "bench", "", "", frozenset({"act"}))
            continue
        answer = check.options[(which + 1) % len(check.options)]
        results[check.key] = Result(answer.band, answer.verdict, "", "", frozenset({answer.key}))
        if check.kind == "places":
            places[check.key] = dict.fromkeys(check.places, answer.key)
    return results, places
