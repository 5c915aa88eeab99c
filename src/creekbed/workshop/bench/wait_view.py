"""A wait at one moment."""

from __future__ import annotations

from datetime import datetime, timedelta

from creekbed.core.hygiene.contact import Contact, contact_at
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records import (
    Job,
    Wait,
)
from creekbed.workshop.shop.machine_clocks import ONE_CLOCK, MachineClocks


@dataclass(frozen=True)
class WaitView:
    """A wait at one moment.

    Attributes:
        id: number of its record; ``None`` for a shut case, whose time is on record with the job.
    """

    id: int | None
    job_id: int
    tag: str
    key: str
    name: str
    place: str
    at_end: str
    wet: bool
    started_at: datetime
    wet_since: datetime | None
    required: timedelta
    contact: Contact
    restarts: int
    detail: str
    damp: bool = False
    """Its weighings say that water is left."""

    def at(self, now: datetime) -> Contact:
        """How the wait stands at another moment, without asking the records again."""
        latest = self.contact.latest
        longest = None if latest is None else latest - self.started_at
        return contact_at(now, self.wet_since, self.required, longest, self.started_at)

    @property
    def of(self) -> tuple[int, str]:
        """Whose wait it is, and which: tells it from all others that run."""
        return self.job_id, self.key

    @property
    def is_shut_case(self) -> bool:
        """Whether it is a case that comes to room air."""
        return self.id is None

    @property
    def dry(self) -> bool:
        """A contact time that has stopped because the surface dried."""
        return self.wet and self.wet_since is None

    def share_left(self, state: Contact) -> float:
        """Share of the required time still to run, 0 to 1."""
        return min(1.0, state.remaining / self.required) if self.required else 0.0


def wait_view(
    wait: Wait, tag: str, now: datetime, damp: bool = False, clocks: MachineClocks = ONE_CLOCK
) -> WaitView:  # fmt: skip
    """A stored wait at ``now``; a contact time that another machine began counts from when it ran for certain."""
    required = timedelta(minutes=wait.min_minutes)
    longest = None if wait.max_minutes is None else timedelta(minutes=wait.max_minutes)
    wet_since, laid_in = clocks.certain(wait) if wait.wet else (wait.started_at, wait.started_at)
    return WaitView(
        wait.id, wait.job_id, tag, wait.key, wait.name, wait.place, wait.at_end, wait.wet, laid_in, wet_since,
        required, contact_at(now, wet_since, required, longest, laid_in), wait.restarts, wait.detail,
        damp,
    )  # fmt: skip


ACCLIMATISING = "acclimatise"


def shut_case(job: Job, now: datetime) -> WaitView | None:
    """The wait of a closed case that comes from heat or cold, while it runs."""
    if job.release_at is None or job.release_at <= now:
        return None
    required = job.release_at - job.opened_at
    return WaitView(
        None, job.id, job.tag, ACCLIMATISING, "Shut case, coming to room", "shelf", "Open the case", False,
        job.opened_at, job.opened_at, required, contact_at(now, job.opened_at, required, None, job.opened_at), 0, "",
    )  # fmt: skip
