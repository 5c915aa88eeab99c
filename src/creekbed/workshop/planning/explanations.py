"""Explanations of the plan in words: for one bar, and for a trial plan beside the plan on show."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from creekbed.core.planning.conflict import Conflict, ConflictPart
from creekbed.core.planning.explanations import Hold, PlanComparison
from creekbed.core.planning.model import Plan, Problem
from creekbed.core.planning.requests import WhyRequest
from creekbed.core.turns import Turns
from creekbed.words.plan import odds, sentence, span
from creekbed.workshop.bench.bench_view import HomeView
from creekbed.workshop.bench.schedule_view import ScheduledBar
from creekbed.workshop.planning.forecast_calibration import tested
from creekbed.workshop.planning.remedies import place_name
from creekbed.workshop.shop.shop import Shop


def why_in_turns(shop: Shop, home: HomeView, run: ScheduledBar) -> Turns[tuple[str, str, PlanComparison | None]]:
    """Why a stretch of work begins when it does; what would come of doing it first, and the plan then."""
    request = WhyRequest(home.revision, home.problem, home.plan, run.tag, run.key, run.person, held=run.state == "held")
    hold, other = yield from shop.planner.answers.ask(request)
    return _why_words(shop, home, run, hold), "" if other is None else _first_words(home, run, other), other


def _why_words(shop: Shop, home: HomeView, run: ScheduledBar, hold: Hold | None) -> str:
    others = _listed(hold.by) if hold is not None else ""
    if hold is None:
        words = ""
    elif hold.kind == "set":
        words = "It was set to this time."
    elif hold.kind == "release":
        back = next(v.job.back_at for v in home.jobs if v.tag == run.tag)
        still = back is not None and back > home.now
        words = (
            f"It is back {back.astimezone():%a %H:%M} only." if still and back else "It must come to room air first."
        )
    elif hold.kind == "part":
        parts = [p for v in home.jobs if v.tag == run.tag for p in v.parts if p.key == run.key]
        words = f"It waits for this: {', '.join(p.words for p in parts)}."
    elif hold.kind == "wait":
        words = "What comes before it, or its wait, is over only then."
    elif hold.kind == "hands":
        words = f"Till then the hands are with {others or 'other work'}."
    elif hold.kind == "hours":
        words = "Nobody is there earlier for so long a piece."
    elif hold.kind == "place":
        words = f"The {place_name(shop, hold.place or '')} is full till then{f': {others}' if others else ''}."
    elif hold.kind == "free":
        words = f"The hands are free {span(hold.minutes)} sooner, if you like."
    else:
        words = "It can begin at once."
    forecast = home.plan.forecasts[run.tag]
    view = next(v for v in home.jobs if v.tag == run.tag)
    if view.departure is not None and forecast.finish is not None:
        spare = (view.departure.leaves_at - home.now).total_seconds() / 60 - forecast.finish
        left = f"{span(spare)} to spare" if spare >= 0 else f"{span(-spare)} late"
        words += f" {left} for the {view.departure.name}."
    if run.chance is not None:
        words += f" {sentence(odds(run.chance))} that it makes it. {tested(shop, run.chance)}"
    lived = shop.planner.chances
    if lived is not None and run.tag in lived.finish:
        low, _, high = ((home.now + timedelta(minutes=m)).astimezone() for m in lived.finish[run.tag])
        words += f" Ready between {low:%a %H:%M} and {high:%a %H:%M}, eight times in ten."
    if lived is not None and run.state == "must":
        ended = {(j.key, o.key): o.ends for j in home.problem.jobs for o in j.operations}
        away = max((lived.called.get((run.tag, ended.get((run.tag, k)) or ""), 0.0) for k, _ in run.steps), default=0.0)
        words += f" {sentence(odds(away))} that it calls hands away from other work." if away > 0.05 else ""
    return words.strip()


def _first_words(home: HomeView, run: ScheduledBar, other: PlanComparison) -> str:
    """What would come of doing it first."""
    step = next((s for s in other.plan.steps if (s.job, s.operation) == (run.tag, run.key)), None)
    if step is not None and step.start > 1.0 and step.start > (run.start - home.now).total_seconds() / 60 - 1.0:
        return "It cannot be done first."
    return f"Done first: {shift_words(other)}"


def shift_words(other: PlanComparison, most: int = 3) -> str:
    """What another plan changes, the worst first."""
    late = [s for s in other.shifts if s.late_by > 0 and s.later > 0]
    later = [s for s in other.shifts if s.later > 0 and s not in late]
    sooner = [s for s in other.shifts if s.later < 0]
    parts = [f"{s.job} would be {span(s.late_by)} late" for s in late[:most]]
    if later:
        worst = max(s.later for s in later)
        count = f"{len(later)} others" if len(later) > 1 else later[0].job
        parts.append(f"{count} ready up to {span(worst)} later" if len(later) > 1 else f"{count} {span(worst)} later")
    if sooner:
        best = min(sooner, key=lambda s: s.later)
        parts.append(f"{best.job} {span(-best.later)} sooner")
    return (", ".join(parts) or "nothing would change") + "."


def conflict_words(shop: Shop, home: HomeView, found: Conflict) -> str:
    """What cannot all be kept, and what would mend it."""
    limits = [p for p in found.parts if p.kind == "limit"]
    told, mends = [], []
    for part in found.parts:
        what, mend = _part_words(shop, home, part)
        told.append(what)
        if part in found.mends and not (part.kind == "limit" and len(limits) > 1):
            mends.append(mend)
    if len(limits) > 1:
        mends.append(f"a second pair of hands, or end the wait first that bears least: {limits[0].what}")
    return f"Cannot all be kept: {'; '.join(told)}. What mends it: {'; or '.join(mends) or 'nothing alone'}."


def _part_words(shop: Shop, home: HomeView, part: ConflictPart) -> tuple[str, str]:
    view = next((v for v in home.jobs if v.tag == part.what), None)
    if part.kind == "limit" and view is not None:
        wait = next((w for w in view.waits if w.key == part.operation), None)
        name = wait.name.lower() if wait is not None else part.operation
        at = (home.now + timedelta(minutes=part.minutes)).astimezone()
        return f"{part.what}, {name}, ended by {at:%H:%M}", f"rinse {part.what} now, whatever else waits"
    if part.kind == "hours":
        return f"the hours of {part.what}", f"{part.what} stays, or is back sooner"
    if part.kind == "in_hand":
        return f"what {part.what} has in hand", f"{part.what} puts aside what is in hand"
    name = place_name(shop, part.what)
    return f"the room of the {name}", f"one more {name}"


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
        ready: how many instruments are ready for a boat already. booked: how many are booked for one in all.
    """
    due = {j.key for j in problem.jobs if j.due is not None and not j.blocked}
    late = [f.late_by for k, f in plan.forecasts.items() if k in due and f.late_by > 0]
    finishes = [f.finish for f in plan.forecasts.values() if f.finish is not None]
    makes = sum(k in due and f.finish is not None and f.late_by <= 0 for k, f in plan.forecasts.items())
    return Side(len(late), sum(late), max(finishes, default=0.0), ready + makes, booked)


def _listed(tags: tuple[str, ...], most: int = 3) -> str:
    shown = ", ".join(tags[:most])
    return f"{shown} and {len(tags) - most} more" if len(tags) > most else shown
