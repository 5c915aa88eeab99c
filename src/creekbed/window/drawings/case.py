"""The open case of any family: the instrument in its bed, and a compartment for each loose piece."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtGui import QPainterPath

from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import CaseItem
from creekbed.window.drawings.pen import (
    Drawing,
    Look,
    blob,
    course,
    curve,
    disc,
    joined,
    moved,
    pipe,
    plate,
    polygon,
    stroke,
)

BED = (36.0, 112.0, 560.0, 206.0)
TRAY = (616.0, 112.0, 248.0, 206.0)
Glyph = Callable[[], QPainterPath]


def open_case(family: Family, instrument: Drawing | None) -> Drawing:
    """The case seen from above, its lid open at the back.

    Args:
        family: whose pieces lie in it. instrument: its drawing, laid into the bed; ``None`` leaves the bed empty.

    Every piece has an area: one of the instrument's own, or a compartment named ``item_KEY``; ``shows`` finds it
    by the piece's key.
    """
    d = Drawing()
    d.add("lid", "lid", polygon([(46, 12), (854, 12), (880, 92), (20, 92)]), "lining")
    d.add("tray", "case", plate(20, 96, 860, 236, 12), "leather")
    d.add("bed", "bed", plate(BED[0], BED[1], BED[2], BED[3], 10), "lining")
    d.line(course([(70, 30), (830, 30), (850, 80), (50, 80), (70, 30)]))
    for latch in (180, 700):
        d.line(plate(latch, 90, 40, 8, 2))
    if instrument is not None:
        scale = min((BED[2] - 24) / 900, (BED[3] - 16) / 340)
        x, y = BED[0] + 12, BED[1] + (BED[3] - 340 * scale) / 2
        for area in instrument.areas:
            if area.key != "case":
                d.add(area.key, area.name, moved(area.path, x, y, scale), area.look)
        for line in instrument.lines:
            if line.boundingRect().top() < 296 or line.boundingRect().left() < 820:
                d.line(moved(line, x, y, scale))
        d.stands = {name: keys for name, keys in instrument.stands.items() if "case" not in keys}
    loose = [item for item in family.item if instrument is None or not instrument.shows(item.key)]
    _compartments(d, loose)
    d.stands["case"] = ("lid",)
    return d


def _compartments(d: Drawing, items: list[CaseItem]) -> None:
    columns = 2 if len(items) <= 6 else 3
    rows = max(1, -(-len(items) // columns))
    w, h = TRAY[2] / columns, TRAY[3] / rows
    for n, item in enumerate(items):
        x, y = TRAY[0] + n % columns * w, TRAY[1] + n // columns * h
        key = f"item_{item.key}"
        d.add(f"{key}_slot", f"place of the {item.name}", plate(x + 3, y + 3, w - 6, h - 6, 6), "lining")
        make, look = _glyph(item.key)
        shape = make()
        box = shape.boundingRect()
        scale = min((w - 26) / box.width(), (h - 20) / box.height(), 1.6)
        middle = (x + w / 2 - box.center().x() * scale, y + h / 2 - box.center().y() * scale)
        d.add(key, item.name, moved(shape, *middle, scale), look)
        d.stands[item.key] = (key,)


def _glyph(key: str) -> tuple[Glyph, Look]:
    for words, make, look in GLYPHS:
        if any(word in key for word in words):
            return make, look
    return _box, "plastic"


def _cloth() -> QPainterPath:
    return blob([(0, 4), (20, 0), (42, 5), (46, 22), (42, 40), (22, 44), (2, 40), (-3, 22)])


def _bottle() -> QPainterPath:
    return joined(plate(0, 18, 24, 40, 5), plate(6, 6, 12, 14, 2), plate(4, 0, 16, 8, 2))


def _tin() -> QPainterPath:
    return joined(disc(22, 16, 22, 14), plate(0, 16, 44, 10, 4))


def _tube_of_grease() -> QPainterPath:
    return joined(plate(0, 2, 40, 16, 5), plate(39, 5, 12, 10, 2))


def _swab() -> QPainterPath:
    cord = stroke(curve([(0, 30), (16, 8), (34, 30), (52, 12)]), 4, True)
    return joined(cord, disc(0, 32, 5), blob([(50, 2), (72, 0), (78, 16), (68, 28), (50, 22)]))


def _rod() -> QPainterPath:
    return joined(stroke(course([(0, 5), (70, 5)]), 5), disc(75, 5, 8, 5).subtracted(disc(75, 5, 4, 2)))


def _loop() -> QPainterPath:
    return joined(pipe([(4, 40), (4, 4), (44, 4), (44, 40), (24, 46), (4, 40)], 6, 14), plate(18, 38, 14, 14, 3))


def _box() -> QPainterPath:
    return plate(0, 0, 52, 30, 4)


def _flat_case() -> QPainterPath:
    return joined(plate(0, 0, 54, 24, 4), plate(20, 22, 14, 6, 2))


def _tuner() -> QPainterPath:
    return joined(plate(0, 0, 36, 26, 5), plate(12, 25, 10, 14, 3)).subtracted(disc(18, 13, 8))


def _pencil() -> QPainterPath:
    return joined(plate(0, 4, 52, 9, 2), polygon([(52, 4), (66, 8.5), (52, 13)]), plate(0, 22, 26, 14, 4))


def _latch() -> QPainterPath:
    return joined(plate(0, 0, 30, 36, 5), plate(8, 30, 14, 18, 4)).subtracted(plate(9, 8, 12, 14, 3))


def _brushes() -> QPainterPath:
    return joined(
        stroke(curve([(0, 10), (30, 2), (60, 16)]), 4, True),
        plate(56, 8, 20, 16, 6),
        plate(4, 26, 40, 6, 2),
        plate(44, 22, 24, 14, 5),
    )


def _mouthpiece() -> QPainterPath:
    return polygon([(0, 8), (0, 12), (44, 22), (72, 22), (72, 0), (44, 0)])


def _rest() -> QPainterPath:
    return joined(
        stroke(curve([(0, 16), (24, 4), (50, 18), (72, 8)]), 10, True), plate(4, 14, 7, 12, 2), plate(60, 10, 7, 12, 2)
    )


def _paper() -> QPainterPath:
    return joined(plate(0, 0, 40, 28, 2), plate(5, 5, 40, 28, 2))


GLYPHS: tuple[tuple[tuple[str, ...], Glyph, Look], ...] = (
    (("swab",), _swab, "felt"), (("oil", "spray", "lubricant"), _bottle, "plastic"), (("rosin",), _tin, "varnish"),
    (("grease",), _tube_of_grease, "plastic"), (("cloth", "blanket", "rag"), _cloth, "felt"),
    (("rod", "peg", "pin", "key"), _rod, "silver"), (("strap",), _loop, "leather"), (("tuner",), _tuner, "plastic"),
    (("pencil",), _pencil, "cane"), (("latch", "lock", "stop"), _latch, "silver"), (("kit",), _brushes, "silver"),
    (("rest",), _rest, "rubber"), (("paper",), _paper, "hair"), (("reed_case",), _flat_case, "ebony"),
    (("anchor",), _loop, "leather"), (("mouthpiece",), _mouthpiece, "ebony"),
)  # fmt: skip
"""Words in a piece's key: its shape and what it is made of; the first that fits is taken."""
