"""The departures: a card for each, with the instruments that make it, and those that do not and why."""

from __future__ import annotations

from collections.abc import Sequence
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


UNDATED, SINGLE = "undated", "single"
"""Keys of the card for what has no departure yet, and of that for what is due at times of its own."""
MOST = 3
"""So many cards stand side by side."""


class DepartureCard(QFrame):
    """One departure: when it leaves, how many instruments will be on it, each as a stone."""

    opened = Signal(int)
    help_wanted = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.departure_id = 0
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
        self.help = button("What would help?", lambda: self.help_wanted.emit(self.departure_id), "warn", "help")
        for widget in (self.head, self.count):
            box.addWidget(widget)
        box.addWidget(scroll(inner), 1)
        box.addWidget(self.help)

    def set_shipment(self, shipment: Shipment, now: datetime) -> None:
        """Show a departure as it stands now."""
        makes, total, departure = shipment.will_make_it, len(shipment.items), shipment.departure
        self.departure_id = departure.id
        self.head.setText(f"{departure.name}  {clock_words(departure.leaves_at, now)}")
        words = f"{makes} of {total} will be ready" if total else "nothing booked for it"
        if departure.leaves_at < now and total:
            words = f"{sum(a.ready for a in shipment.items)} of {total} went"
        self.count.setText(f"{words}, {in_words(departure.leaves_at, now)}")
        restyle(self.count, tone="warn" if makes < total else "muted")
        self._set_items(shipment.items, now)
        self.help.setVisible(any(a.late_min > 0 and not a.blocked for a in shipment.items))

    def set_single(self, shipments: Sequence[Shipment], now: datetime) -> None:
        """Show what is due at times of its own, the soonest first."""
        items = tuple(item for shipment in shipments for item in shipment.items)
        makes, first = sum(x.will_make_it for x in shipments), shipments[0].departure
        late = next((x for x in shipments if any(a.late_min > 0 and not a.blocked for a in x.items)), None)
        self.departure_id = (late or shipments[0]).departure.id
        self.head.setText(f"Due one by one  {clock_words(first.leaves_at, now)}")
        words = f"{makes} of {len(items)} will be ready"
        self.count.setText(f"{words}, the first {in_words(first.leaves_at, now)}")
        restyle(self.count, tone="warn" if makes < len(items) else "muted")
        self._set_items(items, now)
        self.help.setVisible(late is not None)

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
        self.cards: dict[str, DepartureCard] = {}
        self.none = label(
            "No departure is on the list. Say how instruments leave in “Days and departures”.",
            tone="muted",
        )
        self.box.addWidget(self.none)

    def set_home(self, home: HomeView) -> None:
        """Show the departures of a home view."""
        shown = cards_of(home.shipments, MOST - bool(home.undated))
        wanted = [*shown, *([UNDATED] if home.undated else [])]
        if wanted != list(self.cards):
            for card in self.cards.values():
                card.hide()
                card.deleteLater()
            self.cards = {}
            for key in wanted:
                card = DepartureCard()
                card.opened.connect(self.opened)
                card.help_wanted.connect(self.help_wanted)
                self.box.addWidget(card)
                self.cards[key] = card
        self.none.setVisible(not wanted)
        for key, shipments in shown.items():
            card = self.cards[key]
            if key == SINGLE:
                card.set_single(shipments, home.now)
            else:
                card.set_shipment(shipments[0], home.now)
            self.box.setStretchFactor(card, 3 if sum(len(x.items) for x in shipments) > 6 else 2)
        if home.undated:
            self.cards[UNDATED].set_undated(home.undated, home.now)
            self.box.setStretchFactor(self.cards[UNDATED], 2)


def cards_of(shipments: Sequence[Shipment], most: int) -> dict[str, list[Shipment]]:
    """What is shown on each card, in order of time: what instruments are booked for first, then what comes next.

    Due times of single instruments share one card. Of departures for which nothing is booked, the next of each name.
    """
    single = [x for x in shipments if x.departure.single and x.items]
    booked = [x for x in shipments if x.items and not x.departure.single]
    empty = {x.departure.name: x for x in reversed(shipments) if not x.items and not x.departure.single}
    found = [(x.departure.leaves_at, f"departure_{x.departure.id}", [x]) for x in booked]
    found += [(single[0].departure.leaves_at, SINGLE, single)] if single else []
    found.sort(key=lambda card: card[0])
    more = [(x.departure.leaves_at, f"departure_{x.departure.id}", [x]) for x in empty.values()]
    chosen = [*found, *sorted(more, key=lambda card: card[0])][:most]
    return {key: rows for _, key, rows in sorted(chosen, key=lambda card: card[0])}
