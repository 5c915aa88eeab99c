"""Files of the shop's own, changed at random: whatever they hold they are refused with file and place, or they work."""

from __future__ import annotations

import copy
import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import tomli
import tomlkit

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.load import DATA, shipped
from creekbed.core.catalogue.own import OVERRIDES, with_own_files
from creekbed.core.procedure.build import build
from creekbed.core.procedure.imagine import imagine

VALUES: tuple[Any, ...] = (
    3, -1, 0, 1e308, -1e308, float("inf"), float("nan"), True, False, "x", "", [], {}, [3], ["x"], {"a": 1}, "$gong",
    10**30, [[]], [{}], 0.5, "step.x", "é" * 5000, 5e-324, 1e7,
)  # fmt: skip
FILES = sorted((DATA / "families").glob("*.toml"))


def places(table: Any, where: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Every place in a table of tables and lists."""
    if isinstance(table, dict | list):
        for key, value in table.items() if isinstance(table, dict) else enumerate(table):
            yield (*where, key)
            yield from places(value, (*where, key))


def changed(table: dict[str, Any], chance: random.Random) -> str:
    """The text of a table after one or two places of it were changed or taken out."""
    for _ in range(chance.randint(1, 2)):
        *above, last = chance.choice(list(places(table)))
        holder: Any = table
        try:
            for key in above:
                holder = holder[key]
            if chance.random() < 0.15:
                del holder[last]
            else:
                holder[last] = copy.deepcopy(chance.choice(VALUES))
        except (LookupError, TypeError):
            continue  # it lay in what was changed before
    return tomlkit.dumps(table)


def works(catalogue: Catalogue, keys: Iterator[str]) -> None:
    """What is taken in can be worked by."""
    for key in keys:
        family = catalogue.families[key]
        build(catalogue, imagine(catalogue, family))


@pytest.mark.parametrize("seed", range(4))
def test_family_files_changed_at_random(tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    (tmp_path / "families").mkdir()
    refused = 0
    for _ in range(15):
        table = tomli.loads(chance.choice(FILES).read_text())
        for family in table["family"]:
            family["key"] = f"own_{family['key']}"
        (tmp_path / "families" / "own.toml").write_text(changed(table, chance))
        found = with_own_files(shipped(), tmp_path)
        works(found, (k for k in found.families if k.startswith("own_")))
        refused += bool(found.problems)
        for problem in found.problems:
            assert "own.toml" in problem.happened and problem.todo
        assert set(shipped().families) <= set(found.families)
    assert refused >= 5


@pytest.mark.parametrize("seed", range(3))
def test_single_values_changed_at_random(tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    for _ in range(25):
        key = chance.choice(("alto_saxophone", "violin", "clarinet", "trumpet"))
        family = shipped().families[key]
        step = chance.choice(family.step)
        name = chance.choice(list(type(step).model_fields))
        where = chance.choice((
            {"family": {key: {"step": {step.key: {name: chance.choice(VALUES)}}}}},
            {"family": {key: {chance.choice(("case_minutes", "sizes", "zones", "drawing")): chance.choice(VALUES)}}},
            {"limits": {chance.choice(list(type(shipped().house.limits).model_fields)): chance.choice(VALUES)}},
            {"hours": {"open": {chance.choice("01234567"): chance.choice(VALUES)}}},
            {"place": {"tub": {chance.choice(("capacity", "holds", "name")): chance.choice(VALUES)}}},
            {"supply": {"soap_ml": {chance.choice(("reorder_at", "unit", "agent")): chance.choice(VALUES)}}},
            {chance.choice(("family", "gong", "place", "limits")): chance.choice(VALUES)},
        ))  # fmt: skip
        (tmp_path / OVERRIDES).write_text(tomlkit.dumps(where))
        found = with_own_files(shipped(), tmp_path)
        works(found, iter((key,)))
        assert all(OVERRIDES in p.happened for p in found.problems)


@pytest.mark.parametrize(
    "text",
    ["step = 3", "[family", "family = 3", "[[family]]\nkey = 3", "[group]\nkey = []", "\x00", "é" * 200_000,
     "a = " + "[" * 5000 + "]" * 5000, "[family.x.change]\nstep = 3", "[[step]]\n[[step]]"],
)  # fmt: skip
def test_texts_that_are_no_family_file(tmp_path: Path, text: str) -> None:
    for place in (tmp_path / "families" / "own.toml", tmp_path / OVERRIDES):
        place.parent.mkdir(exist_ok=True)
        place.write_text(text, encoding="utf-8")
    found = with_own_files(shipped(), tmp_path)
    assert len(found.problems) >= 1 and set(found.families) == set(shipped().families)


def test_what_is_no_file(tmp_path: Path) -> None:
    (tmp_path / "families").mkdir()
    (tmp_path / "families" / "folder.toml").mkdir()
    (tmp_path / "families" / "gone.toml").symlink_to(tmp_path / "nowhere")
    (tmp_path / OVERRIDES).mkdir()
    found = with_own_files(shipped(), tmp_path)
    assert len(found.problems) == 3 and set(found.families) == set(shipped().families)
