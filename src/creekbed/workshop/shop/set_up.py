"""What a new shop has not said yet, each with what is taken until then: work never waits for it."""

from __future__ import annotations

from dataclasses import dataclass

from creekbed.core.conventions import number, temperature
from creekbed.store.records import ClosedDays, Departure, DepartureKind, Instrument, Job, Lot, Person, Setting
from creekbed.workshop.shop.bench_capacity import DAYS, opening, own
from creekbed.workshop.shop.identity import identity
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.stored import FORMATS


@dataclass(frozen=True)
class SetUpItem:
    """One thing that the shop can say.

    Attributes:
        key: "people", "leaving", "hours", "closed", "identity", "formats", "instruments" or "stock". name: what it is.
        now: what holds until it is said, in words.
    """

    key: str
    name: str
    now: str


@dataclass(frozen=True)
class SetUp:
    """How far a shop has been set up.

    Attributes:
        unsaid: what is still to say, the most useful first. worked: whether any instrument was ever booked in.
    """

    unsaid: tuple[SetUpItem, ...]
    worked: bool

    def lacks(self, key: str) -> bool:
        """Whether something is still to say."""
        return any(item.key == key for item in self.unsaid)


def set_up(shop: Shop) -> SetUp:
    """What is still to say."""
    with shop.reading() as records:
        formats_said = records.get(Setting, FORMATS) is not None
        there = {kind: records.first_of(kind) is not None for kind in _KINDS}
    days = own(shop)
    said = {
        "people": there[Person],
        "leaving": there[DepartureKind] or there[Departure],
        "hours": any(words.split(" ")[0] in DAYS for words in days),
        "closed": there[ClosedDays],
        "identity": bool(identity(shop).name),
        "formats": formats_said,
        "instruments": there[Instrument],
        "stock": there[Lot],
    }
    items = (
        SetUpItem("people", "Who works here", f"what is done is noted as {shop.person}'s"),
        SetUpItem("leaving", "How instruments leave", "each job has a due time of its own"),
        SetUpItem("hours", "When the bench is open", _hours(opening(shop))),
        SetUpItem("closed", "Days off", "none are known"),
        SetUpItem("identity", "Name, address and paper", "papers have no head, on A4"),
        SetUpItem("formats", "Clock, money and units", _formats(shop)),
        SetUpItem("instruments", "Your instruments", "each is made when it is booked in"),
        SetUpItem("stock", "What is on the shelf", "nothing is counted yet"),
    )
    return SetUp(tuple(item for item in items if not said[item.key]), there[Job])


_KINDS = (Person, DepartureKind, Departure, ClosedDays, Instrument, Lot, Job)


def _formats(shop: Shop) -> str:
    """What is written so until somebody says otherwise."""
    limits = shop.catalogue.house.limits
    return f"24 h, metric, no currency, A4 = {number(limits.a4_hz)} Hz, room {temperature(limits.room_c)}"


def _hours(week: tuple[str, ...]) -> str:
    """The hours of a week, days alike together: "Mon to Fri 08:30-12:00, 13:00-17:00"."""
    parts: list[tuple[str, int, int]] = []
    for day, words in enumerate(week):
        if parts and parts[-1][0] == words:
            parts[-1] = (words, parts[-1][1], day)
        else:
            parts.append((words, day, day))
    said = [f"{DAYS[a][:3]}{f' to {DAYS[b][:3]}' if b > a else ''} {words}" for words, a, b in parts if words != "shut"]
    return "; ".join(said)
