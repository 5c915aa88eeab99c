"""Marks out and in, fair wear, and the draft of a bill. The rules are house defaults."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.catalogue.load import shipped
from creekbed.core.errors import BadInput
from creekbed.core.inspection.marks import MarkSeen, charged, compare_marks, is_fair
from creekbed.workshop.arrival import intake
from creekbed.workshop.arrival.condition_marks import add_mark, mark_repaired
from creekbed.workshop.inspection import history
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import Hand

RULES = shipped().house.fair_wear


@pytest.mark.parametrize(
    ("out", "came_in", "status"),
    [
        (None, MarkSeen("bell", "dent", 5.0), "new"),
        (MarkSeen("bell", "dent", 5.0), MarkSeen("bell", "dent", 5.0), "unchanged"),
        (MarkSeen("bell", "dent", 5.0), MarkSeen("bell", "dent", 6.0), "unchanged"),
        (MarkSeen("bell", "dent", 5.0), MarkSeen("bell", "dent", 6.1), "grown"),
        (MarkSeen("bell", "dent", 5.0), MarkSeen("bell", "dent", None), "unchanged"),
        (MarkSeen("bell", "dent", 5.0), MarkSeen("bell", "dent", None, repaired=True), "repaired"),
        (MarkSeen("bell", "dent", 5.0), None, "unseen"),
    ],
)
def test_one_mark(out: MarkSeen | None, came_in: MarkSeen | None, status: str) -> None:
    (row,) = compare_marks([out] if out else [], [came_in] if came_in else [])
    assert row.status == status


MARKS = st.lists(
    st.builds(
        MarkSeen, st.sampled_from(["bell", "neck"]), st.sampled_from(["dent", "scratch"]),
        st.one_of(st.none(), st.floats(0.5, 50)),
    ),
    max_size=6,
)  # fmt: skip


@given(MARKS, MARKS)
def test_no_mark_is_lost_or_told_twice(out: list[MarkSeen], came_in: list[MarkSeen]) -> None:
    rows = compare_marks(out, came_in)
    assert sorted(repr(r.out) for r in rows if r.out) == sorted(map(repr, out))
    assert [r.came_in for r in rows if r.came_in] == came_in
    assert all(r.out is None or r.came_in is None or r.out.zone == r.came_in.zone for r in rows)
    assert compare_marks(out, out) == [] if not out else all(r.status == "unchanged" for r in compare_marks(out, out))


def test_fair_wear_by_kind_size_and_zone() -> None:
    assert is_fair(RULES, MarkSeen("bell", "scratch", 25.0)) and not is_fair(RULES, MarkSeen("bell", "scratch", 26.0))
    assert is_fair(RULES, MarkSeen("bell", "dent", 2.0)) and not is_fair(RULES, MarkSeen("neck", "dent", 2.0))
    assert is_fair(RULES, MarkSeen("neck", "wear of finish")) and not is_fair(RULES, MarkSeen("neck", "scratch"))
    assert not is_fair(RULES, MarkSeen("neck", "crack", 1.0))


def test_the_bill_names_what_is_new_and_not_fair() -> None:
    rows = compare_marks(
        [MarkSeen("bell", "dent", 5.0), MarkSeen("neck", "crack", 4.0)],
        [MarkSeen("bell", "dent", 9.0), MarkSeen("neck", "crack", 4.0), MarkSeen("bow", "scratch", 8.0)],
    )
    assert charged(RULES, rows) == ["bell: dent, 9 mm, was 5 mm"]


def test_marks_of_a_job_and_its_bill(shop: Shop, hand: Hand, hired: object) -> None:
    old = [{"zone": "bell", "kind": "dent", "size_mm": 5.0}, {"zone": "neck", "kind": "scratch", "size_mm": 9.0}]
    hired("MH-0150", condition=old)  # type: ignore[operator]
    job = hand.book("MH-0150")
    add_mark(shop, job, "bell", "dent", 9.0)
    mark_repaired(shop, job, "neck", "scratch")
    intake.tick_item(shop, job, "strap", "missing")
    assert [(r.zone, r.status) for r in history.marks_of(hand.view(job))] == [("bell", "grown"), ("neck", "repaired")]
    lines = history.bill_draft(shop, hand.view(job))
    assert [x.what for x in lines] == ["neck strap: missing", "bell: dent, 9 mm, was 5 mm"]
    assert "Together" not in history.bill_said(lines)
    stock.set_price(shop, "strap_sax", 12.5)
    said = history.bill_said(history.bill_draft(shop, hand.view(job)))
    assert "neck strap: missing, 12.50" in said and "Together 12.50, and 1 without a price yet." in said
    with pytest.raises(BadInput, match="0 or more"):
        stock.set_price(shop, "strap_sax", -1.0)
    assert shop.undo().words == "Undone: Price of Neck strap, saxophone: 12.50"
    shop.undo()
    assert [x.what for x in history.bill_draft(shop, hand.view(job))] == ["bell: dent, 9 mm, was 5 mm"]
