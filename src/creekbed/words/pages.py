"""Names of pages, and what the codes beside the bench do."""

from __future__ import annotations

PAGES = {
    "home": "Bench", "day": "The day", "book_in": "Book in", "find": "Find", "instruments": "Instruments",
    "stock": "Stock", "count": "Count the shelf", "mix": "Mix", "bath": "Bath", "jar": "Piston jar",
    "agents": "What may touch", "cloths": "Cloths", "reeds": "Reeds", "air": "Air and case", "wood": "Wood",
    "room": "Storage room", "strings": "Strings", "tuning": "Tuning", "playing": "Play-test",
    "house": "House rules", "days": "Days and departures", "bring": "Bring a list", "book": "Reference",
    "journal": "Activity", "devices": "Devices", "kept": "Backups", "this_window": "This window: light, targets, text",
    "this_shop": "This shop: name, paper, clock, money, units",
}  # fmt: skip
"""Key of a page → its name, where it is looked for."""
ACTION_CODES = {
    "MAIN": "the big action (F2)", "SECOND": "the second action (F3)", "THIRD": "start, pause, ask (F4)",
    "NEXT": "go to the next thing", "BACK": "go back one thing", "PRESS": "press it", "UP": "line up",
    "DOWN": "line down", "ENTER": "Enter", "ESCAPE": "leave it, hide it", "DELETE": "delete a sign",
    "UNDO": "undo the last action",
}  # fmt: skip
"""Code that stands for a key → what that does."""
SHORT_PAGES = {"mix": "Tools", "house": "Rules"}
"""Pages whose code carries the name of their way in the bar."""


def page_code(key: str) -> str:
    """What stands beside the code that opens a page."""
    return SHORT_PAGES.get(key, PAGES[key])


def types(sign: str) -> str:
    """What stands beside the code that types a sign."""
    return f"types {sign if sign.strip() else 'a space'}"


def sits_down(person: str) -> str:
    """What stands beside the code of a person."""
    return f"{person} sits down here"
