"""What a step needs is in sight without scrolling; a large screen shows more, a small one drops what matters least."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, QRect
from PySide6.QtWidgets import QAbstractScrollArea, QApplication, QWidget

from creekbed.window.frame.frame import Frame
from creekbed.window.job.step_card import NEEDED, StepCard
from creekbed.window.shared import theme
from tests.conftest import Hand
from tests.window.conftest import rest

SIZES = [
    (1280, 800, 1.0, False), (1280, 800, 1.5, False), (1280, 800, 1.0, True), (1280, 800, 1.5, True),
    (1920, 1080, 1.0, False), (1920, 1080, 1.5, True),
]  # fmt: skip


def set_up(window: Frame, size: tuple[int, int, float, bool]) -> None:
    wide, high, scale, gloves = size
    theme.current.gloves = gloves
    window.change_theme(scale=scale)
    window.resize(wide, high)
    rest(window)


def seen(widget: QWidget) -> bool:
    """Whether a widget is whole inside every area around it that scrolls, and inside the window."""
    if not widget.isVisible():
        return False
    outer = widget.parentWidget()
    while outer is not None:
        area = outer.parentWidget()
        if isinstance(area, QAbstractScrollArea) and area.viewport() is outer:
            here = QRect(widget.mapTo(outer, QPoint(0, 0)), widget.size())
            if not outer.rect().contains(here):
                return False
        outer = outer.parentWidget()
    top = widget.window()
    return top.rect().contains(QRect(widget.mapTo(top, QPoint(0, 0)), widget.size()))


def needed_lines(card: StepCard) -> list[tuple[str, QWidget]]:
    return [(head.text(), text) for head, text in card.rows if text.text() and head.text() in (*NEEDED, "")]


JOBS = [("alto_saxophone", "disinfect"), ("alto_saxophone", "contents"), ("violin", "pack"), ("trumpet", "disinfect")]
WALKS = [(size, *JOBS[0]) for size in SIZES] + [(size, *job) for size in (SIZES[0], SIZES[3]) for job in JOBS[1:]]
"""A job at every size; the others at the usual one and at the one with the least room."""


@pytest.mark.parametrize(("size", "family", "until"), WALKS, ids=str)
def test_what_a_step_needs_is_in_sight_on_its_page(
    window: Frame, hand: Hand, size: tuple[int, int, float, bool], family: str, until: str
) -> None:
    tag = "MH-0142"
    job = hand.book(tag, family)
    hand.until(job, until)
    set_up(window, size)
    window.nav.open_job(job, "steps")
    rest(window)
    panel = window.page("job").steps
    steps = [s.step.key for s in hand.view(job).open_steps][:6]
    for key in steps:
        panel.choose(key)
        rest(window)
        lines = needed_lines(panel.card)
        if size == SIZES[3]:  # the largest type in gloves on the smallest screen: what is used up may be scrolled to
            lines = [line for line in lines if line[0] not in ("Uses", "Tray")]
        hidden = [name for name, text in lines if not seen(text)]
        assert hidden == [], f"{key}: {hidden} below the fold"
        assert seen(panel.card.primary) or not panel.card.primary.isVisible(), f"{key}: its button is below the fold"


@pytest.mark.parametrize("size", SIZES, ids=str)
def test_the_bench_shows_how_and_caution(window: Frame, hand: Hand, size: tuple[int, int, float, bool]) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    set_up(window, size)
    window.nav.go_home()
    rest(window)
    card = window.page("home").hand
    first = [(head.text(), text) for head, text in card.rows if head.text() in ("Hands", "How much", "Caution", "How")]
    assert first and [name for name, text in first if not seen(text)] == []
    assert seen(card.primary)


def test_a_large_screen_shows_the_drawing_and_larger_type(window: Frame, hand: Hand) -> None:
    job = hand.book()
    hand.until(job, "disinfect")
    set_up(window, (1280, 800, 1.0, False))
    window.nav.go_home()
    rest(window)
    card = window.page("home").hand
    small = card.rows[0][1].font().pixelSize()
    assert card.picture is None and window.page("home").schedule.hours == 3.0
    window.resize(1920, 1080)
    rest(window)
    assert card.picture is not None and seen(card.picture) and card.picture.lit
    assert card.rows[0][1].font().pixelSize() > small and window.page("home").schedule.hours > 4
    window.resize(1280, 800)
    rest(window)
    QApplication.processEvents()
    assert not card.picture.isVisible() and card.rows[0][1].font().pixelSize() == small


def scroll_bars(panel: QWidget) -> list[QWidget]:
    """What scrolls on a panel and can be seen to."""
    bars = (area.verticalScrollBar() for area in panel.findChildren(QAbstractScrollArea) if area.isVisible())
    return [bar for bar in bars if bar.isVisible() and bar.maximum() > 0]


@pytest.mark.parametrize("size", [(1280, 800), (1024, 768)])
@pytest.mark.parametrize("family", ["alto_saxophone", "trumpet", "bassoon", "violin"])
def test_every_move_is_whole_in_sight(window: Frame, hand: Hand, family: str, size: tuple[int, int]) -> None:
    """Its words, how, caution, drawing and buttons, without scrolling; and no scroll bar inside another."""
    job = hand.book("MH-0142", family)
    hand.until(job, "look" if family == "trumpet" else "contents")
    window.resize(*size)
    window.nav.open_job(job, "steps")
    rest(window)
    panel = window.page("job").steps
    panel.choose("apart")
    for n in range(len(hand.view(job).step("apart").step.moves)):
        rest(window)
        card = panel.card
        shown = [card.title, card.following, card.picture, *(text for _, text in needed_lines(card))]
        hidden = [w.text() if hasattr(w, "text") else "the drawing" for w in shown if w.isVisible() and not seen(w)]
        assert hidden == [], f"move {n + 1}: {hidden}"
        assert seen(card.primary) and seen(card.forth) and seen(card.back)
        card.forth.click()
    inside = [bar for bar in scroll_bars(panel) if panel.card.isAncestorOf(bar)]
    assert len(inside) <= 1 and all(panel.list.isAncestorOf(b) or b in inside for b in scroll_bars(panel))
