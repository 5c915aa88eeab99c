"""The notes of a play-test side by side: how each lies, what was heard before, what is wrong, what sounds now."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.core.conventions import number
from creekbed.core.sound.play_test import OFF_CENTS, NoteResult
from creekbed.window.shared import theme
from creekbed.words.play_test import FAULTS, faults_words, note_words

MOST_CENTS = 60.0
MARKS = (-40, -20, 0, 20, 40)
LINES = 3
"""So many faults stand below a note."""
NARROW, STEP = 34, 3
"""Narrower columns, px, have a name at every so many-th note only."""


class ScalePicture(QWidget):
    """One column for each note. Discs: now; rings: earlier; words below: what is wrong."""

    def __init__(self) -> None:
        super().__init__()
        self.notes: Sequence[NoteResult] = ()
        self.before: Sequence[tuple[str, dict[str, float]]] = ()
        self.sounding = -1
        self.asked = -1
        self.setMinimumHeight(theme.current.px(250))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def set_notes(
        self, notes: Sequence[NoteResult], before: Sequence[tuple[str, dict[str, float]]], asked: int
    ) -> None:
        """Show what was heard.

        Args:
            before: earlier play-tests: when, and cents by written note. asked: which note is wanted next, or −1.
        """
        self.notes, self.before, self.asked = notes, before, asked
        said = [f"{note_words(n.note.written)} {faults_words(n) or 'good'}" for n in notes if n.played]
        self.setAccessibleName(f"Notes: {', '.join(said) or 'none was played yet'}")
        self.update()

    def set_sounding(self, which: int) -> None:
        """Mark the note that sounds now, or none: −1."""
        if which != self.sounding:
            self.sounding = which
            self.update()

    def _plot(self) -> QRectF:
        below = theme.current.px(22) + LINES * theme.current.px(18) + 6
        return QRectF(self.rect()).adjusted(theme.current.px(44), theme.current.px(16), -4, -below)

    def _y(self, plot: QRectF, cents: float) -> float:
        share = (MOST_CENTS - min(max(cents, -MOST_CENTS), MOST_CENTS)) / (2 * MOST_CENTS)
        return plot.top() + share * plot.height()

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.notes:
            return
        painter, plot = QPainter(self), self._plot()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._draw_ground(painter, plot)
        wide = plot.width() / len(self.notes)
        for n, note in enumerate(self.notes):
            column = QRectF(plot.left() + n * wide, plot.top(), wide, plot.height())
            self._draw_column(painter, plot, column, n, note)
        painter.end()

    def _draw_ground(self, painter: QPainter, plot: QRectF) -> None:
        c = theme.current.c
        top, bottom = self._y(plot, OFF_CENTS), self._y(plot, -OFF_CENTS)
        painter.fillRect(QRectF(plot.left(), top, plot.width(), bottom - top), c.q("water"))
        painter.setFont(theme.current.font(13))
        for cents in MARKS:
            y = self._y(plot, cents)
            painter.setPen(QPen(c.q("muted" if cents == 0 else "line"), 1))
            painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
            painter.setPen(c.q("muted"))
            words = "0" if not cents else f"{'+' if cents > 0 else '−'}{number(abs(cents), 0)}"
            box = QRectF(0, y - 10, plot.left() - 6, 20)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        painter.drawText(QRectF(0, 0, plot.left() + 60, plot.top()), Qt.AlignmentFlag.AlignLeft, "cents")

    def _draw_column(self, painter: QPainter, plot: QRectF, column: QRectF, n: int, note: NoteResult) -> None:
        c, x = theme.current.c, column.center().x()
        if n in (self.sounding, self.asked):
            sounds = n == self.sounding
            painter.setPen(
                QPen(c.q("ink"), 3 if sounds else 2, Qt.PenStyle.SolidLine if sounds else Qt.PenStyle.DotLine)
            )
            painter.setBrush(Qt.BrushStyle.NoBrush)
            box = QRectF(column.left() + 2, 2, column.width() - 4, self.height() - 4)
            painter.drawRoundedRect(box, theme.RADIUS, theme.RADIUS)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for age, (_, lay) in enumerate(self.before):
            if note.note.written in lay:
                painter.setPen(QPen(c.q("muted"), 2))
                radius = 5.0 - age
                painter.drawEllipse(QPointF(x + 10 + 7 * age, self._y(plot, lay[note.note.written])), radius, radius)
        if note.heard is not None and "jumps" not in note.faults:
            self._draw_note(painter, plot, x, note)
        narrow = column.width() < theme.current.px(NARROW)
        name = QRectF(column.left(), plot.bottom() + 4, column.width(), theme.current.px(22))
        if narrow and not self._named(n, note):
            return
        if narrow:  # names stand in turns in two lines
            name = name.adjusted(-20, 0, 20, 0)
            name.translate(0, (n // STEP % 2) * name.height())
        painter.setPen(c.q("warn" if narrow and note.faults else "ink" if note.played or n == self.asked else "muted"))
        painter.setFont(theme.current.font(13 if narrow else theme.TEXT_SIZE, note.played))
        painter.drawText(name, Qt.AlignmentFlag.AlignHCenter, _short(note.note.written))
        if narrow:
            return  # what is wrong is said beside the picture
        painter.setFont(theme.current.font(13, True))
        painter.setPen(c.q("warn"))
        line = QRectF(column.left() - 6, name.bottom(), column.width() + 12, theme.current.px(18))
        for fault in note.faults[:LINES]:
            painter.drawText(line, Qt.AlignmentFlag.AlignHCenter, FAULTS[fault].split(" ")[0])
            line.translate(0, line.height())

    def _named(self, n: int, note: NoteResult) -> bool:
        """Whether a narrow column has its name: every third, what is wanted, what sounds, and what is wrong."""
        return n % STEP == 0 or n in (self.asked, self.sounding) or bool(note.faults)

    def _draw_note(self, painter: QPainter, plot: QRectF, x: float, note: NoteResult) -> None:
        c, y = theme.current.c, self._y(plot, note.off_cents)
        painter.setPen(QPen(c.q("ink"), 2))
        low, high = (self._y(plot, note.off_cents + side * 2 * note.u_cents) for side in (-1, 1))
        painter.drawLine(QPointF(x, low), QPointF(x, high))
        bad = bool(note.faults)
        painter.setBrush(c.q("warn" if bad else "deep"))
        painter.setPen(QPen(c.q("ink"), 2))
        size = min(7.0, plot.width() / max(len(self.notes), 1) / 2.6)
        if bad:  # a square: what is wrong is known by its shape too
            painter.drawRect(QRectF(x - size, y - size, 2 * size, 2 * size))
        else:
            painter.drawEllipse(QPointF(x, y), size, size)


def _short(written: str) -> str:
    """A note's name for a narrow column: "B♭3"."""
    words = note_words(written).split(" ")
    if len(words) == 1:
        return words[0]
    return f"{words[0]}{'♭' if words[1] == 'flat' else '#'}{words[2]}"
