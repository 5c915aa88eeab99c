"""The window's frame: stages on top, navigation below, notices, undo, scans."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Mapping
from importlib import import_module
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QApplication,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from creekbed.core.errors import CreekbedError
from creekbed.core.turns import Turns, whole
from creekbed.window.frame.device_requests import DeviceRequests
from creekbed.window.frame.navigation import Navigation
from creekbed.window.frame.planning import PICTURES, WindowPlanner
from creekbed.window.frame.preloading import Ahead
from creekbed.window.frame.scans import Scans
from creekbed.window.frame.sitting import add_seat_keys
from creekbed.window.frame.ticking import Ticking
from creekbed.window.frame.upkeep import Upkeep
from creekbed.window.records.opening import ShopOpening
from creekbed.window.shared.printing import Printing
from creekbed.window.shared.standstill import standstill
from creekbed.window.shared.tab_order import go_on, next_pane, reading_order
from creekbed.window.shared.turns import InTurns
from creekbed.window.shared.widgets import label, tip

if TYPE_CHECKING:
    from creekbed.window.frame.notice import Notice
    from creekbed.window.frame.wedge_scanner import Scanner
    from creekbed.workshop.bench.bench_records import Records
    from creekbed.workshop.bench.bench_view import HomeView
    from creekbed.workshop.shop.shop import Done, Shop

IDLE_S = 300.0
"""After how long without a page opened or an action nobody counts as being at the window: house default."""
LAID_OUT_MS = 2
"""Delay before what was drawn is laid out; in the same turn of the window if nothing else is to be done."""
PAGES = {
    "home": ("home.home_page", "HomePage"),
    "job": ("job.job_page", "JobPage"),
    "book_in": ("arrival.book_in_page", "BookInPage"),
    "instruments": ("fleet.instruments_page", "InstrumentsPage"),
    "find": ("fleet.find_page", "FindPage"),
    "stock": ("supplies.stock_page", "StockPage"),
    "count": ("supplies.count_page", "CountPage"),
    "day": ("schedule.schedule_page", "SchedulePage"),
    "mix": ("tools.mix_page", "MixPage"),
    "bath": ("tools.bath_page", "BathPage"),
    "jar": ("tools.jar_page", "JarPage"),
    "agents": ("tools.agents_page", "AgentsPage"),
    "cloths": ("tools.cloths_page", "ClothsPage"),
    "reeds": ("tools.reeds_page", "ReedsPage"),
    "air": ("tools.air_page", "AirPage"),
    "wood": ("tools.wood_page", "WoodPage"),
    "room": ("tools.room_page", "RoomPage"),
    "tuning": ("tools.tuning_page", "TuningPage"),
    "playing": ("tools.playing_page", "PlayingPage"),
    "strings": ("tools.strings_page", "StringsPage"),
    "house": ("shop.house_page", "HousePage"),
    "days": ("shop.days_page", "DaysPage"),
    "bring": ("bringing.bring_page", "BringPage"),
    "book": ("reference.reference_page", "ReferencePage"),
    "history": ("records.history_page", "HistoryPage"),
    "list": ("records.list_page", "ListPage"),
    "journal": ("records.activity_page", "ActivityPage"),
    "devices": ("shop.devices_page", "DevicesPage"),
    "kept": ("records.backups_page", "BackupsPage"),
}
"""Every page by key: its module and class, loaded when first wanted so that the window can open without them."""
AHEAD = ("job", "day")
"""Pages that are made before they are wanted."""


class Frame(QMainWindow):
    """The window. It shows itself at once; :meth:`open_shop` fills it.

    Args:
        open_shop: gives the shop, or raises StoreProblem.
        caliper_port: serial port of the caliper, or "". greeting: said when the bench is drawn.
        devices: kind: port or address of other devices; they go before those of the shop's settings.
        thinking: look for better plans in the background. ahead: make pages before they are wanted.
        upkeep: make a copy every day, and read everything on record once a day.
    """

    done = Signal(object)
    """Something was acknowledged, also in a thread beside the window: told in the window's own."""

    def __init__(
        self, open_shop: Callable[[], Shop], caliper_port: str = "", title: str = "Creekbed", greeting: str = "",
        devices: Mapping[str, str] | None = None, thinking: bool = False,
        ahead: bool = False, upkeep: bool = False,
    ):  # fmt: skip
        super().__init__()
        self.setWindowTitle(title)
        self.resize(1280, 800)
        self.setMinimumSize(1000, 680)
        self.shop: Shop
        self.records: Records
        """What is on record now; :attr:`home` is the picture of the plan, which follows a moment later."""
        self.home: HomeView
        self.notice: Notice = None  # type: ignore[assignment]  # there is one from the first bench on
        self.panes: tuple[QWidget, ...] = ()
        """What is read one after the other: the page, the ways below it, the stages above."""
        for key, forward in (("Ctrl+Tab", True), ("Ctrl+Shift+Tab", False)):
            QShortcut(QKeySequence(key), self, lambda forward=forward: next_pane(self.panes, forward))
        add_seat_keys(self)
        self.forget_shop()
        self.scanner: Scanner | None = None
        self._pages: dict[str, Any] = {}
        self._broken_told: tuple[Any, ...] = ()
        self._touched_at = time.monotonic()
        self.opening = ShopOpening(self, open_shop, greeting, thinking)
        self.done.connect(self.changed)
        self.devices = DeviceRequests(self, {**({"caliper": caliper_port} if caliper_port else {}), **(devices or {})})
        self.planner, self.ticking, self.papers = WindowPlanner(self), Ticking(self), Printing(self)
        self.scans, self.nav = Scans(self), Navigation(self)
        modules = [f"creekbed.window.{module}" for module, _ in PAGES.values()]
        self.ahead = Ahead(self, modules, self._made_ahead, InTurns(self, self.could_not)) if ahead else None
        self.upkeep = Upkeep(self) if upkeep else None
        self.body = QWidget()
        self.body.setObjectName("page")
        self.box = QVBoxLayout(self.body)
        self.box.setContentsMargins(0, 0, 0, 0)
        self.box.setSpacing(0)
        self.opening_words = label("Opening the records …", "title")
        self.opening_words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.box.addWidget(self.opening_words)
        self.setCentralWidget(self.body)

    def forget_shop(self) -> None:
        """There is no shop, until one is opened."""
        self.shop = None  # type: ignore[assignment]
        self.forget_records()

    def forget_records(self) -> None:
        """Nothing is known of the records: all is read anew when it is wanted."""
        self.records = self.home = None  # type: ignore[assignment]

    def open_shop(self) -> bool:
        """Open the records and fill the window, or show what is wrong."""
        return self.opening.open()

    # --- laying out ---------------------------------------------------------------------------------------------

    def leave_work(self) -> None:
        """Drop all work in turns, here and on every page."""
        for work in self.findChildren(InTurns):
            work.drop()

    def clear_body(self) -> None:
        """Take everything out of the window."""
        from creekbed.window.shared.widgets import clear

        self.leave_work()
        clear(self.box)

    def forget_pages(self) -> None:
        """Every page is made anew when it is wanted."""
        self._pages = {}

    def build(self) -> None:
        """Make what stands around the pages."""
        from creekbed.window.frame.notice import Notice
        from creekbed.window.frame.stage_bar import StageBar
        from creekbed.window.frame.ways_bar import WaysBar

        if self._pages:
            self.notice.hide()  # it goes when the loop turns; what is made anew must not stand beside it till then
            self.notice.deleteLater()
        self.clear_body()
        self.forget_pages()
        self.stage_bar = StageBar()
        self.stage_bar.stage_opened.connect(self.nav.open_stage)
        self.box.addWidget(self.stage_bar)
        self.stack = QStackedWidget()
        self.box.addWidget(self.stack, 1)
        bar = WaysBar(self)
        self.ways, self.next_wait, self.undo_button = bar.ways, bar.next_wait, bar.undo_button
        self.panes = (self.stack, bar, self.stage_bar)
        self.box.addWidget(bar)
        self.notice = Notice(self.body, self.stage_bar, self.stack)
        self.words = self.notice.words

    def focusNextPrevChild(self, next: bool) -> bool:
        """The page first, as people read it, then what stands round it."""
        return go_on(self.panes, next) if self.panes else super().focusNextPrevChild(next)

    # --- pages --------------------------------------------------------------------------------------------------

    def page(self, key: str) -> Any:
        """A page, made when first wanted."""
        if key not in self._pages:
            self._pages[key] = self._make(key)
            self.stack.addWidget(self._pages[key])
        return self._pages[key]

    def _make(self, key: str) -> Any:
        module, name = PAGES[key]
        return getattr(import_module(f"creekbed.window.{module}"), name)(self)

    def _made_ahead(self) -> Turns[None]:
        """Prepare what the first action reads, pages that are wanted soon, and drawings of what is on the bench."""
        from creekbed.core.trust import tried
        from creekbed.window.drawings.registry import drawing
        from creekbed.workshop.bench.job_view import load_job

        tried()  # what pages say of how sure a number is
        yield None
        for view in self.records.views[:1]:
            with self.shop.reading() as records:
                load_job(records, self.shop.catalogue, self.shop.now, view.job.id, self.shop.time.clocks)
            yield None
        for key in AHEAD:
            page = self.page(key)
            yield None
            yield from page.ready_in_turns()
        for name in sorted({v.family.drawing for v in self.records.views}):
            drawing(name)
            yield None

    @property
    def idle(self) -> bool:
        """Whether nobody has opened a page or done a thing here for a while."""
        return time.monotonic() - self._touched_at > IDLE_S

    def go_to(self, key: str) -> Any:
        """Have a page on show, and return it."""
        self._touched_at = time.monotonic()
        page = self.page(key)
        if key not in PICTURES:
            self._paint_later(page)
        self.stack.setCurrentWidget(page)
        for name, way in self.ways.items():
            way.setChecked(name == ("mix" if PAGES[key][0].startswith("tools.") else key))
        QTimer.singleShot(0, page, lambda: self._focus_on(page))
        return page

    def _focus_on(self, page: QWidget) -> None:
        """The focus goes along to a page that is opened, unless the page has given it to something already."""
        here = QApplication.focusWidget()
        kept = here is not None and (page.isAncestorOf(here) or self.notice.isAncestorOf(here))
        if kept or page is not self.stack.currentWidget():
            return
        first = next(reading_order(page), None)
        if first is not None and QApplication.activeModalWidget() is None:
            first.setFocus(Qt.FocusReason.OtherFocusReason)

    def start_page(self, key: str, *asked: Any) -> None:
        """Open a page at what is asked for; a refusal is shown."""
        page = self.go_to(key)
        self.in_words(lambda: page.start(*asked))

    def in_words(self, act: Callable[[], Any]) -> None:
        """Do something; what stands against it is said."""
        try:
            act()
        except CreekbedError as error:
            self.could_not(error)

    @staticmethod
    def _paint_later(page: QWidget) -> None:
        """Paint a page in the window's next turn, because painting takes as long as drawing."""
        page.setUpdatesEnabled(False)
        QTimer.singleShot(LAID_OUT_MS, page, lambda: page.setUpdatesEnabled(True))

    @property
    def here(self) -> str:
        """Key of the page on show."""
        return next((k for k, p in self._pages.items() if p is self.stack.currentWidget()), "")

    def do_together(self, job_id: int, key: str) -> None:
        """Finish a step, and the same step of the jobs that are named on its button."""
        from creekbed.workshop.bench.batch import alike, finish_together

        view = self.records.job(job_id)
        step = view.step(key) if view is not None else None
        if view is not None and step is not None and step.work is None:
            others = alike(self.shop, self.records.views, self.records.waits, view, step)
            self.do(lambda: finish_together(self.shop, (job_id, key), others))

    def hands_washed(self) -> None:
        """Who sits here has washed their hands."""
        from creekbed.workshop.cleaning.hand_washing import washed

        self.do(lambda: washed(self.shop))

    # --- doing --------------------------------------------------------------------------------------------------

    def do(self, act: Callable[[], Any]) -> bool:
        """Run a use case; an error is shown in words. True when it was done."""
        self._touched_at = time.monotonic()
        before = self.shop.last_done
        try:
            act()
        except CreekbedError as error:
            self.could_not(error)
            return False
        done = self.shop.last_done
        if done is not None and done is not before:
            self.say(". ".join(w.rstrip(".") for w in (done.words, *done.notes)), warn=bool(done.notes))
        return True

    def undo(self, number: int | None = None) -> None:
        """Undo the last action, or the one with a number, and say which."""
        try:
            done = self.shop.undo(number)
        except CreekbedError as error:
            self.could_not(error)
            self.tell_undo()
            return
        self.say(done.words)

    def changed(self, done: Done) -> None:
        """Something was done: see it."""
        standstill.after(self.refresh)

    def could_not(self, error: CreekbedError) -> None:
        """Say what went wrong."""
        self.say(error.words(), warn=True)

    def refresh(self, *, drawn: bool = True) -> None:
        """Read the records and draw them at once; the plan follows.

        A page that is a picture of the plan is drawn when that is made, at once only where there is none yet.

        Args:
            drawn: whether such a page is drawn as things stood; else it is drawn by the plan there is, till then.
        """
        from creekbed.workshop.bench.bench_records import read
        from creekbed.workshop.bench.bench_view import picture, plan_in_turns

        self.planner.work.drop()
        first = self.home is None
        known = self.records is not None
        other_rules = not first and known and self.records.catalogue is not self.shop.catalogue
        try:
            if not other_rules:  # by those every job is built anew, which is for the turns
                self.records = read(self.shop, self.shop.now, self.records)
            if first:
                self.home = picture(self.shop, whole(plan_in_turns(self.shop, self.records, keep_it=True)))
                self.stage_bar.set_home(self.home)
            self.ticking.ring()
            if self.here and (first or self.here not in PICTURES):
                self.page(self.here).refresh()
        except CreekbedError as error:
            self.could_not(error)
            return
        self.tell_broken()
        if first:
            self.tell_undo()
            self.planner.go_on()
        elif other_rules:
            self.planner.behind = True
            self.planner.plan_anew()
        else:
            self.planner.follow(drawn=drawn)

    def tell_broken(self) -> None:
        """Say once which jobs cannot be shown, and why; the others go on."""
        broken = self.records.broken
        if broken and broken != self._broken_told:
            more = f" ({len(broken) - 1} more.)" if len(broken) > 1 else ""
            self.say(
                broken[0].words + more, warn=True, still=lambda: bool(self.records and self.records.broken),
                about="broken jobs",
            )  # fmt: skip
        self._broken_told = broken

    def tell_undo(self) -> None:
        """Whether something can be taken back, and what."""
        last = next(iter(self.shop.undoable(1)), None)
        self.undo_button.setEnabled(last is not None)
        tip(self.undo_button, f"Takes back: {last.words}" if last is not None else "")

    def say(
        self, words: str, warn: bool = False, still: Callable[[], bool] | None = None, about: object = None,
        act: tuple[str, Callable[[], object]] | None = None,
    ) -> None:  # fmt: skip
        """Show a message; a warning stays until the next message or until it is hidden, others for a short time.

        Args:
            still, about, act: as for :meth:`creekbed.window.frame.notice.Notice.say`.
        """
        self.notice.say(words, warn, still, about, act)

    def where(self, place: str) -> str:
        """Where a wait is, in words: "in the tub"."""
        return next((p.where for p in self.shop.catalogue.house.place if p.key == place), place)

    def something_broke(self, kind: type[BaseException], error: BaseException, trace: Any) -> None:
        """Report a fault of the program: on standard error, and in plain words in the window."""
        sys.__excepthook__(kind, error, trace)
        if self.shop is not None:
            self.say(
                "Creekbed made a mistake and left that undone. What was acknowledged is safe. "
                "Try it another way; if it happens again, tell whoever keeps Creekbed running.",
                warn=True,
            )

    def hush(self) -> None:
        """Hide what was said."""
        self.notice.hush()

    # --- looks --------------------------------------------------------------------------------------------------

    def change_theme(self, **change: Any) -> None:
        """Change light, targets or text size; kept for the next start."""
        self.opening.change_theme(**change)

    def rebuild(self) -> None:
        """Make every page anew in the current theme, and show the bench."""
        self.build()
        self.nav.go_home()
        if self.ahead is not None:
            self.ahead.start()

    def sit_down(self, person: str) -> None:
        """Somebody else works at this window from now on; the next step is theirs."""
        if self.do(lambda: self.shop.sit_down(person)):
            self.say(f"{person} works at this window now.")

    def closeEvent(self, event: QCloseEvent) -> None:
        self.opening.waiting.closing = True
        self.hide()  # what is left to do may wait for the disk
        self.ticking.timer.stop()
        self.planner.stop()
        for part in (self.ahead, self.upkeep):
            if part is not None:
                part.stop()
        self.leave_work()
        self.devices.stop()
        if self.shop is not None:
            self.shop.close()
        super().closeEvent(event)
