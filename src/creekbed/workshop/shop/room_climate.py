"""The storage room's air over weeks: readings from its devices or a file, and what they say."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from creekbed.core.conventions import temperature
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.devices.record import read_rows
from creekbed.store.reader import Reader
from creekbed.store.records import AirReading
from creekbed.store.unit_of_work import Change
from creekbed.workshop.shop.shop import Shop

if TYPE_CHECKING:  # it needs numpy: the window opens without
    from creekbed.core.climate.storage import Storage

HOURLY = timedelta(hours=1)
"""How often the devices are asked by themselves: house default."""
LARGEST_FILE = 5_000_000
SHOWN_DAYS = 28


@dataclass(frozen=True)
class AirLog:
    """Readings of the last weeks, the oldest first, and what they say; ``found`` is ``None`` before two readings."""

    at: tuple[datetime, ...]
    celsius: tuple[float, ...]
    humidity: tuple[float, ...]
    found: Storage | None


def _need_air(celsius: float, humidity: float) -> None:
    if not -10 <= celsius <= 60 or not 0 <= humidity <= 1:
        raise BadInput(
            f"{temperature(celsius)} and {humidity:.0%} are of no room.", todo="Look at thermometer and hygrometer."
        )


def log_air(shop: Shop, celsius: float, humidity: float, source: str = "typed") -> None:
    """Note the room's air now; a second reading of one minute takes the place of the first.

    Args:
        celsius: −10 to 60 °C. humidity: 0 to 1. source: "typed", "devices" or a file's name.

    Raises:
        BadInput: of no room.
    """
    _need_air(celsius, humidity)
    with shop.act("air", undoable=False) as act:
        at = act.now.replace(second=0, microsecond=0)
        _put(act.records, at, celsius, humidity, source)
        act.words = f"Storage room: {temperature(celsius, 1)}, {humidity:.0%}"


def _put(change: Change, at: datetime, celsius: float, humidity: float, source: str) -> None:
    row = change.first_of(AirReading, at=at)
    if row is None:
        change.add(AirReading(at=at, celsius=celsius, humidity=humidity, source=source[:40]))
    else:
        change.update(row, celsius=celsius, humidity=humidity, source=source[:40])


def import_air(shop: Shop, path: Path) -> int:
    """Take a logger's CSV file in: columns ``time`` (ISO 8601), ``celsius`` and ``humidity_pct``; all or nothing.

    Returns:
        How many readings are new.

    Raises:
        BadInput: not such a file, too large, or a line that is no reading.
    """
    rows = read_air(path)
    with shop.act("air.file", undoable=False) as act:
        known = act.records.stock.air_times()
        fresh = {at: (c, h) for at, c, h in rows if at not in known}
        act.records.add_all(
            AirReading(at=at, celsius=c, humidity=h, source=path.name[:40]) for at, (c, h) in fresh.items()
        )
        act.words = f"Storage room: {len(fresh)} readings from {path.name[:40]}"
    return len(fresh)


def read_air(path: Path) -> list[tuple[datetime, float, float]]:
    """Time in UTC, °C and humidity (0 to 1) of a logger's CSV file; a time without a zone is local.

    Raises:
        BadInput: as :func:`import_air`.
    """

    def reading(text: str, c: str, h: str) -> tuple[datetime, float, float]:
        at = datetime.fromisoformat(text.strip()).astimezone(UTC).replace(second=0, microsecond=0)
        _need_air(float(c), float(h) / 100)
        return at, float(c), float(h) / 100

    return read_rows(path, ("time", "celsius", "humidity_pct"), reading, largest=LARGEST_FILE)


def air_log(shop: Shop, days: float = SHOWN_DAYS) -> AirLog:
    """The log of the last days."""
    from creekbed.core.climate.storage import storage

    with shop.reading() as records:
        rows = records.stock.air_since(shop.now - timedelta(days=days))
    at = tuple(r.at for r in rows)
    celsius, humidity = tuple(r.celsius for r in rows), tuple(r.humidity for r in rows)
    found = None
    if len(rows) > 1:
        found = storage([(t - at[0]).total_seconds() / 3600 for t in at], celsius, humidity)
    return AirLog(at, celsius, humidity, found)


def last_air(shop: Shop) -> datetime | None:
    """When the room's air was last noted."""
    with shop.reading() as records:
        row = records.stock.last_air()
    return row.at if row is not None else None


def air_now(shop: Shop) -> tuple[float, float] | None:
    """As :func:`air_in`, now."""
    with shop.reading() as records:
        return air_in(records, shop.now)


def air_in(records: Reader, now: datetime) -> tuple[float, float] | None:
    """The last reading of the room's air, °C and 0 to 1, if it is not older than half a day."""
    row = records.stock.last_air()
    if row is None or now - row.at > timedelta(hours=12):
        return None
    return row.celsius, row.humidity
