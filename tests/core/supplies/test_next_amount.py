"""What the next cleaning of a slide takes: against SciPy's prediction, and on amounts that obey other laws."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats

from creekbed.core.prediction import STUDENT_95
from creekbed.core.supplies.next_amount import LEAST_SPREAD, next_amount


def test_it_is_the_prediction_interval_of_published_tables() -> None:
    assert pytest.approx([stats.t.ppf(0.975, n) for n in range(2, 12)], abs=6e-4) == STUDENT_95
    amounts = [0.4, 0.6, 0.5, 0.9]
    found = next_amount(amounts)
    assert found is not None and found.low is not None and found.high is not None
    logs = np.log(amounts)
    wide = np.hypot(logs.std(ddof=1), LEAST_SPREAD) * np.sqrt(1 + 1 / 4)
    low, high = stats.t.interval(0.95, 3, logs.mean(), wide)
    assert (found.likely, found.low, found.high) == pytest.approx(
        (stats.gmean(amounts), *np.exp([low, high])), rel=1e-3
    )


def test_few_amounts_tell_no_range() -> None:
    assert next_amount([]) is None and next_amount([0.0]) is None
    assert next_amount([0.3, 0.5]) == next_amount([0.5])
    found = next_amount([0.5])
    assert found is not None and (found.likely, found.low) == (pytest.approx(0.5), None)


@pytest.mark.parametrize("law", ["gamma", "uniform", "two kinds of hands", "drops"])
def test_its_range_holds_on_other_laws(law: str) -> None:
    """95 % is meant; of 400 instruments chance leaves 0.92 and more (binomial, 3 deviations)."""
    rng = np.random.default_rng(5)
    draws = {
        "gamma": lambda n: 0.5 * rng.gamma(8, 1 / 8, n),
        "uniform": lambda n: rng.uniform(0.2, 0.7, n),
        "two kinds of hands": lambda n: rng.choice([0.3, 0.5], n) * np.exp(0.15 * rng.normal(size=n)),
        "drops": lambda n: 0.05 * (1 + rng.poisson(7, n)),
    }
    inside = []
    for _ in range(400):
        amounts = [float(x) for x in draws[law](int(rng.integers(4, 13)))]
        found = next_amount(amounts[:-1])
        assert found is not None and found.low is not None and found.high is not None
        inside.append(found.low <= amounts[-1] <= found.high)
    assert np.mean(inside) >= 0.92
