"""Bring a list: a file's columns and what they are, what is not sure, and what becomes of each row."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QStandardPaths, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QProgressBar,
    QVBoxLayout,
    QWidget,
)

from creekbed.core.catalogue.surfaces import questions
from creekbed.core.conventions import clock
from creekbed.core.errors import CreekbedError
from creekbed.interchange.files import chosen_file
from creekbed.interchange.tables import MOST_BYTES, Table, read_table
from creekbed.window.bringing.preview import PreviewModel
from creekbed.window.shared import theme
from creekbed.window.shared.background_writes import BackgroundWrites
from creekbed.window.shared.page import Page
from creekbed.window.shared.table import table_view
from creekbed.window.shared.widgets import Flow, button, card, clear, label, restyle, row, scroll
from creekbed.workshop.bringing.bring import bring, prepare, recogniser
from creekbed.workshop.bringing.columns import KINDS, Kind, fields_of, guess, remembered
from creekbed.workshop.bringing.recent import FOLDER, recent_lists
from creekbed.workshop.bringing.rows import STATES, Bringing, ListRequest, State

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

ASKED = 12
"""So many questions stand on the page at once; the most frequent first."""


ROOM_FOR_STATES = 1150
"""Width of the page from which the state of each row has a column of its own, px."""


class BringPage(Page):
    """A file is chosen, its columns are told, then all of it is brought at once; undo takes all of it back."""

    _at = Signal(float)

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.kind: Kind = "instruments"
        self.path: Path | None = None
        self.table: Table | None = None
        self.found: Bringing | None = None
        self.shown: State | None = None
        self.families: dict[str, tuple[str, str]] = {}
        self.made_of: dict[str, str] = {}
        self.columns: dict[str, str] = {}
        self._wanted = 0
        """Number of the newest look at the list: an older one is given up, and its answer dropped."""
        self._waiting: tuple[Callable[[], Any], Callable[[Any], None]] | None = None
        """What comes after the work that is under way."""
        self.work = BackgroundWrites(self, self._failed)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        self.kinds: dict[Kind, QWidget] = {}
        top, holder = Flow(), QWidget()
        holder.setLayout(top)
        top.addWidget(label("Bring a list of", "title", wrap=False))
        for kind, words in KINDS.items():
            pick = button(words, partial(self.choose_kind, kind), "", f"bring_{kind}")
            pick.setCheckable(True)
            self.kinds[kind] = pick
            top.addWidget(pick)
        self.choose = button("Choose a file …", self._choose, "primary", "choose_list", "F2")
        top.addWidget(self.choose)
        box.addWidget(holder)
        self.told = label("", tone="muted")
        box.addWidget(self.told)
        self.recent, recent = QWidget(), Flow(6)
        self.recent.setLayout(recent)
        box.addWidget(self.recent)
        columns = QHBoxLayout()
        columns.setSpacing(theme.STEP * 2)
        columns.addWidget(self._left(), 38)
        columns.addWidget(self._right(), 62)
        box.addLayout(columns, 1)
        self._at.connect(self._progress)

    def _left(self) -> QWidget:
        """The file's columns, and the questions."""
        surface, inside = card()
        inner = QWidget()
        self.left = QVBoxLayout(inner)
        self.left.setContentsMargins(0, 0, 8, 0)
        self.left.setSpacing(theme.STEP)
        self.questions, self.mapping = QVBoxLayout(), QVBoxLayout()
        for layout in (self.questions, self.mapping):
            layout.setSpacing(6)
            self.left.addLayout(layout)
        self.left.addStretch(1)
        inside.addWidget(scroll(inner), 1)
        return surface

    def _right(self) -> QWidget:
        """What becomes of each row, and the button that brings them."""
        surface, inside = card()
        self.filters: dict[State | None, QWidget] = {}
        flow, holder = Flow(6), QWidget()
        holder.setLayout(flow)
        for state in (None, *STATES):
            pick = button("", partial(self._show, state), "", f"show_{state or 'all'}")
            pick.setCheckable(True)
            self.filters[state] = pick
            flow.addWidget(pick)
        inside.addWidget(holder)
        self.model = PreviewModel()
        self.rows = table_view(self.model, "rows", "What becomes of each row", {0: 64, 1: 176, 2: 110})
        self.rows.selectionModel().currentRowChanged.connect(lambda now, _before: self._tell_row(now.row()))
        inside.addWidget(self.rows, 1)
        self.row_words = label("", tone="muted")
        inside.addWidget(self.row_words)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setAccessibleName("How far the list is read")
        self.stop = button("Stop", self._stop, "", "stop_reading")
        inside.addLayout(row(self.bar, self.stop))
        self.leave_out = QCheckBox("")
        self.leave_out.setObjectName("leave_out")
        self.leave_out.toggled.connect(lambda on: self._buttons())
        self.go = button("", self._bring, "primary", "bring_list")
        inside.addWidget(self.leave_out)
        inside.addLayout(row(self.go, None))
        return surface

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Where there is little room, the column of states goes: the buttons above say them."""
        super().resizeEvent(event)
        self.rows.setColumnHidden(1, theme.current.scale > 1.2 or event.size().width() < ROOM_FOR_STATES)

    # --- file and columns --------------------------------------------------------------------------------------------

    def start(self, kind: Kind = "instruments") -> None:
        """Open the page for one kind of list."""
        self.choose_kind(kind)
        self._show_recent()

    def _show_recent(self) -> None:
        """The newest tables among the downloads and in the shop's folder of lists, while no file is chosen."""
        layout = self.recent.layout()
        assert layout is not None
        clear(layout)
        places = [self.shop.folder / FOLDER]
        downloads = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.DownloadLocation)
        places += [Path(downloads)] if downloads else []
        found = recent_lists(places) if self.table is None else []
        if found:
            layout.addWidget(label("Found:", "small", wrap=False))
        for n, file in enumerate(found):
            words = f"{file.path.name[:40]}, {clock(file.changed_at, '%d %b ')}"
            layout.addWidget(button(words, partial(self.open_file, file.path), "", f"recent_{n}"))
        self.recent.setVisible(bool(found))

    def choose_kind(self, kind: Kind) -> None:
        """What the list holds; a file that was chosen stays."""
        self.kind = kind
        self.families, self.made_of = {}, {}
        for key, pick in self.kinds.items():
            pick.setChecked(key == kind)  # type: ignore[attr-defined]
        if self.table is not None:
            self._map()
        else:
            self.refresh()

    def _choose(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "A list", "", "Lists (*.csv *.tsv *.txt *.ods *.xlsx *.xls)")
        if path:
            self.open_file(Path(path))

    def open_file(self, path: Path) -> None:
        """Read a file beside the window."""
        self._wanted += 1  # a look at another file is given up
        self.path, self.table, self.found = path, None, None
        self.families, self.made_of = {}, {}
        self.recent.hide()
        self._run(lambda: read_table(chosen_file(path, MOST_BYTES)), self._opened)

    def _opened(self, table: Table) -> None:
        self.table = table
        self._map()

    def _map(self) -> None:
        """Take the columns as they were chosen before, or as they are guessed."""
        assert self.table is not None
        table, kind = self.table, self.kind
        self.columns = remembered(self.shop, table, kind) or guess(table, kind, recogniser(self.shop))
        self.look()

    def _chosen(self, column: str, pick: QComboBox) -> None:
        """Somebody says which field a column is; no two columns are one field."""
        field = pick.currentData()
        self.columns = {f: c for f, c in self.columns.items() if c != column and f != field}
        if field:
            self.columns[field] = column
        self.look()

    def look(self) -> None:
        """See what becomes of each row, beside the window."""
        if self.table is None:
            return
        self._wanted += 1
        self.found = None
        number, shop, table = self._wanted, self.shop, self.table
        request = ListRequest(self.kind, dict(self.columns), dict(self.families), dict(self.made_of))

        def progress(share: float) -> bool:
            self._at.emit(share)
            return number == self._wanted

        self._run(lambda: prepare(shop, table, request, progress), self._prepared)

    def _run(self, work: Callable[[], Any], then: Callable[[Any], None]) -> None:
        if self.work.busy:
            self._waiting = (work, then)
        elif self.work.start(work, lambda answer: self._came(then, answer)):
            self.bar.setValue(0)
            self.refresh()

    def _goes_on(self) -> bool:
        """Begin what was asked for last meanwhile; true where something was."""
        waiting, self._waiting = self._waiting, None
        if waiting is not None:
            self._run(*waiting)
        return waiting is not None

    def _came(self, then: Callable[[Any], None], answer: Any) -> None:
        if not self._goes_on():
            then(answer)

    def _failed(self, error: CreekbedError) -> None:
        if self._goes_on():
            return
        if self.table is None:
            self.path = None
        self.frame.could_not(error)
        self.refresh()

    def _progress(self, share: float) -> None:
        self.bar.setValue(int(1000 * share))

    def _stop(self) -> None:
        self._wanted += 1

    def _prepared(self, found: Bringing) -> None:
        self.found = found
        self.shown = "problem" if found.count("problem") else None
        self.leave_out.setChecked(False)
        self.refresh()

    # --- what is shown -----------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        busy = self.work.busy
        name = f"{self.path.name}: " if self.path is not None else ""
        if self.table is not None:
            self.told.setText(f"{name}{len(self.table.rows):,} rows. {self.table.told}.")
        else:
            self.told.setText(f"{name}reading …" if busy else EMPTY)
        clear(self.questions)
        clear(self.mapping)
        if self.table is not None:
            self._show_questions()
            self._show_mapping(self.table)
        for widget in (self.bar, self.stop):
            widget.setVisible(busy)
        self._show(self.shown)

    def _show_mapping(self, table: Table) -> None:
        self.mapping.addWidget(label("Columns of the file, and what they are", "name"))
        fields = fields_of(self.kind)
        for n, column in enumerate(table.columns):
            pick = _choices()
            pick.setObjectName(f"column_{n}")
            pick.setAccessibleName(f"What the column {column} is")
            pick.addItem("not used", "")
            for key, field in fields.items():
                pick.addItem(field.name, key)
            chosen = next((f for f, c in self.columns.items() if c == column), "")
            pick.setCurrentIndex(pick.findData(chosen))
            pick.activated.connect(lambda _at, c=column, p=pick: self._chosen(c, p))
            sample = next((cell for cell in table.column(n) if cell), "empty")
            texts = QVBoxLayout()
            texts.setSpacing(0)
            texts.addWidget(label(column))
            texts.addWidget(label(sample[:40], tone="muted"))
            line = row()
            line.addLayout(texts, 45)
            line.addWidget(pick, 55)
            self.mapping.addLayout(line)
        missing = [f.name for key, f in fields.items() if f.needed and key not in self.columns]
        if missing:
            self.mapping.addWidget(label(f"Still to say: {', '.join(missing).lower()}.", tone="warn"))

    def _show_questions(self) -> None:
        if self.found is None or not (self.found.asks or self.found.unsaid):
            return
        if self.found.asks:
            self.questions.addWidget(label("Which is this?", "name"))
        for n, ask in enumerate(self.found.asks[:ASKED]):
            pick = _choices()
            pick.setObjectName(f"ask_{n}")
            pick.setAccessibleName(f"What {ask.words} is")
            pick.addItem(f"say for {ask.rows} rows" if ask.rows > 1 else "say", "")
            known = self.shop.catalogue.families
            rest = [k for k in known if k not in ask.candidates]
            for key in (*ask.candidates, *rest):
                pick.addItem(known[key].name, key)
            pick.activated.connect(lambda _at, words=ask.words, p=pick: self._answered(words, p))
            self.questions.addLayout(_beside(label(f"“{ask.words}”"), pick))
        if self.found.unsaid:
            self.questions.addWidget(label("The file does not say what this is made of", "name"))
            self.questions.addWidget(label("What is not known bears a dry cloth only.", tone="muted"))
        for answered, count in list(self.found.unsaid.items())[:ASKED]:
            self.questions.addLayout(self._material(answered, count))
        self.questions.addSpacing(theme.STEP)

    def _material(self, answered: str, count: int) -> QHBoxLayout:
        """One answer for all instruments of a family whose material the file does not say."""
        key, _, part = answered.partition(".")
        family = self.shop.catalogue.families[key]
        question = next(q for q in questions(family) if q.parts[0] == part and q.kind == "material")
        pick = _choices()
        pick.setObjectName(f"made_{key}_{part}")
        pick.setAccessibleName(f"What {question.words} of {family.name} is made of")
        pick.addItem("not known", "")
        for choice in question.choices:
            pick.addItem(self.shop.catalogue.materials[choice].name, choice)
        pick.setCurrentIndex(max(pick.findData(self.made_of.get(answered, "")), 0))
        pick.activated.connect(lambda _at, a=answered, p=pick: self._made(a, p))
        return _beside(label(f"{family.name}, {question.words} ({count})"), pick)

    def _answered(self, words: str, pick: QComboBox) -> None:
        if pick.currentData():
            self.families[words] = (pick.currentData(), "")
            self.look()

    def _made(self, answered: str, pick: QComboBox) -> None:
        self.made_of[answered] = pick.currentData()
        self.look()

    def _show(self, state: State | None) -> None:
        """Show the rows in one state, or all."""
        self.shown = state
        rows = self.found.rows if self.found is not None else ()
        for key, pick in self.filters.items():
            count = len(rows) if key is None else sum(r.state == key for r in rows)
            pick.setText(f"{'all' if key is None else STATES[key]} {count:,}")  # type: ignore[attr-defined]
            pick.setChecked(key == state)  # type: ignore[attr-defined]
            pick.setVisible(self.found is not None)
        self.row_words.clear()
        self.model.show([r for r in rows if state is None or r.state == state])
        self._buttons()

    def _tell_row(self, n: int) -> None:
        """All words of the row that is chosen, also where the table is too narrow for them."""
        rows = self.model.rows
        self.row_words.setText(f"Line {rows[n].line}: {rows[n].words}" if 0 <= n < len(rows) else "")

    def _buttons(self) -> None:
        found = self.found
        wrong = found.count("problem") if found is not None else 0
        count = len(found.to_write) if found is not None else 0
        many = f"Leave out the {wrong:,} rows that cannot be brought"
        self.leave_out.setText(many if wrong > 1 else "Leave out the row that cannot be brought")
        self.leave_out.setVisible(wrong > 0)
        self.go.setText(f"Bring {count:,} {'row' if count == 1 else 'rows'}")
        ready = count > 0 and not self.work.busy and (wrong == 0 or self.leave_out.isChecked())
        self.go.setEnabled(ready)
        self.go.setVisible(found is not None)
        restyle(self.choose, kind="" if found is not None else "primary")

    def _bring(self) -> None:
        """Take the list over, beside the window."""
        found, shop, leave_out = self.found, self.shop, self.leave_out.isChecked()
        if found is not None:
            self._run(lambda: bring(shop, found, leave_out=leave_out), self._brought)

    def _brought(self, rows: int) -> None:
        done = self.shop.last_done
        if done is not None:
            self.frame.say(". ".join(w.rstrip(".") for w in (done.words, *done.notes)) + ". Undo takes all of it back.")
        self.look()


EMPTY = (
    "A table that a spreadsheet saved: CSV with any separator, OpenDocument or Excel. Its first line names the "
    "columns. You see what becomes of each row before anything is written."
)


def _choices() -> QComboBox:
    """A list of choices that is as wide as there is room, not as its longest one."""
    found = QComboBox()
    found.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    found.setMinimumContentsLength(6)
    return found


def _beside(words: QWidget, pick: QWidget) -> QHBoxLayout:
    line = row()
    line.addWidget(words, 45)
    line.addWidget(pick, 55)
    return line
