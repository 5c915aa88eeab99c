"""The running bath: its temperature now, how long it stays useful, what heats it up again."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from creekbed.core.conventions import litres, number, temperature
from creekbed.core.errors import Refused
from creekbed.core.hygiene.baths import temperature_after, time_constant_min, useful_minutes
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.reader import Reader
from creekbed.store.records import Bath, HouseValue
from creekbed.workshop.shop.shop import Act, Shop

TAU = "tub_tau_min"
"""House value: how fast this tub cools, its time constant in minutes."""


@dataclass(frozen=True)
class RunningBath:
    """A bath as it was filled, or topped up last; temperatures in °C.

    Attributes:
        since: when it stood at ``start_c``. target_c: what it is brought back to. tau_min: how fast it cools.
    """

    volume_l: float
    target_c: float
    hot_c: float
    cold_c: float
    room_c: float
    lowest_c: float
    start_c: float
    tau_min: float
    filled_at: datetime
    since: datetime

    def minutes(self, now: datetime) -> float:
        """Since it stood at its start."""
        return max((now - self.since).total_seconds() / 60, 0.0)

    def celsius(self, now: datetime) -> float:
        """How warm it is by now, by Newton's law."""
        return temperature_after(self.start_c, self.room_c, self.tau_min, self.minutes(now))

    def left_min(self, now: datetime) -> float:
        """Minutes until it is too cool to be useful; infinite where it never cools that far, 0 or less when it has."""
        return useful_minutes(self.start_c, self.lowest_c, self.room_c, self.tau_min) - self.minutes(now)


def running(shop: Shop) -> RunningBath | None:
    """The bath that runs."""
    with shop.reading() as records:
        row = _row(records)
    return None if row is None else _bath(row)


def tau_min(shop: Shop) -> float | None:
    """The time constant that was measured of this tub, minutes, or ``None``."""
    with shop.reading() as records:
        row = records.get(HouseValue, TAU)
    return None if row is None else row.value


def _row(records: Reader) -> Bath | None:
    return next(iter(records.readable(Bath, emptied_at=None)), None)


def _bath(row: Bath) -> RunningBath:
    return RunningBath(
        row.volume_l, row.target_c, row.hot_c, row.cold_c, row.room_c, row.lowest_c, row.start_c, row.tau_min,
        row.filled_at, row.since,
    )  # fmt: skip


def fill(shop: Shop, given: Mapping[str, float]) -> None:
    """A bath is filled and stands at its target now; one that ran before is emptied.

    Args:
        given: ``volume_l``, ``target_c``, ``hot_c``, ``cold_c``, ``room_c``, ``lowest_c``.
    """
    with shop.act("bath") as act:
        _empty(act)
        measured = act.records.get(HouseValue, TAU)
        tau = measured.value if measured is not None else shop.catalogue.house.limits.tub_tau_min
        act.records.add(Bath(
            volume_l=given["volume_l"], target_c=given["target_c"], hot_c=given["hot_c"], cold_c=given["cold_c"],
            room_c=given["room_c"], lowest_c=given["lowest_c"], start_c=given["target_c"], tau_min=tau,
            filled_at=act.now, since=act.now, machine=shop.clock.machine,
        ))  # fmt: skip
        act.words = f"Bath filled: {litres(given['volume_l'])} at {temperature(given['target_c'])}"


def _need_running(act: Act) -> Bath:
    row = _row(act.records)
    if row is None:
        raise Refused("No bath runs.", todo="Say first that it is filled.")
    return row


def top_up(shop: Shop) -> None:
    """The bath is at its target temperature again.

    Raises:
        Refused: none runs.
    """
    with shop.act("bath") as act:
        row = _need_running(act)
        act.records.update(row, since=act.now, start_c=row.target_c, machine=shop.clock.machine)
        act.words = f"Bath topped up to {temperature(row.target_c)}"


def read(shop: Shop, celsius: float) -> float:
    """A thermometer's reading tells how fast this tub cools; kept for the next bath too.

    Returns:
        The time constant, minutes.

    Raises:
        Refused: none runs. BadInput: a reading that tells nothing.
    """
    with shop.act("bath") as act:
        row = _need_running(act)
        tau = round(time_constant_min(row.start_c, celsius, row.room_c, _bath(row).minutes(act.now)), 2)
        act.records.put(HouseValue(key=TAU, value=tau, at=act.now))
        act.records.update(row, tau_min=tau)
        act.words = f"Bath read: {temperature(celsius)}; this tub cools with a time constant of {number(tau, 0)} min"
    return tau


def empty(shop: Shop) -> None:
    """Empty the bath."""
    with shop.act("bath") as act:
        _empty(act)
        act.words = "Bath emptied"


def _empty(act: Act) -> None:
    for row in act.records.all_of(Bath, emptied_at=None):
        act.records.update(row, emptied_at=act.now)
