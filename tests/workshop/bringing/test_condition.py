"""Marks as people write them into a list, and how a list brings them with a hire."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.catalogue.load import shipped
from creekbed.core.errors import BadInput
from creekbed.interchange.tables import read_table
from creekbed.store.records import Hire
from creekbed.workshop.bringing.bring import bring, prepare
from creekbed.workshop.bringing.condition import marks_in
from creekbed.workshop.bringing.rows import ListRequest
from creekbed.workshop.shop.shop import Shop

VIOLIN = shipped().families["violin"]


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("scratch top 12 mm", [("top", "scratch", 12.0)]),
        ("Dents in the back; crack, ribs", None),
        ("dent back, 3/8 in", [("back", "dent", 9.5)]),
        ("open seam ribs", [("ribs", "open seam", None)]),
        ("worn varnish on the neck and fingerboard", [("neck and fingerboard", "wear of finish", None)]),
        ("scratched back 2,5cm; ding on the scroll and pegs",
         [("back", "scratch", 25.0), ("scroll and pegs", "dent", None)]),
        ("ok", []), ("", []), ("like new", []),
    ],
)  # fmt: skip
def test_words_of_lists(text: str, expected: list[tuple[str, str, float | None]] | None) -> None:
    if expected is None:
        with pytest.raises(BadInput):
            marks_in(text, VIOLIN)
        return
    assert [(m["zone"], m["kind"], m["size_mm"]) for m in marks_in(text, VIOLIN)] == expected


@pytest.mark.parametrize(("text", "said"), [("scratch", "Where is"), ("played a lot on the top", "names no mark")])
def test_what_is_not_understood_is_said(text: str, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        marks_in(text, VIOLIN)


@given(st.text(max_size=60))
def test_any_text_is_read_or_refused(text: str) -> None:
    try:
        marks = marks_in(text, VIOLIN)
    except BadInput:
        return
    assert all(m["zone"] in VIOLIN.zones for m in marks)


def _bring(shop: Shop, text: str) -> list[str]:
    columns = {"tag": "Tag", "what": "What", "renter": "Out with", "condition": "Condition"}
    made = prepare(shop, read_table(text.encode()), ListRequest("instruments", columns), lambda share: True)
    states = [p.state for p in made.rows]
    if "problem" not in states and made.to_write:
        bring(shop, made)
    return states


def test_a_list_brings_them_with_the_hire_and_changes_only_what_changed(shop: Shop) -> None:
    head = "Tag,What,Out with,Condition\n"
    text = head + "VLN-1,violin,R-1,scratch top 12 mm\nVLN-2,violin,,\n"
    assert _bring(shop, text) == ["new", "new"]
    with shop.reading() as records:
        (hire,) = records.all_of(Hire, tag="VLN-1")
    assert hire.condition_out == [{"zone": "top", "kind": "scratch", "size_mm": 12.0}]
    assert _bring(shop, text) == ["same", "same"]
    assert _bring(shop, text.replace("12 mm", "15 mm")) == ["changed", "same"]
    with shop.reading() as records:
        (hire,) = records.all_of(Hire, tag="VLN-1")
    assert hire.condition_out == [{"zone": "top", "kind": "scratch", "size_mm": 15.0}]
    assert _bring(shop, head + "VLN-3,violin,,dent top\n") == ["problem"]
    assert _bring(shop, head + "VLN-3,violin,R-3,dent\n") == ["problem"]
