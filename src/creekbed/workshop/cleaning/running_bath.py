"""The bath that runs: how warm it is by now, how long it stays useful, what brings it back."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from creekbed.core.errors import Refused
from creekbed.core.hygiene.baths import temperature_after, time_constant_min, useful_minutes
from creekbed.workshop.shop.shop import Shop, one_change

SETTING, TAU = "bath", "tub_tau_min"


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
        """Minutes that it stays useful yet; infinite where it never cools so far, 0 or less when it is over."""
        return useful_minutes(self.start_c, self.lowest_c, self.room_c, self.tau_min) - self.minutes(now)


def running(shop: Shop) -> RunningBath | None:
    """The bath that runs."""
    value: dict[str, Any] = dict(shop.setting(SETTING) or {})
    if not value:
        return None
    for key in ("filled_at", "since"):
        value[key] = datetime.fromisoformat(value[key])
    return RunningBath(**value)


@one_change
def fill(shop: Shop, given: dict[str, float]) -> None:
    """A bath is filled and stands at its target now.

    Args:
        given: ``volume_l``, ``target_c``, ``hot_c``, ``cold_c``, ``room_c``, ``lowest_c``.
    """
    now = shop.now.isoformat()
    tau = float(shop.setting(TAU) or shop.catalogue.house.limits.tub_tau_min)
    bath = {**given, "filled_at": now, "since": now, "start_c": given["target_c"], "tau_min": tau}
    shop.set_setting(SETTING, bath, f"Bath filled: {given['volume_l']:g} l at {given['target_c']:g} °C")


def _now_running(shop: Shop) -> tuple[RunningBath, dict[str, Any]]:
    found = running(shop)
    if found is None:
        raise Refused("No bath runs.", todo="Say first that it is filled.")
    return found, dict(shop.setting(SETTING))


@one_change
def top_up(shop: Shop) -> None:
    """It stands at its target again.

    Raises:
        Refused: none runs.
    """
    found, value = _now_running(shop)
    again = {**value, "since": shop.now.isoformat(), "start_c": found.target_c}
    shop.set_setting(SETTING, again, f"Bath topped up to {found.target_c:g} °C")


@one_change
def read(shop: Shop, celsius: float) -> float:
    """A thermometer's reading tells how fast this tub cools; kept for the next bath too.

    Returns:
        The time constant, minutes.

    Raises:
        Refused: none runs. BadInput: a reading that tells nothing.
    """
    found, value = _now_running(shop)
    tau = round(time_constant_min(found.start_c, celsius, found.room_c, found.minutes(shop.now)), 2)
    shop.set_setting(TAU, tau, f"This tub cools with a time constant of {tau:.0f} min")
    shop.set_setting(SETTING, {**value, "tau_min": tau}, f"Bath read: {celsius:g} °C")
    return tau


def empty(shop: Shop) -> None:
    """It is gone."""
    shop.set_setting(SETTING, {}, "Bath emptied")
