"""What a new shop can still say, and what holds until then."""

from __future__ import annotations

from creekbed.core.conventions import number, temperature

NAMES = {
    "people": "Who works here", "leaving": "How instruments leave", "hours": "When the bench is open",
    "closed": "Days off", "identity": "Name, address and paper", "formats": "Clock, money and units",
    "instruments": "Your instruments", "stock": "What is on the shelf",
}  # fmt: skip
"""What can be said → its name, the most useful first."""


def until_said(person: str, hours: str, a4_hz: float, room_c: float) -> dict[str, str]:
    """What holds until it is said, by the keys of :data:`NAMES`.

    Args:
        person: initials of who sits here. hours: the opening hours in words. a4_hz: the pitch. room_c: usual, °C.
    """
    return {
        "people": f"what is done is noted as {person}'s",
        "leaving": "each job has a due time of its own",
        "hours": hours,
        "closed": "none are known",
        "identity": "papers have no head, on A4",
        "formats": f"24 h, metric, no currency, A4 = {number(a4_hz)} Hz, room {temperature(room_c)}",
        "instruments": "each is made when it is booked in",
        "stock": "nothing is counted yet",
    }
