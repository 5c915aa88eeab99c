"""Stock: what is left, what runs short, new stock in."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
)

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.core.hygiene.strengths import parse_strength
from creekbed.core.units import parse_quantity
from creekbed.store.records import Lot
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import button, card, label, row, scroll
from creekbed.words.times import clock_words
from creekbed.workshop.supplies import stock

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


class StockPage(Page):
    """A table with the short ones first, and a form for what was delivered."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self._priced = ""
        self._shown: list[tuple[str, ...]] = []
        """What each row of the table says; a row is made anew only when it says something else."""
        box = QHBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP * 2)
        left = QVBoxLayout()
        self.head = label("", "title")
        count = button("Count the shelf", frame.nav.open_count, "", "to_count")
        head = row(self.head, count)
        head.setStretch(0, 1)
        left.addLayout(head)
        self.table = QTableWidget(0, 4)
        self.table.setHorizontalHeaderLabels(["Supply", "Left", "Order at", "Lots"])
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self.table.setColumnHidden(3, theme.current.scale > 1.2)
        self.table.setAccessibleName("Stock")
        self.table.setTabKeyNavigation(False)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.table.itemSelectionChanged.connect(self._selected)
        left.addWidget(self.table, 1)
        box.addLayout(left, 64)
        frame_right, right = card(margin=20)
        right.addWidget(label("New stock in", "name"))
        self.item = QComboBox()
        self.item.setAccessibleName("Supply")
        self.item.currentIndexChanged.connect(lambda i: self._fields())
        right.addWidget(self.item)
        self.fields: dict[str, QLineEdit] = {}
        self.heads = {}
        for key, name, hint in (
            ("amount", "Amount", "10"), ("lot", "Lot or batch", "as on the label"),
            ("strength", "Strength, from its label", "6 %"),
            ("contact", "Contact time, from its label", "10 min"),
            ("discard", "Not to be used after", "2027-05-31"),
        ):  # fmt: skip
            field = QLineEdit()
            field.setObjectName(f"stock_{key}")
            field.setAccessibleName(name)
            field.setPlaceholderText(hint)
            self.heads[key] = label(name, "small")
            right.addWidget(self.heads[key])
            right.addWidget(field)
            self.fields[key] = field
        right.addLayout(row(button("Put on the shelf", self._in, "primary", "stock_in", "F2"), None))
        right.addLayout(row(button("Set counted amount", self._count, "", "stock_count"), None))
        right.addWidget(label("“Set counted amount” sets the supply to the amount above.", tone="muted"))
        right.addWidget(label("Price on the bill, for one", "small"))
        self.price = QLineEdit()
        self.price.setObjectName("stock_price")
        self.price.setAccessibleName("Price on the bill, for one")
        self.price.setPlaceholderText("none yet")
        self.price.returnPressed.connect(self._price)
        right.addLayout(row(self.price, button("Keep", self._price, "quiet", "keep_price")))
        right.addStretch(1)
        box.addWidget(scroll(frame_right), 36)

    def start(self, item: str = "") -> None:
        """Show the stock, with a supply chosen."""
        self.refresh()
        index = self.item.findData(item)
        if index >= 0:
            self.item.setCurrentIndex(index)
            self.fields["amount"].setFocus()

    def refresh(self) -> None:
        views = stock.stock_list(self.shop)
        short = sum(v.short for v in views)
        self.head.setText(f"Stock: {short} run short" if short else "Stock: nothing runs short")
        chosen = self.item.currentData()
        self.item.blockSignals(True)
        self.item.clear()
        for view in sorted(views, key=lambda v: v.supply.name):
            self.item.addItem(view.supply.name, view.supply.key)
        self.item.setCurrentIndex(max(0, self.item.findData(chosen)))
        self.item.blockSignals(False)
        self.table.setRowCount(len(views))
        del self._shown[len(views) :]
        changed = False
        for n, view in enumerate(views):
            lots = ", ".join(_lot_words(x) for x in view.lots if x.lot or x.discard_at) or ""
            cells = [
                view.supply.name, f"{number(view.amount)} {view.supply.unit}" + (", short" if view.short else ""),
                number(view.minimum) if view.minimum else "made here" if view.supply.reorder_at == 0 else "", lots,
            ]  # fmt: skip
            shown = (*cells, str(view.short))
            if n < len(self._shown) and self._shown[n] == shown:
                continue
            changed = True
            for column, text in enumerate(cells):
                cell = QTableWidgetItem(text)
                if view.short and column < 2:
                    cell.setForeground(theme.current.c.q("warn"))
                    cell.setFont(theme.current.font(theme.TEXT_SIZE, True))
                self.table.setItem(n, column, cell)
            self.table.setRowHeight(n, max(38, theme.current.px(38)))
            self._shown[n:] = [shown, *self._shown[n + 1 :]]
        if changed:  # measuring columns is the dear part
            for column in (1, 2, 3):
                self.table.resizeColumnToContents(column)
        self._keys = [v.supply.key for v in views]
        self._fields()

    def _selected(self) -> None:
        at = self.table.currentRow()
        if 0 <= at < len(self._keys):
            self.item.setCurrentIndex(self.item.findData(self._keys[at]))

    def _fields(self) -> None:
        supply = self.shop.catalogue.supplies.get(self.item.currentData() or "")
        liquid = supply is not None and supply.key in {r.stock for r in self.shop.catalogue.house.every_recipe}
        for key in ("strength", "contact", "discard"):
            self.fields[key].setVisible(liquid)
            self.heads[key].setVisible(liquid)
        if supply is not None:
            self.heads["amount"].setText(f"Amount, {supply.unit}")
            if supply.key != self._priced or not self.price.isModified():  # what somebody is typing stays
                price = stock.prices(self.shop).get(supply.key)
                self.price.setText("" if price is None else number(price, 2))
                self._priced = supply.key

    def _amount(self) -> float:
        supply = self.shop.catalogue.supplies[self.item.currentData()]
        text = self.fields["amount"].text()
        if supply.unit == "ml":
            return parse_quantity(text, "milliliter", what="The amount", minimum=0.0)
        try:
            return float(int(text.strip()))
        except ValueError:
            raise BadInput(f"“{text.strip()[:20]}” is not a count.", todo="Type a whole number.") from None

    def _discard(self) -> datetime | None:
        text = self.fields["discard"].text().strip()
        if not self.fields["discard"].isVisible() or not text:
            return None
        try:
            return datetime.fromisoformat(text).replace(hour=23, minute=59).astimezone(UTC)
        except ValueError:
            raise BadInput(f"“{text[:20]}” is no date.", todo="Type it like 2027-05-31.") from None

    def _in(self) -> None:
        def act() -> None:
            strength = contact = None
            if self.fields["strength"].isVisible() and self.fields["strength"].text().strip():
                strength = parse_strength(self.fields["strength"].text()).percent
            if self.fields["contact"].isVisible() and self.fields["contact"].text().strip():
                contact = parse_quantity(self.fields["contact"].text(), "minute", what="The contact time")
            stock.book_in_stock(
                self.shop, self.item.currentData(), self._amount(), lot=self.fields["lot"].text(),
                strength_pct=strength, contact_min=contact, discard_at=self._discard(),
            )  # fmt: skip
            for field in self.fields.values():
                field.clear()

        self.do(act)

    def _count(self) -> None:
        def act() -> None:
            stock.count_stock(self.shop, self.item.currentData(), self._amount(), "at the shelf")
            self.fields["amount"].clear()

        self.do(act)

    def _price(self) -> None:
        def act() -> None:
            text = self.price.text().strip().replace(",", ".")
            try:
                price = float(text) if text else None
            except ValueError:
                raise BadInput(f"“{text[:20]}” is no price.", todo="Type it like 4.50.") from None
            self.price.setModified(False)
            stock.set_price(self.shop, self.item.currentData(), price)

        self.do(act)


def _lot_words(lot: Lot) -> str:
    strength = f" {number(lot.strength_pct)} %" if lot.strength_pct else ""
    until = f", discard {clock_words(lot.discard_at)}" if lot.discard_at else ""
    return f"{lot.lot or 'lot'}{strength}{until}"
