"""A new shop in the real window: four ways to begin, what is still to say, and nobody who was made up."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QProcess
from PySide6.QtWidgets import QLabel, QPushButton

from creekbed.window.frame.frame import Frame
from creekbed.workshop.shop import shop as shop_module
from creekbed.workshop.shop import staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import KindRequest, add_kind
from creekbed.workshop.shop.set_up import set_up
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand
from tests.window.conftest import Driver, answer, opened, rest


@pytest.fixture
def nobody(monkeypatch: pytest.MonkeyPatch) -> str:
    """A shop in which nobody was named yet, as a new one is."""
    monkeypatch.setattr(shop_module, "NOBODY", "NN")
    return "NN"


@pytest.fixture
def new(nobody: str, tmp_path: Path, clock: HandClock) -> Iterator[Shop]:
    found = Shop(tmp_path / "new", clock)
    yield found
    found.close()


@pytest.fixture
def fresh(qtbot: Any, new: Shop) -> Frame:
    return opened(qtbot, Frame(lambda: new))


def ways(frame: Frame) -> list[str]:
    first = frame.page("home").first
    return [w.objectName() for w in first.findChildren(QPushButton) if w.isVisible()]


def unsaid(frame: Frame) -> str:
    page = frame.page("home")
    return " | ".join(w.text() for w in page.to_say.findChildren(QLabel) if w.isVisible())


@pytest.mark.parametrize("way", ["mouse", "keys"])
def test_an_empty_bench_offers_four_ways(qtbot: Any, fresh: Frame, clock: HandClock, way: str) -> None:
    driver = Driver(qtbot, fresh, clock, way)
    rest(fresh)
    assert ways(fresh) == ["first_book_in", "first_list", "first_stock", "first_demo"]
    assert not fresh.page("home").hand.isVisible()
    for name, page in (("first_book_in", "book_in"), ("first_list", "bring"), ("first_stock", "count")):
        driver.press(name)
        assert fresh.here == page
        fresh.nav.go_home()
        rest(fresh)


def test_the_demo_opens_beside_and_touches_nothing(
    qtbot: Any, fresh: Frame, clock: HandClock, monkeypatch: pytest.MonkeyPatch
) -> None:
    begun: list[list[str]] = []

    def start(program: str, arguments: list[str]) -> tuple[bool, int]:
        begun.append(arguments)
        return (len(begun) == 1, 7)

    monkeypatch.setattr(QProcess, "startDetached", start)
    driver = Driver(qtbot, fresh, clock, "mouse")
    driver.press("first_demo")
    assert begun == [["-m", "creekbed", "demo"]] and "window of its own" in fresh.words.text()
    driver.press("first_demo")
    assert "could not be started" in fresh.words.text()


def test_the_first_person_is_asked_for_never_made_up(qtbot: Any, fresh: Frame, new: Shop, clock: HandClock) -> None:
    driver = Driver(qtbot, fresh, clock, "mouse")
    assert new.person == "NN" and "noted as NN's" in unsaid(fresh)
    answer("Anna Berg")
    driver.press("say_people")
    assert new.person == "NN"  # a name is no initials: it is refused
    answer("AB 9-13")
    driver.press("say_people")
    rest(fresh)
    assert new.person == "AB" and [w.key for w in staff.workers(new)] == ["AB"]
    assert "Who works here" not in unsaid(fresh)
    folder = new.folder
    again = Shop(folder, HandClock(clock.now()))
    assert again.person == "AB"  # the next start knows who sits here
    again.close()
    elsewhere = Shop(folder, HandClock(clock.now(), machine="other"))
    assert elsewhere.person == "NN"
    elsewhere.close()


def test_a_shop_from_before_knows_who_worked_in_it(nobody: str, tmp_path: Path, clock: HandClock) -> None:
    """What somebody has in hand, and what they may undo, hangs on their initials."""
    old = Shop(tmp_path / "old", clock, person="IW")
    add_kind(old, KindRequest("Monday van", 510, weekdays=(0,)))
    old.close()
    again = Shop(tmp_path / "old", HandClock(clock.now()))
    assert again.person == "IW" != nobody
    again.close()


def test_what_is_said_goes_from_the_list(qtbot: Any, fresh: Frame, new: Shop, clock: HandClock) -> None:
    driver = Driver(qtbot, fresh, clock, "mouse")
    assert [i.key for i in set_up(new).unsaid] == [
        "people",
        "leaving",
        "hours",
        "closed",
        "identity",
        "formats",
        "instruments",
        "stock",
    ]
    driver.press("say_leaving")
    assert fresh.here == "days"
    add_kind(new, KindRequest("Monday van", 510, weekdays=(0,)))
    fresh.nav.go_home()
    rest(fresh)
    assert "How instruments leave" not in unsaid(fresh) and "Mon to Fri" in unsaid(fresh)
    driver.press("say_closed")
    assert fresh.here == "days" and fresh.page("days").off.isVisible()


def test_work_is_never_blocked_by_what_is_not_said(qtbot: Any, fresh: Frame, new: Shop, clock: HandClock) -> None:
    """An instrument goes from the door to its first step in a shop that has said nothing at all."""
    driver = Driver(qtbot, fresh, clock, "keys")
    driver.press("first_book_in")
    driver.type("tag", "V-12")
    fresh.page("book_in")._choose_family("violin")
    driver.press("book_in")
    fresh.nav.go_home()
    rest(fresh)
    page = fresh.page("home")
    assert page.hand.isVisible() and not page.first.isVisible() and not page.to_say.isVisible()
    assert page.hand.step is not None


def test_a_shop_that_works_is_not_nagged(window: Frame, hand: Hand, drive: Callable[[str], Driver]) -> None:
    job = hand.book()
    hand.shop.undo()
    rest(window)
    assert ways(window) == ["first_book_in", "first_list", "first_demo"]  # nothing of it stayed: still new
    job = hand.book()
    window.refresh()
    rest(window)
    assert window.page("home").hand.isVisible() and job
