"""Instruments: the whole fleet, found while you type, with what can be done for one or many."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QItemSelectionModel, Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QTableView, QVBoxLayout, QWidget

from creekbed.papers.label_sheet import LABEL_SIZES
from creekbed.window.fleet.details_dialog import DetailsDialog
from creekbed.window.fleet.fleet_model import DUE, FleetModel
from creekbed.window.fleet.hire_dialog import HireDialog
from creekbed.window.shared import theme
from creekbed.window.shared.background_writes import BackgroundWrites
from creekbed.window.shared.long_work import LongWork
from creekbed.window.shared.page import Page
from creekbed.window.shared.table import table_view
from creekbed.window.shared.widgets import Flow, button, card, entry, label, row
from creekbed.words.instruments import PLACES
from creekbed.workshop.arrival.book_many import book_in_many
from creekbed.workshop.fleet.fleet import FleetRow, fleet
from creekbed.workshop.fleet.hiring import hire_out, set_standing

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


NO_FLEET = "No instrument is known yet: book one in, or bring your list."


def _filter_words(key: str) -> str:
    """What a filter shows: a place, those that are due, or all."""
    words: dict[str, str] = {"": "all", DUE: "due soon", **{str(place): said for place, said in PLACES.items()}}
    return words[key]


class InstrumentsPage(Page):
    """A search, filters with counts, the table, and what can be done with what is chosen."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.place = ""
        self._stale = True
        self._counts: dict[str, int] = dict.fromkeys((*PLACES, DUE), 0)
        self.loading = BackgroundWrites(self, frame.could_not)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        self.head = label("Instruments", "title", wrap=False)
        self.search = entry("find", "Find by tag, what, size, serial, group", "tag, what, serial, group", self.open_one)
        self.search.textChanged.connect(lambda text: self.show_found())
        self.family = QComboBox()
        self.family.setObjectName("fleet_family")
        self.family.setAccessibleName("Family")
        self.family.setMinimumContentsLength(16)
        self.family.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.family.activated.connect(lambda n: self.show_found())
        top = row(self.head, self.search, self.family)
        top.setStretch(1, 1)
        box.addLayout(top)
        self.filters: dict[str, Any] = {}
        flow, holder = Flow(6), QWidget()
        holder.setLayout(flow)
        for key in ("", *PLACES, DUE):
            pick = button(_filter_words(key), partial(self.choose_place, key), "", f"fleet_{key or 'all'}")
            pick.setCheckable(True)
            self.filters[key] = pick
            flow.addWidget(pick)
        box.addWidget(holder)
        surface, inside = card()
        self.model = FleetModel()
        self.table = self._table()
        inside.addWidget(self.table, 1)
        self.none = label("", tone="muted")
        inside.addWidget(self.none)
        box.addWidget(surface, 1)
        self.drawing = LongWork(frame.could_not)
        box.addWidget(self.drawing)
        box.addLayout(self._acts())

    def _table(self) -> QTableView:
        table = table_view(self.model, "fleet", "Instruments", {0: 120, 1: 190, 2: 90})
        table.setSelectionMode(QTableView.SelectionMode.ExtendedSelection)
        table.activated.connect(lambda index: self.open_one())
        table.selectionModel().selectionChanged.connect(lambda a, b: self._buttons())
        return table

    def _acts(self) -> QHBoxLayout:
        """What can be done with the instruments that are chosen."""
        flow, holder = Flow(6), QWidget()
        holder.setLayout(flow)
        self.open = button("Open", self.open_one, "primary", "fleet_open", "F2")
        self.book = button("Book in", self._book_in, "", "fleet_book")
        self.new = button("Commission", self._commission, "", "fleet_new")
        self.details = button("Serial, photographs …", self._details, "", "fleet_details")
        self.hire = button("Hire out …", self._hire, "", "fleet_hire")
        self.rest = button("Let rest …", partial(self._stand, "resting"), "", "fleet_rest")
        self.retire = button("Retire …", partial(self._stand, "retired"), "", "fleet_retire")
        self.back = button("Bring back to use", partial(self._stand, ""), "", "fleet_back")
        self.sizes = QComboBox()
        self.sizes.setObjectName("label_size")
        self.sizes.setAccessibleName("Size of the labels")
        for key, size in LABEL_SIZES.items():
            self.sizes.addItem(size.name, key)
        self.labels = button("Labels", self._labels, "", "fleet_labels")
        for widget in (
            self.open, self.book, self.new, self.hire, self.details, self.rest, self.retire, self.back, self.labels,
            self.sizes,
        ):  # fmt: skip
            flow.addWidget(widget)
        return row(holder)

    # --- what is shown -----------------------------------------------------------------------------------------------

    def start(self, text: str = "") -> None:
        """Open the page with the cursor in the search."""
        self.search.setText(text)
        self.refresh()
        self.search.setFocus(Qt.FocusReason.OtherFocusReason)
        self.search.selectAll()

    def refresh(self) -> None:
        """Read the fleet anew beside the window; what was shown stays until it is there."""
        self._stale = True
        if not self.loading.busy:
            self._load()

    def _load(self) -> None:
        self._stale = False
        shop = self.shop
        self.loading.start(lambda: fleet(shop), self._loaded)

    def _loaded(self, rows: list[FleetRow]) -> None:
        chosen = {r.tag for r in self.chosen()}
        self.model.every = rows
        self._counts = self.model.counts(self.shop.now.astimezone().date())
        here = {r.family: r.kind for r in rows}
        kept = self.family.currentData()
        self.family.clear()
        self.family.addItem("every family", "")
        for key, name in sorted(here.items(), key=lambda f: f[1]):
            self.family.addItem(name, key)
        self.family.setCurrentIndex(max(self.family.findData(kept or ""), 0))
        self.show_found(chosen)
        if self._stale:
            self._load()

    def choose_place(self, place: str) -> None:
        """Show the instruments of one place, those that are due, or all."""
        self.place = place
        self.show_found()

    def show_found(self, chosen: set[str] | None = None) -> None:
        """Show what the search and the filters leave; the first one is chosen where nothing was."""
        today = self.shop.now.astimezone().date()
        keep = {r.tag for r in self.chosen()} if chosen is None else chosen
        self.model.find(self.search.text(), self.place, self.family.currentData() or "", today)
        counts = self._counts
        for key, pick in self.filters.items():
            count = len(self.model.every) if not key else counts[key]
            pick.setText(f"{_filter_words(key)} {count:,}")
            pick.setAccessibleName(pick.text())
            pick.setChecked(key == self.place)
            pick.setVisible(not key or count > 0 or key == self.place)
        self.head.setText(f"Instruments: {len(self.model.rows):,}")
        self._choose(keep)
        nothing = "Nothing like that." if self.model.every else NO_FLEET
        self.none.setText("" if self.model.rows else nothing)
        self._buttons()

    def _choose(self, tags: set[str]) -> None:
        selection = self.table.selectionModel()
        selection.clearSelection()
        how = QItemSelectionModel.SelectionFlag.Select | QItemSelectionModel.SelectionFlag.Rows
        at = [n for n, r in enumerate(self.model.rows) if r.tag in tags] if tags else []
        for n in at or ([0] if self.model.rows else []):
            selection.select(self.model.index(n, 0), how)

    def chosen(self) -> list[FleetRow]:
        """The instruments that are chosen."""
        return [
            self.model.rows[i.row()]
            for i in self.table.selectionModel().selectedRows()
            if i.row() < len(self.model.rows)
        ]

    def _buttons(self) -> None:
        rows = self.chosen()
        places = {r.place for r in rows}
        count = f" {len(rows)}" if len(rows) > 1 else ""
        self.open.setEnabled(len(rows) == 1)
        self._offer(self.book, f"Book in{count}", bool(rows) and places <= {"hired", "here", "resting"})
        self._offer(self.new, f"Commission{count}", bool(rows) and all(r.place == "here" and r.unused for r in rows))
        self.details.setEnabled(len(rows) == 1)
        self._offer(self.hire, f"Hire out{count} …", bool(rows) and places == {"ready"})
        free = bool(rows) and places <= {"here", "ready", "resting"}
        self._offer(self.rest, f"Let{count} rest …", free and "resting" not in places)
        self._offer(self.retire, f"Retire{count} …", free)
        self._offer(self.back, f"Bring{count} back to use", bool(rows) and places <= {"resting", "retired"})
        self.labels.setText(f"Labels for {len(rows) if len(rows) > 1 else len(self.model.rows)}")
        self.labels.setEnabled(bool(self.model.rows))

    def _offer(self, pick: QWidget, words: str, on: bool) -> None:
        """What cannot be done with what is chosen is not offered."""
        pick.setText(words)  # type: ignore[attr-defined]
        pick.setVisible(on)

    # --- what people do ----------------------------------------------------------------------------------------------

    def open_one(self) -> None:
        """The job of the chosen one, or its history."""
        rows = self.chosen()
        if len(rows) != 1:
            return
        if rows[0].place in ("bench", "away") and rows[0].job_id is not None:
            self.frame.nav.open_job(rows[0].job_id)
        else:
            self.frame.nav.open_history(rows[0].tag)

    def _book_in(self) -> None:
        rows = self.chosen()
        if len(rows) == 1:
            self.frame.nav.open_book_in(rows[0].tag)
            return
        answer = self.ask(
            f"Book in {len(rows)} instruments", "Who brought them? A code or a group, not a name.",
            needed=False, least=0, ok="Book in",
        )  # fmt: skip
        if answer is not None:
            self.do(lambda: book_in_many(self.shop, [r.tag for r in rows], came_from=answer))

    def _commission(self) -> None:
        """New stock goes over the bench once: bags and packing corks off, first condition on record."""
        tags = [r.tag for r in self.chosen()]
        self.do(lambda: book_in_many(self.shop, tags, new=True))

    def _details(self) -> None:
        rows = self.chosen()
        if len(rows) == 1:
            self.open_dialog(DetailsDialog(self, rows[0].tag, f"{rows[0].kind} {rows[0].size}".strip()))

    def _hire(self) -> None:
        tags = [r.tag for r in self.chosen()]
        dialog = HireDialog(self.frame, tags, self.shop.now.astimezone().date())
        terms = []
        dialog.accepted.connect(lambda: terms.append(dialog.terms()))
        if self.open_dialog(dialog) and terms:
            hires: list[int] = []
            if self.do(lambda: hires.extend(hire_out(self.shop, tags, terms[0]))):
                self.frame.papers.save_hires(hires)

    def _stand(self, standing: Any) -> None:
        tags = [r.tag for r in self.chosen()]
        why: str | None = ""
        if standing:
            words = {"resting": "Why does it rest?", "retired": "Why is it retired?"}[standing]
            why = self.ask(words, "Its history keeps the reason.", ok="Keep")
        if why is not None:
            reason = why
            self.do(lambda: set_standing(self.shop, tags, standing, reason))

    def _labels(self) -> None:
        rows = self.chosen()
        shown = rows if len(rows) > 1 else self.model.rows
        self.frame.papers.save_labels(
            [{"tag": r.tag, "name": f"{r.kind} {r.size}".strip()} for r in shown], self.sizes.currentData(),
            self.drawing,
        )  # fmt: skip
