"""Every shell command that needs no window, and the two that belong to no group: history and mix."""

from __future__ import annotations

import argparse
import itertools

from creekbed.cli.bringing import add_commands as add_bringing
from creekbed.cli.calendar import add_commands as add_calendar
from creekbed.cli.catalogue import add_commands
from creekbed.cli.fleet import add_commands as add_fleet
from creekbed.cli.hygiene import add_commands as add_hygiene
from creekbed.cli.inspection import add_commands as add_inspections
from creekbed.cli.plan import add_commands as add_planning
from creekbed.cli.records import add_commands as add_records
from creekbed.cli.shop import shop_of
from creekbed.cli.show import Add, show
from creekbed.cli.sound import add_sound
from creekbed.cli.strings import add_strings
from creekbed.cli.this_shop import add_commands as add_this_shop
from creekbed.core.conventions import clock, number, significant


def add_all(add: Add) -> None:
    """Add every command."""
    own = [_add_history(add), _add_mix(add), *add_strings(add), *add_sound(add)]
    ours = (
        add_planning(add),
        add_calendar(add),
        add_bringing(add),
        add_fleet(add),
        add_records(add),
        add_this_shop(add),
    )
    groups = (*ours, own, add_commands(add), add_inspections(add), add_hygiene(add))
    for machine in itertools.chain.from_iterable(groups):
        machine.add_argument("--json", action="store_true", help="print JSON with units in the keys")


def _add_history(add: Add) -> argparse.ArgumentParser:
    history = add("history", _history, "everything on record of one instrument")
    history.add_argument("tag")
    return history


def _add_mix(add: Add) -> argparse.ArgumentParser:
    mix = add("mix", _mix, "how much stock and water make a mix")
    mix.add_argument(
        "--from", dest="stock", required=True, metavar="STRENGTH", help='of the bottle, "6 %%", "70 %% v/v"'
    )
    mix.add_argument(
        "--to", dest="target", required=True, metavar="STRENGTH", help='wanted, "3 %%", "1000 mg/l", "1 + 9"'
    )
    mix.add_argument("--make", required=True, metavar="VOLUME", help='volume wanted, "500 ml" or "2 cups"')
    mix.add_argument("--with", dest="second", metavar="STRENGTH", help="filled up with a weaker mix instead of water")
    mix.add_argument(
        "--basis", choices=["w/v", "v/v", "w/w"], help="w/v if nothing says it; v/v: alcohol, which shrinks"
    )
    mix.add_argument("--measures", choices=["metric", "us"], help="the stock told in measures at hand")
    mix.add_argument("--marks", metavar="VOLUME", help='distance of the marks on the jug, "25 ml"')
    return mix


def _history(given: argparse.Namespace) -> int:
    from creekbed.workshop.inspection.history import history

    shop = shop_of(given)
    try:
        found = history(shop, given.tag)
    finally:
        shop.close()
    periods = [
        {
            "hired_at": p.hire.out_at.isoformat() if p.hire else None,
            "back_at": p.hire.back_at.isoformat() if p.hire and p.hire.back_at else None,
            "job_state": p.job.state if p.job else None,
            "condition": [{"what": c.what, "out": c.out, "in": c.came_in, "status": c.status} for c in p.compared],
            "work": [{"at": w.at.isoformat(), "what": w.what, "state": w.state, "person": w.person} for w in p.work],
            "parts": [{"name": n, "amount": a, "unit": u} for n, a, u in p.parts],
            "disinfections": list(p.disinfections),
        }
        for p in found.periods
    ]
    facts = {"tag": found.instrument.tag, "family": found.family, "size": found.instrument.size, "periods": periods}
    lines = [f"{found.instrument.tag}  {found.family} {found.size}".rstrip()]
    for p in found.periods:
        lines.append(f"{(p.job.opened_at if p.job else p.hire.out_at).astimezone():%d %b %Y}")  # type: ignore[union-attr]
        lines += [f"  {c.what}: {c.out} / {c.came_in} {c.status}".rstrip() for c in p.compared]
        lines += [f"  {clock(w.at, '%a ')} {w.what}" for w in p.work]
    return show(given, facts, "\n".join(lines))


def _mix(given: argparse.Namespace) -> int:
    from creekbed.core.errors import Refused
    from creekbed.core.hygiene.mixes import between, in_two_steps
    from creekbed.core.hygiene.strengths import METRIC, SPOONS, in_measures, one_basis, parse_strength
    from creekbed.core.units import parse_quantity

    bottle = parse_strength(given.stock, what="The bottle's strength")
    wish = parse_strength(given.target, what="The target strength", stock=bottle)
    weaker = parse_strength(given.second, what="The weaker mix", stock=bottle) if given.second else None
    basis = one_basis(bottle, wish, *([weaker] if weaker else []), basis=given.basis or "") or "w/v"
    stock, target, second = bottle.percent, wish.percent, weaker.percent if weaker else 0.0
    make = parse_quantity(given.make, "milliliter", what="The volume to make", maximum=1_000_000)
    marks = None
    if given.marks:
        marks = parse_quantity(given.marks, "milliliter", what="The jug's marks", minimum=0.001, maximum=10_000)
    try:
        mix = between(stock, second, target, make, marks, basis=basis)
    except Refused as refused:
        if not refused.fields.get("coarse") or marks is None or second:
            raise
        steps = in_two_steps(stock, target, make, marks)
        first, then = steps.first, steps.second
        raise Refused(
            refused.happened,
            todo=f"In two steps: {number(first.stock_rounded_ml)} ml with water up to {number(first.make_ml)} ml, and "
            f"of that {number(then.stock_rounded_ml)} ml with water up to {number(make)} ml, comes out at "
            f"{significant(then.strength_pct, 3)} %. Or take a finer measure.",
        ) from None
    facts = {
        "stock_pct": stock, "target_pct": target, "basis": basis, "make_ml": round(mix.make_ml, 3),
        "stock_ml": round(mix.stock_rounded_ml, 3), "diluent_ml": round(mix.diluent_rounded_ml, 3),
        "stock_exact_ml": round(mix.stock_ml, 3), "strength_pct": round(mix.strength_pct, 4),
        "strength_error_pct": round(mix.strength_error_pct, 4),
    }  # fmt: skip
    poured, rest = significant(mix.stock_rounded_ml, 4), significant(mix.diluent_rounded_ml, 4)
    comes_out = f"It comes out at {significant(mix.strength_pct, 3)} %."
    words = (
        f"{poured} ml of {number(stock)} % stock, then water up to {significant(mix.make_ml, 5)} ml "
        f"(about {rest} ml). {comes_out}"
    )
    if second:
        words = f"{poured} ml of {number(stock)} % and {rest} ml of {number(second)} %. {comes_out}"
    if basis == "v/v" and mix.shrinks:
        facts |= {"water_ml": round(mix.diluent_rounded_ml, 2), "shrinks_ml": round(mix.shrinks, 2)}
        words += f" Alcohol and water shrink, by {significant(mix.shrinks, 3)} ml: fill up to the mark."
    if given.measures and mix.stock_rounded_ml > 0:
        measures = in_measures(mix.stock_rounded_ml, METRIC if given.measures == "metric" else SPOONS)
        facts |= {"stock_in_measures": measures.words(), "measures_error_ml": round(measures.error_ml, 3)}
        words += f" The stock: {measures.words()}."
    return show(given, facts, words, "mix")
