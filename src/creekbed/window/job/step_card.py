"""The card of one step: what, how much, how, caution, why, and the main action."""

from __future__ import annotations

from collections import Counter

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFontMetrics, QResizeEvent
from PySide6.QtWidgets import QFrame, QLabel, QVBoxLayout, QWidget

from creekbed.core.catalogue.models.base import MARK_WORDS
from creekbed.core.conventions import number
from creekbed.core.procedure.moves import Move
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import before_list
from creekbed.window.job.step_rows import fill_rows, make_rows
from creekbed.window.shared import theme
from creekbed.window.shared.instrument_picture import Picture
from creekbed.window.shared.widgets import Flow, button, label, row, scroll
from creekbed.words.times import clock_words
from creekbed.workshop.bench.job_view import JobView, StepView

PRIMARY = {
    "do": "Done", "contents": "Tick the case", "look": "Inspect", "mix": "Open the mix bench", "retune": "Retuned …",
    "test": "Passed", "pack": "Check the case …", "apart": "All apart", "together": "All together",
    "again": "All apart", "hands": "Clean hands", "send": "Send out …",
}  # fmt: skip
OPENS = ("contents", "look", "mix", "retune", "pack", "send")
"""Kinds of step that want more than one press; their big action opens the place for it."""
PLAIN = ("do", "retune", "hands", "send")
"""Kinds of step that are told by what they say, not by moves or a page of their own."""
LEFT_OUT = " Optional: it may be skipped where time is short."


def found_on(view: JobView) -> dict[str, int]:
    """For each part or zone: checks that found something there that is still open, and marks set on it."""
    parts = {c.key: c.part for c in view.family.check if c.part}
    out = [f.check for f in view.findings.values() if f.band in ("amber", "act") and not f.closed]
    return dict(
        Counter(parts[key] for key in out if key in parts)
        + Counter(m.zone for m in view.marks if m.status != "repaired")
    )


@dataclass(frozen=True)
class StepContext:
    """What else belongs to a step: the tool that it opens, others that it is done with, its tray; "" for none.

    Attributes:
        hands: why hands are washed first.
    """

    tool: str = ""
    also: str = ""
    tray: str = ""
    hands: str = ""


NOTHING = StepContext()


FIRST = ("Hands", "How much", "Uses", "Caution", "Why now")
"""What must be in sight at the bench without scrolling, in this order; the rest follows."""


SIDE, ABOVE = 24, 16
"""Margins of the card, px."""
SMALLEST_PICTURE, LARGEST_PICTURE = 120, 300
"""Height of the drawing, px."""
LARGE_FROM = (900, 420)
"""Width and height from which the card at the bench is large, px."""
LARGE_TITLE = 48
NEEDED = ("Hands", "How much", "How", "Caution", "Uses", "Tray")
"""What a step needs on its own page; the rest is read by scrolling, under the drawing."""


class StepCard(QFrame):
    """Shows a step and forwards actions. ``full`` shows how, tools and source too.

    The widgets are made once and filled anew for each step: an action at the bench must be seen at once.
    """

    done = Signal(int, str)
    opened = Signal(int, str)
    failed = Signal(int, str)
    waived = Signal(int, str)
    awaits = Signal(int, str)
    arrived = Signal(int, str)
    found = Signal(int)
    aside = Signal()
    taken = Signal(int, str)
    booked = Signal(str, str)
    tooled = Signal(int, str)
    together = Signal(int, str)
    washed = Signal()

    def __init__(self, full: bool = False):
        super().__init__()
        self.setObjectName("card")
        self.full = full
        self.view: JobView | None = None
        self.step: StepView | None = None
        self.uses = ""
        self.beside = NOTHING
        self.why = ""
        box = QVBoxLayout(self)
        box.setContentsMargins(SIDE, ABOVE, SIDE, ABOVE)
        box.setSpacing(theme.STEP)
        self.over = label("", "small")
        self.who = label("", "name", wrap=False)
        self.for_whom = label("", tone="muted")
        if not full:
            box.addWidget(self.over)
            head = row(self.who, self.for_whom, spacing=theme.STEP * 2)
            head.setStretch(1, 1)
            box.addLayout(head)
        self.title = label("")
        self.title.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        self.title.setObjectName("step_title")
        body = QWidget()
        self.inner = inner = QVBoxLayout(body)
        inner.setContentsMargins(0, 0, 4, 0)
        inner.setSpacing(theme.STEP)
        self.progress = label("", "small")
        inner.addWidget(self.progress)
        inner.addWidget(self.title)
        self.picture: Picture | None = None
        self.at = 0
        """The move that is shown, of a step that has some."""
        self.rows, self.needed = make_rows(self.full)
        inner.addLayout(self.needed)
        self.more_rows: list[tuple[QLabel, QLabel]] = []
        """What can be read by scrolling: why, with what, where from."""
        self.following = label("", tone="muted")
        self.asks, self.below = QVBoxLayout(), QVBoxLayout()
        """What the step asks for, such as how flat a string was; and what runs meanwhile, below the drawing."""
        for more_of_it in (self.asks, self.below):
            more_of_it.setSpacing(theme.STEP)
        if full:
            inner.addWidget(self.following)
            inner.addLayout(self.asks)
            self.picture = Picture(LARGEST_PICTURE)
            inner.addWidget(self.picture)
            inner.addLayout(self.below)
            self.more_rows, more = make_rows(self.full)
            inner.addLayout(more)
        inner.addStretch(1)
        self.area = scroll(body)
        box.addWidget(self.area, 1)
        self.buttons = self._make_buttons()
        box.addWidget(self.buttons)
        self._large = False

    def fit_picture(self) -> None:
        """On its own page: the drawing takes what the words leave of what is in sight, and no less than can be read."""
        layout = self.layout()
        if self.picture is None or layout is None:
            return
        layout.activate()
        said = [w for w in (self.progress, self.following) if w.text()]
        wide = self.width() - 2 * SIDE - 20
        words = self._text_height() + sum(w.heightForWidth(wide) + theme.STEP for w in said)
        spare = self.area.viewport().height() - words - self.asks.sizeHint().height() - 2 * theme.STEP
        self.picture.set_height(max(min(spare, LARGEST_PICTURE), SMALLEST_PICTURE))

    def _make_buttons(self) -> QWidget:
        self.back = button("Back", lambda: self._turn_to(self.at - 1), "", "move_back", "F3")
        self.forth = button("Next move", lambda: self._turn_to(self.at + 1), "", "move_next", "F4")
        self.primary = button("Done", self._primary, "primary", "primary", "F2")
        self.primary.setMinimumWidth(theme.current.big(180))
        self.test_failed = button("Failed …", lambda: self._tell(self.failed), "warn", "failed")
        self.found_button = button("Found something", lambda: self._job(self.found), "", "found", "F3")
        self.aside_button = button("Pause", self.aside.emit, "", "aside", "F4")
        self.take = button("Start", lambda: self._tell(self.taken), "", "take", "F4")
        self.leave = button("Skip …", lambda: self._tell(self.waived), "", "waive")
        self.part = button("Wait for a part …", lambda: self._tell(self.awaits), "", "await_part")
        self.came = button("It is here", lambda: self._tell(self.arrived), "", "part_here")
        self.book = button("Look it up", self._open_book, "quiet", "in_the_book")
        self.tool = button("", lambda: self._tell(self.tooled), "quiet", "step_tool")
        self.also = button("", lambda: self._tell(self.together), "", "together")
        self.wash = button("Hands washed", self.washed.emit, "", "hands_washed")
        turns = (self.forth, self.back) if self.full else ()
        every = (
            self.primary, *turns, self.wash, self.also, self.test_failed, self.found_button, self.aside_button,
            self.take, self.leave, self.came, self.part, self.tool, self.book,
        )  # fmt: skip
        holder = QWidget()
        flow = Flow()
        for way in every:
            flow.addWidget(way)
        holder.setLayout(flow)
        return holder

    def _open_book(self) -> None:
        if self.view is not None and self.step is not None:
            self.booked.emit(self.view.family.key, self.step.step.base)

    def _primary(self) -> None:
        assert self.step is not None
        self._tell(self.opened if self.step.step.kind in OPENS else self.done)

    def _tell(self, signal: object) -> None:
        if self.view is not None and self.step is not None:
            signal.emit(self.view.job.id, self.step.step.key)  # type: ignore[attr-defined]

    def _job(self, signal: object) -> None:
        if self.view is not None:
            signal.emit(self.view.job.id)  # type: ignore[attr-defined]

    def set_step(
        self, view: JobView, step: StepView, why: str, in_hand: bool, start: str = "", uses: str = "",
        beside: StepContext = NOTHING,
    ) -> None:  # fmt: skip
        """Show a step of a job.

        Args:
            view, step: the step and its job. why: why now, in words. in_hand: it is being done.
            start: from when, if later. uses: what it takes from stock, in words. beside: what else belongs to it.
        """
        self.view, self.step, self.uses, self.beside = view, step, uses, beside
        s = step.step
        done = len(view.steps) - len(view.open_steps)
        head = "In your hands" if in_hand else f"Next for your hands, {start}" if start else "Next for your hands"
        self.over.setText(f"{head} · step {min(done + 1, len(view.steps))} of {len(view.steps)}")
        self.who.setText(f"{view.tag}  {view.family.name}")
        departure = (
            f"{view.departure.name}, {clock_words(view.departure.leaves_at)}" if view.departure else "no departure set"
        )
        self.for_whom.setText(
            f"for {view.job.next_group}, {departure}" if view.job.next_group else f"for the {departure}"
        )
        self.why = why
        self.at = 0
        if self.full:
            self._turn_to(0)
        else:
            self._title(s.what, self._fitting(s.what))
            self._details(why)
        self._actions(in_hand)

    def _turn_to(self, at: int) -> None:
        """Show one move of the step, drawn and in large words, and in small ones what follows; else the step itself."""
        if self.step is None:
            return
        s = self.step.step
        self.at = max(0, min(at, len(s.moves) - 1))
        move = self._move()
        several = len(s.moves) > 1
        told = f"Move {self.at + 1} of {len(s.moves)} · {before_list(s.what)}" if several else ""
        self.progress.setText(told or (before_list(s.what) if move is not None else ""))
        self.progress.setVisible(bool(self.progress.text()))
        self._title(move.what if move is not None else s.what, theme.TITLE_SIZE)
        then = s.moves[self.at + 1].what if self.at + 1 < len(s.moves) else ""
        self.following.setText(f"Then: {then[:1].lower()}{then[1:]}" if then else "")
        self.following.setVisible(bool(then))
        self.back.setVisible(several)
        self.forth.setVisible(several)
        self.back.setEnabled(self.at > 0)
        self.forth.setEnabled(bool(then))
        self._light()
        self._details(self.why)

    def _light(self) -> None:
        """Draw the instrument with what the step is about lit."""
        if self.picture is None or self.view is None or self.step is None:
            return
        s = self.step.step
        self.picture.set_family(self.view.family, case=s.kind == "contents" or s.part == "case")
        self.picture.set_counts({} if self.picture.case else found_on(self.view))
        self.picture.light_step(s, self._move())

    def _spread(self) -> None:
        """At the bench: larger type, and the drawing, where a large screen leaves room for them."""
        large = self.width() >= LARGE_FROM[0] and self.height() >= LARGE_FROM[1]
        if large != self._large:
            self._large = large
            for _, text in self.rows:
                text.setFont(theme.current.font(theme.NAME_SIZE + 2 if large else theme.TEXT_SIZE + 1))
        if self.step is not None:
            self._title(self.step.step.what, self._fitting(self.step.step.what))
        if not large or self.step is None:
            if self.picture is not None:
                self.picture.hide()
            return
        if self.picture is None:
            self.picture = Picture(LARGEST_PICTURE)
            self.picture.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # at the bench it is only looked at
            self.inner.insertWidget(self.inner.count() - 1, self.picture)
        spare = self.area.viewport().height() - self._text_height() - 2 * theme.STEP
        self.picture.set_height(round(min(spare, 2 * LARGEST_PICTURE) / min(theme.current.scale, 1.2)))
        self._light()
        self.picture.setVisible(spare >= SMALLEST_PICTURE and self.picture.drawn is not None)

    def _text_height(self) -> int:
        """How high title and lines are at this width, px."""
        wide = self.width() - 2 * SIDE - 20
        rows = [(head, text) for head, text in self.rows if text.text()]
        beside = max((head.sizeHint().width() for head, _ in rows), default=0) + 3 * theme.STEP
        needed = sum(max(text.heightForWidth(wide - beside), 1) + theme.STEP for _, text in rows)
        return int(self.title.heightForWidth(wide)) + theme.STEP + needed

    def _move(self) -> Move | None:
        """The move that is shown; ``None`` at the bench, and for a step without any."""
        if not self.full or self.step is None or not self.step.step.moves:
            return None
        return self.step.step.moves[self.at]

    def _fitting(self, words: str) -> int:
        """The largest size at which the step stands in one line; two lines of a middle size where none does."""
        room = self.title.width() - 8
        sizes: tuple[int, ...] = (theme.STEP_SIZE, 34, 31, theme.TITLE_SIZE)
        for size in (LARGE_TITLE, *sizes) if self._large else sizes:
            if QFontMetrics(theme.current.font(size, True, large=True)).horizontalAdvance(words) <= room:
                return size
        return 31 if len(words) < 80 else theme.TITLE_SIZE

    def _title(self, words: str, size: int) -> None:
        self.title.setFont(theme.current.font(size, True, large=True))
        self.title.setText(words)

    def _details(self, why: str) -> None:
        assert self.step is not None
        s = self.step.step
        rows: list[tuple[str, str, str]] = []
        if self.beside.hands:
            rows.append(("Hands", self.beside.hands, "warn"))
        if s.amount and s.amount not in s.what:
            rows.append(("How much", s.amount, ""))
        if self.uses:
            rows.append(("Uses", self.uses, ""))
        if self.beside.tray:
            rows.append(("Tray", self.beside.tray, ""))
        if s.moves and not self.full:
            rows.append(("Moves", "\n".join(f"{n}  {m.what}" for n, m in enumerate(s.moves, 1)), ""))
        move = self._move()
        of_step = s.how if (self.full or s.kind in PLAIN) and self.at == 0 else ""
        how = " ".join(t for t in (move.how if move else "", of_step) if t)
        if how and (self.full or not s.moves):
            rows.append(("How", how, ""))
        mind = " ".join(t for t in (move.caution if move else "", s.caution) if t)
        if mind:
            rows.append(("Caution", mind, "warn" if s.refused else ""))
        rule = f" House rule: {s.policy.lower()}." if self.full else " (House rule.)"
        because = move.reason if move is not None and move.reason else s.reason
        reason = because + (rule if s.policy else "") + (LEFT_OUT if s.optional else "")
        if self.full:
            rows.append(("Why", reason, ""))
            if why:
                rows.append(("Now", why, ""))
            if s.tools:
                rows.append(("With", ", ".join(s.tools), ""))
            if s.wait is not None:
                longest = f", {number(s.wait.max_minutes)} min at the longest" if s.wait.max_minutes else ""
                rows.append(("Then", f"{s.wait.name}: {number(s.wait.min_minutes)} min {s.wait.where}{longest}", ""))
            rows.append(("Source", f"{MARK_WORDS[s.mark].capitalize()}: {s.source}", "muted"))
        else:
            rows += [("Why now", why, "")] * bool(why) + [("Why", reason, "")]
            rows.sort(key=lambda r: FIRST.index(r[0]) if r[0] in FIRST else len(FIRST))
        if not self.full:
            fill_rows(self.rows, rows)
            self._spread()
            return
        needed = sorted((r for r in rows if r[0] in NEEDED), key=lambda r: NEEDED.index(r[0]))
        fill_rows(self.rows, needed)
        fill_rows(self.more_rows, [r for r in rows if r[0] not in NEEDED])
        self.fit_picture()

    def _actions(self, in_hand: bool) -> None:
        assert self.view is not None and self.step is not None
        kind, ready = self.step.step.kind, self.step.state == "ready" and not self.view.blocked
        key = "   F2" if theme.current.scale < 1.3 else ""
        self.primary.setText(PRIMARY[kind] + key)
        self.primary.setAccessibleName(PRIMARY[kind])
        self.primary.setEnabled(ready)
        self.primary.setVisible(not (self.full and kind in ("retune", "pack")))
        self.test_failed.setVisible(kind == "test")
        self.test_failed.setEnabled(ready)
        self.found_button.setVisible(not self.full)
        self.aside_button.setVisible(not self.full and in_hand)
        self.take.setVisible(not self.full and not in_hand and kind not in OPENS)
        self.leave.setVisible(
            self.full and kind not in ("contents", "look", "pack", "send") and self.step.step.ends is None
        )
        self.leave.setEnabled(ready)
        open_ = self.step.work is None
        self.part.setVisible(self.full and open_ and self.step.step.ends is None and kind not in ("contents", "look"))
        self.came.setVisible(self.full and open_ and bool(self.step.parts))
        self.book.setVisible(self.full)
        self.tool.setText(self.beside.tool)
        self.tool.setAccessibleName(self.beside.tool)
        self.tool.setVisible(bool(self.beside.tool))
        self.also.setText(self.beside.also)
        self.also.setAccessibleName(self.beside.also)
        self.also.setVisible(bool(self.beside.also) and ready)
        self.wash.setVisible(bool(self.beside.hands))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.full:
            self.fit_picture()
        else:
            self._spread()

    def set_nothing(self, words: str, detail: str) -> None:
        """Nothing waits for hands."""
        self.view = self.step = None
        self.over.setText("In your hands")
        self.who.setText("")
        self.for_whom.setText("")
        self._title(words, theme.STEP_SIZE)
        fill_rows(self.rows, [("", detail, "muted")])
        fill_rows(self.more_rows, [])
        if self.picture is not None:
            self.picture.hide()
        for words_of_move in (self.progress, self.following):
            words_of_move.setText("")
            words_of_move.hide()
        for widget in (
            self.primary,
            self.back,
            self.forth,
            self.test_failed,
            self.found_button,
            self.aside_button,
            self.take,
            self.leave,
            self.part,
            self.came,
            self.book,
            self.tool,
            self.also,
            self.wash,
        ):
            widget.hide()
