"""Shell commands of the bench plan: what next, who works, what is late and what would help, what is set to a time."""

from __future__ import annotations

import argparse
import math
from collections.abc import Callable, Mapping
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any

from creekbed.cli.shop import shop_of
from creekbed.cli.show import Add, plain_number, show
from creekbed.core.conventions import clock, number
from creekbed.core.errors import BadInput
from creekbed.core.local import next_clock

if TYPE_CHECKING:
    from creekbed.workshop.bench.bench_view import HomeView
    from creekbed.workshop.planning.better_plan import Better
    from creekbed.workshop.shop.shop import Shop

LATE_S = 2.0
"""How long a better plan is looked for before a job is called late, seconds: house default."""


def add_commands(add: Add) -> list[argparse.ArgumentParser]:
    """Add ``plan``, ``late``, ``people``, ``set``, ``part``, ``room``, ``forecasts`` and ``pace``.

    Args:
        add: makes a command from its name, what it runs, and its help.

    Returns:
        The parsers, each of which prints JSON too.
    """
    plan = add("plan", _plan, "what next, and what is ready for which departure")
    plan.add_argument(
        "--better", type=plain_number, default=0.0, metavar="SECONDS", help="look so long for a better plan"
    )
    late = add("late", _late, "what is late, where its time goes, and the cheapest changes that would help")
    late.add_argument("tag", nargs="?", help="one instrument; all that are late if missing")
    staff = add("people", _people, "who works at the bench, and when")
    staff.add_argument("--add", metavar="WHO", help='initials, and hours if not the shop\'s: "TO 13-17"')
    staff.add_argument("--helper", action="store_true", help="with --add: does what needs no technician")
    staff.add_argument("--leaves", metavar="WHO", help="has left for today")
    staff.add_argument("--here", metavar="WHO", help="is here after all")
    staff.add_argument("--remove", metavar="WHO", help="works here no more")
    lock = add("set", _set, "set a step to begin at a time, or let the plan move it again")
    lock.add_argument("tag")
    lock.add_argument("step", help="its key, as the plan and the history name it")
    lock.add_argument("--at", metavar="HH:MM", help="today, or tomorrow where that has passed; now if missing")
    lock.add_argument("--person", metavar="WHO", help="whose hands; who sits here if missing")
    lock.add_argument("--let-go", action="store_true", help="the plan may move it again")
    part = add("part", _part, "a step waits for a part that is on its way, or the part is here")
    part.add_argument("tag")
    part.add_argument("step", help="what cannot be done without it: its key")
    part.add_argument(
        "what", nargs="?", default="", help='and when it comes: "end plug, Fri 10:15"; is here if missing'
    )
    room = add("room", _room, "how much each place takes, and when the bench is open")
    room.add_argument("changes", nargs="*", metavar="NAME=VALUE", help='"tub=3", "Saturday=9-12:30", "Sunday=shut"')
    forecasts = add("forecasts", _forecasts, "how often forecasts came true")
    pace = add("pace", _pace, "how long steps take here, beside the house default, with what is not sure yet")
    return [plan, late, staff, lock, part, room, forecasts, pace]


def _plan(given: argparse.Namespace) -> int:
    from creekbed.workshop.bench.bench_view import home

    shop = shop_of(given)
    view = home(shop)
    better = None
    if given.better > 0:
        from creekbed.workshop.planning.better_plan import better_plan

        better = better_plan(shop, min(given.better, 600.0))
    shop.close()
    odds_of = {k: round(v, 3) for k, v in better.thought.chances.in_time.items()} if better is not None else {}
    facts, lines = _plan_facts(view, odds_of), _plan_lines(view, odds_of)
    if better is not None:
        facts["better"] = _better_facts(better)
        lines += _better_lines(better)
    return show(given, facts, "\n".join(lines))


def _plan_facts(view: HomeView, odds_of: Mapping[str, float]) -> dict[str, Any]:
    following = None
    if view.next is not None:
        following = {
            "tag": view.next.view.tag, "what": view.next.step.step.what, "why": view.next.why,
            "start": view.next.start.isoformat(), "hands_min": view.next.step.step.hands_min,
        }  # fmt: skip
    return {
        "now": view.now.isoformat(),
        "next": following,
        "then": [{"start": at.isoformat(), "tag": tag, "what": what} for at, tag, what in view.then],
        "hands": [
            {
                "person": q.person, "helper": q.helper, "here": q.here,
                "then": [
                    {
                        "start": a.isoformat(), "hands_min": round((b - a).total_seconds() / 60, 1), "tag": tag,
                        "what": what,
                    }
                    for a, b, tag, what, _, _ in (*([q.held] if q.held else []), *q.then[:8])
                ],
            }
            for q in view.queues
        ],
        "waits": [
            {
                "tag": w.tag, "name": w.name, "place": w.place,
                "remaining_s": round(w.contact.remaining.total_seconds()),
                "latest": w.contact.latest.isoformat() if w.contact.latest else None, "at_end": w.at_end,
            }
            for w in view.waits
        ],
        "departures": [
            {
                "name": x.departure.name, "leaves_at": x.departure.leaves_at.isoformat(),
                "will_be_in_time": x.will_make_it,
                "items": [
                    {
                        "tag": a.tag, "ready": a.ready, "finish": a.finish.isoformat() if a.finish else None,
                        "late_min": round(a.late_min, 1), "blocked": a.blocked, "chance": odds_of.get(a.tag),
                    }
                    for a in x.items
                ],
            }
            for x in view.shipments
        ],
    }  # fmt: skip


def _plan_lines(view: HomeView, odds_of: Mapping[str, float]) -> list[str]:
    from creekbed.words.chances import odds

    lines = []
    if view.next is not None:
        lines.append(f"Next: {view.next.view.tag}: {view.next.step.step.what}. {view.next.why}")
    for x in view.shipments:
        when = clock(x.departure.leaves_at, "%a ")
        lines.append(f"{x.departure.name}, {when}: {x.will_make_it} of {len(x.items)} in time")
        for a in x.items:
            about = f"about {clock(a.finish, '%a ')}" if a.finish else "?"
            state = "ready" if a.ready else a.blocked or about
            late = f", {a.late_min:.0f} min late" if a.late_min > 0 else ""
            if a.tag in odds_of and not a.ready and not a.blocked:
                late += f", {odds(odds_of[a.tag])}"
            lines.append(f"  {a.tag}  {a.family}: {state}{late}")
    return lines


def _better_facts(better: Better) -> dict[str, Any]:
    found = better.thought
    return {
        "cost_now": round(better.cost_now, 1), "cost": round(found.cost, 1), "bound": round(found.bound, 1),
        "less_late_min": round(better.less_late, 1), "sooner_min": round(better.sooner, 1),
        "proven": found.proven, "late_bound_min": round(found.late_bound, 1), "words": better.words,
        "learned_from": found.learned.records, "conflict": better.conflict,
        "first": [{"start": at.isoformat(), "tag": tag, "what": what} for at, tag, what in better.first],
    }  # fmt: skip


def _better_lines(better: Better) -> list[str]:
    gains = [f"{better.less_late:.0f} min less late"] if better.less_late >= 1 else []
    gains += [f"{better.sooner:.0f} min sooner, all instruments together"] if better.sooner >= 1 else []
    found = f"A better order was found: {', '.join(gains)}." if gains else "No better order was found."
    lines = [f"{found} {better.words}"]
    lines += [f"  {clock(at, '%a ')} {tag}: {what}" for at, tag, what in better.first]
    return lines + ([better.conflict] if better.conflict else [])


def _late(given: argparse.Namespace) -> int:
    from creekbed.workshop.arrival.intake import clean_tag
    from creekbed.workshop.planning.better_plan import thought_over
    from creekbed.workshop.planning.remedies import help_job

    shop = shop_of(given)
    view = thought_over(shop, LATE_S)
    wanted = clean_tag(given.tag) if given.tag else ""
    jobs = [
        v for v in view.jobs if v.departure is not None and not v.blocked and view.plan.forecasts[v.tag].late_by > 0
    ]
    if wanted:
        if not any(v.tag == wanted for v in view.jobs):
            shop.close()
            raise BadInput(f"{wanted} is not on the bench.", todo="Look at the tag again.")
        jobs = [v for v in jobs if v.tag == wanted]
    found = [(v, help_job(shop, view, v)) for v in jobs]
    shop.close()
    facts = {
        "late": [
            {
                "tag": h.tag, "departure": v.departure.name if v.departure else "", "why": h.why, "helps": list(h.ways),
                "late_min": round(view.plan.forecasts[h.tag].late_by, 1), "words": h.words,
            }
            for v, h in found
        ]
    }  # fmt: skip
    lines = [f"{h.tag}: {h.words}\n  {h.why}" + "".join(f"\n  or: {w}" for w in h.ways[1:]) for _, h in found]
    return show(given, facts, "\n".join(lines) or "Nothing is late.")


def _people(given: argparse.Namespace) -> int:
    from creekbed.workshop.shop import staff

    shop = shop_of(given)
    try:
        if given.add:
            staff.add_worker(shop, given.add, helper=given.helper)
        if given.leaves:
            staff.goes_home(shop, given.leaves)
        if given.here:
            staff.is_back(shop, given.here)
        if given.remove:
            staff.remove_worker(shop, given.remove)
        now = shop.now
        spans = staff.open_spans(shop, now)
        rows = [(w, staff.windows_of(w, spans, now)) for w in staff.workers(shop)]
    finally:
        shop.close()
    facts = {
        "people": [
            {
                "person": w.key, "helper": w.helper, "here": bool(found) and found[0][0] <= 0,
                "next": [[(now + timedelta(minutes=m)).isoformat() for m in span] for span in found[:4]],
            }
            for w, found in rows
        ]
    }  # fmt: skip
    lines = []
    for w, found in rows:
        role = ", helper" if w.helper else ""
        first = (now + timedelta(minutes=found[0][0])).astimezone() if found else None
        when = (
            "here"
            if found and found[0][0] <= 0
            else f"from {clock(first, '%a ')}"
            if first
            else "not in the coming weeks"
        )
        lines.append(f"{w.key}{role}: {when}")
    return show(given, facts, "\n".join(lines))


def _set(given: argparse.Namespace) -> int:
    from creekbed.workshop.planning import fixed_starts

    def act(shop: Shop, job: int) -> None:
        if given.let_go:
            fixed_starts.unlock(shop, job, given.step)
        else:
            fixed_starts.lock(shop, job, given.step, given.person or shop.person, _moment(given.at, shop.now))

    return _of_a_step(given, act)


def _part(given: argparse.Namespace) -> int:
    from creekbed.workshop.inspection.findings import read_back
    from creekbed.workshop.supplies import awaited_parts

    def act(shop: Shop, job: int) -> None:
        if not given.what:
            awaited_parts.is_here(shop, job, given.step)
            return
        what, at = read_back(given.what, shop.now)
        awaited_parts.wait_for(shop, job, given.step, what, at)

    return _of_a_step(given, act)


def _of_a_step(given: argparse.Namespace, act: Callable[[Shop, int], None]) -> int:
    """Do something about a step of an open job, and tell when it begins then."""
    from creekbed.workshop.arrival.intake import clean_tag
    from creekbed.workshop.bench.bench_view import home

    shop = shop_of(given)
    try:
        tag = clean_tag(given.tag)
        job = next((v for v in home(shop).jobs if v.tag == tag), None)
        if job is None:
            raise BadInput(f"{tag} is not on the bench.", todo="Look at the tag again.")
        act(shop, job.job.id)
        done = shop.last_done
        view = home(shop)
        step = next((s for s in view.plan.steps if (s.job, s.operation) == (tag, given.step)), None)
    finally:
        shop.close()
    assert done is not None
    start = view.now + timedelta(minutes=step.start) if step is not None else None
    facts = {"tag": tag, "step": given.step, "start": start.isoformat() if start else None, "words": done.words}
    begins = f" It begins {clock(start, '%a ')}." if start else ""
    return show(given, facts, f"{done.words}.{begins}")


def _room(given: argparse.Namespace) -> int:
    from creekbed.words.calendar import DAYS
    from creekbed.workshop.shop import bench_capacity as room

    shop = shop_of(given)
    try:
        places = {p.key: p for p in room.rooms(shop)}
        named = {p.name.lower(): p.key for p in places.values()} | {k: k for k in places}
        days = {day.lower(): n for n, day in enumerate(DAYS)}
        wanted: dict[str, int] = {}
        hours: dict[int, str] = {}
        for change in given.changes:
            name, _, value = change.partition("=")
            key = name.strip().lower()
            if key in days:
                hours[days[key]] = value
            elif key in named:
                wanted[named[key]] = int(value) if value.strip().isdigit() else 0
            else:
                known = ", ".join([*named, *DAYS])
                raise BadInput(f"“{name[:24]}” is no place and no day.", todo=f"One of: {known}.")
        told = room.change(shop, wanted, hours) if given.changes else []
        rows, opening = room.rooms(shop), room.opening(shop)
    finally:
        shop.close()
    facts = {
        "changed": told,
        "room": [{"key": r.key, "name": r.name, "room": r.capacity, "alike_in_each": r.holds} for r in rows],
        "open": dict(zip(DAYS, opening, strict=True)),
    }  # fmt: skip
    lines = [f"{r.name}: {r.capacity}" + (f", {r.holds} alike in each" if r.holds > 1 else "") for r in rows]
    lines += [f"{day}: {words}" for day, words in zip(DAYS, opening, strict=True)]
    return show(given, facts, "\n".join(([f"Changed: {', '.join(told)}"] if told else []) + lines))


def _moment(text: str | None, now: datetime) -> datetime:
    """A time of day as the next moment at which it comes."""
    if text is None:
        return now
    try:
        typed = datetime.strptime(text.strip(), "%H:%M")
    except ValueError:
        raise BadInput(f"“{text[:16]}” is no time of day.", todo="Such as 14:30.") from None
    return next_clock(now, typed.hour, typed.minute)


def _forecasts(given: argparse.Namespace) -> int:
    from creekbed.workshop.planning.forecast_calibration import calibration

    shop = shop_of(given)
    bands = calibration(shop)
    shop.close()
    facts = {
        "bands": [
            {"from": b.low, "to": b.high, "given": b.given, "mean": round(b.mean, 3), "came_true": b.came_true}
            for b in bands
        ]
    }
    return show(given, facts, "\n".join(b.words for b in bands) or "No departure is over since a chance was told.")


def _pace(given: argparse.Namespace) -> int:
    from creekbed.core.planning.durations import learn
    from creekbed.workshop.planning import learned_durations as pace

    shop = shop_of(given)
    with shop.reading() as records:
        taken = pace.taken(records, shop.catalogue)
    names = {(f.key, s.key): (f.name, s.what) for f in shop.catalogue.families.values() for s in f.step}
    shop.close()
    learned = learn(taken)
    seen: dict[tuple[str, str], list[float]] = {}
    house = {(r.family, r.operation): r.house_min for r in taken}
    for r in taken:
        seen.setdefault((r.family, r.operation), []).append(r.minutes)
    rows = []
    for (family, operation), minutes in sorted(seen.items(), key=lambda row: -len(row[1])):
        default = house[family, operation]
        name, what = names.get((family, operation), (family, operation))
        rows.append({
            "family": name, "step": operation, "what": what, "house_min": default, "records": len(minutes),
            "median_min": round(learned.median(operation, family, default), 2),
            "factor_68_pct": round(math.exp(learned.deviation(operation, family)), 3),
        })  # fmt: skip
    facts = {"records": learned.records, "steps": rows}
    lines = [
        f"{r['family']}, {r['step']}: {number(r['median_min'])} min "
        f"(house {number(r['house_min'])}, {r['records']} times)"
        for r in rows
    ]
    return show(
        given, facts, "\n".join(lines) or "No length of any step is on record yet: take steps up before you do them."
    )
