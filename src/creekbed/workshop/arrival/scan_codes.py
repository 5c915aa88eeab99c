"""Codes that stand for keys and pages, so that somebody with a scanner and no free hand can do everything."""

from __future__ import annotations

from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.staff import workers
from creekbed.workshop.supplies.needed import needed

PREFIX = "DO-"
ACTIONS: dict[str, str] = {
    "MAIN": "the big action (F2)", "SECOND": "the second action (F3)", "THIRD": "start, pause, ask (F4)",
    "NEXT": "go to the next thing", "BACK": "go back one thing", "PRESS": "press it", "UP": "line up",
    "DOWN": "line down", "ENTER": "Enter", "ESCAPE": "leave it, hide it", "DELETE": "delete a sign",
    "UNDO": "undo the last action",
}  # fmt: skip
PAGES: dict[str, tuple[str, str]] = {
    "BENCH": ("home", "Bench"), "DAY": ("day", "The day"), "BOOKIN": ("book_in", "Book in"), "FIND": ("find", "Find"),
    "INSTRUMENTS": ("instruments", "Instruments"), "STOCK": ("stock", "Stock"), "COUNT": ("count", "Count the shelf"),
    "TOOLS": ("mix", "Tools"), "RULES": ("house", "Rules"), "REFERENCE": ("book", "Reference"),
    "ACTIVITY": ("journal", "Activity"),
}  # fmt: skip
"""Code → key of the page, and its name."""
SIGNS: dict[str, str] = {
    "ZERO": "0", "ONE": "1", "TWO": "2", "THREE": "3", "FOUR": "4", "FIVE": "5", "SIX": "6", "SEVEN": "7",
    "EIGHT": "8", "NINE": "9", "POINT": ".", "MINUS": "-", "COLON": ":", "SLASH": "/", "SPACE": " ",
    **{letter: letter for letter in "ABCDEFGHIJKLMNOPQRSTUVWXYZ"},
}  # fmt: skip
"""Code → the sign that it types. No code has a digit: so it can be no tag."""


def key_of(code: str) -> str:
    """The key that a code stands for; "" where it stands for none."""
    text = code.strip().upper()
    name = text.removeprefix(PREFIX)
    return name if text.startswith(PREFIX) and (name in ACTIONS or name in PAGES or name in SIGNS) else ""


def all_codes(shop: Shop) -> list[dict[str, str]]:
    """Every code of this shop that is on no instrument: ``tag`` is what is scanned, ``name`` what it does.

    Keys and pages, numbers and letters, the people who work here, and the supplies that the instruments use.
    """
    rows = [{"tag": PREFIX + key, "name": words} for key, words in ACTIONS.items()]
    rows += [{"tag": PREFIX + key, "name": words} for key, (_, words) in PAGES.items()]
    rows += [
        {"tag": PREFIX + key, "name": f"types {sign if sign.strip() else 'a space'}"} for key, sign in SIGNS.items()
    ]
    rows += [{"tag": f"PE-{w.key}", "name": f"{w.key} sits down here"} for w in workers(shop)]
    supplies = sorted((shop.catalogue.supplies[k] for k in needed(shop)), key=lambda s: s.name)
    rows += [{"tag": f"SU-{s.key.upper().replace('_', '-')}", "name": s.name} for s in supplies]
    return rows
