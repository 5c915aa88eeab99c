"""A real window on a shop of its own, and a driver that works it as people do."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from PySide6.QtCore import QCoreApplication, QEvent, Qt, QTimer
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QLineEdit, QPushButton, QWidget

from creekbed.demo.player import as_pcm, pieces
from creekbed.devices.simulated import SimulatedCaliper, SimulatedMicrophone
from creekbed.window.frame import wedge_scanner
from creekbed.window.frame.frame import Frame
from creekbed.window.shared import sound_listening, theme
from creekbed.window.shared.background_writes import BackgroundWrites
from creekbed.window.shared.dialogs import AskDialog
from creekbed.window.shared.turns import at_rest
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.worlds.playing import RATE


@pytest.fixture(autouse=True)
def dressed(qapp: QApplication) -> None:
    """Every test begins in the same dress, with the windows of the one before really gone."""
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    theme.current.dark, theme.current.gloves, theme.current.scale = False, False, 1.0
    theme.load_fonts()
    qapp.setStyle("Fusion")
    theme.apply(qapp)


@pytest.fixture
def caliper() -> Iterator[SimulatedCaliper]:
    with SimulatedCaliper(7.4, scatter_mm=0.02) as device:
        yield device


def opened(qtbot: Any, frame: Frame) -> Frame:
    """A frame that shows its shop and has the keyboard."""
    qtbot.addWidget(frame)
    frame.show()
    assert frame.open_shop()
    qtbot.waitExposed(frame)
    frame.activateWindow()
    qtbot.waitUntil(frame.isActiveWindow)
    return frame


@pytest.fixture
def window(qtbot: Any, shop: Shop, caliper: SimulatedCaliper) -> Frame:
    return opened(qtbot, Frame(lambda: shop, caliper.port))


def rest(frame: Frame) -> None:
    """Let the window do what it does between its turns, as a person's eyes and hands do."""
    QApplication.processEvents()
    while not at_rest(frame):
        QApplication.processEvents()
    QApplication.processEvents()


def rest_of_all(frame: Frame) -> None:
    """Like :func:`rest`, and what is read beside the window has come too."""
    rest(frame)
    while any(work.busy for work in frame.findChildren(BackgroundWrites)):
        QApplication.processEvents()
    rest(frame)


class Driver:
    """Works the window by mouse or by keyboard, and scans."""

    def __init__(self, qtbot: Any, frame: Frame, clock: HandClock, way: str):
        self.qtbot, self.frame, self.clock, self.way = qtbot, frame, clock, way

    def find(self, name: str, kind: type[QWidget] = QPushButton) -> Any:
        """The visible widget with this name."""
        rest(self.frame)  # Qt shows new children from its event loop
        self._open_check(name)
        found = [w for w in self.frame.findChildren(kind, name) if w.isVisible()]
        assert found, f"{name} is nowhere to be seen on {self.frame.here}: {self.frame.words.text()}"
        return found[0]

    def _open_check(self, name: str) -> None:
        """A check or rule is chosen in the list before anything is done to it, as people do."""
        if self.frame.here == "house":
            page = self.frame.page("house")
            keys = [k for k in page.topics if name.startswith(f"{k}_")]
            if keys and max(keys, key=len) != page.key:
                first = page.list.count() - len(page.topics)
                page.list.setCurrentRow(first + page.topics.index(max(keys, key=len)))
                QApplication.processEvents()
        if self.frame.here != "job":
            return
        page = self.frame.page("job")
        if page.stack.currentWidget() is page.checks:
            keys = [k for k in page.checks.keys if name.startswith(f"{k}_")]
            if keys and max(keys, key=len) != page.checks.chosen:
                page.checks.choose(max(keys, key=len))
                QApplication.processEvents()

    def press(self, name: str) -> None:
        """Press a button as people do: with the mouse, with its key, or with the focus on it and the space bar."""
        target = self.find(name)
        assert target.isEnabled(), f"{name} cannot be pressed: {self.frame.words.text()}"
        if self.way == "mouse":
            self.qtbot.mouseClick(target, Qt.MouseButton.LeftButton)
        elif target.property("key"):
            pressed = QKeySequence(target.property("key"))[0]
            self.key(pressed.key(), pressed.keyboardModifiers())
        else:
            if QApplication.activeWindow() is None:  # no window manager gives the keyboard back after a dialogue
                self.frame.activateWindow()
                self.qtbot.waitUntil(self.frame.isActiveWindow)
            target.setFocus()
            self.key(Qt.Key.Key_Space)
            self.settle()
        rest(self.frame)

    def type(self, name: str, text: str, enter: bool = False) -> None:
        """Type into a field, at a person's pace: the scanner's filter must hand every key on."""
        field = self.find(name, QLineEdit)
        field.setFocus()
        field.selectAll()
        for letter in text:
            self.letters(letter)
            self.settle()
        self.qtbot.waitUntil(lambda: field.text() == text)
        if enter:
            self.key(Qt.Key.Key_Return)

    def key(self, key: Qt.Key, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        """A key as the keyboard sends it: to the window on top, not to a field."""
        window = QApplication.activeModalWidget() or self.frame
        QTest.keyClick(window.windowHandle(), key, held)

    def letters(self, text: str) -> None:
        """Letters one after another, without a pause."""
        window = QApplication.activeModalWidget() or self.frame
        for letter in text:
            if letter.isascii():
                shift = letter.isupper()
                if shift:
                    QTest.keyPress(window.windowHandle(), Qt.Key.Key_Shift)
                QTest.keyClick(window.windowHandle(), letter)
                if shift:
                    QTest.keyRelease(window.windowHandle(), Qt.Key.Key_Shift)
                continue
            for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):  # a sign that QTest has no key for
                QApplication.sendEvent(
                    window.windowHandle(), QKeyEvent(kind, 0, Qt.KeyboardModifier.NoModifier, letter)
                )

    def caliper(self, name: str, done: Callable[[], bool]) -> None:
        """Take a reading from the caliper, which is asked in a thread of its own."""
        self.press(name)
        self.qtbot.waitUntil(lambda: self.frame.devices.asking is None and done())

    def settle(self) -> None:
        """Let held-back keys through at once, as the pause between a person's keys does."""
        self.frame.scanner.flush()

    def scan(self, code: str) -> None:
        """A burst of keys with Enter; a machine that is busy for a moment does not tear it apart."""
        pause, wedge_scanner.GAP_MS = wedge_scanner.GAP_MS, 60_000
        try:
            self.letters(code)
            self.key(Qt.Key.Key_Return)
        finally:
            wedge_scanner.GAP_MS = pause
        rest(self.frame)

    def pass_time(self, **span: float) -> None:
        """Let bench time pass and the window notice."""
        self.clock.advance(**span)
        self.frame.refresh()
        rest(self.frame)


@pytest.fixture
def drive(qtbot: Any, window: Frame, clock: HandClock) -> Callable[[str], Driver]:
    return lambda way: Driver(qtbot, window, clock, way)


def when_open(kind: type[QDialog], act: Callable[[Any], None]) -> None:
    """Do something in the next dialog of this kind, once it is open; what is open still after that is left."""

    def look() -> None:
        dialog = QApplication.activeModalWidget()
        if dialog is None:  # not open yet
            QTimer.singleShot(20, look)
            return
        try:
            assert isinstance(dialog, kind)
            act(dialog)
        finally:
            if dialog.isVisible():
                dialog.close()

    QTimer.singleShot(0, look)


@contextmanager
def nothing_skipped() -> Iterator[None]:
    """A sound that comes as fast as it is taken has no pace: a machine that stands still has not fallen behind it."""
    behind, sound_listening.BEHIND_S = sound_listening.BEHIND_S, float("inf")
    try:
        yield
    finally:
        sound_listening.BEHIND_S = behind


def hear(driver: Driver, page_key: str, sound: Any, rate: int = RATE) -> None:
    """Listen on a page until the player has ended, and has pulled the plug."""
    page = driver.frame.page(page_key)
    with nothing_skipped(), SimulatedMicrophone(lambda: pieces(as_pcm(sound)), rate, paced=False) as device:
        driver.frame.devices.ports["microphone"] = device.address
        driver.press(f"{page_key}_listen")
        driver.qtbot.waitUntil(lambda: page.listening is None, timeout=60_000)
    rest_of_all(driver.frame)


def when_asked(act: Callable[[AskDialog], None]) -> None:
    """Do something with the next question once it is open."""
    timer = QTimer(QApplication.instance())

    def look() -> None:
        dialog = QApplication.activeModalWidget()
        if isinstance(dialog, AskDialog):
            timer.stop()
            timer.deleteLater()
            act(dialog)

    timer.timeout.connect(look)
    timer.start(1)


def answer(text: str | None, seen: list[str] | None = None) -> None:
    """Answer the next question; ``None`` leaves it."""

    def act(dialog: AskDialog) -> None:
        if seen is not None:
            seen.append(dialog.windowTitle())
        if text is None:
            dialog.reject()
        else:
            dialog.field.setText(text)
            dialog.ok.click()

    when_asked(act)
