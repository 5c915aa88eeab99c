"""The one clock. Waits must not stretch or shrink when somebody sets the computer's clock.

Linux's boot-time clock goes on through suspend and knows nothing of the wall clock. Together with the boot's id,
kept in the records, it tells a moved wall clock from time that really passed, even across a restart of the program.
"""

from __future__ import annotations

import hashlib
import platform
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Protocol

from creekbed.core.quick_dataclasses import dataclass

STEP_NOTICED = timedelta(seconds=20)


@dataclass(frozen=True)
class Tick:
    """One look at the time: wall clock in UTC, id of this boot, seconds since boot (suspend included)."""

    utc: datetime
    boot_id: str
    boot_seconds: float


class Clock(Protocol):
    """Tells the time; tests own theirs. ``machine``: which computer it belongs to."""

    @property
    def machine(self) -> str: ...

    def tick(self) -> Tick: ...

    def now(self) -> datetime: ...


class SystemClock:
    """The computer's clock, with a fixed offset for the demo shop's own day."""

    def __init__(self, offset: timedelta = timedelta(0)):
        self.offset = offset
        try:
            self._boot_id = Path("/proc/sys/kernel/random/boot_id").read_text().strip()
        except OSError:
            self._boot_id = ""
        self.machine = _machine()

    def tick(self) -> Tick:
        return Tick(self.now(), self._boot_id, time.clock_gettime(time.CLOCK_BOOTTIME))

    def now(self) -> datetime:
        return datetime.now(UTC) + self.offset


def _machine() -> str:
    """What tells this computer from others that work on the same records; its name where it has no id."""
    try:
        told = Path("/etc/machine-id").read_text().strip()
    except OSError:
        told = ""
    return hashlib.sha256((told or platform.node()).encode()).hexdigest()[:12]


class HandClock:
    """A clock moved by hand: for tests and for pictures. ``step`` moves the wall clock without time passing."""

    def __init__(self, start: datetime, machine: str = "hand"):
        self._utc = start
        self._boot = 1000.0
        self.boot_id = self.machine = machine

    def tick(self) -> Tick:
        return Tick(self._utc, self.boot_id, self._boot)

    def now(self) -> datetime:
        return self._utc

    def advance(self, **span: float) -> None:
        """Let time pass."""
        self._utc += timedelta(**span)
        self._boot += timedelta(**span).total_seconds()

    def step(self, **span: float) -> None:
        """Set the wall clock forward or back."""
        self._utc += timedelta(**span)

    def reboot(self) -> None:
        """Another boot: boot seconds start again."""
        self.boot_id += "'"
        self._boot = 5.0


def same_boot(before: Tick, after: Tick) -> bool:
    """Whether two looks were taken in one run of the computer, so that the time between them is known exactly."""
    return bool(before.boot_id) and before.boot_id == after.boot_id and after.boot_seconds >= before.boot_seconds


def carried(before: Tick, after: Tick) -> datetime:
    """The time of the later look by the earlier one's wall clock and the boot-time clock, UTC.

    Across a restart of the computer only its wall clock is known.
    """
    if not same_boot(before, after):
        return after.utc
    return before.utc + timedelta(seconds=after.boot_seconds - before.boot_seconds)


def moved_by(before: Tick, after: Tick) -> timedelta:
    """How far the wall clock was set between two looks; zero when it was not.

    Within one boot the answer is exact. Across boots a wall clock that went backwards has been set back by at
    least the difference; one that went forwards cannot be told from time that passed, and counts as passed.
    """
    if same_boot(before, after):
        step = after.utc - carried(before, after)
        return step if abs(step) >= STEP_NOTICED else timedelta(0)
    return after.utc - before.utc if after.utc < before.utc else timedelta(0)
