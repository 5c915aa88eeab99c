"""What people call instruments: words of lists in several languages. Common practice, no source."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.catalogue.load import shipped
from creekbed.core.catalogue.names import Recogniser, phrase, shipped_names

KNOWN = Recogniser(shipped())


@pytest.mark.parametrize(
    "words, family, size",
    [
        ("alto sax", "alto_saxophone", "alto"), ("3/4 cello", "cello", "3/4"), ("Bb clarinet", "clarinet", "B flat"),
        ("B♭ Clarinet", "clarinet", "B flat"), ("Bratsche", "viola", ""), ("Geige ½", "violin", "1/2"),
        ("half-size violin", "violin", "1/2"), ("violins", "violin", ""),
        ("Saxophone, tenor", "tenor_saxophone", "tenor"),
        ("Double Horn F/Bb", "horn", "F and B flat"), ("French horn", "horn", ""),
        ("violin bow 3/4", "bow", "violin 3/4"),
        ('Viola 15 1/2"', "viola", "15 1/2 in"), ("Viola 15½ inch", "viola", "15 1/2 in"),
        ("Eb tuba", "tuba", "E flat"),
        ("Tuba BBb", "tuba", "B flat"), ("E-Gitarre", "electric_guitar", ""),
        ("electric bass 34 in", "bass_guitar", "34 in"),
        ("Posaune mit Quartventil", "trombone", "tenor with valve"), ("baritone horn", "euphonium", "baritone"),
        ("Flute curved head", "flute", "curved head"), ("KONTRABASS 3/4", "double_bass", "3/4"),
        ("Querflöte", "flute", ""), ("violoncello 1/4", "cello", "1/4"), ("bass clarinet", "bass_clarinet", "B flat"),
        ("bassoon", "bassoon", ""), ("hautbois", "oboe", "oboe"), ("Altsaxophon Nr 3", "alto_saxophone", "alto"),
    ],
)  # fmt: skip
def test_words_of_lists(words: str, family: str, size: str) -> None:
    found = KNOWN.recognise(words)
    assert (found.families, found.size) == ((family,), size)


@pytest.mark.parametrize(
    "words, among",
    [("Sax", "alto_saxophone"), ("baritone", "euphonium"), ("guitar", "electric_guitar"), ("bass", "double_bass")],
)
def test_what_can_be_several_is_asked(words: str, among: str) -> None:
    found = KNOWN.recognise(words)
    assert not found.sure and among in found.families and len(found.families) > 1


@pytest.mark.parametrize(
    "words",
    [
        "English horn", "Eb clarinet", "alto flute", "bass trombone", "piccolo trumpet", "tenor horn", "Flügelhorn",
        "kazoo",
        "", "cello bag", "violin case 1/2", "clarinet mouthpiece", "trumpet mute", "viola da gamba", "bass drum", "42",
    ],
)  # fmt: skip
def test_what_only_resembles_a_family_is_none(words: str) -> None:
    """Other instruments and things beside them: a mistake here would clean a cor anglais as a horn."""
    assert KNOWN.recognise(words).families == ()


def test_the_size_may_stand_in_a_column_of_its_own() -> None:
    assert KNOWN.recognise("Violin", "three quarter").size == "3/4"
    assert KNOWN.recognise("Violin 1/2", "3/4").size == "3/4"
    assert KNOWN.recognise("Violin", "7/8").size == ""


def test_the_shops_own_words_go_first() -> None:
    own = Recogniser(shipped(), {"Schulsax": ("alto_saxophone", "alto"), "Guitar": ("acoustic_guitar", "3/4")})
    assert own.recognise("SCHULSAX").families == ("alto_saxophone",)
    assert own.recognise("guitar").size == "3/4" and own.recognise("guitar", "1/2").size == "1/2"
    assert own.recognise("electric guitar").families == ("electric_guitar",)
    gone = Recogniser(shipped(), {"Schulsax": ("no_such_family", "")})
    assert gone.recognise("Schulsax").families == ()


def test_every_family_is_known_by_its_own_name() -> None:
    for family in shipped().families.values():
        assert family.key in KNOWN.recognise(family.name).families, family.name
        for size in family.sizes:
            assert KNOWN.recognise(family.name, size).size == size, (family.key, size)


def test_the_table_names_families_that_are_there() -> None:
    table = shipped_names()
    keys, sizes = set(shipped().families), {s for f in shipped().families.values() for s in f.sizes}
    assert {k for n in table.name for k in n.family} <= keys and {s.size for s in table.size} <= sizes
    told = [phrase(w) for n in table.name for w in n.words]
    assert len(told) == len(set(told)), "a phrase stands twice"


@given(st.text(max_size=60), st.text(max_size=20))
def test_any_words_are_recognised_or_not(words: str, size: str) -> None:
    found = KNOWN.recognise(words, size)
    families = shipped().families
    assert all(k in families for k in found.families)
    assert not found.size or found.size in families[found.families[0]].sizes
