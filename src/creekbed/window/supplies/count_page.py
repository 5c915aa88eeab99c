"""Counting the shelf: arrow keys and numbers, what the fleet needs first, one action for the whole count."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QAbstractItemView, QVBoxLayout

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.interchange.tables import number_in
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.table import Index, RowsModel, table_view
from creekbed.window.shared.widgets import button, card, entry, label, row
from creekbed.workshop.supplies.needed import needed
from creekbed.workshop.supplies.stock import StockView, count_many, needs_label, stock_list

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

COUNTED = 2
FILTERS = (("needed", "what your instruments use"), ("all", "all"), ("now", "counted now"))


class CountModel(RowsModel[StockView]):
    """Supplies with what is on record and what was counted just now."""

    HEADINGS = ("Supply", "On record", "Counted now")
    changed = Signal()
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.counted: dict[str, float] = {}
        self.labelled: frozenset[str] = frozenset()
        """Bottles with a strength: they are booked in with their label."""

    def _bottle(self, view: StockView) -> bool:
        return view.supply.key in self.labelled and not view.counted

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = super().flags(index)
        editable = index.column() == COUNTED and not self._bottle(self.rows[index.row()])
        return flags | Qt.ItemFlag.ItemIsEditable if editable else flags

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        view = self.rows[index.row()]
        now = self.counted.get(view.supply.key)
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            if index.column() == 0:
                return view.supply.name
            if index.column() == 1:
                return f"{number(view.amount)} {view.supply.unit}" if view.counted else "not counted yet"
            if now is None:
                return "book it in with its label" if self._bottle(view) and role == Qt.ItemDataRole.DisplayRole else ""
            return f"{number(now)} {view.supply.unit}" if role == Qt.ItemDataRole.DisplayRole else number(now)
        if role == Qt.ItemDataRole.AccessibleTextRole:
            said = f", counted now {number(now)}" if now is not None else ""
            return f"{view.supply.name}, {number(view.amount)} {view.supply.unit} on record{said}"
        if role == Qt.ItemDataRole.FontRole and now is not None:
            return theme.current.font(theme.TEXT_SIZE, True)
        return None

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Take a typed count; nothing typed takes the count away."""
        view, text = self.rows[index.row()], str(value).strip()
        if not text:
            self.counted.pop(view.supply.key, None)
        else:
            try:
                amount = number_in(text, "," in text and "." not in text)
                if not 0 <= amount <= 100_000:
                    raise BadInput(f"{view.supply.name}: a count is 0 or more.")
            except BadInput as error:
                self.refused.emit(error.happened)
                return False
            self.counted[view.supply.key] = amount
        self.dataChanged.emit(index, index)
        self.changed.emit()
        return True


class CountPage(Page):
    """A table to go down with the arrow keys, typing numbers; kept as one action."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.shown = "needed"
        self.views: list[StockView] = []
        self.needed: frozenset[str] = frozenset()
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        self.search = entry("count_find", "Find a supply", "find a supply")
        self.search.textChanged.connect(lambda text: self.show_found())
        self.filters: dict[str, Any] = {}
        top = row(label("Count the shelf", "title", wrap=False), self.search)
        for key, words in FILTERS:
            pick = button(words, partial(self.choose, key), "", f"count_{key}")
            pick.setCheckable(True)
            self.filters[key] = pick
            top.addWidget(pick)
        top.setStretch(1, 1)
        box.addLayout(top)
        how = "Go down with the arrow keys and type how many there are. Nothing is kept until you say so."
        box.addWidget(label(how, tone="muted"))
        surface, inside = card()
        self.model = CountModel()
        self.model.changed.connect(self._tell)
        self.model.refused.connect(lambda words: self.frame.say(words, warn=True))
        self.table = table_view(self.model, "count", "Supplies to count", {1: 190, 2: 220}, row_px=40)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectItems)
        triggers = QAbstractItemView.EditTrigger
        self.table.setEditTriggers(triggers.AnyKeyPressed | triggers.EditKeyPressed | triggers.SelectedClicked)
        inside.addWidget(self.table, 1)
        box.addWidget(surface, 1)
        self.keep = button("Keep", self._keep, "primary", "keep_count", "F2")
        box.addLayout(row(self.keep, button("Book in what came", frame.nav.open_stock, "", "count_to_stock"), None))

    def start(self, item: str = "") -> None:
        """Open the page, at a supply where one is given."""
        self.refresh()
        if item:
            self.go_to_item(item)
        elif self.model.rows:
            self.table.setFocus(Qt.FocusReason.OtherFocusReason)
            self.table.setCurrentIndex(self.model.index(0, COUNTED))

    def refresh(self) -> None:
        mixes = {recipe.product for recipe in self.shop.catalogue.house.every_recipe}
        found = (v for v in stock_list(self.shop) if v.supply.key not in mixes)
        self.views = sorted(found, key=lambda v: v.supply.name)
        self.needed = needed(self.shop)
        self.model.labelled = frozenset(v.supply.key for v in self.views if needs_label(self.shop, v.supply.key))
        self.show_found()

    def choose(self, key: str) -> None:
        """Show what the fleet needs, all, or what was counted just now."""
        self.shown = key
        self.show_found()

    def show_found(self) -> None:
        """Show what the search and the filter leave."""
        words, counted = self.search.text().lower().split(), self.model.counted
        wanted = {"needed": self.needed, "now": frozenset(counted)}.get(self.shown)
        self.model.show([
            v for v in self.views
            if (wanted is None or v.supply.key in wanted) and all(w in v.supply.name.lower() for w in words)
        ])  # fmt: skip
        for key, pick in self.filters.items():
            pick.setChecked(key == self.shown)
        self._tell()

    def _tell(self) -> None:
        count = len(self.model.counted)
        self.filters["now"].setText(f"counted now {count}")
        self.keep.setText(f"Keep {count} counts   F2" if count != 1 else "Keep 1 count   F2")
        self.keep.setEnabled(count > 0)

    def go_to_item(self, item: str) -> None:
        """A supply was scanned: its row is ready for a number."""
        if item not in {v.supply.key for v in self.model.rows}:
            self.shown = "all"
            self.search.clear()
            self.show_found()
        at = next((n for n, v in enumerate(self.model.rows) if v.supply.key == item), None)
        if at is not None:
            index = self.model.index(at, COUNTED)
            self.table.setFocus(Qt.FocusReason.OtherFocusReason)
            self.table.setCurrentIndex(index)
            self.table.scrollTo(index)

    def _keep(self) -> None:
        counted = dict(self.model.counted)
        if self.do(lambda: count_many(self.shop, counted)):
            self.model.counted.clear()
            self.refresh()
