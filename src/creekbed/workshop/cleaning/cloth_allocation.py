"""Allocates the dry cloths on the shelf to jobs, in order of departure."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import UTC, datetime

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.steps import Step
from creekbed.core.procedure.decide import SWAP
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.reader import Reader
from creekbed.workshop.bench.job_rows import JobRows

WASH = "cloths_wash"
"""The step that washes the cloths of the case, where no dry one of the shop's takes their place."""
FAR = datetime.max.replace(tzinfo=UTC)


@dataclass(frozen=True)
class Wish:
    """What one job says of cloths.

    Attributes:
        leaves_at: when its departure is, if it has one. contents: item → state. done: steps that are done or left out.
    """

    job_id: int
    leaves_at: datetime | None
    family: str
    contents: Mapping[str, str]
    done: frozenset[str]


def wish_of(rows: JobRows) -> Wish:
    """What a job says of cloths, from its records."""
    return Wish(
        rows.job.id, rows.departure.leaves_at if rows.departure else None, rows.instrument.family,
        {line.item: line.state for line in rows.lines},
        frozenset(w.key for w in rows.work if w.state in ("done", "waived") and w.key in (SWAP, WASH)),
    )  # fmt: skip


def share_out(catalogue: Catalogue, wishes: Iterable[Wish], dry: Mapping[str, int]) -> dict[int, frozenset[str]]:
    """The stuffs of which each job has a dry cloth to itself.

    A job that took one keeps it, and one that has washed its own wants none, so that what was done stays a step of its
    job whatever the shelf holds later.

    Args:
        wishes: of all open jobs. dry: stuff → dry cloths on the shelf now.
    """
    left, found = dict(dry), {}
    for wish in sorted(wishes, key=lambda w: (w.leaves_at or FAR, w.job_id)):
        swap = _swap(catalogue, wish.family)
        mine = False
        if swap is not None and SWAP in wish.done:
            mine = True
        elif swap is not None and WASH not in wish.done and _asks(swap, wish.contents):
            mine = left.get(swap.cloth, 0) > 0
            left[swap.cloth] = left.get(swap.cloth, 0) - mine
        found[wish.job_id] = frozenset({swap.cloth}) if swap is not None and mine else frozenset()
    return found


def _swap(catalogue: Catalogue, family: str) -> Step | None:
    memory: dict[str, Step | None] = catalogue.memory.setdefault("swap", {})
    if family not in memory:
        known = catalogue.families.get(family)
        memory[family] = next((s for s in known.step if s.key == SWAP), None) if known is not None else None
    return memory[family]


def _asks(swap: Step, contents: Mapping[str, str]) -> bool:
    """Whether there is a cloth in its case to be swapped."""
    of_case = [c for c in swap.when if c.fact.startswith("contents.")]
    facts = {c.fact: frozenset({contents.get(c.fact.partition(".")[2], "present")}) for c in of_case}
    return all(c.holds(facts) for c in of_case)


def wishes_in(records: Reader, dry: Mapping[str, int]) -> list[Wish]:
    """The wishes of all open jobs; what lies in their cases is read only where there may be too few cloths."""
    jobs = records.steps.open_jobs()
    lines: dict[int, dict[str, str]] = {}
    if min(dry.values(), default=0) < len(jobs):
        for n, item, state in records.steps.contents_of_open_jobs():
            lines.setdefault(n, {})[item] = state
    done: dict[int, set[str]] = {}
    for n, key in records.steps.done_in_open_jobs((SWAP, WASH)):
        done.setdefault(n, set()).add(key)
    return [Wish(n, leaves, family, lines.get(n, {}), frozenset(done.get(n, ()))) for n, family, leaves in jobs]
