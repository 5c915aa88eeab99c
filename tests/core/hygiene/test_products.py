"""People's names for agents, labels, and parts that answer for what they carry. Pairs and gases: general chemical
safety guidance for households, from memory."""

from __future__ import annotations

from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.catalogue.load import shipped
from creekbed.core.errors import BadInput
from creekbed.core.hygiene.products import UNKNOWN, by_ingredients, plain, together_with, understand
from creekbed.core.hygiene.together import Clash, never_together
from creekbed.core.hygiene.touch import carried, may_touch_part

C = shipped()
RULES = list(C.never.values())


def clashes(*names: str) -> list[Clash]:
    named = [understand(C, n) for n in names]
    return never_together(together_with(C, named), RULES, [n.agent.key for n in named])


@pytest.mark.parametrize(
    ("one", "two", "gas"),
    [
        ("bleach", "toilet descaler", "chlorine gas"), ("Chlorine bleach", "VINEGAR", "chlorine gas"),
        ("household bleach", "ammonia", "chloramines"), ("bleach", "rubbing alcohol", "chloroform"),
        ("bleach", "nail-varnish remover", "chloroform"), ("mould spray", "lime-scale removers", "chlorine gas"),
        ("bleach", "denture tablets", "chlorine gas"), ("bleach", "window cleaner", "chloramines"),
        ("hydrogen peroxide", "vinegar", "peracetic acid"), ("hydrogen peroxide", "acetone", "explosive"),
        ("hydrogen peroxide", "ammonia", "ammonia fumes"), ("acetone", "denture tablet", "explosive"),
        ("silver polish", "denture tablet", "sulphur fumes"), ("silver dip", "bleach", "poisonous gases"),
        ("pool tablet", "bleach", "chlorine gas"), ("pool tablet", "ammonia", "it explodes"),
        ("drain cleaner", "toilet cleaner", "boils and spits"), ("oxygen bleach", "white vinegar", "peracetic acid"),
        ("iodine", "ammonia", "explosive"), ("hand sanitiser", "bleach", "chloroform"),
    ],
)  # fmt: skip
def test_what_people_call_it_leads_to_its_gas_and_its_first_aid(one: str, two: str, gas: str) -> None:
    found = [c for c in clashes(one, two) if c.kind == "danger"]
    assert any(gas in c.forms for c in found), found
    assert all("air the room" in c.do.lower() or "fire service" in c.do or "rinse" in c.do for c in found)


def test_what_explodes_is_not_rinsed_but_left() -> None:
    for pair in (("hydrogen peroxide", "acetone"), ("acetone", "persulfate tablet"), ("iodine", "ammonia")):
        worst = next(c for c in clashes(*pair) if "explo" in c.forms)
        assert "fire service" in worst.do and "ot touch" in worst.do


def test_a_known_word_in_a_name_counts_as_that_and_as_unknown() -> None:
    found = clashes("Lemon Bleach Gel", "toilet descaler")
    assert {"danger", "unknown"} <= {c.kind for c in found} and any("chlorine gas" in c.forms for c in found)
    assert understand(C, "Lemon Bleach Gel").known == "word"
    typo = understand(C, "bleech")
    assert typo.known == "like" and any("chlorine gas" in c.forms for c in clashes("bleech", "vinegar"))
    nobody = understand(C, "green stuff")
    assert nobody.known == "" and nobody.agent.holds == (UNKNOWN,) and "not known" in nobody.words


@given(st.text(max_size=100))
def test_any_name_is_understood_or_asked_for(text: str) -> None:
    try:
        found = understand(C, text)
    except BadInput:
        return
    assert found.known or found.agent.holds == (UNKNOWN,)
    assert clashes(text) if UNKNOWN in found.agent.holds else True


def test_names_are_not_shared_by_two_kinds() -> None:
    """Each name leads to one kind of product only, and a plural or a hyphen changes nothing."""
    kinds = {p.key: {plain(n) for n in (p.name, *p.names)} for p in C.products.values()}
    for one, two in combinations(kinds, 2):
        assert not kinds[one] & kinds[two], (one, two)
    assert plain("Denture-Tablets") == plain("denture tablet")


def test_a_label_says_what_is_active() -> None:
    """Words of Regulation (EC) 648/2004 (5 % to 15 % and so on beside them), and chemical names."""
    bleach = by_ingredients(C, "<5 % chlorine-based bleaching agents, anionic surfactants, perfume")
    assert bleach.holds == ("hypochlorite", "soap") and bleach.not_known == ()
    assert by_ingredients(C, "Aqua, Citric Acid (5-15 %), Parfum").holds == ("acid",)
    assert by_ingredients(C, "water; sodium hypochlorite solution").holds == ("hypochlorite",)
    assert by_ingredients(C, "water, perfume").holds == ()
    odd = by_ingredients(C, "water, xylofluor 7")
    assert UNKNOWN in odd.holds and odd.not_known == ("xylofluor 7",)
    for wrong in ("", " , ,", ",".join(["water"] * 60)):
        with pytest.raises(BadInput):
            by_ingredients(C, wrong)


@given(st.lists(st.sampled_from([n for i in C.ingredients.values() for n in i.names]), min_size=1, max_size=6))
def test_more_on_a_label_is_never_safer(names: list[str]) -> None:
    whole = set(by_ingredients(C, ", ".join(names)).holds)
    assert set(by_ingredients(C, names[0]).holds) <= whole and UNKNOWN not in whole


def test_a_part_answers_for_what_it_carries() -> None:
    """Leather pads do not bear hot water; a wipe can be kept off them, a bath cannot (common practice, no source)."""
    for family in ("alto_saxophone", "flute"):
        body = C.families[family].find_part("body")
        assert body is not None
        for exposure in ("yes", "short", "brief"):
            assert "pads" in {c.part.key for c in carried(C.families[family], body, C.materials, "hot_water", exposure)}
    for family, key, agent in (
        ("trumpet", "valves", "silver_polish"), ("trumpet", "valves", "slide_grease"),
        ("horn", "rotors", "slide_grease"), ("trombone", "inner", "slide_grease"), ("tuba", "valves", "silver_polish"),
    ):  # fmt: skip
        part = C.families[family].find_part(key)
        assert part is not None
        for material in part.materials:
            answer = may_touch_part(C.materials[material], None, agent, "brief", part.bears_not)
            assert not answer.allowed and answer.why
    valves = C.families["trumpet"].find_part("valves")
    assert valves is not None
    assert may_touch_part(C.materials["brass"], None, "valve_oil", "yes", valves.bears_not).allowed
