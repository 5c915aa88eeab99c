"""How long strings last, learned from findings: against lives of other laws, and against SciPy's Weibull."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy import stats

from creekbed.core.errors import BadInput
from creekbed.core.strings.life import SHAPE, Life, life_of


def test_without_findings_it_is_what_the_house_says() -> None:
    life = life_of([], [], 270.0)
    assert life.median_days == pytest.approx(270.0) and (life.worn, life.fine) == (0, 0)
    assert life.low_days < 200 and life.high_days > 400  # and is not sure of it


def test_many_strings_outweigh_the_house() -> None:
    """2,000 lives drawn by SciPy from a Weibull law of the same shape: its median is found to 3 %."""
    lives = stats.weibull_min(SHAPE, scale=400.0).rvs(2000, random_state=np.random.default_rng(3))
    found = life_of(list(lives), [], 120.0)
    assert found.median_days == pytest.approx(400.0 * math.log(2) ** (1 / SHAPE), rel=0.03)
    assert found.low_days < found.median_days < found.high_days < 1.1 * found.median_days


def test_strings_that_are_good_count_too() -> None:
    """A third is worn at 200 days, the rest good at 300: the median lies beyond what the worn alone would say."""
    alone, all_ = life_of([200.0] * 10, [], 270.0), life_of([200.0] * 10, [300.0] * 20, 270.0)
    assert all_.median_days > 1.4 * alone.median_days


@pytest.mark.parametrize(
    "law",
    [
        stats.weibull_min(1.5, scale=350.0),
        stats.weibull_min(3.0, scale=350.0),
        stats.lognorm(0.45, scale=300.0),
        stats.gamma(4.0, scale=90.0),
    ],
    ids=["more by chance", "more by wear", "log-normal", "gamma"],
)
def test_the_interval_holds_where_strings_wear_by_another_law(law: stats.rv_continuous) -> None:
    """Shops with 15 strings each, looked at after hires of some 90 to 200 days: the truth lies within in most of them.

    The truth is when half would have been found worn, by 20,000 strings of the same law and hires.
    """
    rng = np.random.default_rng(8)

    def found(count: int) -> tuple[np.ndarray, np.ndarray]:
        lives, days = law.rvs(count, random_state=rng), np.zeros(count)
        worn = np.zeros(count, dtype=bool)
        while (open_ := ~worn & (days < 700)).any():
            days[open_] += rng.uniform(90, 200, int(open_.sum()))
            worn = worn | (open_ & (lives <= days))
        return days, worn

    every, worn = found(20_000)
    truth = float(np.median(every[worn]))
    hits = 0
    for _ in range(150):
        days, gone = found(15)
        life = life_of(list(days[gone]), list(days[~gone]), 270.0)
        hits += life.low_days <= truth <= life.high_days
    assert hits >= 0.9 * 150, hits


def test_the_chance_in_the_next_hire() -> None:
    """SciPy's Weibull law, given that it is good so far."""
    life = Life(300.0, 200.0, 400.0, 5, 5)
    law = stats.weibull_min(SHAPE, scale=300.0 / math.log(2) ** (1 / SHAPE))
    wanted = (law.cdf(391.0) - law.cdf(300.0)) / law.sf(300.0)
    assert life.chance_worn(300.0, 91.0) == pytest.approx(wanted) and life.chance_worn(0.0, 300.0) == pytest.approx(0.5)


def test_days_that_cannot_be() -> None:
    for worn, house in (([-1.0], 270.0), ([math.nan], 270.0), ([10.0], 0.0)):
        with pytest.raises(BadInput):
            life_of(worn, [], house)
