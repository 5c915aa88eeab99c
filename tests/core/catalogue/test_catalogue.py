"""The catalogue: what ships is whole, and a wrong file is refused by file, key and line."""

import pickle
import shutil
import stat
import sys
from pathlib import Path

import pytest

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.compiled import compiled
from creekbed.core.catalogue.conditions import Condition
from creekbed.core.catalogue.cross import check_catalogue
from creekbed.core.catalogue.load import DATA, load, shipped
from creekbed.core.catalogue.reading import key_lines
from creekbed.core.catalogue.sources import page
from creekbed.core.errors import BadData
from creekbed.core.hygiene.touch import may_touch

ROOT = Path(__file__).parents[3]


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


FAMILIES = {
    "soprano_saxophone", "alto_saxophone", "tenor_saxophone", "baritone_saxophone", "clarinet", "bass_clarinet",
    "oboe", "bassoon", "flute", "piccolo", "trumpet", "cornet", "euphonium", "tuba", "trombone", "horn",
    "violin", "viola", "cello", "double_bass", "acoustic_guitar", "electric_guitar", "bass_guitar", "bow",
}  # fmt: skip


def test_everything_ships_whole() -> None:
    catalogue = load()  # cross-checked
    assert set(catalogue.families) == FAMILIES
    for family in catalogue.families.values():
        kinds = {s.kind for s in family.step}
        assert {"contents", "look", "test", "pack"} <= kinds
        assert len(family.check) >= 2 and family.item and family.part


def test_every_step_with_an_agent_says_what_to_mind() -> None:
    for family in shipped().families.values():
        for step in family.step:
            if step.agent in ("peroxide", "vinegar", "soap"):
                assert step.caution, step.key


@pytest.mark.parametrize(
    ("file", "before", "after", "key"),
    [
        ("families/violins.toml", "hands_min = 3.0", 'hands_min = "three"', "hands_min"),
        ("families/violins.toml", "hands_min = 3.0", "hands_min = -3.0", "hands_min"),
        ("families/violins.toml", 'kind = "contents"', 'kind = "juggle"', "kind"),
        ("families/saxophones.toml", 'stage = "clean"', 'stage = "rinse"', "stage"),
        ("families/saxophones.toml", "amber_from = 5.0", "amber_from = 7.0", "bands"),
        ("families/clarinets.toml", "narrow_mm = 14.9", "narrow_mm = 15.9", "bore"),
        ("shared/bowed.toml", "hands_min = 2.0", "hands_min = 0.0", "hands_min"),
        ("families/bassoons.toml", 'verb = "draw"', 'verb = "yank"', "verb"),
        ("families/cellos.toml", 'first = "bow_off"', "first = 3", "first"),
        ("policies.toml", 'default = "two"', 'default = "nine"', "topic"),
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
    line = spoil(data / "families/violins.toml", "hands_min = 6.0", 'hands_min = "six"')
    with pytest.raises(BadData) as caught:
        load(data)
    assert caught.value.fields["line"] == line


def test_an_unknown_key_is_refused(data: Path) -> None:
    spoil(data / "families/violins.toml", 'name = "Violin"', 'name = "Violin"\ncolour = "brown"')
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
    spoil(data / "families/violins.toml", 'after = ["contents"]', 'after = ["contents", "pack"]')
    with pytest.raises(BadData, match=r"circle: .*pack"):
        load(data)


def test_a_step_that_does_not_exist_is_named(data: Path) -> None:
    spoil(data / "families/violins.toml", 'after = ["contents"]', 'after = ["content"]')
    with pytest.raises(BadData, match="content"):
        load(data)


def test_no_step_may_bring_an_agent_where_it_harms(data: Path) -> None:
    """Alcohol on acrylic cracks it: a step that brings it to a mouthpiece is refused at load."""
    spoil(data / "shared/single_reed.toml", 'agent = "vinegar"', 'agent = "alcohol"')
    with pytest.raises(BadData, match="descale brings alcohol"):
        load(data)


def test_water_on_varnish_is_refused_at_load(data: Path) -> None:
    spoil(data / "shared/bowed.toml", 'part = "body"\nagent = "dry_cloth"', 'part = "body"\nagent = "cool_water"')
    with pytest.raises(BadData):
        load(data)


@pytest.mark.parametrize(
    ("material", "agent", "exposure", "allowed"),
    [
        # common practice, no source
        ("hard_rubber", "hot_water", "yes", False), ("hard_rubber", "vinegar", "short", True),
        ("hard_rubber", "vinegar", "yes", False), ("lacquer", "hot_water", "yes", False),
        ("cork", "cool_water", "yes", False), ("pad", "cool_water", "brief", False),
        ("cane", "peroxide", "short", True),
        ("varnish", "dry_cloth", "yes", True), ("varnish", "alcohol", "brief", False),
        # from memory
        ("acrylic", "alcohol", "brief", False), ("silver_plate", "hypochlorite", "brief", False),
        ("hard_rubber", "soap", "yes", True), ("hard_rubber", "acetone", "brief", False),
        ("brass", "ammonia", "brief", False), ("hard_rubber", "lukewarm_water", "yes", False),
        ("wood_bore", "cool_water", "brief", False), ("wood_bore", "bore_oil", "yes", True),
        ("felt", "lukewarm_water", "brief", False), ("satin", "guitar_polish", "brief", False),
        ("resin_body", "bore_oil", "yes", False), ("lacquer", "glass_cleaner", "brief", True),
        ("silver_plate", "vinegar", "short", False), ("bare", "silver_polish", "brief", False),
    ],
)  # fmt: skip
def test_what_materials_bear(material: str, agent: str, exposure: str, allowed: bool) -> None:
    answer = may_touch(shipped().materials[material], agent, exposure)
    assert answer.allowed is allowed
    assert allowed or answer.why


def test_a_cycle_that_only_one_policy_makes_is_named(data: Path) -> None:
    path = data / "families/clarinets.toml"
    rule = 'first = "barrel_off"\nthen = "ligature_off"\nwhy = "Wrong."\nmark = "H"\nsource = "x"\n'
    path.write_text(
        path.read_text().replace(
            "[[check]]", f'[[order]]\n{rule}when = ["policy.clarinet_apart is mouthpiece_first"]\n\n[[check]]', 1
        )
    )
    with pytest.raises(BadData, match="circle"):
        load(data)


def test_moves_in_a_circle_are_named(data: Path) -> None:
    spoil(
        data / "families/bassoons.toml",
        'first = "bell_off"\nthen = "lock_off"',
        'first = "wing_off"\nthen = "lock_off"',
    )
    with pytest.raises(BadData, match=r"circle: .*_off") as caught:
        load(data)
    assert "bassoon" in str(caught.value.fields["file"])


def test_a_cloth_may_not_enter_at_the_narrow_end(data: Path) -> None:
    spoil(
        data / "families/clarinets.toml", 'path = { enters = "wide end", leaves = "narrow end" }',
        'path = { enters = "narrow end", leaves = "wide end" }',
    )  # fmt: skip
    with pytest.raises(BadData, match="narrow end"):
        load(data)


def test_a_value_that_is_not_set_is_named(data: Path) -> None:
    spoil(data / "families/flutes.toml", 'rod = "rod_flute"\n', "")
    with pytest.raises(BadData, match=r"\$rod is not set"):
        load(data)


@pytest.mark.parametrize(
    ("file", "before", "after", "match"),
    [
        ("families/flutes.toml", 'uses = ["pads", "after", "case"]', 'uses = ["pads", "gongs"]', "not a shared file"),
        ("families/flutes.toml", 'uses = ["pads", "after", "case"]', 'uses = ["../agents"]', "not a shared file"),
        ("families/clarinets.toml", "[family.change.joint.barrel]", "[family.change.joint.cask]", "to change"),
        ("families/clarinets.toml", 'policy = "clarinet_apart"', 'policy = "clarinet_apert"', "does not exist"),
        ("families/oboes.toml", 'stock = "swab_oboe"', 'stock = "swab_obo"', "does not exist"),
        ("shared/pads.toml", "[[part]]", "[[port]]", "not known"),
        ("policies.toml", 'families = ["bassoon"]', 'families = ["basoon"]', "does not exist"),
        ("families/horns.toml", 'place = "sink"', 'place = "sea"', "does not exist"),
        ("families/violins.toml", '"policy.minor_adjust is technician"', '"policy.minor_adjust is anyone"', "anyone"),
        ("families/violins.toml", '"contents.bow has present, worn"', '"contents.bough has present, worn"', "bough"),
        ("families/bows.toml", 'kind = "pack"', 'kind = "do"', "exactly one"),
        ("families/flutes.toml", '"lip_wash", "mix"]', '"lip_wash"]', "uses a mix"),
    ],
)  # fmt: skip
def test_names_that_do_not_exist_are_refused(data: Path, file: str, before: str, after: str, match: str) -> None:
    spoil(data / file, before, after)
    with pytest.raises(BadData, match=match):
        load(data)


def test_lines_of_nested_tables() -> None:
    text = "a = 1\n[[step]]\nkey = 1\n[[step]]\nkey = 2\nwait = {x = 1}\n[hours.open]\n0 = []\n"
    lines = key_lines(text)
    assert lines[("a",)] == 1 and lines[("step", 1, "wait")] == 6 and lines[("hours", "open", "0")] == 8


@pytest.mark.parametrize("text", ["finding.pads sticks", "finding.pads has", "x is a or b", "", "has has has, "])
def test_bad_conditions(text: str) -> None:
    with pytest.raises(ValueError, match="not a condition"):
        Condition.parse(text)


def test_conditions() -> None:
    facts = {"finding.pads": frozenset({"sticks", "wet"}), "policy.x": frozenset({"two"})}
    assert Condition.parse("finding.pads has wet, torn").holds(facts)
    assert not Condition.parse("finding.pads is wet").holds(facts)
    assert Condition.parse("policy.x is two").holds(facts)
    assert Condition.parse("mix.peroxide_3 lacks ready").holds(facts)
    assert not Condition.parse("finding.pads lacks wet").holds(facts)


def test_the_page_of_sources_is_true() -> None:
    assert (ROOT / "docs" / "sources.md").read_text(encoding="utf-8") == page(shipped())


def test_the_catalogue_is_kept_while_its_files_stay(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """It is read anew after any change, and from what is torn, older or cannot be written nothing is taken."""
    data, calls = tmp_path / "data", []
    shutil.copytree(DATA, data, ignore=shutil.ignore_patterns("__pycache__"))
    monkeypatch.setattr(sys, "pycache_prefix", None)

    def read() -> Catalogue:
        calls.append(1)
        return load(data, check=False)

    monkeypatch.setattr(sys, "dont_write_bytecode", True)
    first = compiled(data, read)
    assert len(calls) == 1 and not list(data.glob("__pycache__/*"))
    monkeypatch.setattr(sys, "dont_write_bytecode", False)
    assert compiled(data, read) == first and len(calls) == 2
    kept = next(data.glob("__pycache__/*.pickle"))
    assert stat.S_IMODE(kept.stat().st_mode) == 0o600 and list(kept.parent.iterdir()) == [kept]
    again = compiled(data, read)
    assert again == first and len(calls) == 2 and again.memory == {}
    check_catalogue(again)
    house = data / "house.toml"
    house.write_text(house.read_text(encoding="utf-8").replace("a4_hz = 440", "a4_hz = 442"), encoding="utf-8")
    assert compiled(data, read).house.limits.a4_hz == 442 and len(calls) == 3
    for torn in (b"", kept.read_bytes()[:-9], b"\x80\x05garbage", pickle.dumps("?") * 2):
        kept.write_bytes(torn)
        assert compiled(data, read).house.limits.a4_hz == 442
    assert len(calls) == 7
    shutil.rmtree(kept.parent)
    kept.parent.write_text("a file is in the way")
    assert compiled(data, read).house.limits.a4_hz == 442 and len(calls) == 8
