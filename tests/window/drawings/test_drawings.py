"""The drawings: every part and zone has its area, areas can be pointed at by mouse and keys, steps light them."""

from __future__ import annotations

from typing import Any

import pytest
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter

from creekbed.core.catalogue.load import shipped
from creekbed.core.procedure.build import build
from creekbed.core.procedure.imagine import imagine
from creekbed.window.drawings.case import open_case
from creekbed.window.drawings.paint import LOOKS, fitted, inside, paint
from creekbed.window.drawings.pen import HEIGHT, WIDTH
from creekbed.window.drawings.registry import DRAWINGS, drawing
from creekbed.window.drawings.signs import SIGNS, WORDS, sign
from creekbed.window.shared import theme
from creekbed.window.shared.instrument_picture import Picture

CATALOGUE = shipped()
FAMILIES = sorted(CATALOGUE.families)
SHEET = QRectF(0, 0, WIDTH, HEIGHT)


def drawn(key: str) -> Any:
    found = drawing(CATALOGUE.families[key].drawing)
    assert found is not None
    return found


@pytest.mark.parametrize("key", FAMILIES)
def test_every_part_zone_and_end_is_drawn(key: str) -> None:
    family, d = CATALOGUE.families[key], drawn(key)
    keys = {a.key for a in d.areas}
    for name in [p.key for p in family.part] + list(family.zones):
        assert d.shows(name) and set(d.shows(name)) <= keys, name
    for step in family.step:
        if step.path is not None:
            for end in (step.path.enters, step.path.leaves):
                (x, y), toward = d.ends[(step.part or "", end)]
                assert SHEET.adjusted(-60, -60, 60, 60).contains(x, y) and toward != (0, 0)


@pytest.mark.parametrize("name", sorted(DRAWINGS))
def test_a_drawing_is_whole(name: str) -> None:
    d = drawing(name)
    assert d is not None and len(d.areas) >= 5
    assert len({a.key for a in d.areas}) == len(d.areas)
    for area in d.areas:
        assert area.name and area.look in LOOKS and not area.path.isEmpty()
        assert SHEET.contains(area.path.boundingRect()), area.key
    seen = {d.at(x, y) for x in range(0, 900, 4) for y in range(0, 340, 3)}
    hidden = {a.key for a in d.areas} - seen - {"felts", "boot_lining"}
    assert not hidden, f"no point of the sheet belongs to {hidden}"


def test_every_drawing_belongs_to_a_family() -> None:
    assert {f.drawing for f in CATALOGUE.families.values()} == set(DRAWINGS)
    assert drawing("no such drawing") is None


def picture_of(name: str, width: int, lit: tuple[str, ...] = ()) -> QImage:
    image = QImage(width, round(width * HEIGHT / WIDTH), QImage.Format.Format_RGB32)
    image.fill(theme.current.c.q("card"))
    painter = QPainter(image)
    d = drawing(name)
    assert d is not None
    paint(painter, d, QRectF(image.rect()), lit)
    painter.end()
    return image


def colours(image: QImage) -> set[int]:
    return {image.pixel(x, y) for x in range(0, image.width(), 2) for y in range(0, image.height(), 2)}


@pytest.mark.parametrize("dark", [False, True])
@pytest.mark.parametrize("name", sorted(DRAWINGS))
def test_small_and_large_by_day_and_lamp(name: str, dark: bool) -> None:
    """At 200 and at 900 px it is more than a blot, and light and dark are not the same picture."""
    theme.current.dark = dark
    for width in (200, 900):
        assert len(colours(picture_of(name, width))) > 12
    area = drawing(name).areas[0].key  # type: ignore[union-attr]
    assert picture_of(name, 400, (area,)) != picture_of(name, 400)


@pytest.mark.parametrize("key", FAMILIES)
def test_the_open_case_holds_every_piece(key: str) -> None:
    family = CATALOGUE.families[key]
    d = open_case(family, drawn(key))
    for item in family.item:
        assert d.shows(item.key), item.key
        assert SHEET.contains(d.bounds(d.shows(item.key)[0]))
    assert open_case(family, None).shows(family.item[0].key)


@pytest.mark.parametrize("name", SIGNS)
def test_signs_are_drawn(name: str) -> None:
    image = QImage(160, 160, QImage.Format.Format_RGB32)
    image.fill(theme.current.c.q("card"))
    painter = QPainter(image)
    sign(painter, name, QPointF(80, 80), (1.0, 0.0), 60)
    painter.end()
    assert len(colours(image)) > 3 and WORDS[name]


def test_a_point_inside_is_inside() -> None:
    for name in DRAWINGS:
        d = drawing(name)
        assert d is not None
        for area in d.areas:
            if area.key not in ("strings", "rods", "strap"):
                box = area.path.boundingRect()
                assert box.adjusted(-1, -1, 1, 1).contains(inside(d, area.key))


# --- the widget -----------------------------------------------------------------------------------------------------


@pytest.fixture
def picture(qtbot: Any) -> Picture:
    widget = Picture(240)
    qtbot.addWidget(widget)
    widget.resize(640, 240)
    widget.set_family(CATALOGUE.families["clarinet"])
    widget.show()
    return widget


def test_pointing_with_the_mouse(qtbot: Any, picture: Picture) -> None:
    d = drawn("clarinet")
    corner, scale = fitted(picture._box())
    at = d.bounds("bell").center()
    spot = QPoint(round(corner.x() + at.x() * scale), round(corner.y() + at.y() * scale))
    with qtbot.waitSignal(picture.pointed) as caught:
        qtbot.mouseClick(picture, Qt.MouseButton.LeftButton, pos=spot)
    assert caught.args == ["bell"] and picture.caption == "bell"
    qtbot.mouseClick(picture, Qt.MouseButton.LeftButton, pos=QPoint(3, 3))
    assert picture.here is None


def test_walking_through_by_keyboard(qtbot: Any, picture: Picture) -> None:
    picture.setFocus()
    names = []
    for _ in drawn("clarinet").areas:
        qtbot.keyClick(picture, Qt.Key.Key_Right)
        names.append(picture.accessibleDescription())
    assert len(set(names)) == len(names) and "upper joint" in names
    qtbot.keyClick(picture, Qt.Key.Key_Left)
    with qtbot.waitSignal(picture.pointed):
        qtbot.keyClick(picture, Qt.Key.Key_Return)
    qtbot.keyClick(picture, Qt.Key.Key_Escape)
    assert picture.here is None


def test_a_step_lights_its_part_and_shows_the_way_of_the_cloth(picture: Picture) -> None:
    steps = {s.key: s for s in build(CATALOGUE, imagine(CATALOGUE, CATALOGUE.families["clarinet"]))}
    picture.light_step(steps["upper_swab"])
    assert picture.lit == ("upper",) and [s[0] for s in picture.signs] == ["enter", "leave"]
    assert picture.signs[0][1].x() > picture.signs[1][1].x()  # in at the lower, wide end
    assert picture.caption == "upper joint: in at the wide end, out at the narrow end"
    move = steps["apart"].moves[-1]
    picture.light_step(steps["apart"], move)
    assert picture.lit == ("upper",) and picture.signs[0][0] == "twist" and "little by little" in picture.caption
    picture.light_step(steps["disinfect"])
    assert picture.signs[0][0] == "wet"


def test_marks_are_counted_on_their_areas(picture: Picture) -> None:
    picture.set_counts({"bell": 2, "upper joint": 1, "nowhere": 3})
    assert picture.counts == {"bell": 2, "upper": 1}
    picture.here = "bell"
    assert picture.caption == "bell, 2 found here"
    assert not picture.grab().isNull()


def test_a_family_without_a_drawing_shows_none(picture: Picture) -> None:
    picture.set_family(CATALOGUE.families["clarinet"].model_copy(update={"drawing": "none"}))
    assert picture.isHidden() and picture.area_at(QPointF(10, 10)) is None


def test_a_picture_that_was_put_away_comes_back(picture: Picture) -> None:
    picture.hide()
    picture.set_family(CATALOGUE.families["clarinet"])
    assert picture.isVisible()
