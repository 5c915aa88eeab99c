"""Supplies of the shelf in words."""

from __future__ import annotations

from creekbed.core.conventions import number


def minimum_words(a_year: float, unit: str, returns: float, lead_days: float, *, from_records: bool) -> str:
    """Why so much of a supply is kept on the shelf.

    Args:
        a_year: how much the fleet uses in a year, in ``unit``. returns: how often an instrument comes back a year.
        lead_days: until an order has come. from_records: whether the returns were counted, or are the house's guess.
    """
    how = "by the last year's jobs" if from_records else "a guess until there were more jobs"
    return (
        f"Your instruments use about {number(a_year, 0 if a_year >= 10 else 1)} {unit} a year "
        f"({number(returns, 1)} returns each, {how}); an order takes {number(lead_days, 0)} days."
    )
