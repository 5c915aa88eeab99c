"""The draft of a bill in words."""

from __future__ import annotations

from collections.abc import Sequence

from creekbed.core.conventions import money


def missing_words(name: str, replaced: bool) -> str:
    """A part that did not come back."""
    return f"{name}: missing{', replaced from stock' if replaced else ''}"


def bill_words(lines: Sequence[tuple[str, float | None]]) -> str:
    """The draft in one line: its items, the sum so far, what still needs a price; "" where nothing is due.

    Args:
        lines: what, and its price; ``None`` where the shop has to put one.
    """
    if not lines:
        return ""
    priced = [price for _, price in lines if price is not None]
    unpriced = len(lines) - len(priced)
    more = f", and {unpriced} without a price yet." if unpriced else "."
    total = f" Together {money(sum(priced))}{more}" if priced else ""
    said = "; ".join(what if price is None else f"{what}, {money(price)}" for what, price in lines)
    return f"For the bill: {said}. Fair wear is left out.{total}"
