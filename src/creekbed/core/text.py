"""Text at the door: what people type, scan or bring in files, made plain before anything else sees it.

Everything that is stored passes :func:`clean`; what people type into a field passes :func:`line`, which refuses with
words. Codes such as tags pass :func:`code`, which takes letters and digits of any script for the plain ones that they
look like or mean. Normal forms are those of Unicode Standard Annex 15; look-alikes are capital letters of Cyrillic and
Greek whose printed form is a Latin one (from memory, after Unicode Technical Standard 39).
"""

from __future__ import annotations

import unicodedata

from creekbed.core.errors import BadInput

LONGEST = 4000
"""Greatest length of a text on record, characters: house default."""
LONGEST_LINE = 200
"""Greatest length of a typed line, characters: house default."""
_KEPT = "\n\t"
_HIDDEN = {*range(0x202A, 0x202F), *range(0x2066, 0x206A), 0x200B, 0x200E, 0x200F, 0x061C, 0x2060, 0xFEFF, 0x00AD}
"""Marks that turn or hide text: nobody types them on purpose."""
_LOOK_ALIKE = str.maketrans(
    "АВЕЅІЈКМНОРСТУХԚԜ" + "ΑΒΕΖΗΙΚΜΝΟΡΤΥΧ" + "‐‑‒–—−﹣－",
    "ABESIJKMHOPCTYXQW" + "ABEZHIKMNOPTYX" + "--------",
)


def before_list(words: str) -> str:
    """What stands before a list that follows a colon, for where the list stands elsewhere or has no room."""
    return words.partition(":")[0]


def clean(text: str) -> str:
    """Text as it is stored: composed (NFC), without control characters and hidden marks.

    Raises:
        BadInput: it is longer than anything on record can be.
    """
    if text.isascii() and text.isprintable():
        found = text
    else:
        found = unicodedata.normalize("NFC", text)
        found = "".join(c for c in found if not _bad(c))
    if len(found) > LONGEST:
        raise BadInput(f"That text has {len(found):,} characters, more than can be kept.", todo="Make it shorter.")
    return found


def _bad(c: str) -> bool:
    kind = unicodedata.category(c)
    return (kind == "Cc" and c not in _KEPT) or kind in ("Cs", "Co", "Cn") or ord(c) in _HIDDEN


def line(text: str, *, what: str = "The text", longest: int = LONGEST_LINE) -> str:
    """One line that somebody typed: cleaned, its white space single, none at its ends.

    Args:
        what: how a message names it. longest: characters that it may have.

    Raises:
        BadInput: it is too long.
    """
    found = " ".join(clean(text).split())
    if len(found) > longest:
        raise BadInput(
            f"{what} has {len(found)} characters; {longest} are the most.", todo="Make it shorter, then try again."
        )
    return found


def code(text: str) -> str:
    """A code as it is meant: capitals, digits of any script as 0 to 9, letters that only look Latin as Latin.

    What is not ASCII after that stays as it is, for whoever checks the form to refuse.
    """
    found = unicodedata.normalize("NFKC", text).upper()
    found = "".join(c for c in found if not _bad(c) and c not in _KEPT).translate(_LOOK_ALIKE)
    return "".join(str(unicodedata.digit(c)) if c.isdigit() else c for c in found).strip()


def everywhere(value: object) -> object:
    """A value of plain lists, dicts and texts with every text in it cleaned.

    Raises:
        BadInput: a text is too long.
    """
    if isinstance(value, str):
        return clean(value)
    if isinstance(value, dict):
        return {clean(k) if isinstance(k, str) else k: everywhere(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [everywhere(v) for v in value]
    return value
