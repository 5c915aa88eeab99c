"""The catalogue: what ships is whole, and a wrong file is refused by file, key and line."""

import shutil
from pathlib import Path

import pytest

from creekbed.core.catalogue.conditions import Condition
from creekbed.core.catalogue.load import DATA, key_lines, load, shipped
from creekbed.core.catalogue.sources import page
from creekbed.core.errors import BadData
from creekbed.core.hygiene.touch import may_touch

ROOT = Path(__file__).parents[2]


@pytest.fixture
def data(tmp_path: Path) -> Path:
    folder = tmp_path / "data"
    shutil.copytree(DATA, folder)
    return folder


def spoil(path: Path, before: str, after: str) -> int:
    """Change the first place where ``before`` stands; gives its line."""
    text = path.read_text()
    assert before in text
    line = text[: text.index(before)].count("\n") + 1
    path.write_text(text.replace(before, after, 1))
    return line


def test_everything_ships_whole() -> None:
    catalogue = shipped()
    assert set(catalogue.families) == {"alto_saxophone", "violin"}
    for family in catalogue.families.values():
        kinds = {s.kind for s in family.step}
        assert {"contents", "look", "test", "pack"} <= kinds
        assert any(i.kind == "safety" for i in family.item)
        assert len(family.check) >= 3


def test_every_step_with_an_agent_says_what_to_mind() -> None:
    for family in shipped().families.values():
        for step in family.step:
            if step.agent in ("peroxide", "vinegar", "soap"):
                assert step.caution, step.key


@pytest.mark.parametrize(
    ("file", "before", "after", "key"),
    [
        ("families/violin.toml", "hands_min = 3.0", 'hands_min = "three"', "hands_min"),
        ("families/violin.toml", "hands_min = 3.0", "hands_min = -3.0", "hands_min"),
        ("families/violin.toml", 'kind = "contents"', 'kind = "juggle"', "kind"),
        ("families/alto_saxophone.toml", 'stage = "clean"', 'stage = "rinse"', "stage"),
        ("families/alto_saxophone.toml", "amber_from = 5.0", "amber_from = 7.0", "bands"),
        ("schools.toml", 'default = "two"', 'default = "nine"', "topic"),
        ("supplies.toml", "reorder_at = 500.0", "reorder_at = -1.0", "reorder_at"),
        ("house.toml", "capacity = 2", "capacity = 0", "capacity"),
        ("materials.toml", 'alcohol = "brief"', 'alcohol = "perhaps"', "may"),
    ],
)
def test_a_wrong_value_is_named_by_file_key_and_line(data: Path, file: str, before: str, after: str, key: str) -> None:
    line = spoil(data / file, before, after)
    with pytest.raises(BadData) as caught:
        load(data)
    fields = caught.value.fields
    assert fields["file"] == Path(file).name
    assert key in str(fields["key"])
    # a rule over a whole table is reported at its head, a value at its own line
    assert line - 14 <= fields["line"] <= line
    assert str(fields["line"]) in caught.value.happened


def test_the_line_is_the_very_line_of_the_value(data: Path) -> None:
    line = spoil(data / "families/violin.toml", "hands_min = 6.0", 'hands_min = "six"')
    with pytest.raises(BadData) as caught:
        load(data)
    assert caught.value.fields["line"] == line


def test_an_unknown_key_is_refused(data: Path) -> None:
    spoil(data / "families/violin.toml", 'name = "Violin"', 'name = "Violin"\ncolour = "brown"')
    with pytest.raises(BadData, match="colour"):
        load(data)


def test_not_even_toml(data: Path) -> None:
    (data / "agents.toml").write_text('[[agent]]\nkey = "x\n')
    with pytest.raises(BadData) as caught:
        load(data)
    assert caught.value.fields["file"] == "agents.toml" and caught.value.fields["line"] == 2


def test_a_huge_file_is_refused(data: Path) -> None:
    (data / "agents.toml").write_bytes(b"#" * 1_000_001)
    with pytest.raises(BadData, match="larger"):
        load(data)


def test_not_text(data: Path) -> None:
    (data / "agents.toml").write_bytes(b"\xff\xfe\x00")
    with pytest.raises(BadData):
        load(data)


def test_twice_the_same_key(data: Path) -> None:
    path = data / "agents.toml"
    path.write_text(path.read_text() + '\n[[agent]]\nkey = "soap"\nname = "soap"\nmark = "T"\nsource = "x"\n')
    with pytest.raises(BadData, match="twice"):
        load(data)


def test_a_cycle_is_named(data: Path) -> None:
    spoil(data / "families/violin.toml", 'after = ["contents"]', 'after = ["contents", "pack"]')
    with pytest.raises(BadData, match=r"circle: .*pack"):
        load(data)


def test_a_step_that_does_not_exist_is_named(data: Path) -> None:
    spoil(data / "families/violin.toml", 'after = ["contents"]', 'after = ["content"]')
    with pytest.raises(BadData, match="content"):
        load(data)


def test_no_step_may_bring_an_agent_where_it_harms(data: Path) -> None:
    """Alcohol on acrylic cracks it: a step that brings it to a mouthpiece is refused at load."""
    spoil(data / "families/alto_saxophone.toml", 'agent = "vinegar"', 'agent = "alcohol"')
    with pytest.raises(BadData, match="descale brings alcohol"):
        load(data)


def test_water_on_varnish_is_refused_at_load(data: Path) -> None:
    spoil(data / "families/violin.toml", 'agent = "dry_cloth"', 'agent = "cool_water"')
    with pytest.raises(BadData):
        load(data)


@pytest.mark.parametrize(
    ("material", "agent", "exposure", "allowed"),
    [
        # common practice, no source
        ("hard_rubber", "hot_water", "yes", False), ("hard_rubber", "vinegar", "short", True),
        ("hard_rubber", "vinegar", "yes", False), ("lacquered_brass", "hot_water", "yes", False),
        ("cork", "cool_water", "yes", False), ("pad", "cool_water", "brief", False),
        ("cane", "peroxide", "short", True),
        ("varnish", "dry_cloth", "yes", True), ("varnish", "alcohol", "brief", False),
        # from memory
        ("acrylic", "alcohol", "brief", False), ("silver_plate", "hypochlorite", "brief", False),
        ("hard_rubber", "soap", "yes", True), ("hard_rubber", "acetone", "brief", False),
    ],
)  # fmt: skip
def test_what_materials_bear(material: str, agent: str, exposure: str, allowed: bool) -> None:
    answer = may_touch(shipped().materials[material], agent, exposure)
    assert answer.allowed is allowed
    assert allowed or answer.why


def test_lines_of_nested_tables() -> None:
    text = "a = 1\n[[step]]\nkey = 1\n[[step]]\nkey = 2\nwait = {x = 1}\n[hours.open]\n0 = []\n"
    lines = key_lines(text)
    assert lines[("a",)] == 1 and lines[("step", 1, "wait")] == 6 and lines[("hours", "open", "0")] == 8


@pytest.mark.parametrize("text", ["finding.pads sticks", "finding.pads has", "x is a or b", "", "has has has, "])
def test_bad_conditions(text: str) -> None:
    with pytest.raises(ValueError, match="not a condition"):
        Condition.parse(text)


def test_conditions() -> None:
    facts = {"finding.pads": frozenset({"sticks", "wet"}), "school.x": frozenset({"two"})}
    assert Condition.parse("finding.pads has wet, torn").holds(facts)
    assert not Condition.parse("finding.pads is wet").holds(facts)
    assert Condition.parse("school.x is two").holds(facts)
    assert Condition.parse("mix.peroxide_3 lacks ready").holds(facts)
    assert not Condition.parse("finding.pads lacks wet").holds(facts)


def test_the_page_of_sources_is_true() -> None:
    assert (ROOT / "docs" / "sources.md").read_text(encoding="utf-8") == page(shipped())
