"""Long work: its progress is seen, it can be left, and the window lives meanwhile."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtWidgets import QFileDialog

from creekbed.core.errors import BadInput
from creekbed.core.progress import Progress
from creekbed.store.maintenance import all_copies
from creekbed.window.records.backups_page import MANY_FILES, ONE_FILE
from creekbed.window.shared.long_work import LongWork
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand
from tests.window.conftest import Driver, rest


def test_it_shows_how_far_it_is_and_can_be_left(qtbot: Any) -> None:
    failed: list[Any] = []
    work = LongWork(failed.append)
    qtbot.addWidget(work)
    go_on, done = threading.Event(), []

    def slowly(progress: Progress) -> str:
        for n in range(10):
            if not progress(n / 10):
                raise BadInput("Given up.")
            if n == 5:
                go_on.wait(10)
        return "whole"

    assert not work.isVisible() and work.start("Working …", slowly, done.append)
    qtbot.waitUntil(lambda: work.bar.value() == 500)
    assert work.isVisible() and work.words.text() == "Working …" and not work.start("again", slowly, done.append)
    go_on.set()
    qtbot.waitUntil(lambda: done == ["whole"])
    assert not work.isVisible() and failed == []
    go_on.clear()
    work.start("Working …", slowly, done.append)
    qtbot.waitUntil(lambda: work.bar.value() == 500)
    work.leave.click()
    assert not work.leave.isEnabled() and "given up" in work.words.text()
    go_on.set()
    qtbot.waitUntil(lambda: len(failed) == 1)
    assert done == ["whole"] and not work.isVisible() and not work.busy


@pytest.mark.parametrize("kind", [ONE_FILE, MANY_FILES])
def test_export_from_the_window(
    drive: Callable[[str], Driver], hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, kind: str
) -> None:
    hand.book()
    driver = drive("keys")
    driver.frame.nav.open_kept()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "all"), kind))
    driver.press("export_all")
    page = driver.frame.page("kept")
    driver.qtbot.waitUntil(lambda: not page.making.busy)
    rest(driver.frame)
    assert "Everything on record is in" in driver.frame.words.text()
    assert (tmp_path / "all.json").exists() if kind == ONE_FILE else (tmp_path / "all" / "job.csv").exists()


def test_an_export_never_replaces_what_is_not_its_own(
    drive: Callable[[str], Driver], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "letter.json").write_text("dear")
    driver = drive("mouse")
    driver.frame.nav.open_kept()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "letter.json"), ONE_FILE))
    driver.press("export_all")
    assert "is no export of Creekbed" in driver.frame.words.text() and (tmp_path / "letter.json").read_text() == "dear"


def test_a_copy_by_hand_shows_its_progress(drive: Callable[[str], Driver], shop: Shop) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_kept()
    before = len(all_copies(shop.folder))
    driver.press("make_copy")
    page = driver.frame.page("kept")
    driver.qtbot.waitUntil(lambda: not page.making.busy)
    assert len(all_copies(shop.folder)) == before + 1
