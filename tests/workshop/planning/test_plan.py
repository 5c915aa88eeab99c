"""The plan that people see: who works when, what stays, what is set, what was learned, the day as a picture."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, timedelta

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.core.planning.conflict import Conflict, ConflictPart
from creekbed.core.planning.model import DelayedStart
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.plan_request import answer_request
from creekbed.core.turns import whole
from creekbed.store.records import Job, StepRecord
from creekbed.words.chances import odds
from creekbed.words.phrases import sentence
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.bench.bench_view import HomeView, home, with_plan
from creekbed.workshop.bench.schedule_view import day_of
from creekbed.workshop.inspection import findings
from creekbed.workshop.planning import fixed_starts, forecast_calibration, learned_durations
from creekbed.workshop.planning.bench_planner import BenchPlanner
from creekbed.workshop.planning.explanations import side_of, told_conflict, why_in_turns
from creekbed.workshop.planning.remedies import help_job
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import add_departure
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand


def busy(hand: Hand, count: int = 4) -> list[int]:
    return [hand.book(f"MH-01{n}0", family=f) for n, f in enumerate(["alto_saxophone", "violin"] * count)][:count]


def fine(view: HomeView) -> HomeView:
    assert violations(view.problem, view.plan) == []
    return view


# --- quarantine and room --------------------------------------------------------------------------------------------


def test_what_is_in_quarantine_is_treated_first(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job, other = hand.book("MH-0101", "violin"), hand.book("MH-0102", "violin")
    before = fine(home(shop))
    assert "mould_treat" not in {s.operation for s in before.plan.steps}
    findings.record_choice(shop, job, "smell", "mould")
    view = fine(home(shop))
    mine = {s.operation: s for s in view.plan.steps if s.job == "MH-0101"}
    treated = mine["mould_treat"].end + 240
    early = ("contents", "mould_treat")
    assert all(s.start >= treated - 1e-6 for k, s in mine.items() if k not in early)
    assert mine["contents"].start <= mine["mould_treat"].start
    shown = hand.view(job)
    assert shown.blocked == "" and shown.treating == ("mould_treat",)
    assert next(s.state for s in shown.steps if s.step.key == "look") == "later"
    assert view.plan.forecasts["MH-0101"].finish is not None
    place_row = next(p for p in day_of(shop, view).places if p.place == "quarantine")
    assert [(b.running, b.name) for b in place_row.wait_bars] == [
        (True, "Quarantine: mould"),
        (False, "After mould, drying"),
    ]
    with pytest.raises(Refused, match="is in quarantine"):
        job_steps.take_up(shop, job, "look")
    with pytest.raises(Refused, match="comes before"):
        job_steps.take_up(shop, job, "mould_treat")
    hand.do(job, "contents")
    hand.do(job, "mould_treat")
    view = fine(home(shop))
    waits = [w for w in view.waits if w.tag == "MH-0101"]
    assert [(w.name, w.place) for w in waits] == [("After mould, drying", "quarantine")]
    rest = [s for s in view.plan.steps if s.job == "MH-0101"]
    assert rest and all(s.start >= 240 - 1 for s in rest)
    with pytest.raises(Refused, match="is in quarantine"):
        job_steps.finish_step(shop, job, "look")
    clock.advance(minutes=241)
    view = fine(home(shop))
    assert hand.view(job).blocked == "Quarantine: mould. Treated: look again, then lift it"
    assert not [s for s in view.plan.steps if s.job == "MH-0101"]
    place_row = next(p for p in day_of(shop, view).places if p.place == "quarantine")
    assert [(b.running, b.lane) for b in place_row.wait_bars] == [(True, 0)] and place_row.wait_bars[
        0
    ].end > view.now + timedelta(days=6)
    intake.set_quarantine(shop, job, "")
    view = fine(home(shop))
    assert view.plan.forecasts["MH-0101"].finish is not None and hand.view(job).step("look") is not None
    assert not [p for p in day_of(shop, view).places if p.place == "quarantine"]
    hand.until(job, "look")
    assert hand.view(other).treating == ()


def test_a_full_quarantine_shelf(shop: Shop, hand: Hand) -> None:
    jobs = [hand.book(f"MH-011{n}", "violin") for n in range(5)]
    for job in jobs[:4]:
        findings.record_choice(shop, job, "smell", "insects")
    findings.record_choice(shop, jobs[4], "smell", "wet")
    view = fine(home(shop))
    room = next(p.capacity for p in shop.catalogue.house.place if p.key == "quarantine")
    assert (
        room == 3 and view.problem.capacity["quarantine"] == 1
    )  # four stand there; what is treated goes back to its own
    assert view.plan.forecasts["MH-0114"].finish is not None and hand.view(jobs[0]).blocked == "Quarantine: insects"
    place_row = next(p for p in day_of(shop, view).places if p.place == "quarantine")
    assert len(place_row.wait_bars) == 6 and place_row.lanes == 5 and place_row.full[0][0] == view.now


@pytest.mark.parametrize("family", ["violin", "alto_saxophone", "double_bass", "tuba", "bassoon", "bow"])
@pytest.mark.parametrize("found", ["mould", "wet"])
def test_what_treats_needs_nothing_that_is_kept_back(shop: Shop, hand: Hand, family: str, found: str) -> None:
    if family not in shop.catalogue.families:
        pytest.skip("no such family")
    job = hand.book("MH-0120", family)
    if not any(c.key == "smell" for c in hand.view(job).checks):
        pytest.skip("not asked")
    findings.record_choice(shop, job, "smell", found)
    view = hand.view(job)
    assert view.treating
    early = {s.step.key for s in view.steps if s.step.in_quarantine}
    for step in view.steps:
        if step.step.quarantine:
            assert set(step.step.after) <= early and step.step.wait is not None
            assert step.step.wait.place == "quarantine"
    hand.until(job, view.treating[-1])


def test_hooks_are_of_a_size_and_the_large_take_more(shop: Shop, hand: Hand) -> None:
    places = {"violin": "hook", "acoustic_guitar": "wide_hook", "cello": "corner", "double_bass": "corner"}
    for n, (family, place) in enumerate(places.items()):
        job = hand.book(f"MH-013{n}", family)
        hand.until(job, "contents")
        view = hand.view(job)
        strings = dict.fromkeys(next(c.places for c in view.checks if c.key == "strings")[:1], "worn")
        hand.until(job, "look", strings=strings)
        view = home(shop)
        mine = next(j for j in view.problem.jobs if j.key == f"MH-013{n}")
        hung = [(o.place, o.piece.takes) for o in mine.operations if o.key in ("hang", "retune1", "retune") and o.place]
        assert hung and set(hung) == {(place, 2 if family == "double_bass" else 1)}
    sizes = {"trumpet": (1, 1), "euphonium": (2, 2), "tuba": (2, 4)}
    for n, (family, room) in enumerate(sizes.items()):
        steps = hand.view(hand.book(f"MH-014{n}", family)).steps
        takes = {s.step.wait.place: s.step.wait.takes for s in steps if s.step.wait and not s.step.wait.alike}
        assert (takes["bath"], takes["rack"]) == room


def test_mouthpieces_share_a_tub_and_reeds_lie_in_another(shop: Shop, hand: Hand) -> None:
    jobs = [hand.book(f"MH-015{n}", "alto_saxophone") for n in range(6)]
    for job in jobs:
        hand.until(job, "clean_mouthpiece" if hand.view(job).step("clean_mouthpiece") else "apart")
    view = fine(home(shop))
    kinds = {o.piece.alike for j in view.problem.jobs for o in j.operations if o.place == "tub"}
    assert "disinfect/peroxide" in kinds and "" not in kinds and view.problem.holds["tub"] == 4


# --- people ---------------------------------------------------------------------------------------------------------


def test_nobody_is_there_to_end_a_wait(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = busy(hand)[0]
    hand.until(job, "disinfect")
    clock.advance(minutes=12)
    staff.goes_home(shop, "IW")
    view = home(shop)
    assert view.plan.broken and view.next is not None and view.next.step.step.key == "rinse"
    assert "and no hands are there for it then" in view.next.why and "ago" not in view.next.why
    clock.advance(minutes=30)
    late = home(shop)
    assert late.next is not None and "min ago" in late.next.why


def test_who_works_and_when(shop: Shop, clock: HandClock) -> None:
    assert [w.key for w in staff.workers(shop)] == ["IW"]
    assert staff.add_worker(shop, " to 13-17:30 ", helper=True) == "TO"
    team = staff.workers(shop)
    assert [(w.key, w.helper, w.hours) for w in team] == [("IW", False, (0.0, 24.0)), ("TO", True, (13.0, 17.5))]
    spans = staff.open_spans(shop, clock.now())
    local = clock.now().astimezone()
    windows = staff.windows_of(team[1], spans, clock.now())
    first = (clock.now() + timedelta(minutes=windows[0][0])).astimezone()
    assert (first.hour, first.minute) == (13, 0) and first.date() == local.date()
    assert staff.windows_of(team[0], spans, clock.now())[0][0] == 0.0


@pytest.mark.parametrize("text", ["", "anna-maria", "TO 17-13", "TO noon", "TO 9:75-12", "12"])
def test_initials_and_hours_that_are_none(shop: Shop, text: str) -> None:
    with pytest.raises(BadInput):
        staff.add_worker(shop, text)


def test_who_says_that_they_are_here_is_here(shop: Shop, clock: HandClock) -> None:
    """Before their hours, in the break, and after the bench has closed."""

    def mine() -> tuple[tuple[float, float], ...]:
        spans = staff.open_spans(shop, clock.now())
        return staff.windows_of(next(w for w in staff.workers(shop) if w.key == "TO"), spans, clock.now())

    staff.add_worker(shop, "TO 14-17", helper=True)
    assert mine()[0][0] == pytest.approx(300)
    staff.is_back(shop, "TO")
    assert mine()[0] == pytest.approx((0.0, 480.0)) and shop.last_done.words == "TO is here"
    staff.goes_home(shop, "TO")
    assert mine()[0][0] > 600  # and leaves, though they had come early
    shop.undo()
    shop.undo()
    assert mine()[0][0] == pytest.approx(300)
    open_ = staff.open_spans(shop, clock.now())
    clock.advance(minutes=(open_[0][1] - clock.now()).total_seconds() / 60 + 5)  # in the break
    staff.add_worker(shop, "TO")
    assert mine()[0][0] > 0
    staff.is_back(shop, "TO")
    assert mine()[0][0] == 0.0 and mine()[0][1] > 60
    clock.advance(minutes=(open_[1][1] - clock.now()).total_seconds() / 60 + 30)  # everybody has gone home
    staff.is_back(shop, "TO")
    assert mine()[0] == pytest.approx((0.0, staff.BEYOND_MIN)) and "till 19:00" in shop.last_done.words


def test_somebody_leaves_comes_back_stays_on(shop: Shop, hand: Hand, clock: HandClock) -> None:
    busy(hand)
    staff.add_worker(shop, "AB")
    view = fine(home(shop))
    assert {s.person for s in view.plan.steps} == {"IW", "AB"} and all(q.here for q in view.queues)
    job_steps.take_up(shop, 1, "contents")
    staff.goes_home(shop, "IW")
    assert home(shop).problem.in_hand == frozenset()  # what was in hand is put aside
    staff.is_back(shop, "IW")
    staff.goes_home(shop, "AB")
    view = fine(home(shop))
    assert not next(q for q in view.queues if q.person == "AB").here
    assert all(s.start > 300 for s in view.plan.of("AB"))
    staff.is_back(shop, "AB")
    assert next(q for q in fine(home(shop)).queues if q.person == "AB").here
    end = max(b for a, b in view.problem.people[0].windows if b < 600)
    staff.stays_on(shop, "IW", clock.now() + timedelta(minutes=end), 60.0)
    longer = home(shop).problem.people[0].windows
    assert any(b == pytest.approx(end + 60) for _, b in longer)
    shop.undo()
    assert home(shop).problem.people[0].windows == view.problem.people[0].windows
    with pytest.raises(BadInput):
        staff.stays_on(shop, "IW", clock.now(), -5.0)


def test_somebody_works_here_no_more(shop: Shop, hand: Hand) -> None:
    job = busy(hand)[0]
    staff.add_worker(shop, "AB")
    other = Shop(shop.folder, shop.clock, person="AB")
    job_steps.take_up(other, job, "contents")
    other.close()
    assert ("MH-0100", "contents") in home(shop).problem.in_hand
    staff.remove_worker(shop, "AB")
    assert home(shop).problem.in_hand == frozenset() and [w.key for w in staff.workers(shop)] == ["IW"]
    with pytest.raises(Refused):
        staff.remove_worker(shop, "AB")
    with pytest.raises(Refused):
        staff.remove_worker(shop, "IW")


def test_a_helper_gets_what_needs_no_technician(shop: Shop, hand: Hand) -> None:
    busy(hand, 6)
    staff.add_worker(shop, "TO", helper=True)
    view = fine(home(shop))
    skills = {(v.tag, s.step.key): s.step.skill for v in view.jobs for s in v.steps}
    given = [skills[s.job, s.operation] for s in view.plan.of("TO")]
    assert given and set(given) == {"helper"}


# --- what stays -----------------------------------------------------------------------------------------------------


def test_two_have_things_in_hand(shop: Shop, hand: Hand, clock: HandClock) -> None:
    first, second, *_ = busy(hand)
    staff.add_worker(shop, "AB")
    other = Shop(shop.folder, clock, person="AB")
    job_steps.take_up(shop, first, "contents")
    job_steps.take_up(other, second, "contents")
    clock.advance(seconds=60)
    view = fine(home(shop))
    held = {q.person: q.held[2] for q in view.queues if q.held is not None}
    assert held == {"IW": "MH-0100", "AB": "MH-0110"}
    assert view.next is not None and view.next.in_hand and view.next.view.tag == "MH-0100"
    step = next(s for s in view.plan.steps if s.job == "MH-0100" and s.operation == "contents")
    whole = next(s for s in hand.view(first).steps if s.step.key == "contents").step.hands_min
    assert 0.5 <= step.end - step.start < whole
    other.close()


def test_what_is_next_stays_next_and_a_move_is_said(shop: Shop, hand: Hand, clock: HandClock) -> None:
    busy(hand, 2)
    shown = home(shop).next
    assert shown is not None
    hand.book("MH-0999", departure_id=add_departure(shop, "Packet", clock.now() + timedelta(hours=5)), weight=3.0)
    after = fine(home(shop))
    assert after.next is not None and after.next.view.tag == shown.view.tag and after.moved == ""


def test_set_to_a_time_and_let_go(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = busy(hand, 3)[2]
    at = clock.now() + timedelta(minutes=90)
    fixed_starts.lock(shop, job, "contents", "IW", at)
    view = fine(home(shop))
    step = next(s for s in view.plan.steps if (s.job, s.operation) == ("MH-0120", "contents"))
    assert step.start == pytest.approx(90.0, abs=0.2)
    run = next(r for s in day_of(shop, view).rows for r in s.runs if r.state == "fixed")
    assert run.tag == "MH-0120" and run.key == "contents"
    fixed_starts.unlock(shop, job, "contents")
    assert not any(p.kind == "fixed" for p in home(shop).problem.pins)
    shop.undo()
    assert any(p.kind == "fixed" for p in home(shop).problem.pins)
    hand.do(job, "contents")
    assert not any(p.kind == "fixed" for p in home(shop).problem.pins)


def test_a_step_that_is_not_open_yet_is_set_to_a_time_too(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = busy(hand, 3)[0]
    before = fine(home(shop))
    tag = hand.view(job).tag
    last = max((s for s in before.plan.steps if s.job == tag and s.end > s.start), key=lambda s: s.start)
    assert last.start > 5.0
    fixed_starts.lock(shop, job, last.operation, last.person, clock.now() + timedelta(minutes=last.start + 20))
    view = fine(home(shop))
    step = next(s for s in view.plan.steps if (s.job, s.operation) == (tag, last.operation))
    assert step.start == pytest.approx(last.start + 20, abs=0.3) and step.person == last.person
    run = next(r for s in day_of(shop, view).rows for r in s.runs if r.state == "fixed")
    assert whole(why_in_turns(shop, view, run))[0].startswith("It was set to this time.")


def test_several_steps_are_set_together(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = busy(hand, 2)[0]
    hand.do(job, "contents")
    first, second = [s.step.key for s in hand.view(job).open_steps if s.step.kind != "mix"][:2]
    at = clock.now() + timedelta(minutes=60)
    fixed_starts.lock(shop, job, first, "IW", at, [second])
    assert "and 1 more" in shop.last_done.words
    view = fine(home(shop))
    tag = hand.view(job).tag
    starts = {s.operation: s.start for s in view.plan.steps if s.job == tag}
    assert starts[first] >= 59.8 and starts[second] >= 59.8
    with pytest.raises(Refused, match="not open"):
        fixed_starts.lock(shop, job, first, "IW", at, ["contents"])  # done already
    fixed_starts.unlock(shop, job, first, [second])
    assert not any(p.kind == "fixed" for p in home(shop).problem.pins)
    with pytest.raises(Refused):
        fixed_starts.unlock(shop, job, first, [second])


def test_what_cannot_be_set(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = busy(hand, 1)[0]
    staff.add_worker(shop, "TO", helper=True)
    for key, person in (("nothing", "IW"), ("contents", "XX"), ("look", "TO")):
        with pytest.raises(Refused):
            fixed_starts.lock(shop, job, key, person, clock.now())
    with pytest.raises(Refused):
        fixed_starts.unlock(shop, job, "contents")


def test_one_mix_does_for_all(shop: Shop, hand: Hand) -> None:
    for n in range(3):
        hand.until(hand.book(f"MH-03{n}0"), "look")
    view = fine(home(shop))
    mixes = [s for s in view.plan.steps if "mix" in s.operation]
    assert len(mixes) == 3 and sum(s.end > s.start for s in mixes) == 1
    assert not any(end <= start for q in view.queues for start, end, *_ in q.then)


# --- durations ------------------------------------------------------------------------------------------------------


def test_what_was_recorded_is_learned(shop: Shop, hand: Hand, clock: HandClock) -> None:
    for n in range(6):
        job = hand.book(f"MH-04{n}0")
        job_steps.take_up(shop, job, "contents")
        house = hand.view(job).step("contents").step.hands_min  # type: ignore[union-attr]
        clock.advance(minutes=3 * house)
        intake.tick_rest(shop, job)
        job_steps.finish_step(shop, job, "contents")
    with shop.reading() as session:
        assert learned_durations.count(session) >= 6
        rows = learned_durations.taken(session, shop.catalogue)
    assert [r.minutes for r in rows][:6] == pytest.approx([3 * house] * 6) and {r.house_min for r in rows} == {house}
    fresh = hand.book("MH-0490")
    view = home(shop)
    task = shop.planner.task(view.named, rows, 0.2)
    assert task is not None
    thought = answer_request(task)
    assert shop.planner.take(thought) and thought.learned.records == len(rows)
    learned = home(shop)
    hands = {o.key: o.hands_min for j in learned.problem.jobs if j.key == "MH-0490" for o in j.operations}
    assert house * 1.3 < hands["contents"] < 3 * house and fresh
    assert learned.named["MH-0490", "contents"][2] == house


def test_done_in_one_go_counts_where_it_can_be_believed(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = hand.book()
    hand.do(job, "contents")
    second = next(s.step for s in hand.view(job).open_steps if s.state == "ready")
    hand.do(job, second.key)
    clock.advance(minutes=200)
    following = next(s for s in hand.view(job).open_steps if s.state == "ready")
    hand.look(job)
    job_steps.finish_step(shop, job, following.step.key)
    with shop.reading() as session:
        minutes = {w.key: w.minutes for w in session.all_of(StepRecord)}
    assert minutes["contents"] is None and minutes[second.key] == pytest.approx(second.hands_min)
    assert minutes[following.step.key] is None


# --- thinking -------------------------------------------------------------------------------------------------------


def test_a_thought_is_used_only_for_the_bench_it_is_about(shop: Shop, hand: Hand, clock: HandClock) -> None:
    busy(hand, 3)
    view = home(shop)
    task = shop.planner.task(view.named, None, 0.5)
    assert task is not None and shop.planner.chances is None and shop.planner.gap() == ""
    thought = answer_request(task)
    hand.book("MH-0777")
    home(shop)
    assert not shop.planner.take(thought)
    view = home(shop)
    task = shop.planner.task(view.named, None, 0.5)
    assert task is not None and shop.planner.take(answer_request(task))
    again = fine(home(shop))
    assert shop.planner.gap() and all(a.chance is not None for x in again.shipments for a in x.items)
    assert again.plan.cost(again.problem) <= view.plan.cost(view.problem) + 1e-6
    hand.book("MH-0778")
    told = {a.tag: a.chance for x in home(shop).shipments for a in x.items}
    assert told["MH-0778"] is None and told["MH-0777"] is not None and shop.planner.gap() == ""
    clock.advance(minutes=3)
    assert all(a.chance is None for x in home(shop).shipments for a in x.items)
    assert BenchPlanner().task({}, None, 1.0) is None and BenchPlanner().about() == ""


def test_what_a_thought_puts_off_is_told_once(shop: Shop, hand: Hand) -> None:
    one, other = hand.book("MH-0142"), hand.book("MH-0150")
    first, second = ([s.step for s in hand.view(one).open_steps][n] for n in (0, 1))
    view = home(shop)
    task = shop.planner.task(view.named, (), 0.1, person="IW")
    assert task is not None and task.person == "IW"
    thought = answer_request(task)
    moved = (
        DelayedStart("MH-0150", first.key, 3.0, "departure", ("MH-0142", first.key)),
        DelayedStart("MH-0142", first.key, 2.0, "departure", ("MH-0142", second.key)),
        DelayedStart("MH-0142", first.key, 2.0, "departure"),
        DelayedStart("MH-0142", first.key, 2.0, "departure", ("MH-0999", first.key)),
    )
    assert shop.planner.take(replace(thought, plan=replace(thought.plan, moved=moved)))
    why = "so that less is late"

    def low(words: str) -> str:
        return words[0].lower() + words[1:]

    assert home(shop).moved == ". ".join(
        (
            f"MH-0150 begins 3 min later, MH-0142 comes first: {low(first.what)}, {why}",
            f"MH-0142: {low(second.what)} before “{low(first.what)}”, {why}",
            f"MH-0142 begins 2 min later, {why}",
        )
    )
    assert home(shop).moved == "" and other


def test_what_has_missed_its_boat_is_told_the_next(shop: Shop, hand: Hand, clock: HandClock) -> None:
    hand.book("MH-0142", departure_id=add_departure(shop, "Packet", clock.now() + timedelta(minutes=10)))
    add_departure(shop, "Ferry", clock.now() + timedelta(hours=3))
    clock.advance(minutes=20)
    view = home(shop)
    found = help_job(shop, view, view.jobs[0])
    assert found.words == "its departure is over. Next: Ferry." and not found.makes_it and found.remedies == ()


def test_a_plan_that_slips_is_thought_about_again(shop: Shop, hand: Hand, clock: HandClock) -> None:
    departure = add_departure(shop, "Noon boat", clock.now() + timedelta(minutes=30))
    for n in range(3):
        hand.book(f"MH-01{n}0", departure_id=departure)
    view = home(shop)
    assert not shop.planner.slipped  # nobody has thought yet
    task = shop.planner.task(view.named, (), 0.2)
    assert task is not None and shop.planner.take(answer_request(task))
    assert not shop.planner.slipped and shop.planner.gap() != ""
    home(shop)
    assert not shop.planner.slipped
    clock.advance(minutes=6)
    view = home(shop)  # nobody has done a thing, and three instruments are later for it
    assert shop.planner.about() == task.about and shop.planner.slipped
    again = shop.planner.task(view.named, None, 0.2)
    assert again is not None and shop.planner.take(answer_request(again)) and not shop.planner.slipped


# --- the day, and why -----------------------------------------------------------------------------------------------


def test_the_day_as_a_picture(shop: Shop, hand: Hand, clock: HandClock) -> None:
    job = busy(hand, 4)[0]
    hand.until(job, "disinfect")
    staff.add_worker(shop, "AB")
    view = fine(home(shop))
    day = day_of(shop, view)
    assert [s.person for s in day.rows] == ["IW", "AB"]
    planned = sum(s.end - s.start for s in view.plan.steps)
    drawn = sum((r.end - r.start).total_seconds() / 60 for s in day.rows for r in s.runs)
    assert drawn >= planned - 1e-6
    for person_row in day.rows:
        for a, b in zip(person_row.runs, person_row.runs[1:], strict=False):
            assert a.end <= b.start and (a.tag != b.tag or b.start - a.end > timedelta(minutes=1) or a.state != b.state)
    tub = next(p for p in day.places if p.place == "tub")
    running = [b for b in tub.wait_bars if b.running]
    assert [b.tag for b in running] == ["MH-0100"] and running[0].latest is not None
    assert running[0].soonest <= running[0].end <= running[0].latest
    for place_row in day.places:
        lanes: dict[int, datetime] = {}
        for wait_bar in place_row.wait_bars:
            assert lanes.get(wait_bar.lane, wait_bar.start) <= wait_bar.start
            lanes[wait_bar.lane] = wait_bar.end
        shared = next(p.holds for p in shop.catalogue.house.place if p.key == place_row.place)
        assert place_row.lanes <= place_row.capacity * shared
    assert len(day.week) == 7 and day.week[0].planned_min > 0
    assert sum(d.ready for d in day.week) == sum(f.finish is not None for f in view.plan.forecasts.values())
    assert [b.name for b in day.departures] == ["Friday boat"]


def test_an_empty_day(shop: Shop) -> None:
    day = day_of(shop, home(shop))
    assert day.places == () and day.departures == () and day.rows[0].runs == () and day.week[0].planned_min == 0


def test_why_then_and_why_not_first(shop: Shop, hand: Hand) -> None:
    busy(hand, 4)
    view = home(shop)
    runs = day_of(shop, view).rows[0].runs
    assert "at once" in whole(why_in_turns(shop, view, runs[0]))[0]
    later = next(r for r in runs[1:] if r.tag != runs[0].tag)
    words, first, other = whole(why_in_turns(shop, view, later))
    assert "to spare for the Friday boat" in words and ("hands are with" in words or "over only then" in words)
    assert other is not None and first.startswith("Done first")
    assert violations(other_problem(view, later), other.plan) == []


def other_problem(view: HomeView, run: object) -> object:
    """The bench as it was asked about, without what was to be next."""
    return replace(view.problem, pins=tuple(p for p in view.problem.pins if p.kind != "preferred"))


def test_two_days_side_by_side(shop: Shop, hand: Hand, clock: HandClock) -> None:
    departure = add_departure(shop, "Packet", clock.now() + timedelta(minutes=100))
    later = add_departure(shop, "Late packet", clock.now() + timedelta(hours=30))
    jobs = [hand.book(f"MH-06{n}0", departure_id=departure) for n in range(3)]
    view = home(shop)
    side = side_of(view.problem, view.plan, 0, 3)
    assert side.late_jobs > 0 and side.late_min > 0 and side.in_time == 3 - side.late_jobs and side.of == 3
    intake.change_departure(shop, jobs[0], later)
    after = home(shop)
    assert side_of(after.problem, after.plan, 0, 3).late_min < side.late_min
    seen = with_plan(view, after.problem, after.plan)
    assert "MH-0600" not in [a.tag for a in seen.shipments[0].items]
    with pytest.raises(Refused):
        intake.change_departure(shop, jobs[0], 999)
    late = next(v for v in after.jobs if after.plan.forecasts[v.tag].late_by > 0)
    told = help_job(shop, after, late)
    assert told.words and "work on it" in told.why


@pytest.mark.parametrize(
    ("chance", "words"), [(1.0, "as good as sure"), (0.0, "hardly a chance"), (0.72, "7 in 10"), (0.03, "0.3 in 10")]
)
def test_chances_in_words(chance: float, words: str) -> None:
    assert odds(chance) == words and sentence("a b") == "A b"


def test_a_conflict_is_told_in_words(shop: Shop, hand: Hand, clock: HandClock) -> None:
    wet = hand.book("MH-0700")
    hand.until(wet, "disinfect")
    other = hand.book("MH-0799")
    job_steps.take_up(shop, other, "contents")
    latest = next(w.contact.latest for w in home(shop).waits)
    assert latest is not None
    clock.advance(seconds=(latest - clock.now()).total_seconds() - 20)
    view = home(shop)
    assert view.plan.broken
    task = shop.planner.task(view.named, None, 0.2)
    assert task is not None and shop.planner.take(answer_request(task))
    found = shop.planner.conflict
    assert found is not None and {p.kind for p in found.parts} == {"limit", "in_hand"}
    words = told_conflict(shop, view, found)
    assert "Cannot all be kept: MH-0700" in words and "IW puts aside what is in hand" in words


# --- forecasts that came true ---------------------------------------------------------------------------------------


def test_how_often_forecasts_came_true(shop: Shop, hand: Hand, clock: HandClock) -> None:
    departure = add_departure(shop, "Packet", clock.now() + timedelta(hours=20))
    jobs = [hand.book(f"MH-08{n}0", departure_id=departure) for n in range(3)]
    view = home(shop)
    assert (
        forecast_calibration.keep(shop, view) == 0 and forecast_calibration.calibration(shop) == []
    )  # nobody has thought yet
    task = shop.planner.task(view.named, None, 0.2)
    assert task is not None and shop.planner.take(answer_request(task))
    assert forecast_calibration.keep(shop, home(shop)) == 3 and forecast_calibration.keep(shop, home(shop)) == 0
    clock.advance(hours=13)
    assert forecast_calibration.keep(shop, home(shop)) in (0, 3)
    with shop.act("put") as act:
        job = act.records.get(Job, jobs[0])
        assert job is not None
        act.records.update(job, state="ready", ready_at=clock.now())
        act.words = "put"
    clock.advance(hours=20)
    bands = forecast_calibration.calibration(shop)
    assert sum(b.given for b in bands) >= 3 and sum(b.came_true for b in bands) >= 1
    assert all(b.low <= b.mean <= b.high for b in bands) and "were ready in time" in bands[0].words


# --- away ------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "to", "back"),
    [("luthier", "luthier", None), ("the luthier, Tue 14:30", "the luthier", (1, 14, 30)),
     ("brass repairer, back friday", "brass repairer", (4, 9, 0)), ("luthier, soon", "luthier, soon", None)],
)  # fmt: skip
def test_when_it_is_back(clock: HandClock, text: str, to: str, back: tuple[int, int, int] | None) -> None:
    found, at = findings.read_back(text, clock.now())
    assert found == to and (at is None) == (back is None)
    if at is not None:
        assert (at.weekday(), at.hour, at.minute) == back and timedelta(0) < at - clock.now() <= timedelta(days=7)


def test_the_plan_counts_on_what_comes_back(shop: Shop, hand: Hand, clock: HandClock) -> None:
    tuesday = add_departure(shop, "Tuesday boat", clock.now() + timedelta(days=5))
    job = hand.book("MH-0950", "violin", departure_id=tuesday)
    hand.until(job, "contents")
    back = clock.now() + timedelta(days=1)
    findings.send_out(shop, job, "luthier", back)
    view = fine(home(shop))
    mine = [s for s in view.plan.steps if s.job == "MH-0950"]
    assert mine and min(s.start for s in mine) >= 24 * 60 - 0.1
    item = view.shipments[0].items[0]
    assert item.finish is not None and item.finish > back and item.away == back and not item.blocked
    assert view.shipments[0].will_make_it == 1 and "back " in hand.view(job).blocked
    clock.advance(days=1, minutes=5)
    late = home(shop)
    assert late.plan.forecasts["MH-0950"].finish is None and "At the luthier" in late.shipments[0].items[0].blocked
    findings.back_from(shop, job, "bridge set square")
    assert home(shop).plan.forecasts["MH-0950"].finish is not None and hand.view(job).job.back_at is None
    with pytest.raises(BadInput):
        findings.send_out(shop, job, "luthier", clock.now() - timedelta(hours=1))


def test_what_mends_a_conflict_is_told_beside_two_waits(shop: Shop, hand: Hand) -> None:
    """Of two waits and somebody's hours only the hours mend it alone: they are named."""
    hand.book()
    parts = (
        ConflictPart("limit", "MH-0142", "dip", 5.0),
        ConflictPart("limit", "MH-0150", "dip", 5.0),
        ConflictPart("hours", "IW"),
    )
    words = told_conflict(shop, home(shop), Conflict(parts, parts[2:]))
    assert "IW stays, or is back sooner" in words and "a second pair of hands" in words
