"""The conditions of "ready" in words: their names, why each does not hold, what is good about it."""

from __future__ import annotations

from creekbed.core.conventions import clock
from creekbed.core.procedure.readiness import ConditionKey, ReleaseCondition, ReleaseProblem
from creekbed.words.phrases import listed

NAMES: dict[ConditionKey, str] = {
    "contents": "Contents complete", "safety": "No safety part missing", "steps": "Every step done",
    "findings": "All findings closed or accepted", "tests": "Tests passed after the last change",
    "strings": "New strings hold for a day", "mouth": "Clean since the last breath", "bow": "Bow loosened",
    "rosin": "Rosin wiped off",
    "dry": "Wet parts dry",
    "case": "Case closes, nothing presses", "free": "Free to go",
}  # fmt: skip
GOOD: dict[ConditionKey, str] = {
    "contents": "every piece is there, replaced or waived", "safety": "all are there",
    "steps": "done, or skipped with a reason", "findings": "nothing is open", "tests": "passed",
    "strings": "by the forecast, or accepted", "mouth": "not blown since",
    "bow": "its hair is slack", "rosin": "no bow was drawn since", "dry": "nothing is wet",
    "case": "closes without force",
    "free": "no quarantine, not away",
}  # fmt: skip


def condition_words(condition: ReleaseCondition) -> str:
    """Why a condition does not hold, or what is good about it."""
    if condition.problems:
        return "; ".join(problem_words(p) for p in condition.problems)
    good = GOOD[condition.key]
    return f"{condition.part} disinfected {clock(condition.at)}, {good}" if condition.at is not None else good


def problem_words(problem: ReleaseProblem) -> str:
    """One thing in the way."""
    what, more = problem.what, problem.more
    said = {
        "not_ticked": f"{what} not ticked",
        "missing": f"{what} missing",
        "unaccounted": f"{problem.count} pieces not accounted for",
        "safety_missing": f"{what} missing: cannot be released. Replace it, or waive it with a reason",
        "steps_left": f"{problem.count} to do, next: {what}",
        "check_not_done": f"{what} not done",
        "finding": f"{what}: {more}",
        "not_tested": "not tested yet",
        "changed_since": "something was changed after the test",
        "still_runs": f"{what} still runs",
        "not_dry_by_weight": f"{what}: by weight not dry yet",
        "still_wet": f"still wet: {listed(problem.names)}",
        "blown": f"{what}: blown since it was cleaned",
        "touched": f"{what}: touched by {more}",
        "not_clean": f"{what}: {more}, not disinfected",
        "tight": "still tightened: loosen it",
        "rosin": f"a bow was drawn over it since it was wiped: {listed(problem.names)}",
        "not_packed": "not packed yet",
        "not_in_case": f"{what} is not in the case",
        "stands": what,
        "specialist": f"{what}: {more}",
        "replace": f"{what}: replace",
        "not_retuned": "not retuned yet",
        "drifts": f"{what} cents flat in the first day: the chance that it holds is {problem.count} %. "
        "Let it hang and retune it once more, or accept it",
    }
    return said[problem.code]
