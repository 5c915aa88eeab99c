"""Why the plan is as it is, what another plan changes, and what would help: in words."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import datetime, timedelta

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.conventions import clock
from creekbed.core.planning.conflict import Conflict, ConflictPart
from creekbed.core.planning.explanations import Hold, PlanComparison, TimeBreakdown
from creekbed.core.planning.model import DelayedStart
from creekbed.core.planning.remedies import Remedy, RemedyOption
from creekbed.words.phrases import FEW, listed
from creekbed.words.times import clock_words, span

SPENT = {
    "work": "{} of work on it",
    "wait": "{} of soaking, drying and settling",
    "hands": "{} the hands are with others",
    "hours": "{} nobody is there",
    "place": "{} a place is full",
    "release": "{} until it has come to room air or is back",
    "part": "{} until its part comes",
    "set": "{} until the time it was set to",
    "free": "{} left free",
}
"""Kind of :class:`TimeBreakdown` → words with a gap for the length of time."""


def place_name(catalogue: Catalogue, key: str) -> str:
    """What people call a place of the bench."""
    return next((p.name for p in catalogue.house.place if p.key == key), key)


def hold_words(catalogue: Catalogue, hold: Hold | None, back_at: datetime | None, parts: Collection[str]) -> str:
    """Why a stretch of work does not begin earlier, in a sentence; "" where nothing is known of it.

    Args:
        back_at: when the instrument is expected back, while it is away. parts: names of the parts that it waits for.
    """
    if hold is None:
        return ""
    others = listed(hold.by)
    if hold.kind == "release":
        return f"It is back {clock_words(back_at)} only." if back_at is not None else "It must come to room air first."
    if hold.kind == "part":
        return f"It waits for this: {', '.join(parts)}."
    if hold.kind == "hands":
        return f"Till then the hands are with {others or 'other work'}."
    if hold.kind == "place":
        name = place_name(catalogue, hold.place or "")
        return f"The {name} is full till then{f': {others}' if others else ''}."
    if hold.kind == "free":
        return f"The hands are free {span(hold.minutes)} sooner, if you like."
    return {
        "set": "It was set to this time.",
        "wait": "What comes before it, or its wait, is over only then.",
        "hours": "Nobody is there earlier for so long a piece.",
    }.get(hold.kind, "It can begin at once.")


def spare_words(spare_min: float, departure: str) -> str:
    """How a forecast stands to a departure: "40 min to spare for the Friday van."."""
    left = f"{span(spare_min)} to spare" if spare_min >= 0 else f"{span(-spare_min)} late"
    return f"{left} for the {departure}."


def shift_words(other: PlanComparison, most: int = FEW) -> str:
    """What another plan changes, the worst first.

    Args:
        most: how many late jobs are named.
    """
    late = [s for s in other.shifts if s.late_by > 0 and s.later > 0]
    later = [s for s in other.shifts if s.later > 0 and s not in late]
    sooner = [s for s in other.shifts if s.later < 0]
    parts = [f"{s.job} would be {span(s.late_by)} late" for s in late[:most]]
    if later:
        worst = max(s.later for s in later)
        count = f"{len(later)} others" if len(later) > 1 else later[0].job
        parts.append(f"{count} ready up to {span(worst)} later" if len(later) > 1 else f"{count} {span(worst)} later")
    if sooner:
        best = min(sooner, key=lambda s: s.later)
        parts.append(f"{best.job} {span(-best.later)} sooner")
    return (", ".join(parts) or "nothing would change") + "."


def delay_words(moved: DelayedStart, what: str, first: str) -> str:
    """Why something begins later than it was shown to.

    Args:
        what: name of the delayed work, or "". first: name of what comes before it, or "".
    """
    if moved.why == "hands":
        return f"{moved.job} goes to other hands: they are free sooner"
    late = "so that less is late"
    if moved.why == "departure" and moved.by is not None and moved.by[0] == moved.job and first and what:
        return f"{moved.job}: {first} before “{what}”, {late}"
    before = f"{moved.by[0]} comes first: {first}" if moved.by is not None and first else ""
    why = {
        "must_end": before or "a wait must be ended first",
        "departure": f"{before}, {late}" if before else late,
        "wait": "what comes before it is not over",
        "place": "its place is full",
        "hours": "nobody is there for it",
    }[moved.why]
    return f"{moved.job} begins {span(moved.later)} later, {why}"


def conflict_words(catalogue: Catalogue, found: Conflict, now: datetime, waits: Sequence[tuple[str, str, str]]) -> str:
    """What cannot all be kept, and what would mend it.

    Args:
        waits: (tag of the job, key of the wait, its name) of those that run.
    """
    limits = [p for p in found.parts if p.kind == "limit"]
    names = {(tag, key): name for tag, key, name in waits}
    told, mends = [], []
    for part in found.parts:
        what, mend = _part_words(catalogue, part, now, names.get((part.what, part.operation), part.operation))
        told.append(what)
        if part in found.mends and not (part.kind == "limit" and len(limits) > 1):
            mends.append(mend)
    if len(limits) > 1:
        mends.append(f"a second pair of hands, or end the wait first that bears least: {limits[0].what}")
    return f"Cannot all be kept: {'; '.join(told)}. What mends it: {'; or '.join(mends) or 'nothing alone'}."


def _part_words(catalogue: Catalogue, part: ConflictPart, now: datetime, wait: str) -> tuple[str, str]:
    if part.kind == "limit":
        at = (now + timedelta(minutes=part.minutes)).astimezone()
        return f"{part.what}, {wait.lower()}, ended by {clock(at)}", f"rinse {part.what} now, whatever else waits"
    if part.kind == "hours":
        return f"the hours of {part.what}", f"{part.what} stays, or is back sooner"
    if part.kind == "in_hand":
        return f"what {part.what} has in hand", f"{part.what} puts aside what is in hand"
    name = place_name(catalogue, part.what)
    return f"the room of the {name}", f"one more {name}"


def option_words(catalogue: Catalogue, option: RemedyOption) -> str:
    """One change that would help."""
    return {
        "first": "taken first",
        "break": f"{option.what} works through a break of {span(option.minutes)}",
        "hours": f"{option.what} stays {span(option.minutes)} longer",
        "room": f"with one more {place_name(catalogue, option.what)}",
        "later": f"{option.what} goes with a later departure",
        "skip": f"without “{option.what.lower()}”",
    }[option.kind]


def remedy_words(catalogue: Catalogue, remedy: Remedy) -> str:
    """A set of changes."""
    return ", ".join(option_words(catalogue, o) for o in remedy.options)


def remedy_cost_words(remedy: Remedy) -> str:
    """What a set of changes costs other jobs: " (another is ready 20 min later)", or ""."""
    others = [s for s in remedy.beside.shifts if s.later >= 1]
    return f" (another is ready {span(max(s.later for s in others))} later)" if others else ""


def breakdown_words(found: TimeBreakdown) -> str:
    """Where a job's time goes, in one sentence; what takes most comes first."""
    spent = sorted(found.spent.items(), key=lambda row: -row[1])
    parts = [SPENT[kind].format(span(minutes)) for kind, minutes in spent if minutes >= 1 and kind in SPENT]
    by = ", ".join(k for k, _ in found.by)
    return ", ".join(parts) + (f" ({by})" if by else "")


def done_first(shift: str) -> str:
    """What would come of doing it first; ``shift``: what would move, or "" where it cannot be."""
    return f"Done first: {shift}" if shift else "It cannot be done first."


def next_words(departure: str) -> str:
    """Which departure comes next, to stand after another sentence; "" where there is none."""
    return f" Next: {departure}." if departure else ""


def departure_over(following: str) -> str:
    """Why nothing helps a job whose departure has left; ``following``: the next one, or ""."""
    return f"its departure is over.{next_words(following)}"


def in_time(way: str) -> str:
    """With what a late job is in time."""
    return f"{way}, and it is in time."


def still_late(late_min: float, following: str, *, alone: bool) -> str:
    """Why nothing helps a late job.

    Args:
        late_min: how late it stays. following: the next departure, or "". alone: whether it is late even by itself.
    """
    if alone:
        return f"even at once and without breaks {span(late_min)} late.{next_words(following)}"
    return f"with all that was tried it stays {span(late_min)} late.{next_words(following)}"
