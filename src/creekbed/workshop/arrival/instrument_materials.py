"""Materials of an instrument's parts, where a step depends on them; an unknown material gets a dry cloth only."""

from __future__ import annotations

from collections.abc import Mapping

from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.surfaces import UNKNOWN, known_as, questions
from creekbed.core.errors import BadInput
from creekbed.core.text import line
from creekbed.store.reader import Reader
from creekbed.store.records import Instrument
from creekbed.words.instruments import material_unknown
from creekbed.workshop.shop.shop import Act, Shop


def unknown(name: str) -> str:
    """How a material without an entry is recorded: under the name that people gave.

    Raises:
        BadInput: no name, or too long a one.
    """
    said = line(name, what="The material", longest=40)
    if not said:
        raise BadInput("It has no name.", todo="Say what people call it, such as “rose gold”.")
    return f"{UNKNOWN}:{said}"


def checked(family: Family, materials: Mapping[str, str], finishes: Mapping[str, str]) -> None:
    """Check that the parts can have these materials and finishes.

    Raises:
        BadInput: there is no such part, material or finish.
    """
    for part, material in materials.items():
        found = family.find_part(part)
        if found is None or known_as(material) not in (*found.materials, UNKNOWN):
            raise BadInput(f"The {part} of a {family.noun} is not made of {material[:40]}.")
    for part, finish in finishes.items():
        found = family.find_part(part)
        if found is None or finish not in found.finishes:
            raise BadInput(f"The {part} of a {family.noun} has no finish “{finish[:40]}”.")


def met(shop: Shop) -> list[str]:
    """Names of materials without an entry that were entered before: the shop is not asked again."""
    with shop.reading() as records:
        return _met(records)


def _met(records: Reader) -> list[str]:
    values = records.jobs.materials()
    return sorted(m.partition(":")[2] for m in values if m.startswith(f"{UNKNOWN}:"))


def told(act: Act, family: Family, tag: str, materials: Mapping[str, str]) -> None:
    """Say what follows from a material that has no entry and is new here."""
    before = {f"{UNKNOWN}:{name}" for name in _met(act.records)}
    new = {part for part, m in materials.items() if known_as(m) == UNKNOWN and m not in before}
    parts = [p.name for p in family.part if p.key in new]
    if parts:
        act.notes.append(material_unknown(", ".join(parts), tag))


def set_made_of(shop: Shop, tag: str, materials: Mapping[str, str], finishes: Mapping[str, str]) -> None:
    """Correct the materials and finishes of an instrument, for its open job too.

    Args:
        materials, finishes: part → key; of a material without an entry as :func:`unknown` gives it.

    Raises:
        BadInput: no such instrument, part, material or finish.
    """
    with shop.act("made_of") as act:
        instrument = act.records.get(Instrument, tag)
        if instrument is None:
            raise BadInput(f"{tag} is not on record.")
        family = shop.catalogue.family(instrument.family)
        checked(family, materials, finishes)
        act.records.update(
            instrument, materials={**instrument.materials, **materials}, finishes={**instrument.finishes, **finishes}
        )
        said = [made_words(shop, key) for key in dict.fromkeys((*materials.values(), *finishes.values()))]
        parts = [p.name for p in family.part if p.key in {*materials, *finishes}]
        act.tag, act.words = tag, f"{tag}, {', '.join(parts)}: {', '.join(said)}"
        told(act, family, tag, materials)


def made_words(shop: Shop, recorded: str) -> str:
    """A recorded material or finish in words."""
    name = recorded.partition(":")[2]
    return name or shop.catalogue.materials[known_as(recorded)].name


def choices(shop: Shop, family: Family) -> list[tuple[str, dict[str, str], dict[str, str]]]:
    """Possible answers about an instrument's materials: (words, materials, finishes), with names entered before."""
    found: list[tuple[str, dict[str, str], dict[str, str]]] = []
    names = [f"{UNKNOWN}:{name}" for name in met(shop)]
    for question in questions(family):
        material = question.kind == "material"
        for key in (*question.choices, *(names if material else ())):
            answer = dict.fromkeys(question.parts, key)
            words = f"{question.words.capitalize()}: {made_words(shop, key)}"
            found.append((words, answer if material else {}, {} if material else answer))
    return found
