"""What a supply costs at a moment, from all the prices that it ever had."""

from __future__ import annotations

from datetime import timedelta

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from creekbed.store.records import Price
from creekbed.workshop.shop.shop import Shop
from tests.conftest import MORNING

PRICES = st.lists(
    st.tuples(st.sampled_from(["a", "b"]), st.integers(-3, 3), st.one_of(st.none(), st.integers(0, 9))), max_size=8
)


@given(PRICES)
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=40)
def test_the_newest_that_holds_counts(shop: Shop, rows: list[tuple[str, int, int | None]]) -> None:
    with shop.act("prices") as act:
        for known in act.records.all_of(Price):
            act.records.remove(known)
        for item, day, price in rows:
            at = MORNING + timedelta(days=day)
            act.records.add(Price(item=item, price=None if price is None else float(price), valid_from=at))
    expected: dict[str, float | None] = {}
    best: dict[str, tuple[int, int]] = {}
    for n, (item, day, price) in enumerate(rows):  # told apart by hand: later days first, then what was said later
        if day <= 0 and (day, n) >= best.get(item, (-99, -1)):
            best[item], expected[item] = (day, n), price
    with shop.reading() as records:
        found = records.stock.prices(MORNING)
    assert found == {item: price for item, price in expected.items() if price is not None}
