"""Codes that stand for keys and pages, so that somebody with a scanner and no free hand can do everything."""

from __future__ import annotations

from creekbed.words.pages import ACTION_CODES, page_code, sits_down, types
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.staff import workers
from creekbed.workshop.supplies.needed import needed

PREFIX = "DO-"
PAGES: dict[str, str] = {
    "BENCH": "home", "DAY": "day", "BOOKIN": "book_in", "FIND": "find", "INSTRUMENTS": "instruments", "STOCK": "stock",
    "COUNT": "count", "TOOLS": "mix", "RULES": "house", "REFERENCE": "book", "ACTIVITY": "journal",
}  # fmt: skip
"""Code → key of the page that it opens."""
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
    return name if text.startswith(PREFIX) and (name in ACTION_CODES or name in PAGES or name in SIGNS) else ""


def all_codes(shop: Shop) -> list[dict[str, str]]:
    """Every code of this shop that is on no instrument: ``tag`` is what is scanned, ``name`` what it does.

    Keys and pages, numbers and letters, the people who work here, and the supplies that the instruments use.
    """
    rows = [{"tag": PREFIX + key, "name": words} for key, words in ACTION_CODES.items()]
    rows += [{"tag": PREFIX + key, "name": page_code(page)} for key, page in PAGES.items()]
    rows += [{"tag": PREFIX + key, "name": types(sign)} for key, sign in SIGNS.items()]
    rows += [{"tag": f"PE-{w.key}", "name": sits_down(w.key)} for w in workers(shop)]
    supplies = sorted((shop.catalogue.supplies[k] for k in needed(shop)), key=lambda s: s.name)
    rows += [{"tag": f"SU-{s.key.upper().replace('_', '-')}", "name": s.name} for s in supplies]
    return rows
