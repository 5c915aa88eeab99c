"""The jar for pistons: how much liquid stands just below the felts, with the pistons in it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.core.conventions import millimetres, number
from creekbed.core.errors import BadInput, CreekbedError
from creekbed.core.hygiene.baths import jar_ml
from creekbed.core.units import show
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import label
from creekbed.window.tools.base import Fields, ToolPage

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


class Jar(QWidget):
    """A jar in section with its pistons side by side, felts on top, and the liquid below them."""

    def __init__(self) -> None:
        super().__init__()
        self.jar_mm, self.level_mm, self.piston_mm, self.count = 0.0, 0.0, 0.0, 0
        self.setMinimumSize(theme.current.px(280), theme.current.px(300))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def set_jar(self, jar_mm: float, level_mm: float, piston_mm: float, count: int) -> None:
        """Show a jar; all 0 for none."""
        self.jar_mm, self.level_mm, self.piston_mm, self.count = jar_mm, level_mm, piston_mm, count
        self.setAccessibleName(f"Jar: liquid {millimetres(level_mm)} high with {count} pistons in it")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.jar_mm <= 0:
            return
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        tall = self.level_mm * 1.75 + 12
        scale = min(self.width() * 0.62 / self.jar_mm, self.height() * 0.9 / tall)
        wide, high = self.jar_mm * scale, tall * scale
        left, bottom = (self.width() - wide) / 2, self.height() * 0.95
        level = bottom - self.level_mm * scale
        painter.fillRect(QRectF(left, level, wide, bottom - level), c.q("water"))
        room = wide / max(self.count, 1)
        for n in range(self.count):
            thick = self.piston_mm * scale
            x = left + room * (n + 0.5) - thick / 2
            body = QRectF(x, bottom - self.level_mm * scale * 1.22, thick, self.level_mm * scale * 1.22)
            painter.setPen(QPen(c.q("ink"), 1.6))
            painter.setBrush(c.q("silt"))
            painter.drawRect(body)
            for share in (0.3, 0.55, 0.8):
                painter.drawEllipse(
                    QPointF(body.center().x(), body.top() + body.height() * share), thick / 5, thick / 5
                )
            felt = QRectF(x + thick * 0.1, body.top() - 9, thick * 0.8, 9)
            painter.setBrush(c.q("warn_soft"))
            painter.drawRect(felt)
            stem = QRectF(x + thick * 0.42, felt.top() - high * 0.12, thick * 0.16, high * 0.12)
            painter.setBrush(c.q("card"))
            painter.drawRect(stem)
        glass = QPainterPath(QPointF(left, bottom - high))
        for point in (QPointF(left, bottom), QPointF(left + wide, bottom), QPointF(left + wide, bottom - high)):
            glass.lineTo(point)
        painter.setPen(QPen(c.q("deep"), 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(glass)
        painter.setPen(QPen(c.q("ink"), 2))
        painter.drawLine(QPointF(left - 12, level), QPointF(left + 10, level))
        painter.setFont(theme.current.font(theme.TEXT_SIZE, True))
        words = f"to here,\n{show(self.level_mm, 'millimeter')}"
        painter.drawText(QRectF(0, level - 24, left - 16, 48), Qt.AlignmentFlag.AlignRight, words)
        painter.end()


class JarPage(ToolPage):
    """Measures of jar and pistons, and how much to pour."""

    key = "jar"

    def __init__(self, frame: Frame):
        super().__init__(frame)
        left, right = self.two(52, 48, fixed=("right",))
        left.addWidget(label("A jar for pistons", "title"))
        left.addWidget(
            label("The felts stay dry: the liquid stands to the top of the piston's body only.", tone="muted")
        )
        self.fields = Fields(left, self.refresh)
        self.fields.line("jar_inside", "Jar, inside", millimetres(70))
        self.fields.line("jar_level", "From the bottom to below the felts", millimetres(62))
        self.fields.line("jar_piston", "One piston, across", millimetres(17))
        self.fields.line("jar_count", "Pistons", "3")
        self.amount = label("", "numeral")
        self.then = label("", "name")
        self.mind = label("")
        for words in (self.amount, self.then, self.mind):
            left.addWidget(words)
        left.addStretch(1)
        self.jar = Jar()
        right.addWidget(self.jar, 1)
        self.refresh()

    def refresh(self) -> None:
        f = self.fields
        try:
            jar, level = f.read("jar_inside", "millimeter", 0), f.read("jar_level", "millimeter", 0)
            piston = f.read("jar_piston", "millimeter", 0)
            text = f.fields["jar_count"].text().strip()
            if not text.isdigit() or not 1 <= int(text) <= 8:
                raise BadInput("A jar takes 1 to 8 pistons.", todo="Type how many.")
            count = int(text)
            ml = jar_ml(jar, level, [piston] * count)
        except CreekbedError as error:
            self.amount.setText("Not like this")
            self.then.setText(error.happened)
            self.mind.setText(error.todo)
            self.jar.set_jar(0, 0, 0, 0)
            return
        self.amount.setText(f"Pour {number(ml, 0)} ml")
        empty = jar_ml(jar, level, [])
        self.then.setText(
            f"Without the pistons it would take {number(empty, 0)} ml: they push {number(empty - ml, 0)} ml aside."
        )
        self.mind.setText(
            "Pistons of one instrument in one jar only, in their order. A mild soap in lukewarm water; rinse each, and "
            "blow out its ports."
        )
        self.jar.set_jar(jar, level, piston, count)
