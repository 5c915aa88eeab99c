"""Counting the shelf: arrow keys and numbers, what the fleet needs first, one action for the whole count."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QComboBox, QVBoxLayout, QWidget

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.interchange.tables import number_in
from creekbed.window.shared import theme
from creekbed.window.shared.background_writes import BackgroundWrites
from creekbed.window.shared.page import Page
from creekbed.window.shared.table import Index, RowsModel, table_view
from creekbed.window.shared.widgets import Beside, Flow, button, card, entry, label, row
from creekbed.workshop.supplies.needed import families_here, needed, used_by
from creekbed.workshop.supplies.shelf_entries import Proposal, proposed, put_aside, set_minimums, set_place
from creekbed.workshop.supplies.stock import StockView, count_many, needs_label, stock_list

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

PLACE, ORDER_AT, COUNTED = 1, 3, 4
WIDTHS = {1: 170, 2: 160, 3: 190, 4: 200}
"""Width of the columns but the first, px before the text scale."""
FILTERS = (("needed", "what your instruments use"), ("all", "all"), ("now", "counted now"), ("aside", "put aside"))


class CountModel(RowsModel[StockView]):
    """Supplies with what is on record and what was counted just now."""

    HEADINGS = ("Supply", "Where it lies", "On record", "Order at", "Counted now")
    changed = Signal()
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.counted: dict[str, float] = {}
        self.proposed: dict[str, Proposal] = {}
        self.labelled: frozenset[str] = frozenset()
        """Bottles with a strength: they are booked in with their label."""

    def _bottle(self, view: StockView) -> bool:
        return view.supply.key in self.labelled and not view.counted

    def _order_at(self, view: StockView) -> str:
        """From when it is ordered, and what the fleet proposes where that is something else."""
        found = self.proposed.get(view.supply.key)
        now = number(view.minimum) if view.minimum else "never"
        return f"{now}  (fleet: {number(found.amount)})" if found is not None and found.amount != view.minimum else now

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
            if index.column() == PLACE:
                return view.place
            if index.column() == ORDER_AT:
                return self._order_at(view)
            if index.column() == 2:
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
        self.proposing, self._stale = BackgroundWrites(self, frame.could_not), False
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        self.search = entry("count_find", "Find a supply", "find a supply")
        self.search.textChanged.connect(lambda text: self.show_found())
        self.filters: dict[str, Any] = {}
        filters, flow = QWidget(), Flow()
        filters.setLayout(flow)
        for key, words in FILTERS:
            pick = button(words, partial(self.choose, key), "", f"count_{key}")
            pick.setCheckable(True)
            self.filters[key] = pick
            flow.addWidget(pick)
        top = row(label("Count the shelf", "title", wrap=False), self.search)
        top.setStretch(1, 1)
        box.addLayout(top)
        box.addWidget(filters)
        self.group = QComboBox()
        self.group.setObjectName("count_group")
        self.group.setAccessibleName("Of which family or place")
        self.group.activated.connect(lambda at: self.show_found())
        how = "Go down with the arrow keys and type how many there are. Nothing is kept until you say so."
        line = Beside()
        line.addWidget(label(how, tone="muted"), 1)
        line.addWidget(self.group)
        box.addLayout(line)
        surface, inside = card()
        self.model = CountModel()
        self.model.changed.connect(self._tell)
        self.model.refused.connect(lambda words: self.frame.say(words, warn=True))
        self.table = table_view(self.model, "count", "Supplies to count", WIDTHS, row_px=40)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectItems)
        triggers = QAbstractItemView.EditTrigger
        self.table.setEditTriggers(triggers.AnyKeyPressed | triggers.EditKeyPressed | triggers.SelectedClicked)
        inside.addWidget(self.table, 1)
        box.addWidget(surface, 1)
        self.why = label("", tone="muted")
        box.addWidget(self.why)
        self.keep = button("Keep", self._keep, "primary", "keep_count", "F2")
        self.aside = button("Put aside", self._aside, "", "put_aside")
        self.take = button("Order as the fleet needs", self._take_proposed, "", "count_propose")
        ways, flow = QWidget(), Flow()
        ways.setLayout(flow)
        for way in (
            self.keep, self.aside, button("Where it lies …", self._place, "", "count_place"),
            button("Order at …", self._order_at, "", "count_order_at"), self.take,
            button("Book in what came", frame.nav.open_stock, "quiet", "count_to_stock"),
        ):  # fmt: skip
            flow.addWidget(way)
        box.addWidget(ways)
        self.table.selectionModel().selectionChanged.connect(lambda a, b: self._tell())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Where a supply's name would be cut, the place goes; it is still found and shown by the list of places."""
        super().resizeEvent(event)
        self._fit_columns()

    def _fit_columns(self) -> None:
        names = max((self.table.fontMetrics().horizontalAdvance(v.supply.name) for v in self.views), default=0) + 24
        header = self.table.horizontalHeader()
        others = sum(theme.current.px(wide) for n, wide in WIDTHS.items() if n != PLACE)
        free = self.table.viewport().width() - others
        self.table.setColumnHidden(PLACE, free - theme.current.px(WIDTHS[PLACE]) < names)
        for n, wide in WIDTHS.items():  # still too little room: each column as narrow as its words
            least = max(header.sectionSizeHint(n), theme.current.px(wide * 0.7))
            header.resizeSection(n, theme.current.px(wide) if free >= names else round(least))

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
        self._propose()
        self._fill_groups()
        self._fit_columns()
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
        kind, _, group = str(self.group.currentData() or "").partition(" ")
        used = used_by(self.shop, group) if kind == "family" else frozenset()
        self._show([
            v for v in self.views
            if (wanted is None or v.supply.key in wanted) and v.aside == (self.shown == "aside")
            and (kind != "family" or v.supply.key in used) and (kind != "place" or v.place == group)
            and all(w in f"{v.supply.name} {v.place}".lower() for w in words)
        ])  # fmt: skip
        for key, pick in self.filters.items():
            pick.setChecked(key == self.shown)
        self._tell()

    def _propose(self) -> None:
        """Work out what the fleet needs, beside the window: every family's job is built for it."""
        shop = self.shop
        self._stale = not self.proposing.start(lambda: proposed(shop), self._proposed)

    def _proposed(self, found: dict[str, Proposal]) -> None:
        self.model.proposed = found
        self._tell_rows()
        self._tell()
        if self._stale:
            self._propose()

    def _tell_rows(self) -> None:
        """What is shown of the rows may have changed. What is counted now is only changed here, and may be open."""
        if self.model.rows:
            self.model.dataChanged.emit(self.model.index(0, 0), self.model.index(len(self.model.rows) - 1, ORDER_AT))

    def _show(self, views: list[StockView]) -> None:
        """List these; what is chosen stays chosen, and what is being typed stays where the rows are the same."""
        before, here = [v.supply.key for v in self._chosen()], self.table.currentIndex().column()
        if [v.supply.key for v in views] == [v.supply.key for v in self.model.rows]:
            self.model.rows = views
            self._tell_rows()
            return
        self.model.show(views)
        rows = [n for n, v in enumerate(views) if v.supply.key in before]
        chosen = self.table.selectionModel()
        for n in rows:
            chosen.select(self.model.index(n, max(here, 0)), chosen.SelectionFlag.Select)
        if rows:
            chosen.setCurrentIndex(self.model.index(rows[0], max(here, 0)), chosen.SelectionFlag.NoUpdate)

    def _fill_groups(self) -> None:
        """Families of the fleet, then places on the shelf; what was chosen stays chosen."""
        chosen = self.group.currentData()
        self.group.clear()
        self.group.addItem("every family and place", "")
        for key in families_here(self.shop):
            self.group.addItem(f"for {self.shop.catalogue.families[key].name}", f"family {key}")
        for place in sorted({v.place for v in self.views if v.place}):
            self.group.addItem(f"in {place}", f"place {place}")
        self.group.setCurrentIndex(max(self.group.findData(chosen), 0))

    def _chosen(self) -> list[StockView]:
        """The supplies whose rows are chosen, or the one where the cursor stands."""
        rows = sorted({index.row() for index in self.table.selectedIndexes()})
        return [self.model.rows[n] for n in rows if n < len(self.model.rows)]

    def _aside(self) -> None:
        keys = [v.supply.key for v in self._chosen()]
        self.do(lambda: put_aside(self.shop, keys, self.shown != "aside"))

    def _place(self) -> None:
        chosen = self._chosen()
        known = tuple(sorted({v.place for v in self.views if v.place}))[:6]
        words = "Where does it lie? A drawer, a shelf, a box. Empty: nowhere in particular."
        said = self.ask("Where it lies", words, ready=known, needed=False) if chosen else None
        if said is not None:
            self.do(lambda: set_place(self.shop, [v.supply.key for v in chosen], said))

    def _order_at(self) -> None:
        chosen = self._chosen()
        words = "Order when so much is left. Empty: as it ships."
        said = self.ask("Order at", words, needed=False) if chosen else None
        if said is not None:
            self.do(lambda: set_minimums(self.shop, {v.supply.key: number_in(said, "," in said and "." not in said)
                                                     if said else None for v in chosen}))  # fmt: skip

    def _take_proposed(self) -> None:
        """What the fleet needs, for what is chosen; for all that is listed where one row or none is."""
        chosen = self._chosen()
        rows = chosen if len(chosen) > 1 else self.model.rows
        found = {v.supply.key: self.model.proposed[v.supply.key].amount
                 for v in rows if v.supply.key in self.model.proposed}  # fmt: skip
        self.do(lambda: set_minimums(self.shop, found))

    def _tell(self) -> None:
        chosen = self._chosen()
        told = self.model.proposed.get(chosen[0].supply.key) if len(chosen) == 1 else None
        self.why.setText(told.words(chosen[0].supply.unit) if told is not None else "")
        self.aside.setText("Use again" if self.shown == "aside" else "Put aside")
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
