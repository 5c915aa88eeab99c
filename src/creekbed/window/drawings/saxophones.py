"""Saxophones: curved (alto and tenor), straight (soprano), and with its loop (baritone)."""

from __future__ import annotations

from PySide6.QtGui import QPainterPath

from creekbed.window.drawings.mouth import cap, reed_mouthpiece, strap
from creekbed.window.drawings.pen import (
    Drawing,
    case_mark,
    course,
    curve,
    disc,
    joined,
    plate,
    stroke,
    tube,
    turned,
)


def _cups(places: list[tuple[float, float, float]], squash: float = 0.62) -> tuple[QPainterPath, QPainterPath]:
    """Key cups and the pads inside them, seen a little from the side."""
    cups = joined(*(disc(x, y, r, r * squash) for x, y, r in places))
    pads = joined(*(disc(x, y, r * 0.55, r * 0.55 * squash) for x, y, r in places))
    return cups, pads


def _beside(d: Drawing) -> None:
    """What lies beside every saxophone: plug, strap, cap."""
    d.add(
        "end_plug",
        "end plug",
        joined(plate(40, 286, 34, 20, 4), plate(74, 281, 8, 30, 2), disc(50, 282, 6, 4)),
        "plastic",
    )
    strap(d, 130, 312)
    cap(d, 330, 300, 0.95)
    case_mark(d)


def saxophone() -> Drawing:
    """Alto and tenor: body tube, bow and upturned bell, the neck with its cork, the mouthpiece."""
    d = Drawing()
    d.add("tube", "body tube", tube([(262, 214, 13), (420, 222, 20), (580, 229, 28), (690, 233, 35)]), "brass")
    d.add("bow", "bow", tube([(690, 233, 35), (752, 226, 38), (790, 184, 41), (770, 136, 44), (706, 118, 47)]), "brass")
    d.add("bell", "bell", tube(
        [(706, 118, 47), (640, 108, 49), (560, 99, 54), (496, 92, 66), (466, 90, 78), (452, 89, 84)]), "brass")  # fmt: skip
    d.add("mouth", "mouth of the bell", turned(disc(452, 89, 13, 84), -2, 452, 89), "hollow")
    d.add(
        "neck", "neck", tube([(262, 214, 12), (238, 196, 11), (222, 150, 10), (196, 118, 9), (160, 112, 7.5)]), "brass"
    )
    d.add("receiver", "neck screw and receiver", joined(plate(252, 196, 20, 36, 3), disc(262, 190, 7, 5)), "brass")
    d.add("neck_cork", "neck cork", tube([(160, 112, 8.5), (128, 112, 8)], straight=True), "cork")
    reed_mouthpiece(d, 142, 112, 1.0)
    cups, pads = _cups(
        [(330, 206, 13), (366, 209, 14), (402, 211, 15), (468, 214, 17), (506, 217, 18), (546, 218, 19), (612, 222, 22),
         (656, 226, 24), (744, 176, 25), (628, 122, 27), (560, 118, 26), (224, 134, 8)]
    )  # fmt: skip
    rods = joined(
        stroke(course([(296, 194), (680, 208)]), 4), stroke(course([(420, 244), (640, 256)]), 4),
        stroke(course([(300, 234), (420, 246)]), 4), stroke(curve([(226, 128), (244, 168), (272, 196)]), 4),
        stroke(course([(556, 146), (700, 158)]), 4),
    )  # fmt: skip
    touches = joined(*(disc(x, y, 7, 5) for x, y in ((348, 230), (386, 233), (424, 236), (520, 242), (560, 245), (600, 248))),
                     plate(300, 238, 30, 8, 4), plate(318, 248, 34, 8, 4), plate(636, 254, 34, 9, 4))  # fmt: skip
    guards = joined(stroke(course([(604, 100), (604, 84), (652, 86), (652, 104)], 6), 4),
                    stroke(course([(536, 92), (536, 76), (584, 80), (584, 98)], 6), 4))  # fmt: skip
    d.add("keys", "keys and rods", joined(cups, rods, touches, guards), "silver")
    d.add("pads", "pads", pads, "pad")
    _beside(d)
    d.stands = {"body": ("tube", "bow", "bell", "mouth"), "body tube": ("tube",), "bell": ("bell", "mouth")}
    d.ends = {
        ("mouthpiece", "shank"): ((142, 112), (1, 0)), ("mouthpiece", "tip"): ((30, 119), (-1, 0)),
        ("neck", "wide end"): ((262, 214), (0.8, 0.6)), ("neck", "cork end"): ((128, 112), (-1, 0)),
        ("body", "bell"): ((440, 89), (-1, 0)), ("body", "neck end"): ((258, 214), (-1, 0)),
    }  # fmt: skip
    d.runs = {
        "neck": ((128, 112), (160, 112), (196, 118), (222, 150), (238, 196), (262, 214)),
        "body": ((262, 214), (420, 222), (580, 229), (690, 233), (752, 226), (790, 184), (770, 136), (706, 118),
                 (640, 108), (560, 99), (496, 92), (466, 90)),
    }  # fmt: skip
    return d


def soprano() -> Drawing:
    """Soprano: one straight cone with a slight neck."""
    d = Drawing()
    d.add(
        "bell", "bell", tube([(700, 170, 30), (770, 170, 36), (820, 170, 46), (848, 170, 60), (858, 170, 68)]), "brass"
    )
    d.add("bow", "lower body", tube([(560, 170, 22), (700, 170, 30)]), "brass")
    d.add("tube", "body tube", tube([(232, 170, 9), (560, 170, 22)]), "brass")
    d.add("mouth", "mouth of the bell", disc(858, 170, 11, 68), "hollow")
    d.add("neck", "neck", tube([(234, 170, 9), (206, 168, 8), (182, 162, 7.5)]), "brass")
    d.add("neck_cork", "neck cork", tube([(184, 162, 8.5), (152, 156, 8)], straight=True), "cork")
    reed_mouthpiece(d, 166, 158, 0.95)
    cups, pads = _cups([(300, 158, 10), (330, 157, 11), (362, 156, 11), (430, 154, 13), (464, 153, 14), (500, 152, 14),
                        (566, 149, 16), (606, 148, 17), (654, 146, 19), (712, 144, 21)])  # fmt: skip
    rods = joined(stroke(course([(270, 150), (730, 136)]), 4), stroke(course([(300, 188), (620, 196)]), 4))
    touches = joined(*(disc(x, 190, 7, 5) for x in (318, 352, 386, 470, 506, 542)), plate(246, 182, 34, 8, 4),
                     plate(586, 192, 36, 9, 4))  # fmt: skip
    d.add("keys", "keys and rods", joined(cups, rods, touches), "silver")
    d.add("pads", "pads", pads, "pad")
    _beside(d)
    d.stands = {"body": ("tube", "bow", "bell"), "body tube": ("tube",)}
    d.ends = {
        ("mouthpiece", "shank"): ((166, 158), (1, 0.2)), ("mouthpiece", "tip"): ((60, 164), (-1, 0)),
        ("neck", "wide end"): ((234, 170), (1, 0)), ("neck", "cork end"): ((152, 156), (-1, -0.1)),
        ("body", "bell"): ((858, 170), (1, 0)), ("body", "neck end"): ((232, 170), (-1, 0)),
    }  # fmt: skip
    d.runs = {"neck": ((152, 156), (206, 168), (234, 170)), "body": ((232, 170), (560, 170), (840, 170))}
    return d


def baritone() -> Drawing:
    """Baritone: as the others, with the upper loop and its water key."""
    d = saxophone()
    d.areas = [a for a in d.areas if a.key not in ("neck", "receiver", "neck_cork", "mouthpiece", "reed", "ligature")]
    loop = tube([(262, 214, 13), (226, 210, 13), (196, 186, 13), (190, 140, 13), (204, 84, 13), (240, 60, 13),
                 (276, 84, 13), (286, 132, 12.5), (272, 168, 12), (240, 176, 12)])  # fmt: skip
    front = d.areas
    d.areas = []
    d.add("loop", "upper bow", loop, "brass")
    d.areas += front
    d.add("neck", "neck", tube([(240, 176, 12), (210, 174, 11), (186, 150, 10), (168, 128, 9)]), "brass")
    d.add("receiver", "neck screw and receiver", joined(plate(232, 160, 16, 32, 3), disc(240, 156, 6, 4)), "brass")
    d.add("neck_cork", "neck cork", tube([(172, 132, 9), (146, 112, 8.5)], straight=True), "cork")
    reed_mouthpiece(d, 152, 116, 1.05)
    d.add("water_key", "water key", joined(disc(240, 44, 6), stroke(course([(226, 46), (262, 42)]), 4)), "silver")
    d.stands["body"] = ("tube", "bow", "bell", "mouth", "loop")
    d.ends[("neck", "wide end")] = ((240, 176), (1, 0.1))
    d.ends[("neck", "cork end")] = ((146, 112), (-0.8, -0.6))
    d.ends[("mouthpiece", "shank")] = ((152, 116), (1, 0))
    d.ends[("mouthpiece", "tip")] = ((36, 124), (-1, 0))
    d.runs["neck"] = ((146, 112), (168, 128), (186, 150), (210, 174), (240, 176))
    loop_run = ((240, 176), (272, 168), (286, 132), (276, 84), (240, 60), (204, 84), (190, 140), (196, 186), (226, 210))
    d.runs["body"] = (*loop_run, *d.runs["body"])
    return d
