"""Writes docs/sources.md: every value of the catalogue with its mark and source, and where the formulas come from.

``python -m creekbed.core.catalogue.sources > docs/sources.md``; with ``--check FILE`` it compares instead.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from pathlib import Path

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.load import shipped
from creekbed.core.catalogue.models.base import MARK_WORDS
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Check
from creekbed.core.catalogue.models.steps import Step
from creekbed.core.units import SHORT

FORMULAS = (
    ("Dilution", "core/hygiene/mixes.py", "C1·V1 = C2·V2; arithmetic"),
    (
        "Contact time as wet time",
        "core/hygiene/contact.py",
        "common practice, no source; the time itself is the label's",
    ),
    ("Decision under uncertainty", "core/measure.py", "JCGM 106:2012, guard band of U = 2u; JCGM 100:2008 for u"),
    ("Bridge lean from two lengths", "core/inspection/geometry.py", "trigonometry; JCGM 100:2008, eq. 10"),
    (
        "Plane of a photograph",
        "core/inspection/homography.py, photo.py",
        "Hartley and Zisserman, 2nd ed., alg. 4.2; card: ISO/IEC 7810",
    ),
    ("Placing points", "core/inspection/photo.py", "pooled variance; Gelman et al., 3rd ed., ch. 2.6"),
    ("Slide friction", "core/inspection/friction.py", "Newtonian mechanics; g: 3rd CGPM 1901; JCGM 100:2008, 4.3.7"),
    ("Seating of valves", "core/inspection/valves.py", "enumeration; the air's way by family: from memory"),
    (
        "Pressure decay",
        "core/airtight/decay.py",
        "ideal gas; flow as a power of pressure: ASTM E779; Tierney, Kadane 1986; Strang 1968",
    ),
    ("Leaking pad by playing", "core/airtight/pads.py", "Bayes' rule; expected information: Shannon 1948"),
    (
        "Strengths, parts, ppm",
        "core/hygiene/strengths.py",
        "arithmetic; OIML R 22, general formula; NIST HB 44",
    ),
    ("Baths, scalds, jar", "core/hygiene/baths.py", "heat balance; consumer-safety guidance, from memory; geometry"),
    ("Swab and bore", "core/hygiene/swabs.py", "geometry; limits: house default"),
    ("Wood and humidity", "core/climate/wood.py", "Hailwood and Horrobin 1946; Wood Handbook, from memory"),
    ("Drying by weight", "core/climate/drying.py", "Page 1949; Gelman et al., 3rd ed., ch. 3, 7, 14"),
    ("Saturation pressure", "core/climate/air.py", "ASHRAE Fundamentals 2017, ch. 1, eqs. 5 and 6"),
    ("Dew point", "core/climate/air.py", "inversion of the same curve"),
    ("Humidity ratio, wet bulb", "core/climate/air.py", "ASHRAE Fundamentals 2017, ch. 1, eqs. 20, 33, 35"),
    ("Water of breath", "core/climate/breath.py", "ASHRAE Fundamentals 2017, ch. 1; Gelman et al., 3rd ed., ch. 2.5"),
    ("Clean, dry and safe", "core/procedure/states.py", "common practice, no source; which rules: house default"),
    ("Acclimatising", "core/climate/acclimatise.py", "Newton's law of cooling"),
    ("A case by its thermometer", "core/climate/case_fit.py", "Newton's law; Gelman et al., 3rd ed., ch. 14"),
    ("A case after a journey", "core/climate/journey.py", "Newton's law, leg by leg"),
    ("String tension, pitch", "core/strings/tension.py", "Mersenne's law; ISO 16"),
    ("Plain strings", "core/strings/plain_string.py", "Fletcher and Rossing, ch. 2; ASTM A228, from memory"),
    (
        "Which note was meant",
        "core/sound/following.py",
        "hidden Markov model: Rabiner, Proc. IEEE 77, 257 (1989), recalled; chances: house default",
    ),
    (
        "How far to push in or pull out",
        "core/sound/tuned_length.py",
        "standing waves: Fletcher and Rossing, recalled; doubt of the tube's length: house default",
    ),
    ("Buzz of a string", "core/sound/rasp.py", "house numbers; tried against loose parts of another world"),
    ("Time between two knocks", "core/sound/knocks.py", "house numbers; tried against falls of another world"),
    (
        "Life of strings",
        "core/strings/life.py",
        "Weibull with a gamma prior: Hamada et al., Bayesian Reliability, ch. 4, and house numbers, from memory",
    ),
    ("Settling of strings", "core/strings/settling.py", "logarithmic creep, house numbers"),
    ("Forecast of settling", "core/strings/forecast.py", "Ferry, retardation spectra; Gelman et al., 3rd ed., ch. 21"),
    ("Pitch of a tone", "core/sound/pitch.py", "Kay 1993; Nehorai and Porat 1986; Birge 1932"),
    ("First plan", "core/planning/dispatch.py", "apparent tardiness cost: Vepsalainen and Morton 1987"),
    ("Better plans", "core/planning/optimiser.py", "Shaw 1998; OR-Tools CP-SAT"),
    ("Orders of jobs", "core/planning/permutation_search.py", "serial schedule generation: Kolisch 1996; local search"),
    ("What no plan can better", "core/planning/lower_bounds.py", "Schrage 1968; Horn 1974; Goemans et al. 2002"),
    ("What cannot be together", "core/planning/conflict.py", "deletion filter: Chinneck and Dravnieks 1991"),
    ("Durations learned", "core/planning/durations.py", "best linear unbiased prediction: Henderson 1975"),
    ("Chances", "core/planning/chances.py", "simulation with common random numbers"),
)


WORDS_OF_LISTS = (
    "", "## Words of lists", "",
    "What people call instruments, sizes and materials (`data/names.toml`) and the columns of their files "
    "(`workshop/bringing/columns.toml`): common practice, from memory; what is not sure is asked.",
    "Sizes of label sheets (`papers/label_sheet.py`): common sizes, from memory.",
)  # fmt: skip


def page(catalogue: Catalogue) -> str:
    """The whole page as Markdown."""
    lines = [
        "# Sources",
        "",
        "Every value of the catalogue with its mark. This page is written by the catalogue itself; do not edit it.",
        "",
        "| mark | means |",
        "|---|---|",
        *(f"| {mark} | {words} |" for mark, words in MARK_WORDS.items()),
        "",
        "## Formulas",
        "",
        "| what | where | source |",
        "|---|---|---|",
        *(f"| {what} | `{where}` | {source} |" for what, where, source in FORMULAS),
    ]
    for section in (_family_lines, _entry_lines, _policy_lines, _material_lines, _leak_lines, _house_lines):
        lines += section(catalogue)
    lines += WORDS_OF_LISTS
    return "\n".join(lines) + "\n"


def _family_lines(catalogue: Catalogue) -> Iterator[str]:
    yield from ("", "## Families", "", "| family | closed case, time constant | mark | source |", "|---|---|---|---|")
    for family in catalogue.families.values():
        yield f"| {family.name} | {family.case_minutes:g} min | {family.mark} | {family.source} |"
    yield from ("", "| strings of | lengths | settling | mark | source |", "|---|---|---|---|---|")
    for family in catalogue.families.values():
        if family.stringed is not None:
            s = family.stringed
            lengths = ", ".join(f"{size} {mm:g} mm" for size, mm in s.length_mm.items())
            settling = (
                f"{s.creep_cents:g} cents per e-fold, time scale {s.creep_tau_min:g} min, life {s.life_days or 0:g} d, "
            )
            settling += f"tolerance {s.tolerance_cents:g} cents"
            yield f"| {family.name} | {lengths} | {settling} | {s.mark} | {s.source} |"


def _entry_lines(catalogue: Catalogue) -> Iterator[str]:
    """Checks, steps and the like: each row once, with the families that have it."""
    kinds: tuple[tuple[str, Callable[[Family], list[str]]], ...] = (
        ("check | bands", lambda f: [f"{c.name} | {_check(c)} | {c.mark} | {c.source}" for c in f.check]),
        ("step | minutes and amounts", lambda f: [f"{s.what} | {_step(s)} | {s.mark} | {s.source}" for s in f.step]),
        ("piece of the case | kind", lambda f: [f"{i.name} | {i.kind} | {i.mark} | {i.source}" for i in f.item]),
        ("wears | how it shows", lambda f: [f"{w.name} | {w.sign} | {w.mark} | {w.source}" for w in f.wear]),
        ("usual fault | cause", lambda f: [f"{x.sign} | {x.cause} | {x.mark} | {x.source}" for x in f.fault]),
        ("due | every", lambda f: [f"{x.what} | {x.every_days:g} days | {x.mark} | {x.source}" for x in f.interval]),
    )
    for head, rows in kinds:
        yield from ("", f"| {head} | mark | source | families |", "|---|---|---|---|---|")
        where: dict[str, list[Family]] = {}
        for family in catalogue.families.values():
            for row in rows(family):
                where.setdefault(row, []).append(family)
        yield from (f"| {row} | {_families(catalogue, found)} |" for row, found in where.items())


def _policy_lines(catalogue: Catalogue) -> Iterator[str]:
    yield from ("", "## Policies", "", "| topic | choice | mark | default |", "|---|---|---|---|")
    for topic in catalogue.topics.values():
        for choice in topic.choice:
            default = f"default: {topic.default_why}" if choice.key == topic.default else ""
            yield f"| {topic.name} | {choice.name} | {choice.mark} | {default} |"


def _material_lines(catalogue: Catalogue) -> Iterator[str]:
    yield from ("", "## What materials bear", "", "| material | agent | bears | mark |", "|---|---|---|---|")
    for material in catalogue.materials.values():
        for agent in catalogue.agents:
            mark = "T" if agent in material.trade else "M"
            name = catalogue.agents[agent].name
            yield f"| {material.name} | {name} | {material.may.get(agent, 'no')} | {mark} |"
    yield from ("", "## What must never meet", "", "| pair | makes | mark | source |", "|---|---|---|---|")
    for never in catalogue.never.values():
        yield f"| {' with '.join(never.between)} | {never.forms} | {never.mark} | {never.source} |"


def _leak_lines(catalogue: Catalogue) -> Iterator[str]:
    yield from ("", "## Pads and notes", "", "| group | pad | must be closed below | mark | source |")
    yield "|---|---|---|---|---|"
    for table in catalogue.leaks.values():
        for pad in table.pads:
            yield f"| {table.key} | {pad.name} | {pad.vents} | {table.mark} | {table.source} |"


def _house_lines(catalogue: Catalogue) -> Iterator[str]:
    yield from ("", "## Supplies and house numbers", "", "| what | value | mark | source |", "|---|---|---|---|")
    for supply in catalogue.supplies.values():
        value = f"order at {supply.reorder_at:g} {supply.unit}"
        if supply.string is not None:
            value += f"; {supply.string.tension_n:g} N at {supply.string.length_mm:g} mm, {supply.string.pitch}"
        yield f"| {supply.name} | {value} | {supply.mark} | {supply.source} |"
    house = catalogue.house
    for recipe in house.every_recipe:
        value = f"{recipe.target_pct:g} %, {recipe.make_ml:g} ml, {recipe.dose_ml:g} ml for each part, "
        value += f"keeps {recipe.keeps_hours:g} h, "
        value += f"contact {recipe.contact_min:g} min, marks every {recipe.graduation_ml:g} ml"
        yield f"| {recipe.name} | {value} | {recipe.mark} | {recipe.source} |"
    for cloth in house.cloth:
        value = f"{cloth.width_mm:g} × {cloth.thickness_mm:g} mm, washed after {cloth.wash_after}, lasts {cloth.lasts}"
        yield f"| {cloth.name} | {value} | {cloth.mark} | {cloth.source} |"
    for place in house.place:
        value = f"room for {place.capacity}" + (f", {place.holds} small alike ones in each" if place.holds > 1 else "")
        yield f"| {place.name} | {value} | {place.mark} | {place.source} |"
    limits = house.limits.model_dump(exclude={"mark", "source"})
    for name, value in limits.items():
        yield f"| {name} | {value:g} | {house.limits.mark} | {house.limits.source} |"


def _families(catalogue: Catalogue, found: list[Family]) -> str:
    """Whose a row is, in the fewest words: all, whole groups, else by name."""
    if len(found) == len(catalogue.families):
        return "all"
    keys, words = {f.key for f in found}, []
    for group in catalogue.groups().values():
        if all(f.key in keys for f in group):
            words.append(group[0].group_name)
        else:
            words += [f.name for f in group if f.key in keys]
    return ", ".join(words)


def _check(check: Check) -> str:
    if check.bands is None:
        return "; ".join(f"{o.name}: {o.band}, {o.verdict}" for o in check.options)
    b, unit = check.bands, SHORT.get(check.unit, check.unit)
    ends = {
        "good from": b.green_from, "good to": b.green_to, "act below": b.amber_from, "act above": b.amber_to,
    }  # fmt: skip
    words = [f"{name} {value:g} {unit}" for name, value in ends.items() if value is not None]
    return ", ".join([*words, f"u = {check.u:g} {unit}"])


def _step(step: Step) -> str:
    words = [f"{step.hands_min:g} min of hands"]
    if step.wait is not None:
        longest = f" to {step.wait.max_minutes:g}" if step.wait.max_minutes else ""
        shortest = f"{step.wait.min_minutes:g}" if step.wait.rule == "fixed" else step.wait.rule
        words.append(f"wait {shortest}{longest} min ({step.wait.place})")
    words += [f"{u.amount:g} {u.item}" + (f" × {u.per}" if u.per else "") for u in step.supplies]
    return ", ".join(words)


def main(arguments: list[str]) -> int:
    """Print the page, or compare it with a file."""
    text = page(shipped())
    if arguments[:1] == ["--check"]:
        if Path(arguments[1]).read_text(encoding="utf-8") == text:
            return 0
        print(f"{arguments[1]} is not what the catalogue says; write it anew", file=sys.stderr)
        return 1
    sys.stdout.write(text)
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
