"""The case: what went out against what came back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from creekbed.core.catalogue.models.parts import CaseItem
from creekbed.core.catalogue.surfaces import questions
from creekbed.core.conventions import clock
from creekbed.core.errors import Refused
from creekbed.core.inspection.marks import MarkCompared, MarkSeen
from creekbed.core.turns import Turns
from creekbed.core.units import parse_quantity
from creekbed.store.records import ContentLine
from creekbed.window.job.came_box import CameBox
from creekbed.window.shared import theme
from creekbed.window.shared.instrument_picture import Picture
from creekbed.window.shared.photo_strip import PhotoStrip
from creekbed.window.shared.widgets import Beside, Flow, button, card, clear, label, restyle, row, scroll
from creekbed.words.times import clock_words
from creekbed.workshop.arrival import instrument_materials as made_of
from creekbed.workshop.arrival import intake, photos
from creekbed.workshop.arrival.condition_marks import MARK_KINDS, add_mark, mark_repaired
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.bench.wait_view import ACCLIMATISING
from creekbed.workshop.inspection.history import bill_draft, bill_said, marks_of
from creekbed.workshop.supplies.stock import prices

if TYPE_CHECKING:
    from creekbed.window.job.job_page import JobPage

STATE_WORDS = {
    "present": "here", "missing": "missing", "worn": "worn", "replaced": "replaced from stock",
    "waived": "goes without",
}  # fmt: skip

AHEAD = 14
"""So many rows are made before the first case is opened; few cases hold more: house default."""
TICKS = (("present", "Here"), ("worn", "Worn"), ("missing", "Missing"))


class CaseRow(QWidget):
    """One piece of the case: its name, and large buttons for its state."""

    item: CaseItem

    def __init__(self, panel: CasePanel):
        super().__init__()
        self.panel = panel
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(theme.STEP)
        self.name = label("")
        self.left = QVBoxLayout()
        self.left.setSpacing(0)
        self.left.addWidget(self.name)
        box.addLayout(self.left, 26)
        self.ticks = {state: self._tick(state, words) for state, words in TICKS}
        self.right = QHBoxLayout()
        self.right.setSpacing(theme.STEP)
        for tick in self.ticks.values():
            self.right.addWidget(tick, 1)
        box.addLayout(self.right, 74)
        self.words: QLabel | None = None

    def show_item(self, item: CaseItem) -> None:
        """Have another piece in this row."""
        self.item = item
        self.name.setText(item.name.capitalize() + (", safety part" if item.kind == "safety" else ""))
        for state, tick in self.ticks.items():
            tick.setObjectName(f"{item.key}_{state}")
        if self.words is not None:
            self._name_ways()

    def _make_words(self) -> QLabel:
        """Make the words and buttons for a piece that is missing or worn: most pieces never need them."""
        words = label("", tone="muted")
        self.replace = button("Replace from stock", self._replace, "")
        self.waive = button("Waive …", lambda: self.panel.waive(self.item), "")
        self.here = button("It is here", lambda: self._set("present"), "quiet")
        self._name_ways()
        self.left.addWidget(words)
        for action in (self.replace, self.waive, self.here):
            self.right.addWidget(action, 1)
        return words

    def _name_ways(self) -> None:
        for way, name in ((self.replace, "replace"), (self.waive, "waive"), (self.here, "is_here")):
            way.setObjectName(f"{self.item.key}_{name}")

    def _tick(self, state: str, words: str) -> QPushButton:
        tick = button(words, lambda: self._set(state), "")
        tick.setCheckable(True)
        return tick

    def _set(self, state: str) -> None:
        page = self.panel.page
        page.do(lambda: intake.tick_item(page.shop, self.panel.job, self.item.key, state))

    def _replace(self) -> None:
        page = self.panel.page
        page.do(lambda: intake.replace_item(page.shop, self.panel.job, self.item.key))

    def set_line(self, line: ContentLine | None) -> None:
        """Show what was ticked, or that nothing was."""
        state = line.state if line is not None else ""
        settled = state in ("missing", "worn", "replaced", "waived")
        for name, tick in self.ticks.items():
            tick.setVisible(not settled)
            tick.setChecked(name == state)
        if self.words is None:
            if not settled:
                return
            self.words = self._make_words()
        self.words.setVisible(settled)
        self.here.setVisible(settled)
        self.replace.setVisible(state in ("missing", "worn") and self.item.stock is not None)
        self.waive.setVisible(state in ("missing", "worn"))
        if line is not None and settled:
            words = STATE_WORDS[state] + (f": {line.reason}" if state == "waived" else "")
            if state == "missing" and self.item.kind == "safety":
                words = "missing: cannot be released"
            self.words.setText(words.capitalize())
            restyle(self.words, tone="warn" if state == "missing" else "muted")


def _nothing_to_say(noun: str) -> None:
    raise Refused(f"No step of a {noun} depends on what it is made of.")


class CasePanel(QWidget):
    """One line for each piece; marks on the instrument beside it."""

    def __init__(self, page: JobPage):
        super().__init__()
        self.page = page
        self.job = 0
        self.rows: dict[str, CaseRow] = {}
        self._made: list[CaseRow] = []
        """Rows are made once and show the pieces of one instrument after another: making them takes longest."""
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(theme.STEP * 2)
        frame, left = card(margin=12)
        self.head = label("", "name")
        left.addWidget(self.head)
        inner = QWidget()
        self.lines = QVBoxLayout(inner)
        self.lines.setContentsMargins(0, 0, 8, 0)
        self.lines.setSpacing(4)
        self.lines.addStretch(1)
        left.addWidget(scroll(inner), 1)
        self.rest = button("The rest is here", self._rest, "primary", "rest", "F2")
        self.done = button("Finish case", self._done, "primary", "case_done", "F2")
        self.surplus = label("", tone="muted")
        left.addWidget(self.surplus)
        odd = button("Something extra …", self._note_surplus, "quiet", "surplus")
        made = button("Made of …", self._made_of, "quiet", "made_of")
        ways, flow = QWidget(), Flow()
        ways.setLayout(flow)
        for way in (self.rest, self.done, odd, made):
            flow.addWidget(way)
        left.addWidget(ways)
        box.addWidget(frame, 56)
        side, right = card(margin=12)
        self.came = CameBox(page)
        right.addWidget(self.came)
        self.modes = {
            name: button(words, partial(self.set_mode, name), "quiet", f"mode_{name}")
            for name, words in (("case", "Open case"), ("marks", "Marks"))
        }
        for tab in self.modes.values():
            tab.setCheckable(True)
        right.addLayout(row(*self.modes.values(), None))
        self.picture = Picture(185)
        self.picture.pointed.connect(self._pointed)
        right.addWidget(self.picture)
        self.hint = label("", tone="muted")
        right.addWidget(self.hint)
        right.addWidget(self._mark_form())
        self.strip = PhotoStrip(page)
        right.addWidget(self.strip)
        right.addStretch(1)
        box.addWidget(scroll(side), 44)
        self.mode = ""
        self.view: JobView | None = None
        self._marks: tuple[MarkCompared, ...] | None = None

    def _mark_form(self) -> QWidget:
        """Where a mark is noted, and what was noted."""
        self.form = QWidget()
        form = QVBoxLayout(self.form)
        form.setContentsMargins(0, 0, 0, 0)
        form.setSpacing(4)
        self.zone, self.kind, self.size_field = QComboBox(), QComboBox(), QLineEdit()
        for field, name in ((self.zone, "Zone"), (self.kind, "Kind"), (self.size_field, "Size, for example 9 mm")):
            field.setAccessibleName(name)
        self.kind.addItems(MARK_KINDS)
        self.size_field.setPlaceholderText("9 mm")
        self.size_field.setObjectName("mark_size")
        self.size_field.returnPressed.connect(self._mark)
        self.zone.currentTextChanged.connect(self._zone_chosen)
        fields = Beside(4)
        for mark_field, share in ((self.zone, 4), (self.kind, 4), (self.size_field, 3)):
            fields.addWidget(mark_field, share)
        form.addLayout(fields)
        form.addWidget(button("Note this mark", self._mark, "", "note_mark"))
        self.rows_ = QVBoxLayout()
        self.rows_.setSpacing(2)
        form.addLayout(self.rows_)
        self.bill = label("", tone="muted")
        form.addWidget(self.bill)
        return self.form

    def show_job(self, view: JobView) -> None:
        """Draw the case of a job."""
        if view.job.id != self.job:
            self.mode, self._marks = "", None
        self.job, self.view = view.job.id, view
        self.came.show_job(view)
        items = intake.expected_items(view)
        left = [i for i in items if i.key not in view.lines]
        went = bool(view.hire and view.hire.contents_out)
        out = f"{len(items)} pieces went out" if went else f"{len(items)} pieces belong in it"
        all_here = "All are ticked; say how it came." if self.came.unsaid else "All are ticked."
        self.head.setText(f"{out}. {len(left)} not ticked yet." if left else f"{out}. {all_here}")
        shut = next((w for w in view.waits if w.key == ACCLIMATISING), None)
        if shut is not None:
            opens = clock_words(self.page.shop.now + shut.contact.remaining, self.page.shop.now)
            self.head.setText(f"Keep the case shut until {opens}: it must come to the room's temperature first.")
        restyle(self.head, tone="warn" if shut is not None else "")
        self.rest.setEnabled(shut is None)
        if [i.key for i in items] != list(self.rows) or any(self.rows[i.key].item is not i for i in items):
            self._show_items(items)
        for key, line in self.rows.items():
            line.set_line(view.lines.get(key))
        contents = view.step("contents")
        self.surplus.setVisible(bool(view.surplus))
        self.surplus.setText(f"In a labelled bag, to be handed back: {', '.join(view.surplus)}.")
        self.rest.setVisible(bool(left))
        self.done.setVisible(not left and contents is not None and contents.work is None)
        self.done.setEnabled(not self.came.unsaid)
        if self.zone.itemText(0) != view.family.zones[0]:
            self.zone.clear()
            self.zone.addItems(list(view.family.zones))
        if not self.mode:
            self.mode = "case" if contents is not None and contents.work is None else "marks"
        self._show_side(view)

    def _show_items(self, items: Sequence[CaseItem]) -> None:
        while len(self._made) < len(items):
            self._make_row()
        self.rows = {}
        for item, line in zip(items, self._made, strict=False):
            self.rows[item.key] = line
            line.show_item(item)
            line.show()
        for line in self._made[len(items) :]:
            line.hide()

    def _make_row(self) -> None:
        line = CaseRow(self)
        self._made.append(line)
        self.lines.insertWidget(self.lines.count() - 1, line)

    def ready_in_turns(self) -> Turns[None]:
        """Make the rows of a full case, and ask what every case asks, before one is opened."""
        for ask in (lambda: photos.packing_photo(self.page.shop, ""), lambda: prices(self.page.shop)):
            ask()
            yield None
        while len(self._made) < AHEAD:
            self._make_row()
            self._made[-1].hide()
            yield None

    # --- the drawing ------------------------------------------------------------------------------------------------

    def set_mode(self, mode: str) -> None:
        """Show the open case, or the instrument with its marks."""
        self.mode = mode
        if self.view is not None:
            self._show_side(self.view)

    def _show_side(self, view: JobView) -> None:
        for name, tab in self.modes.items():
            tab.setChecked(name == self.mode)
        in_case = self.mode == "case"
        self.form.setVisible(not in_case)
        self.picture.set_family(view.family, case=in_case)
        if in_case:
            missing = {i: 1 for i, line in view.lines.items() if line.state in ("missing", "worn")}
            self.picture.set_counts(missing)
            here = [i for i, line in view.lines.items() if line.state in ("present", "replaced")]
            self.picture.light(here, "Lit: here. A number: missing or worn.")
            self.hint.setText("Tap a piece: it is here. Tap again: it is missing.")
        else:
            rows = tuple(marks_of(view))
            there = Counter(r.zone for r in rows if r.status != "repaired")
            self.picture.set_counts(dict(there))
            self.picture.light((self.zone.currentText(),), "")
            self.hint.setText("Tap where the mark is, say what and how long.")
            self._show_marks(view, rows)
        packed = photos.packing_photo(self.page.shop, view.tag)
        words = "How it is packed" if packed is None else f"How it was packed, {clock(packed.taken_at, '%d %b ')}"
        self.strip.show_job(self.job, words)

    def _show_marks(self, view: JobView, rows: tuple[MarkCompared, ...]) -> None:
        self.bill.setText(bill_said(bill_draft(self.page.shop, view)))
        if rows == self._marks:
            return
        self._marks = rows
        clear(self.rows_)
        if not rows:
            self.rows_.addWidget(label("None noted, now or before.", tone="muted"))
        for n, r in enumerate(rows):
            if r.came_in is None:
                assert r.out is not None
                words = f"{r.zone.capitalize()}: {r.out.words()} when it went out"
                acts = (
                    button("Still there", partial(self._still, r.out), "quiet", f"still_{n}"),
                    button("Gone", partial(self._gone, r.out), "quiet", f"gone_{n}"),
                )
            else:
                was = f", was {r.out.words()}" if r.out is not None and r.status == "grown" else ""
                what = r.came_in.kind if r.status == "repaired" else r.came_in.words()
                words = f"{r.zone.capitalize()}: {what} ({r.status}{was})"
                acts = (button("Photo", partial(self._photo_of, r.came_in), "quiet", f"mark_photo_{n}"),)  # type: ignore[assignment]
            line = row(label(words), *acts)
            line.setStretch(0, 1)
            holder = QWidget()
            holder.setLayout(line)
            line.setContentsMargins(0, 0, 0, 0)
            self.rows_.addWidget(holder)

    def _pointed(self, area: str) -> None:
        view = self.view
        if view is None or self.picture.drawn is None:
            return
        shows = self.picture.drawn.shows
        if self.mode == "case":
            item = next((i for i in intake.expected_items(view) if area in shows(i.key)), None)
            if item is None:
                return
            line = view.lines.get(item.key)
            state = "missing" if line is not None and line.state == "present" else "present"
            self.page.do(lambda: intake.tick_item(self.page.shop, self.job, item.key, state))
            return
        zone = next((z for z in view.family.zones if area in shows(z)), None)
        if zone is not None:
            self.zone.setCurrentText(zone)
            self.size_field.setFocus()

    def _zone_chosen(self, zone: str) -> None:
        if self.mode == "marks" and self.view is not None and zone:
            self.picture.light((zone,), "")

    def _still(self, mark: MarkSeen) -> None:
        job = self.job
        self.page.do(lambda: add_mark(self.page.shop, job, mark.zone, mark.kind, mark.size_mm))

    def _gone(self, mark: MarkSeen) -> None:
        job = self.job
        self.page.do(lambda: mark_repaired(self.page.shop, job, mark.zone, mark.kind))

    def _photo_of(self, mark: MarkSeen) -> None:
        into = self.strip.receiver(f"mark:{mark.id}")
        if self.page.frame.devices.ports.get("camera"):
            self.strip.take(into)
        else:
            self.strip.choose_file(into)

    def _note_surplus(self) -> None:
        job = self.job
        said = self.page.ask(
            "Does not belong in it", "What is it? It goes into a labelled bag and is handed back.", ok="Into the bag"
        )
        if said is not None and job is not None:
            self.page.do(lambda: intake.note_surplus(self.page.shop, job, said))

    def _made_of(self) -> None:
        """Put right what a part is made of or has on it."""
        view = self.view
        if view is None:
            return
        answers = made_of.choices(self.page.shop, view.family)
        if not answers:
            self.page.do(lambda: _nothing_to_say(view.family.noun))
            return
        listed = tuple((str(n), words) for n, (words, _, _) in enumerate(answers))
        others = tuple((key, f"{words}: something else") for key, words, _ in self._kinds(view))
        said = self.page.ask_choice(
            "Made of", "Choose what it is. For something else, write what people call it.",
            choices=(*listed, *others), needed=False, ok="Keep",
        )  # fmt: skip
        if said is None:
            return
        chosen, name = said

        def act() -> None:
            parts = next((p for key, _, p in self._kinds(view) if key == chosen), ())
            unknown = dict.fromkeys(parts, made_of.unknown(name)) if parts else {}
            _, materials, finishes = answers[int(chosen)] if not parts else ("", unknown, {})
            made_of.set_made_of(self.page.shop, view.tag, materials, finishes)

        self.page.do(act)

    @staticmethod
    def _kinds(view: JobView) -> list[tuple[str, str, tuple[str, ...]]]:
        asked = [q for q in questions(view.family) if q.kind == "material"]
        return [(f"else_{n}", q.words.capitalize(), q.parts) for n, q in enumerate(asked)]

    def _rest(self) -> None:
        self.page.do(lambda: intake.tick_rest(self.page.shop, self.job))

    def _done(self) -> None:
        if self.page.finish("contents"):
            self.page.show_tab("steps")

    def waive(self, item: CaseItem) -> None:
        """Ask why it may go without a piece."""
        job = self.job
        reason = self.page.ask(
            f"Goes without {item.name}", f"Why may it go without? {item.why}".strip(),
            ready=("the renter has one", "to follow with the next departure"), ok="Waive it",
        )  # fmt: skip
        if reason is not None:
            self.page.do(lambda: intake.waive_item(self.page.shop, job, item.key, reason))

    def _mark(self) -> None:
        job = self.job

        def act() -> None:
            text = self.size_field.text()
            size = None
            if text.strip():
                size = parse_quantity(text, "millimeter", what="The size", minimum=0.1, maximum=2000)
            add_mark(self.page.shop, job, self.zone.currentText(), self.kind.currentText(), size)
            self.size_field.clear()

        self.page.do(act)
