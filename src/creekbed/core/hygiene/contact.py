"""Contact time counted as wet time.

A disinfectant works only while the surface is visibly wet. The clock starts on wetting; if the surface
dried, it starts again from nothing at the next wetting; it may end only when the label's time has passed.
"""

from __future__ import annotations

from datetime import datetime, timedelta

from creekbed.core.quick_dataclasses import dataclass

LAST_CALL = timedelta(minutes=2)
"""How long before a longest time a last alarm is given: house default."""


@dataclass(frozen=True)
class Contact:
    """State of a contact time at one moment.

    Attributes:
        wet_for: unbroken wet time so far.
        remaining: what is missing to the label's time, never negative.
        may_end: the label's time has passed.
        latest: the moment by which it must be ended, or ``None``.
        over: how far the longest allowed time has been passed, zero if not.
    """

    wet_for: timedelta
    remaining: timedelta
    may_end: bool
    latest: datetime | None
    over: timedelta

    def presses(self, now: datetime) -> bool:
        """Whether its longest time is about to be passed: two minutes, or a tenth of it, are left, and it may end."""
        if self.latest is None or self.over or not self.may_end:
            return False
        return self.latest - now <= max(LAST_CALL, self.wet_for / 10)


def contact_at(
    now: datetime, wet_since: datetime | None, required: timedelta, longest: timedelta | None, laid_in: datetime
) -> Contact:
    """How a contact time stands at ``now``.

    Args:
        now: the moment asked about.
        wet_since: when the surface was last wetted after being dry; ``None`` while it is dry.
        required: unbroken wet time that the label asks for.
        longest: longest time in the agent that the material bears, counted from ``laid_in``; ``None``: no limit.
        laid_in: when the part first met the agent.
    """
    zero = timedelta(0)
    wet_for = max(now - wet_since, zero) if wet_since is not None else zero
    latest = laid_in + longest if longest is not None else None
    return Contact(
        wet_for=wet_for,
        remaining=max(required - wet_for, zero),
        may_end=wet_since is not None and wet_for >= required,
        latest=latest,
        over=max(now - latest, zero) if latest is not None else zero,
    )
