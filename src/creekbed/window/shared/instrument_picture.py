"""The drawing of an instrument on screen: parts can be pointed at, walked through by keyboard, and lit by a step."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

from creekbed.core.catalogue.models.family import Family
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.moves import Move
from creekbed.window.drawings.case import open_case
from creekbed.window.drawings.paint import base_of, fitted, inside, paint, spot
from creekbed.window.drawings.pen import HEIGHT, WIDTH, Drawing
from creekbed.window.drawings.registry import drawing
from creekbed.window.drawings.signs import SIZE, WORDS, sign
from creekbed.window.shared import theme

SPOT = 54.0
"""Width of a numbered place, in units of the drawing's sheet."""


class Picture(QWidget):
    """One drawing. ``pointed`` tells which area was chosen, by click or Enter."""

    pointed = Signal(str)

    def __init__(self, height: int = 200):
        super().__init__()
        self.setObjectName("picture")
        self.drawn: Drawing | None = None
        self.family: Family | None = None
        self.lit: tuple[str, ...] = ()
        self.signs: tuple[tuple[str, QPointF, tuple[float, float]], ...] = ()
        self.spots: tuple[tuple[QPointF, str, bool], ...] = ()
        self.counts: dict[str, int] = {}
        self.case = False
        self.here: str | None = None
        self.words = ""
        self._base: tuple[tuple[Drawing, float, float, bool, float], QPixmap] | None = None
        self.set_height(height)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)

    def set_height(self, height: int) -> None:
        """How high it stands, before the text scale."""
        self.setFixedHeight(round(height * min(theme.current.scale, 1.2)))

    def sizeHint(self) -> QSize:
        return QSize(560, self.minimumHeight())

    def set_family(self, family: Family, case: bool = False) -> None:
        """Show a family's drawing, or its open case; nothing lit."""
        if self.family is not family or self.case != case:
            self.family, self.case, self.here = family, case, None
            instrument = drawing(family.drawing)
            self.drawn = open_case(family, instrument) if case else instrument
            self.setAccessibleName(f"Drawing: {'open case, ' if case else ''}{family.name}")
        self.setVisible(self.drawn is not None)
        self.light(())

    def light(self, parts: Iterable[str], words: str = "") -> None:
        """Light the areas of parts or zones, and say something below."""
        self.lit = self._areas(parts)
        self.signs, self.spots, self.words = (), (), words
        self._changed()

    def set_spots(self, places: Iterable[tuple[str, float, str, bool]]) -> None:
        """Put rings on the tubes: part, share from its upper end, what stands in the ring, whether it is filled."""
        found: list[tuple[QPointF, str, bool]] = []
        for part, share, word, strong in places:
            where = self.drawn.along(part, share) if self.drawn is not None else None
            if where is None:
                continue
            (x, y), (dx, dy) = where
            for side in (0, 1, -1, 2, -2, 3, -3):  # beside the tube where another one lies already
                at = QPointF(x - dy * side * SPOT, y + dx * side * SPOT)
                if all(math.hypot(at.x() - o.x(), at.y() - o.y()) >= SPOT for o, _, _ in found):
                    break
            found.append((at, word, strong))
        self.spots = tuple(found)
        self._changed()

    def light_step(self, step: BuiltStep, move: Move | None = None) -> None:
        """Light what a step, or one move of it, is about, with its sign."""
        if self.drawn is None:
            return
        if move is not None:
            self.light((move.part,), f"{self._name(move.part)}: {WORDS[move.sign]}")
            self._put_sign(move.sign)
            return
        self.light(step.touches)
        if step.path is not None and step.part is not None:
            self.words = f"{self._name(step.part)}: in at the {step.path.enters}, out at the {step.path.leaves}"
            both = (("enter", step.path.enters), ("leave", step.path.leaves))
            self.signs = tuple((name, *self._end(step.part, end)) for name, end in both)
        elif step.touches:
            name = step.sign or ("wet" if step.wait is not None and step.wait.wet else "")
            self.words = self._name(step.touches[0]) + (f": {WORDS[name]}" if name else "")
            if name:
                self._put_sign(name)
        self._changed()

    def set_counts(self, counts: Mapping[str, int]) -> None:
        """How many marks or findings each part or zone carries."""
        found: dict[str, int] = {}
        for name, count in counts.items():
            for key in self._areas((name,))[:1]:
                found[key] = found.get(key, 0) + count
        self.counts = found
        self._changed()

    def _areas(self, parts: Iterable[str]) -> tuple[str, ...]:
        if self.drawn is None:
            return ()
        return tuple(dict.fromkeys(key for part in parts for key in self.drawn.shows(part)))

    def _name(self, part: str) -> str:
        found = self.family.find_part(part) if self.family is not None else None
        return found.name if found is not None else part

    def _end(self, part: str, end: str) -> tuple[QPointF, tuple[float, float]]:
        assert self.drawn is not None
        at, toward = self.drawn.ends.get((part, end), ((WIDTH / 2, HEIGHT / 2), (1.0, 0.0)))
        return QPointF(*at), toward

    def _put_sign(self, name: str) -> None:
        if self.drawn is not None and self.lit:
            self.signs = ((name, inside(self.drawn, self.lit[0]), (1.0, 0.0)),)
            self._changed()

    def _changed(self) -> None:
        name = self.drawn.area(self.here).name if self.drawn is not None and self.here is not None else ""
        self.setAccessibleDescription(name or self.words)
        self.update()

    @property
    def caption(self) -> str:
        """What stands below: the area that is pointed at, else what the step says."""
        if self.drawn is not None and self.here is not None:
            count = self.counts.get(self.here, 0)
            marks = f", {count} found here" if count else ""
            return f"{self.drawn.area(self.here).name}{marks}"
        return self.words

    # --- pointing ---------------------------------------------------------------------------------------------------

    def _box(self) -> QRectF:
        return QRectF(self.rect()).adjusted(2, 2, -2, -round(24 * theme.current.scale))

    def area_at(self, point: QPointF) -> str | None:
        """The area under a point of the widget."""
        if self.drawn is None:
            return None
        corner, scale = fitted(self._box())
        return self.drawn.at((point.x() - corner.x()) / scale, (point.y() - corner.y()) / scale)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.here = self.area_at(event.position())
        self._changed()
        if self.here is not None:
            self.pointed.emit(self.here)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.drawn is None:
            return
        keys = [a.key for a in self.drawn.areas]
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()), 0)
        if step:
            at = keys.index(self.here) + step if self.here is not None else (0 if step > 0 else -1)
            self.here = keys[at % len(keys)]
            self._changed()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.here is not None:
            self.pointed.emit(self.here)
        elif event.key() == Qt.Key.Key_Escape and self.here is not None:
            self.here = None
            self._changed()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.here = None
        self._changed()
        super().focusOutEvent(event)

    # --- drawing ----------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.drawn is None:
            return
        painter = QPainter(self)
        box = self._box()
        key = (self.drawn, box.width(), box.height(), theme.current.dark, self.devicePixelRatioF())
        if self._base is None or self._base[0] != key:
            self._base = key, base_of(self.drawn, box, key[4])
        paint(painter, self.drawn, box, self.lit, self.here, self.counts, self._base[1])
        corner, scale = fitted(self._box())
        painter.save()
        painter.translate(corner)
        painter.scale(scale, scale)
        for name, at, toward in self.signs:
            sign(painter, name, at, toward, SIZE if scale > 0.5 else SIZE * 1.25)
        for at, word, strong in self.spots:
            spot(painter, at, word, strong, SPOT / 2 - 2)
        painter.restore()
        c, font = theme.current.c, theme.current.font(theme.TEXT_SIZE - 1, bold=self.here is not None)
        painter.setFont(font)
        painter.setPen(c.q("deep"))
        room = QRectF(self.rect()).adjusted(4, 0, -4, -2)
        words = QFontMetrics(font).elidedText(self.caption, Qt.TextElideMode.ElideRight, round(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft, words)
        if self.hasFocus():
            painter.setPen(QPen(c.q("focus"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), theme.RADIUS, theme.RADIUS)
