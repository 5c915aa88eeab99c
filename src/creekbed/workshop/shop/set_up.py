"""What a new shop has not said yet, each with what is taken until then: work never waits for it."""

from __future__ import annotations

from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.records import ClosedDays, Departure, DepartureKind, Instrument, Job, Lot, Person, Setting
from creekbed.words.calendar import DAYS, week_words
from creekbed.words.set_up import NAMES, until_said
from creekbed.workshop.shop.bench_capacity import opening, own
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
    limits = shop.catalogue.house.limits
    until = until_said(shop.person, week_words(opening(shop)), limits.a4_hz, limits.room_c)
    items = [SetUpItem(key, name, until[key]) for key, name in NAMES.items()]
    return SetUp(tuple(item for item in items if not said[item.key]), there[Job])


_KINDS = (Person, DepartureKind, Departure, ClosedDays, Instrument, Lot, Job)
