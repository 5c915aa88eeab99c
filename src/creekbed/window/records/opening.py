"""How the frame opens a shop, and what it shows when that cannot be done. It never ends in an empty window."""

from __future__ import annotations

import traceback
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QApplication, QVBoxLayout

from creekbed.core.errors import CreekbedError
from creekbed.window.shared import theme

SAID_AFTER_S = 0.5
"""An action that waits longer for the records says so: house default."""
LOOK_MS = 15
"""So long the window does other things between two tries."""


class Opening:
    """The part of the frame that opens the records; mixed into it."""

    shop: Any
    home: Any
    records: Any
    devices: dict[str, str]
    given_devices: dict[str, str]
    greeting: str
    scanner: Any
    notice: Any
    box: QVBoxLayout
    upkeep: Any
    ahead: Any
    _open: Callable[[], Any]
    _thinking: bool
    _second: Any
    _build: Callable[[], None]
    _clear_body: Callable[[], None]
    _changed: Callable[[Any], None]
    start_thinking: Callable[[], None]
    stop_thinking: Callable[[], None]
    go_home: Callable[[], None]
    listen_to_scanner: Callable[[], None]
    tell_trouble: Callable[[str], bool]
    say: Callable[..., None]
    _problem: Any = None
    _closing = False

    def open_shop(self) -> bool:
        """Open the records and fill the window, or show what is wrong."""
        try:
            self.shop, self.home, self.records = self._open(), None, None
            self.shop.wait_in_steps(self.waits_for_records)
            moved = self.shop.look_at_clock()
            settings = {k: self.shop.setting(f"theme.{k}") for k in ("dark", "gloves", "scale")}
            self.devices = {**(self.shop.setting("devices") or {}), **self.given_devices}
            self._fill(settings)
        except CreekbedError as problem:
            self._show_problem(problem)
            return False
        except Exception as error:  # noqa: BLE001  # whatever it is: it is told, and the window says what to do
            traceback.print_exception(error)
            self._show_problem(self._unforeseen(error))
            return False
        if not self.tell_trouble(moved or self.shop.own_file_words) and self.greeting:
            self.say(self.greeting)
        return True

    def _fill(self, settings: dict[str, Any]) -> None:
        for key, value in settings.items():
            if value is not None:
                setattr(theme.current, key, value)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply(app)
        from creekbed.window.frame.wedge_scanner import Scanner

        if self.scanner is None:
            self.scanner = Scanner(self)
            self.scanner.scanned.connect(self.scanned)  # type: ignore[attr-defined]
            self.scanner.watch(self)
        self._problem = None
        self._build()
        self.shop.listen(self._changed)
        if self._thinking:
            self.start_thinking()
        self.go_home()
        self._second.start()
        if self.ahead is not None:
            self.ahead.start()
        if self.upkeep is not None:
            self.upkeep.start()
        QTimer.singleShot(0, self.listen_to_scanner)  # the bench is drawn first

    def _unforeseen(self, error: Exception) -> CreekbedError:
        from creekbed.store.problems import in_words, problem

        folder = Path(getattr(self.shop, "folder", "."))
        what = f"Creekbed made a mistake ({type(error).__name__}: {in_words(error)})"
        return problem("unexpected", folder, what=what)

    def let_go(self) -> None:
        """Close the shop; the window has none until it is opened again."""
        self._second.stop()
        self.stop_thinking()
        if self.ahead is not None:
            self.ahead.stop()
        if self.shop is not None:
            self.shop.close()
        self.shop = self.home = self.records = None

    def _show_problem(self, problem: CreekbedError) -> None:
        from creekbed.window.records.problem_page import ProblemPage

        folder = Path(problem.fields.get("folder") or getattr(self.shop, "folder", "."))
        self.let_go()
        self._clear_body()
        self._pages: dict[str, Any] = {}
        self._problem = ProblemPage(
            problem, folder, self._again, lambda copy: self.go_back(folder, copy), lambda: self._go_on(folder),
            lambda: self._begin_anew(folder),
        )  # fmt: skip
        self.box.addWidget(self._problem)

    def go_back(self, folder: Path, copy: Any) -> None:
        """Go back to a copy, and open what is there then; what was there is kept aside."""
        from creekbed.store.maintenance import restore

        self.let_go()
        self._tried(lambda: restore(folder, copy))

    def _go_on(self, folder: Path) -> None:
        from creekbed.store.maintenance import go_on_without

        self._tried(lambda: go_on_without(folder))

    def _begin_anew(self, folder: Path) -> None:
        from creekbed.store.maintenance import set_aside_empty

        self._tried(lambda: set_aside_empty(folder, new=True))

    def _tried(self, act: Callable[[], Any]) -> None:
        try:
            act()
        except CreekbedError as problem:
            if self._problem is not None:
                self._problem.say(problem.words())
            else:
                self._again()
                self.say(problem.words(), warn=True)
            return
        self._again()

    def _again(self) -> None:
        self._clear_body()
        self.open_shop()

    def waits_for_records(self, seconds: float) -> bool:
        """An action waits for another program that holds the records: say so, and keep the window alive meanwhile.

        Returns:
            Whether to go on waiting.
        """
        if seconds > SAID_AFTER_S and self._problem is None and self.notice is not None:
            self.notice.say(f"Another program holds the records. Waiting, {seconds:.0f} s …", warn=True)
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents, LOOK_MS)
        return not self._closing
