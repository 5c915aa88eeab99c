"""The book of the bench, the moves of a step, house rules with their effect, and the shop's own values on screen."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QLineEdit, QListWidget

from creekbed.window.drawings.paint import fitted
from creekbed.window.frame.frame import Frame
from creekbed.workshop.arrival.condition_marks import add_mark
from creekbed.workshop.shop import own_values
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand
from tests.window.conftest import Driver, rest


def texts(listed: QListWidget) -> list[str]:
    return [listed.item(n).text() for n in range(listed.count())]


def test_the_book_opens_at_the_step_it_is_asked_from(drive: Callable[[str], Driver], hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "look")
    driver = drive("mouse")
    driver.frame.nav.open_job(job, "steps")
    driver.frame.page("job").steps.choose("neck_swab")
    driver.press("in_the_book")
    page = driver.frame.page("book")
    assert driver.frame.here == "book" and page.family == "alto_saxophone" and page.section == "job"
    assert "wide end first" in page.title.text() and page.picture.lit == ("neck",)


def test_families_sections_and_the_drawing_lead_to_lines(drive: Callable[[str], Driver]) -> None:
    driver = drive("keyboard")
    driver.press("way_book")
    page = driver.frame.page("book")
    assert page.families.count() == len(driver.frame.shop.catalogue.families)
    page.families.setCurrentRow(texts(page.families).index("Bassoon"))
    assert page.head.text() == "Bassoon" and page.list.count() == len(page.shown) > 8
    for section in ("job", "order", "rules", "cautions", "wear", "case", "numbers", "agents"):
        driver.press(f"tab_{section}")
        assert page.list.count() > 0 and page.words.text() and page.origin.text()
    driver.press("tab_parts")
    corner, scale = fitted(page.picture._box())
    at = page.picture.drawn.bounds("bell").center()
    spot = QPoint(round(corner.x() + at.x() * scale), round(corner.y() + at.y() * scale))
    driver.qtbot.mouseClick(page.picture, Qt.MouseButton.LeftButton, pos=spot)
    assert page.title.text() == "bell"


def test_marks_are_counted_on_the_drawing_and_the_case_is_lit_open(drive: Callable[[str], Driver], hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "look")
    add_mark(hand.shop, job, "bell", "dent", 6.0)
    add_mark(hand.shop, job, "bell", "scratch", None)
    driver = drive("mouse")
    driver.frame.nav.open_job(job, "steps")
    steps = driver.frame.page("job").steps
    steps.choose("outside")
    assert steps.card.picture.counts["bell"] == 2
    steps.choose("case_clean")
    assert steps.card.picture.case and steps.card.picture.lit == ("lid",) and steps.card.picture.counts == {}


def test_search_over_all_families(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.press("way_book")
    driver.type("find", "register tube")
    page = driver.frame.page("book")
    assert page.list.count() >= 1 and all("larinet" in t for t in texts(page.list))
    page.list.setCurrentRow(0)
    assert page.head.text() in ("B flat clarinet", "Bass clarinet")
    driver.type("find", "xyzzy")
    assert page.list.count() == 0 and page.title.text() == "Nothing found."
    page.search.clear()
    assert page.list.count() > 0


def test_from_a_house_rule_in_the_book_to_its_page(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_book("trumpet", "rules", "brass_drying")
    driver.press("to_house")
    page = driver.frame.page("house")
    assert driver.frame.here == "house" and page.key == "brass_drying"
    driver.press("brass_drying_last")
    QApplication.processEvents()
    words = " ".join(w.text() for w in page.findChildren(QLabel) if w.isVisible())
    assert "Whole" in words or "lay it whole on the rack" in words
    assert "On a job: Trumpet" in words


def test_house_rules_by_family_and_all(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.press("way_house")
    page = driver.frame.page("house")
    every = len(page.topics)
    pick = driver.find("which_families", QComboBox)
    page._group_chosen(pick.findData("trumpet"))
    few = len(page.topics)
    page._group_chosen(pick.findData(""))
    assert 0 < few < len(page.topics) == every == len(driver.frame.shop.catalogue.topics)


def test_a_house_rule_is_found_by_its_words(drive: Callable[[str], Driver]) -> None:
    driver = drive("keys")
    driver.press("way_house")
    page = driver.frame.page("house")
    driver.type("find_rule", "neck swab", enter=True)
    assert page.list.hasFocus() and page.key == page.topics[0] == "sax_neck_pulls"
    driver.key(Qt.Key.Key_Down)
    driver.type("find_rule", "xyzzy")
    assert page.topics == [] and page.key == ""
    rest(driver.frame)
    assert "No rule has these words" in " ".join(w.text() for w in page.findChildren(QLabel) if w.isVisible())
    page.search.clear()
    rest(driver.frame)
    assert page.list.item(0).text().startswith("This window")


def test_the_moves_of_a_step_are_walked_and_lit(drive: Callable[[str], Driver], hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "contents")
    driver = drive("mouse")
    driver.frame.nav.open_job(job, "steps")
    card = driver.frame.page("job").steps.card
    moves = [m.what for m in hand.view(job).step("apart").step.moves]
    assert card.progress.text() == f"Move 1 of {len(moves)} · Take out what is still together"
    assert card.title.text() == moves[0] and card.following.text().lower().endswith(moves[1].lower())
    assert not card.back.isEnabled()
    for _ in range(next(n for n, m in enumerate(moves) if "ease the neck off" in m)):
        driver.press("move_next")
    assert "ease the neck off" in card.title.text() and card.picture.lit == ("neck",)
    driver.key(Qt.Key.Key_F3)
    assert card.title.text() == moves[card.at] and card.picture.lit != ("neck",)
    driver.key(Qt.Key.Key_F4)
    shown = " ".join(text.text() for _, text in card.rows if text.isVisibleTo(card))
    assert "Never spin the neck round" in shown
    driver.press("primary")
    assert driver.frame.page("job").view.step("apart").work is not None


def test_what_was_found_is_counted_on_the_drawing(drive: Callable[[str], Driver], hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "look", pads={"G sharp": "sticks"})
    driver = drive("mouse")
    driver.frame.nav.open_job(job, "steps")
    assert driver.frame.page("job").steps.card.picture.counts == {"pads": 1}


def test_an_own_value_on_screen(drive: Callable[[str], Driver], shop: Shop) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_book("alto_saxophone", "own", "family.alto_saxophone.step.body_swab.hands_min")
    page = driver.frame.page("book")
    assert "Swab the body from the bell: hands: 1 min" in page.title.text()
    driver.type("own_value", "90 s")
    assert "min" in page.effect.text() and "then" in page.effect.text()
    driver.press("keep_own")
    where = ("family", "alto_saxophone", "step", "body_swab", "hands_min")
    assert own_values.own_paths(shop) == {where}
    assert "1.5 min" in page.title.text()
    field = driver.find("own_value", QLineEdit)
    field.setText("minus three")
    assert "not a number" in page.effect.text()
    driver.press("take_back")
    assert own_values.own_paths(shop) == set() and ": 1 min" in page.title.text()


def test_a_wrong_file_is_told_and_the_rest_works_on(
    qtbot: object, tmp_path: object, shop: Shop, clock: HandClock
) -> None:
    shop.own_folder.mkdir()
    (shop.own_folder / "overrides.toml").write_text("[limits]\nroom_c = 'warm'\n[supply.pencil]\nreorder_at = 9\n")
    again = Shop(shop.folder, clock)
    frame = Frame(lambda: again)
    qtbot.addWidget(frame)  # type: ignore[attr-defined]
    frame.show()
    assert frame.open_shop()
    assert "overrides.toml, line 2" in frame.words.text() and "rest works on" in frame.words.text()
    frame.nav.open_house("this_shop")
    assert "Refused: overrides.toml, line 2" in frame.page("house").shop_pane.files.text()
    assert again.catalogue.supplies["pencil"].reorder_at == 9


@pytest.mark.parametrize(("group", "family"), [("clarinet", "clarinet"), ("horn", ""), ("guitar", "bass_guitar")])
def test_a_new_instrument_of_any_family_on_the_spot(
    drive: Callable[[str], Driver], shop: Shop, group: str, family: str
) -> None:
    driver = drive("mouse")
    driver.press("way_book_in")
    driver.type("tag", "MH-0777")
    driver.press(f"group_{group}")
    if family:
        driver.press(f"family_{family}")
    if group == "clarinet":
        driver.find("material_barrel", QComboBox).setCurrentIndex(2)
        driver.find("renter", QComboBox).setCurrentIndex(1)
    driver.press("book_in")
    view = driver.frame.page("job").view
    assert view.instrument.family == (family or group)
    if group == "clarinet":
        assert view.instrument.materials["upper"] == "wood_bore" and view.step("bore_oil") is not None
        assert view.step("grease_apart") is not None
