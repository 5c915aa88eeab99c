"""The tools of the bench in the real window: what they compute, what they keep, where they open from."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pypdfium2
import pytest
import zxingcpp
from PySide6.QtWidgets import QLabel, QPushButton

from creekbed.demo.devices import DemoDevices
from creekbed.window.frame.frame import Frame
from creekbed.window.tools.base import TOOLS
from creekbed.workshop.cleaning import cloths, products, running_bath
from creekbed.workshop.shop import room_climate
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import Hand
from tests.window.conftest import Driver, opened


@pytest.fixture
def driver(drive: Callable[[str], Driver]) -> Driver:
    return drive("mouse")


@pytest.fixture
def devices() -> Iterator[DemoDevices]:
    with DemoDevices(pace_s=0.001) as found:
        yield found


def test_every_tool_from_the_row(driver: Driver) -> None:
    driver.press("way_mix")
    for key in TOOLS:
        driver.press(f"tool_{key}")
        assert driver.frame.here == key and driver.frame.ways["mix"].isChecked()
        page = driver.frame.page(key)
        ticked = [
            w.objectName()
            for w in page.findChildren(QPushButton)
            if w.objectName().startswith("tool_") and w.isChecked()
        ]
        assert ticked == [f"tool_{key}"]


# --- mix ------------------------------------------------------------------------------------------------------------


def put(shop: Shop, item: str, amount: float, strength: float, **more: Any) -> None:
    stock.book_in_stock(shop, item, amount, strength_pct=strength, **more)


def test_alcohol_shrinks_and_its_label_is_printed(driver: Driver, shop: Shop) -> None:
    """1000 ml of 96 % to 70 % v/v takes 408 ml of water, not 371 (alcoholometric tables); 250 ml take 182 of stock."""
    put(shop, "alcohol_96_ml", 700.0, 96.0, lot="AL-3")
    driver.frame.nav.open_tool("mix")
    page = driver.frame.page("mix")
    page.what.setCurrentIndex(page.what.findData("alcohol_wipe"))
    assert page.target.text() == "70 %" and "no flame" in page.caution.text()
    page.measure.setCurrentIndex(page.measure.findData("syringe"))
    assert page.plan.mix.stock_rounded_ml == 182.0 and "1 × 100 ml, 8 × 10 ml, 2 × 1 ml" in page.amounts.text()
    assert page.plan.water_ml == pytest.approx(182 * 408 / 1000, abs=1.0)
    assert "shrink" in page.result.text()
    driver.press("mix_made")
    mix = next(v for v in stock.stock_list(shop) if v.supply.key == "alcohol_70_ml")
    assert mix.amount == 250.0 and mix.lots[0].strength_pct == pytest.approx(96 * 182 / 250)
    path = next((shop.folder / "papers").glob("label-*.pdf"))
    assert oct(path.stat().st_mode & 0o777) == "0o600"
    page_ = pypdfium2.PdfDocument(path.read_bytes())[0]
    text = page_.get_textpage().get_text_range()
    assert "Alcohol" in text and "69.9 % v/v" in text and "Discard" in text and "Not for drinking" in text
    seen = zxingcpp.read_barcodes(page_.render(scale=4).to_pil())
    assert [code.text for code in seen] == ["SU-alcohol_70_ml"]


def test_parts_and_ppm_and_a_bottle_past_its_date(driver: Driver, shop: Shop) -> None:
    """1 + 1 of 6 % is 3 %; 30 000 ppm is 3 % (1 % w/v = 10 000 ppm)."""
    driver.frame.nav.open_tool("mix")
    page = driver.frame.page("mix")
    for text in ("1 + 1", "30000 ppm", "3 %"):
        page.target.setText(text)
        assert page.plan.mix.target_pct == pytest.approx(3.0), text
    page.target.setText("one + 9")
    assert "not a number" in page.then.text()
    page.target.setText("1:10")
    assert "1 + 9 or 1 + 10" in page.then.text() and page.plan is None
    assert "not opened yet" in page.bottle.text()
    driver.frame.nav.open_stock("bleach_5_ml")
    for key, text in (("amount", "100 ml"), ("strength", "5 %"), ("discard", "2020-01-01")):
        driver.type(f"stock_{key}", text)
    driver.press("stock_in")
    assert "past its date" in driver.frame.words.text()
    driver.type("stock_discard", "soon")
    driver.press("stock_in")
    assert "is no date" in driver.frame.words.text()
    driver.type("stock_discard", "2027-05-31")
    driver.press("stock_in")
    lot = max(next(v for v in stock.stock_list(shop) if v.supply.key == "bleach_5_ml").lots, key=lambda x: x.id)
    assert lot.discard_at is not None and lot.discard_at.year == 2027


def test_two_bottles_make_what_lies_between(driver: Driver, shop: Shop) -> None:
    """Alligation: 6 % and 2 % to 3 %: one part to three."""
    put(shop, "peroxide_3_ml", 600.0, 2.0)
    driver.frame.nav.open_tool("mix")
    page = driver.frame.page("mix")
    weak = next(n for n in range(page.with_bottle.count()) if "2 %" in page.with_bottle.itemText(n))
    page.with_bottle.setCurrentIndex(weak)
    page.make.setText("400 ml")
    assert page.plan.mix.stock_rounded_ml == 100.0 and page.plan.mix.strength_pct == pytest.approx(3.0)
    assert "300 ml of the 2 %" in page.then.text()
    driver.press("mix_made")
    lots = next(v for v in stock.stock_list(shop) if v.supply.key == "peroxide_3_ml").lots
    assert sorted(x.amount for x in lots) == [300.0, 400.0]


def test_all_that_is_left_and_a_mix_in_two_steps(driver: Driver, shop: Shop) -> None:
    put(shop, "bleach_5_ml", 47.0, 5.0)
    driver.frame.nav.open_tool("mix")
    page = driver.frame.page("mix")
    page.what.setCurrentIndex(page.what.findData("bleach_sink"))
    page.from_bottle.setCurrentIndex(
        next(n for n in range(page.from_bottle.count()) if "47 ml" in page.from_bottle.itemText(n))
    )
    driver.press("mix_all")
    assert page.plan.mix.stock_rounded_ml == 45.0 and page.plan.mix.make_ml == pytest.approx(2250.0)
    assert "ppm of available chlorine" in page.result.text()
    page.target.setText("0.05 %")
    page.make.setText("200 ml")  # exact would be 2 ml, of marks 5 ml apart
    assert "would miss 0.05 %" in page.result.text() and page.plan.only_in_steps
    first, second = page.plan.steps.first, page.plan.steps.second
    assert page.plan.bottle_ml == first.stock_rounded_ml and first.stock_rounded_ml % 5 == 0
    made = 5.0 * first.stock_rounded_ml / first.make_ml * second.stock_rounded_ml / 200
    assert page.plan.mix.strength_pct == pytest.approx(made) and 0.045 <= made <= 0.055
    before = page.plan.lot.amount
    driver.press("mix_made")
    left = next(x for v in stock.stock_list(shop) for x in v.lots if x.id == page.plan.lot.id)
    assert left.amount == pytest.approx(before - first.stock_rounded_ml)


# --- bath, jar ------------------------------------------------------------------------------------------------------


def test_a_bath_runs_cools_and_is_topped_up(driver: Driver, shop: Shop) -> None:
    """12 l at 38 °C from 55 and 14 °C: 7.02 l hot (arithmetic); 38 to 32 °C in 20: τ·ln(18/12) (calculus)."""
    driver.frame.nav.open_tool("bath")
    page = driver.frame.page("bath")
    assert page.amounts.text() == "5.0 l cold, 7.0 l hot" and "24 min" in page.then.text()
    driver.press("bath_filled")
    driver.pass_time(minutes=20)
    page.refresh()
    now_c = 20 + 18 * math.exp(-20 / 60)
    assert page.amounts.text() == f"{now_c:.1f} °C by now"
    driver.type("bath_reads", "35 °C")
    driver.press("bath_read")
    tau = 20 / math.log(18 / 15)
    assert running_bath.tau_min(shop) == pytest.approx(tau, abs=0.01) and page.amounts.text() == "35.0 °C by now"
    more = 12 * (38 - 35) / (55 - 35)
    assert f"Take {more:.1f} l out" in page.mind.text()
    again = Frame(lambda: shop)  # another window finds it running
    opened(driver.qtbot, again)
    again.nav.open_tool("bath")
    assert "35.0 °C" in again.page("bath").amounts.text()
    driver.press("bath_topped")
    assert page.amounts.text() == "38.0 °C by now"
    driver.pass_time(minutes=90)
    page.refresh()
    assert "Too cool" in page.then.text()
    driver.frame.ticking.ring_bath()
    assert "too cool to clean well" in driver.frame.words.text()
    driver.frame.say("Something else.")
    driver.frame.hush()
    assert "too cool to clean well" in driver.frame.words.text() and driver.frame.notice.isVisible()
    driver.frame.hush()
    driver.frame.ticking.ring_bath()  # once
    assert not driver.frame.notice.isVisible()
    driver.press("bath_empty")
    assert page.running is None and page.filled.isVisible()


def test_a_bath_too_warm_for_what_goes_in(driver: Driver) -> None:
    driver.frame.nav.open_tool("bath")
    page = driver.frame.page("bath")
    names = [page.goes_in.itemText(n) for n in range(page.goes_in.count())]
    page.goes_in.setCurrentIndex(next(n for n, name in enumerate(names) if "lacquer" in name))
    page.fields.fields["bath_at"].setText("45 °C")
    assert page.amounts.text() == "Not like this" and "bears 40 °C" in page.then.text()
    assert not page.filled.isEnabled()


def test_the_jar(driver: Driver) -> None:
    """Solid geometry: π/4·62·(70² − 3·17²) mm³ = 196.4 ml."""
    driver.frame.nav.open_tool("jar")
    page = driver.frame.page("jar")
    assert page.amount.text() == "Pour 196 ml"
    page.fields.fields["jar_piston"].setText("40 mm")
    assert "do not fit" in page.then.text()
    page.fields.fields["jar_count"].setText("none")
    assert page.amount.text() == "Not like this"


# --- agents, cloths -------------------------------------------------------------------------------------------------


def test_what_may_touch_and_what_must_not_meet(driver: Driver) -> None:
    driver.frame.nav.open_tool("agents")
    page = driver.frame.page("agents")
    page.start_at("clarinet", "upper")
    rows = [page.rows.itemAt(n).widget().accessibleName() for n in range(page.rows.count() - 1)]
    assert any(r.startswith("dry cloth: may") for r in rows) and any("hot water: must not" in r for r in rows)
    page.ticks["hypochlorite"].setChecked(True)
    assert page.verdict.text() == "Tick two or more."
    page.ticks["vinegar"].setChecked(True)
    assert page.verdict.text() == "Never together" and "hlorine" in page.clashes.itemAt(0).widget().text()
    page.ticks["vinegar"].setChecked(False)
    page.ticks["unknown"].setChecked(True)
    assert page.verdict.text() == "Never together"
    page.ticks["hypochlorite"].setChecked(False)
    page.ticks["unknown"].setChecked(False)
    page.ticks["soap"].setChecked(True)
    page.ticks["quat"].setChecked(True)
    assert page.verdict.text() == "Useless together"


def test_cloths_are_counted_washed_and_calibrated(driver: Driver, hand: Hand, shop: Shop) -> None:
    """300 mm of 0.4 mm at 0.55: 16.7 mm (geometry); a measured rope gives the packing back."""
    stock.book_in_stock(shop, "reed_clarinet_2", 5.0)
    job = hand.book("MH-0801", "clarinet")
    hand.until(job, "upper_swab")

    def uses() -> int:
        return next(v.uses for v in cloths.cloths(shop) if v.cloth.key == "clarinet_silk")

    went = uses()
    assert went >= 1
    shop.undo()
    assert uses() == went - 1
    hand.do(job, "upper_swab")
    assert uses() == went
    driver.frame.nav.open_tool("cloths")
    page = driver.frame.page("cloths")
    page.start_at("clarinet", "upper")
    assert page.chosen == "clarinet_silk" and "wide end" in page.said.text()
    driver.press("cloth_washed")
    view = next(v for v in cloths.cloths(shop) if v.cloth.key == "clarinet_silk")
    assert (view.uses, view.washes) == (0, 1)
    driver.type("cloth_rope", "11.5 mm")
    driver.press("cloth_calibrate")
    assert "jam" in page.said.text()  # 11.5 mm in 11.1 mm clear
    driver.type("cloth_rope", "1 mm")
    driver.press("cloth_calibrate")
    assert "cannot hold" in driver.frame.words.text()
    driver.type("cloth_name", "Grandmother's silk")
    driver.type("cloth_width", "100 mm")
    driver.type("cloth_thick", "0.2 mm")
    driver.press("cloth_add")
    assert any(v.cloth.name == "Grandmother's silk" for v in cloths.cloths(shop))


def test_a_step_opens_its_tool_filled_in(driver: Driver, hand: Hand, shop: Shop) -> None:
    stock.book_in_stock(shop, "reed_clarinet_2", 5.0)
    job = hand.book("MH-0801", "clarinet")
    hand.until(job, "upper_swab")
    driver.frame.nav.open_job(job, "steps")
    panel = driver.frame.page("job").steps
    panel.choose("upper_swab")
    assert "Silk for clarinets, passes" in panel.card.uses
    driver.press("step_tool")
    page = driver.frame.page("cloths")
    assert driver.frame.here == "cloths" and page.part.currentData() == "upper"
    horn = hand.book("MH-0802", "trumpet")
    driver.frame.refresh()
    driver.frame.nav.open_job(horn, "steps")
    panel.choose("bath")
    driver.press("step_tool")
    bath = driver.frame.page("bath")
    assert driver.frame.here == "bath" and "lacquer" in bath.goes_in.currentText()


# --- air, wood, room ------------------------------------------------------------------------------------------------


def test_the_air_and_the_window(driver: Driver) -> None:
    """psychrolib: 20 °C, 50 %: 9.272 °C; 10 °C at 90 % is 47 % at 20 °C (ASHRAE Fundamentals 2017)."""
    driver.frame.nav.open_tool("air")
    page = driver.frame.page("air")
    page.fields.fields["air_c"].setText("20 °C")
    page.fields.fields["air_rh"].setText("60 %")
    page.fields.fields["out_c"].setText("10 °C")
    page.fields.fields["out_rh"].setText("90 %")
    assert "has 47%" in page.airing.text() and "Open the window" in page.airing.text()
    page.fields.fields["air_rh"].setText("50 %")
    assert page.dew.text() == "Dew point 9.3 °C"
    page.fields.fields["out_rh"].setText("100 %")
    assert "Keep the window shut" in page.airing.text()
    page.fields.fields["air_rh"].setText("wet")
    assert page.dew.text() == "Not like this"


def test_a_case_by_its_own_thermometer(driver: Driver, hand: Hand, shop: Shop) -> None:
    """Newton: 4 °C in 20 °C with τ 25 min instead of the house's 40 is open sooner."""
    job = hand.book("MH-0803", "violin", case_c=4.0)
    before = hand.view(job).job.release_at
    driver.frame.refresh()
    driver.frame.nav.open_case(job)
    page = driver.frame.page("air")
    page.fields.fields["air_c"].setText("20 °C")
    page.fields.fields["air_rh"].setText("50 %")
    for minutes, celsius in ((0, 4.0), (10, 20 - 16 * math.exp(-10 / 25)), (10, 20 - 16 * math.exp(-20 / 25))):
        driver.pass_time(minutes=minutes)
        driver.type("case_c", f"{celsius:.1f} °C")
        driver.press("case_note")
    assert "Its time constant is" in page.why.text()
    driver.press("case_use")
    after = hand.view(job).job.release_at
    assert before is not None and after is not None and after < before
    wait = 25 * math.log(16 / 3)
    assert 0 <= (after - shop.now).total_seconds() / 60 + 20 - wait < 25


def test_products_of_the_shops_own(driver: Driver, shop: Shop) -> None:
    """By name alone it is looked up; by its label it is kept, ticked and forgotten again."""
    driver.frame.nav.open_tool("agents")
    page = driver.frame.page("agents")
    driver.type("product_name", "toilet cleaner")
    driver.press("product_add")
    assert page.ticks["descaler"].isChecked()
    driver.type("product_name", "Lemon bleach gel")
    driver.press("product_add")
    said = [w.text() for w in page.findChildren(QLabel)]
    assert page.verdict.text() == "Never together" and any("chlorine gas" in t for t in said)
    driver.type("product_name", "Harbour foam")
    driver.type("product_label", "water, citric acid, xylofluor 7")
    driver.press("product_add")
    (key,) = products.own_products(shop)
    assert products.own_products(shop)[key].holds == ("acid", "unknown") and key in page.ticks
    assert "xylofluor 7" in driver.frame.words.text()
    driver.type("product_name", "bleach")
    driver.type("product_label", "water")
    driver.press("product_add")
    assert "known here already" in driver.frame.words.text()
    driver.press(f"forget_{key}")
    assert not products.own_products(shop) and key not in page.ticks


def test_wood_that_is_driven(driver: Driver) -> None:
    """206 mm of quartered spruce, 9.2 to 6.2 %: 0.91 mm (Wood Handbook); 9.23 to 6.15 by its formula: 0.94."""
    driver.frame.nav.open_tool("wood")
    page = driver.frame.page("wood")
    for key, text in (("from_c", "21.1 °C"), ("from_rh", "50 %"), ("to_c", "21.1 °C"), ("to_rh", "30 %")):
        page.fields.fields[f"wood_{key}"].setText(text)
    assert page.moves.text() == "0.94 mm narrower" and "large change" in page.mind.text()
    page.fields.fields["wood_days"].setText("1 day")
    assert "fast" in page.mind.text()
    page.fields.fields["wood_width"].setText("-3 mm")
    assert page.moves.text() == "Not like this"


def test_the_storage_room_by_file_hand_and_devices(
    qtbot: Any, shop: Shop, clock: HandClock, devices: DemoDevices, tmp_path: Path
) -> None:
    driver = Driver(qtbot, opened(qtbot, Frame(lambda: shop, devices=devices.addresses)), clock, "mouse")
    driver.frame.nav.open_tool("room")
    page = driver.frame.page("room")
    assert page.risk.text() == "No log yet"
    start = shop.now.timestamp()
    lines = [
        f"{clock.now().fromtimestamp(start - 3600 * n).isoformat()},18,{75 if n > 10 else 50}" for n in range(80, 0, -1)
    ]
    path = tmp_path / "logger.csv"
    path.write_text("time,celsius,humidity_pct\n" + "\n".join(lines), encoding="utf-8")
    page.take_file(path)
    assert page.risk.text() == "Mould grows in this" and len(room_climate.air_log(shop).at) == 80
    page.take_file(path)
    assert len(room_climate.air_log(shop).at) == 80  # nothing twice
    driver.type("room_c", "19 °C")
    driver.type("room_rh", "150 %")
    driver.press("room_note")
    assert "cannot be more" in driver.frame.words.text()
    driver.type("room_rh", "55 %")
    driver.press("room_note")
    driver.pass_time(minutes=5)
    driver.press("room_ask")
    qtbot.waitUntil(lambda: len(room_climate.air_log(shop).at) == 82)
    driver.pass_time(minutes=70)
    driver.frame.devices.note_air()
    qtbot.waitUntil(lambda: len(room_climate.air_log(shop).at) == 83)
    driver.frame.devices.note_air()
    assert driver.frame.devices.airing is None  # not again within the hour


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("a,b\n1,2\n", "has no columns"), ("time,celsius,humidity_pct\nx,1,2\n", "line 2 is no reading"),
        ("time,celsius,humidity_pct\n2026-01-01T10:00,18,150\n", "line 2 is no reading"),
        ("time,celsius,humidity_pct\n2026-01-01T10:00,99,50\n", "line 2 is no reading"),
        ("time,celsius,humidity_pct\n2026-01-01T10:00,18\n", "line 2 is no reading"),
    ],
)  # fmt: skip
def test_files_that_are_no_log(driver: Driver, shop: Shop, tmp_path: Path, text: str, words: str) -> None:
    path = tmp_path / "x.csv"
    path.write_text(text, encoding="utf-8")
    driver.frame.nav.open_tool("room")
    driver.frame.page("room").take_file(path)
    assert words in driver.frame.words.text() and not room_climate.air_log(shop).at


def test_reeds_are_played_cleaned_and_called(driver: Driver, shop: Shop) -> None:
    driver.frame.nav.open_tool("reeds")
    page = driver.frame.page("reeds")
    page.group.setCurrentIndex(page.group.findData("clarinet"))
    assert page.next.text() == "No reed yet for these."
    driver.press("reed_add")
    assert "Take reed 1" in page.next.text()
    for _ in range(5):
        driver.press("reed_played")
        driver.pass_time(minutes=25 * 60)
        page.refresh()
    assert "clean it first" in page.list.item(0).text()
    driver.press("reeds_in")
    assert page.left.text() in ("30 min", "29:59")
    driver.press("reeds_out")
    assert "Not yet" in driver.frame.words.text()
    driver.pass_time(minutes=31)
    driver.frame.ticking.ring_reeds()
    assert "Due now: take the bench's reeds" in driver.frame.words.text()
    driver.pass_time(minutes=12)
    driver.frame.ticking.ring_reeds()
    assert "Last call" in driver.frame.words.text()
    driver.press("reeds_out")
    assert "Soak them" in driver.frame.words.text() and "rests" in page.list.item(0).text()
    driver.press("reed_throw")
    assert "Choose a reed first" in driver.frame.words.text()
    page.list.setCurrentRow(0)
    driver.press("reed_throw")
    assert page.list.count() == 0


def test_a_label_for_the_tray(driver: Driver, hand: Hand, shop: Shop) -> None:
    horn = hand.book("MH-0802", "trumpet")
    hand.until(horn, "look")
    driver.frame.nav.open_job(horn, "steps")
    driver.frame.page("job").steps.choose("apart")
    driver.press("step_tool")
    assert "Tray A is for MH-0802" in driver.frame.words.text()
    page = pypdfium2.PdfDocument((shop.folder / "papers" / "tray-A.pdf").read_bytes())[0]
    assert "MH-0802" in page.get_textpage().get_text_range()
    assert [code.text for code in zxingcpp.read_barcodes(page.render(scale=4).to_pil())] == ["MH-0802"]
