"""A sample of quantities, files and command lines made at random; ``benchmarks.fuzz`` makes a hundred thousand."""

from __future__ import annotations

from benchmarks import fuzz


def test_quantities_are_read_or_refused() -> None:
    assert fuzz.quantities(1500, seed=3) == []


def test_command_lines_and_files_are_answered_or_refused_in_one_line() -> None:
    before = fuzz.STATUSES.copy()
    tried, wrong = fuzz.run(160, seed=4)
    assert wrong == [] and len(tried) > 15
    assert fuzz.STATUSES[0] - before[0] > 5 and fuzz.STATUSES[1] - before[1] > 40
