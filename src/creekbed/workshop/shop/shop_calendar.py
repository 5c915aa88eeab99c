"""The shop's calendar as it is on record."""

from __future__ import annotations

from datetime import date

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.shop_calendar import DateRange, SeasonHours, ShopCalendar
from creekbed.store.reader import Reader
from creekbed.store.records import ClosedDays, Season


def calendar_of(records: Reader, catalogue: Catalogue) -> ShopCalendar:
    """When the bench is open: usual hours, seasons, days off. A row that cannot be read is left out."""
    week = {int(day): spans for day, spans in catalogue.house.hours.open.items()}
    seasons = tuple(SeasonHours(range_of(s), {int(d): h for d, h in s.hours.items()}) for s in records.readable(Season))
    return ShopCalendar(week, seasons, tuple(range_of(c) for c in records.readable(ClosedDays)))


def range_of(row: ClosedDays | Season) -> DateRange:
    """The days of a row."""
    return DateRange(date.fromisoformat(row.first_on), date.fromisoformat(row.last_on), row.yearly)
