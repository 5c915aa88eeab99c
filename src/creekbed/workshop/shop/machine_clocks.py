"""How far the clocks of machines that work on one shop stand apart, by what they have written one after another.

A machine that finds what another wrote a moment ago, by the other's clock, knows how far its own clock can be ahead: by
no more than lies between the two times. The other knows the same the other way round, so together they know the least
and the most. No machine's clock is set by this; only contact times that another machine began are judged by it.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from creekbed.store.records import ClockAnchor, Wait

UNPROVEN_S = 120.0
"""How far apart two clocks may be of which nothing is known, seconds: house default."""


@dataclass
class MachineClocks:
    """What this machine knows of the others' clocks.

    Attributes:
        own: this machine. at_most: machine → how far this clock can be ahead of it, seconds; less than 0: it is behind.
        at_least: machine → how far this clock is ahead of it for certain, seconds.
    """

    own: str = ""
    at_most: dict[str, float] = field(default_factory=dict)
    at_least: dict[str, float] = field(default_factory=dict)

    def compare(self, now: datetime, anchors: Iterable[ClockAnchor]) -> None:
        """Take in what the machines wrote last of their clocks.

        Args:
            now: by this machine's clock, after they were read.
        """
        for row in anchors:
            if row.machine == self.own:
                continue
            found = (now - row.utc).total_seconds()
            self.at_most[row.machine] = min(self.at_most.get(row.machine, math.inf), found)
            if self.own in row.at_most:
                self.at_least[row.machine] = -float(row.at_most[self.own])

    def forget(self) -> None:
        """A clock was set, or the computer started anew: nothing is known."""
        self.at_most, self.at_least = {}, {}

    def ahead(self, machine: str) -> timedelta:
        """How far this clock may be ahead of another's, less than 0 where it is behind for certain.

        By so much later a contact time that the other began counts here.
        """
        if not self.own or machine in ("", self.own):
            return timedelta(0)
        most = self.at_most.get(machine, math.inf)
        return timedelta(seconds=min(most, max(self.at_least.get(machine, 0.0), 0.0) + UNPROVEN_S))

    def behind(self, machine: str) -> timedelta:
        """How far this clock is behind another's for certain; a longest time ends here that much sooner."""
        return max(timedelta(0), -self.ahead(machine))

    def certain(self, wait: Wait) -> tuple[datetime | None, datetime]:
        """From when a wait counts here: since when it is wet for certain, and when it was laid in at the latest."""
        wet = wait.wet_since + self.ahead(wait.machine) if wait.wet_since is not None else None
        return wet, wait.started_at - self.behind(wait.machine)


ONE_CLOCK = MachineClocks()
"""Clocks of a shop with one machine: every wait began by the same clock."""
