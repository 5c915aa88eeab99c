"""What people call instruments in their lists: a family and a size from ordinary words."""

from __future__ import annotations

import itertools
import re
import unicodedata
from collections.abc import Iterable, Mapping
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Annotated

from pydantic import Field

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.base import Entry, Text
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.reading import read_table, validate
from creekbed.core.quick_dataclasses import dataclass

FILE = Path(__file__).parent / "data" / "names.toml"
Words = Annotated[tuple[Text, ...], Field(min_length=1, max_length=60)]


class Name(Entry):
    """Words for a family; for several where the words alone do not say which."""

    family: Words
    words: Words


class SizeName(Entry):
    """Words for a size, as the families name it."""

    size: Text
    words: Words


class MaterialName(Entry):
    """Words for a material or a finish; for several where parts of different families have one each."""

    material: Words
    words: Words


class Accessories(Entry):
    """Words for what is no instrument."""

    words: Words


class Others(Entry):
    """Words for instruments that have no family here."""

    words: Words


class Names(Entry):
    """The whole table."""

    name: tuple[Name, ...]
    size: tuple[SizeName, ...]
    others: Others
    accessories: Accessories
    material: tuple[MaterialName, ...]


@lru_cache(maxsize=1)
def shipped_names() -> Names:
    """The table that ships.

    Raises:
        BadData: it cannot be read, with file, key and line.
    """
    table, text = read_table(FILE)
    return validate(FILE, text, Names, table, ())


Phrase = tuple[str, ...]


def phrase(text: str) -> Phrase:
    """The words of a text as they are compared: no capitals, accents or marks; fractions and inches kept.

    "Bb-Klarinette, ½" gives ("b", "flat", "klarinette", "1/2").
    """
    text = re.sub(r"([¼½¾⅐-⅞])", r" \1", text)
    plain = unicodedata.normalize("NFKD", text.replace("♭", " flat ").replace("ß", "ss")).replace("\u2044", "/")
    plain = "".join(c for c in plain if not unicodedata.combining(c)).lower()
    plain = re.sub(r"[\"”″]|\binch(es)?\b|\bzoll\b", " in ", plain)
    plain = re.sub(r"(\d)\s*/\s*(\d)", r"\1/\2", plain)
    words: list[str] = []
    for word in re.findall(r"\d+/\d+|[a-z]+|\d+", plain):
        if word in ("bb", "eb", "bbb", "eeb"):
            words += [word[0], "flat"]
        else:
            words.append(word[:-1] if len(word) > 4 and word.endswith("s") and not word.endswith("ss") else word)
    return tuple(words)


@dataclass(frozen=True)
class Recognised:
    """What a text names.

    Attributes:
        families: keys; more than one where the words do not say which, none where nothing is known. size: of the
            family, or "" where it is not said or does not exist. by: the words that told the family.
    """

    families: tuple[str, ...] = ()
    size: str = ""
    by: str = ""

    @property
    def sure(self) -> bool:
        """Whether it can be only one family."""
        return len(self.families) == 1


class Recogniser:
    """Knows the words of the table that ships, of the catalogue, and the shop's own.

    Args:
        catalogue: its families can be named. own: words → (family, size), which go before all others.
    """

    def __init__(self, catalogue: Catalogue, own: Mapping[str, tuple[str, str]] | None = None):
        self.catalogue = catalogue
        self.own = {phrase(words): found for words, found in (own or {}).items()}
        self._cache: dict[str, Recognised] = {}

    @cached_property
    def _phrases(self) -> dict[Phrase, tuple[str, ...]]:
        there = self.catalogue.families
        found: dict[Phrase, tuple[str, ...]] = {}
        for name in shipped_names().name:
            keys = tuple(k for k in name.family if k in there)
            for words in name.words if keys else ():
                found[phrase(words)] = keys
        for words in shipped_names().others.words:
            found[phrase(words)] = ()
        for family in there.values():  # the shop's own families too
            found.setdefault(phrase(family.name), (family.key,))
            found.setdefault(phrase(family.key), (family.key,))
        return found

    @cached_property
    def _sizes(self) -> list[tuple[Phrase, str]]:
        rows = [(phrase(words), size.size) for size in shipped_names().size for words in size.words]
        return sorted(rows, key=lambda row: -len(row[0]))

    @cached_property
    def _accessories(self) -> frozenset[str]:
        return frozenset(word for words in shipped_names().accessories.words for word in phrase(words))

    @cached_property
    def _materials(self) -> list[tuple[Phrase, tuple[str, ...]]]:
        rows = [(phrase(words), m.material) for m in shipped_names().material for words in m.words]
        rows += [(phrase(m.name), (key,)) for key, m in self.catalogue.materials.items()]
        return sorted(rows, key=lambda r: (-len(r[0]), -sum(map(len, r[0]))))

    def material(self, words: Phrase, choices: Iterable[str]) -> str:
        """Which of some materials words name, the longest words first; "" where none."""
        among = set(choices)
        for told, keys in self._materials if words else ():
            if told and _within(told, words):
                found = next((k for k in keys if k in among), "")
                if found:
                    return found
        return ""

    def recognise(self, text: str, size: str = "") -> Recognised:
        """The family and size that a text names.

        Args:
            text: such as "alto sax", "3/4 cello", "Bratsche 38 cm". size: what another column says of the size.
        """
        key = f"{text}\0{size}"
        if key not in self._cache:
            self._cache[key] = self._find(phrase(text), phrase(size))
        return self._cache[key]

    def _find(self, words: Phrase, size: Phrase) -> Recognised:
        if words in self.own:
            family, own_size = self.own[words]
            known = self.catalogue.families.get(family)
            if known is not None:
                return Recognised((family,), self.size_of(known, size) or own_size, " ".join(words))
        best: tuple[int, int] = (0, 0)
        found: tuple[str, ...] = ()
        by: Phrase = ()
        for told, families in self._phrases.items():
            if not _within(told, words):
                continue
            score = (len(told), sum(map(len, told)))
            if score > best:
                best, found, by = score, families, told
            elif score == best and families != found:
                found = tuple(dict.fromkeys((*found, *families)))
        rest = [w for w in words if w not in by]
        if any(w in self._accessories for w in rest):
            return Recognised((), "", " ".join(by))
        if len(found) != 1:
            return Recognised(found, "", " ".join(by))
        family_found = self.catalogue.families[found[0]]
        return Recognised(found, self.size_of(family_found, size) or self.size_of(family_found, words), " ".join(by))

    def size_of(self, family: Family, words: Phrase) -> str:
        """The size of a family that words name, or ""."""
        if not words:
            return ""
        if len(family.sizes) == 1:
            return family.sizes[0]
        named = sorted(family.sizes, key=lambda s: -len(phrase(s)))
        exact = next((s for s in named if _within(phrase(s), words)), "")
        said = next((s for told, s in self._sizes if s in family.sizes and _within(told, words)), "")
        return exact if len(phrase(exact)) >= len(phrase(said)) else said


def _within(told: Iterable[str], words: Phrase) -> bool:
    """Whether all words of a phrase are among others, in any order; "b" and "e" only right before "flat"."""
    told = tuple(told)
    if not all(w in words for w in told):
        return False
    notes = [n for n, w in enumerate(told) if w == "flat"]
    return all(n > 0 and _follows(told[n - 1], "flat", words) for n in notes)


def _follows(first: str, second: str, words: Phrase) -> bool:
    return any(a == first and b == second for a, b in itertools.pairwise(words))
