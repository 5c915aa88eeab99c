"""The plan that people see: made anew at every event without reshuffling, improved in the background, never worse."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from creekbed.core.planning.durations import Learned, Taken
from creekbed.core.planning.explain import gap_words
from creekbed.core.planning.model import Plan, Problem
from creekbed.core.planning.stability import keep, replan_in_turns, with_next
from creekbed.core.turns import Turns

if TYPE_CHECKING:  # what belongs to thinking needs numpy: the window opens without
    from creekbed.core.planning.chances import Chances
    from creekbed.core.planning.conflict import Conflict
    from creekbed.core.planning.thinking import Task, Thought

Named = Mapping[tuple[str, str], tuple[str, str, float]]
"""(job, operation) → (name of the operation, family, house minutes)."""


SLIPPED_MIN = 5.0
"""By so many weighted minutes a plan may get later while nobody acts before a better one is looked for again: house
default."""
STILL_TOLD = timedelta(minutes=2)
"""So long after something has happened the chances from before are told still, while new ones are worked out: house
default."""


@dataclass(frozen=True)
class Known:
    """What is known of the plan on show beyond the plan: what came of thinking, and when."""

    thought: Thought
    at: datetime | None


class BenchPlanner:
    """Keeps the plan on show from one event to the next.

    Attributes:
        hasty: whether the plan on show was only kept, and a better one not looked for.
        version: of the plan on record that this one goes on from. told: the plan on record, and when it was shown.
    """

    def __init__(self) -> None:
        self.shown: Plan | None = None
        self.at: datetime | None = None
        self.problem: Problem | None = None
        self._about = ""
        self._asked_at: datetime | None = None
        self.learned = Learned()
        self.known: Known | None = None
        self.hasty = False
        self.version = 0
        self.told: tuple[Plan, datetime] | None = None
        self._taken_up = 0

    def plan_in_turns(self, problem: Problem, now: datetime, *, keep_it: bool = False) -> Turns[Plan]:
        """The plan to show now; what was shown before is kept as far as it can be.

        Nothing is on show before its end, so it may be left at any turn.

        Args:
            keep_it: do with what was shown, laid out as the bench is now, if that can be; whether another is better
                is left for the next time, and :attr:`hasty` until then.
        """
        passed = (now - self.at).total_seconds() / 60 if self.at is not None else 0.0
        shown = self.shown
        if shown is not None and self.problem is not None:  # what was in hand and is put aside is no more next
            aside = self.problem.in_hand - problem.in_hand
            shown = replace(shown, steps=tuple(s for s in shown.steps if (s.job, s.operation) not in aside))
        problem = with_next(problem, shown, passed)
        about = _about(problem)
        same = about == self._about and not self.hasty
        yield
        plan = keep(problem, shown, passed) if keep_it and shown is not None else None
        hasty = plan is not None
        if plan is None:
            plan = yield from replan_in_turns(problem, shown, passed, same=same)
        self.problem, self._about, self.shown, self.at, self.hasty = problem, about, plan, now, hasty
        return plan

    # --- in the background --------------------------------------------------------------------------------------

    def about(self) -> str:
        """Which state of the bench the plan on show is for: two states with the same work, hands and places are one."""
        return f"{self._about}{self._taken_up or ''}"

    def go_on_from(self, plan: Plan, at: datetime, version: int) -> None:
        """Another window's plan is the one that people see; what was thought about the one before is not used."""
        self.shown, self.at, self.version, self.told = plan, at, version, (plan, at)
        self._taken_up += 1

    def task(self, named: Named, records: tuple[Taken, ...] | None, seconds: float, seed: int = 7) -> Task | None:
        """What to think about now; ``None`` while there is no plan."""
        from creekbed.core.planning.thinking import Task

        if self.problem is None or self.shown is None or self.at is None:
            return None
        self._asked_at = self.at
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
        self.shown, self.at = thought.plan, self._asked_at  # its times count from when it was asked for
        self.known = Known(thought, self.at)
        return True

    @property
    def _thought(self) -> Thought | None:
        """What came of thinking, as long as it is about this state of the bench."""
        return self.known.thought if self.known is not None and self.known.thought.about == self.about() else None

    @property
    def slipped(self) -> bool:
        """Whether the plan has become later since it was thought about, because time went on and nothing was done."""
        thought, shown, problem = self._thought, self.shown, self.problem
        if thought is None or shown is None or problem is None:
            return False
        return shown.weighted_tardiness(problem) > thought.plan.weighted_tardiness(problem) + SLIPPED_MIN

    @property
    def chances(self) -> Chances | None:
        """The chances of the plan on show; those of a little while ago until new ones come, ``None`` beyond."""
        known = self.known
        if known is None or (self._thought is None and not (known.at and self.at and self.at - known.at < STILL_TOLD)):
            return None
        return known.thought.chances

    @property
    def conflict(self) -> Conflict | None:
        """What cannot all be kept, as long as that is about this state of the bench."""
        return self._thought.conflict if self._thought is not None else None

    def gap(self) -> str:
        """How much better the plan on show could at most be, in words; "" while nobody has looked."""
        p, plan, thought = self.problem, self.shown, self._thought
        if p is None or plan is None or thought is None:
            return ""
        finishing = [f for f in plan.forecasts.values() if f.finish is not None]
        if not finishing:
            return ""
        late = plan.weighted_tardiness(p)
        return gap_words(thought.cost, thought.bound, len(finishing), late, p.weights, thought.late_bound)


def _about(problem: Problem) -> str:
    """What tells one state of the bench from another; the minutes that pass do not."""
    jobs = [
        (j.key, j.due is None, j.weight, j.blocked, j.release > 0,
         tuple((o.key, o.release > 0) for o in j.operations), tuple(r.operation for r in j.running))
        for j in problem.jobs
    ]  # fmt: skip
    people = [
        (w.key, sorted(w.skills), len(w.windows), round(sum(b - a for a, b in w.windows) / 30)) for w in problem.people
    ]
    pins = sorted((q.job, q.operation, q.person) for q in problem.pins if q.kind != "next")
    return repr((jobs, people, pins, sorted(problem.capacity.items()), sorted(problem.holds.items())))
