"""The history of one instrument: condition out and in side by side, work, waits, parts."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from creekbed.core.conventions import clock, number
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import button, card, clear, label, scroll
from creekbed.words.findings import disinfection_words
from creekbed.workshop.inspection.history import History, Period, history

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

STATUS = {
    "new": "new", "grown": "grown", "unchanged": "unchanged", "better": "better", "changed": "changed",
    "missing": "missing", "": "",
}  # fmt: skip


class HistoryPage(Page):
    """One period (a hire and the job after it) in a card, newest first."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.tag = ""
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        head = QHBoxLayout()
        self.title = label("", "title", wrap=False)
        self.ways_on = QHBoxLayout()
        self.ways_on.setSpacing(theme.STEP)
        head.addWidget(self.title)
        head.addStretch(1)
        head.addLayout(self.ways_on)
        box.addLayout(head)
        inner = QWidget()
        self.column = QVBoxLayout(inner)
        self.column.setContentsMargins(0, 0, 8, 0)
        self.column.setSpacing(theme.STEP)
        box.addWidget(scroll(inner), 1)

    def start(self, tag: str) -> None:
        """Show an instrument."""
        self.tag = tag
        self.refresh()

    def refresh(self) -> None:
        if not self.tag:
            return
        found = history(self.shop, self.tag)
        clear(self.column)
        clear(self.ways_on)
        about = f"{found.family} {found.size}".rstrip()
        self.title.setText(f"{self.tag}  {about}, serial {found.instrument.serial or 'not noted'}")
        self._actions(found)
        for period in found.periods:
            self.column.addWidget(self._period(period))
        if not found.periods:
            self.column.addWidget(label("No hire is on record yet.", tone="muted"))
        self.column.addStretch(1)

    def _actions(self, found: History) -> None:
        nav = self.frame.nav
        job = found.periods[0].job if found.periods else None
        if job is not None and job.state == "open":
            self.ways_on.addWidget(button("Open its job", lambda: nav.open_job(job.id), "primary", "open_job"))
        elif job is not None and job.state == "ready":
            self.ways_on.addWidget(
                button(
                    "Tag again (PDF)", lambda: self.frame.papers.save_tag(found.periods[0].tag_facts), "", "tag_again"
                )
            )
        else:
            self.ways_on.addWidget(button("Book it in", lambda: nav.open_book_in(self.tag), "primary", "book"))

    def _period(self, period: Period) -> QWidget:
        frame, box = card()
        job, hire = period.job, period.hire
        parts = []
        if hire is not None:
            back = f" to {hire.back_at.astimezone():%d %b %Y}" if hire.back_at else ", still out"
            parts.append(f"Hired {hire.out_at.astimezone():%d %b %Y}{back}, {hire.group_name or hire.renter}")
        if job is not None:
            state = {"open": "on the bench", "ready": "ready", "gone": "went out again"}[job.state]
            parts.append(f"job of {job.opened_at.astimezone():%d %b %Y}, {state}")
        box.addWidget(label("; ".join(parts).capitalize() if not hire else "; ".join(parts), "name"))
        if period.compared:
            box.addLayout(self._compare(period))
        if period.work:
            lines = []
            for work in period.work:
                done = "" if work.state == "done" else f" ({work.state}: {work.reason})"
                lines.append(f"{clock(work.at, '%a ')}  {work.what}{done}, {work.person}")
            box.addWidget(label("Work", "small"))
            box.addWidget(label("\n".join(lines)))
        if period.playings:
            from creekbed.words.play_test import kept_words  # it loads what reckons with sound: only where it is wanted

            lines = [f"{clock(p.at, '%a ')}  {kept_words(p.lies_cents, p.notes)}, {p.person}" for p in period.playings]
            box.addWidget(label("Play-test by sound", "small"))
            box.addWidget(label("\n".join(lines)))
        waits = [w for w in period.waits if w.wet and (w.ended_at is None or not period.disinfections)]
        if waits or period.disinfections:
            lines = [
                f"{clock(datetime.fromisoformat(d['ended_at']), '%a ')}  {disinfection_words(d)}"
                for d in period.disinfections
            ]
            for wait in waits:
                if wait.ended_at is None or wait.wet_since is None:
                    lines.append(f"{wait.name}: runs, {number(wait.min_minutes)} min wet asked for")
                    continue
                wet = (wait.ended_at - wait.wet_since).total_seconds() / 60
                again = f", {wait.restarts} times dried and begun again" if wait.restarts else ""
                note = "" if wait.ended_why == "done" else f", {wait.ended_why}"
                lines.append(
                    f"{wait.name}: {number(wet, 0)} min wet of {number(wait.min_minutes)} asked for{again}{note}"
                )
            box.addWidget(label("Disinfecting", "small"))
            box.addWidget(label("\n".join(lines)))
        if period.parts:
            box.addWidget(label("Parts and supplies", "small"))
            box.addWidget(label(", ".join(f"{name}: {number(amount)} {unit}" for name, amount, unit in period.parts)))
        return frame

    def _compare(self, period: Period) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(24)
        grid.setVerticalSpacing(4)
        for column, words in enumerate(("", "Went out", "Came in", "")):
            grid.addWidget(label(words, "small"), 0, column)
        for n, line in enumerate(period.compared, 1):
            bad = line.status in ("new", "grown", "missing")
            grid.addWidget(label(line.what), n, 0)
            grid.addWidget(label(line.out, tone="muted"), n, 1)
            grid.addWidget(label(line.came_in), n, 2)
            grid.addWidget(label(STATUS[line.status], tone="warn" if bad else "muted"), n, 3)
        for column, stretch in enumerate((22, 26, 40, 12)):
            grid.setColumnStretch(column, stretch)
        return grid
