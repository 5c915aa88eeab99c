"""The last samples are those of one long array, whatever the blocks."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core.sound.last_samples import LastSamples


@given(st.integers(1, 40), st.lists(st.integers(0, 90), max_size=30))
def test_against_one_long_array(size: int, blocks: list[int]) -> None:
    held, whole = LastSamples(size), np.zeros(size)
    for n, count in enumerate(blocks):
        block = np.arange(count) + 1000.0 * (n + 1)
        held.push(block)
        whole = np.concatenate([whole, block])
        assert np.array_equal(held.last(size), whole[-size:])
        assert np.array_equal(held.last(1), whole[-1:])
    held.clear()
    assert not held.last(size).any()
