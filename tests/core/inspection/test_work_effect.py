"""What work changed, and what it will leave: against SciPy's prediction, and on readings of other laws."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats

from creekbed.core.errors import BadInput
from creekbed.core.inspection.work_effect import change, likely_left
from creekbed.core.measure import Reading
from creekbed.core.prediction import Prediction


def reading(value: float, u: float = 0.03) -> Reading:
    return Reading(value, u, "dimensionless", "from a pull")


def test_a_change_is_told_from_chance() -> None:
    found = change(reading(0.71), reading(0.25))
    assert found.by.value == pytest.approx(-0.46) and found.by.u == pytest.approx(0.03 * 2**0.5) and found.told
    assert not change(reading(0.30), reading(0.25)).told
    with pytest.raises(BadInput, match="units"):
        change(reading(0.3), Reading(0.3, 0.1, "millimeter", "typed"))


def test_little_is_said_of_few_readings() -> None:
    assert likely_left([]) is None
    assert likely_left([reading(0.2), reading(0.3)]) == Prediction(0.3)


def test_the_range_is_the_prediction_interval_of_published_tables() -> None:
    values = [0.2, 0.35, 0.28, 0.3, 0.22]
    found = likely_left([reading(v, 0.01) for v in values])
    assert found is not None
    wide = np.std(values, ddof=1) * np.sqrt(1 + 1 / 5)
    low, high = stats.t.interval(0.95, 4, np.mean(values), wide)
    assert (found.likely, found.low, found.high) == pytest.approx((np.mean(values), low, high), abs=1e-4)
    alike = likely_left([reading(0.25)] * 3)
    assert alike is not None and alike.high == pytest.approx(0.25 + 4.303 * 0.03 * (4 / 3) ** 0.5)


@pytest.mark.parametrize("law", ["gamma", "two hands", "hinge", "wear"])
def test_its_range_holds_on_other_laws(law: str) -> None:
    """95 % is meant; of 400 slides chance leaves 0.92 and more (binomial, 3 deviations)."""
    rng = np.random.default_rng(8)
    draws = {
        "gamma": lambda n: 0.25 * rng.gamma(20, 1 / 20, n),
        "two hands": lambda n: rng.choice([0.2, 0.3], n),
        "hinge": lambda n: np.maximum(0.2, rng.normal(0.22, 0.05, n)),
        "wear": lambda n: 0.2 + 0.01 * np.arange(n) * rng.uniform(0, 1),
    }
    inside = []
    for _ in range(400):
        n = int(rng.integers(4, 13))
        truth = draws[law](n) + rng.normal(0, 0.03, n)  # what is read, the next one too
        found = likely_left([reading(float(v)) for v in truth[:-1]])
        assert found is not None and found.low is not None and found.high is not None
        inside.append(found.low <= truth[-1] <= found.high)
    assert np.mean(inside) >= 0.92
