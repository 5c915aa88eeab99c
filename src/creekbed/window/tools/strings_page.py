"""Choice of strings: what each string of the shelf would pull on an instrument of a size, and what the set does."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QComboBox, QGridLayout, QLabel, QSizePolicy, QWidget

from creekbed.core.conventions import number
from creekbed.core.errors import CreekbedError
from creekbed.core.strings.choice import GOOD_SHARE, WORST_SHARE, StringFit, Wanted, ask_for, fits, whole_set
from creekbed.core.strings.life import Life
from creekbed.core.units import show
from creekbed.window.shared import theme
from creekbed.window.shared.background_writes import BackgroundWrites
from creekbed.window.shared.widgets import clear, how_sure, label, restyle
from creekbed.window.tools.base import Fields, ToolPage, refill
from creekbed.words.strings import (
    age_words,
    ask_words,
    due_words,
    fit_words,
    life_words,
    off_words,
    risk_words,
    set_words,
)
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.supplies.string_choice import plain_of, shelf, string_angle, wanted_strings
from creekbed.workshop.supplies.string_life import StringLives, string_lives

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

NEXT_HIRE_DAYS = 91.0
"""The next hire is taken to last so long: house default."""
SPAN = 0.4
"""Shares of the wanted tension that the picture reaches on both sides."""


class SetPicture(QWidget):
    """Each chosen string as a line across what the house wants: slack to the left, tight to the right."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[tuple[Wanted, StringFit | None]] = []
        self.setMinimumHeight(theme.current.px(200))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def set_rows(self, rows: list[tuple[Wanted, StringFit | None]]) -> None:
        """Show a set."""
        self.rows = rows
        said = [f"{w.name} {off_words(f)}" if f is not None else f"{w.name} none" for w, f in rows]
        self.setAccessibleName(f"Tensions: {', '.join(said)}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.rows:
            return
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        names = theme.current.px(70)
        box = QRectF(self.rect()).adjusted(names, theme.current.px(24), -8, -4)
        painter.setFont(theme.current.font(13))
        for share, words in ((-WORST_SHARE, "−20 %"), (0.0, "wanted"), (WORST_SHARE, "+20 %")):
            x = self._x(box, share)
            painter.setPen(c.q("muted"))
            painter.drawText(QRectF(x - 50, 0, 100, box.top() - 2), Qt.AlignmentFlag.AlignCenter, words)
        for share, colour in ((WORST_SHARE, "silt"), (GOOD_SHARE, "water")):
            left, right = self._x(box, -share), self._x(box, share)
            painter.fillRect(QRectF(left, box.top(), right - left, box.height()), c.q(colour))
        painter.setPen(QPen(c.q("muted"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(self._x(box, 0), box.top()), QPointF(self._x(box, 0), box.bottom()))
        high = box.height() / len(self.rows)
        for n, (wanted, fit) in enumerate(self.rows):
            self._draw_row(painter, box, box.top() + (n + 0.5) * high, wanted, fit)
        painter.end()

    def _draw_row(self, painter: QPainter, box: QRectF, y: float, wanted: Wanted, fit: StringFit | None) -> None:
        c = theme.current.c
        painter.setPen(c.q("ink"))
        painter.setFont(theme.current.font(theme.TEXT_SIZE, True))
        name = QRectF(0, y - 12, box.left() - 8, 24)
        painter.drawText(name, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, wanted.key)
        if fit is None:
            return
        x, bad = self._x(box, fit.off), fit.unfit
        painter.setPen(QPen(c.q("warn" if bad else "ink"), 3))
        painter.drawLine(QPointF(self._x(box, 0), y), QPointF(x, y))
        painter.setBrush(c.q("warn" if bad else "deep"))
        painter.setPen(QPen(c.q("ink"), 2))
        mark = QRectF(x - 7, y - 7, 14, 14)
        if bad:
            painter.drawRect(mark)
        else:
            painter.drawEllipse(mark)
        painter.setPen(c.q("ink"))
        painter.setFont(theme.current.font(13))
        right = fit.off >= 0  # on the far side of its line
        beside = QRectF(x + 12 if right else x - 92, y - 11, 80, 22)
        way = Qt.AlignmentFlag.AlignLeft if right else Qt.AlignmentFlag.AlignRight
        painter.drawText(beside, way | Qt.AlignmentFlag.AlignVCenter, f"{number(fit.tension_n, 0)} N")

    @staticmethod
    def _x(box: QRectF, share: float) -> float:
        share = min(max(share, -SPAN), SPAN)
        return box.left() + (share + SPAN) / (2 * SPAN) * box.width()


class StringsPage(ToolPage):
    """Left: the strings with what is on the shelf for each. Right: the set as a picture, and what it does."""

    key = "strings"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        left, right = self.two(58, 42)
        left.addWidget(label("Choice of strings", "title"))
        self.fields = Fields(left, self.refresh, columns=3)
        families = [(f.name, f.key) for f in self.shop.catalogue.families.values() if f.stringed is not None]
        self.family = self.fields.choice("strings_family", "Instrument", families)
        self.of_size = self.fields.choice("strings_size", "Size", [("", "")])
        self.fields.line("strings_angle", "Angle over the bridge", "", "158°, or leave empty")
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(theme.STEP * 2)
        self.grid.setVerticalSpacing(theme.STEP)
        left.addLayout(self.grid)
        self.mind = label("", tone="warn")
        left.addWidget(self.mind)
        left.addStretch(1)
        right.addWidget(label("The set", "name"))
        self.picture = SetPicture()
        right.addWidget(self.picture, 1)
        self.together = label("")
        self.order = label("")
        right.addWidget(self.together)
        right.addWidget(self.order)
        self.lasts = label("", tone="muted")
        right.addWidget(self.lasts)
        right.addWidget(
            label(
                "What the house wants: the tension of the full size, less in proportion to the length. The packet's "
                "number outranks the list's. One string at a time, so that bridge and post "
                "stay standing; eyes protected.", tone="muted",
            )
        )  # fmt: skip
        right.addWidget(how_sure("string"))
        self.lives: StringLives | None = None
        self.tag = ""
        self.asking = BackgroundWrites(self, frame.could_not)
        self.boxes: dict[str, QComboBox] = {}
        self.said: dict[str, QLabel] = {}
        self.shown = ("", "")
        self.fits: dict[str, list[StringFit]] = {}
        self.refresh()

    def start_for(self, view: JobView) -> None:
        """Choose for the instrument of a job."""
        self.tag = view.tag
        self.family.setCurrentIndex(max(0, self.family.findData(view.family.key)))
        self.of_size.setCurrentIndex(max(0, self.of_size.findData(view.instrument.size)))
        angle = string_angle(self.shop, view)
        self.fields.fields["strings_angle"].setText("" if angle is None else show(angle.value, angle.unit, 1))
        self.refresh()
        self._ask_lives()

    def start(self) -> None:
        self.tag = ""
        super().start()
        self._ask_lives()

    def refresh(self) -> None:
        if not hasattr(self, "shown"):
            return
        family = self.shop.catalogue.families[self.family.currentData()]
        assert family.stringed is not None
        refill(self.of_size, [(s, s) for s in family.sizes if s in family.stringed.length_mm])
        size = self.of_size.currentData()
        self.wanted = wanted_strings(self.shop.catalogue, family, size)
        every = shelf(self.shop, family)
        self.fits = {w.key: fits(every, w) for w in self.wanted}
        if self.shown != (family.key, size):
            self.shown = (family.key, size)
            self._make_rows()
        self._show()

    def _make_rows(self) -> None:
        clear(self.grid)
        self.boxes, self.said = {}, {}
        for n, wanted in enumerate(self.wanted):
            name = label(f"{wanted.name}, {number(wanted.hz, 1)} Hz", "name", wrap=False)
            box = QComboBox()
            box.setObjectName(f"string_for_{wanted.key}")
            box.setAccessibleName(f"String for the {wanted.name}")
            for fit in self.fits[wanted.key]:
                amount = fit.string.amount
                there = "" if amount is None else f" ({number(amount, 0)} there)"
                box.addItem(f"{fit.string.name}{there}", fit.string.key)
            box.currentIndexChanged.connect(partial(self._chosen, wanted.key))
            self.boxes[wanted.key], self.said[wanted.key] = box, label("")
            self.grid.addWidget(name, 2 * n, 0)
            self.grid.addWidget(
                label(f"wanted: {number(wanted.target_n, 0)} N", tone="muted", wrap=False), 2 * n + 1, 0
            )
            self.grid.addWidget(box, 2 * n, 1)
            self.grid.addWidget(self.said[wanted.key], 2 * n + 1, 1)
        self.grid.setColumnStretch(1, 1)

    def _chosen(self, key: str, index: int) -> None:
        self._show()

    def _fit(self, key: str) -> StringFit | None:
        chosen = self.boxes[key].currentData()
        return next((f for f in self.fits[key] if f.string.key == chosen), None)

    def _show(self) -> None:
        rows = [(w, self._fit(w.key)) for w in self.wanted]
        for wanted, fit in rows:
            if fit is None:
                self.said[wanted.key].setText("Nothing on the shelf comes near.")
                continue
            self.said[wanted.key].setText("\n".join((fit_words(fit), *self._life_words(wanted.key))))
            restyle(self.said[wanted.key], tone="warn" if risk_words(fit) else "")
        self.picture.set_rows(rows)
        chosen = [f for _, f in rows if f is not None]
        self.mind.setText("")
        angle = None
        if self.fields.fields["strings_angle"].text().strip():
            try:
                angle = self.fields.read("strings_angle", "degree")
            except CreekbedError as error:
                self.mind.setText(error.words())
        try:
            self.together.setText(set_words(whole_set(chosen, angle)))
        except CreekbedError as error:
            self.together.setText(error.happened)
        self.order.setText(self._ask_words(rows))
        house = [life for life in map(self._life, self.fits) if life is not None and not life.worn + life.fine]
        self.lasts.setText(f"A string {life_words(house[0]).lower()} Half are found worn by then." if house else "")

    def _ask_lives(self) -> None:
        """Read beside the window how long strings last here."""
        shop = self.shop
        self.asking.start(lambda: string_lives(shop), self._know_lives)

    def _know_lives(self, lives: StringLives) -> None:
        self.lives = lives
        self._show()

    def _life(self, key: str) -> Life | None:
        return None if self.lives is None else self.lives.lives.get((self.family.currentData(), key))

    def _life_words(self, key: str) -> list[str]:
        """How long such strings last here, and how old the one is that is on."""
        life = self._life(key)
        if life is None or self.lives is None:
            return []
        said = [life_words(life)] if life.worn + life.fine else []  # what the house says stands beside, once
        age = self.lives.ages.get(self.tag, {}).get(key)
        if age is not None:
            due = due_words(life.chance_worn(age.hire_days, NEXT_HIRE_DAYS))
            said.append(f"{age_words(age.hire_days, age.since)} {due}".strip())
        return said

    def _ask_words(self, rows: list[tuple[Wanted, StringFit | None]]) -> str:
        """What to order for the strings that nothing suits."""
        family = self.shop.catalogue.families[self.family.currentData()]
        said = []
        for wanted, fit in rows:
            if fit is None or fit.unfit:
                ask = ask_for(wanted, plain_of(self.shop.catalogue, family, wanted.key))
                said.append(f"{wanted.name}: {ask_words(ask, wanted.full_mm)}")
        return "\n".join(said)
