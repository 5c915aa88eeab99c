"""One search for everything: instruments, groups, supplies, rules, steps, the reference, tools and pages."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import Literal

from creekbed.core.catalogue.book import SECTIONS, search
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import code
from creekbed.store.reader import Reader
from creekbed.store.records import Hire
from creekbed.words.instruments import PLACES, on_bench_for, with_renter
from creekbed.words.pages import PAGES
from creekbed.workshop.shop.policies import chosen
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.staff import workers

Kind = Literal["job", "instrument", "group", "family", "supply", "person", "rule", "step", "reference", "page"]
MOST_INSTRUMENTS, MOST_OTHERS, MOST_REFERENCE = 25, 8, 12
"""How many of a kind are shown: house default."""


@dataclass(frozen=True)
class Found:
    """One thing that was found.

    Attributes:
        key: tag, name or key in the catalogue. family, section: of a line of the reference. job_id: of an instrument's
            open job.
        title, words: what it is.
    """

    kind: Kind
    key: str
    title: str
    words: str
    family: str = ""
    section: str = ""
    job_id: int | None = None


def find(shop: Shop, text: str) -> list[Found]:
    """Everything in which all words are found, what people look for most often first; "" finds nothing.

    Instruments are found by tag (with or without its hyphens), serial, family, size, group and code; supplies, rules,
    steps and the rest by their names.
    """
    words = text.lower().split()[:8]
    if not words:
        return []
    with shop.reading() as records:
        instruments = list(_instruments(shop, records, words, text))
        groups = [Found("group", g, g, "its instruments") for g in records.fleet.groups(text.strip(), MOST_OTHERS)]
    now = chosen(shop)
    others = [*groups, *_people(shop, words), *_supplies(shop, words), *_pages(words), *_rules(shop, words, now)]
    return [*instruments, *others, *_families(shop, words), *_reference(shop, text, now)]


def _all_in(words: list[str], text: str) -> bool:
    low = text.lower()
    return all(word in low for word in words)


def _named(rows: Iterable[Found], words: list[str]) -> list[Found]:
    """Those whose title or words have all that is looked for; by the title first."""
    fitting = [r for r in rows if _all_in(words, f"{r.title} {r.words}")]
    return sorted(fitting, key=lambda r: not _all_in(words, r.title))[:MOST_OTHERS]


def _instruments(shop: Shop, records: Reader, words: list[str], text: str) -> Iterator[Found]:
    families = shop.catalogue.families
    tests = [(w, [k for k, f in families.items() if w in f.name.lower()]) for w in words]
    rows = records.fleet.find(tests, MOST_INSTRUMENTS)
    bare = code(text).replace("-", "")
    if len(words) == 1 and any(c.isdigit() for c in bare):  # a tag typed without its hyphens
        head, tail = bare.rstrip("0123456789"), bare[len(bare.rstrip("0123456789")) :]
        known = {i.tag for i in rows}
        rows += [i for i in records.fleet.find([(f"{head}-{tail}", ())], MOST_OTHERS) if i.tag not in known]
    tags = [i.tag for i in rows]
    hires = {h.tag: h for h in records.readable(Hire, tag=tags, back_at=None)} if tags else {}
    jobs = records.fleet.jobs_here(tags)
    whole = code(text)
    for instrument in sorted(rows, key=lambda i: (code(i.tag) != whole, i.serial.lower() != text.strip().lower())):
        family = families.get(instrument.family)
        kind = family.name if family is not None else instrument.family
        size = family.size_words(instrument.size) if family is not None else instrument.size
        about = " ".join(x for x in (kind, size) if x)
        serial = f", serial {instrument.serial}" if instrument.serial else ""
        job = jobs.get(instrument.tag)
        if job is not None and job.state == "open":
            where = on_bench_for(job.next_group)
            yield Found("job", instrument.tag, f"{instrument.tag}  {about}", where + serial, job_id=job.id)
            continue
        hire = hires.get(instrument.tag)
        where = with_renter(hire.renter, hire.out_at) if hire is not None else PLACES["here"]
        where = PLACES["ready"] if job is not None else instrument.standing or where
        yield Found("instrument", instrument.tag, f"{instrument.tag}  {about}", where + serial)


def _people(shop: Shop, words: list[str]) -> list[Found]:
    return _named((Found("person", w.key, w.key, "sits down at this computer") for w in workers(shop)), words)


def _supplies(shop: Shop, words: list[str]) -> list[Found]:
    rows = (Found("supply", s.key, s.name, "on the shelf") for s in shop.catalogue.supplies.values())
    return _named(rows, words)


def _pages(words: list[str]) -> list[Found]:
    return _named((Found("page", key, name, "") for key, name in PAGES.items() if key != "find"), words)


def _rules(shop: Shop, words: list[str], now: Mapping[str, str]) -> list[Found]:
    rows = (Found("rule", t.key, t.name, f"now: {t.pick(now[t.key]).name}") for t in shop.catalogue.topics.values())
    return _named(rows, words)


def _families(shop: Shop, words: list[str]) -> list[Found]:
    rows = (Found("family", f.key, f.name, "in the reference") for f in shop.catalogue.families.values())
    return [r for r in rows if _all_in(words, r.title)][:MOST_OTHERS]


def _reference(shop: Shop, text: str, now: Mapping[str, str]) -> Iterator[Found]:
    for line in search(shop.catalogue, now, text, MOST_REFERENCE):
        family = shop.catalogue.families[line.family].name
        kind: Kind = "step" if line.section == "job" else "reference"
        about = f"{family}, {SECTIONS[line.section].lower()}: {line.words[:90]}"
        yield Found(kind, line.key, line.title, about, line.family, line.section)
