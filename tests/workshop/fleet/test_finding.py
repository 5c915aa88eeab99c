"""One search for everything."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from creekbed.cli.main import main
from creekbed.store.records import Hire, Instrument
from creekbed.workshop.arrival.scan import understand
from creekbed.workshop.fleet.finding import PAGES, find
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.shop import Shop
from tests.conftest import MORNING, Hand


def make(shop: Shop, tag: str, family: str, serial: str = "", **hire: Any) -> None:
    with shop.act("made") as act:
        act.records.add(Instrument(tag=tag, family=family, size="", serial=serial, created_at=MORNING))
        if hire:
            act.records.add(Hire(tag=tag, out_at=MORNING, **hire))


@pytest.fixture
def stocked_fleet(shop: Shop, hand: Hand) -> Shop:
    make(shop, "VLN-034", "violin", "88-1234_X", renter="R-17", group_name="Mill Lane strings")
    make(shop, "VLN-035", "violin", "88-1235")
    make(shop, "1047", "b_flat_clarinet" if "b_flat_clarinet" in shop.catalogue.families else "clarinet", "100%")
    hand.book("MH-0142", next_group="Harbour winds")
    return shop


@pytest.mark.parametrize(
    ("text", "first"),
    [
        ("VLN-034", ("instrument", "VLN-034")), ("vln034", ("instrument", "VLN-034")), ("1047", ("instrument", "1047")),
        ("88-1235", ("instrument", "VLN-035")), ("mh142", None), ("MH-0142", ("job", "MH-0142")),
        ("harbour", ("job", "MH-0142")), ("mill strings", ("instrument", "VLN-034")),
        ("r-17", ("instrument", "VLN-034")),
        ("pad paper", ("supply", "pad_paper")), ("storage room", ("page", "room")), ("xyzzy", None), ("   ", None),
    ],
)  # fmt: skip
def test_what_people_type_finds_what_they_mean(stocked_fleet: Shop, text: str, first: tuple[str, str] | None) -> None:
    found = find(stocked_fleet, text)
    assert ((found[0].kind, found[0].key) if found else None) == first


def test_every_kind_of_thing_is_found(stocked_fleet: Shop) -> None:
    staff.add_worker(stocked_fleet, "AB")
    kinds = {f.kind for text in ("violin", "mill lane", "swab", "ab", "cork grease", "neck swab", "MH-0142", "bath")
             for f in find(stocked_fleet, text)}  # fmt: skip
    assert kinds == {"job", "instrument", "group", "family", "supply", "person", "rule", "step", "reference", "page"}
    (violin,) = [f for f in find(stocked_fleet, "violin") if f.kind == "family" and f.key == "violin"]
    assert violin.title == stocked_fleet.catalogue.families["violin"].name


def test_a_hire_is_told_with_its_date(stocked_fleet: Shop) -> None:
    assert find(stocked_fleet, "VLN-034")[0].words == "with R-17 since 19 Nov 2026, serial 88-1234_X"


def test_signs_of_a_pattern_are_only_signs(stocked_fleet: Shop) -> None:
    assert [f.key for f in find(stocked_fleet, "100%") if f.kind == "instrument"] == ["1047"]
    assert [f.key for f in find(stocked_fleet, "_X") if f.kind == "instrument"] == ["VLN-034"]
    assert not [f for f in find(stocked_fleet, "%") if f.key == "VLN-034"]


@given(st.text(max_size=30))
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=40)
def test_whatever_is_typed_is_only_looked_for(stocked_fleet: Shop, text: str) -> None:
    found = find(stocked_fleet, text)
    assert len(found) < 120 and all(f.title for f in found)


def test_a_scanned_serial_leads_to_its_instrument(stocked_fleet: Shop) -> None:
    assert understand(stocked_fleet, "88-1235").key == "VLN-035"
    make(stocked_fleet, "VLN-036", "violin", "88-1235")  # two makers may number alike: then it is no answer
    assert understand(stocked_fleet, "88-1235").kind == "new"


def test_no_more_statements_than_a_key_may_cost(stocked_fleet: Shop) -> None:
    asked: list[str] = []
    from sqlalchemy import event

    event.listen(stocked_fleet.store.engine, "before_cursor_execute", lambda *a: asked.append(a[2]))
    find(stocked_fleet, "violin")
    assert len([x for x in asked if x.startswith("SELECT")]) <= 12


def test_every_page_that_can_be_found_is_one() -> None:
    from creekbed.window.frame.frame import PAGES as WINDOW

    assert {key for key in PAGES if not key.startswith("this_")} <= set(WINDOW)


def test_the_shell_finds_too(stocked_fleet: Shop, capsys: Any) -> None:
    assert main(["--folder", str(stocked_fleet.folder), "find", "mill", "lane"]) == 0
    assert "VLN-034" in capsys.readouterr().out
    assert main(["--folder", str(stocked_fleet.folder), "find", "xyzzy", "--json"]) == 0
    assert '"found": []' in capsys.readouterr().out
