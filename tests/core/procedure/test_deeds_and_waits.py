"""Coming after a deed is not waiting for what it wetted to dry. Common practice, no source."""

from __future__ import annotations

from dataclasses import replace

import pytest

from creekbed.core.catalogue.load import shipped
from creekbed.core.planning.dispatch import dispatch_plan
from creekbed.core.planning.lower_bounds import lower_bound
from creekbed.core.planning.model import Operation, PlanJob, Problem, RunningWait
from creekbed.core.planning.plan_checker import violations
from creekbed.core.procedure.build import build
from creekbed.core.procedure.imagine import imagine

CATALOGUE = shipped()
OPEN = ((0.0, 10000.0),)


def job(*operations: Operation, running: tuple[RunningWait, ...] = ()) -> Problem:
    return Problem((PlanJob("A", operations, running=running),), {"line": 4}, OPEN)


WASH = Operation("wash", 1.0, wait_min=90.0, place="line")
HANDS = Operation("hands", 1.0, after=("wash",), deeds=frozenset({"wash"}))
PACK = Operation("pack", 2.0, after=("hands", "wash"))


def test_hands_are_washed_after_the_deed_and_packing_waits_for_what_dries() -> None:
    problem = job(WASH, HANDS, PACK)
    plan = dispatch_plan(problem)
    at = {s.operation: s.start for s in plan.steps}
    assert at == pytest.approx({"wash": 0.0, "hands": 1.0, "pack": 91.0}) and violations(problem, plan) == []
    assert lower_bound(problem) <= plan.cost(problem) + 1e-6


def test_a_wait_that_runs_holds_up_only_what_waits_for_it() -> None:
    problem = job(HANDS, PACK, running=(RunningWait("wash", "line", 40.0),))
    plan = dispatch_plan(problem)
    assert {s.operation: s.start for s in plan.steps} == pytest.approx({"hands": 0.0, "pack": 40.0})
    assert violations(problem, plan) == []


def test_the_checker_sees_a_wait_that_was_cut_short() -> None:
    """The same plan is wrong for a job whose hands do wait: the checker reads what the job says, not what was meant."""
    plan = dispatch_plan(job(WASH, HANDS, PACK))
    told = violations(job(WASH, replace(HANDS, deeds=frozenset()), PACK), plan)
    assert told and "hands begins before wash is over" in told[0]


@pytest.mark.parametrize("key", sorted(CATALOGUE.families))
def test_no_hands_are_kept_from_washing_by_what_dries(key: str) -> None:
    """In no family does washing hands wait for a rack, a line or a tub; only packing waits for all of them."""
    family = CATALOGUE.families[key]
    steps = {s.key: s for s in build(CATALOGUE, imagine(CATALOGUE, family, dry_cloth=False))}
    waits = {k for k, s in steps.items() if s.wait is not None}
    assert waits & set(steps["hands"].after) <= steps["hands"].deeds
    assert not steps["pack"].deeds and waits <= set(steps["pack"].after)


@pytest.mark.parametrize("key", sorted(CATALOGUE.families))
def test_what_leads_to_a_long_wait_begins_before_what_does_not(key: str) -> None:
    """Done in the job's own order by one pair of hands, no step that is ready and leads to a longer wait is put off."""
    family = CATALOGUE.families[key]
    steps = build(CATALOGUE, imagine(CATALOGUE, family, dry_cloth=False))

    def ahead(key: str) -> float:
        """Minutes of waits, one after the other, that a step leads to."""
        mine = next(s for s in steps if s.key == key)
        own = mine.wait.min_minutes if mine.wait is not None else 0.0
        then = [(0.0 if key in s.deeds else own) + ahead(s.key) for s in steps if key in s.after]
        return max([own, *then])

    done: set[str] = set()
    for step in steps:
        ready = [s for s in steps if s.key not in done and s.stage == step.stage and set(s.after) <= done]
        assert ahead(step.key) == max(ahead(s.key) for s in ready), step.key
        done.add(step.key)
