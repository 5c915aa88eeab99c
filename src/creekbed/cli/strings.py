"""Shell commands about strings."""

from __future__ import annotations

import argparse

from creekbed.cli.show import Add, plain_number, show
from creekbed.core.conventions import millimetres, number


def add_strings(add: Add) -> list[argparse.ArgumentParser]:
    """Add the commands.

    Returns:
        The parsers, each of which prints JSON too.
    """
    tension = add("tension", _tension, "pull of a string at another length and pitch")
    tension.add_argument("--stated", required=True, metavar="N", help='stated tension, "58 N"')
    tension.add_argument("--stated-length", required=True, metavar="LENGTH")
    tension.add_argument("--length", required=True, metavar="LENGTH")
    tension.add_argument("--pitch", required=True, metavar="NOTE", help="A4, E5, ...")
    tension.add_argument("--a4", type=plain_number, default=440.0, metavar="HZ")
    settle = add("settle", _settle, "when a new string wants retuning, and how it holds, from readings so far")
    settle.add_argument(
        "--read", nargs=3, action="append", default=[], metavar=("FROM", "TO", "CENTS"),
        help='minutes since tuning up at the start and end, cents flat: --read 0 12 "16 cents"; may be repeated',
    )  # fmt: skip
    settle.add_argument("--family", default="violin", help='key or name, "guitar"; what its strings do is begun with')
    settle.add_argument("--u", default="1.5 cents", metavar="CENTS", help="standard uncertainty of a reading")
    lean = add("lean", _lean, "bridge lean from a height and the gap to a square there, with its verdict")
    lean.add_argument("--height", required=True, metavar="LENGTH")
    lean.add_argument("--gap", required=True, metavar="LENGTH")
    string = add("string", _string, "a plain string: its pull, when it breaks, how stretched it sounds")
    string.add_argument("--material", choices=["steel", "gut", "nylon"], default="steel")
    string.add_argument("--diameter", metavar="LENGTH", help='"0.254 mm" or "0.010 in"; or --wanted')
    string.add_argument("--wanted", metavar="N", help="the tension that is wanted: the diameter for it is told")
    string.add_argument("--length", required=True, metavar="LENGTH")
    string.add_argument("--pitch", required=True, metavar="NOTE", help="A4, E5, ...")
    string.add_argument("--a4", type=plain_number, default=440.0, metavar="HZ")
    string.add_argument("--angle", metavar="ANGLE", help='that it makes over its bridge, "158°"')
    strings = add("strings", _strings, "which strings suit an instrument of a size")
    strings.add_argument("what", choices=["choose"])
    strings.add_argument("--family", default="violin", help='key or name, "acoustic guitar"')
    strings.add_argument("--size", help='"1/2"; the largest if not said')
    strings.add_argument("--angle", metavar="ANGLE", help='that they make over the bridge, "158°"')
    return [tension, settle, lean, string, strings]


def _strings(given: argparse.Namespace) -> int:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.procedure.imagine import find_family
    from creekbed.core.strings.choice import ask_for, fits, whole_set
    from creekbed.core.units import parse_quantity
    from creekbed.words.strings import ask_words, fit_words, set_words
    from creekbed.workshop.supplies.string_choice import plain_of, stated_strings, wanted_strings

    catalogue = shipped()
    family = find_family(catalogue, given.family)
    size = given.size or family.sizes[0]
    angle = parse_quantity(given.angle, "degree", what="The angle") if given.angle else None
    every, rows, chosen, said = stated_strings(catalogue, family), [], [], []
    for wanted in wanted_strings(catalogue, family, size):
        found = fits(every, wanted)
        best = found[0] if found else None
        ask = ask_for(wanted, plain_of(catalogue, family, wanted.key))
        rows.append({
            "string": wanted.key, "hz": round(wanted.hz, 3), "length_mm": wanted.length_mm,
            "wanted_n": round(wanted.target_n, 2), "ask_stated_n": round(ask.tension_n, 2),
            "ask_length_mm": wanted.full_mm,
            "ask_diameter_mm": None if ask.diameter_mm is None else round(ask.diameter_mm, 4),
            "fits": [
                {
                    "item": f.string.key, "tension_n": round(f.tension_n, 2), "off": round(f.off, 4), "band": f.band,
                    "margin_cents": None if f.margin_cents is None else round(f.margin_cents, 1), "stretch": f.stretch,
                }
                for f in found[:4]
            ],
        })  # fmt: skip
        if best is None or best.unfit:
            said.append(f"{wanted.name}: nothing suits. {ask_words(ask, wanted.full_mm)}")
        if best is not None:
            chosen.append(best)
            said.append(f"{wanted.name}: {best.string.name}, {fit_words(best)}")
    together = whole_set(chosen, angle)
    facts = {
        "family": family.key, "size": size, "strings": rows, "total_n": round(together.total_n, 2),
        "uneven": round(together.uneven, 3),
        "bridge_n": None if together.bridge_n is None else round(together.bridge_n, 2),
    }  # fmt: skip
    return show(given, facts, "\n".join([*said, set_words(together)]), "string")


def _tension(given: argparse.Namespace) -> int:
    from creekbed.core.strings.tension import pitch_hz, tension_elsewhere_n
    from creekbed.core.units import parse_quantity

    hz = pitch_hz(given.pitch, given.a4)
    tension = tension_elsewhere_n(
        parse_quantity(given.stated, "newton", what="The stated tension", minimum=0),
        parse_quantity(given.stated_length, "millimeter", what="The stated length"),
        parse_quantity(given.length, "millimeter", what="The length"),
        pitch_hz(given.pitch), hz,
    )  # fmt: skip
    facts = {"pitch_hz": round(hz, 3), "tension_n": round(tension, 3)}
    return show(given, facts, f"{number(tension, 1)} N at {number(hz, 1)} Hz")


def _settle(given: argparse.Namespace) -> int:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.errors import BadInput
    from creekbed.core.procedure.imagine import find_family
    from creekbed.core.strings.forecast import Drop, Kind, forecast
    from creekbed.core.strings.settling import DAY_MIN
    from creekbed.core.units import parse_quantity
    from creekbed.words.findings import settling_words
    from creekbed.words.times import span

    family = find_family(shipped(), given.family)
    house = family.stringed
    if house is None:
        raise BadInput(f"A {family.name.lower()} has no strings.")
    u = parse_quantity(given.u, "cent", what="The uncertainty of a reading", minimum=0.01, maximum=50)
    rows = tuple(
        Drop(
            parse_quantity(start, "minute", what="The start", minimum=0),
            parse_quantity(end, "minute", what="The end", minimum=0),
            parse_quantity(cents, "cent", what="How flat it was", minimum=-100, maximum=600),
            u,
        )
        for start, end, cents in given.read
    )
    kind = Kind(house.creep_cents, house.creep_tau_min)
    ahead = forecast(kind, rows, tolerance_cents=house.tolerance_cents, limit_cents=house.first_day_cents)
    wait, day = ahead.next_min, ahead.first_day
    holds = ahead.surely_holds
    facts = {
        "last_min": ahead.last_min, "next_retune_min": round(wait.median, 1),
        "next_retune_95_min": [round(wait.low, 1), round(wait.high, 1)],
        "wait_min": round(wait.median - ahead.last_min, 1), "first_day_cents": round(day.median, 1),
        "first_day_95_cents": [round(day.low, 1), round(day.high, 1)], "limit_cents": house.first_day_cents,
        "good_from_min": round(ahead.good_from, 1), "chance_to_hold": round(ahead.holds, 3), "holds": holds,
        "laws": {law: round(chance, 3) for law, chance in ahead.laws.items()},
    }  # fmt: skip
    low, high = (span(x - ahead.last_min) for x in (wait.low, wait.high))
    high = "not within a month" if wait.high - ahead.last_min > 29 * DAY_MIN else high
    words = f"Retune in about {span(wait.median - ahead.last_min)} ({low} to {high}, 95 %)."
    return show(given, facts, f"{words} {settling_words(ahead, house.first_day_cents, holds)}", "settling")


def _lean(given: argparse.Namespace) -> int:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.inspection.verdicts import judge_reading
    from creekbed.workshop.inspection.findings import typed_reading

    check = shipped().families["violin"].find_check("bridge_lean")
    reading = typed_reading(check, given.height, given.gap)
    result = judge_reading(check, reading)
    facts = {
        "lean_deg": round(reading.value, 3), "expanded_uncertainty_deg": round(reading.expanded, 3), "k": 2,
        "band": result.band, "verdict": result.verdict, "reason": result.reason, "rule": result.rule,
    }  # fmt: skip
    return show(given, facts, result.reason, "lean")


def _string(given: argparse.Namespace) -> int:
    from creekbed.core.errors import BadInput
    from creekbed.core.strings.plain_string import MATERIALS, bridge_load_n, diameter_for, plain_string
    from creekbed.core.strings.tension import pitch_hz
    from creekbed.core.units import parse_quantity

    material, hz = MATERIALS[given.material], pitch_hz(given.pitch, given.a4)
    length = parse_quantity(given.length, "millimeter", what="The length")
    if (given.diameter is None) == (given.wanted is None):
        raise BadInput("Give its diameter, or the tension that is wanted.", todo="One of --diameter and --wanted.")
    if given.diameter is not None:
        diameter = parse_quantity(given.diameter, "millimeter", what="The diameter")
    else:
        wanted = parse_quantity(given.wanted, "newton", what="The tension", minimum=0.1)
        diameter = diameter_for(material, wanted, length, hz)
    found = plain_string(material, diameter, length, hz)
    facts = {
        "pitch_hz": round(hz, 3), "diameter_mm": round(diameter, 4), "tension_n": round(found.tension_n, 3),
        "breaks_at_hz": round(found.breaks_at_hz, 2), "margin_cents": round(found.margin_cents, 1),
        "stretch": found.stretch, "eighth_partial_cents": round(found.eighth_cents, 3),
    }  # fmt: skip
    words = (
        f"{material.name.capitalize()}, {millimetres(diameter, 3)}: {number(found.tension_n, 1)} N at "
        f"{number(hz, 1)} Hz. "
    )
    if found.margin_cents < 0:
        words += "It breaks before it comes to that pitch."
    else:
        semitones = number(found.margin_cents / 100, 1)
        words += f"It breaks about {semitones} semitones above: eye protection, and wind slowly."
    words += f" Its eighth partial sounds {number(found.eighth_cents, 2)} cents sharp."
    if given.angle:
        angle = parse_quantity(given.angle, "degree", what="The angle over the bridge")
        facts["bridge_load_n"] = round(bridge_load_n(found.tension_n, angle), 3)
        words += f" It presses {number(facts['bridge_load_n'], 1)} N on its bridge."
    return show(given, facts, words, "string")
