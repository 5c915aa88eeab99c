"""What would help a late job: answers that the planner itself gives."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import timedelta

from creekbed.core.planning.explain import span
from creekbed.workshop.bench import home
from creekbed.workshop.shop import Shop


@dataclass(frozen=True)
class Help:
    """For one late job: what would bring it aboard, in words; ``makes_it`` when taking it first is enough."""

    tag: str
    makes_it: bool
    words: str


def help_for(shop: Shop, boat_id: int) -> list[Help]:
    """What would help each late job of a boat.

    Tried on the planner: taking the job before all others; working through the breaks as well; the next boat.
    """
    now_view = home(shop)
    problem = now_view.problem
    found = []
    for view in now_view.jobs:
        late = now_view.plan.forecasts[view.tag].late_by
        if view.boat is None or view.boat.id != boat_id or late <= 0 or view.blocked:
            continue
        first = replace(
            problem, jobs=tuple(replace(j, weight=j.weight * 1e6) if j.key == view.tag else j for j in problem.jobs)
        )
        alone = replace(problem, jobs=tuple(j for j in problem.jobs if j.key == view.tag), in_hand=None)
        no_breaks = replace(alone, windows=((0.0, problem.windows[-1][1]),))
        plan = shop.planner.plan(first)
        if plan.forecasts[view.tag].late_by <= 0:
            others = sum(f.late_by for k, f in plan.forecasts.items() if k != view.tag)
            before = sum(f.late_by for k, f in now_view.plan.forecasts.items() if k != view.tag)
            cost = f", the others {span(others - before)} later" if others > before + 1 else ""
            found.append(Help(view.tag, True, f"taken first, it makes the boat{cost}."))
            continue
        at_once = shop.planner.plan(no_breaks).forecasts[view.tag]
        following = [x for x in now_view.landings if x.boat.leaves_at > view.boat.leaves_at]
        next_boat = f" Next: {following[0].boat.name}." if following else ""
        if at_once.finish is not None and at_once.late_by <= 0:
            ready = (now_view.now + timedelta(minutes=at_once.finish)).astimezone()
            found.append(Help(view.tag, False, f"only first and without breaks, ready {ready:%H:%M}."))
        elif at_once.finish is not None:
            found.append(
                Help(view.tag, False, f"even at once and without breaks {span(at_once.late_by)} late.{next_boat}")
            )
    return found
