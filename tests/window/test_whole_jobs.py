"""From the door to the ready tag in the real window: by mouse, by keyboard, by scan."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

import pypdfium2
import pytest
import zxingcpp

from creekbed.core.units import show
from creekbed.store.records import Job
from creekbed.workshop.bench.job_view import StepView
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.window.conftest import Driver, rest


def job_view(driver: Driver) -> StepView | None:
    page = driver.frame.page("job")
    return next((s for s in page.view.open_steps if s.state in ("ready", "waiting")), None)


def book(driver: Driver, tag: str, family: str) -> None:
    """Book an unknown instrument in; by scan the tag is not typed at all."""
    if driver.way == "scan":
        driver.scan(tag)
        driver.way = "mouse"
    else:
        driver.press("way_book_in")
        driver.type("tag", tag)
    kind = driver.frame.shop.catalogue.families[family]
    driver.press(f"group_{kind.group}")
    if sum(f.group == kind.group for f in driver.frame.shop.catalogue.families.values()) > 1:
        driver.press(f"family_{family}")
    driver.press("departure_none")
    driver.press("book_in")
    assert driver.frame.here == "job" and driver.frame.page("job").view.tag == tag


def fill_case(driver: Driver, how: str = "pieces") -> None:
    """Tick all that is in the case, and say how it came."""
    page = driver.frame.page("job")
    page.show_tab("case")
    driver.press("rest")
    if page.case.came.isVisible():
        driver.press(f"came_{how}")
    driver.press("case_done")


def look_over_saxophone(driver: Driver) -> None:
    view = driver.frame.page("job").view
    if view.look.step.key == "look_together":
        driver.caliper("neck_cork_caliper", lambda: "neck_cork" in driver.frame.page("job").view.findings)
        driver.press("neck_swing_firm")
        driver.press("octave_lever_works")
        return
    driver.press("pads_G sharp")
    driver.press("mouthpiece_lime")
    driver.press("rest_sound")


def look_over_violin(driver: Driver) -> None:
    look = driver.frame.page("job").view.look.step.key
    if look == "look_tuned":
        driver.type("bridge_lean_value", "30 mm")
        driver.type("bridge_lean_second", "0.2 mm", enter=True)
        driver.type("string_height_value", "5 mm", enter=True)
        return
    if look == "bridge_again":
        driver.press("bridge_moved_by_eye")
        return
    driver.press("chin_rest_moves")
    driver.press("strings_A")
    driver.press("cracks_sound")
    driver.type("hair_value", "4 turns", enter=True)
    driver.type("bow_camber_value", "8 mm", enter=True)
    driver.type("fine_tuner_value", "1/4 in", enter=True)
    driver.type("bridge_warp_value", "0.1 mm", enter=True)
    driver.press("rest_sound")


Otherwise = Callable[[Driver, StepView], bool]


def work(driver: Driver, tag: str, look: Callable[[Driver], None], otherwise: Otherwise | None = None) -> None:
    """Follow the steps of the job to its end.

    Args:
        otherwise: does a step in its own way and says so; the usual way is taken where it does not.
    """
    for _ in range(45):
        if driver.frame.here != "job":
            driver.scan(tag)
        step = job_view(driver)
        if step is None:
            return
        if step.state == "waiting":
            assert step.until is not None
            driver.pass_time(seconds=(step.until - driver.clock.now()).total_seconds() + 1)
            continue
        page = driver.frame.page("job")
        page.show_tab("steps")
        page.steps.choose(step.step.key)
        before = len(page.view.open_steps)
        if otherwise is not None and otherwise(driver, step):
            pass
        elif step.step.kind == "contents":
            fill_case(driver)
        elif step.step.kind == "look":
            driver.press("primary")
            look(driver)
            driver.press("look_done")
        elif step.step.kind == "mix":
            driver.press("primary")
            assert driver.frame.here == "mix"
            driver.press("mix_made")
        elif step.step.kind == "retune":
            driver.type("cents", "14 cents")
            driver.press("retuned")
        elif step.step.kind == "pack":
            driver.press("all_in")
            driver.press("closes")
            driver.press("nothing_presses")
            driver.press("latches_hold")
            driver.press("packed")
        else:
            driver.press("primary")
        if driver.frame.here == "job" and step.step.kind != "look":
            assert len(page.view.open_steps) < before, driver.frame.words.text()
    raise AssertionError("the job never came to its end")


SAXOPHONE = ("MH-0542", "alto_saxophone", look_over_saxophone)
VIOLIN = ("MH-0612", "violin", look_over_violin)


@pytest.mark.parametrize(
    ("way", "tag", "family", "look"),
    [("scan", *SAXOPHONE), ("keyboard", *VIOLIN)],
    ids=["saxophone-scan", "violin-keyboard"],
)
def test_from_the_door_to_the_tag(
    drive: Callable[[str], Driver], shop: Shop, way: str, tag: str, family: str, look: Callable[[Driver], None]
) -> None:
    driver = drive(way)
    book(driver, tag, family)
    work(driver, tag, look)
    done = {w.key for w in driver.frame.page("job").view.all_work}
    if family == "alto_saxophone":
        assert {"apart", "together", "descale", "mix", "disinfect", "rinse", "pads_blot", "play", "pack"} <= done
    else:
        assert {"apart", "chin_tighten", "string_on.A", "hang", "retune_1", "retune_2", "play", "pack"} <= done
        assert not done & {"mouth_wash", "mix", "disinfect"}
    driver.frame.page("job").show_tab("ready")
    driver.press("make_ready")
    assert driver.frame.here == "history"
    with shop.reading() as session:
        assert session.get(Job, 1).state == "ready"  # type: ignore[union-attr]
    paper = Path(shop.folder) / "papers" / f"tag-{tag}.pdf"
    assert paper.stat().st_mode & 0o777 == 0o600
    picture = pypdfium2.PdfDocument(paper.read_bytes())[0].render(scale=4).to_pil()
    code = zxingcpp.read_barcodes(picture)[0].text
    driver.frame.nav.go_home()
    driver.scan(code)  # Creekbed reads its own tag
    assert driver.frame.here == "history" and driver.frame.page("history").tag == tag


def test_the_bench_alone_leads_through_a_job(drive: Callable[[str], Driver], shop: Shop) -> None:
    """Only the big action of the home view, which always names the next thing."""
    driver = drive("keyboard")
    book(driver, "MH-0542", "alto_saxophone")
    fill_case(driver, "joined")
    driver.frame.nav.go_home()
    rest(driver.frame)
    assert driver.frame.home.next.step.step.key == "look_joined"  # joined, it shows what no piece alone does
    driver.press("primary")
    assert driver.frame.here == "job"
    look_over_sound(driver)
    driver.press("look_done")
    driver.frame.nav.go_home()
    rest(driver.frame)
    title = driver.frame.page("home").hand.title.text()
    assert "mouthpiece cap, reed, ligature" in title
    driver.press("primary")
    assert driver.frame.words.text().startswith(f"MH-0542: {title}")
    assert driver.frame.home.next.step.step.key == "look"


def test_undo_one_by_one_in_the_window(drive: Callable[[str], Driver], qtbot: object) -> None:
    driver = drive("mouse")
    book(driver, "MH-0542", "alto_saxophone")
    driver.press("neck_present")
    driver.press("cap_missing")
    driver.press("undo")
    assert driver.frame.words.text() == "Undone: MH-0542: mouthpiece cap missing"
    driver.press("undo")
    assert driver.frame.words.text() == "Undone: MH-0542: neck present"
    driver.press("undo")
    assert "Booked in" in driver.frame.words.text()
    assert driver.frame.here == "home" and driver.frame.home.jobs == ()


def look_over_sound(driver: Driver, found: Mapping[str, str] | None = None) -> None:
    """Every check of the family, as on a sound instrument but for what was found, as it is typed and pressed."""
    view = driver.frame.page("job").view
    for check in view.needed_at(view.look.step):
        if found and check.key in found:
            driver.press(f"{check.key}_{found[check.key]}")
            continue
        bands = check.bands_for(view.instrument.size)
        if bands is not None:
            driver.frame.page("job").show_tab("look_over")
            driver.type(f"{check.key}_value", show(bands.good(), check.unit), enter=True)
        elif check.kind == "choice":
            driver.press(f"{check.key}_{check.options[0].key}")
        else:
            driver.press(f"{check.key}_none")


@pytest.mark.parametrize(
    "family",
    ["bassoon", "horn", "electric_guitar"],  # test_fit_outs and test_every_family have more
)
def test_other_families_from_the_door_to_the_tag(drive: Callable[[str], Driver], shop: Shop, family: str) -> None:
    made = {r.product for r in shop.catalogue.house.recipe}
    for row in stock.stock_list(shop):
        if row.amount == 0 and row.supply.key not in made:
            stock.book_in_stock(shop, row.supply.key, 20.0)
    driver = drive("mouse")
    book(driver, "MH-0777", family)
    work(driver, "MH-0777", look_over_sound)
    driver.frame.page("job").show_tab("ready")
    driver.press("make_ready")
    assert driver.frame.here == "history"
    assert (Path(shop.folder) / "papers" / "tag-MH-0777.pdf").exists()
