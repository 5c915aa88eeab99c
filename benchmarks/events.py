"""Planning through random days: ``python -m benchmarks.events [SEQUENCES]``.

Each sequence is a bench of a few jobs to which things happen: work done early or late, a new job, one cancelled,
somebody leaves or comes back, a place breaks, something is set to a time or let go, the clock goes on while nobody
looks, or is set. After each, the bench is planned anew from the plan that was shown, as the window does it: at once
what can be kept of that, then what is better. Every plan is judged by the checker, which shares no code with the
planner; what is in hand never moves, and what was to be next begins no later than it was shown to unless the plan says
why.
"""

from __future__ import annotations

import random
import sys
import time
from collections import Counter
from dataclasses import dataclass, field, replace

from benchmarks.planning import CAPACITY
from creekbed.core.planning.dispatch import unplaced
from creekbed.core.planning.model import Operation, Pin, Plan, PlanJob, PlanPerson, Problem, RunningWait, Weights
from creekbed.core.planning.place_capacity import ONE, Piece
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.replanning import keep, replan, with_preferred

DAY = 1440.0
HOURS = tuple((d * DAY + a, d * DAY + b) for d in range(15) for a, b in ((0.0, 240.0), (270.0, 540.0)))
KINDS = (
    "early", "late", "done", "done", "new", "cancelled", "leaves", "back", "breaks", "mended", "pause", "clock", "set",
    "let go",
)  # fmt: skip


@dataclass
class Day:
    """A bench while things happen to it. ``now`` is minutes from its beginning."""

    chance: random.Random
    now: float = 0.0
    jobs: list[PlanJob] = field(default_factory=list)
    running: dict[str, list[RunningWait]] = field(default_factory=dict)
    """Waits that run, by job; their times are from the beginning of the day."""
    gone: set[str] = field(default_factory=set)
    capacity: dict[str, int] = field(default_factory=lambda: {**CAPACITY, "tub": 2})
    in_hand: dict[str, tuple[str, str, float]] = field(default_factory=dict)
    """Person → job, operation, begun at."""
    set: dict[tuple[str, str], tuple[str, float]] = field(default_factory=dict)
    """Job, operation → who is to do it, and when it is to begin."""
    shown: Plan | None = None
    shown_at: float = 0.0
    count: int = 0

    def new_job(self) -> None:
        """Somebody brings something."""
        chance, rows = self.chance, list[Operation]()
        for k in range(chance.randint(2, 6)):
            after = (f"o{k - 1}",) if k else ()
            hands = float(chance.choice((1, 2.5, 4, 7)))
            if rows and rows[-1].wait_max is not None:
                rows.append(Operation(f"o{k}", hands, after, ends=f"o{k - 1}"))
            elif chance.random() < 0.25:
                piece = chance.choice((ONE, ONE, Piece(1, "reed"), Piece(1, "mouthpiece"), Piece(2)))
                rows.append(Operation(f"o{k}", hands, after, 10.0, 10.0 + chance.choice((10, 30)), "tub", piece=piece))
            elif chance.random() < 0.2:
                rows.append(Operation("mix", 3.0, after, shares="mix", keeps_min=480.0))
                rows.append(
                    Operation(f"o{k}", hands, ("mix",), 30.0, None, "rack", piece=Piece(chance.choice((1, 1, 3))))
                )
            else:
                rows.append(Operation(f"o{k}", hands, after, at=chance.choice((None, None, "sink"))))
        if rows[-1].wait_max is not None:
            rows.append(Operation("last", 2.0, (rows[-1].key,), ends=rows[-1].key))
        self.count += 1
        due = self.now + chance.choice((60.0, 200.0, 900.0, 3000.0)) if chance.random() < 0.8 else None
        seen, unique = set(), []
        for o in rows:
            if o.key not in seen:
                unique.append(o)
            seen.add(o.key)
        self.jobs.append(PlanJob(f"J{self.count}", tuple(unique), due, chance.choice((1.0, 2.0))))

    def problem(self) -> Problem:
        """The bench as the planner is asked about it now."""
        jobs = [
            replace(
                j, due=None if j.due is None else j.due - self.now,
                running=tuple(
                    replace(r, earliest=r.earliest - self.now, latest=None if r.latest is None else r.latest - self.now)
                    for r in self.running.get(j.key, ())
                ),
            )
            for j in self.jobs
        ]  # fmt: skip
        windows = tuple((max(a - self.now, 0.0), b - self.now) for a, b in HOURS if b > self.now)
        away = tuple((a, b) for a, b in windows if a > 600)
        people = (
            PlanPerson("A", away if "A" in self.gone else windows),
            PlanPerson("B", away if "B" in self.gone else windows),
        )  # fmt: skip
        held = {(j, o): (p, at) for p, (j, o, at) in self.in_hand.items()}
        pins = [Pin(j, o, p, "in_hand", at - self.now) for (j, o), (p, at) in held.items()]
        pins += [
            Pin(*key, who, "fixed", max(at - self.now, 0.0)) for key, (who, at) in self.set.items() if key not in held
        ]
        known = {(j.key, o.key) for j in jobs for o in j.operations}
        pins = [p for p in pins if (p.job, p.operation) in known]
        asked = Problem(
            tuple(jobs), self.capacity, windows, tuple(pins), people, Weights(change=2.0), holds={"tub": 4},
            spare=4.0, grace=2.0,
        )  # fmt: skip
        return with_preferred(asked, self.shown, self.now - self.shown_at)

    def _open(self, job: str) -> bool:
        return any(j.key == job for j in self.jobs)

    def plan(self) -> list[tuple[Problem, Plan]]:
        """Plan anew, and show it: at once what can be kept, then what is better. Every plan that is shown."""
        problem, plans = self.problem(), []
        kept = keep(problem, self.shown, self.now - self.shown_at) if self.shown is not None else None
        if kept is not None:
            plans.append((problem, kept))
            self.shown, self.shown_at = kept, self.now
            problem = self.problem()
        self.shown, self.shown_at = replan(problem, self.shown, self.now - self.shown_at), self.now
        return [*plans, (problem, self.shown)]

    def happen(self, kind: str) -> None:
        """Something happens."""
        chance = self.chance
        if kind in ("early", "late", "done"):
            self._finish_one({"early": 0.5, "late": 2.5, "done": 1.0}[kind])
        elif kind == "new":
            self.new_job()
        elif kind == "cancelled" and len(self.jobs) > 1:
            gone = chance.choice(self.jobs)
            self.jobs.remove(gone)
            self.running.pop(gone.key, None)
            self.in_hand = {p: h for p, h in self.in_hand.items() if h[0] != gone.key}
        elif kind == "leaves":
            leaver = chance.choice("AB")
            if len(self.gone) == 0:
                self.gone.add(leaver)
                self.in_hand.pop(leaver, None)
        elif kind == "back":
            self.gone.clear()
        elif kind == "breaks":
            place = chance.choice(("tub", "rack"))
            self.capacity[place] = max(1, self.capacity[place] - 1)
        elif kind == "mended":
            self.capacity["tub"] = 2
        elif kind == "set" and self.shown is not None and self.shown.steps:
            step = chance.choice(self.shown.steps)
            self.set[step.job, step.operation] = chance.choice("AB"), self.now + chance.choice((0.0, 15.0, 90.0, 400.0))
        elif kind == "let go" and self.set:
            self.set.pop(chance.choice(sorted(self.set)))
        elif kind == "pause":
            self.now += chance.choice((3.0, 20.0, 90.0))
        elif kind == "clock":  # it is set: departures are at the new time, waits go on by true time
            step = chance.choice((-60.0, -5.0, 7.0, 60.0))
            self.jobs = [replace(j, due=None if j.due is None else j.due - step) for j in self.jobs]

    def _finish_one(self, pace: float) -> None:
        """Somebody does what is first in their queue, quicker or slower than planned, and takes up what is next."""
        if self.shown is None:
            return
        for person in self.chance.sample("AB", 2):
            mine = self.shown.of(person)
            if person in self.gone or not mine or mine[0].start > 1.0 or not self._open(mine[0].job):
                continue
            step = mine[0]
            self.now = max(self.now, self.shown_at) + (step.end - step.start) * pace
            self._done(step.job, step.operation)
            self.in_hand.pop(person, None)
            following = mine[1] if len(mine) > 1 else None
            if following is not None and self._ready(following.job, following.operation) and self.chance.random() < 0.6:
                self.in_hand[person] = (following.job, following.operation, self.now)
            return

    def _ready(self, job: str, key: str) -> bool:
        found = next((j for j in self.jobs if j.key == job), None)
        if found is None or any((job, key) == h[:2] for h in self.in_hand.values()):
            return False
        operation = next((o for o in found.operations if o.key == key), None)
        left = {o.key for o in found.operations}
        runs = {r.operation: r for r in self.running.get(job, ())}
        return operation is not None and all(
            b not in left and (b not in runs or runs[b].earliest <= self.now)
            for b in (*operation.after, operation.ends)
        )

    def _done(self, job: str, key: str) -> None:
        at = next(n for n, j in enumerate(self.jobs) if j.key == job)
        found = self.jobs[at]
        operation = next((o for o in found.operations if o.key == key), None)
        if operation is None:
            return
        runs = [r for r in self.running.get(job, []) if r.operation != operation.ends]
        if operation.wait_min:
            latest = None if operation.wait_max is None else self.now + operation.wait_max
            runs.append(RunningWait(key, operation.place, self.now + operation.wait_min, latest, operation.piece))
        self.running[job] = [r for r in runs if r.latest is not None or r.earliest > self.now]
        rest = tuple(o for o in found.operations if o.key != key)
        if rest:
            self.jobs[at] = replace(found, operations=rest)
        else:
            del self.jobs[at]
            self.running.pop(job, None)


def live(seed: int, events: int = 8) -> tuple[list[str], Counter[str], float]:
    """One sequence: what was wrong with any plan, what happened, and the longest time that a plan took, seconds."""
    day = Day(random.Random(seed))
    for _ in range(day.chance.randint(1, 5)):
        day.new_job()
    wrong: list[str] = []
    happened: Counter[str] = Counter()
    slowest = 0.0
    for n in range(events + 1):
        if n:
            kind = day.chance.choice(KINDS)
            happened[kind] += 1
            day.happen(kind)
        began = time.process_time()
        plans = day.plan()
        slowest = max(slowest, time.process_time() - began)
        happened["plans"] += 1
        happened["kept at once"] += len(plans) - 1
        happened["waits lost"] += len(plans[-1][1].broken)
        for problem, plan in plans:
            happened.update(f"moved: {m.why}" for m in plan.moved)
            wrong += [f"seed {seed}, event {n}: {v}" for v in violations(problem, plan)]
            if unplaced(plan) - len(plan.broken):
                wrong.append(f"seed {seed}, event {n}: a job was not placed")
    return wrong, happened, slowest


def main() -> int:
    """Print what came of it."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    wrong: list[str] = []
    happened: Counter[str] = Counter()
    slowest = 0.0
    for seed in range(count):
        found, what, took = live(seed)
        wrong += found
        happened += what
        slowest = max(slowest, took)
    print(f"{count} sequences: " + ", ".join(f"{v} {k}" for k, v in happened.most_common()))
    print(f"slowest plan {1000 * slowest:.0f} ms (at most 50); plans with something wrong: {len(wrong)}")
    for line in wrong[:20]:
        print("  " + line)
    return int(bool(wrong))


if __name__ == "__main__":
    raise SystemExit(main())
