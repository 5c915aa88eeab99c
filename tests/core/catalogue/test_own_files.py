"""The shop's own families and values: applied one by one, refused by file, key and line, the rest works on."""

from __future__ import annotations

from pathlib import Path

import pytest

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.load import shipped
from creekbed.core.catalogue.own import with_own_files
from creekbed.core.catalogue.reading import read_text
from creekbed.core.procedure.build import build
from creekbed.core.procedure.imagine import imagine

OWN_FAMILY = """
[group]
key = "concertina"
name = "Concertinas"

[[family]]
key = "concertina"
name = "Concertina"
sizes = ["30 keys"]
zones = ["bellows", "case"]
case_minutes = 30.0
drawing = "none"
tells = "A small box with buttons at both ends."
mark = "S"
source = "our own"
[[family.part]]
key = "bellows"
name = "bellows"
materials = ["leather"]
[[family.item]]
key = "strap"
name = "hand strap"
kind = "comfort"
mark = "S"
source = "our own"
[[family.check]]
key = "leak"
name = "Bellows"
kind = "choice"
how = "Let it hang by one end."
why = "It should take its time."
options = [
  { key = "slow", name = "sinks slowly", band = "green" },
  { key = "fast", name = "drops", band = "act", verdict = "specialist" },
]
mark = "S"
source = "our own"
[[family.step]]
key = "contents"
stage = "book_in"
kind = "contents"
what = "Open the case"
reason = "To see."
hands_min = 1.0
mark = "S"
source = "our own"
[[family.step]]
key = "look"
stage = "look_over"
kind = "look"
what = "Try the bellows"
reason = "To know."
after = ["contents"]
hands_min = 2.0
mark = "S"
source = "our own"
[[family.step]]
key = "wipe"
stage = "clean"
what = "Wipe the bellows dry"
reason = "Dust."
part = "bellows"
agent = "dry_cloth"
after = ["look"]
hands_min = 2.0
mark = "S"
source = "our own"
[[family.step]]
key = "pack"
stage = "ready"
kind = "pack"
what = "Back into the case"
reason = "Done."
after = ["wipe"]
hands_min = 1.0
mark = "S"
source = "our own"
"""


def own(tmp_path: Path, text: str = "", **families: str) -> Catalogue:
    (tmp_path / "families").mkdir(parents=True, exist_ok=True)
    if text:
        (tmp_path / "overrides.toml").write_text(text)
    for name, content in families.items():
        (tmp_path / "families" / f"{name}.toml").write_text(content)
    return with_own_files(shipped(), tmp_path)


def test_no_folder_no_change(tmp_path: Path) -> None:
    assert with_own_files(shipped(), tmp_path / "none") is shipped()


def test_a_family_of_the_shop_s_own(tmp_path: Path) -> None:
    catalogue = own(tmp_path, concertina=OWN_FAMILY)
    assert catalogue.problems == ()
    steps = build(catalogue, imagine(catalogue, catalogue.families["concertina"]))
    assert [s.key for s in steps] == ["contents", "look", "wipe", "pack"]
    assert set(catalogue.families) > set(shipped().families)


@pytest.mark.parametrize(
    ("before", "after", "key"),
    [
        ('stage = "clean"', 'stage = "cleen"', "stage"),
        ('agent = "dry_cloth"', 'agent = "cool_water"', "family.0.step.2"),
        ('after = ["wipe"]', 'after = ["polish"]', "group"),
        ('key = "concertina"\nname = "Concertina"', 'key = "violin"\nname = "Concertina"', "violin"),
        ("[group]", "[groop]", "group"),
        ("hands_min = 1.0", "hands_min =", ""),
    ],
)
def test_a_wrong_family_is_refused_and_the_rest_works_on(tmp_path: Path, before: str, after: str, key: str) -> None:
    catalogue = own(tmp_path, "[supply.pencil]\nreorder_at = 9.0\n", wrong=OWN_FAMILY.replace(before, after, 1))
    assert len(catalogue.problems) == 1
    fields = catalogue.problems[0].fields
    assert fields["file"] == "wrong.toml" and key in str(fields["key"]) and isinstance(fields["line"], int)
    assert set(catalogue.families) == set(shipped().families)
    assert catalogue.supplies["pencil"].reorder_at == 9.0


def test_values_of_every_kind(tmp_path: Path) -> None:
    catalogue = own(
        tmp_path,
        """
[family.alto_saxophone]
case_minutes = 60.0
omit = ["item.cap"]
[family.alto_saxophone.step.body_swab]
hands_min = 4.0
[family.alto_saxophone.step.body_air.wait]
min_minutes = 90.0
[family.violin.stringed.length_mm]
"3/4" = 305.0
[family.violin.check.fine_tuner.bands]
green_from = 4.5
[material.abs.may]
alcohol = "no"
[limits]
room_c = 18.0
[hours.open]
5 = [[9.0, 11.0]]
[place.tub]
capacity = 4
[recipe.mouthpiece_dip]
make_ml = 250.0
[agent.soap]
caution = "Ours is strong."
""",
    )
    assert [p.happened for p in catalogue.problems] == []
    sax, violin = catalogue.families["alto_saxophone"], catalogue.families["violin"]
    assert sax.case_minutes == 60.0 and "cap" not in {i.key for i in sax.item}
    swab = next(s for s in sax.step if s.key == "body_swab")
    assert (swab.hands_min, swab.mark, swab.source) == (4.0, "S", "the shop's own value")
    steps = {s.key: s for s in build(catalogue, imagine(catalogue, sax))}
    assert steps["body_air"].wait is not None and steps["body_air"].wait.min_minutes == 90.0
    assert "cap_off" not in [m.key for m in steps["apart"].moves]  # hired without: nothing to take off
    assert violin.stringed is not None and violin.stringed.length_mm["3/4"] == 305.0
    assert violin.stringed.length_mm["4/4"] == 328.0 and violin.stringed.mark == "S"
    bands = violin.find_check("fine_tuner").bands
    assert bands is not None and (bands.green_from, bands.amber_from) == (4.5, 2.0)
    assert catalogue.materials["abs"].may["alcohol"] == "no" and catalogue.house.limits.room_c == 18.0
    assert catalogue.house.hours.open["5"] == ((9.0, 11.0),) and len(catalogue.house.hours.open) == 6
    assert next(p for p in catalogue.house.place if p.key == "tub").capacity == 4
    assert catalogue.house.recipe[0].make_ml == 250.0 and catalogue.agents["soap"].caution == "Ours is strong."
    untouched = next(s for s in shipped().families["alto_saxophone"].step if s.key == "body_swab")
    assert untouched.hands_min == 1.0


@pytest.mark.parametrize(
    ("text", "line", "match"),
    [
        ("[family.violin.check.fine_tuner]\nbands = { amber_from = 9.0 }\n", 2, "contain the green"),
        ("\n[family.kazoo]\ncase_minutes = 1.0\n", 2, "does not exist"),
        ("[family.violin.step.polish]\nhands_min = 1.0\n", 1, "does not exist"),
        ("[family.violin.step.look]\nhands_min = -1.0\n", 2, "greater than 0"),
        ("[family.violin]\ncolour = 'brown'\n", 2, "not known"),
        ("[family.violin]\nomit = ['item.gong']\n", 2, "omit"),
        ("[limits]\nroom_c = 'warm'\n", 2, "valid number"),
        ("[weather]\nx = { y = 1 }\n", 1, "not known"),
        ("[supply]\npencil = 3\n", 2, "not a table"),
        ("[family.trumpet.step.bath]\nalso = ['hot_water']\n", 1, "Hot water lifts"),
        ("[material.abs.may]\nperoxide = 'no'\n", 1, "brings peroxide"),
        ("[family.violin.step.look]\nafter = ['pack']\n", 1, "circle"),
        ("[family.violin.step\n", 1, "overrides.toml"),
    ],
)  # fmt: skip
def test_a_wrong_value_is_refused_by_its_line(tmp_path: Path, text: str, line: int, match: str) -> None:
    catalogue = own(tmp_path, text)
    assert len(catalogue.problems) == 1
    problem = catalogue.problems[0]
    assert problem.fields["file"] == "overrides.toml" and problem.fields["line"] == line
    assert match in problem.happened and ".." not in problem.happened
    assert catalogue.families == shipped().families


def test_each_table_stands_for_itself(tmp_path: Path) -> None:
    good = "[family.violin.step.look]\nhands_min = 7.0\n"
    good += "[family.violin.step.pack]\nhands_min = 'x'\n[limits]\nroom_c = 19.0\n"
    catalogue = own(tmp_path, good)
    assert len(catalogue.problems) == 1 and catalogue.house.limits.room_c == 19.0
    assert next(s for s in catalogue.families["violin"].step if s.key == "look").hands_min == 7.0


def test_an_older_file_of_the_shop_calls_policies_schools() -> None:
    """What older shops wrote is understood as it was meant."""
    now = (
        '[[family.step]]\nkey = "wipe"\npolicy = "cleaning_cloth"\nreason = "{policy_reason}, for a school"\n'
        'when = ["policy.cleaning_cloth is dry", "renter is same"]\nhands_min = 2.0\nhands_per = {policy = 0.8}\n'
    )
    older = now.replace("policy", "school")
    assert read_text(Path("own.toml"), older) == read_text(Path("own.toml"), now)
