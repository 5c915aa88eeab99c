"""Explanations of the plan: of one bar, of a conflict, and the numbers of a trial plan beside the plan on show."""

from __future__ import annotations

from datetime import timedelta

from creekbed.core.planning.conflict import Conflict
from creekbed.core.planning.explanations import Hold, PlanComparison
from creekbed.core.planning.model import Plan, Problem
from creekbed.core.planning.requests import WhyRequest
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.turns import Turns
from creekbed.words.chances import calls_away, makes_it, ready_between
from creekbed.words.explanations import conflict_words, done_first, hold_words, shift_words, spare_words
from creekbed.workshop.bench.bench_view import HomeView
from creekbed.workshop.bench.schedule_view import ScheduledBar
from creekbed.workshop.planning.forecast_calibration import tested
from creekbed.workshop.shop.shop import Shop

LEAST_CALL = 0.05
"""A smaller chance that a wait calls hands away from other work is not told: house default."""


def why_in_turns(shop: Shop, home: HomeView, run: ScheduledBar) -> Turns[tuple[str, str, PlanComparison | None]]:
    """Why a stretch of work begins when it does; what would come of doing it first, and the plan then."""
    request = WhyRequest(home.revision, home.problem, home.plan, run.tag, run.key, run.person, held=run.state == "held")
    hold, other = yield from shop.planner.answers.ask(request)
    return _why_words(shop, home, run, hold), "" if other is None else _first_words(home, run, other), other


def _why_words(shop: Shop, home: HomeView, run: ScheduledBar, hold: Hold | None) -> str:
    view = next(v for v in home.jobs if v.tag == run.tag)
    back = view.job.back_at
    parts = [p.words for p in view.parts if p.key == run.key]
    said = [hold_words(shop.catalogue, hold, back if back is not None and back > home.now else None, parts)]
    forecast = home.plan.forecasts[run.tag]
    if view.departure is not None and forecast.finish is not None:
        spare = (view.departure.leaves_at - home.now).total_seconds() / 60 - forecast.finish
        said.append(spare_words(spare, view.departure.name))
    if run.chance is not None:
        said.append(f"{makes_it(run.chance)} {tested(shop, run.chance)}")
    lived = shop.planner.chances
    if lived is not None and run.tag in lived.finish:
        low, _, high = (home.now + timedelta(minutes=m) for m in lived.finish[run.tag])
        said.append(ready_between(low, high))
    if lived is not None and run.state == "must":
        ended = {(j.key, o.key): o.ends for j in home.problem.jobs for o in j.operations}
        away = max((lived.called.get((run.tag, ended.get((run.tag, k)) or ""), 0.0) for k, _ in run.steps), default=0.0)
        if away > LEAST_CALL:
            said.append(calls_away(away))
    return " ".join(s for s in said if s)


def comes_first(home: HomeView, run: ScheduledBar, other: PlanComparison) -> bool:
    """Whether a stretch of work begins sooner in a plan in which it should be done first."""
    step = next((s for s in other.plan.steps if (s.job, s.operation) == (run.tag, run.key)), None)
    now = (run.start - home.now).total_seconds() / 60
    return step is None or step.start <= 1.0 or step.start <= now - 1.0


def _first_words(home: HomeView, run: ScheduledBar, other: PlanComparison) -> str:
    """What would come of doing it first."""
    return done_first(shift_words(other) if comes_first(home, run, other) else "")


def told_conflict(shop: Shop, home: HomeView, found: Conflict) -> str:
    """What cannot all be kept, and what would mend it, in words."""
    waits = [(v.tag, w.key, w.name) for v in home.jobs for w in v.waits]
    return conflict_words(shop.catalogue, found, home.now, waits)


@dataclass(frozen=True)
class Side:
    """One of two days side by side: numbers that can be compared."""

    late_jobs: int
    late_min: float
    last: float
    in_time: int
    of: int


def side_of(problem: Problem, plan: Plan, ready: int, booked: int) -> Side:
    """The numbers of a plan.

    Args:
        ready: how many instruments are ready for a departure already. booked: how many are booked for one in all.
    """
    due = {j.key for j in problem.jobs if j.due is not None and not j.blocked}
    late = [f.late_by for k, f in plan.forecasts.items() if k in due and f.late_by > 0]
    finishes = [f.finish for f in plan.forecasts.values() if f.finish is not None]
    makes = sum(k in due and f.finish is not None and f.late_by <= 0 for k, f in plan.forecasts.items())
    return Side(len(late), sum(late), max(finishes, default=0.0), ready + makes, booked)
