"""Trumpet, cornet, euphonium, tuba, trombone, horn."""

from __future__ import annotations

from PySide6.QtGui import QPainterPath

from creekbed.window.drawings.mouth import brass_mouthpiece
from creekbed.window.drawings.pen import (
    Drawing,
    case_mark,
    course,
    curve,
    disc,
    joined,
    pipe,
    plate,
    stroke,
    tube,
    turned,
)


def _valve(x: float, top: float, bottom: float, w: float) -> tuple[QPainterPath, QPainterPath, QPainterPath]:
    """Casing, what of the piston shows (stem and button with its top cap), and the bottom cap."""
    casing = plate(x - w / 2, top, w, bottom - top, 3)
    piston = joined(
        plate(x - w / 2 - 1, top - 9, w + 2, 10, 3), plate(x - 3, top - 26, 6, 18, 1), plate(x - 12, top - 32, 24, 8, 4)
    )
    cap = joined(plate(x - w / 2 - 1, bottom - 1, w + 2, 11, 3), plate(x - 5, bottom + 9, 10, 5, 2))
    return casing, piston, cap


def _trumpet_valves(d: Drawing, front: float, top: float, lead: float, low: float) -> None:
    mid = (lead + low) / 2
    casings, pistons, caps = zip(*(_valve(x, 98, low + 44, 36) for x in (420, 464, 508)), strict=True)
    d.add("casings", "valve casings", joined(*casings), "brass")
    d.add("valves", "valves", joined(*pistons), "silver")
    d.add("caps", "bottom caps", joined(*caps), "silver")
    d.add("slide_2", "second slide", joined(disc(464, mid + 6, 13), plate(459, mid - 14, 10, 8, 3)), "brass")
    d.line(disc(464, mid + 6, 7))
    d.add("felts", "felts of the valves", joined(*(plate(x - 7, 88 - 8, 14, 5, 2) for x in (420, 464, 508))), "felt")
    d.add("rings", "rubber rings", joined(plate(front - 92, low - 9, 6, 18, 2), plate(front - 64, lead - 9, 6, 18, 2),
                                          plate(520, mid - 17, 5, 14, 2), plate(520, mid + 11, 5, 14, 2)), "rubber")  # fmt: skip
    d.add("water_keys", "water keys", joined(plate(front - 44, low + 6, 38, 6, 3), disc(front - 6, low + 10, 5),
                                             plate(610, mid + 22, 28, 5, 2)), "silver")  # fmt: skip
    d.add(
        "braces",
        "braces and finger hook",
        joined(
            plate(300, top + 6, 6, 18, 1),
            plate(560, lead - 2, 6, low - lead + 2, 1),
            stroke(course([(536, lead - 6), (552, lead - 22), (566, lead - 8)], 6), 5),
        ),
        "brass",
    )


def _trumpet(rear: float, front: float, bell_r: float, drop: float, mouth_x: float) -> Drawing:
    d = Drawing()
    top, low = 120.0, 120.0 + drop
    lead = top + 26
    d.add("bell", "bell", tube([(rear + 30, top, 8), (front - 160, top, 9), (front - 40, top, 13), (front + 70, top, 24),
                                (front + 140, top, 44), (front + 170, top, bell_r)]), "brass")  # fmt: skip
    d.add("mouth", "mouth of the bell", disc(front + 170, top, 9, bell_r), "hollow")
    d.add("body", "bows and tubes", stroke(curve(
        [(rear + 34, top), (rear, top + drop * 0.18), (rear - 18, top + drop * 0.5), (rear, top + drop * 0.82), (rear + 34, low)]
    ), 17).united(pipe([(rear + 30, low), (404, low)], 15)), "brass")  # fmt: skip
    d.add(
        "mouthpipe",
        "mouthpipe",
        joined(pipe([(mouth_x, lead), (front - 60, lead)], 14), plate(mouth_x - 2, lead - 10, 46, 20, 3)),
        "brass",
    )
    bow = joined(pipe([(front - 60, lead), (front - 4, lead), (front - 4, low), (front - 90, low)], 15, 34))
    d.add("main_slide", "main tuning slide", bow, "brass")
    d.add("lower", "tube to the third valve", pipe([(front - 90, low), (516, low)], 14), "brass")
    mid = (lead + low) / 2
    d.add(
        "slide_1",
        "first slide",
        pipe([(412, mid - 8), (352, mid - 8), (352, mid + 16), (412, mid + 16)], 11, 12),
        "brass",
    )
    d.add(
        "slide_3",
        "third slide",
        pipe([(512, mid - 10), (640, mid - 10), (640, mid + 18), (512, mid + 18)], 11, 14),
        "brass",
    )
    d.add("stop", "stop ring of the third slide", joined(disc(588, mid - 28, 15).subtracted(disc(588, mid - 28, 10)),
                                                         plate(600, mid - 20, 30, 5, 2)), "silver")  # fmt: skip
    _trumpet_valves(d, front, top, lead, low)
    brass_mouthpiece(d, mouth_x + 4, lead, 1.05)
    case_mark(d)
    d.stands = {
        "body": ("bell", "mouth", "body", "mouthpipe", "lower", "braces"), "bell": ("bell", "mouth"),
        "valves": ("valves",), "main slide": ("main_slide",), "valve slides": ("slide_1", "slide_2", "slide_3"),
    }  # fmt: skip
    d.ends = {
        ("mouthpiece", "cup"): ((mouth_x - 62, lead), (-1, 0)), ("mouthpiece", "shank"): ((mouth_x + 4, lead), (1, 0)),
        ("body", "bell"): ((front + 176, top), (1, 0)), ("body", "mouthpiece end"): ((mouth_x, lead), (-1, 0)),
        ("casings", "top"): ((464, 66), (0, -1)), ("casings", "bottom"): ((464, low + 58), (0, 1)),
    }  # fmt: skip
    return d


def trumpet() -> Drawing:
    """Trumpet: long and slender, three pistons in the middle."""
    return _trumpet(190, 690, 66, 86, 84)


def cornet() -> Drawing:
    """Cornet: shorter and rounder, its bows deeper."""
    return _trumpet(244, 654, 66, 112, 170)


def _upright_valves(d: Drawing, xs: tuple[int, ...]) -> None:
    casings = joined(*(plate(420, y, 108, 20, 3) for y in xs))
    d.add(
        "slide_1",
        "first slide",
        pipe([(424, xs[0] + 5), (356, xs[0] + 5), (356, xs[0] + 15), (424, xs[0] + 15)], 7, 5),
        "brass",
    )
    d.add(
        "slide_2",
        "second slide",
        pipe([(424, xs[1] + 5), (386, xs[1] + 5), (386, xs[1] + 15), (424, xs[1] + 15)], 7, 5),
        "brass",
    )
    d.add(
        "slide_3",
        "third slide",
        pipe([(424, xs[2] + 4), (316, xs[2] + 4), (316, xs[2] + 18), (424, xs[2] + 18)], 7, 6),
        "brass",
    )
    d.add("casings", "valve casings", casings, "brass")
    d.add(
        "valves",
        "valves",
        joined(
            *(joined(plate(527, y - 1, 9, 22, 3), plate(535, y + 7, 20, 6, 1), plate(553, y - 1, 8, 22, 4)) for y in xs)
        ),
        "silver",
    )
    d.add("felts", "felts of the valves", joined(*(plate(536, y + 5, 5, 10, 2) for y in xs)), "felt")
    d.add("caps", "bottom caps", joined(*(plate(410, y - 1, 11, 22, 3) for y in xs)), "silver")
    d.add(
        "stop", "stop ring of the third slide", disc(334, xs[2] + 26, 9).subtracted(disc(334, xs[2] + 26, 5)), "silver"
    )


def _upright(bow: float, bell_r: float, end: float, thick: float, four: bool) -> Drawing:
    """Euphonium and tuba, lying: bell to the right, bottom bow to the left, pistons between."""
    d = Drawing()
    base = 196.0 + thick * 0.6
    d.add("branch", "bottom bow", tube(
        [(600, base + 40, thick * 0.34), (420, base + 46, thick * 0.42), (bow + 120, base + 40, thick * 0.56),
         (bow + 24, base - 8, thick * 0.7), (bow + 16, 150, thick * 0.82), (bow + 120, 112, thick * 0.95), (420, 112, thick * 1.08)]
    ), "brass")  # fmt: skip
    d.add("bell", "bell", tube([(420, 112, thick * 1.08), (560, 112, thick * 1.3), (end - 90, 112, bell_r * 0.6),
                                (end - 24, 112, bell_r * 0.86), (end, 112, bell_r)]), "brass")  # fmt: skip
    d.add("mouth", "mouth of the bell", disc(end, 112, 11, bell_r), "hollow")
    inner = pipe([(560, 190), (bow + 130, 190), (bow + 130, 226), (400, 226)], thick * 0.42, 20)
    d.add(
        "main_slide",
        "main tuning slide",
        pipe([(350, 238), (bow + 84, 238), (bow + 84, 206), (340, 206)], thick * 0.36, 15),
        "brass",
    )
    d.add("body", "inner tubes", inner, "brass")
    xs = (188, 210, 232, 254) if four else (192, 218, 244)
    _upright_valves(d, xs)
    d.add("rings", "rubber rings", joined(plate(346, 202, 4, 12, 2), plate(346, 232, 4, 12, 2)), "rubber")
    d.add("water_keys", "water keys", joined(plate(bow + 70, 244, 30, 6, 3), disc(bow + 72, 247, 5)), "silver")
    lead = stroke(curve([(700, 258), (640, 268), (590, 272), (540, xs[-1] + 34), (480, xs[-1] + 22)]), 11)
    d.add("mouthpipe", "mouthpipe", lead, "brass")
    cup = Drawing()
    brass_mouthpiece(cup, 0, 0, 1.15)
    d.lay(cup, 172, 690, 260)
    case_mark(d)
    d.stands = {
        "body": ("branch", "bell", "mouth", "body", "mouthpipe"), "bell": ("bell", "mouth"), "mouthpipe": ("mouthpipe",),
        "main slide": ("main_slide",), "valve slides": ("slide_1", "slide_2", "slide_3"),
    }  # fmt: skip
    d.ends = {
        ("mouthpiece", "cup"): ((764, 248), (1, -0.15)), ("mouthpiece", "shank"): ((690, 260), (-1, 0.15)),
        ("body", "bell"): ((end + 8, 112), (1, 0)), ("body", "mouthpiece end"): ((700, 258), (1, -0.15)),
        ("casings", "top"): ((566, xs[1] + 10), (1, 0)), ("casings", "bottom"): ((406, xs[1] + 10), (-1, 0)),
    }  # fmt: skip
    return d


def euphonium() -> Drawing:
    """Euphonium and baritone: a small tuba."""
    return _upright(150, 84, 800, 32, False)


def tuba() -> Drawing:
    """Tuba: the big one, four pistons, wide bell."""
    return _upright(66, 106, 846, 46, True)


def trombone() -> Drawing:
    """Trombone: bell section above, the long slide below, a little drawn out so that the stockings show."""
    d = Drawing()
    top, mouth_leg, low = 92.0, 190.0, 232.0
    d.add(
        "bell",
        "bell",
        tube([(120, top, 8), (240, top, 10), (340, top, 16), (420, top, 32), (462, top, 56), (476, top, 74)]),
        "brass",
    )
    d.add("mouth", "mouth of the bell", disc(476, top, 9, 74), "hollow")
    d.add(
        "tuning_slide",
        "tuning slide",
        joined(
            stroke(curve([(124, top), (76, top + 8), (46, 130), (40, 162), (46, 194), (76, low - 8), (124, low)]), 17)
        ),
        "brass",
    )
    d.add("gooseneck", "tube to the slide", pipe([(122, low), (330, low)], 14), "brass")
    d.add("nut", "bell nut", joined(plate(318, low - 13, 22, 26, 4)), "brass")
    d.add("brace", "bell brace", joined(plate(186, top + 6, 6, low - top - 12, 1)), "brass")
    d.add("inner", "inner slide", joined(pipe([(300, mouth_leg), (500, mouth_leg)], 11), pipe([(338, low), (500, low)], 11),
                                         plate(352, mouth_leg + 4, 7, low - mouth_leg - 8, 1)), "silver")  # fmt: skip
    d.add(
        "stockings",
        "stockings",
        joined(pipe([(462, mouth_leg), (504, mouth_leg)], 15), pipe([(462, low), (504, low)], 15)),
        "silver",
    )
    d.add("outer", "outer slide", joined(pipe([(500, mouth_leg), (850, mouth_leg), (850, low), (500, low)], 19, 20),
                                         plate(524, mouth_leg + 6, 7, low - mouth_leg - 12, 1)), "brass")  # fmt: skip
    d.add("bumper", "bumper", disc(856, (mouth_leg + low) / 2, 9, 12), "rubber")
    d.add(
        "lock",
        "slide lock",
        joined(plate(490, mouth_leg - 13, 18, 26, 4), plate(496, mouth_leg - 22, 10, 10, 3)),
        "silver",
    )
    d.add("water_key", "water key", joined(plate(800, low + 8, 36, 6, 3), disc(838, low + 12, 5)), "silver")
    brass_mouthpiece(d, 304, mouth_leg, 1.15)
    case_mark(d)
    d.stands = {"body": ("bell", "mouth", "gooseneck", "nut", "brace"), "bell": ("bell", "mouth"), "outer slide": ("outer", "bumper"),
                "inner slide": ("inner", "stockings"), "tuning slide": ("tuning_slide",)}  # fmt: skip
    d.ends = {
        ("mouthpiece", "cup"): ((232, mouth_leg), (-1, 0)), ("mouthpiece", "shank"): ((306, mouth_leg), (1, 0)),
        ("outer", "open end"): ((500, low), (-1, 0)), ("outer", "closed end"): ((846, low), (1, 0)),
        ("inner", "stocking end"): ((504, mouth_leg), (1, 0)), ("inner", "brace end"): ((336, low), (-1, 0)),
        ("body", "bell"): ((482, top), (1, 0)), ("body", "mouthpiece end"): ((318, low), (1, 0)),
    }  # fmt: skip
    return d


def horn() -> Drawing:
    """Horn: coiled round, the wide bell, rotors and levers in the middle, the thin mouthpipe."""
    d = Drawing()
    x, y, r = 380.0, 158.0, 118.0
    ring = disc(x, y, r + 9).subtracted(disc(x, y, r - 9))
    d.add("body", "main coil", ring, "brass")
    d.add("bell", "bell", tube([(x - 84, y + 84, 9), (x - 20, y + 122, 13), (x + 70, y + 118, 20), (x + 160, y + 84, 34),
                                (x + 232, y + 46, 62), (x + 268, y + 26, 94), (x + 284, y + 17, 124)]), "brass")  # fmt: skip
    d.add("mouth", "mouth of the bell", turned(disc(x + 285, y + 17, 15, 124), -27, x + 285, y + 17), "hollow")
    coil = stroke(
        curve(
            [(x - 96, y + 10), (x - 84, y - 50), (x - 24, y - 84), (x + 50, y - 74), (x + 86, y - 20), (x + 78, y + 30)]
        ),
        13,
    )
    d.add("inner_coil", "inner coil", coil, "brass")
    d.add("slides", "valve slides", joined(*(pipe([(x - 60 + n * 46, y + 6), (x - 60 + n * 46, y + 66), (x - 40 + n * 46, y + 66),
                                                   (x - 40 + n * 46, y + 6)], 9, 9) for n in range(3)),
                                           *(pipe([(x - 56 + n * 46, y - 12), (x - 56 + n * 46, y - 56), (x - 42 + n * 46, y - 56),
                                                   (x - 42 + n * 46, y - 12)], 8, 6) for n in range(3))), "silver")  # fmt: skip
    d.add(
        "main_slide",
        "main slide",
        pipe([(x + 60, y - 100), (x + 128, y - 132), (x + 144, y - 106), (x + 84, y - 72)], 11, 14),
        "silver",
    )
    d.add("rotors", "rotors", joined(*(disc(x - 50 + n * 46, y - 4, 17) for n in range(3))), "brass")
    for n in range(3):
        d.line(disc(x - 50 + n * 46, y - 4, 6))
    d.add(
        "linkages",
        "linkage strings",
        joined(*(stroke(course([(x - 50 + n * 46, y - 4), (x - 78 + n * 34, y - 46)]), 3) for n in range(3))),
        "string",
    )
    d.add("levers", "levers", joined(*(stroke(course([(x - 78 + n * 34, y - 46), (x - 118 + n * 34, y - 92)]), 6, True) for n in range(3)),
                                     *(disc(x - 120 + n * 34, y - 94, 11, 7) for n in range(3))), "silver")  # fmt: skip
    d.add(
        "mouthpipe",
        "mouthpipe",
        stroke(
            curve([(x - 250, y - 64), (x - 180, y - 40), (x - 128, y + 6), (x - 112, y + 60), (x - 84, y + 84)]), 10
        ),
        "brass",
    )
    cup = Drawing()
    brass_mouthpiece(cup, 0, 0, 1.0)
    d.lay(cup, 20, x - 244, y - 62)
    case_mark(d)
    d.stands = {"body": ("body", "bell", "mouth", "inner_coil", "mouthpipe"), "bell": ("bell", "mouth"), "mouthpipe": ("mouthpipe",),
                "main slide": ("main_slide",), "valve slides": ("slides",), "rotors": ("rotors", "levers")}  # fmt: skip
    d.ends = {
        ("mouthpiece", "cup"): ((x - 306, y - 84), (-1, -0.4)), ("mouthpiece", "shank"): ((x - 244, y - 62), (1, 0.4)),
        ("body", "bell"): ((x + 296, y + 12), (1, -0.5)), ("body", "mouthpiece end"): ((x - 250, y - 64), (-1, -0.4)),
    }  # fmt: skip
    return d
