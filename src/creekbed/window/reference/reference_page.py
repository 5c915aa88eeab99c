"""The reference: a family's parts, job, rules, cautions and numbers, with its drawing; and a search."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from creekbed.core.catalogue.book import SECTIONS, BookLine, lines, search
from creekbed.core.conventions import number
from creekbed.core.units import parse_quantity, show
from creekbed.window.shared import theme
from creekbed.window.shared.instrument_picture import Picture
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import Flow, button, card, clear, label, listing, row, scroll
from creekbed.workshop.shop import own_values, policies

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

OWN = "own"


class ReferencePage(Page):
    """Left what to look at, right the lines of it; a chosen line lights its part."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.family = ""
        self.section = "parts"
        self.shown: list[BookLine] = []
        self.values: list[own_values.ValueView] = []
        box = QHBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP * 2)
        left = QVBoxLayout()
        left.setSpacing(theme.STEP)
        self.search = QLineEdit()
        self.search.setObjectName("find")
        self.search.setPlaceholderText("Search the reference")
        self.search.setAccessibleName("Search the reference")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self._search)
        left.addWidget(self.search)
        self.families = listing("Families")
        self.families.setObjectName("families")
        self.families.currentItemChanged.connect(self._family_chosen)
        left.addWidget(self.families, 1)
        box.addLayout(left, 26)
        right = QVBoxLayout()
        right.setSpacing(theme.STEP)
        self.head = label("", "title", wrap=False)
        self.tells = label("", tone="muted")
        top = row(self.head, self.tells, spacing=theme.STEP * 2)
        top.setStretch(1, 1)
        right.addLayout(top)
        self.picture = Picture(190)
        self.picture.pointed.connect(self._pointed)
        right.addWidget(self.picture)
        holder = QWidget()
        self.tabs = Flow()
        holder.setLayout(self.tabs)
        right.addWidget(holder)
        body = QHBoxLayout()
        body.setSpacing(theme.STEP * 2)
        self.list = listing("Lines of the reference")
        self.list.setObjectName("lines")
        self.list.currentRowChanged.connect(self._line_chosen)
        body.addWidget(self.list, 52)
        detail, inner = card(margin=16)
        self.title = label("", "name")
        self.words = label("")
        self.origin = label("", tone="muted")
        for widget in (self.title, self.words, self.origin):
            inner.addWidget(widget)
        self.acts = QHBoxLayout()
        inner.addLayout(self.acts)
        inner.addStretch(1)
        self.detail = scroll(detail)
        body.addWidget(self.detail, 48)
        right.addLayout(body, 1)
        box.addLayout(right, 74)

    # --- opening ----------------------------------------------------------------------------------------------------

    def start(self, family: str = "", section: str = "", key: str = "") -> None:
        """Open the book, at a family's section and line where given."""
        self.search.blockSignals(True)
        self.search.clear()
        self.search.blockSignals(False)
        self._fill_families()
        self.family = family or self.family or next(iter(self.shop.catalogue.families))
        self.section = section or self.section
        self._mark_family()
        self._show(key)
        (self.list if family else self.search).setFocus()

    def refresh(self) -> None:
        if self.family and not self.search.text().strip():
            self._show(self._key())

    def _key(self) -> str:
        at = self.list.currentRow()
        return self.shown[at].key if 0 <= at < len(self.shown) else ""

    def _fill_families(self) -> None:
        self.families.blockSignals(True)
        self.families.clear()
        for key, family in self.shop.catalogue.families.items():
            item = QListWidgetItem(family.name)
            item.setData(Qt.ItemDataRole.UserRole, key)
            self.families.addItem(item)
        self.families.blockSignals(False)

    def _mark_family(self) -> None:
        self.families.blockSignals(True)
        for n in range(self.families.count()):
            if self.families.item(n).data(Qt.ItemDataRole.UserRole) == self.family:
                self.families.setCurrentRow(n)
                self.families.scrollToItem(self.families.item(n), QListWidget.ScrollHint.PositionAtCenter)
        self.families.blockSignals(False)

    def _family_chosen(self, item: QListWidgetItem | None, before: QListWidgetItem | None) -> None:
        if item is not None:
            self.family = item.data(Qt.ItemDataRole.UserRole)
            self.search.blockSignals(True)
            self.search.clear()
            self.search.blockSignals(False)
            self._show()

    def _section_chosen(self, section: str) -> None:
        self.section = section
        self.search.clear()
        self._show()

    # --- showing ----------------------------------------------------------------------------------------------------

    def _show(self, key: str = "") -> None:
        family = self.shop.catalogue.families.get(self.family)
        if family is None:
            return
        self.head.setText(family.name)
        self.tells.setText(family.tells)
        self.picture.set_family(family, case=self.section == "case")
        every = lines(self.shop.catalogue, family, policies.chosen(self.shop))
        self._tabs(every)
        self.shown = [x for x in every if x.section == self.section]
        self.values = []
        if self.section == OWN:
            self.values = own_values.values_of(family)
            self.shown = [self._own_line(v) for v in self.values]
        self._list(self.shown, key, with_family=False)

    def _own_line(self, value: own_values.ValueView) -> BookLine:
        words = show(value.value, value.unit)
        return BookLine(self.family, OWN, ".".join(value.where), f"{value.name}: {words}", "", value.mark, value.source)

    def _tabs(self, every: list[BookLine]) -> None:
        clear(self.tabs)
        counts = {s: sum(x.section == s for x in every) for s in SECTIONS}
        for section, name in (*SECTIONS.items(), (OWN, "Ours")):
            if section != OWN and not counts[section]:
                continue
            tab = button(name, partial(self._section_chosen, section), "quiet", f"tab_{section}")
            tab.setCheckable(True)
            tab.setChecked(section == self.section and not self.search.text().strip())
            self.tabs.addWidget(tab)

    def _list(self, found: list[BookLine], key: str, with_family: bool) -> None:
        self.list.blockSignals(True)
        self.list.clear()
        for line in found:
            name = ""
            if with_family:
                more = f" and {line.others} more" if line.others else ""
                name = f"{self.shop.catalogue.families[line.family].name}{more}, {SECTIONS[line.section].lower()}: "
            self.list.addItem(f"{name}{line.title}")
        self.list.blockSignals(False)
        at = next((n for n, x in enumerate(found) if x.key == key), 0)
        if found:
            self.list.setCurrentRow(at)
        self._line_chosen(at if found else -1)

    def _line_chosen(self, at: int) -> None:
        clear(self.acts)
        if not 0 <= at < len(self.shown):
            self.title.setText("Nothing found." if self.search.text().strip() else "Nothing here.")
            self.words.setText("")
            self.origin.setText("")
            return
        line = self.shown[at]
        self.picture.set_family(self.shop.catalogue.families[line.family], case=line.section == "case")
        if self.search.text().strip():
            self.head.setText(self.shop.catalogue.families[line.family].name)
            self.tells.setText(self.shop.catalogue.families[line.family].tells)
        self.picture.light(line.parts, "")
        self.title.setText(line.title)
        self.words.setText(line.words)
        self.origin.setText(line.origin[:1].upper() + line.origin[1:])
        if line.section == OWN and at < len(self.values):
            self._own_acts(self.values[at])
        elif line.section == "rules":
            self.acts.addWidget(button("House rules", lambda: self.frame.nav.open_house(line.key), "", "to_house"))
            self.acts.addStretch(1)

    def _pointed(self, area: str) -> None:
        """An area of the drawing was chosen: its part's line."""
        family = self.picture.family
        if family is None or self.picture.drawn is None:
            return
        shows, section = self.picture.drawn.shows, "case" if self.picture.case else "parts"
        things = [i.key for i in family.item] if self.picture.case else [p.key for p in family.part]
        key = next((k for k in things if area in shows(k)), "")
        if key:
            self.family, self.section = family.key, section
            self._show(key)

    # --- search -----------------------------------------------------------------------------------------------------

    def _search(self, words: str) -> None:
        if not words.strip():
            self._show()
            return
        self.values = []
        for n in range(self.tabs.count()):
            item = self.tabs.itemAt(n)
            tab = item.widget() if item is not None else None
            if isinstance(tab, QPushButton):
                tab.setChecked(False)
        self.families.blockSignals(True)
        self.families.setCurrentRow(-1)
        self.families.blockSignals(False)
        self.shown = search(self.shop.catalogue, policies.chosen(self.shop), words)
        self._list(self.shown, "", with_family=True)

    # --- the shop's own values --------------------------------------------------------------------------------------

    def _own_acts(self, value: own_values.ValueView) -> None:
        own = value.where in own_values.own_paths(self.shop)
        self.words.setText("The shop's own value." if own else "As it ships.")
        self.new = QLineEdit()
        self.new.setObjectName("own_value")
        self.new.setAccessibleName("Own value")
        self.new.setPlaceholderText(show(value.value, value.unit))
        self.new.textChanged.connect(lambda text: self._try(value, text))
        self.new.returnPressed.connect(lambda: self._keep(value))
        self.why = QComboBox()
        self.why.setAccessibleName("Where it comes from")
        self.why.addItems(("timed at our bench", "the maker's word", "our own experience"))
        column = QVBoxLayout()
        column.setSpacing(theme.STEP)
        column.addWidget(self.new)
        column.addWidget(self.why)
        self.effect = label("It counts for every job from now on, open ones too.", tone="muted")
        column.addWidget(self.effect)
        acts: list[QWidget | None] = [button("Keep it", lambda: self._keep(value), "primary", "keep_own")]
        if own:
            acts.append(
                button(
                    "Take back", lambda: self.do(lambda: own_values.take_back(self.shop, value.where)), "", "take_back"
                )
            )
        column.addLayout(row(*acts, None))
        self.acts.addLayout(column)

    def _try(self, value: own_values.ValueView, text: str) -> None:
        """Show what a plain job would be with this value."""
        from creekbed.core.errors import CreekbedError

        if not text.strip():
            self.effect.setText("It counts for every job from now on, open ones too.")
            return
        try:
            e = own_values.try_value(self.shop, value.where, parse_quantity(text, value.unit, what="The value"))
        except CreekbedError as error:
            self.effect.setText(error.happened)
            return
        hands = f"Hands on a plain job: {number(e.hands_before)} min, then {number(e.hands_after)} min."
        waits = (
            f" Waits: {number(e.waits_before)} min, then {number(e.waits_after)} min."
            if e.waits_before != e.waits_after
            else ""
        )
        same = e.hands_before == e.hands_after and not waits
        self.effect.setText("A plain job stays as it is." if same else hands + waits)

    def _keep(self, value: own_values.ValueView) -> None:
        self.do(
            lambda: own_values.set_value(
                self.shop,
                value.where,
                parse_quantity(self.new.text(), value.unit, what="The value"),
                self.why.currentText(),
            )
        )
