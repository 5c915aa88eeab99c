"""Commands of mixes, baths, cloths and air: what is allowed, how much, how long."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from creekbed.cli.show import Add, plain_number, show
from creekbed.core.conventions import litres, millimetres, number, significant, temperature


def add_commands(add: Add) -> list[argparse.ArgumentParser]:
    """Add ``may-touch``, ``never-together``, ``bath``, ``swab``, ``dew-point`` and the others of this file.

    Args:
        add: makes a command from its name, what it runs, and its help.

    Returns:
        The commands that can print JSON.
    """
    touch = add("may-touch", _may_touch, "whether a material or a part bears an agent, how long, and why")
    touch.add_argument("what", help='material ("hard_rubber"), or part as FAMILY/PART ("clarinet/mouthpiece")')
    touch.add_argument("agent", help="agent or what people call it; what is not known is refused")
    touch.add_argument("--as", dest="exposure", choices=["yes", "short", "brief"], default="brief")
    never = add("never-together", _never, "which of these agents must never meet, what they would form, what to do")
    never.add_argument("agent", nargs="+", help='agents or products, "bleach" "toilet descaler"')
    never.add_argument("--label", action="append", default=[], metavar="INGREDIENTS",
                       help='a product by its label, "water, citric acid, perfume"')  # fmt: skip
    bath = add("bath", _bath, "hot and cold for a bath, how long it stays useful, what tops it up")
    bath.add_argument("--make", required=True, metavar="VOLUME")
    bath.add_argument("--at", required=True, metavar="TEMP", help='wanted, "38 °C"')
    bath.add_argument("--hot", default="55 °C", metavar="TEMP")
    bath.add_argument("--cold", default="14 °C", metavar="TEMP")
    bath.add_argument("--for", dest="finish", default="", help='material or finish that goes in: "lacquer" bears 40 °C')
    bath.add_argument("--useful-to", default="32 °C", metavar="TEMP", help="coolest that still cleans")
    bath.add_argument("--room", default="20 °C", metavar="TEMP")
    bath.add_argument("--tau", default="60 min", metavar="TIME", help="time constant of the tub")
    swab = add("swab", _swab, "whether a pull-through passes a joint, and from which end")
    swab.add_argument("what", help='part as FAMILY/PART, "clarinet/upper"')
    swab.add_argument("--width", required=True, metavar="LENGTH", help="of the cloth, across the pull")
    swab.add_argument("--thickness", required=True, metavar="LENGTH")
    swab.add_argument("--stuff", choices=["silk", "cotton", "microfibre", "chamois", "bristle"], default="silk")
    swab.add_argument("--cord", metavar="LENGTH", help="length of its cord")
    swab.add_argument("--weight", metavar="LENGTH", help="width of the weight on its cord")
    swab.add_argument("--rod", metavar="LENGTH", help="thickness of the rod that carries it")
    swab.add_argument("--entered", choices=["wide", "narrow"], help="it is stuck: the end where it went in")
    swab.add_argument("--rope", metavar="LENGTH", help="measured diameter of this cloth gathered: calibrates it")
    return [touch, never, bath, swab, *_add_climate(add)]


def _add_climate(add: Add) -> list[argparse.ArgumentParser]:
    dew = add("dew-point", _dew_point, "dew point, humidity ratio and wet bulb of air, and what it is elsewhere")
    dew.add_argument("--air", required=True, metavar="TEMP")
    dew.add_argument("--humidity", required=True, metavar="RH")
    dew.add_argument("--at", metavar="TEMP", help="the same air at another temperature, as by the open window")
    wood = add("wood", _wood, "moisture that wood comes to, and how much it moves from one air to another")
    wood.add_argument("--air", required=True, metavar="TEMP")
    wood.add_argument("--humidity", required=True, metavar="RH")
    wood.add_argument("--to-humidity", metavar="RH")
    wood.add_argument("--width", metavar="LENGTH", help="across the grain")
    wood.add_argument("--of", dest="species", default="spruce", help="spruce, maple, mahogany, rosewood")
    drying = add("drying", _drying, "water left and when it will be dry, from weighings")
    drying.add_argument("csv", type=Path, help="two columns with a header, time_min and weight_g")
    drying.add_argument("--limit", default="0.3 g", metavar="WEIGHT", help="water that may be left")
    drying.add_argument("--step", default="0.1 g", metavar="WEIGHT", help="the scale's smallest step")
    case = add("acclimatise", _acclimatise, "when a case may be opened, by time or its thermometer")
    case.add_argument("--case", metavar="TEMP", help="on the instrument now")
    case.add_argument("--way", metavar="LEGS", help='instead, its journey: "2 h at −5 °C; 10 min at 12 °C"')
    case.add_argument("--room", default="20 °C", metavar="TEMP")
    case.add_argument("--humidity", default="50 %", metavar="RH")
    case.add_argument("--tau", default="45 min", metavar="TIME", help="time constant of such a case")
    case.add_argument(
        "--read", nargs=2, action="append", default=[], metavar=("AGO", "TEMP"), help="an earlier reading"
    )
    room = add("storage", _storage, "hours outside the band, mould and wood from a storage room's log")
    room.add_argument("csv", type=Path, help="columns time (ISO 8601), celsius, humidity_pct")
    water = add("water", _water, "how much water playing leaves in a bore, and how long that dries")
    water.add_argument("family", help='key or name, "B flat clarinet"')
    water.add_argument(
        "--minutes", type=plain_number, metavar="MIN", help="how long it is played; the test's if not given"
    )
    water.add_argument("--bore", default="20 degC", metavar="TEMPERATURE", help="temperature of the bore")
    water.add_argument("--pulls", type=plain_number, default=1.0, help="of a dry cloth")
    water.add_argument("--weighed", nargs=2, action="append", default=[], metavar=("BOUND", "FOUND"),
                       help='what breath could leave at most and what the scale found, "2.2 g" "1.5 g"')  # fmt: skip
    return [water, dew, wood, drying, case, room]


def _part(what: str) -> tuple[Any, Any]:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.errors import BadInput
    from creekbed.core.procedure.imagine import find_family

    name, _, key = what.partition("/")
    family = find_family(shipped(), name)
    part = family.find_part(key)
    if part is None:
        known = ", ".join(p.key for p in family.part)
        raise BadInput(f"A {family.noun} has no part “{key[:40]}”.", todo=f"There are: {known}.")
    return family, part


def _may_touch(given: argparse.Namespace) -> int:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.catalogue.surfaces import surfaces
    from creekbed.core.errors import BadInput
    from creekbed.core.hygiene.products import understand
    from creekbed.core.hygiene.touch import carried, may_touch_part

    catalogue = shipped()
    named = understand(catalogue, given.agent)
    if named.agent.key not in catalogue.agents:
        raise BadInput(
            f"{named.words or named.agent.name + ' is no agent of this bench.'} It must not be used.",
            todo=f"There are: {', '.join(catalogue.agents)}.",
        )
    agent = named.agent.key
    family = part = None
    if "/" in given.what:
        family, part = _part(given.what)
        pairs = list(surfaces(part))
    elif given.what in catalogue.materials:
        pairs = [(given.what, "")]
    else:
        raise BadInput(
            f"There is no material “{given.what[:40]}”.", todo=f"There are: {', '.join(catalogue.materials)}."
        )
    rows = []
    for material, finish in pairs:
        above = catalogue.materials[finish] if finish else None
        answer = may_touch_part(
            catalogue.materials[material], above, agent, given.exposure, part.bears_not if part else {}
        )
        rows.append(
            {
                "material": material, "finish": finish, "allowed": answer.allowed, "bears": answer.bears,
                "why": answer.why, "mark": answer.mark,
            }
        )  # fmt: skip
    bad = carried(family, part, catalogue.materials, agent, given.exposure) if family and part else []
    keep_off = [{"part": c.part.key, "bears": c.answer.bears, "why": c.answer.why} for c in bad]
    # a wipe can be kept off what the part carries, a bath cannot
    allowed = all(r["allowed"] for r in rows) and (not bad or given.exposure == "brief")
    lines = [
        f"{r['material']}{' under ' + str(r['finish']) if r['finish'] else ''}: {r['bears']}. {r['why']}".strip()
        for r in rows
    ]
    for c in bad:
        how = "keep it off them" if given.exposure == "brief" else "so the whole must not"
        lines.append(f"It carries {c.part.name}: {c.answer.bears}, {how}. {c.answer.why}".strip())
    facts = {"allowed": allowed, "agent": agent, "surfaces": rows, "carries": keep_off}
    return show(given, facts, "\n".join(lines))


def _never(given: argparse.Namespace) -> int:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.hygiene.products import Named, by_ingredients, made, together_with, understand
    from creekbed.core.hygiene.together import never_together

    catalogue = shipped()
    named = [understand(catalogue, text) for text in given.agent]
    for n, text in enumerate(given.label, 1):
        label = by_ingredients(catalogue, text)
        named.append(Named(made(f"label {n}", label.holds, "its label"), "own"))
    agents = together_with(catalogue, named)
    clashes = never_together(agents, catalogue.never.values(), [n.agent.key for n in named])
    rows = [
        {"first": c.first, "second": c.second, "kind": c.kind, "forms": c.forms, "do": c.do, "mark": c.mark}
        for c in clashes
    ]
    names = {key: agent.name for key, agent in agents.items()}
    lines = [n.words for n in named if n.words]
    for c in clashes:
        first = names.get(c.first, c.first)
        pair = f"Never {first} with {names.get(c.second, c.second)}" if c.second else first
        lines.append(f"{pair}: {c.forms.rstrip('.')}. {c.do}")
    facts = {
        "allowed": not rows, "clashes": rows,
        "named": [{"typed": t, "agent": n.agent.key, "holds": list(n.agent.holds), "known": n.known}
                    for t, n in zip([*given.agent, *given.label], named, strict=True)],
    }  # fmt: skip
    return show(given, facts, "\n".join(dict.fromkeys(lines)) if rows else "Nothing that we know speaks against it.")


def _bath(given: argparse.Namespace) -> int:
    from creekbed.core.errors import BadInput
    from creekbed.core.hygiene.baths import fill, top_up_l, useful_minutes
    from creekbed.core.units import parse_quantity

    def degrees(text: str, what: str) -> float:
        return parse_quantity(text, "degC", what=what)

    volume = parse_quantity(given.make, "liter", what="The volume", minimum=0.1, maximum=1000)
    target, hot = degrees(given.at, "The bath"), degrees(given.hot, "The hot water")
    ceiling = None
    if given.finish:
        ceiling = _ceiling(given.finish)
    bath = fill(volume, target, hot, degrees(given.cold, "The cold water"), ceiling)
    lowest, room = degrees(given.useful_to, "The coolest"), degrees(given.room, "The room")
    tau = parse_quantity(given.tau, "minute", what="The time constant", minimum=0.1)
    useful = useful_minutes(target, lowest, room, tau)
    if lowest > target:
        raise BadInput("The bath begins cooler than it may end.", todo="Make it warmer.")
    again = top_up_l(volume, lowest, target, hot)
    facts = {
        "hot_l": round(bath.hot_l, 3), "cold_l": round(bath.cold_l, 3), "target_c": target, "ceiling_c": ceiling,
        "useful_min": None if useful == float("inf") else round(useful, 1), "top_up_l": round(again, 3),
        "hot_scalds_s": None if bath.scald_s is None else round(bath.scald_s, 1),
    }  # fmt: skip
    words = f"First {litres(bath.cold_l, 1)} cold, then {litres(bath.hot_l, 1)} hot."
    words += (
        ""
        if useful == float("inf")
        else f" Useful for {useful:.0f} min, then {litres(again, 1)} out and as much hot in bring it back."
    )
    words += "" if bath.scald_s is None else f" The hot water scalds in about {bath.scald_s:.0f} s."
    return show(given, facts, words, "bath")


def _ceiling(name: str) -> float | None:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.errors import BadInput
    from creekbed.core.hygiene.baths import warmest_c

    found = shipped().materials.get(name)
    if found is None:
        raise BadInput(f"There is no material “{name[:40]}”.", todo=f"There are: {', '.join(shipped().materials)}.")
    limits = shipped().house.limits
    return warmest_c(found, limits.lukewarm_c, limits.cool_c)


def _swab(given: argparse.Namespace) -> int:
    from creekbed.core.errors import BadInput
    from creekbed.core.hygiene.swabs import PHI, jam, packing, swab_fit
    from creekbed.core.units import parse_quantity

    family, part = _part(given.what)
    if part.bore is None:
        raise BadInput(f"No cloth goes through the {part.name} of a {family.noun}.", todo="Name a joint.")
    width = parse_quantity(given.width, "millimeter", what="The width")
    thickness = parse_quantity(given.thickness, "millimeter", what="The thickness")
    phi = packing(width, thickness, parse_quantity(given.rope, "millimeter", what="The rope")) if given.rope else PHI
    rod, cord, weight = (
        parse_quantity(text, "millimeter", what=what, minimum=0.0) if text else 0.0
        for text, what in ((given.rod, "The rod"), (given.cord, "The cord"), (given.weight, "The weight"))
    )
    fit = swab_fit(
        width, thickness, part.bore, phi, rod_mm=rod, stuff=given.stuff, cord_mm=cord, weight_mm=weight
    )  # fmt: skip
    enter = part.ends[0] if fit.enter != "either" and part.ends else "either end"
    facts = {
        "rope_mm": round(fit.rope_mm, 3), "clear_mm": round(fit.clear_mm, 3), "share": round(fit.share, 4),
        "fit": fit.fit, "enter": enter if fit.fit != "jams" else None, "packing": round(phi, 4),
        "why": fit.why, "mark": part.bore.mark,
    }  # fmt: skip
    words = f"{fit.fit}: {fit.why}" + (f" In at: {enter}." if fit.fit != "jams" else "")
    if given.entered:
        stuck = jam(fit.rope_mm, part.bore, given.entered, part.name)
        facts["stuck"] = None if stuck is None else {
            "depth_mm": None if stuck.depth_mm is None else round(stuck.depth_mm, 1), "where": stuck.where,
            "do": stuck.do,
        }  # fmt: skip
        words = f"It passes by its measures: look whether it is wadded or knotted. {fit.why}"
        if stuck is not None:
            words = f"Stuck {stuck.where}. {stuck.do}"
    return show(given, facts, words)


def _water(given: argparse.Namespace) -> int:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.climate.breath import after_pulls_g, condensed_g, drying_minutes, learn_share
    from creekbed.core.errors import BadInput
    from creekbed.core.procedure.imagine import find_family
    from creekbed.core.procedure.step_waits import LEAST_AIR_MIN
    from creekbed.core.units import parse_quantity

    catalogue = shipped()
    family = find_family(catalogue, given.family)
    play = next((s for s in family.step if s.blows), None)
    if family.breath is None or play is None:
        raise BadInput(f"A {family.noun} is not blown.")
    minutes = play.hands_min if given.minutes is None else given.minutes
    if not 0 < minutes <= 600 or not 0 <= given.pulls <= 20:
        raise BadInput("It is played up to 600 minutes, and swabbed up to 20 times.")
    bore = parse_quantity(given.bore, "degC", what="The bore", minimum=-10, maximum=45)
    bound = condensed_g(family.breath.litres_min * minutes, bore)
    weighed = [
        (parse_quantity(a, "gram", what="The bound"), parse_quantity(b, "gram", what="What was found"))
        for a, b in given.weighed
    ]
    share = learn_share(weighed)
    left = after_pulls_g(bound * share.careful, given.pulls, family.breath.pull_takes)
    wait = drying_minutes(left, catalogue.house.limits.dry_left_g, family.breath.tau_min, LEAST_AIR_MIN)
    facts = {
        "bound_g": round(bound, 4), "share": round(share.median, 4), "share_low": round(share.low, 4),
        "share_high": round(share.high, 4), "weighings": share.weighings, "left_g": round(left, 4),
        "wait_min": round(wait, 1), "litres": round(family.breath.litres_min * minutes, 1),
    }  # fmt: skip
    learned = f"{share.weighings} weighings" if share.weighings else "nothing weighed yet"
    words = (
        f"At most {number(bound, 1)} g by breath, spit on top; found {number(bound * share.low, 1)} to "
        f"{number(bound * share.high, 1)} g ({learned}). After {number(given.pulls)} pulls about {number(left, 1)} g: "
        f"{wait:.0f} min on the rack. An estimate, never "
        "a proof that it is dry."
    )
    return show(given, facts, words, "water")


def _dew_point(given: argparse.Namespace) -> int:
    from creekbed.core.climate.air import dew_point_c, humidity_elsewhere, humidity_ratio, wet_bulb_c
    from creekbed.core.units import parse_quantity

    air = parse_quantity(given.air, "degC", what="The air")
    humidity = parse_quantity(given.humidity, "percent", what="The humidity", minimum=0.1, maximum=100) / 100
    dew, ratio = dew_point_c(air, humidity), humidity_ratio(air, humidity)
    facts = {
        "dew_point_c": round(dew, 3),
        "humidity_ratio_g_kg": round(1000 * ratio, 4),
        "wet_bulb_c": round(wet_bulb_c(air, humidity), 3) if 0 <= air <= 60 else None,
    }
    words = f"Dew point {temperature(dew, 1)}, {number(1000 * ratio, 1)} g of water in each kg of air."
    if given.at:
        there = parse_quantity(given.at, "degC", what="The other temperature")
        facts["humidity_there_pct"] = round(100 * humidity_elsewhere(air, humidity, there), 2)
        words += f" At {temperature(there)} it is {facts['humidity_there_pct']:.0f} %."
    return show(given, facts, words)


def _wood(given: argparse.Namespace) -> int:
    from creekbed.core.climate.wood import WOODS, emc_pct, movement_mm
    from creekbed.core.errors import BadInput
    from creekbed.core.units import parse_quantity

    if given.species not in WOODS:
        raise BadInput(f"“{given.species[:20]}” is not among the woods.", todo=f"There are: {', '.join(WOODS)}.")
    wood = WOODS[given.species]
    air = parse_quantity(given.air, "degC", what="The air")
    now = emc_pct(air, parse_quantity(given.humidity, "percent", what="The humidity", minimum=0, maximum=98) / 100)
    facts: dict[str, Any] = {"moisture_pct": round(now, 3), "wood": wood.key}
    words = f"{wood.name.capitalize()} comes to {number(now, 1)} % moisture."
    if given.to_humidity:
        text = given.to_humidity
        then = emc_pct(air, parse_quantity(text, "percent", what="The humidity", minimum=0, maximum=98) / 100)
        width = parse_quantity(given.width, "millimeter", what="The width") if given.width else 100.0
        radial, rings = (movement_mm(width, now, then, c) for c in (wood.radial, wood.tangential))
        facts |= {
            "to_moisture_pct": round(then, 3), "width_mm": width, "radial_mm": round(radial, 4),
            "tangential_mm": round(rings, 4),
        }  # fmt: skip
        words += (
            f" Then to {number(then, 1)} %: {millimetres(width)} move by {_signed_mm(radial)} quarter-sawn, "
            f"{_signed_mm(rings)} flat-sawn."
        )
    return show(given, facts, words, "wood")


def _signed_mm(value: float) -> str:
    return f"{'+' if value >= 0 else '−'}{millimetres(abs(value), 2)}"


def _drying(given: argparse.Namespace) -> int:
    from creekbed.core.climate.drying import fit_drying
    from creekbed.core.units import parse_quantity
    from creekbed.devices.record import read_rows

    rows = read_rows(given.csv, ("time_min", "weight_g"), lambda t, w: (float(t), float(w)), largest=1_000_000)
    found = fit_drying(
        [t for t, _ in rows], [w for _, w in rows], parse_quantity(given.limit, "gram", what="The limit"),
        step_g=parse_quantity(given.step, "gram", what="The scale's step"),
    )  # fmt: skip
    facts = {
        "left_g": round(found.left_g, 4), "left_95_g": [round(x, 4) for x in found.left_95],
        "wait_min": round(found.minutes, 2), "wait_95_min": [round(x, 2) for x in found.minutes_95],
        "tau_min": round(found.tau_min, 2), "dry_weight_g": round(found.dry_g, 4), "is_dry": found.is_dry,
        "left_out": list(found.left_out), "notes": list(found.notes),
    }  # fmt: skip
    low, high = found.left_95
    words = f"{significant(found.left_g, 2)} g of water left ({significant(low, 2)} to {significant(high, 2)}, 95 %)."
    words += " Dry enough." if found.is_dry else f" Dry in {found.minutes_95[0]:.0f} to {found.minutes_95[1]:.0f} min."
    return show(given, facts, " ".join([words, *found.notes]), "drying")


def _acclimatise(given: argparse.Namespace) -> int:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.climate.acclimatise import acclimatise
    from creekbed.core.climate.case_fit import fit_case
    from creekbed.core.climate.journey import arrives, parse_legs
    from creekbed.core.errors import BadInput
    from creekbed.core.units import parse_quantity
    from creekbed.words.times import span

    room = parse_quantity(given.room, "degC", what="The room", minimum=-20, maximum=60)
    humidity = parse_quantity(given.humidity, "percent", what="The humidity", minimum=1, maximum=100) / 100
    tau = parse_quantity(given.tau, "minute", what="The time constant", minimum=1, maximum=2000)
    came = None
    if given.way:
        came = arrives(room, parse_legs(given.way), tau)
        now_c = came.careful(room)
    elif given.case:
        now_c = parse_quantity(given.case, "degC", what="The case", minimum=-40, maximum=70)
    else:
        raise BadInput("How warm the case is was not said.", todo="Give --case, or its journey as --way.")
    tolerance = shipped().house.limits.acclimatise_tolerance_c
    found = acclimatise(now_c, room, humidity, tau, tolerance)
    facts: dict[str, Any] = {
        "wait_min": round(found.minutes, 1), "dew_point_c": round(found.dew_point_c, 3),
        "condenses_if_opened_now": found.condenses, "wait_to_dew_point_min": round(found.minutes_to_dew, 1),
        "tau_min": tau,
    }  # fmt: skip
    words = f"Keep it closed for {span(found.minutes)}."
    if came is not None:
        words = f"{came.words()} {words}"
        facts |= {"case_c": round(came.celsius, 2), "case_95_c": [round(came.low_c, 2), round(came.high_c, 2)]}
    if given.read:
        earlier = [
            (
                -parse_quantity(ago, "minute", what="How long ago", minimum=0.01),
                parse_quantity(c, "degC", what="It read"),
            )
            for ago, c in given.read
        ]
        rows = sorted([*earlier, (0.0, now_c)])
        fit = fit_case([r[0] for r in rows], [r[1] for r in rows], room, tau)
        gap = min(tolerance, room - found.dew_point_c) if found.condenses else tolerance
        best, soon, late = fit.until(gap)
        facts |= {
            "wait_min": round(best, 1), "wait_95_min": [round(soon, 2), round(late, 2)],
            "tau_min": round(fit.tau_min, 2),
            "tau_95": [round(fit.low_min, 2), round(fit.high_min, 2)],
        }  # fmt: skip
        words = (
            f"Keep it closed for {best:.0f} min ({soon:.0f} to {late:.0f}, 95 %); time constant {fit.tau_min:.0f} min."
        )
    if found.condenses:
        words += f" Opened now, it would gather water: it is colder than {temperature(found.dew_point_c, 1)}."
    return show(given, facts, words, "acclimatise" if given.read else "journey" if came else "case")


def _storage(given: argparse.Namespace) -> int:
    from dataclasses import asdict

    from creekbed.core.climate.storage import storage
    from creekbed.workshop.shop.room_climate import read_air

    rows = sorted({at: (at, c, h) for at, c, h in read_air(given.csv)}.values())
    hours = [(at - rows[0][0]).total_seconds() / 3600 for at, _, _ in rows]
    found = storage(hours, [c for _, c, _ in rows], [h for _, _, h in rows])
    facts = {k: round(v, 3) if isinstance(v, float) else v for k, v in asdict(found).items()}
    return show(given, facts, found.words(), "storage")
