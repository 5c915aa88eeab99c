"""The condition of an instrument as people write it into a list: "scratch top 12 mm; dent in the bell"."""

from __future__ import annotations

import re
from typing import Any

from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.names import phrase
from creekbed.core.errors import BadInput
from creekbed.core.units import parse_quantity
from creekbed.workshop.arrival.condition_marks import MARK_KINDS

WORDS = {
    "scratches": "scratch", "scratched": "scratch", "dents": "dent", "dented": "dent", "ding": "dent", "dings": "dent",
    "cracks": "crack", "cracked": "crack", "seam": "open seam", "worn": "wear of finish", "wear": "wear of finish",
    "lacquer": "wear of finish", "varnish": "wear of finish", "rust": "corrosion", "corroded": "corrosion",
    "tarnish": "corrosion", "stained": "stain", "stains": "stain", "mouldy": "mould", "mold": "mould",
    "broken": "crack",
}  # fmt: skip
"""Other words for kinds of marks: common practice, no source."""
NOTHING = frozenset(("ok", "good", "fine", "none", "no marks", "like new", "new", "gut", "bon", "-"))
"""What says that there is none."""
_SIZE = re.compile(r"([0-9]+(?:[.,][0-9]+)?|[0-9]+/[0-9]+)\s*(mm|cm|in|inch|\")?(?![0-9a-z/])", re.IGNORECASE)
_BETWEEN = re.compile(r"[;\n]|,\s+(?=\D)")


def marks_in(text: str, family: Family) -> list[dict[str, Any]]:
    """Marks that a text names, as a hire keeps them: {zone, kind, size_mm}.

    Raises:
        BadInput: words that name no mark, or a mark of which it is not said where it is.
    """
    if " ".join(phrase(text)) in NOTHING or not text.strip():
        return []
    return [_mark(part, family) for part in _BETWEEN.split(text) if part.strip()]


def _mark(text: str, family: Family) -> dict[str, Any]:
    words = phrase(text)
    zone = max((z for z in family.zones if _holds(words, phrase(z))), key=len, default="")
    left = tuple(w for w in words if w not in phrase(zone)) if zone else words
    kind = next((k for k in sorted(MARK_KINDS, key=len, reverse=True) if _holds(left, phrase(k))), "")
    kind = kind or next((WORDS[w] for w in left if w in WORDS), "")
    if not kind:
        raise BadInput(f"“{text.strip()[:40]}” names no mark.", todo=f"Such as: {', '.join(MARK_KINDS[:5])}.")
    if not zone:
        raise BadInput(f"Where is the “{text.strip()[:30]}”?", todo=f"On the {', '.join(family.zones)}.")
    found = _SIZE.search(text)
    size = None
    if found is not None:
        size = round(parse_quantity(f"{found[1]} {found[2] or 'mm'}", "millimeter", what="The mark", maximum=2000.0), 1)
    return {"zone": zone, "kind": kind, "size_mm": size}


def _holds(words: tuple[str, ...], wanted: tuple[str, ...]) -> bool:
    """Whether all the words that matter of ``wanted`` stand in ``words``."""
    return bool(wanted) and all(w in words for w in wanted if w not in ("and", "the"))
