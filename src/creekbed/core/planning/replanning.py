"""How much of what people were shown to do next another plan changes, and which plan is worth changing for.

A plan that is a little better is no use to people who must put down what they have just fetched. So each change among
the next few things of each person counts as minutes of cost (:class:`Weights`), and a new plan is shown only if it is
better by more than it changes.
"""

from __future__ import annotations

import itertools
from dataclasses import replace

from creekbed.core.planning.dispatch import dispatch_plan, repair_schedule, unplaced
from creekbed.core.planning.model import DelayedStart, Pin, Plan, Problem
from creekbed.core.planning.schedule_builder import ScheduleBuilder

NEXT_FEW, WORTH_MIN = 5, 5.0
"""How many things ahead of each person are compared; for how many weighted minutes less late a preferred start is
given up: house default."""
GRID_MIN = 0.2
"""Two steps of the grid of tenths in which plans are laid out, minutes."""
SLIDES_MIN = 1.0
"""How much a plan may slip while nobody acts and still count as the plan on show, minutes: house default."""
NEXT_MIN = 15.0
"""How near a shown start must be to stay a preferred start, minutes: house default."""
ANEW_UP_TO, TWICE_UP_TO = 120, 700
"""Up to how many operations a plan is also made anew at once, and also laid out with gaps filled; beyond that only in
the background: house default."""


def changes(problem: Problem, shown: Plan, plan: Plan) -> int:
    """What changes in the next few things of each person: pairs in another order, and things given to somebody else.

    What is done, or not open any more, is no change.
    """
    start = {(s.job, s.operation): s for s in plan.steps}
    count = 0
    for person in problem.hands:
        few = [s for s in shown.of(person.key) if (s.job, s.operation) in start][:NEXT_FEW]
        now = [start[s.job, s.operation] for s in few]
        count += sum(s.person != person.key for s in now)
        count += sum(b.start < a.start for a, b in itertools.combinations(now, 2))
    return count


def moved_cost(problem: Problem, shown: Plan | None, plan: Plan) -> float:
    """What the changes against the plan that people see cost, minutes."""
    return 0.0 if shown is None else problem.weights.moved * changes(problem, shown, plan)


def keep(problem: Problem, shown: Plan, passed: float = 0.0) -> Plan | None:
    """The plan that people see, laid out on the bench as it is now, before anything better is looked for.

    Returns:
        ``None`` where it cannot be kept: most of the work is new, or more than before could not be placed or ended in
        time.
    """
    size, fresh = _size(problem, shown)
    if 2 * fresh > size:
        return None
    kept = repair_schedule(problem, shown, passed=passed)
    return kept if unplaced(kept) <= unplaced(shown) else None


def alike(plan: Plan, other: Plan, within: float = GRID_MIN) -> bool:
    """Whether two plans have the same hands do the same at the same time, within so many minutes.

    What another will have set up by then takes no time, and may stand anywhere.
    """
    one, two = ({(s.job, s.operation): s for s in p.steps if s.end > s.start} for p in (plan, other))
    return one.keys() == two.keys() and all(
        one[k].person == s.person and abs(one[k].start - s.start) <= within for k, s in two.items()
    )


def same_later(shown: Plan, plan: Plan, passed: float, within: float) -> bool:
    """Whether a plan is the one that was shown before, but for what is done since.

    Args:
        passed: minutes since it was shown. within: so much earlier or later is the same, minutes.
    """
    open_ = {(s.job, s.operation) for s in plan.steps}
    left = tuple(
        replace(s, start=max(s.start - passed, 0.0), end=s.end - passed)
        for s in shown.steps
        if (s.job, s.operation) in open_
    )
    return alike(Plan(left, {}), plan, within)


def _size(problem: Problem, shown: Plan | None) -> tuple[int, int]:
    """How many operations can go on; how many are not in the plan that was shown."""
    known = {(s.job, s.operation) for s in shown.steps} if shown is not None else set()
    fresh = sum((j.key, o.key) not in known for j in problem.jobs for o in j.operations)
    return sum(len(j.operations) for j in problem.jobs if not j.blocked), fresh


def replan(problem: Problem, shown: Plan | None, passed: float = 0.0, *, same: bool = False) -> Plan:
    """The plan to show now that something has happened: at once, and without reshuffling what people are set on.

    Args:
        shown: the plan that people see; ``None``: there is none. passed: minutes since it was shown.
        same: nothing has happened since but that time went on.
    """
    size, fresh = _size(problem, shown)
    bench = ScheduleBuilder(problem)
    plans = []
    if shown is not None and 2 * fresh <= size:
        kept = repair_schedule(problem, shown, bench, passed=passed)
        plans = [kept]
        if same and _as_shown(shown, kept, passed):
            return kept
        if size <= TWICE_UP_TO or fresh or unplaced(kept):
            plans.append(repair_schedule(problem, shown, bench))
    if size <= ANEW_UP_TO or not plans or unplaced(plans[0]):
        from creekbed.core.planning.permutation_search import by_departures

        plans.append(dispatch_plan(problem, bench))
        plans.append(by_departures(bench))
    best = min(plans, key=lambda p: (unplaced(p), p.cost(problem) + moved_cost(problem, shown, p)))
    if best.weighted_tardiness(problem) <= 0 or not any(p.kind == "preferred" for p in problem.pins):
        return best
    lengths = {(s.job, s.operation): s.end - s.start for s in best.steps}
    given_up = sum(lengths.get((p.job, p.operation), 0.0) for p in problem.pins if p.kind == "preferred")
    if given_up * max(j.weight for j in problem.jobs) < WORTH_MIN:
        return best  # little lies behind so little, unless a break does: that is found in the background
    return _for_a_departure(problem, shown, best, bench)


def _as_shown(shown: Plan, plan: Plan, passed: float) -> bool:
    """Whether everything begins when it was shown to, allowing for the moment in which nobody began what is first."""
    before = {(s.job, s.operation): s.start - passed for s in shown.steps}
    later = GRID_MIN + min(max(passed, 0.0), SLIDES_MIN)
    return all(
        (s.job, s.operation) in before and s.start <= max(before[s.job, s.operation], 0.0) + later for s in plan.steps
    )  # fmt: skip


def _for_a_departure(problem: Problem, shown: Plan | None, kept: Plan, bench: ScheduleBuilder) -> Plan:
    """A plan that gives up what was to be next, where that saves a good part of the lateness; it says so."""
    loose = replace(problem, pins=tuple(p for p in problem.pins if p.kind != "preferred"))
    if len(bench.ops) <= ANEW_UP_TO:
        made = dispatch_plan(loose, bench)
    else:
        made = repair_schedule(loose, shown or kept, bench)
    if made.weighted_tardiness(problem) > kept.weighted_tardiness(problem) - WORTH_MIN:
        return kept
    return giving_up(problem, made)


def giving_up(problem: Problem, made: Plan) -> Plan:
    """A plan that was made without regard to what was to be next, with a word on each such thing that it puts off."""
    start = {(s.job, s.operation): s for s in made.steps}
    moved = []
    for pin in problem.pins:
        step = start.get((pin.job, pin.operation))
        if pin.kind != "preferred" or step is None or (step.start <= pin.at + GRID_MIN and step.person == pin.person):
            continue
        first = next((s for s in made.of(pin.person) if (s.job, s.operation) not in problem.in_hand), step)
        moved.append(
            DelayedStart(
                pin.job, pin.operation, max(step.start - pin.at, 0.0), "departure", (first.job, first.operation)
            )
        )
    return replace(made, moved=tuple(moved))


def with_preferred(problem: Problem, shown: Plan | None, passed: float) -> Problem:
    """The problem with what each was shown to do next, so far as that is near and can be done now.

    Args:
        shown: the plan that people see. passed: minutes since it was shown.
    """
    if shown is None:
        return problem
    taken = {(p.job, p.operation) for p in problem.pins}
    open_ = {(j.key, o.key): o for j in problem.jobs if not j.blocked for o in j.operations}
    busy = {
        p.person: open_[p.job, p.operation].hands_min
        for p in problem.pins
        if p.kind == "in_hand" and (p.job, p.operation) in open_
    }
    found = []
    for person in problem.hands:
        if not person.windows or person.windows[0][0] > 0:
            continue  # who is not there has nothing next
        if any(p.kind == "fixed" and p.person == person.key and p.at <= 0 for p in problem.pins):
            continue  # something else was set to be done first
        mine = (s for s in shown.of(person.key) if s.end > s.start and (s.job, s.operation) not in taken)
        following = next(mine, None)
        operation = open_.get((following.job, following.operation)) if following is not None else None
        if following is None or operation is None or following.start - passed > NEXT_MIN:
            continue
        if operation.release > max(following.start - passed, 0.0):
            continue  # its part has not come after all
        if not any((following.job, before) in open_ for before in operation.after):
            at = max(0.0, following.start - passed, busy.get(person.key, 0.0))
            found.append(Pin(following.job, following.operation, person.key, "preferred", at))
    return replace(problem, pins=(*problem.pins, *found))
