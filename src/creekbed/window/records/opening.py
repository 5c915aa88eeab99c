"""Opens a shop, and shows what is wrong when that fails."""

from __future__ import annotations

import traceback
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QApplication

from creekbed.core.errors import CreekbedError
from creekbed.store.disk_thread import DiskThread
from creekbed.window.records.waiting import LOOK_MS, WaitingForRecords
from creekbed.window.shared import theme

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame
    from creekbed.window.records.problem_page import ProblemPage
    from creekbed.workshop.shop.shop import Shop
T = TypeVar("T")


class ShopOpening:
    """Opens the records of one window."""

    def __init__(self, frame: Frame, open_shop: Callable[[], Shop], greeting: str, thinking: bool):
        self.frame, self._open, self._greeting, self._thinking = frame, open_shop, greeting, thinking
        self._problem: ProblemPage | None = None
        self.waiting = WaitingForRecords(frame)

    def open(self) -> bool:
        """Open the records and fill the window, or show what is wrong."""
        try:
            self.frame.shop = self._beside(self._open)
            self.frame.forget_records()
            self.frame.shop.wait_in_steps(self.waiting.for_others, self.waiting.for_disk)
            moved = self.frame.shop.look_at_clock()
            settings = {k: self.frame.shop.setting(f"theme.{k}") for k in ("dark", "gloves", "scale")}
            self.frame.devices.ports = {**(self.frame.shop.setting("devices") or {}), **self.frame.devices.given}
            self._fill(settings)
        except CreekbedError as problem:
            self._show_problem(problem)
            return False
        except Exception as error:  # noqa: BLE001  # whatever it is: it is told, and the window says what to do
            traceback.print_exception(error)
            self._show_problem(self._unforeseen(error))
            return False
        if not self.frame.ticking.tell_trouble(moved or self.frame.shop.own_file_words) and self._greeting:
            self.frame.say(self._greeting)
        return True

    def _beside(self, work: Callable[[], T]) -> T:
        """Do what reads and writes whole files in a thread of its own; the window is drawn and takes no presses."""
        disk = DiskThread()
        disk.while_waiting = lambda seconds, note: QApplication.processEvents(
            QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents, LOOK_MS
        )
        try:
            return disk.do(work)
        finally:
            disk.close()

    def _fill(self, settings: dict[str, Any]) -> None:
        for key, value in settings.items():
            if value is not None:
                setattr(theme.current, key, value)
        _dress()
        from creekbed.window.frame.wedge_scanner import Scanner

        if self.frame.scanner is None:
            self.frame.scanner = Scanner(self.frame)
            self.frame.scanner.scanned.connect(self.frame.scans.scanned)
            self.frame.scanner.watch(self.frame)
        self._problem = None
        self.frame.build()
        self.frame.shop.listen(self.frame.done.emit)
        if self._thinking:
            self.frame.planner.start()
        self.frame.nav.go_home()
        self.frame.ticking.timer.start()
        if self.frame.ahead is not None:
            self.frame.ahead.start()
        if self.frame.upkeep is not None:
            self.frame.upkeep.start()
        QTimer.singleShot(0, self.frame.devices.listen_to_scanner)  # the bench is drawn first

    def change_theme(self, **change: Any) -> None:
        """Change light, targets or text size now, and for the next start where that can be kept."""
        wrong: CreekbedError | None = None
        for key, value in change.items():
            setattr(theme.current, key, value)
            try:
                self.frame.shop.set_setting(f"theme.{key}", value, f"Window: {key} {value}")
            except CreekbedError as problem:
                wrong = problem
        _dress()
        here = self.frame.here
        self.frame.rebuild()
        if here == "house":
            self.frame.nav.open_house("this_window")
        else:
            self.frame.go_to(here or "home").refresh()
        if wrong is not None:
            self.frame.could_not(wrong)

    def _unforeseen(self, error: Exception) -> CreekbedError:
        from creekbed.store.problems import in_words, problem

        folder = Path(getattr(self.frame.shop, "folder", "."))
        what = f"Creekbed made a mistake ({type(error).__name__}: {in_words(error)})"
        return problem("unexpected", folder, what=what)

    def let_go(self) -> None:
        """Close the shop."""
        self.frame.ticking.timer.stop()
        self.frame.planner.stop()
        if self.frame.ahead is not None:
            self.frame.ahead.stop()
        if self.frame.shop is not None:
            self.frame.shop.close()
        self.frame.forget_shop()

    def _show_problem(self, problem: CreekbedError) -> None:
        from creekbed.window.records.problem_page import ProblemPage

        folder = Path(str(problem.fields.get("folder") or "") or getattr(self.frame.shop, "folder", "."))
        self.let_go()
        self.frame.clear_body()
        self.frame.forget_pages()
        self._problem = ProblemPage(
            problem, folder, self._again, lambda copy: self.go_back(folder, copy), lambda: self._go_on(folder),
            lambda: self._begin_anew(folder),
        )  # fmt: skip
        self.frame.box.addWidget(self._problem)

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
            self._beside(act)
        except CreekbedError as problem:
            if self._problem is not None:
                self._problem.say(problem.words())
            else:
                self._again()
                self.frame.say(problem.words(), warn=True)
            return
        self._again()

    def _again(self) -> None:
        self.frame.clear_body()
        self.open()


def _dress() -> None:
    """The whole program in the light, targets and text size that are chosen."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    theme.apply(app)
