"""What is said of a computer's clock that was set, and of a computer that was off."""

from __future__ import annotations

from datetime import timedelta

from creekbed.words.times import span


def clock_set(step: timedelta, *, rebooted: bool, waits: int) -> str:
    """What a person is told of a clock that was set.

    Args:
        step: by how much, forward if positive. rebooted: the computer was started anew meanwhile. waits: how many ran.
    """
    if rebooted:
        return (
            f"The computer's clock stands {_how_far(step)} before the last entry. Nothing is lost. "
            "Waits count only the time that is certain: look at each, and set the clock right."
        )
    more = " Waits go on by true time." if waits else ""
    return f"The computer's clock was set {_way(step)} by {_how_far(step)}.{more}"


def clock_set_entry(step: timedelta) -> str:
    """What the journal says of it."""
    return f"The computer's clock was set {_way(step)} by {_how_far(step)}; running waits were kept as they were"


def computer_off(off: timedelta) -> str:
    """What a person is told of a computer that was off, by its own clock, while a contact time ran."""
    return (
        f"The computer was off for {span(off.total_seconds() / 60)} by its own clock while a contact time ran. Nobody "
        "can prove that, so the contact time goes on from before. If you know better, end it with a reason."
    )


def computer_off_entry(off: timedelta) -> str:
    """What the journal says of it."""
    return f"The computer was off for {span(off.total_seconds() / 60)}; contact times do not count that"


def after_restart(waits: int) -> str:
    """What a person is told at the first look after the computer was started anew, while waits ran."""
    ran = f"{waits} waits ran" if waits != 1 else "a wait ran"
    return (
        f"The computer was started anew while {ran}. How long that took is known by its clock alone: see that the "
        "clock is right."
    )


def _how_far(step: timedelta) -> str:
    """How far a clock was set, either way."""
    minutes = round(abs(step.total_seconds()) / 60)
    return f"{minutes} min" if minutes else "less than a minute"


def _way(step: timedelta) -> str:
    return "back" if step < timedelta(0) else "forward"
