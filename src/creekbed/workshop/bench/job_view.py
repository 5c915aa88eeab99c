"""What the window and the shell show: read models of jobs, built from the records and the catalogue."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import UTC, datetime
from functools import cached_property

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.base import STAGES, Stage
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Check
from creekbed.core.errors import CreekbedError
from creekbed.core.procedure.build import build
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.situation import Situation
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.reader import Reader
from creekbed.store.records import (
    AwaitedPart,
    ContentLine,
    Departure,
    Finding,
    Hire,
    Instrument,
    Job,
    Mark,
    StepRecord,
    Wait,
)
from creekbed.words.instruments import stands_still, unreadable
from creekbed.workshop.bench.cupboard import Cupboard, cupboard
from creekbed.workshop.bench.job_rows import (
    Broken,
    JobRows,
    all_departures,
    days_since,
    earlier_work,
    mixing_lots,
    rows_of_jobs,
)  # fmt: skip
from creekbed.workshop.bench.job_situation import SURPLUS, situation_of
from creekbed.workshop.bench.wait_view import WaitView, shut_case, wait_view
from creekbed.workshop.cleaning.cloth_allocation import share_out, wish_of, wishes_in
from creekbed.workshop.cleaning.dryness import is_damp
from creekbed.workshop.cleaning.shelf import SETTLED, TABLES, shelf_of
from creekbed.workshop.shop.machine_clocks import ONE_CLOCK, MachineClocks


@dataclass(frozen=True)
class StepView:
    """A built step and how it stands: done, waived, ready, waiting (for a wait), later, or held by a finding."""

    step: BuiltStep
    state: str
    until: datetime | None = None
    """When what it waits for is over, if it is waiting."""
    work: StepRecord | None = None
    parts: tuple[AwaitedPart, ...] = ()
    """What it cannot be done without, and is on its way."""


@dataclass(frozen=True)
class JobView:
    """A job as it stands."""

    job: Job
    instrument: Instrument
    family: Family
    hire: Hire | None
    departure: Departure | None
    situation: Situation
    steps: tuple[StepView, ...]
    waits: tuple[WaitView, ...]
    lines: dict[str, ContentLine]
    findings: dict[str, Finding]
    all_work: tuple[StepRecord, ...]
    marks: tuple[Mark, ...] = ()
    parts: tuple[AwaitedPart, ...] = ()
    """What is on its way for it."""
    surplus: tuple[str, ...] = ()
    """What lay in its case and does not belong there."""
    running: tuple[Wait, ...] = ()
    """Records of the waits that have not ended."""

    @property
    def tag(self) -> str:
        return self.instrument.tag

    @cached_property
    def open_steps(self) -> tuple[StepView, ...]:
        return tuple(s for s in self.steps if s.state not in ("done", "waived"))

    @property
    def stage(self) -> Stage:
        """The earliest stage with something left to do; settling shows while strings settle."""
        return self._open_stage if self.job.state == "open" else "ready"

    @cached_property
    def _open_stage(self) -> Stage:
        stages = {s.step.stage for s in self.open_steps}
        return min(stages, key=STAGES.index) if stages else "ready"

    @property
    def done_share(self) -> float:
        return 1 - len(self.open_steps) / len(self.steps) if self.steps else 1.0

    @property
    def blocked(self) -> str:
        """Why nothing can go on, or ""."""
        quarantine = bool(self.job.quarantine)
        if quarantine and self.treating:
            return ""
        treated = quarantine and any(s.step.quarantine and s.work is not None for s in self.steps)
        return stands_still(self.job.quarantine, treated, self.job.waiting_for, self.job.back_at)

    @property
    def stands(self) -> str:
        """Why it cannot leave now, or "": it stands still, or it is in quarantine."""
        return self.blocked or self.job.quarantine

    @property
    def treating(self) -> tuple[str, ...]:
        """What is open, or runs, of the steps that are done while it is in quarantine."""
        if not self.job.quarantine:
            return ()
        open_ = {s.step.key for s in self.open_steps} | {w.key for w in self.waits}
        return tuple(s.step.key for s in self.steps if s.step.quarantine and s.step.key in open_)

    @property
    def treatment(self) -> str:
        """What treats it and is to be done first, or "" where all of that is done or runs."""
        treating = set(self.treating)
        return next((s.step.what for s in self.open_steps if s.step.key in treating), "")

    def kept_back(self, step: BuiltStep) -> bool:
        """Whether a step waits until the quarantine is lifted."""
        return kept_back(self.job, step)

    @cached_property
    def checks(self) -> tuple[Check, ...]:
        """The checks that can be done on what is there, in the order of the looks that ask them."""
        known = {c.key: c for c in self.family.check}
        return tuple(known[key] for s in self.steps for key in s.step.checks)

    @cached_property
    def looks(self) -> tuple[StepView, ...]:
        """The looks of the job, in their order."""
        return tuple(s for s in self.steps if s.step.kind == "look")

    @property
    def look(self) -> StepView | None:
        """The look that is to be done now or next; ``None``: all are done."""
        left = [s for s in self.looks if s.work is None]
        return next((s for s in left if s.state == "ready"), left[0] if left else None)

    def asked_at(self, check: str) -> StepView | None:
        """The look that asks a check."""
        return next((s for s in self.looks if check in s.step.checks), None)

    def needed_at(self, look: BuiltStep) -> tuple[Check, ...]:
        """The checks without which one look is not complete."""
        return tuple(c for c in self.needed if c.key in look.checks)

    @property
    def needed(self) -> tuple[Check, ...]:
        """The checks without which the inspection is not complete."""
        return tuple(c for c in self.checks if not c.optional)

    def step(self, key: str) -> StepView | None:
        return self._by_key.get(key)

    @cached_property
    def _by_key(self) -> dict[str, StepView]:
        return {s.step.key: s for s in self.steps}


def load_jobs(
    records: Reader,
    catalogue: Catalogue,
    now: datetime,
    *,
    states: Sequence[str] = ("open",),
    job_id: int | None = None,
    clocks: MachineClocks = ONE_CLOCK,
) -> list[JobView]:
    """Jobs in the given states (or the one asked for) as they stand at ``now``, in order of departure."""
    ids = None if job_id is None else [job_id]
    rows = rows_of_jobs(records, all_departures(records), states=states, ids=ids)
    strings = any(catalogue.family(r.instrument.family).stringed is not None for r in rows)
    shelf = shelf_of(records, TABLES if strings else TABLES - {SETTLED})
    stock, coming = cupboard(catalogue, mixing_lots(records, catalogue), now, shelf), records.jobs.awaited_parts()
    dry = shelf.dry(now)
    wishes = wishes_in(records, dry)
    listed = {w.job_id for w in wishes}
    cloths = share_out(catalogue, (*wishes, *(wish_of(r) for r in rows if r.job.id not in listed)), dry)
    lately = days_since(earlier_work(records, catalogue, rows), now)
    return in_order(
        view_of(catalogue, now, r, stock, lately.get(r.job.tag, {}), coming.get(r.job.id, ()), cloths[r.job.id], clocks)
        for r in rows
    )


def in_order(views: Iterable[JobView]) -> list[JobView]:
    """In order of departure; jobs without one come last."""
    far = datetime.max.replace(tzinfo=UTC)
    return sorted(views, key=lambda v: (v.departure.leaves_at if v.departure else far, v.job.id))


def view_of(
    catalogue: Catalogue,
    now: datetime,
    rows: JobRows,
    stock: Cupboard,
    lately: Mapping[str, float],
    coming: tuple[AwaitedPart, ...],
    cloths: frozenset[str],
    clocks: MachineClocks = ONE_CLOCK,
) -> JobView:
    """A job as it stands at ``now``.

    Args:
        lately: step → days since it was last done in an earlier job. coming: parts on their way for it.
        cloths: stuffs of which it has a dry cloth of the shop to itself. clocks: of the machines that began its waits.
    """
    job, instrument = rows.job, rows.instrument
    family = catalogue.family(instrument.family)
    situation = situation_of(
        job, instrument, family, rows.lines, rows.findings, rows.work, stock, lately, cloths,
        stock.shelf.creeps_times(family, job.id),
    )  # fmt: skip
    limits = catalogue.house.limits
    if job.case_c is not None and not limits.cold_case_c <= job.case_c <= limits.hot_case_c:
        situation = replace(situation, came="hot" if job.case_c > limits.hot_case_c else "cold")
    built = _built(catalogue, situation)
    done = {w.key: w for w in rows.work if w.state in ("done", "waived")}
    built = [s for s in built if not _made_already(s, built, done)]
    running = {
        w.key: wait_view(w, instrument.tag, now, is_damp(catalogue, w), clocks) for w in rows.waits if not w.ended_at
    }
    missing = {line.item for line in rows.lines if line.state == "missing"}
    coming = tuple(p for p in coming if p.key not in done and (not p.item or p.item in missing))
    steps = tuple(_step_view(s, done, running, now, job, coming) for s in built)
    shut = shut_case(job, now)
    still = tuple(w for w in running.values() if w.contact.remaining or w.damp or _has_ender(w.key, built, done))
    return JobView(
        job, instrument, catalogue.family(instrument.family), rows.hire, rows.departure, situation, steps,
        ((shut,) if shut else ()) + still, {line.item: line for line in rows.lines if line.state != SURPLUS},
        {f.check: f for f in rows.findings}, rows.work, rows.marks, coming,
        tuple(line.reason for line in rows.lines if line.state == SURPLUS),
        tuple(w for w in rows.waits if not w.ended_at),
    )  # fmt: skip


_MEMORY_SIZE = 256


def _built(catalogue: Catalogue, situation: Situation) -> list[BuiltStep]:
    """The steps of a situation, remembered: most jobs have not changed since the last look at the bench."""
    memory: dict[str, list[BuiltStep]] = catalogue.memory.setdefault("built", {})
    key = repr(situation)
    if key not in memory:
        if len(memory) >= _MEMORY_SIZE:
            del memory[next(iter(memory))]
        memory[key] = build(catalogue, situation)
    return memory[key]


def _made_already(step: BuiltStep, built: list[BuiltStep], done: dict[str, StepRecord]) -> bool:
    """Whether a mix step is done with: the mix was there when it was needed, even if it is used up now."""
    if step.kind != "mix" or step.key in done:
        return False
    needing = [s.key for s in built if step.key in s.after]
    return bool(needing) and all(k in done for k in needing)


def _has_ender(key: str, built: list[BuiltStep], done: dict[str, StepRecord]) -> bool:
    return any(s.ends == key and s.key not in done for s in built)


def kept_back(job: Job, step: BuiltStep) -> bool:
    """Whether a step waits until the quarantine of its job is lifted."""
    return bool(job.quarantine) and not step.in_quarantine


def _step_view(
    step: BuiltStep,
    done: dict[str, StepRecord],
    running: dict[str, WaitView],
    now: datetime,
    job: Job,
    coming: tuple[AwaitedPart, ...],
) -> StepView:
    work = done.get(step.key)
    if work is not None:
        return StepView(step, work.state, None, work)
    parts = tuple(p for p in coming if p.key == step.key)
    if step.held:
        return StepView(step, "held", parts=parts)
    if any(before not in done for before in step.after) or kept_back(job, step):
        return StepView(step, "later", parts=parts)
    until = job.release_at if job.release_at is not None and job.release_at > now else None
    for before in step.waits_for:
        wait = running.get(before)
        if wait is not None and not wait.contact.may_end:
            end = now + wait.contact.remaining
            until = end if until is None else max(until, end)
    late = max((p.at for p in parts), default=now)
    if late > now:
        until = late if until is None else max(until, late)
    return StepView(step, "waiting" if until is not None else "ready", until, None, parts)


def view_or_broken(
    catalogue: Catalogue, now: datetime, rows: JobRows, stock: Cupboard, lately: Mapping[str, float],
    coming: tuple[AwaitedPart, ...], cloths: frozenset[str], clocks: MachineClocks = ONE_CLOCK,
) -> JobView | Broken:  # fmt: skip
    """A job as it stands at ``now``, or why it cannot be told: the shop's own files or its records are not sound."""
    try:
        return view_of(catalogue, now, rows, stock, lately, coming, cloths, clocks)
    except CreekbedError as error:
        return Broken(rows.job.id, rows.job.tag, error.words())
    except (LookupError, ValueError, TypeError, AttributeError, ArithmeticError) as error:
        return Broken(rows.job.id, rows.job.tag, unreadable(type(error).__name__, str(error)))


def load_job(
    records: Reader, catalogue: Catalogue, now: datetime, job_id: int, clocks: MachineClocks = ONE_CLOCK
) -> JobView | None:
    """One job as it stands, or ``None``."""
    return next(iter(load_jobs(records, catalogue, now, job_id=job_id, clocks=clocks)), None)
