"""Commands of looking over: leak test, leaking pads, slide friction, valve seating, photographs, verdicts."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path

from creekbed.cli.show import Add, plain_number, show
from creekbed.core.conventions import number


def add_commands(add: Add) -> list[argparse.ArgumentParser]:
    """Add ``leak``, ``leak-pads``, ``friction``, ``valves``, ``photo`` and ``check``.

    Args:
        add: makes a command from its name, what it runs, and its help.

    Returns:
        The commands that can print JSON.
    """
    leak = add("leak", _leak, "leak of a closed joint from a record of times and pressures")
    leak.add_argument(
        "csv",
        type=Path,
        help="two columns with a header: time_s or time_ms, and pressure_pa, _kpa, _mbar, _cmh2o, _inhg, ...",
    )
    leak.add_argument("--volume", required=True, metavar="VOLUME", help='joint, hose and bulb together, "120 ml"')
    leak.add_argument("--volume-u", default="0 ml", metavar="VOLUME", help="its standard uncertainty")
    pads = add("leak-pads", _leak_pads, "which pad leaks, from how notes speak; and what to play next")
    pads.add_argument("family", help='key or name, "Alto saxophone"')
    for name, words in (("good", "a note that speaks"), ("bad", "a note that does not, or is stuffy")):
        pads.add_argument(f"--{name}", nargs="+", default=[], metavar="NOTE", help=f'{words}, "F#4"; "NOTE/PAD" held')
    friction = add("friction", _friction, "friction of a hand slide from pulls or a drop")
    friction.add_argument("--mass", required=True, metavar="MASS", help='of the part that moves, "450 g"')
    friction.add_argument("--pull", nargs="+", default=[], metavar="FORCE", help='steady pulls, "1.2 N"')
    friction.add_argument("--drop", metavar="LENGTH", help='how far it falls, at most "25 cm"')
    friction.add_argument("--recording", type=Path, metavar="FILE", help="of the snip of its thread and its thud")
    friction.add_argument("--time", metavar="TIME", help='how long it takes, "0.25 s"')
    friction.add_argument("--timed-by", choices=["sound", "video", "hand"], default="hand")
    friction.add_argument("--frames", type=plain_number, metavar="RATE", help="frames each second of the video")
    friction.add_argument(
        "--time-u", default="0 ms", metavar="TIME", help="standard uncertainty beyond sound or frames"
    )
    valves = add("valves", _valves, "how the pistons sit, from where air comes out")
    valves.add_argument("--family", metavar="FAMILY", help="whose way of the air it is; a trumpet's if not given")
    valves.add_argument("--way", metavar="CASINGS", help="in the order in which the air meets them, 3,2,1")
    for name in ("open", "1", "2", "3", "4"):
        words = "no valve down" if name == "open" else f"valve {name} down, its slide drawn"
        valves.add_argument(f"--{name}", choices=["air", "none"], help=words)
    photo = add("photo", _photo, "a length, lean, angle, bow, diameter or offset from points of a photograph")
    photo.add_argument("kind", choices=["length", "lean", "angle", "bow", "circle", "offset"])
    photo.add_argument(
        "--point", nargs=2, type=plain_number, action="append", default=[], metavar=("X", "Y"), help="pixels"
    )
    photo.add_argument("--corner", nargs=2, type=plain_number, action="append", default=[], metavar=("X", "Y"))
    photo.add_argument("--again", nargs=2, type=plain_number, action="append", default=[], metavar=("X", "Y"),
                       help="all corners and points placed once more, in that order")  # fmt: skip
    photo.add_argument("--card", action="store_true", help="the corners are a bank card's, begun at either side")
    photo.add_argument("--size", nargs=2, metavar=("WIDTH", "HEIGHT"), help="sides of the rectangle of the corners")
    photo.add_argument(
        "--ruler", metavar="LENGTH", help="two corners only, this far apart; three: with the halfway mark"
    )
    photo.add_argument("--nearer", metavar="LENGTH", help="how far what is measured lies before the known plane")
    photo.add_argument("--camera", metavar="LENGTH", help="from the camera to the known plane; with --nearer")
    photo.add_argument(
        "--point-u", type=plain_number, metavar="PX", help="standard uncertainty of a point, 1 if not known"
    )
    check = add("check", _check, "the verdict of any check")
    check.add_argument("family", help='key or name, "Violin"')
    check.add_argument("check", help="its key; without --found the checks are listed", nargs="?", default="")
    check.add_argument("--found", nargs="+", default=[], help='readings "2.9°" "3.1°", an answer, or "PLACE: ANSWER"')
    check.add_argument("--u", metavar="QUANTITY", help="standard uncertainty of one reading, instead of the check's")
    check.add_argument("--size", default="", help="of the instrument, where bands differ by it")
    return [leak, pads, friction, valves, photo, check]


def _leak(given: argparse.Namespace) -> int:
    from creekbed.core.airtight.decay import LAW_WORDS, fit_leak
    from creekbed.core.airtight.fall import P_REF
    from creekbed.core.units import parse_quantity, with_doubt
    from creekbed.devices.record import read_record

    volume = parse_quantity(given.volume, "liter", what="The volume")
    u = parse_quantity(given.volume_u, "liter", what="The volume's uncertainty", minimum=0)
    fit = fit_leak(*read_record(given.csv), volume, u)
    facts = {
        "law": fit.law, "law_chance": round(fit.weight, 4), "reference_pressure_pa": P_REF,
        "exponent": round(fit.exponent.value, 4), "exponent_u": round(fit.exponent.u, 4),
        "flow_ml_min": round(fit.flow.value, 4), "flow_u_ml_min": round(fit.flow.u, 4),
        "tau_s": round(fit.tau_s, 3) if fit.tau_s != float("inf") else None, "p0_pa": round(fit.p0, 2),
        "heat_pa": round(fit.heat, 2), "drift_pa_s": round(fit.drift, 4),
        "offset_pa": round(fit.offset, 2), "notes": list(fit.notes),
    }  # fmt: skip
    flow = with_doubt(fit.flow.value, fit.flow.expanded, fit.flow.unit)
    words = f"{flow} at {number(P_REF / 1000)} kPa (k = 2), like {LAW_WORDS[fit.law]}."
    return show(given, facts, " ".join([words, *fit.notes]), "leak")


def _leak_pads(given: argparse.Namespace) -> int:
    from creekbed.core.airtight.pads import Locator, Played, Probe
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.errors import BadInput
    from creekbed.core.procedure.imagine import find_family

    catalogue = shipped()
    family = find_family(catalogue, given.family)
    table = catalogue.leak_table(family)
    if table is None:
        raise BadInput(f"For a {family.noun} there is no table of pads and notes.", todo="It is for woodwinds.")
    locator = Locator(table)
    played = []
    for good, notes in ((True, given.good), (False, given.bad)):
        for text in notes:
            note, _, held = text.partition("/")
            played.append(Played(Probe(note, held), good))
    found = locator.locate(played)
    following = found.following
    facts = {
        "ranked": [
            {"pad": key, "name": table.pad(key).name, "part": table.pad(key).part, "chance": round(p, 4)}
            for key, p in found.ranked
        ],
        "none": round(found.none, 4),
        "next": None if following is None else {"note": following.note, "held": following.held or None},
        "expected_bits": round(found.bits, 4),
    }  # fmt: skip
    best = "; ".join(f"{table.pad(key).name} {p:.0%}" for key, p in found.ranked[:3])
    todo = f"{following.words(table)}." if following else "Sure enough: a leak light or feeler strip decides."
    return show(given, facts, f"{best}; none {found.none:.0%}. {todo}", "pads")


def _friction(given: argparse.Namespace) -> int:
    from creekbed.core.errors import BadInput
    from creekbed.core.inspection.friction import from_drop, from_pull
    from creekbed.core.units import parse_quantity, with_doubt

    mass = parse_quantity(given.mass, "kilogram", what="The mass")
    if given.pull:
        found = from_pull([parse_quantity(p, "newton", what="The pull") for p in given.pull], mass)
    elif given.drop and given.recording:
        from creekbed.core.sound.knocks import fall_in
        from creekbed.devices.sound_file import read_sound

        sound = read_sound(given.recording)
        fall = fall_in(sound.samples, sound.rate)
        drop = parse_quantity(given.drop, "meter", what="The drop")
        found = from_drop(mass, drop, fall.time_s, "sound", u_time_s=fall.u_s)
    elif given.drop and given.time:
        found = from_drop(
            mass, parse_quantity(given.drop, "meter", what="The drop"),
            parse_quantity(given.time, "second", what="The time"), given.timed_by, frames_per_s=given.frames,
            u_time_s=parse_quantity(given.time_u, "second", what="The time's uncertainty", minimum=0),
        )  # fmt: skip
    else:
        raise BadInput("Nothing was measured.", todo="Give --pull, or --drop with --recording or --time.")
    facts = {
        "force_n": round(found.force_n, 5), "force_u_n": round(found.u_force_n, 5),
        "ratio": round(found.ratio.value, 5), "ratio_u": round(found.ratio.u, 5), "how": found.ratio.how,
    }  # fmt: skip
    ratio = with_doubt(found.ratio.value, found.ratio.expanded, "dimensionless")
    words = f"{with_doubt(found.force_n, 2 * found.u_force_n, 'newton')}, {ratio} (k = 2)."
    return show(given, facts, words, "pull" if given.pull else "friction")


def _valves(given: argparse.Namespace) -> int:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.errors import BadInput
    from creekbed.core.inspection.valves import TRUMPET_WAY, advice, asked_of, checked, fitting, way_words
    from creekbed.core.procedure.imagine import find_family

    way: tuple[int, ...] = TRUMPET_WAY
    if given.family:
        catalogue = shipped()
        family = find_family(catalogue, given.family)
        if not family.air_way:
            raise BadInput(f"A {family.noun} has no piston valves.")
        way = family.air_way
    if given.way:
        try:
            way = tuple(int(x) for x in given.way.split(","))
        except ValueError:
            raise BadInput(f"“{given.way[:20]}” cannot be read.", todo="Write --way 3,2,1.") from None
    way = checked(way)
    said = {name: getattr(given, name) for name in ("open", "1", "2", "3", "4")}
    answers = {name: air == "air" for name, air in said.items() if air is not None}
    left = fitting(answers, way)
    facts = {
        "way": list(way), "asked": list(asked_of(way)),
        "fit": [{"pistons": list(s.pistons), "right_way": list(s.right_way), "words": s.words()} for s in left],
        "next": advice(answers, way),
    }  # fmt: skip
    return show(given, facts, f"{len(left)} seatings fit. {way_words(way)} {advice(answers, way)}")


def _photo(given: argparse.Namespace) -> int:
    from creekbed.core.errors import BadInput
    from creekbed.core.inspection.photo import Depth, Placings, card, depth, measure, rectangle, ruler
    from creekbed.core.units import parse_quantity, with_doubt

    corners = [(x, y) for x, y in given.corner]
    if given.ruler:
        reference = ruler(corners, parse_quantity(given.ruler, "millimeter", what="The ruler's length"))
    elif given.card:
        reference = card(corners)
    elif given.size:
        sides = [parse_quantity(s, "millimeter", what="The side") for s in given.size]
        reference = rectangle(corners, sides[0], sides[1])
    else:
        raise BadInput("Nothing in the picture is known.", todo="Give --card, --size or --ruler with the corners.")
    if bool(given.nearer) != bool(given.camera):
        raise BadInput("One distance says nothing of depth.", todo="Give --nearer and --camera together.")
    off_plane = Depth()
    if given.nearer:
        nearer = parse_quantity(given.nearer, "millimeter", what="How much nearer")
        off_plane = depth(nearer, parse_quantity(given.camera, "millimeter", what="The camera's distance"))
    points = [(x, y) for x, y in given.point]
    placed = Placings()
    if given.again:
        if len(given.again) != len(corners) + len(points):
            raise BadInput("Corners and points are not as many as the second time.", todo="Give --again once for each.")
        placed = placed.and_(list(zip([*corners, *points], [(x, y) for x, y in given.again], strict=True)))
    u_px = placed.u_px if given.point_u is None else given.point_u
    reading = measure(given.kind, reference, points, u_px=u_px, off_plane=off_plane)
    unit = "deg" if reading.unit == "degree" else "mm"
    facts = {
        f"value_{unit}": round(reading.value, 5), f"u_{unit}": round(reading.u, 5), "kind": given.kind,
        "point_u_px": round(u_px, 3), "known": reference.words,
    }  # fmt: skip
    words = f"{with_doubt(reading.value, reading.expanded, reading.unit)} (k = 2)"
    return show(given, facts, " ".join(filter(None, [words, reference.words])), "photograph")


def _check(given: argparse.Namespace) -> int:
    from creekbed.core.catalogue.load import shipped
    from creekbed.core.errors import BadInput
    from creekbed.core.inspection.verdicts import judge_choice, judge_places, judge_reading, rule_words
    from creekbed.core.measure import Reading, combine
    from creekbed.core.procedure.imagine import find_family
    from creekbed.core.units import example, parse_quantity

    family = find_family(shipped(), given.family)
    check = next((c for c in family.check if c.key == given.check), None)
    if check is None and not given.check:
        rows = [{"key": c.key, "name": c.name, "kind": c.kind, "rule": rule_words(c, given.size)} for c in family.check]
        return show(given, {"checks": rows}, "\n".join(f"{r['key']}: {r['name']}. {r['rule']}" for r in rows))
    if check is None:
        known = ", ".join(c.key for c in family.check)
        raise BadInput(f"A {family.noun} has no check “{given.check[:40]}”.", todo=f"There are: {known}.")
    if given.size and given.size not in family.sizes:
        raise BadInput(f"There is no size “{given.size[:20]}”.", todo=f"There are: {', '.join(family.sizes)}.")
    if not any(text.strip() for text in given.found):
        how = {
            "measure": f"a reading, such as {example(check.unit)}",
            "choice": f"one of: {', '.join(o.key for o in check.options)}",
            "places": 'each place with its answer, --found "PLACE: ANSWER", or --found none where all is well',
        }[check.kind]
        raise BadInput(f"{check.name} was not looked at.", todo=f"Say what was found: {how}.")
    reading = None
    if check.kind == "measure":
        u = parse_quantity(given.u, check.unit, what="The uncertainty", minimum=0) if given.u else check.u
        values = [parse_quantity(v, check.unit, what=check.name) for v in given.found]
        reading = combine([Reading(v, u, check.unit) for v in values])
        result = judge_reading(check, reading, given.size or family.sizes[0])
    elif check.kind == "choice":
        result = judge_choice(check, _one(given.found))
    else:
        pairs = [v.rpartition(":") for v in given.found if v.strip() != "none"]
        result = judge_places(check, {place.strip(): answer.strip() for place, _, answer in pairs})
    facts: dict[str, object] = {
        "check": check.key, "band": result.band, "verdict": result.verdict, "reason": result.reason,
        "rule": result.rule, "mark": check.mark, "trade": check.trade,
    }  # fmt: skip
    if reading is not None:
        facts |= {"value": reading.value, "u": reading.u, "unit": check.unit}
    return show(
        given,
        facts,
        f"{result.verdict or 'measure again'}: {result.reason} Rule: {result.rule}",
        "typed" if reading is not None else "",
    )


def _one(found: Sequence[str]) -> str:
    from creekbed.core.errors import BadInput

    if len(found) != 1:
        raise BadInput("This check has one answer.", todo="Give --found once, with one answer.")
    return found[0]
