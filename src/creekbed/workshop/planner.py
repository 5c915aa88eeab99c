"""The plan that people see: made anew at every event without reshuffling, improved in the background, never worse."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from creekbed.core.planning.durations import Learned, Taken
from creekbed.core.planning.explain import gap_words
from creekbed.core.planning.model import Plan, Problem
from creekbed.core.planning.stability import replan, with_next

if TYPE_CHECKING:  # what belongs to thinking needs numpy: the window opens without
    from creekbed.core.planning.chances import Chances
    from creekbed.core.planning.conflict import Conflict
    from creekbed.core.planning.thinking import Task, Thought

Named = Mapping[tuple[str, str], tuple[str, str, float]]
"""(job, operation) → (name of the operation, family, house minutes)."""


STILL_TOLD = timedelta(minutes=2)
"""So long after something has happened the chances from before are told still, while new ones are worked out: house
default."""


@dataclass
class Known:
    """What is known of the plan on show beyond the plan: how good it is, and what the chances are."""

    about: str = ""
    bound: float = 0.0
    late_bound: float = 0.0
    cost: float = 0.0
    proven: bool = False
    chances: Chances | None = None
    conflict: Conflict | None = None
    at: datetime | None = None


class BenchPlanner:
    """Keeps the plan on show from one event to the next."""

    def __init__(self) -> None:
        self.shown: Plan | None = None
        self.at: datetime | None = None
        self.problem: Problem | None = None
        self._about = ""
        self.learned = Learned()
        self.known = Known()

    def plan(self, problem: Problem, now: datetime) -> Plan:
        """The plan to show now; what was shown before is kept as far as it can be."""
        passed = (now - self.at).total_seconds() / 60 if self.at is not None else 0.0
        shown = self.shown
        if shown is not None and self.problem is not None:  # what was in hand and is put aside is no more next
            aside = self.problem.in_hand - problem.in_hand
            shown = replace(shown, steps=tuple(s for s in shown.steps if (s.job, s.operation) not in aside))
        before = self.about()
        self.problem, self._about = with_next(problem, shown, passed), ""
        self.shown = replan(self.problem, shown, passed, same=before == self.about())
        self.at = now
        return self.shown

    # --- in the background --------------------------------------------------------------------------------------

    def about(self) -> str:
        """Which state of the bench the plan on show is for: two states with the same work, hands and places are one."""
        p = self.problem
        if p is None or self._about:
            return self._about
        jobs = [
            (j.key, j.due is None, j.weight, j.blocked, tuple(o.key for o in j.operations),
             tuple(r.operation for r in j.running))
            for j in p.jobs
        ]  # fmt: skip
        hours = {w.key: round(sum(b - a for a, b in w.windows) / 30) for w in p.people}
        people = [(w.key, sorted(w.skills), len(w.windows), hours[w.key]) for w in p.people]
        pins = sorted((q.job, q.operation, q.person) for q in p.pins if q.kind != "next")
        self._about = repr((jobs, people, pins, sorted(p.capacity.items()), sorted(p.holds.items())))
        return self._about

    def task(self, named: Named, records: tuple[Taken, ...] | None, seconds: float, seed: int = 7) -> Task | None:
        """What to think about now; ``None`` while there is no plan."""
        from creekbed.core.planning.thinking import Task

        if self.problem is None or self.shown is None or self.at is None:
            return None
        local = self.at.astimezone()
        day_start = local.hour * 60.0 + local.minute
        return Task(
            self.about(), self.problem, self.shown, named, day_start, records, self.learned, seconds, seed
        )  # fmt: skip

    def take(self, thought: Thought) -> bool:
        """Take on what came of thinking; an answer about another state of the bench is not used.

        Returns:
            Whether there is something new to show.
        """
        if thought.learned.records != self.learned.records:
            self.learned = thought.learned
        if thought.about != self.about():
            return False
        self.shown = thought.plan
        t = thought
        self.known = Known(t.about, t.bound, t.late_bound, t.cost, t.proven, t.chances, t.conflict, self.at)
        return True

    @property
    def chances(self) -> Chances | None:
        """The chances of the plan on show; those of a little while ago until new ones come, ``None`` beyond."""
        if self.known.about == self.about() or (self.known.at and self.at and self.at - self.known.at < STILL_TOLD):
            return self.known.chances
        return None

    @property
    def conflict(self) -> Conflict | None:
        """What cannot all be kept, as long as that is about this state of the bench."""
        return self.known.conflict if self.known.about and self.known.about == self.about() else None

    def gap(self) -> str:
        """How much better the plan on show could at most be, in words; "" while nobody has looked."""
        p, plan = self.problem, self.shown
        if p is None or plan is None or self.known.about != self.about():
            return ""
        finishing = [f for f in plan.forecasts.values() if f.finish is not None]
        if not finishing:
            return ""
        late = plan.weighted_tardiness(p)
        known = self.known
        return gap_words(known.cost, known.bound, len(finishing), late, p.weights, known.late_bound)
