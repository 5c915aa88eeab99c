"""The departures: a card for each, with the instruments that make it, and those that do not and why."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from creekbed.window.schedule.schedule_picture import bar_path
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import Flow, button, label, restyle, scroll, tip
from creekbed.words.chances import odds
from creekbed.words.times import clock_words, in_words, span
from creekbed.workshop.bench.bench_view import HomeView, Shipment, ShipmentItem
from creekbed.workshop.bench.schedule_view import DOUBT


class ItemButton(QPushButton):
    """One instrument of a departure: its number, and its forecast or what blocks it.

    The more is done, the rounder; where its departure is in doubt it has corners, and says how likely it is.
    """

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("kind", "drawn")
        self.item: ShipmentItem | None = None
        self.big = self.small = ""
        self.trouble = self.doubt = False
        self._size = QSize(76, theme.current.target)

    def set_item(self, item: ShipmentItem, now: datetime) -> None:
        """Show an instrument as it stands now."""
        self.item = item
        self.big = item.tag.split("-")[-1]
        if item.blocked:
            self.small = item.blocked
        elif item.ready:
            self.small = "ready"
        elif item.finish is None:
            self.small = "no forecast"
        elif item.late_min > 0:
            self.small = f"{span(item.late_min)} late"
        else:
            self.small = clock_words(item.finish, now)
        if item.away is not None and not item.blocked:
            self.small = f"away till {item.away.astimezone():%a}, {self.small}"
        if item.part and not item.blocked:
            self.small = f"{item.part}, then {self.small}"
        doubt = item.chance is not None and item.chance < DOUBT and not item.ready and not item.blocked
        self.doubt = doubt and item.late_min <= 0
        if self.doubt and item.chance is not None:
            self.small += f", {odds(item.chance)}"
        self.trouble = bool(item.blocked) or item.late_min > 0 or (item.finish is None and not item.ready)
        words = f"{item.tag}, {item.family}: {self.small}"
        self.setAccessibleName(words)
        tip(self, words)
        self.setObjectName(f"item_{item.tag}")
        big = QFontMetrics(theme.current.font(theme.TEXT_SIZE, True)).horizontalAdvance(self.big)
        wide = max(big, QFontMetrics(theme.current.font(13)).horizontalAdvance(self.small))
        wide += 42 if self.trouble or item.ready else 24
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
        if self.item is None:
            return
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        round_by = 5 + (box.height() / 2 - 5) * (1.0 if self.item.ready else self.item.share)
        painter.setBrush(c.q("warn_soft" if self.trouble else "water" if self.item.ready else "card"))
        edge = (
            c.q("focus") if self.hasFocus() else c.q("warn" if self.trouble else "deep" if self.item.ready else "muted")
        )
        painter.setPen(QPen(edge, 3 if self.hasFocus() else 2 if self.trouble else 1.3))
        if self.doubt:  # the less likely, the sharper
            painter.drawPath(bar_path(box, False, self.item.chance))
        else:
            painter.drawRoundedRect(box, round_by, round_by)
        left = 12.0
        if self.trouble or self.item.ready:
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
"""Key of the card for what has no departure yet."""


class DepartureCard(QFrame):
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
        self.item_buttons: list[ItemButton] = []
        self.help = button("What would help?", lambda: self.help_wanted.emit(departure_id), "warn", "help")
        for widget in (self.head, self.count):
            box.addWidget(widget)
        box.addWidget(scroll(inner), 1)
        box.addWidget(self.help)

    def set_shipment(self, shipment: Shipment, now: datetime) -> None:
        """Show a landing as it stands now."""
        makes, total, departure = shipment.will_make_it, len(shipment.items), shipment.departure
        self.head.setText(f"{departure.name}  {clock_words(departure.leaves_at, now)}")
        words = f"{makes} of {total} will be ready" if total else "nothing booked for it"
        if departure.leaves_at < now and total:
            words = f"{sum(a.ready for a in shipment.items)} of {total} went"
        self.count.setText(f"{words}, {in_words(departure.leaves_at, now)}")
        restyle(self.count, tone="warn" if makes < total else "muted")
        self._set_items(shipment.items, now)
        self.help.setVisible(any(a.late_min > 0 and not a.blocked for a in shipment.items))

    def set_undated(self, item: tuple[ShipmentItem, ...], now: datetime) -> None:
        """Show what has no departure yet."""
        self.head.setText("No departure set")
        self.count.setText(f"{len(item)} without a day to be ready")
        restyle(self.count, tone="muted")
        self.help.hide()
        self._set_items(item, now)

    def _set_items(self, item: tuple[ShipmentItem, ...], now: datetime) -> None:
        total = len(item)
        while len(self.item_buttons) < total:
            item_button = ItemButton()
            item_button.clicked.connect(lambda checked=False, s=item_button: self.opened.emit(s.item.job_id))
            self.flow.addWidget(item_button)
            self.item_buttons.append(item_button)
        for n, item_button in enumerate(self.item_buttons):
            item_button.setVisible(n < total)
            if n < total:
                item_button.set_item(item[n], now)


class DeparturesPanel(QWidget):
    """The next departures side by side, and jobs without one; three cards at most."""

    opened = Signal(int)
    help_wanted = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.box = QHBoxLayout(self)
        self.box.setContentsMargins(0, 0, 0, 0)
        self.box.setSpacing(theme.STEP * 2)
        self.cards: dict[int, DepartureCard] = {}
        self.none = label("No departure is on the list. Add one when you book in.", tone="muted")
        self.box.addWidget(self.none)

    def set_home(self, home: HomeView) -> None:
        """Show the landings of a home view."""
        shown = home.shipments[: 2 if home.undated else 3]
        wanted = [x.departure.id for x in shown] + [UNDATED] * bool(home.undated)
        if wanted != list(self.cards):
            for card in self.cards.values():
                card.hide()
                card.deleteLater()
            self.cards = {}
            for key in wanted:
                card = DepartureCard(key)
                card.opened.connect(self.opened)
                card.help_wanted.connect(self.help_wanted)
                self.box.addWidget(card)
                self.cards[key] = card
        self.none.setVisible(not wanted)
        for shipment in shown:
            card = self.cards[shipment.departure.id]
            card.set_shipment(shipment, home.now)
            self.box.setStretchFactor(card, 3 if len(shipment.items) > 6 else 2)
        if home.undated:
            self.cards[UNDATED].set_undated(home.undated, home.now)
            self.box.setStretchFactor(self.cards[UNDATED], 2)
