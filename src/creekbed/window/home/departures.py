"""The departures: a card for each, with the instruments that make it, and those that do not and why."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from creekbed.window.schedule.schedule_picture import stone_path
from creekbed.window.shared import theme
from creekbed.window.shared.times import clock_words, in_words
from creekbed.window.shared.widgets import Flow, button, label, restyle, scroll, tip
from creekbed.words.plan import odds, span
from creekbed.workshop.bench.bench_view import HomeView, Shipment, ShipmentItem
from creekbed.workshop.bench.schedule_view import DOUBT


class Stone(QPushButton):
    """One instrument of a departure: its number, and its forecast or what blocks it.

    The more is done, the rounder; where its boat is in doubt it has corners, and says how likely it is.
    """

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("kind", "drawn")
        self.aboard: ShipmentItem | None = None
        self.big = self.small = ""
        self.trouble = self.doubt = False
        self._size = QSize(76, theme.current.target)

    def set_aboard(self, aboard: ShipmentItem, now: datetime) -> None:
        """Show an instrument as it stands now."""
        self.aboard = aboard
        self.big = aboard.tag.split("-")[-1]
        if aboard.blocked:
            self.small = aboard.blocked
        elif aboard.ready:
            self.small = "ready"
        elif aboard.finish is None:
            self.small = "no forecast"
        elif aboard.late_min > 0:
            self.small = f"{span(aboard.late_min)} late"
        else:
            self.small = clock_words(aboard.finish, now)
        if aboard.away is not None and not aboard.blocked:
            self.small = f"away till {aboard.away.astimezone():%a}, {self.small}"
        if aboard.part and not aboard.blocked:
            self.small = f"{aboard.part}, then {self.small}"
        doubt = aboard.chance is not None and aboard.chance < DOUBT and not aboard.ready and not aboard.blocked
        self.doubt = doubt and aboard.late_min <= 0
        if self.doubt and aboard.chance is not None:
            self.small += f", {odds(aboard.chance)}"
        self.trouble = bool(aboard.blocked) or aboard.late_min > 0 or (aboard.finish is None and not aboard.ready)
        words = f"{aboard.tag}, {aboard.family}: {self.small}"
        self.setAccessibleName(words)
        tip(self, words)
        self.setObjectName(f"stone_{aboard.tag}")
        big = QFontMetrics(theme.current.font(theme.TEXT_SIZE, True)).horizontalAdvance(self.big)
        wide = max(big, QFontMetrics(theme.current.font(13)).horizontalAdvance(self.small))
        wide += 42 if self.trouble or aboard.ready else 24
        size = QSize(max(theme.current.px(76), wide), theme.current.target)
        if size != self._size:
            self._size = size
            self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return self._size

    def minimumSizeHint(self) -> QSize:
        return self._size

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.aboard is None:
            return
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        round_by = 5 + (box.height() / 2 - 5) * (1.0 if self.aboard.ready else self.aboard.share)
        painter.setBrush(c.q("warn_soft" if self.trouble else "water" if self.aboard.ready else "card"))
        edge = (
            c.q("focus")
            if self.hasFocus()
            else c.q("warn" if self.trouble else "deep" if self.aboard.ready else "muted")
        )
        painter.setPen(QPen(edge, 3 if self.hasFocus() else 2 if self.trouble else 1.3))
        if self.doubt:  # the less likely, the sharper
            painter.drawPath(stone_path(box, False, self.aboard.chance))
        else:
            painter.drawRoundedRect(box, round_by, round_by)
        left = 12.0
        if self.trouble or self.aboard.ready:
            painter.setPen(QPen(c.q("warn" if self.trouble else "deep"), 2.2))
            y, x = box.center().y(), box.left() + 15
            if self.trouble:  # a rock in the stream
                painter.drawPolygon([QPointF(x - 6, y + 6), QPointF(x, y - 6), QPointF(x + 6, y + 6)])
            else:  # a tick
                painter.drawPolyline([QPointF(x - 6, y), QPointF(x - 1, y + 5), QPointF(x + 6, y - 5)])
            left = 28.0
        text = box.adjusted(left, 3, -8, -3)
        painter.setPen(c.q("ink"))
        painter.setFont(theme.current.font(theme.TEXT_SIZE, True))
        painter.drawText(text, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, self.big)
        painter.setFont(theme.current.font(13))
        painter.setPen(c.q("warn" if self.trouble else "ink"))
        painter.drawText(text, Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft, self.small)
        painter.end()


UNDATED = 0
"""Key of the card for what has no boat yet."""


class LandingCard(QFrame):
    """One departure: when it leaves, how many instruments will be on it, each as a stone."""

    opened = Signal(int)
    help_wanted = Signal(int)

    def __init__(self, departure_id: int):
        super().__init__()
        self.setObjectName("card")
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 12, 12, 12)
        box.setSpacing(4)
        self.head, self.count = label("", "name"), label("", tone="muted")
        self.count.setFont(theme.current.font(theme.TEXT_SIZE, True))
        inner = QWidget()
        self.flow = Flow(6)
        inner.setLayout(self.flow)
        self.stones: list[Stone] = []
        self.help = button("What would help?", lambda: self.help_wanted.emit(departure_id), "warn", "help")
        for widget in (self.head, self.count):
            box.addWidget(widget)
        box.addWidget(scroll(inner), 1)
        box.addWidget(self.help)

    def set_landing(self, landing: Shipment, now: datetime) -> None:
        """Show a landing as it stands now."""
        makes, total, departure = landing.will_make_it, len(landing.aboard), landing.departure
        self.head.setText(f"{departure.name}  {clock_words(departure.leaves_at, now)}")
        words = f"{makes} of {total} will be aboard" if total else "nothing booked for it"
        if departure.leaves_at < now and total:
            words = f"{sum(a.ready for a in landing.aboard)} of {total} went"
        self.count.setText(f"{words}, {in_words(departure.leaves_at, now)}")
        restyle(self.count, tone="warn" if makes < total else "muted")
        self._set_stones(landing.aboard, now)
        self.help.setVisible(any(a.late_min > 0 and not a.blocked for a in landing.aboard))

    def set_undated(self, aboard: tuple[ShipmentItem, ...], now: datetime) -> None:
        """Show what has no boat yet."""
        self.head.setText("No boat set")
        self.count.setText(f"{len(aboard)} without a day to be ready")
        restyle(self.count, tone="muted")
        self.help.hide()
        self._set_stones(aboard, now)

    def _set_stones(self, aboard: tuple[ShipmentItem, ...], now: datetime) -> None:
        total = len(aboard)
        while len(self.stones) < total:
            stone = Stone()
            stone.clicked.connect(lambda checked=False, s=stone: self.opened.emit(s.aboard.job_id))
            self.flow.addWidget(stone)
            self.stones.append(stone)
        for n, stone in enumerate(self.stones):
            stone.setVisible(n < total)
            if n < total:
                stone.set_aboard(aboard[n], now)


class Landings(QWidget):
    """The next departures side by side, and jobs without one; three cards at most."""

    opened = Signal(int)
    help_wanted = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.box = QHBoxLayout(self)
        self.box.setContentsMargins(0, 0, 0, 0)
        self.box.setSpacing(theme.STEP * 2)
        self.cards: dict[int, LandingCard] = {}
        self.none = label("No boat is on the list. Add one when you book in.", tone="muted")
        self.box.addWidget(self.none)

    def set_home(self, home: HomeView) -> None:
        """Show the landings of a home view."""
        shown = home.landings[: 2 if home.undated else 3]
        wanted = [x.departure.id for x in shown] + [UNDATED] * bool(home.undated)
        if wanted != list(self.cards):
            for card in self.cards.values():
                card.hide()
                card.deleteLater()
            self.cards = {}
            for key in wanted:
                card = LandingCard(key)
                card.opened.connect(self.opened)
                card.help_wanted.connect(self.help_wanted)
                self.box.addWidget(card)
                self.cards[key] = card
        self.none.setVisible(not wanted)
        for landing in shown:
            card = self.cards[landing.departure.id]
            card.set_landing(landing, home.now)
            self.box.setStretchFactor(card, 3 if len(landing.aboard) > 6 else 2)
        if home.undated:
            self.cards[UNDATED].set_undated(home.undated, home.now)
            self.box.setStretchFactor(self.cards[UNDATED], 2)
