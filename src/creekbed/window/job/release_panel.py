"""The gate: every condition of ready, and the tag."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import segno
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from creekbed.papers.tag import (
    CODE_MM,
    HEIGHT_MM,
    QUIET_MODULES,
    WIDTH_MM,
    Laid,
    house_rules,
    laid_out,
    need_fonts,
    tag_lines,
)
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, card, clear, label, row, scroll
from creekbed.words.release import NAMES, condition_words
from creekbed.workshop.bench import settling
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.release.release_check import release_check, tag_facts

if TYPE_CHECKING:
    from creekbed.window.job.job_page import JobPage


MM_PER_POINT = 25.4 / 72


class ConditionSign(QWidget):
    """A tick where a condition is met, a rock where it is not."""

    def __init__(self, holds: bool):
        super().__init__()
        self.holds = holds
        self.setFixedSize(theme.current.px(32), theme.current.px(32))
        self.setAccessibleName("holds" if holds else "does not hold yet")

    def paintEvent(self, event: QPaintEvent) -> None:
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(3, 3, -3, -3)
        m = box.center()
        if self.holds:
            painter.setPen(QPen(c.q("deep"), 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawPolyline(
                [
                    QPointF(box.left() + 3, m.y()),
                    QPointF(m.x() - 2, box.bottom() - 5),
                    QPointF(box.right() - 2, box.top() + 5),
                ]
            )
        else:
            painter.setPen(QPen(c.q("warn"), 2.5))
            painter.drawPolygon(
                [QPointF(box.left(), box.bottom()), QPointF(m.x(), box.top()), QPointF(box.right(), box.bottom())]
            )
        painter.end()


class TagPreview(QWidget):
    """The tag as it will be printed, 90 × 60 mm."""

    def __init__(self) -> None:
        super().__init__()
        self.facts: dict[str, Any] | None = None
        self.laid: Laid = []
        self.setMinimumSize(330, 220)
        self.setMaximumSize(450, 300)

    def set_facts(self, facts: dict[str, Any]) -> None:
        self.facts = facts
        need_fonts()
        self.laid = laid_out(tag_lines(facts), house_rules(facts))
        self.setAccessibleName(f"Tag of {facts['tag']}: " + "; ".join(line for _, line in tag_lines(facts)))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.facts is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        unit = min(self.width() / WIDTH_MM, self.height() / HEIGHT_MM)  # px for each mm
        painter.setPen(QPen(theme.current.c.q("muted"), 1))
        painter.setBrush(QColor("white"))  # paper is white by day and at dusk
        painter.drawRoundedRect(QRectF(0.5, 0.5, WIDTH_MM * unit - 1, HEIGHT_MM * unit - 1), 6, 6)
        painter.setPen(QColor("black"))

        def text(size_mm: float, bold: bool, y_mm: float, words: str) -> None:
            font = theme.current.font(10, bold)
            font.setPixelSize(max(7, round(size_mm * unit)))
            painter.setFont(font)
            painter.drawText(QPointF(6 * unit, y_mm * unit), words)

        text(7.8, True, 12, str(self.facts["tag"]))
        text(3.9, False, 17.5, f"{self.facts['family']} {self.facts.get('size') or ''}")
        for name, points, y, line in self.laid:
            text(points * MM_PER_POINT, name == "Strong", HEIGHT_MM - y, line)
        matrix = segno.make(str(self.facts["tag"]), error="q", micro=False).matrix
        side = CODE_MM * unit / (len(matrix) + 2 * QUIET_MODULES)
        left, top = (WIDTH_MM - CODE_MM - 2) * unit, 2 * unit
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for r, cells in enumerate(matrix):
            for k, dark in enumerate(cells):
                if dark:
                    x, at = left + (k + QUIET_MODULES) * side, top + (r + QUIET_MODULES) * side
                    painter.fillRect(QRectF(x, at, side + 0.6, side + 0.6), QColor("black"))
        painter.end()


class GatePanel(QWidget):
    """The release check; its action is enabled only when all conditions are met."""

    def __init__(self, page: JobPage):
        super().__init__()
        self.page = page
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        frame, inner = card(margin=16)
        self.head = label("", "title")
        inner.addWidget(self.head)
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(16)
        self.grid.setVerticalSpacing(3)
        columns = QHBoxLayout()
        columns.setSpacing(theme.STEP * 4)
        columns.addLayout(self.grid, 1)
        side = QVBoxLayout()
        side.setSpacing(theme.STEP)
        side.addWidget(label("The tag", "small"))
        self.preview = TagPreview()
        side.addWidget(self.preview, 1)
        side.addStretch(1)
        columns.addLayout(side)
        inner.addLayout(columns)
        self.ready = button("Ready: print the tag", self._ready, "primary", "make_ready", "F2")
        inner.addStretch(1)
        inner.addLayout(row(self.ready, None))
        box.addWidget(scroll(frame))

    def show_job(self, view: JobView) -> None:
        """Draw the gate of a job."""
        clear(self.grid)
        lines = release_check(view)
        missing = [x for x in lines if not x.holds]
        self.head.setText(
            "All conditions met."
            if not missing
            else f"Not ready yet: {len(missing)} of {len(lines)} conditions not met."
        )
        for n, line in enumerate(lines):
            self.grid.addWidget(ConditionSign(line.holds), n, 0)
            self.grid.addWidget(label(NAMES[line.key], "name"), n, 1)
            self.grid.addWidget(label(condition_words(line), tone="muted" if line.holds else "warn"), n, 2)
            if line.key == "strings" and any(p.code == "drifts" for p in line.problems):
                self.grid.addWidget(button("Accept …", self._accept_strings, "", "accept_strings"), n, 3)
        self.grid.setColumnStretch(1, 4)
        self.grid.setColumnStretch(2, 5)
        self.ready.setEnabled(not missing)
        self.preview.set_facts(tag_facts(self.page.shop, view))

    def _accept_strings(self) -> None:
        view = self.page.view
        assert view is not None
        reason = self.page.ask(
            "New strings that may not hold", "Why may it go out so? The renter must tune it on the first day.",
            ready=("the renter tunes it", "the teacher tunes it"), ok="Accept it",
        )  # fmt: skip
        if reason is not None:
            job = view.job.id
            self.page.do(lambda: settling.accept(self.page.shop, job, reason))

    def _ready(self) -> None:
        view = self.page.view
        assert view is not None
        self.page.frame.papers.make_ready(view.job.id)
