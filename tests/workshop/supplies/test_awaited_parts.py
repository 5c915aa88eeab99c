"""Steps that wait for a part: the plan goes round it, and it is done when the part is here."""

from __future__ import annotations

from datetime import timedelta

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.core.planning.model import Operation, PlanJob, PlanPerson, Problem
from creekbed.core.planning.plan_checker import violations
from creekbed.core.turns import whole
from creekbed.words.explanations import breakdown_words
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.bench.schedule_view import day_of
from creekbed.workshop.inspection import findings
from creekbed.workshop.planning.explanations import why_in_turns
from creekbed.workshop.release.release_check import obstacles
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import awaited_parts
from tests.conftest import Hand


def without_plug(hand: Hand, shop: Shop) -> int:
    job = hand.book("MH-0142")
    plug = next(i for i in hand.view(job).family.item if i.kind == "safety")
    intake.tick_item(shop, job, plug.key, "missing")
    return job


def test_the_plan_waits_for_a_part(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = without_plug(hand, shop)
    plug = next(i for i in hand.view(job).family.item if i.kind == "safety")
    assert any(o.code == "missing" for o in obstacles(hand.view(job), clock.now()))
    before = home(shop)
    first = before.plan.forecasts["MH-0142"].finish
    assert first is not None and first < 20 * 60
    what, at = findings.read_back(f"{plug.name}, Fri 9:30", clock.now())
    awaited_parts.wait_for(shop, job, "pack", what.upper(), at)
    view = home(shop)
    assert violations(view.problem, view.plan) == [] and at is not None
    pack = next(s for s in view.plan.steps if s.operation == "pack")
    due_at = (at - clock.now()).total_seconds() / 60
    assert pack.start >= due_at - 1e-6
    finish = view.plan.forecasts["MH-0142"].finish
    assert finish is not None and finish >= due_at
    assert obstacles(hand.view(job), clock.now()) == []  # it is on its way
    item = next(a for x in view.shipments for a in x.items)
    assert item.blocked == "" and item.part == f"{plug.name.upper()} Fri 09:30"
    run = next(r for s in day_of(shop, view).rows for r in s.runs if r.key == "pack")
    assert "It waits for this" in whole(why_in_turns(shop, view, run))[0]
    from creekbed.core.planning.explanations import path

    assert "until its part comes" in breakdown_words(path(view.problem, view.plan, "MH-0142"))
    with pytest.raises(Refused, match="comes before"):
        job_steps.finish_step(shop, job, "pack")
    awaited_parts.wait_for(shop, job, "pack", plug.name, at + timedelta(hours=2))  # said again, it counts
    (only,) = hand.view(job).parts
    assert only.at == at + timedelta(hours=2) and only.item == plug.key
    shop.undo()
    assert hand.view(job).parts[0].at == at
    awaited_parts.is_here(shop, job, "pack")
    assert hand.view(job).parts == () and home(shop).plan.forecasts["MH-0142"].finish == pytest.approx(first, abs=60)
    with pytest.raises(Refused, match="no part"):
        awaited_parts.is_here(shop, job, "pack")


def test_a_step_whose_part_has_not_come_cannot_be_done(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book("MH-0142")
    hand.until(job, "look")
    step = next(s for s in hand.view(job).steps if s.state == "ready")
    awaited_parts.wait_for(shop, job, step.step.key, "a new swab", clock.now() + timedelta(hours=1))
    waiting = hand.view(job).step(step.step.key)
    assert waiting is not None and waiting.state == "waiting" and waiting.parts[0].what == "a new swab"
    with pytest.raises(Refused, match="It waits for this: a new swab"):
        job_steps.finish_step(shop, job, step.step.key)
    following = home(shop).next
    assert following is None or following.step.step.key != step.step.key
    clock.advance(minutes=61)
    late = hand.view(job).step(step.step.key)
    assert late is not None and late.state == "ready" and late.parts  # it should be here by now
    job_steps.finish_step(shop, job, step.step.key)
    assert hand.view(job).parts == ()


def test_a_piece_that_is_here_after_all(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = without_plug(hand, shop)
    plug = next(i for i in hand.view(job).family.item if i.kind == "safety")
    awaited_parts.wait_for(shop, job, "pack", plug.name, clock.now() + timedelta(days=1))
    assert hand.view(job).parts
    intake.tick_item(shop, job, plug.key, "present")
    assert hand.view(job).parts == () and home(shop).plan.steps
    intake.tick_item(shop, job, plug.key, "missing")
    clock.advance(hours=25)
    assert any(o.code == "missing" for o in obstacles(hand.view(job), clock.now()))  # it should have come, and has not


@pytest.mark.parametrize(
    ("what", "hours", "match"), [("", 2.0, "What is it"), ("swab", None, "When"), ("swab", -1.0, "passed")]
)
def test_what_is_no_part_on_its_way(
    shop: Shop, hand: Hand, clock: HandClock, what: str, hours: float | None, match: str
) -> None:
    job = hand.book("MH-0142")
    at = None if hours is None else clock.now() + timedelta(hours=hours)
    with pytest.raises(BadInput, match=match):
        awaited_parts.wait_for(shop, job, "contents", what, at)
    with pytest.raises(Refused, match="not open"):
        awaited_parts.wait_for(shop, job, "no_such_step", "a swab", clock.now() + timedelta(hours=1))


def test_an_operation_that_may_not_begin_yet() -> None:
    from creekbed.core.planning.dispatch import dispatch_plan
    from creekbed.core.planning.lower_bounds import lower_bound
    from creekbed.core.planning.optimiser import improve

    jobs = (
        PlanJob("a", (Operation("wash", 10.0), Operation("fit", 5.0, ("wash",), release=60.0))),
        PlanJob("b", (Operation("wash", 20.0),)),
    )
    problem = Problem(jobs, {}, ((0.0, 1e6),), people=(PlanPerson("A", ((0.0, 1e6),)),))
    best = improve(problem, dispatch_plan(problem), 3.0)
    assert violations(problem, best.plan) == [] and best.proven
    assert best.plan.forecasts["a"].finish == pytest.approx(65.0)
    assert lower_bound(problem) <= best.cost + 1e-6
    early = Problem(
        (PlanJob("a", (Operation("wash", 10.0), Operation("fit", 5.0, ("wash",)))), jobs[1]),
        {}, ((0.0, 1e6),), people=problem.people,
    )  # fmt: skip
    assert any("begins before it may" in v for v in violations(problem, dispatch_plan(early)))
