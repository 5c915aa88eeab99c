"""Every code of the release check has words, and every condition a name and what is good about it."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import get_args

import pytest

from creekbed.core.conventions import clock
from creekbed.core.procedure.readiness import ConditionKey, ProblemCode, ReleaseCondition, ReleaseProblem
from creekbed.words.release import GOOD, NAMES, condition_words, problem_words


@pytest.mark.parametrize("code", get_args(ProblemCode))
def test_every_code_has_words(code: ProblemCode) -> None:
    words = problem_words(ReleaseProblem(code, "the cap", "a cloth", ("bell", "bow", "neck", "body"), 4))
    assert words and "{" not in words and "None" not in words


def test_every_condition_has_a_name_and_what_is_good() -> None:
    assert set(NAMES) == set(GOOD) == set(get_args(ConditionKey))
    for key in get_args(ConditionKey):
        assert condition_words(ReleaseCondition(key)) == GOOD[key]


def test_several_problems_and_many_names() -> None:
    wet = ReleaseProblem("still_wet", names=("bell", "bow", "neck", "body", "cap"))
    assert problem_words(wet) == "still wet: bell, bow, neck and 2 more"
    both = ReleaseCondition("dry", (ReleaseProblem("still_runs", "Airing"), wet))
    assert condition_words(both) == "Airing still runs; still wet: bell, bow, neck and 2 more" and not both.holds


def test_when_it_was_disinfected_is_said() -> None:
    at = datetime(2026, 11, 19, 9, 0, tzinfo=UTC)
    found = condition_words(ReleaseCondition("mouth", part="Mouthpiece", at=at))
    assert found == f"Mouthpiece disinfected {clock(at)}, not blown since"
