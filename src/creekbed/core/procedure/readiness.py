"""What stands in the way of "ready", as codes; :mod:`creekbed.words.release` says it in words."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from creekbed.core.quick_dataclasses import dataclass

ConditionKey = Literal[
    "contents", "safety", "steps", "findings", "tests", "strings", "mouth", "bow", "rosin", "dry", "case", "free"
]  # fmt: skip
ProblemCode = Literal[
    "not_ticked", "missing", "unaccounted", "safety_missing", "steps_left", "check_not_done", "finding", "not_tested",
    "changed_since", "still_runs", "not_dry_by_weight", "still_wet", "blown", "touched", "not_clean", "tight", "rosin",
    "not_packed", "not_in_case", "stands", "specialist", "replace", "not_retuned", "drifts",
]  # fmt: skip


@dataclass(frozen=True)
class ReleaseProblem:
    """One thing in the way.

    Attributes:
        what: name of the piece, part, step, wait or check that it is about. more: verdict, trade, level, or what
            touched it, by the code. names: the parts, where there are several. count: of what is left, or a chance,
            per cent.
    """

    code: ProblemCode
    what: str = ""
    more: str = ""
    names: tuple[str, ...] = ()
    count: int = 0


@dataclass(frozen=True)
class ReleaseCondition:
    """One condition of "ready".

    Attributes:
        problems: empty where it holds. part, at: which part was disinfected, and when, for what touches a mouth.
    """

    key: ConditionKey
    problems: tuple[ReleaseProblem, ...] = ()
    part: str = ""
    at: datetime | None = None

    @property
    def holds(self) -> bool:
        """Whether nothing stands in the way."""
        return not self.problems
