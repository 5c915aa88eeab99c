"""Lists brought from files: understood row by row, taken over at once or not at all, brought again without harm."""

from __future__ import annotations

import random
from collections.abc import Mapping
from datetime import date
from typing import Any

import pytest

from creekbed.core.errors import BadInput, CreekbedError, Refused
from creekbed.interchange.tables import Table, read_table
from creekbed.store.records import Hire, Instrument, JournalEntry, Lot, OwnName, Person, Setting
from creekbed.workshop.arrival import intake
from creekbed.workshop.bringing.bring import bring, prepare, recogniser
from creekbed.workshop.bringing.columns import KINDS, fields_of, guess, remembered
from creekbed.workshop.bringing.rows import Bringing, ListRequest, RowPlan
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies.stock import stock_list
from tests.conftest import Hand

GERMAN = """Inventar-Nr.;Instrument;Größe;Seriennr.;Kaufdatum;Kaufpreis;Schule;vermietet seit
V-012;Geige;1/2;A 4471;03.09.2021;349,00 €;Hill school;01.09.2026
V-013;Geige;3/4;A 4472;03.09.2021;1.349,50;;
B-001;Bratsche;15 in;;14.01.2020;;;
S-07;Sax;;X9;;;Hill school;02.09.2026
"""
PLAIN = """asset,what,serial
1047,Trumpet,T-9
A.17,"Horn, double F/Bb",
"""


def table_of(text: str, encoding: str = "utf-8") -> Table:
    return read_table(text.encode(encoding))


def of(shop: Shop, text: str, kind: Any = "instruments", **more: Any) -> Bringing:
    table = table_of(text)
    return prepare(shop, table, ListRequest(kind, guess(table, kind, recogniser(shop)), **more))


def row(found: Bringing, key: str) -> RowPlan:
    return next(r for r in found.rows if r.key == key)


def every(shop: Shop, kind: Any) -> dict[Any, Any]:
    with shop.reading() as records:
        return {getattr(r, "tag", None) or getattr(r, "initials", None) or r.id: r for r in records.all_of(kind)}


def entries(shop: Shop) -> int:
    with shop.reading() as records:
        return records.count(JournalEntry)


# --- columns ----------------------------------------------------------------------------------------------------------


def test_columns_are_guessed_by_heading_and_content(shop: Shop) -> None:
    assert guess(table_of(GERMAN), "instruments", recogniser(shop)) == {
        "tag": "Inventar-Nr.", "what": "Instrument", "size": "Größe", "serial": "Seriennr.", "bought_on": "Kaufdatum",
        "cost": "Kaufpreis", "group": "Schule", "out_on": "vermietet seit",
    }  # fmt: skip
    nameless = table_of("a,b,c\nV-1,Violin 1/2,12\nV-2,Cello,9\nV-3,Viola,7\n")
    assert guess(nameless, "instruments", recogniser(shop)) == {"tag": "a", "what": "b"}
    supplies = table_of("Article,On hand,Batch,Use by\nCork grease,12,L1,2027-05-01\n")
    assert guess(supplies, "supplies", recogniser(shop)) == {
        "item": "Article", "amount": "On hand", "lot": "Batch", "discard_on": "Use by",
    }  # fmt: skip


def test_a_heading_that_the_content_contradicts_loses(shop: Shop) -> None:
    table = table_of("Number,Type,Inventory\n1,Violin,V-1\n2,Cello,V-2\n")
    assert guess(table, "instruments", recogniser(shop))["tag"] == "Inventory"


def test_no_column_is_two_fields(shop: Shop) -> None:
    for text in (GERMAN, PLAIN, "id,id,name\n1,2,Violin\n"):
        for kind in KINDS:
            found = guess(table_of(text), kind, recogniser(shop))
            assert len(set(found.values())) == len(found) and set(found) <= set(fields_of(kind))


def test_the_choice_is_remembered_for_files_with_the_same_headings(shop: Shop) -> None:
    table = table_of(PLAIN)
    chosen = {"tag": "asset", "what": "what"}
    bring(shop, prepare(shop, table, ListRequest("instruments", chosen)))
    assert remembered(shop, table_of(PLAIN + "1048,Tuba,\n"), "instruments") == chosen
    assert remembered(shop, table, "supplies") == {} and remembered(shop, table_of(GERMAN), "instruments") == {}


# --- instruments ------------------------------------------------------------------------------------------------------


def test_a_list_with_everything(shop: Shop) -> None:
    found = of(shop, GERMAN, families={"Sax": ("alto_saxophone", "")})
    assert [r.state for r in found.rows] == ["new"] * 4 and found.asks == ()
    before = entries(shop)
    assert bring(shop, found) == 4 and entries(shop) == before + 1
    there, hires = every(shop, Instrument), every(shop, Hire)
    violin = there["V-012"]
    assert (violin.family, violin.size, violin.serial) == ("violin", "1/2", "A 4471")
    assert (violin.bought_on, violin.cost) == ("2021-09-03", 349.0) and there["V-013"].cost == 1349.5
    assert there["B-001"].size == "15 in" and set(hires) == {"V-012", "S-07"}
    assert hires["V-012"].renter == hires["V-012"].group_name == "Hill school"
    assert hires["V-012"].out_at.astimezone().date() == date(2026, 9, 1)
    assert shop.last_done is not None and "4 new, 0 changed" in shop.last_done.words
    shop.undo()
    assert every(shop, Instrument) == {} and every(shop, Hire) == {} and every(shop, OwnName) == {}


def test_what_the_list_does_not_say_is_not_known(shop: Shop) -> None:
    """A material that nobody named bears nothing but a dry cloth until somebody looks; it is never made up."""
    found = of(shop, GERMAN, families={"Sax": ("alto_saxophone", "")})
    assert dict(found.unsaid) == {"alto_saxophone.mouthpiece": 1}
    assert row(found, "S-07").values["materials"]["mouthpiece"].startswith("unknown")
    told = of(
        shop, GERMAN, families={"Sax": ("alto_saxophone", "")},
        made_of={"alto_saxophone.mouthpiece": "hard_rubber"},
    )  # fmt: skip
    assert row(told, "S-07").values["materials"] == {"mouthpiece": "hard_rubber"}
    named = of(shop, "Tag,What,Material\nC-1,Clarinet,wood\nC-2,Flute,solid silver\nC-3,Flute,silver\n")
    assert row(named, "C-1").values["materials"]["upper"] == "wood_bore"
    assert row(named, "C-2").values["materials"]["body"] == "silver"
    assert row(named, "C-3").values["materials"]["body"].startswith("unknown"), "plate or solid: not said"


def test_words_that_can_be_several_are_asked_once(shop: Shop) -> None:
    text = "Tag,What\nS-1,Sax\nS-2,Sax\nS-3,Kazoo\nS-4,Violin\n"
    found = of(shop, text)
    assert [(a.words, a.rows) for a in found.asks] == [("Sax", 2), ("Kazoo", 1)]
    assert "alto_saxophone" in found.asks[0].candidates and found.asks[1].candidates == ()
    with pytest.raises(Refused, match="3 rows cannot be brought"):
        bring(shop, found)
    assert every(shop, Instrument) == {}
    answered = of(shop, text, families={"Sax": ("tenor_saxophone", "tenor")})
    assert bring(shop, answered, leave_out=True) == 3
    assert every(shop, Instrument)["S-2"].family == "tenor_saxophone"
    assert of(shop, "Tag,What\nS-9,SAX\n").rows[0].state == "new"  # known from now on


def test_every_problem_is_told_in_its_row(shop: Shop, hand: Hand) -> None:
    hand.book("MH-0142")
    text = """Tag,What,Size,Cost,Bought,Renter,Out
,Violin,,,,,
V 1!,Violin,,,,,
V-2,Cello,7/8,,,,
V-3,Violin,,many,,,
V-4,Violin,,,31.02.2021,,
V-5,Violin,,,2030-01-01,,
V-6,,,,,,
V-7,Violin,,,,,2026-09-01
MH-0142,Alto sax,,,,R-1,
V-8,Violin,,,,,
V-8,Violin,,,,,
"""
    found = of(shop, text)
    words = {r.line: r.words for r in found.rows}
    for line, told in {
        2: "tag is empty", 3: "not a tag", 4: "size 7/8", 5: "no number", 6: "no date", 7: "not come yet",
        8: "not said what", 9: "with whom", 10: "on the bench", 12: "line 11 already",
    }.items():  # fmt: skip
        assert told in words[line], (line, words[line])
    assert [r.line for r in found.rows if r.state != "problem"] == [11]
    assert all(p.words for r in found.rows for p in r.problems)


def test_the_same_list_again_changes_nothing_and_a_changed_one_only_that(shop: Shop) -> None:
    answer = {"Sax": ("alto_saxophone", "")}
    bring(shop, of(shop, GERMAN, families=answer))
    again = of(shop, GERMAN)
    assert {r.state for r in again.rows} == {"same"}
    with pytest.raises(Refused, match="on record already"):
        bring(shop, again)
    before = every(shop, Instrument)
    changed = of(shop, GERMAN.replace("A 4471", "A 4479").replace("02.09.2026", "05.09.2026"))
    assert [(r.key, r.state) for r in changed.rows if r.state != "same"] == [("V-012", "changed"), ("S-07", "changed")]
    assert "serial number" in row(changed, "V-012").words and "out since" in row(changed, "S-07").words
    bring(shop, changed)
    after = every(shop, Instrument)
    assert after["V-012"].serial == "A 4479" and after["V-013"] == before["V-013"]
    assert every(shop, Hire)["S-07"].out_at.astimezone().date() == date(2026, 9, 5)
    empty = of(shop, "Tag;Instrument;Serial\nV-012;Geige;\n")
    assert row(empty, "V-012").state == "same", "an empty cell takes nothing away"


def test_what_contradicts_the_records_is_a_problem(shop: Shop) -> None:
    bring(shop, of(shop, "Tag,What,Renter\nV-1,Violin,R-1\n"))
    assert "is out with R-1" in of(shop, "Tag,What,Renter\nV-1,Violin,R-2\n").rows[0].words
    assert "is a violin here" in of(shop, "Tag,What\nV-1,Viola\n").rows[0].words
    assert of(shop, "Tag,What,Renter\nV-1,Violin,R-1\n").rows[0].state == "same"


def test_somebody_is_quicker(shop: Shop, clock: HandClock) -> None:
    found = of(shop, PLAIN)
    intake.book_in(shop, "1047", family="trumpet")
    before = entries(shop)
    with pytest.raises(BadInput, match="changed meanwhile"):
        bring(shop, found)
    assert entries(shop) == before and "A.17" not in every(shop, Instrument)
    bring(shop, of(shop, "Tag,What\nV-1,Violin\n"))
    changed = of(shop, "Tag,What,Serial\nV-1,Violin,S1\n")
    bring(shop, of(shop, "Tag,What,Serial\nV-1,Violin,S2\n"))
    bring(shop, changed)  # read within the transaction: the newest row is changed
    assert every(shop, Instrument)["V-1"].serial == "S1"


def test_tags_as_shops_have_them(shop: Shop) -> None:
    bring(shop, of(shop, PLAIN))
    assert set(every(shop, Instrument)) == {"1047", "A.17"}
    for tag in ("1047", "A.17", "VLN-034/2", "X1"):
        assert intake.clean_tag(tag) == tag
    for wrong in ("", "VIOLIN", "4006381333931", "12345678", "a b1", "A--1", "-1", "A1" * 9, "'; DROP1"):
        with pytest.raises(BadInput):
            intake.clean_tag(wrong)


def test_given_up_in_the_middle(shop: Shop) -> None:
    table = table_of("Tag,What\n" + "".join(f"V-{n:04d},Violin\n" for n in range(1000)))
    seen: list[float] = []

    def progress(share: float) -> bool:
        seen.append(share)
        return share < 0.5

    with pytest.raises(BadInput, match="Given up"):
        prepare(shop, table, ListRequest("instruments", {"tag": "Tag", "what": "What"}), progress)
    assert seen == sorted(seen) and 0.4 < seen[-1] < 0.7


@pytest.mark.parametrize(
    "columns",
    [{}, {"tag": "Tag"}, {"what": "What"}, {"tag": "Tag", "what": "Nothing"}, {"tag": "Tag", "colour": "What"}],
)
def test_columns_that_are_not_enough(shop: Shop, columns: Mapping[str, str]) -> None:
    with pytest.raises(BadInput):
        prepare(shop, table_of("Tag,What\nV-1,Violin\n"), ListRequest("instruments", columns))


def test_many_at_once_and_all_back(shop: Shop) -> None:
    lines = [f"V-{n:04d},{'Violin' if n % 2 else 'Cello'},{'R-' + str(n) if n % 3 == 0 else ''}" for n in range(1500)]
    found = of(shop, "Tag,What,Renter\n" + "\n".join(lines))
    assert bring(shop, found) == 1500
    assert len(every(shop, Instrument)) == 1500 and len(every(shop, Hire)) == 500
    shop.undo()
    assert every(shop, Instrument) == {}


# --- supplies and people ----------------------------------------------------------------------------------------------


def test_supplies_are_set_to_what_the_list_says(shop: Shop) -> None:
    text = "Item;Menge;Lot;Use by\nCork grease, tube;12,5;;\nPad papers;40;P-2;01.05.2027\n"
    found = of(shop, text, "supplies")
    assert [r.state for r in found.rows] == ["changed", "new"]
    bring(shop, found)
    amounts = {v.supply.key: v.amount for v in stock_list(shop)}
    assert amounts["cork_grease_tube"] == 12.5
    lot = next(x for x in every(shop, Lot).values() if x.lot == "P-2")
    assert lot.amount == 40 and lot.discard_at.astimezone().date() in (date(2027, 5, 1), date(2027, 5, 2))
    assert of(shop, text, "supplies").rows[0].state == "same"
    wrong = of(shop, "Item,Count\nCork greese,1\nUnobtainium,2\nPad papers,\nPad papers,-4\nPad papers,3\n", "supplies")
    words = [r.words for r in wrong.rows]
    assert "Is it “" in words[0] and "no supply" in words[1] and "how many" in words[2] and "0 or more" in words[3]
    bottle = of(shop, "Item,Count\nperoxide 6 ml,500\n", "supplies")
    assert "strength" in bottle.rows[0].words, "a bottle without its strength would be mixed wrongly"


def test_people(shop: Shop) -> None:
    text = "Initials,Hours,Helper\nAB,9-13,no\nto,13-17,yes\n"
    found = of(shop, text, "people")
    bring(shop, found)
    there = every(shop, Person)
    assert there["TO"].helper and (there["AB"].from_hour, there["AB"].to_hour) == (9.0, 13.0)
    assert {r.state for r in of(shop, text, "people").rows} == {"same"}
    words = [
        r.words
        for r in of(shop, "Initials,Hours,Helper\nAnna Berg,,\nAB,later,\nCD,,maybe\nEF,,\nEF,,\n", "people").rows
    ]
    assert "no initials" in words[0] and "no hours" in words[1] and "yes or no" in words[2] and "already" in words[4]


def test_a_name_is_never_taken_for_initials(shop: Shop) -> None:
    """Renters and colleagues stay codes: a whole name is refused."""
    assert of(shop, "Initials\nBerg\nBergström\n", "people").rows[1].state == "problem"


# --- files of all sorts -----------------------------------------------------------------------------------------------


def test_two_hundred_mutated_lists_are_read_or_refused_and_nothing_is_half_in(shop: Shop) -> None:
    chance = random.Random(4)
    wholes = [GERMAN.encode(), GERMAN.encode("utf-16"), PLAIN.encode()]
    brought = 0
    for n in range(200):
        data = bytearray(wholes[n % 3])
        for _ in range(chance.randint(1, 4)):
            at = chance.randrange(len(data))
            data[at : at + chance.randint(0, 3)] = bytes(chance.randrange(256) for _ in range(chance.randint(0, 3)))
        before = entries(shop)
        try:
            table = read_table(bytes(data))
            found = prepare(shop, table, ListRequest("instruments", guess(table, "instruments", recogniser(shop))))
            bring(shop, found, leave_out=True)
        except CreekbedError as error:
            assert error.happened and entries(shop) == before
            continue
        brought += 1
        assert entries(shop) == before + 1
        there = every(shop, Instrument)
        assert all(r.key in there for r in found.to_write)
        shop.undo()
    assert brought > 20 and every(shop, Instrument) == {} and every(shop, Setting) == {}
