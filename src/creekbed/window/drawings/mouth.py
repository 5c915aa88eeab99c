"""Small pieces that several drawings share: mouthpieces, reeds, ligatures, caps, straps."""

from __future__ import annotations

from creekbed.window.drawings.pen import Drawing, Look, course, disc, joined, pipe, plate, polygon, stroke, tube


def reed_mouthpiece(d: Drawing, x: float, y: float, size: float = 1.0, look: Look = "ebony") -> None:
    """A single-reed mouthpiece, tip to the left, its shank ending at ``x``, with reed, ligature."""
    s = size
    beak = polygon(
        [
            (x, y - 11 * s),
            (x - 62 * s, y - 13 * s),
            (x - 112 * s, y + 7 * s),
            (x - 112 * s, y + 10 * s),
            (x, y + 11 * s),
        ]
    )
    d.add("mouthpiece", "mouthpiece", beak, look)
    d.add("reed", "reed", polygon(
        [(x - 112 * s, y + 10 * s), (x - 70 * s, y + 12 * s), (x - 26 * s, y + 16 * s), (x - 26 * s, y + 10 * s)]
    ), "cane")  # fmt: skip
    band = polygon(
        [(x - 58 * s, y - 15 * s), (x - 58 * s, y + 16 * s), (x - 24 * s, y + 18 * s), (x - 24 * s, y - 14 * s)]
    )
    screws = joined(disc(x - 50 * s, y + 20 * s, 4 * s), disc(x - 33 * s, y + 21 * s, 4 * s))
    d.add("ligature", "ligature", joined(band, screws), "silver")
    d.line(course([(x - 46 * s, y - 14 * s), (x - 46 * s, y + 16 * s)]))
    d.line(course([(x - 35 * s, y - 14 * s), (x - 35 * s, y + 17 * s)]))


def cap(d: Drawing, x: float, y: float, size: float = 1.0) -> None:
    """A mouthpiece cap lying beside, its closed end to the left."""
    s = size
    d.add("cap", "mouthpiece cap", tube([(x - 64 * s, y, 6 * s), (x - 50 * s, y, 13 * s), (x - 8 * s, y, 17 * s),
                                         (x, y, 17 * s)]), "plastic")  # fmt: skip
    d.line(course([(x - 40 * s, y - 5 * s), (x - 22 * s, y - 6 * s)]))


def strap(d: Drawing, x: float, y: float, name: str = "neck strap") -> None:
    """A strap in a loop with slider and hook."""
    loop = stroke(course([(x, y), (x + 14, y - 26), (x + 64, y - 26), (x + 74, y), (x + 44, y + 12), (x, y)], 16), 7)
    slider = plate(x - 8, y - 5, 16, 12, 3)
    hook = stroke(course([(x, y + 6), (x - 16, y + 18), (x - 24, y + 12)], 6), 4, True)
    d.add("strap", name, joined(loop, slider, hook), "leather")


def brass_mouthpiece(d: Drawing, x: float, y: float, size: float = 1.0) -> None:
    """A cup mouthpiece, rim to the left, shank ending at ``x``."""
    s = size
    cup = tube(
        [(x - 62 * s, y, 17 * s), (x - 57 * s, y, 18 * s), (x - 44 * s, y, 15 * s), (x - 34 * s, y, 6 * s),
         (x - 24 * s, y, 5 * s), (x, y, 8 * s)], straight=True,
    )  # fmt: skip
    d.add("mouthpiece", "mouthpiece", cup, "silver")
    d.line(course([(x - 57 * s, y - 17 * s), (x - 57 * s, y + 17 * s)]))


def double_reed(d: Drawing, x: float, y: float, size: float = 1.0) -> None:
    """A double reed, tip to the left, its thread ending at ``x``."""
    s = size
    blades = polygon(
        [(x - 62 * s, y - 8 * s), (x - 26 * s, y - 4 * s), (x - 26 * s, y + 4 * s), (x - 62 * s, y + 8 * s)]
    )
    d.add("reed", "reed", joined(blades, plate(x - 27 * s, y - 4 * s, 27 * s, 8 * s, 2)), "cane")
    d.line(course([(x - 26 * s, y - 4 * s), (x - 26 * s, y + 4 * s)]))
    d.line(pipe([(x - 18 * s, y), (x - 4 * s, y)], 0.5))
