"""The book of the bench: everything that is known of a family, line by line, and a search over all families."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from typing import Any

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.conditions import Condition
from creekbed.core.catalogue.models.base import MARK_WORDS
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import Part
from creekbed.core.conventions import millimetres, number, quantities_in, temperature
from creekbed.core.procedure.build import build
from creekbed.core.procedure.imagine import imagine
from creekbed.core.procedure.moves import off_name, on_name
from creekbed.core.procedure.situation import policy_values
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import before_list
from creekbed.core.units import SHORT

SECTIONS = {
    "parts": "Parts", "job": "Job", "order": "Order", "rules": "Rules", "cautions": "Cautions",
    "wear": "Wear", "case": "Case", "numbers": "Numbers", "agents": "Agents",
}  # fmt: skip


@dataclass(frozen=True)
class BookLine:
    """One line of the book.

    Attributes:
        family: key. section: one of :data:`SECTIONS`. key: of the step, part, topic … that it is about.
        parts: what a drawing lights for it.
    """

    family: str
    section: str
    key: str
    title: str
    words: str
    mark: str
    source: str
    parts: tuple[str, ...] = ()
    others: int = 0
    """In how many further families the same line stands, in what a search finds."""

    @property
    def origin(self) -> str:
        """Mark and source in words."""
        words = MARK_WORDS[self.mark]
        return self.source if self.source.startswith(words) else f"{words}: {self.source}"


def lines(catalogue: Catalogue, family: Family, policies: Mapping[str, str]) -> list[BookLine]:
    """All lines of one family, in the order of the sections.

    Args:
        policies: topic → choice that the shop follows.
    """
    made = (
        _parts(catalogue, family), _job(catalogue, family, policies), _orders(family),
        _rules(catalogue, family, policies), _cautions(family), _wear(family), _case(catalogue, family),
        _numbers(family), _agents(catalogue, family),
    )  # fmt: skip
    found = [line for section in made for line in section]
    return [replace(x, title=quantities_in(x.title), words=quantities_in(x.words)) for x in found]


def search(catalogue: Catalogue, policies: Mapping[str, str], words: str, limit: int = 120) -> list[BookLine]:
    """Lines of all families that hold every one of the words; those whose title holds them come first."""
    wanted = words.lower().split()
    if not wanted:
        return []
    found: dict[tuple[str, str, str], BookLine] = {}
    for line, text in _index(catalogue, policies):
        if all(word in text for word in wanted):
            key = (line.section, line.key, line.words)
            known = found.get(key)
            found[key] = line if known is None else replace(known, others=known.others + 1)
    rows = sorted(found.values(), key=lambda x: not all(word in x.title.lower() for word in wanted))
    return rows[:limit]


def _index(catalogue: Catalogue, policies: Mapping[str, str]) -> list[tuple[BookLine, str]]:
    key = tuple(sorted(policies.items()))
    known, rows = catalogue.memory.get("book", (None, []))
    if known != key:
        rows = []
        for family in catalogue.families.values():
            for line in lines(catalogue, family, policies):
                rows.append((line, f"{family.name} {line.title} {line.words} {line.source}".lower()))
        catalogue.memory["book"] = key, rows
    return rows  # type: ignore[no-any-return]


def _parts(catalogue: Catalogue, family: Family) -> Iterator[BookLine]:
    for part in family.part:
        made = " or ".join(catalogue.materials[m].name for m in part.materials)
        finish = " or ".join(catalogue.materials[f].name for f in part.finishes)
        words = [
            f"Of {made}." if made else "",
            f"Finish: {finish}." if finish else "",
            _bore(part),
            _bears(catalogue, part),
        ]
        mark, source = (part.bore.mark, part.bore.source) if part.bore else (family.mark, family.source)
        count = f" ({part.count})" if part.count > 1 else ""
        yield BookLine(family.key, "parts", part.key, f"{part.name}{count}", _join(words), mark, source, (part.key,))


def _bore(part: Part) -> str:
    b = part.bore
    if b is None:
        return ""
    ends = (
        millimetres(b.wide_mm)
        if b.wide_mm == b.narrow_mm
        else f"{millimetres(b.wide_mm)} at the {part.ends[0]}, {millimetres(b.narrow_mm)} at the {part.ends[1]}"
    )
    way = f"; {b.in_way} stands {millimetres(b.in_way_mm)} into it" if b.in_way else ""
    return f"Bore {ends}{way}."


def _bears(catalogue: Catalogue, part: Part) -> str:
    never = {}
    for key in (*part.materials, *part.finishes):
        for agent, why in catalogue.materials[key].why.items():
            never[agent] = why
    return " ".join(dict.fromkeys(never.values()))


def _join(words: Iterable[str]) -> str:
    return " ".join(w if w[-1] in ".!?:" else f"{w}." for w in words if w)


class _Dots(dict[str, Any]):
    def __missing__(self, key: str) -> str:
        return "…"


def _said(catalogue: Catalogue, family: Family, policies: Mapping[str, str], text: str) -> str:
    limits = catalogue.house.limits
    values = _Dots(policy_values(catalogue.picked(family, policies)))
    values |= {"bath_hot": "…", "bath_cold": "…", "scald_s": "seconds"}
    values |= {"detergent": number(limits.detergent_ml_per_l), "bath_temperature": temperature(limits.bath_c)}
    return text.format_map(values)


BEARS = {
    "yes": "as long as the work takes", "cool": "with cool water only", "short": "a few minutes, then rinse",
    "brief": "a damp wipe", "label": "as its label says", "no": "no",
}  # fmt: skip


def _agents(catalogue: Catalogue, family: Family) -> Iterator[BookLine]:
    """What each material and finish bears, and which agents must never meet."""
    made = {key: p.key for p in reversed(family.part) for key in (*p.materials, *p.finishes)}
    for key, material in catalogue.materials.items():
        if key in made:
            said = [f"{catalogue.agents[a].name}: {BEARS[how]}" for a, how in material.may.items()]
            words = (
                f"{'; '.join(said) or 'Nothing that we know'}. What is not named: no. {' '.join(material.why.values())}"
            )
            parts = tuple(p.key for p in family.part if key in (*p.materials, *p.finishes))
            mark = "T" if material.trade else "M"
            yield BookLine(family.key, "agents", key, material.name, words.strip(), mark, material.source, parts)
    for never in catalogue.never.values():
        one, two = never.between
        found = [f"{w}: {', '.join(a.name for a in catalogue.agents.values() if w in a.holds)}" for w in never.between]
        title = f"never {one.replace('_', ' ')} with {two.replace('_', ' ')}"
        words = f"It makes {never.forms}. {'. '.join(found).replace('_', ' ').capitalize()}. {never.do}"
        yield BookLine(family.key, "agents", never.key, title, words, never.mark, never.source)


def _job(catalogue: Catalogue, family: Family, policies: Mapping[str, str]) -> Iterator[BookLine]:
    picked = {topic: choice.key for topic, choice in catalogue.picked(family, policies).items()}
    built = build(catalogue, imagine(catalogue, family, policies=picked))
    for n, s in enumerate(built, 1):
        wait = f" Then {number(s.wait.min_minutes)} min {s.wait.where}." if s.wait else ""
        moves = " ".join(f"{k}. {m.what}." for k, m in enumerate(s.moves, 1))
        words = _join((moves, s.amount, s.how, f"Mind: {s.caution}" if s.caution else "", s.reason)) + wait
        yield BookLine(family.key, "job", s.base, f"{n}  {s.what}", words, s.mark, s.source, s.touches)
    plain = {s.base for s in built}
    for step in (s for s in family.step if s.key not in plain):
        when = ", ".join(condition_words(c) for c in step.when) or "findings call for it"
        words = _join((f"Only when {when}.", step.how, f"Mind: {step.caution}" if step.caution else "", step.reason))
        yield BookLine(
            family.key, "job", step.key, _said(catalogue, family, policies, step.what),
            _said(catalogue, family, policies, words), step.mark, step.source, (step.part,) if step.part else (),
        )  # fmt: skip


def condition_words(condition: Condition) -> str:
    """A condition in words: "finding pads: sticks or wet"."""
    kind, _, name = condition.fact.partition(".")
    words = " or ".join(sorted(w.replace("_", " ") for w in condition.words))
    told = {
        "finding": "check",
        "contents": "the case has",
        "policy": "house rule",
        "material": "made of, ",
        "finish": "finish, ",
    }
    name = name.replace("_", " ")
    sign = {"is": ":", "has": ":", "lacks": " is not"}[condition.verb]
    return f"{told.get(kind, kind)} {name}{sign} {words}".replace("  ", " ").strip()


def _orders(family: Family) -> Iterator[BookLine]:
    names = {off_name(j.key): f"{j.key.replace('_', ' ')} off" for j in family.joint}
    names |= {on_name(j.key): f"{j.key.replace('_', ' ')} on" for j in family.joint}
    for rule in family.order:
        first, then = (names.get(x, x.replace("_", " ")) for x in (rule.first, rule.then))
        when = f" Only when {', '.join(condition_words(c) for c in rule.when)}." if rule.when else ""
        yield BookLine(
            family.key, "order", rule.key, f"{first} before {then}", f"{rule.why}{when}", rule.mark, rule.source
        )


def _rules(catalogue: Catalogue, family: Family, policies: Mapping[str, str]) -> Iterator[BookLine]:
    for key, now in catalogue.picked(family, policies).items():
        topic = catalogue.topics[key]
        others = "; ".join(f"{c.name.lower()}: {c.reason}" for c in topic.choice if c.key != now.key)
        words = f"{now.name}. {now.reason} Others: {others}"
        yield BookLine(family.key, "rules", topic.key, topic.name, words, now.mark, topic.source)


def _cautions(family: Family) -> Iterator[BookLine]:
    seen = set()
    for step in family.step:
        if step.caution and step.caution not in seen:
            seen.add(step.caution)
            parts = (step.part,) if step.part else ()
            yield BookLine(
                family.key,
                "cautions",
                step.key,
                step.caution,
                f"At: {before_list(step.what)}.".replace("{", "").replace("}", ""),
                step.mark,
                step.source,
                parts,
            )
    for joint in family.joint:
        if joint.never:
            yield BookLine(
                family.key,
                "cautions",
                joint.key,
                f"Never {joint.never}.",
                joint.reason,
                joint.mark,
                joint.source,
                (joint.piece,),
            )


def _wear(family: Family) -> Iterator[BookLine]:
    for wear in family.wear:
        lasts = f" Lasts {wear.lasts}." if wear.lasts else ""
        part = wear.key.partition("__")[0]
        yield BookLine(
            family.key,
            "wear",
            wear.key,
            wear.name,
            f"{wear.sign.capitalize()}.{lasts} Then: {wear.then}.",
            wear.mark,
            wear.source,
            (part,),
        )
    for fault in family.fault:
        yield BookLine(
            family.key, "wear", fault.key, fault.sign, f"{fault.cause}. Who: {fault.who}.", fault.mark, fault.source
        )


def _case(catalogue: Catalogue, family: Family) -> Iterator[BookLine]:
    kinds = {
        "safety": "Safety part: while it is missing, the instrument cannot be released.",
        "instrument": "Part of the instrument.",
        "comfort": "Comfort part.",
    }
    for item in family.item:
        stock = f"Replaced by: {catalogue.supplies[item.stock].name}." if item.stock else ""
        yield BookLine(
            family.key, "case", item.key, item.name, _join((kinds[item.kind], item.why, stock)), item.mark, item.source,
            (item.key,),
        )  # fmt: skip


def _numbers(family: Family) -> Iterator[BookLine]:
    if family.voice is not None:
        v = family.voice
        yield BookLine(
            family.key,
            "numbers",
            "voice",
            "range and transposition",
            f"Written {v.low} to {v.high}; {sounding(v.sounds)}.",
            v.mark,
            v.source,
        )
    if family.stringed is not None:
        s = family.stringed
        pitches = ", ".join(f"{x.name} {x.pitch}" for x in s.strings)
        lengths = ", ".join(f"{size} {millimetres(mm)}" for size, mm in s.length_mm.items())
        yield BookLine(
            family.key,
            "numbers",
            "strings",
            "strings",
            f"{pitches}; {sounding(s.sounds)}.",
            s.strings[0].mark,
            s.strings[0].source,
            ("strings",),
        )
        yield BookLine(
            family.key, "numbers", "lengths", "vibrating length by size", f"{lengths}.", s.mark, s.source, ("strings",)
        )
    for check in family.check:
        if check.bands is not None:
            b, unit = check.bands, SHORT.get(check.unit, check.unit)
            green = _range(b.green_from, b.green_to, unit)
            amber = _range(b.amber_from, b.amber_to, unit)
            yield BookLine(
                family.key,
                "numbers",
                check.key,
                check.name,
                f"Good {green}; watched {amber}; beyond: {check.say_act}",
                check.mark,
                check.source,
                (check.part,) if check.part else (),
            )
    for due in family.interval:
        yield BookLine(
            family.key,
            "numbers",
            due.key,
            due.what,
            f"Every {number(due.every_days)} days, by {due.who}.",
            due.mark,
            due.source,
        )


def _range(low: float | None, high: float | None, unit: str) -> str:
    if low is None:
        return f"up to {number(high or 0.0)} {unit}"
    return f"from {number(low)} {unit}" if high is None else f"{number(low)} to {number(high)} {unit}"


INTERVALS = {
    0: "as written", 2: "a major second", 3: "a minor third", 7: "a fifth", 9: "a major sixth", 12: "an octave",
    14: "a major ninth", 21: "an octave and a major sixth",
}  # fmt: skip


def sounding(semitones: int) -> str:
    """How it sounds against the written note: "sounds a major second lower"."""
    if semitones == 0:
        return "sounds as written"
    words = INTERVALS.get(abs(semitones), f"{abs(semitones)} semitones")
    return f"sounds {words} {'lower' if semitones < 0 else 'higher'}"
