"""Where an instrument is and what stands in its way, in words."""

from __future__ import annotations

from datetime import date, datetime

from creekbed.core.conventions import clock

PLACES = {
    "hired": "hired", "bench": "on the bench", "away": "away", "ready": "ready", "here": "in the store",
    "resting": "resting", "retired": "retired",
}  # fmt: skip
"""Where an instrument is → words."""
FOUND = {
    "job": "on the bench", "instrument": "instrument", "group": "group", "family": "family", "supply": "supply",
    "person": "works here", "rule": "house rule", "step": "step", "reference": "reference", "page": "page",
}  # fmt: skip
"""What can be found → words."""
LIDS = {"shut": "shut", "cracked": "open a hand's width", "open": "open"}
"""How the lid of a case stands → words."""
UNTIL_THEN = "Slide locked, not played."
"""How an instrument with a stuck slide is handled until a specialist has it."""
UNSEEN = "not noted again"
"""A mark that was there when the instrument went out, and that nobody has noted since."""


def with_renter(renter: str, since: datetime) -> str:
    """Who has it."""
    return f"with {renter} since {since.astimezone():%d %b %Y}"


def back_words(due: date | None, today: date) -> str:
    """By when it should be back, or since when it is overdue; "" where nothing is agreed."""
    if due is None:
        return ""
    return f"{'overdue since' if due < today else 'back by'} {due:%d %b %Y}"


def away_until(back: datetime | None) -> str:
    """When it comes back from a specialist; "" where nobody said."""
    return f"back {back.astimezone():%a %d %b}" if back is not None else ""


def ready_since(at: datetime | None) -> str:
    """Since when it has been ready."""
    return f"ready since {at.astimezone():%d %b}" if at is not None else "ready"


def on_bench_for(group: str) -> str:
    """That it is on the bench, and for whom."""
    return f"on the bench for {group}" if group else "on the bench"


def stands_still(quarantine: str, treated: bool, waiting_for: str, back: datetime | None) -> str:
    """Why nothing can go on with it; "" where nothing stands in the way.

    Args:
        quarantine: its reason. treated: whether a treatment for it is done. waiting_for, back: whom, and until when.
    """
    if quarantine:
        return f"{quarantine}. Treated: look again, then lift it" if treated else quarantine
    return waiting_for if back is None or not waiting_for else f"{waiting_for}, back {clock(back, '%a ')}"


def unreadable(what: str, detail: str) -> str:
    """What is said of a job whose records cannot be true; ``what``: name of the error, ``detail``: its text."""
    return (
        f"Something on record of it cannot be true ({what}: {detail[:80]}). Nothing of it is lost; look at “Backups”."
    )


def material_unknown(parts: str, tag: str) -> str:
    """What is said of parts whose material has no entry."""
    return (
        f"What the {parts} of {tag} is made of has no entry here: nothing but a dry cloth comes to it. Ask its maker "
        "or a repairer, then say it at “Made of”."
    )
