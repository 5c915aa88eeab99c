"""Days and departures: how instruments leave, on which days the shop is closed, and seasons with other hours."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from creekbed.core.conventions import clock
from creekbed.core.errors import BadInput
from creekbed.interchange.calendar_file import MOST_BYTES, CalendarFile, read_calendar
from creekbed.interchange.files import chosen_file
from creekbed.store.records import ClosedDays, Season
from creekbed.window.shared import theme
from creekbed.window.shared.background_task import Ask
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import Flow, button, card, clear, focus_name, label, refocus, row, scroll
from creekbed.window.shop.days_forms import DaysOffForm, SeasonForm, WayForm
from creekbed.words.calendar import ON_CLOSED, season_words
from creekbed.workshop.shop import departures, shop_days
from creekbed.workshop.shop.bench_capacity import opening

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

SHOWN = 8
"""So many coming departures are listed."""
FORMS = (("way", "How they leave"), ("off", "Days off"), ("season", "Other hours"))
"""What can be added: key, words."""


class DaysPage(Page):
    """On the left what holds, on the right the form for what is added or changed."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.changing: int | None = None
        """The kind of departures that is being changed."""
        self._reading: Ask | None = None
        box = QHBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP * 2)
        inner = QWidget()
        self.lists = QVBoxLayout(inner)
        self.lists.setContentsMargins(0, 0, 8, 0)
        self.lists.setSpacing(theme.STEP * 2)
        left = QVBoxLayout()
        left.setSpacing(theme.STEP)
        left.addWidget(label("Days and departures", "title"))
        left.addWidget(scroll(inner), 1)
        box.addLayout(left, 55)
        surface, right = card(margin=20)
        self.tabs = {}
        tabs, holder = Flow(), QWidget()
        holder.setLayout(tabs)
        for key, words in FORMS:
            tab = self.tabs[key] = button(words, partial(self.show_form, key), "", f"form_{key}")
            tab.setCheckable(True)
            tabs.addWidget(tab)
        right.addWidget(holder)
        self.way, self.off, self.season = (
            WayForm(self._keep_way, self._leave),
            DaysOffForm(self._keep_off),
            SeasonForm(self._keep_season),
        )
        self.off.file.clicked.connect(self._bring)
        self.forms = {"way": self.way, "off": self.off, "season": self.season}
        for form in self.forms.values():
            right.addWidget(form, 1)
        box.addWidget(scroll(surface), 45)

    def start(self, form: str = "way") -> None:
        """Open the page with one of the forms."""
        self.changing = None
        today = self.shop.now.astimezone().date()
        self.way.empty(today)
        self.off.empty(today)
        self.season.empty(today, opening(self.shop))
        self.show_form(form)
        self.refresh()

    def show_form(self, key: str) -> None:
        """Show one of the forms."""
        for name, form in self.forms.items():
            self.tabs[name].setChecked(name == key)
            form.setVisible(name == key)

    # --- what holds --------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        focused = focus_name(self)
        clear(self.lists)
        self._show_ways()
        self._show_coming()
        found = shop_days.shop_days(self.shop)
        closed = self._section("Closed", "No days off are known.")
        for off in found.closed:
            self._days(closed, off, shop_days.days_of(off))
        seasons = self._section("Other hours", "The usual hours hold all year.")
        for season in found.seasons:
            self._days(seasons, season, f"{shop_days.days_of(season)}. {season_words(season.hours)}")
        self.lists.addStretch(1)
        refocus(self, focused)

    def _section(self, title: str, none: str) -> QVBoxLayout:
        surface, inside = card()
        inside.addWidget(label(title, "name"))
        words = label(none, tone="muted")
        words.setObjectName("none")
        inside.addWidget(words)
        self.lists.addWidget(surface)
        return inside

    def _line(self, into: QVBoxLayout, name: str, words: str, *presses: QWidget) -> None:
        """A line of a section: what it is called, what it means, and what can be done with it."""
        for n in range(into.count()):
            found = into.itemAt(n).widget()  # type: ignore[union-attr]
            if found is not None and found.objectName() == "none":
                found.hide()
        texts = QVBoxLayout()
        texts.setSpacing(0)
        texts.addWidget(label(name))
        if words:
            texts.addWidget(label(words, tone="muted"))
        line = row()
        line.addLayout(texts, 1)
        for press in presses:
            line.addWidget(press)
        into.addLayout(line)

    def _show_ways(self) -> None:
        into = self._section(
            "How instruments leave",
            "Nothing is known yet: a van on Mondays, a school's delivery on dates? Without any, each job can have a "
            "due time of its own.",
        )  # fmt: skip
        for kind in departures.kinds(self.shop):
            closed = ON_CLOSED.get(kind.on_closed, "")
            change = button("Change", partial(self._change, kind.id), "quiet", f"change_way_{kind.id}")
            drop = button("Take off", partial(self._drop, kind.id), "quiet", f"drop_way_{kind.id}")
            for press, what in ((change, "Change"), (drop, "Take off")):
                press.setAccessibleName(f"{what}: {kind.name}")
            self._line(into, kind.name, f"{departures.rhythm_said(kind)}; on a closed day it {closed}", change, drop)

    def _show_coming(self) -> None:
        into = self._section("Next", "No departure is on the list.")
        for departure in departures.coming_departures(self.shop)[:SHOWN]:
            off = button("Does not leave", partial(self._cancel, departure.id), "quiet", f"cancel_{departure.id}")
            off.setAccessibleName(f"Does not leave: {departure.name}, {departure.leaves_at.astimezone():%a %d %b}")
            self._line(into, f"{clock(departure.leaves_at, '%a %d %b ')}  {departure.name}", "", off)

    def _days(self, into: QVBoxLayout, days: ClosedDays | Season, words: str) -> None:
        off = button("Take off", partial(self._remove, type(days), days.id), "quiet", f"drop_{days.TABLE}_{days.id}")
        off.setAccessibleName(f"Take off: {days.name}")
        self._line(into, days.name, words, off)

    # --- what people do ----------------------------------------------------------------------------------------------

    def _change(self, number: int) -> None:
        kind = next((k for k in departures.kinds(self.shop) if k.id == number), None)
        if kind is not None:
            self.changing = number
            self.way.fill(kind)
            self.show_form("way")
            self.way.name.setFocus()

    def _leave(self) -> None:
        """Change nothing after all."""
        self.changing = None
        self.way.empty(self.shop.now.astimezone().date())

    def _drop(self, number: int) -> None:
        self.do(lambda: departures.drop_kind(self.shop, number))

    def _cancel(self, number: int) -> None:
        self.do(lambda: departures.cancel_departure(self.shop, number))

    def _remove(self, kind: type[ClosedDays] | type[Season], number: int) -> None:
        self.do(lambda: shop_days.remove_days(self.shop, kind, number))

    def _keep_way(self) -> None:
        today, number = self.shop.now.astimezone().date(), self.changing

        def act() -> None:
            wanted = self.way.request(today)
            if number is None:
                departures.add_kind(self.shop, wanted)
            else:
                departures.change_kind(self.shop, number, wanted)

        if self.do(act):
            self.changing = None
            self.way.empty(today)

    def _keep_off(self) -> None:
        first, last = self.off.days()
        if self.do(
            lambda: shop_days.close(self.shop, self.off.name.text(), first, last, yearly=self.off.yearly.isChecked())
        ):
            self.off.empty(first)

    def _keep_season(self) -> None:
        form = self.season
        first, last = form.days()

        def act() -> None:
            shop_days.set_season(self.shop, form.name.text(), first, last, form.hours(), yearly=form.yearly.isChecked())

        if self.do(act):
            form.empty(first, opening(self.shop))

    def _bring(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "A calendar of days off", "", "Calendar (*.ics)")
        if path and self._reading is None:
            self.bring_file(Path(path))

    def bring_file(self, path: Path) -> None:
        """Read a calendar file in the background, then take its days off over."""
        today = self.shop.now.astimezone().date()
        self._reading = Ask(lambda: read_calendar(chosen_file(path, MOST_BYTES), today))
        self._reading.answered.connect(self._brought)
        self._reading.failed.connect(self.frame.could_not)
        self._reading.finished.connect(self._read_over)
        self.off.file.setEnabled(False)
        self._reading.start()

    def _read_over(self) -> None:
        self._reading = None
        self.off.file.setEnabled(True)

    def _brought(self, found: CalendarFile) -> None:
        def act() -> None:
            if not found.holidays:
                raise BadInput(
                    "There are no days off in that file.", todo="Whole days of the coming two years are read."
                )
            shop_days.bring_holidays(self.shop, found.holidays)

        self.do(act)
