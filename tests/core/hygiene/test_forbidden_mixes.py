"""What must never meet. The matrix is general chemical safety guidance for households, from memory."""

from __future__ import annotations

from itertools import combinations
from pathlib import Path
from shutil import copytree
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.catalogue.load import DATA, load, shipped
from creekbed.core.errors import BadData
from creekbed.core.hygiene.residue import Use, clashes_with, left_on
from creekbed.core.hygiene.together import never_together

C = shipped()
RULES = list(C.never.values())
DANGER = {
    frozenset(pair)
    for pair in (
        ("hypochlorite", "vinegar"), ("hypochlorite", "descaler"), ("hypochlorite", "denture_tablet"),
        ("hypochlorite", "silver_dip"), ("hypochlorite", "silver_polish"), ("hypochlorite", "ammonia"),
        ("hypochlorite", "alcohol"), ("hypochlorite", "acetone"), ("hypochlorite", "peroxide"),
        ("hypochlorite", "quat"), ("hypochlorite", "hot_water"), ("peroxide", "vinegar"), ("peroxide", "descaler"),
        ("peroxide", "denture_tablet"), ("peroxide", "silver_dip"), ("peroxide", "silver_polish"),
        ("peroxide", "acetone"), ("peroxide", "ammonia"), ("acetone", "denture_tablet"), ("ammonia", "denture_tablet"),
        ("silver_dip", "denture_tablet"), ("silver_polish", "denture_tablet"), ("hypochlorite", "mouthwash"),
    )
}  # fmt: skip


@pytest.mark.parametrize("pair", list(combinations(sorted(C.agents), 2)), ids="-".join)
def test_the_whole_matrix(pair: tuple[str, str]) -> None:
    kinds = {c.kind for c in never_together(C.agents, RULES, pair)}
    assert ("danger" in kinds) == (frozenset(pair) in DANGER)
    assert ("useless" in kinds) == (set(pair) == {"quat", "soap"})


def test_what_is_not_known_is_unsafe_with_everything_but_water_and_a_cloth() -> None:
    """The rule says so, and so it is with every agent; and one that stands alone is told too."""
    for key in C.agents:
        clashes = never_together(C.agents, RULES, [key, "green stuff"])
        safe = key in ("cool_water", "lukewarm_water", "dry_cloth")
        assert {c.kind for c in clashes} == {"unknown"}
        assert [c.second for c in clashes] == ([""] if safe else ["green stuff", ""])
    assert [c.second for c in never_together(C.agents, RULES, ["green stuff"])] == [""]
    assert len(never_together(C.agents, RULES, ["green stuff", "blue stuff"])) == 3


@given(st.lists(st.sampled_from([*sorted(C.agents), "x", "y"]), max_size=6), st.randoms())
def test_order_and_company_do_not_matter(named: list[str], random: Any) -> None:
    """More agents never make a mix safer, and it does not matter which was named first."""

    def pairs(names: list[str]) -> set[tuple[frozenset[str], str]]:
        return {(frozenset((c.first, c.second)), c.forms) for c in never_together(C.agents, RULES, names)}

    mixed = named.copy()
    random.shuffle(mixed)
    assert pairs(named) == pairs(mixed) == pairs(named + named)
    assert pairs(named[:-1]) <= pairs(named)


def test_dangers_come_first_and_say_what_to_do() -> None:
    clashes = never_together(C.agents, RULES, ["soap", "quat", "peroxide", "hypochlorite", "x"])
    kinds = [c.kind for c in clashes]
    assert kinds == sorted(kinds, key=("danger", "unknown", "useless").index)
    assert all(c.do and c.forms and c.source for c in clashes)
    assert all("15 minutes" in c.do and "poison" in c.do for c in clashes if c.kind == "danger")


def test_a_part_that_is_not_rinsed_between_is_refused(tmp_path: Path) -> None:
    copytree(DATA, tmp_path / "data")
    path = tmp_path / "data" / "shared" / "brass.toml"
    text = path.read_text(encoding="utf-8")
    assert "rinses = true\n" in text
    path.write_text(text.replace("rinses = true\n", ""), encoding="utf-8")
    with pytest.raises(BadData, match=r"not rinsed off.*peracetic"):
        load(tmp_path / "data")


def test_a_pair_that_no_agent_holds_is_refused(tmp_path: Path) -> None:
    copytree(DATA, tmp_path / "data")
    path = tmp_path / "data" / "never.toml"
    path.write_text(path.read_text(encoding="utf-8").replace('"thiourea"', '"gold"'), encoding="utf-8")
    with pytest.raises(BadData, match="gold"):
        load(tmp_path / "data")


# --- one after the other on a part ----------------------------------------------------------------------------------

AGENTS = st.frozensets(st.sampled_from([*sorted(C.agents), "x"]), min_size=1, max_size=2)
USES = st.lists(
    st.builds(Use, st.frozensets(st.sampled_from(["cup", "shank"]), min_size=1), AGENTS, st.booleans()), max_size=10
)


@given(USES)
def test_no_sequence_reaches_a_forbidden_pair(wanted: list[Use]) -> None:
    """Whatever people try in whatever order: with the guard, what meets on a part never clashes. Told another way."""
    done: list[Use] = []
    for use in wanted:
        itself = never_together(C.agents, RULES, use.agents)
        if not itself and not clashes_with(C.agents, RULES, done, use):
            done.append(use)
    for part in ("cup", "shank"):
        wet: list[str] = []
        for use in (u for u in done if part in u.parts):
            active = [a for a in use.agents if a == "x" or C.agents[a].holds]
            water = use.agents & {"cool_water", "lukewarm_water", "hot_water"}
            for old in wet:
                for new in use.agents:
                    assert old == new or not never_together(C.agents, RULES, (old, new)), (old, new)
            if use.rinses or (water and all(a == "hot_water" for a in active)):
                wet = []
            elif active:
                wet += [a for a in active if a != "hot_water"]


def test_a_dry_cloth_rinses_nothing() -> None:
    cup = frozenset({"cup"})
    peroxide, cloth = Use(cup, frozenset({"peroxide"})), Use(cup, frozenset({"dry_cloth"}))
    water = Use(cup, frozenset({"cool_water"}))
    assert left_on(C.agents, [peroxide, cloth]) == {"cup": {"peroxide"}}
    assert left_on(C.agents, [peroxide, water]) == {}
    vinegar = Use(cup, frozenset({"vinegar"}), rinses=True)
    assert clashes_with(C.agents, RULES, [peroxide], vinegar)[0][1].forms.startswith("peracetic")
    assert clashes_with(C.agents, RULES, [peroxide, water], vinegar) == []
    assert clashes_with(C.agents, RULES, [vinegar], peroxide) == []
