"""The fleet: where everything is, hiring out what is ready, resting, retiring, and the sheet that is signed."""

from __future__ import annotations

import io
from datetime import date, timedelta
from typing import Any

import pypdfium2
import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.papers.hire_sheet import hire_pdf
from creekbed.papers.label_sheet import LABEL_SIZES, label_sheets
from creekbed.store.records import Hire, Instrument
from creekbed.workshop.arrival import intake
from creekbed.workshop.arrival.book_many import book_in_many
from creekbed.workshop.arrival.condition_marks import add_mark
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.bench.job_view import load_job
from creekbed.workshop.fleet.fleet import PLACES, FleetRow, fleet
from creekbed.workshop.fleet.hiring import HireTerms, hire_facts, hire_out, set_standing
from creekbed.workshop.fleet.instrument_details import details_of, set_details
from creekbed.workshop.inspection.history import history
from creekbed.workshop.release import release_check
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand

DUE = date(2027, 6, 30)


def row(shop: Shop, tag: str = "MH-0142") -> FleetRow:
    return next(r for r in fleet(shop) if r.tag == tag)


def ready(hand: Hand, tag: str = "MH-0142", **more: Any) -> int:
    job = hand.book(tag, **more)
    intake.tick_rest(hand.shop, job)
    hand.until(job, "pack")
    release_check.make_ready(hand.shop, job)
    return job


def test_every_place_that_an_instrument_can_be_in(shop: Shop, hand: Hand, clock: HandClock) -> None:
    assert fleet(shop) == []
    job = ready(hand)
    assert (row(shop).place, row(shop).job_id) == ("ready", job) and "Friday boat" in row(shop).next
    (number,) = hire_out(shop, ["mh-0142"], HireTerms("R-081", "Hill school", DUE))
    found = row(shop)
    assert (found.place, found.due_on, found.group) == ("hired", DUE, "Hill school")
    assert "with R-081 since 19 Nov 2026" in found.where or "with R-081" in found.where
    assert found.next == "back by 30 Jun 2027" and not found.due(clock.now().date())
    assert found.due(DUE - timedelta(days=10)) and number
    clock.advance(minutes=230 * 24 * 60)
    assert row(shop).next == "overdue since 30 Jun 2027"
    again = intake.book_in(shop, "MH-0142")
    assert row(shop).place == "bench" and row(shop).next == "no departure set"
    intake.set_quarantine(shop, again, "mould")
    assert row(shop).where == "Quarantine: mould"
    assert set(PLACES) >= {row(shop).place}


def test_what_goes_out_is_kept_and_compared_when_it_is_back(shop: Shop, hand: Hand, clock: HandClock) -> None:
    """A whole circle: from the door to the tag, out, back, and the condition of then beside the one of now."""
    job = hand.book()
    intake.tick_rest(shop, job)
    add_mark(shop, job, "bell", "dent", 6.0)
    hand.until(job, "pack")
    facts = release_check.make_ready(shop, job)
    (number,) = hire_out(shop, ["MH-0142"], HireTerms("R-081"))
    with shop.reading() as records:
        hire = records.get(Hire, number)
        gone = records.jobs.here_of("MH-0142")
    assert hire is not None and gone is None
    assert set(hire.contents_out) == {i.key for i in hand.shop.catalogue.family("alto_saxophone").item}
    assert [r for r in hire.condition_out if "check" in r] == facts["condition"]
    assert {"zone": "bell", "kind": "dent", "size_mm": 6.0} in hire.condition_out
    clock.advance(minutes=100 * 24 * 60)
    back = intake.book_in(shop, "MH-0142")
    hand.look(back)
    period = history(shop, "MH-0142").periods[0]
    compared = [c.status for c in period.compared]
    assert compared.count("unchanged") >= 5 and "grown" not in compared
    with shop.reading() as records:
        ended = records.get(Hire, number)
    assert ended is not None and ended.back_at is not None


def test_only_what_passed_the_release_check_goes_out(shop: Shop, hand: Hand) -> None:
    job = hand.book()
    with pytest.raises(Refused, match="on the bench still"):
        hire_out(shop, ["MH-0142"], HireTerms("R-1"))
    with pytest.raises(Refused, match="No instrument MH-9999"):
        hire_out(shop, ["MH-9999"], HireTerms("R-1"))
    shop.undo()
    ready(hand, "MH-0150")
    assert job
    for terms, words in (
        (HireTerms(""), "To whom"), (HireTerms("R-1", "", date(2020, 1, 1)), "due back"),
        (HireTerms("R-1", "", date(2040, 1, 1)), "due back"), (HireTerms("R" * 61), "characters"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=words):
            hire_out(shop, ["MH-0150"], terms)
    with pytest.raises(BadInput):
        hire_out(shop, [], HireTerms("R-1"))
    hire_out(shop, ["MH-0150"], HireTerms("", "Hill school"))
    with pytest.raises(Refused, match="out with Hill school already"):
        hire_out(shop, ["MH-0150"], HireTerms("R-2"))


def test_several_go_out_together_or_not_at_all(shop: Shop, hand: Hand) -> None:
    ready(hand, "MH-0142")
    ready(hand, "MH-0143")
    hand.book("MH-0144")
    with pytest.raises(Refused, match="MH-0144 is on the bench"):
        hire_out(shop, ["MH-0142", "MH-0143", "MH-0144"], HireTerms("", "Hill school"))
    assert {row(shop, t).place for t in ("MH-0142", "MH-0143")} == {"ready"}
    hire_out(shop, ["MH-0142", "MH-0143"], HireTerms("", "Hill school"))
    assert shop.last_done is not None and "2 instruments out with Hill school" in shop.last_done.words
    shop.undo()
    assert {row(shop, t).place for t in ("MH-0142", "MH-0143")} == {"ready"}


def test_what_went_out_counts_for_its_departure_and_not_for_the_bench(shop: Shop, hand: Hand) -> None:
    ready(hand)
    before = home(shop)
    (shipment,) = [x for x in before.shipments if x.items]
    assert shipment.will_make_it == 1 and next(s for s in before.stages if s.stage == "ready").count == 1
    hire_out(shop, ["MH-0142"], HireTerms("R-1"))
    after = home(shop)
    (shipment,) = [x for x in after.shipments if x.items]
    assert shipment.will_make_it == 1 and next(s for s in after.stages if s.stage == "ready").count == 0


def test_resting_and_retiring(shop: Shop, hand: Hand) -> None:
    ready(hand)
    set_standing(shop, ["MH-0142"], "resting", "no demand")
    assert row(shop).place == "ready"  # it may still go out
    hire_out(shop, ["MH-0142"], HireTerms("R-1"))
    with pytest.raises(Refused, match="is out"):
        set_standing(shop, ["MH-0142"], "retired", "old")
    back = intake.book_in(shop, "MH-0142")  # whoever books it in uses it again
    with shop.reading() as records:
        assert records.get(Instrument, "MH-0142").standing == ""
    with pytest.raises(Refused, match="on the bench"):
        set_standing(shop, ["MH-0142"], "retired", "old")
    shop.undo()
    assert back and row(shop).place == "hired"


def test_a_retired_instrument_is_not_booked_in_by_mistake(shop: Shop) -> None:
    with shop.act("test") as act:
        act.records.add(Instrument(tag="V-1", family="violin", size="4/4", created_at=shop.now))
    assert row(shop, "V-1").place == "here"
    with pytest.raises(BadInput, match="Why"):
        set_standing(shop, ["V-1"], "retired", "  ")
    set_standing(shop, ["V-1"], "retired", "red rot")
    assert (row(shop, "V-1").place, row(shop, "V-1").where) == ("retired", "red rot")
    with pytest.raises(Refused, match="retired: red rot"):
        intake.book_in(shop, "V-1")
    set_standing(shop, ["V-1"], "", "")
    assert row(shop, "V-1").place == "here" and intake.book_in(shop, "V-1")
    with pytest.raises(Refused):
        set_standing(shop, ["V-2"], "resting", "x")
    with pytest.raises(BadInput):
        set_standing(shop, [], "resting", "x")


def test_a_van_brings_twelve(shop: Shop, hand: Hand) -> None:
    tags = [f"V-{n}" for n in range(1, 13)]
    with shop.act("test") as act:
        for tag in tags:
            act.records.add(Instrument(tag=tag, family="violin", size="4/4", created_at=shop.now))
    assert [r.tag for r in fleet(shop)] == tags  # V-2 before V-10
    jobs = book_in_many(shop, tags, came_from="Hill school")
    assert len(set(jobs)) == 12 and all(hand.view(j).job.came_from == "Hill school" for j in jobs)
    shop.undo()
    assert {r.place for r in fleet(shop)} == {"here"}
    for wrong in ([], ["V-1", "V-99"]):
        with pytest.raises(BadInput):
            book_in_many(shop, wrong)
    intake.book_in(shop, "V-3")
    with pytest.raises(Refused, match="V-3 is booked in already"):
        book_in_many(shop, tags)
    assert sum(r.place == "bench" for r in fleet(shop)) == 1


# --- papers -----------------------------------------------------------------------------------------------------------


def text_of(pdf: bytes) -> str:
    document = pypdfium2.PdfDocument(pdf)
    return "\n".join(page.get_textpage().get_text_range() for page in document)


@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_the_sheet_says_what_went_out(shop: Shop, hand: Hand, paper: str) -> None:
    job = hand.book()
    intake.tick_rest(shop, job)
    add_mark(shop, job, "bell", "dent", 6.0)
    hand.until(job, "pack")
    release_check.make_ready(shop, job)
    hires = hire_out(shop, ["MH-0142"], HireTerms("R-081", "Hill school", DUE))
    words = text_of(hire_pdf([hire_facts(shop, n) for n in hires], paper))
    for told in (
        "MH-0142",
        "Alto saxophone",
        "R-081, Hill school",
        "back by 30 June 2027",
        "dent, 6 mm",
        "Neck-cork fit",
    ):
        assert told in words, told
    assert "Received" in words and "neck strap" in words
    with pytest.raises(Refused):
        hire_facts(shop, 999)


def test_every_label_of_a_sheet_is_read_back() -> None:
    """Printed to PDF, drawn at 200 dpi, read by an independent reader; a second sheet goes on from the first."""
    import zxingcpp

    rows = [{"tag": f"VLN-{n:03d}/2", "name": "Violin three-quarter with a long name & <signs>"} for n in range(70)]
    for key, size in LABEL_SIZES.items():
        each = size.columns * size.rows
        pdf = pypdfium2.PdfDocument(label_sheets(rows, key, skip=2))
        assert len(pdf) == -(-(70 + 2) // each)
        seen = []
        for page in pdf:
            assert page.get_size() == pytest.approx(size.paper, abs=1)
            seen += [b.text for b in zxingcpp.read_barcodes(page.render(scale=200 / 72).to_pil())]
        assert sorted(seen) == sorted(r["tag"] for r in rows), key
        assert size.left_mm + size.columns * size.width_mm <= size.paper[0] / 72 * 25.4 + 0.1
        assert size.top_mm + size.rows * size.height_mm <= size.paper[1] / 72 * 25.4 + 0.6


def test_labels_begin_where_a_used_sheet_ends() -> None:
    first = io.BytesIO(label_sheets([{"tag": "A1", "name": "x"}], skip=5)).getvalue()
    assert first != label_sheets([{"tag": "A1", "name": "x"}]) and first.startswith(b"%PDF")


def test_new_stock_is_commissioned_and_nothing_else_is(shop: Shop) -> None:
    with shop.act("made") as act:
        for tag in ("VLN-1", "VLN-2", "VLN-3"):
            act.records.add(Instrument(tag=tag, family="violin", size="4/4", created_at=shop.now))
        act.records.add(Hire(tag="VLN-3", renter="R-1", out_at=shop.now - timedelta(days=9), back_at=shop.now))
    assert {r.tag: r.unused for r in fleet(shop)} == {"VLN-1": True, "VLN-2": True, "VLN-3": False}
    with pytest.raises(Refused, match="VLN-3 has been here before"):
        book_in_many(shop, ["VLN-1", "VLN-3"], new=True)
    assert not any(r.job_id for r in fleet(shop)), "all or nothing"
    one, two = book_in_many(shop, ["VLN-1", "VLN-2"], new=True)
    with shop.reading() as records:
        view = load_job(records, shop.catalogue, shop.now, one)
    assert view is not None and any(s.step.key == "commission" for s in view.steps) and two != one
    shop.undo()
    assert all(r.unused for r in fleet(shop) if r.tag != "VLN-3")


def test_details_of_an_instrument(shop: Shop) -> None:
    with shop.act("made") as act:
        act.records.add(Instrument(tag="VLN-1", family="violin", size="4/4", created_at=shop.now))
    set_details(shop, "VLN-1", serial=" 88-12 ", bought_on=date(2024, 9, 3), cost=480.004)
    found = details_of(shop, "VLN-1")
    assert (found.serial, found.bought_on, found.cost, found.photos) == ("88-12", date(2024, 9, 3), 480.0, ())
    shop.undo()
    assert details_of(shop, "VLN-1").serial == ""
    for wrong in ({"bought_on": date(2030, 1, 1)}, {"cost": -1.0}, {"serial": "x" * 60}):
        with pytest.raises(BadInput):
            set_details(shop, "VLN-1", **({"serial": "", "bought_on": None, "cost": None} | wrong))
    with pytest.raises(Refused):
        details_of(shop, "VLN-9")
