"""Violin family, guitars, bows."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainterPath

from creekbed.window.drawings.pen import (
    Drawing,
    Xy,
    blob,
    case_mark,
    course,
    curve,
    disc,
    joined,
    mirrored,
    moved,
    plate,
    polygon,
    stroke,
    tube,
)

Y = 148.0


def _half(points: list[tuple[float, float]], x: float, length: float) -> list[tuple[float, float]]:
    return [(x + u * length, v * length) for u, v in points]


def body_outline(x: float, length: float, upper: float, waist: float, lower: float, slope: float = 0.0) -> QPainterPath:
    """The outline of a bowed instrument lying, neck to the left: two bouts, a waist, four corners.

    Args:
        x: where the body begins. length: of the body. upper, waist, lower: half widths as shares of the length.
        slope: how much the shoulders fall, 0 for a violin, about 0.12 for a bass.
    """
    top = _half([(0.0, 0.035), (0.02 + slope * 0.2, upper * (0.62 - slope * 2)), (0.1 + slope, upper * (0.94 - slope)), (0.2 + slope, upper),
                 (0.29 + slope * 0.5, upper * 0.95), (0.355, upper * 0.9)], x, length)  # fmt: skip
    middle = _half(
        [(0.355, upper * 0.9), (0.385, waist * 1.12), (0.46, waist), (0.535, waist * 1.13), (0.575, lower * 0.87)],
        x,
        length,
    )
    bottom = _half(
        [
            (0.575, lower * 0.87),
            (0.64, lower * 0.93),
            (0.77, lower),
            (0.9, lower * 0.88),
            (0.975, lower * 0.5),
            (1.0, 0.0),
        ],
        x,
        length,
    )

    def run(points: list[tuple[float, float]]) -> list[QPointF]:
        line = curve(points)
        return [line.pointAtPercent(n / 24) for n in range(25)]

    return mirrored(run(top) + run(middle) + run(bottom), Y)


def bow_at(d: Drawing, x: float, y: float, length: float, apart: bool = False) -> None:
    """A bow lying, tip to the left, frog to the right; in one area, or in its parts when it stands by itself."""
    s = length / 800
    stick = stroke(
        curve(
            [(x + 12 * s, y - 8 * s), (x + length * 0.35, y + 3 * s), (x + length * 0.7, y), (x + length, y - 9 * s)]
        ),
        7 * s,
    )
    tip = polygon(
        [
            (x, y + 16 * s),
            (x + 4 * s, y - 10 * s),
            (x + 20 * s, y - 11 * s),
            (x + 26 * s, y - 3 * s),
            (x + 12 * s, y + 16 * s),
        ]
    )
    frog = plate(x + length - 92 * s, y - 3 * s, 64 * s, 24 * s, 5 * s)
    ferrule = plate(x + length - 98 * s, y + 8 * s, 12 * s, 14 * s, 2)
    screw = plate(x + length - 4 * s, y - 14 * s, 26 * s, 11 * s, 4 * s)
    hair = polygon(
        [
            (x + 4 * s, y + 13 * s),
            (x + length - 88 * s, y + 16 * s),
            (x + length - 88 * s, y + 21 * s),
            (x + 4 * s, y + 18 * s),
        ]
    )
    d.add("bow_hair", "bow hair", hair, "hair")
    if apart:
        d.add("bow", "stick", stick, "varnish")
        d.add("tip", "tip", tip, "varnish")
        d.add("frog", "frog and ferrule", joined(frog, ferrule), "ebony")
        d.line(disc(x + length - 60 * s, y + 9 * s, 6 * s))
        d.add("screw", "screw", screw, "silver")
        d.line(course([(x + length - 120 * s, y - 3 * s), (x + length - 180 * s, y - 2 * s)]))
    else:
        d.add("bow", "bow", joined(stick, tip, frog, ferrule, screw), "varnish")


def _peg_places(x: float, length: float, neck: float) -> list[float]:
    """Where the four pegs stand along the pegbox; arguments as for the body."""
    return [x - neck - length * 0.036 * (1.0 + n * 1.15) for n in range(4)]


def _scroll(d: Drawing, head: float, h: float, pegs_at: Sequence[float]) -> None:
    scroll = joined(
        tube([(head, Y, h * 1.0), (head - h * 5, Y, h * 1.15)], straight=True),
        disc(head - h * 6.2, Y, h * 1.55, h * 1.5),
    )
    d.add("scroll", "scroll and pegbox", scroll, "varnish")
    d.line(disc(head - h * 6.2, Y, h * 0.8))
    d.line(disc(head - h * 6.2, Y, h * 0.25))
    pegs = []
    for n, px in enumerate(pegs_at):
        side = -1 if n % 2 else 1
        pegs.append(
            joined(
                plate(px - 2, Y - h * 2.1 if side < 0 else Y, 4, h * 2.1, 1),
                disc(px, Y + side * h * 2.5, h * 0.52, h * 0.72),
            )
        )
    d.add("pegs", "pegs", joined(*pegs), "ebony")


def _f_holes(d: Drawing, x: float, length: float, waist: float) -> None:
    f = length * 0.078
    for side in (-1, 1):
        fx, fy = x + length * 0.515, Y + side * length * waist * 0.66
        slot = curve([(fx - f * 1.05, fy - side * f * 0.38), (fx - f * 1.3, fy - side * f * 0.1), (fx - f * 0.95, fy + side * f * 0.12),
                      (fx - f * 0.3, fy + side * f * 0.04), (fx + f * 0.3, fy + side * f * 0.3), (fx + f * 0.95, fy + side * f * 0.24),
                      (fx + f * 1.35, fy + side * f * 0.5), (fx + f * 1.05, fy + side * f * 0.78)])  # fmt: skip
        d.line(stroke(slot, length * 0.009, True))
        d.line(course([(fx, fy - side * f * 0.08), (fx, fy + side * f * 0.36)]))


def _bowed(
    x: float, length: float, upper: float, waist: float, lower: float, neck: float, slope: float, big: bool
) -> Drawing:
    d = Drawing()
    outline = body_outline(x, length, upper, waist, lower, slope)
    back = moved(outline, 0, 7)
    d.add("ribs", "ribs", back, "varnish")
    d.add("top", "top", outline, "varnish")
    _f_holes(d, x, length, waist)
    h = length * 0.036
    head = x - neck
    d.add("neck", "neck", tube([(head, Y, h * 0.95), (x + 4, Y, h * 1.25)], straight=True), "maple")
    d.add(
        "fingerboard",
        "fingerboard",
        tube([(head + 2, Y, h * 0.8), (x + length * 0.3, Y, h * 1.35)], straight=True),
        "ebony",
    )
    _scroll(d, head, h, _peg_places(x, length, neck))
    end = x + length
    d.add(
        "tailpiece",
        "tailpiece and fine tuners",
        tube([(x + length * 0.66, Y, h * 1.5), (x + length * 0.95, Y, h * 0.8)], straight=True),
        "ebony",
    )
    d.add(
        "tuners",
        "fine tuners",
        joined(*(disc(x + length * 0.68, Y + (n - 1.5) * h * 0.7, h * 0.24) for n in range(4))),
        "silver",
    )
    bridge_x = x + length * 0.54
    d.add("bridge", "bridge", joined(plate(bridge_x - 4, Y - h * 1.9, 9, h * 3.8, 3)), "maple")
    lines = joined(*(stroke(course([(head - h * 0.8, Y + (n - 1.5) * h * 0.36), (bridge_x, Y + (n - 1.5) * h * 0.86),
                                    (x + length * 0.67, Y + (n - 1.5) * h * 0.66)]), 2.4) for n in range(4)))  # fmt: skip
    d.add("strings", "strings", lines, "string")
    if big:
        d.add(
            "end_pin",
            "end pin",
            joined(
                plate(end - 2, Y - 6, 14, 12, 3),
                stroke(course([(end + 10, Y), (end + 48, Y)]), 5),
                disc(end + 50, Y, 4),
            ),
            "silver",
        )
    case_mark(d, "bag" if big else "case")
    d.stands = {
        "body": ("top", "ribs"), "top": ("top",), "back": ("ribs",), "ribs": ("ribs",), "neck and fingerboard": ("neck", "fingerboard"),
        "scroll and pegs": ("scroll", "pegs"), "bridge": ("bridge",), "bow": ("bow", "bow_hair"), "end pin": ("end_pin",),
        "bag": ("case",), "pegs": ("pegs",), "tailpiece": ("tailpiece", "tuners"),
    }  # fmt: skip
    return d


def _under_the_chin(d: Drawing, chin: Sequence[Xy], dx: float) -> None:
    """Add what violin and viola have in addition: chin rest, shoulder rest ``dx`` further right, the bow beside."""
    d.add("chin_rest", "chin rest", blob(chin), "ebony")
    arch = stroke(curve([(150 + dx, 262), (220 + dx, 240), (290 + dx, 258), (350 + dx, 246)]), 13, True)
    feet = (plate(162 + dx, 258, 10, 16, 3), plate(330 + dx, 250, 10, 16, 3))
    d.add("rest", "shoulder rest", joined(arch, *feet), "rubber")
    bow_at(d, 40, 306, 740)


def violin() -> Drawing:
    """Violin: with chin rest and shoulder rest, the bow beside."""
    d = _bowed(412, 408, 0.236, 0.158, 0.292, 250, 0.0, False)
    _under_the_chin(d, [(770, 176), (796, 164), (822, 182), (824, 220), (796, 234), (768, 214)], 0)
    return d


def viola() -> Drawing:
    """Viola: a little larger in the body."""
    d = _bowed(390, 436, 0.236, 0.16, 0.29, 252, 0.0, False)
    _under_the_chin(d, [(774, 178), (800, 166), (826, 184), (828, 224), (800, 238), (772, 216)], -20)
    return d


def cello() -> Drawing:
    """Cello: on its side, the end pin out."""
    d = _bowed(400, 430, 0.228, 0.158, 0.294, 252, 0.02, True)
    bow_at(d, 40, 308, 700)
    return d


def double_bass() -> Drawing:
    """Double bass: sloping shoulders, long neck, tuning machines."""
    x, length, neck = 396.0, 432.0, 264.0
    d = _bowed(x, length, 0.232, 0.176, 0.31, neck, 0.1, True)
    places = enumerate(_peg_places(x, length, neck))
    plates = joined(*(disc(px, Y + (30 if n % 2 == 0 else -30), 7) for n, px in places))
    d.add("machines", "tuning machines", plates, "silver")
    d.stands["pegs"] = ("pegs", "machines")
    d.stands["scroll and pegs"] = ("scroll", "pegs", "machines")
    bow_at(d, 60, 310, 560)
    return d


def bow() -> Drawing:
    """A bow by itself, large."""
    d = Drawing()
    bow_at(d, 40, 150, 800, apart=True)
    case_mark(d, "tube")
    d.stands = {"stick": ("bow",), "hair": ("bow_hair",), "tip": ("tip",), "frog": ("frog",), "screw": ("screw",)}
    return d


GUITAR: dict[str, tuple[str, ...]] = {
    "body": ("body", "sides"), "top": ("body",), "back": ("sides",), "sides": ("sides",), "bridge": ("bridge",),
    "neck": ("neck", "fingerboard"), "headstock and tuners": ("headstock", "tuners"),
}  # fmt: skip
"""What stands for the zones of every guitar."""


def _frets(d: Drawing, nut: float, scale: float, h0: float, h1: float, end: float, count: int) -> None:
    for n in range(1, count + 1):
        x = nut + scale * (1 - 2 ** (-n / 12))
        if x > end:
            return
        h = h0 + (h1 - h0) * (x - nut) / (end - nut)
        d.line(course([(x, Y - h), (x, Y + h)]))


def _waisted(d: Drawing, x: float, length: float) -> None:
    half = [
        (0, 0.04),
        (0.02, 0.2),
        (0.12, 0.31),
        (0.26, 0.335),
        (0.4, 0.285),
        (0.5, 0.27),
        (0.62, 0.325),
        (0.78, 0.39),
        (0.92, 0.35),
        (0.99, 0.18),
        (1.0, 0.0),
    ]
    line = curve([(x + u * length, v * length) for u, v in half])
    body = mirrored([line.pointAtPercent(n / 80) for n in range(81)], Y)
    d.add("sides", "sides", moved(body, 0, 7), "varnish")
    d.add("body", "top", body, "spruce")


def acoustic_guitar() -> Drawing:
    """Acoustic guitar: waisted body, round hole, six strings, tuners on both sides."""
    d = Drawing()
    x, nut, h, length = 468.0, 176.0, 15.0, 372.0
    _waisted(d, x, length)
    d.add("rose", "sound hole", disc(x + 118, Y, 46), "hollow")
    d.line(disc(x + 118, Y, 53))
    d.add("neck", "neck", tube([(nut, Y, h), (x + 8, Y, h + 4)], straight=True), "varnish")
    d.add("fingerboard", "fingerboard and frets", tube([(nut, Y, h - 1), (x + 74, Y, h + 5)], straight=True), "ebony")
    _frets(d, nut, 530, h - 1, h + 5, x + 72, 18)
    d.add(
        "headstock",
        "headstock",
        polygon([(nut, Y - 15), (nut, Y + 15), (62, Y + 27), (56, Y), (62, Y - 27)]),
        "varnish",
    )
    d.add("tuners", "tuners", joined(*(joined(plate(84 + n * 32, Y + s * 24 - 3, 8, 20 * s if s > 0 else 14, 2) if s > 0 else plate(84 + n * 32, Y - 40, 8, 20, 2),
                                              disc(88 + n * 32, Y + s * 44, 9, 7)) for n in range(3) for s in (-1, 1))), "silver")  # fmt: skip
    d.add("bridge", "bridge and saddle", plate(x + 254, Y - 52, 22, 104, 5), "ebony")
    d.add(
        "strings",
        "strings",
        joined(
            *(
                stroke(
                    course(
                        [
                            (nut - 40 - (n % 3) * 20, Y + (n - 2.5) * 4.4),
                            (nut, Y + (n - 2.5) * 4.6),
                            (x + 262, Y + (n - 2.5) * 11),
                        ]
                    ),
                    2.2,
                )
                for n in range(6)
            )
        ),
        "string",
    )
    d.add(
        "strap_buttons",
        "strap buttons",
        joined(plate(x + length - 2, Y - 6, 14, 12, 4), disc(x + 8, Y + 40, 7)),
        "silver",
    )
    case_mark(d)
    d.stands = GUITAR | {"body": ("body", "sides", "rose"), "top": ("body", "rose")}
    return d


def _solid_body(d: Drawing, x: float) -> None:
    body = blob([(x + 6, Y - 26), (x - 58, Y - 92), (x - 30, Y - 122), (x + 70, Y - 100), (x + 150, Y - 82), (x + 236, Y - 110),
                 (x + 322, Y - 86), (x + 348, Y), (x + 318, Y + 92), (x + 226, Y + 112), (x + 140, Y + 84), (x + 66, Y + 92),
                 (x - 4, Y + 106), (x - 20, Y + 78), (x + 14, Y + 26)])  # fmt: skip
    d.add("sides", "sides", moved(body, 0, 6), "varnish")
    d.add("body", "top", body, "finish")


def _solid(neck_nut: float, strings: int, scale: float, reach: float) -> Drawing:
    d = Drawing()
    h = 13.0 if strings == 6 else 12.0
    x = 506.0
    _solid_body(d, x)
    d.add("neck", "neck", tube([(neck_nut, Y, h), (x + 24, Y, h + 5)], straight=True), "maple")
    d.add(
        "fingerboard", "fingerboard and frets", tube([(neck_nut, Y, h - 1), (x + 66, Y, h + 4)], straight=True), "maple"
    )
    _frets(d, neck_nut, scale, h - 1, h + 4, x + 64, 22)
    d.add("headstock", "headstock", blob([(neck_nut, Y - 13), (neck_nut - 40, Y - 26), (neck_nut - reach + 10, Y - 34), (neck_nut - reach, Y - 8),
                                          (neck_nut - reach + 34, Y + 16), (neck_nut - 30, Y + 16), (neck_nut, Y + 13)]), "maple")  # fmt: skip
    gap = (reach - 34) / strings
    d.add(
        "tuners",
        "tuners",
        joined(
            *(
                joined(plate(neck_nut - 20 - n * gap, Y - 52, 6, 24, 1), disc(neck_nut - 17 - n * gap, Y - 56, 9, 8))
                for n in range(strings)
            )
        ),
        "silver",
    )
    pickups = (x + 104, x + 150, x + 196) if strings == 6 else (x + 128, x + 178)
    d.add("pickups", "pickups and knobs", joined(*(plate(p, Y - 38, 20, 76, 8) for p in pickups),
                                                 *(disc(x + 254 + n * 26, Y + 66 - n * 12, 10) for n in range(3))), "plastic")  # fmt: skip
    bridge_x = neck_nut + scale
    d.add("bridge", "bridge and saddle", plate(bridge_x - 8, Y - 32, 40, 64, 5), "silver")
    spread = 54.0 / (strings - 1)
    d.add(
        "strings",
        "strings",
        joined(
            *(
                stroke(
                    course(
                        [
                            (neck_nut - 16 - n * gap, Y - 22),
                            (neck_nut, Y + (n - (strings - 1) / 2) * 20 / (strings - 1)),
                            (bridge_x + 4, Y + (n - (strings - 1) / 2) * spread * 0.9),
                        ]
                    ),
                    2.2 if strings == 6 else 3.2,
                )
                for n in range(strings)
            )
        ),
        "string",
    )
    d.add(
        "strap_buttons",
        "strap buttons or locks",
        joined(plate(x + 346, Y - 6, 15, 12, 4), plate(x - 72, Y - 100, 14, 12, 4)),
        "silver",
    )
    case_mark(d)
    d.stands = dict(GUITAR)
    return d


def electric_guitar() -> Drawing:
    """Electric guitar: a flat body with two horns, three pickups, six tuners in line."""
    return _solid(222, 6, 530, 128)


def bass_guitar() -> Drawing:
    """Bass guitar: longer neck, four thick strings, two pickups."""
    return _solid(156, 4, 604, 118)
