"""The amount at which a supply is ordered, against tables, SciPy and a world that draws its own jobs."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import poisson

from creekbed.core.supplies.minimum import YEAR_DAYS, Use, minimum, rounded


@pytest.mark.parametrize(("mean", "expected"), [(0.5, 2), (1.0, 3), (2.0, 5), (5.0, 9), (10.0, 15), (20.0, 28)])
def test_the_quantile_of_jobs_that_take_one_each(mean: float, expected: int) -> None:
    """Tables of the cumulative Poisson distribution (NIST/SEMATECH e-Handbook 1.3.6.6.19): least x with P >= 0.95."""
    assert minimum([Use(1.0, mean)], YEAR_DAYS) == expected


@given(st.floats(0.01, 2000), st.floats(0.5, 0.999))
def test_it_is_scipys_quantile(mean: float, share: float) -> None:
    found, expected = minimum([Use(1.0, mean)], YEAR_DAYS, share), poisson.ppf(share, mean)
    assert found == pytest.approx(expected, abs=0 if mean <= 500 else 2)


WORLDS = {
    "many small, few large": [(1.0, 60.0), (20.0, 3.0)],
    "three families": [(2.0, 12.0), (3.0, 20.0), (5.0, 6.0)],
    "one rare": [(10.0, 1.0)],
    "a bottle by ml": [(12.5, 80.0), (40.0, 15.0)],
    "busy": [(1.0, 900.0)],
}


@pytest.mark.parametrize("jobs_come", ["by chance", "by vans of five"])
@pytest.mark.parametrize("name", sorted(WORLDS))
def test_it_lasts_through_most_orders(name: str, jobs_come: str) -> None:
    """Jobs drawn one by one. By chance, as assumed, it lasts in 95 of a hundred waits; when vans bring five at once,
    which is not assumed, in fewer, but never in less than three of four."""
    uses, lead, chance = WORLDS[name], 21.0, np.random.default_rng(7)
    ordered_at = minimum([Use(a, n) for a, n in uses], lead)
    lasted = 0
    for _ in range(4000):
        taken = 0.0
        for amount, a_year in uses:
            mean = a_year * lead / YEAR_DAYS
            jobs = chance.poisson(mean) if jobs_come == "by chance" else 5 * chance.poisson(mean / 5)
            taken += amount * jobs
        lasted += taken <= ordered_at + 1e-9
    assert lasted / 4000 >= (0.93 if jobs_come == "by chance" else 0.75)


def test_nothing_used_needs_nothing_and_nonsense_is_refused() -> None:
    assert minimum([], 21) == 0 and minimum([Use(0, 5)], 21) == 0 and minimum([Use(1, 5)], 0) == 0
    for wrong in (([Use(-1, 5)], 21, 0.95), ([Use(1, 5)], -1, 0.95), ([Use(1, 5)], 21, 1.0)):
        with pytest.raises(ValueError, match="0 or more"):
            minimum(*wrong)


@given(st.floats(0, 1e5))
def test_people_order_round_amounts(amount: float) -> None:
    assert amount - 1e-6 <= rounded(amount) <= max(1.3 * amount, amount + 1)


@pytest.mark.parametrize(
    ("amount", "expected"), [(0, 0), (0.2, 1), (7, 7), (19.5, 20), (21, 25), (103, 110), (130, 130)]
)
def test_examples_of_round_amounts(amount: float, expected: float) -> None:
    assert rounded(amount) == expected
