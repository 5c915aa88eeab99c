"""Clarinets, oboe, bassoon, flute, piccolo."""

from __future__ import annotations

from PySide6.QtGui import QPainterPath

from creekbed.window.drawings.mouth import cap, double_reed, reed_mouthpiece, strap
from creekbed.window.drawings.pen import (
    Drawing,
    Look,
    case_mark,
    course,
    curve,
    disc,
    joined,
    plate,
    polygon,
    stroke,
    tube,
)


def _ring(x: float, y: float, r: float = 9) -> QPainterPath:
    """A ring round a tone hole, seen from above."""
    return disc(x, y, r, r * 0.8).subtracted(disc(x, y, r * 0.55, r * 0.44))


def _bar(x0: float, x1: float, y: float, w: float = 4) -> QPainterPath:
    return stroke(course([(x0, y), (x1, y)]), w)


def _band(x: float, y: float, r: float) -> QPainterPath:
    return plate(x - 4, y - r, 8, 2 * r, 2)


def clarinet() -> Drawing:
    """B flat clarinet: five pieces in line, silver keys on a dark tube, rings, bridge key."""
    d = Drawing()
    y = 150.0
    cork = joined(plate(136, y - 9, 8, 18, 1), plate(238, y - 11, 8, 22, 1), plate(474, y - 11, 8, 22, 1),
                  plate(724, y - 13, 10, 26, 1))  # fmt: skip
    reed_mouthpiece(d, 134, y, 0.98)
    d.add("barrel", "barrel", tube([(144, y, 19), (160, y, 21), (222, y, 19), (240, y, 18)], straight=True), "ebony")
    d.add("upper", "upper joint", tube([(246, y, 17), (474, y, 18)], straight=True), "ebony")
    d.add("lower", "lower joint", tube([(482, y, 18), (640, y, 19), (724, y, 23)], straight=True), "ebony")
    d.add("bell", "bell", tube(
        [(734, y, 25), (760, y, 27), (800, y, 34), (840, y, 48), (858, y, 60), (864, y, 62)]), "ebony")  # fmt: skip
    d.add("corks", "tenon corks", cork, "cork")
    d.add("mouthpiece_cork", "mouthpiece cork", plate(134, y - 10, 9, 20, 1), "cork")
    bands = joined(
        *(
            _band(x, y, r)
            for x, r in ((146, 20), (238, 19), (250, 18), (470, 19), (486, 19), (720, 24), (736, 26), (860, 62))
        )
    )
    d.add("bands", "rings of the joints", bands, "silver")
    rings = joined(*(_ring(x, y) for x in (330, 366, 408, 530, 566, 604)))
    cups = [(276, 139, 10), (302, 162, 9), (440, 138, 11), (646, 134, 15), (684, 166, 16), (662, 172, 12)]
    trills = joined(plate(286, 126, 26, 8, 4), plate(420, 166, 40, 7, 3), plate(430, 176, 34, 7, 3))
    rods = joined(_bar(256, 466, 130, 4), _bar(300, 430, 171, 4), _bar(496, 700, 127, 4), _bar(560, 700, 176, 4))
    paddles = joined(plate(506, 170, 38, 9, 4), plate(504, 181, 34, 9, 4), plate(548, 172, 32, 9, 4))
    bridge = plate(462, 122, 32, 7, 3)
    d.add("keys", "keys and rods", joined(rings, rods, trills, paddles, bridge,
                                          *(disc(x, v, r, r * 0.75) for x, v, r in cups)), "silver")  # fmt: skip
    d.add("pads", "pads", joined(*(disc(x, v, r * 0.5, r * 0.4) for x, v, r in cups)), "pad")
    for x in (348, 388, 548, 586):
        d.line(disc(x, y, 2.5))
    cap(d, 150, 280, 1.0)
    case_mark(d)
    d.stands = {"lower joint": ("lower",), "upper joint": ("upper",)}
    d.ends = {
        ("upper", "wide end"): ((474, y), (1, 0)), ("upper", "narrow end"): ((246, y), (-1, 0)),
        ("lower", "wide end"): ((724, y), (1, 0)), ("lower", "narrow end"): ((482, y), (-1, 0)),
        ("barrel", "wide end"): ((144, y), (-1, 0)), ("barrel", "narrow end"): ((240, y), (1, 0)),
        ("bell", "wide end"): ((864, y), (1, 0)), ("bell", "narrow end"): ((734, y), (-1, 0)),
        ("mouthpiece", "shank"): ((134, y), (1, 0)), ("mouthpiece", "tip"): ((22, y + 8), (-1, 0)),
    }  # fmt: skip
    d.runs = {"upper": ((246, y), (474, y)), "lower": ((482, y), (724, y))}
    return d


def bass_clarinet() -> Drawing:
    """Bass clarinet: long joints, a silver crook, an upturned silver bell, a peg."""
    d = Drawing()
    y = 196.0
    d.add("bell", "bell", tube([(716, y, 17), (764, y, 18), (806, y - 10, 21), (826, y - 52, 26), (818, y - 100, 40),
                                (812, y - 126, 60), (811, y - 134, 66)]), "silver")  # fmt: skip
    d.add("mouth", "mouth of the bell", disc(811, y - 134, 66, 10), "hollow")
    d.add("barrel", "crook", tube([(190, y, 13), (158, y - 4, 12), (132, y - 30, 11), (126, y - 66, 10), (150, y - 92, 9),
                                   (176, y - 96, 8)]), "silver")  # fmt: skip
    mouthpiece = Drawing()
    reed_mouthpiece(mouthpiece, 0, 0, 1.05)
    d.lay(mouthpiece, 164, 182, y - 98)  # turned round: the tip points right, back toward the player
    d.add("upper", "upper joint", tube([(196, y, 17), (444, y, 18)], straight=True), "ebony")
    d.add("lower", "lower joint", tube([(452, y, 18), (708, y, 18)], straight=True), "ebony")
    d.add("corks", "tenon corks", joined(plate(188, y - 11, 8, 22, 1), plate(444, y - 12, 8, 24, 1),
                                         plate(708, y - 12, 8, 24, 1)), "cork")  # fmt: skip
    d.add("mouthpiece_cork", "mouthpiece cork", plate(172, y - 105, 10, 15, 1), "cork")
    d.add("bands", "rings of the joints", joined(*(_band(x, y, 19) for x in (200, 440, 456, 704))), "silver")
    cups = [(232, 182, 12), (262, 214, 11), (300, 186, 12), (338, 187, 13), (376, 187, 13), (412, 183, 14),
            (486, 186, 15), (524, 186, 15), (562, 186, 16), (608, 182, 18), (650, 208, 18), (684, 182, 19)]  # fmt: skip
    rods = joined(_bar(210, 436, 172), _bar(232, 420, 220), _bar(466, 700, 170), _bar(500, 690, 222))
    d.add("keys", "keys and rods", joined(rods, plate(480, 214, 40, 9, 4), plate(480, 226, 36, 9, 4), plate(430, 164, 40, 7, 3),
                                          *(disc(x, v, r, r * 0.75) for x, v, r in cups)), "silver")  # fmt: skip
    d.add("pads", "pads", joined(*(disc(x, v, r * 0.5, r * 0.4) for x, v, r in cups)), "pad")
    d.add("peg", "floor peg", joined(stroke(course([(786, y + 16), (850, y + 62)]), 5), disc(852, y + 63, 6)), "silver")
    cap(d, 150, 300, 1.0)
    case_mark(d)
    d.stands = {"lower joint": ("lower",), "upper joint": ("upper",), "crook": ("barrel",), "bell": ("bell", "mouth")}
    d.ends = {
        ("upper", "wide end"): ((448, y), (1, 0)), ("upper", "narrow end"): ((194, y), (-1, 0)),
        ("lower", "wide end"): ((710, y), (1, 0)), ("lower", "narrow end"): ((450, y), (-1, 0)),
        ("barrel", "wide end"): ((190, y), (1, 0)), ("barrel", "narrow end"): ((178, y - 96), (1, 0)),
        ("mouthpiece", "shank"): ((180, y - 98), (-1, 0)), ("mouthpiece", "tip"): ((292, y - 136), (1, -0.3)),
        ("bell", "wide end"): ((811, y - 134), (0, -1)), ("bell", "narrow end"): ((716, y), (-1, 0)),
    }  # fmt: skip
    d.runs = {"upper": ((194, y), (448, y)), "lower": ((450, y), (710, y))}
    return d


def oboe() -> Drawing:
    """Oboe: a slim dark cone in three joints, full of silver keys, with its small reed."""
    d = Drawing()
    y = 150.0
    double_reed(d, 108, y, 1.1)
    d.add("upper", "top joint", tube([(108, y, 12), (122, y, 9), (150, y, 9.5), (400, y, 14)], straight=True), "ebony")
    d.add("lower", "bottom joint", tube([(410, y, 15), (700, y, 21)], straight=True), "ebony")
    d.add("bell", "bell", tube([(710, y, 22), (770, y, 27), (812, y, 35), (836, y, 33), (846, y, 31)]), "ebony")
    d.add("corks", "tenon corks", joined(plate(400, y - 9, 10, 18, 1), plate(700, y - 13, 10, 26, 1)), "cork")
    d.add(
        "bands",
        "rings of the joints",
        joined(*(_band(x, y, r) for x, r in ((112, 12), (396, 15), (414, 16), (696, 22), (714, 23)))),
        "silver",
    )
    plates = [
        (196, y, 9),
        (226, y, 9),
        (262, y, 10),
        (304, y, 10),
        (346, y, 11),
        (450, y, 11),
        (490, y, 12),
        (534, y, 12),
    ]
    cups = [(172, 138, 8), (378, 136, 10), (584, 136, 13), (628, 162, 13), (668, 134, 14), (752, 132, 14)]
    rods = joined(
        _bar(150, 392, 132), _bar(176, 372, 168), _bar(424, 690, 128), _bar(440, 640, 174), _bar(690, 760, 124)
    )
    touches = joined(plate(352, 170, 34, 8, 3), plate(352, 180, 30, 8, 3), plate(566, 176, 34, 8, 3), plate(566, 186, 30, 8, 3),
                     plate(390, 124, 34, 6, 3), plate(388, 174, 32, 6, 3))  # fmt: skip
    d.add("keys", "keys and rods", joined(rods, touches, *(disc(x, v, r, r * 0.8) for x, v, r in plates),
                                          *(disc(x, v, r, r * 0.75) for x, v, r in cups)), "silver")  # fmt: skip
    d.add("pads", "pads", joined(*(disc(x, v, r * 0.5, r * 0.4) for x, v, r in cups + plates)), "pad")
    case_mark(d)
    d.stands = {"lower joint": ("lower",), "upper joint": ("upper",)}
    d.ends = {
        ("upper", "wide end"): ((404, y), (1, 0)), ("upper", "narrow end"): ((108, y), (-1, 0)),
        ("lower", "wide end"): ((704, y), (1, 0)), ("lower", "narrow end"): ((408, y), (-1, 0)),
        ("bell", "wide end"): ((846, y), (1, 0)), ("bell", "narrow end"): ((710, y), (-1, 0)),
    }  # fmt: skip
    d.runs = {"upper": ((108, y), (404, y)), "lower": ((408, y), (704, y)), "bell": ((710, y), (846, y))}
    return d


def _bassoon_keys(d: Drawing) -> None:
    cups = [(180, 182, 11), (290, 184, 13), (350, 184, 13), (430, 184, 14), (520, 184, 14), (600, 184, 14), (690, 150, 13),
            (734, 196, 16), (772, 154, 15), (802, 196, 15), (446, 146, 8), (616, 146, 8)]  # fmt: skip
    rods = joined(_bar(150, 630, 174), _bar(420, 634, 142, 3), _bar(656, 820, 176))
    touches = joined(
        *(disc(x, 212, 8, 6) for x in (540, 566, 592, 616)), plate(664, 206, 36, 9, 4), plate(700, 186, 26, 8, 4)
    )
    d.add("keys", "keys and rods", joined(rods, touches, *(disc(x, v, r, r * 0.8) for x, v, r in cups)), "silver")
    d.add("pads", "pads", joined(*(disc(x, v, r * 0.5, r * 0.4) for x, v, r in cups)), "pad")
    d.add(
        "hand_rest",
        "hand rest",
        joined(stroke(course([(716, 218), (716, 240)]), 6), plate(694, 238, 46, 12, 6)),
        "ebony",
    )


def bassoon() -> Drawing:
    """Bassoon: boot, wing and long joint side by side, bell at the far end, the thin bocal and its reed."""
    d = Drawing()
    d.add("long", "long joint", tube([(230, 196, 19), (300, 196, 19), (640, 196, 17)], straight=True), "varnish")
    d.add(
        "bell",
        "bell",
        tube([(120, 196, 22), (134, 196, 24), (180, 196, 19), (222, 196, 21), (230, 196, 21)]),
        "varnish",
    )
    d.add("wing", "wing joint", joined(tube([(400, 158, 11), (640, 158, 16)], straight=True),
                                       polygon([(470, 150), (500, 132), (574, 132), (600, 146)])), "varnish")  # fmt: skip
    d.add("boot", "boot", joined(plate(640, 136, 200, 82, 16), plate(828, 140, 16, 74, 6)), "varnish")
    d.add(
        "boot_lining",
        "smaller bore of the boot, lined",
        tube([(640, 158, 12), (664, 158, 12)], straight=True),
        "silver",
    )
    d.add("bands", "rings of the joints", joined(plate(640, 134, 10, 86, 3), plate(822, 134, 10, 86, 3), plate(222, 174, 8, 44, 3),
                                                 plate(118, 172, 8, 48, 3)), "silver")  # fmt: skip
    d.add(
        "bocal",
        "bocal",
        joined(stroke(curve([(400, 158), (372, 152), (352, 122), (322, 98), (276, 96), (240, 106)]), 7)),
        "silver",
    )
    d.add("bocal_cork", "bocal cork", plate(384, 150, 18, 14, 2), "cork")
    reed = Drawing()
    double_reed(reed, 0, 0, 1.0)
    d.lay(reed, -14, 240, 108)
    _bassoon_keys(d)
    strap(d, 60, 306, "seat strap")
    case_mark(d)
    d.stands = {"long joint": ("long",), "wing joint": ("wing",), "boot": ("boot",)}
    d.ends = {
        ("boot", "larger bore"): ((636, 198), (-1, 0)), ("boot", "smaller bore"): ((636, 158), (-1, 0)),
        ("wing", "boot end"): ((644, 158), (1, 0)), ("wing", "bocal end"): ((400, 158), (-1, 0)),
        ("long", "bell end"): ((230, 196), (-1, 0)), ("long", "boot end"): ((640, 196), (1, 0)),
        ("bocal", "cork end"): ((396, 157), (1, 0.2)), ("bocal", "reed end"): ((240, 107), (-1, 0.2)),
    }  # fmt: skip
    d.runs = {
        "bocal": ((240, 107), (396, 157)), "wing": ((400, 158), (644, 158)),
        "boot": ((644, 158), (850, 158), (850, 198), (644, 198)), "long": ((640, 196), (230, 196)),
        "bell": ((230, 196), (120, 196)),
    }  # fmt: skip
    return d


def _flute(d: Drawing, y: float, head: tuple[float, float], body: tuple[float, float], foot: tuple[float, float] | None,
           r: float, look: Look) -> None:  # fmt: skip
    d.add("head", "head joint", joined(tube([(head[0] + 14, y, r), (head[1], y, r)], straight=True),
                                       plate(head[0], y - r, 16, 2 * r, 5)), look)  # fmt: skip
    mid = head[0] + (head[1] - head[0]) * 0.42
    d.add("lip_plate", "lip plate", disc(mid, y - r * 0.15, r * 2.9, r * 1.25), "silver")
    d.line(disc(mid, y - r * 0.25, r * 0.85, r * 0.5))
    d.add("body", "body", tube([(body[0] - 22, y, r + 1.5), (body[0] + 12, y, r + 1.5), (body[0] + 12, y, r), (body[1], y, r)],
                               straight=True), look)  # fmt: skip
    if foot is not None:
        d.add("foot", "foot joint", tube([(foot[0], y, r + 1.5), (foot[0] + 16, y, r + 1.5), (foot[0] + 16, y, r),
                                          (foot[1], y, r)], straight=True), look)  # fmt: skip


def flute() -> Drawing:
    """Flute: head joint with lip plate, body with its row of cups, foot joint."""
    d = Drawing()
    y = 150.0
    _flute(d, y, (30, 300), (330, 702), (716, 862), 12, "silver")
    cups = [
        (370, 12),
        (398, 12),
        (432, 13),
        (462, 13),
        (492, 13),
        (530, 14),
        (562, 14),
        (596, 14),
        (640, 14),
        (676, 14),
    ]
    feet = [(752, 13), (790, 14), (826, 14)]
    rods = joined(_bar(352, 696, y - 16, 5), _bar(430, 600, y + 14, 4), _bar(734, 850, y - 16, 5))
    touches = joined(
        plate(374, y + 12, 30, 8, 4),
        plate(700, y + 14, 34, 9, 4),
        plate(732, y + 13, 20, 8, 3),
        disc(470, y + 15, 7, 5),
    )
    d.add(
        "keys", "keys and rods", joined(rods, touches, *(disc(x, y - 4, r, r * 0.8) for x, r in cups + feet)), "silver"
    )
    d.add("pads", "pads", joined(*(disc(x, y - 4, r * 0.5, r * 0.42) for x, r in cups + feet)), "pad")
    d.add(
        "rod",
        "rod with an eye",
        joined(stroke(course([(60, 250), (470, 250)]), 6), disc(476, 250, 11, 7).subtracted(disc(476, 250, 6, 3))),
        "plastic",
    )
    case_mark(d)
    d.stands = {"head joint": ("head",), "lip plate": ("lip_plate",), "foot joint": ("foot",)}
    d.ends = {
        ("head", "open end"): ((302, y), (1, 0)), ("head", "crown end"): ((30, y), (-1, 0)),
        ("body", "foot end"): ((706, y), (1, 0)), ("body", "barrel end"): ((306, y), (-1, 0)),
        ("foot", "body end"): ((716, y), (-1, 0)), ("foot", "lower end"): ((864, y), (1, 0)),
    }  # fmt: skip
    d.runs = {"body": ((306, y), (706, y)), "foot": ((716, y), (864, y))}
    return d


def piccolo() -> Drawing:
    """Piccolo: a short two-piece flute, drawn larger."""
    d = Drawing()
    y = 150.0
    _flute(d, y, (110, 350), (384, 790), None, 16, "ebony")
    cups = [(430, 14), (462, 14), (502, 15), (536, 15), (572, 15), (620, 16), (656, 16), (694, 16), (742, 16)]
    rods = joined(_bar(408, 770, y - 20, 5), _bar(500, 700, y + 18, 4))
    d.add("keys", "keys and rods", joined(rods, plate(432, y + 14, 36, 9, 4), plate(748, y + 16, 32, 9, 4),
                                          *(disc(x, y - 5, r, r * 0.8) for x, r in cups)), "silver")  # fmt: skip
    d.add("pads", "pads", joined(*(disc(x, y - 5, r * 0.5, r * 0.42) for x, r in cups)), "pad")
    d.add(
        "rod",
        "rod with an eye",
        joined(stroke(course([(120, 250), (430, 250)]), 6), disc(436, 250, 11, 7).subtracted(disc(436, 250, 6, 3))),
        "plastic",
    )
    case_mark(d)
    d.stands = {"head joint": ("head",), "lip plate": ("lip_plate",)}
    d.ends = {
        ("head", "open end"): ((354, y), (1, 0)), ("head", "crown end"): ((110, y), (-1, 0)),
        ("body", "foot end"): ((792, y), (1, 0)), ("body", "barrel end"): ((360, y), (-1, 0)),
    }  # fmt: skip
    d.runs = {"body": ((360, y), (792, y))}
    return d
