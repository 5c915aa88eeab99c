"""A plan's reasons in words."""

from __future__ import annotations

from creekbed.core.planning.model import Reason, Weights
from creekbed.words.times import span


def why_words(reason: Reason | None, departure: str = "", spare_min: float | None = None) -> str:
    """Why this now, in one short sentence.

    Args:
        reason: the plan's reason. departure: name of the departure that the job is for, or "".
        spare_min: minutes between the job's forecast and its departure; taken before the reason's own slack, which
            knows nothing of breaks and other jobs.
    """
    if reason is None:
        return "Nothing waits for hands."
    slack = reason.slack if spare_min is None else spare_min
    spare = f"{span(slack)} to spare before the {departure or 'due time'}." if slack is not None and slack >= 0 else ""
    if reason.kind == "must_end" and reason.minutes is not None:
        if reason.minutes < 0:
            return f"It should have ended {span(-reason.minutes)} ago."
        return f"Its wait is over; it must be ended within {span(reason.minutes)}."
    if reason.kind == "too_late" and reason.minutes is not None:
        return f"It must be ended within {span(reason.minutes)}, and no hands are there for it then: ask somebody."
    if reason.kind == "fixed":
        return f"You set it so. {spare}".strip()
    if slack is not None and slack < 0 and reason.kind != "in_hand":
        return f"It is {span(-slack)} late for the {departure or 'due time'}."
    if reason.kind == "frees":
        return f"Its wait is over, and ending it frees the place. {spare}".strip()
    if reason.kind == "starts_wait" and reason.minutes is not None:
        return f"It starts a wait of {span(reason.minutes)} that runs while you do other things."
    if reason.kind == "least_slack":
        return f"The least time to spare of all: {spare}"
    if reason.kind == "short_way" and reason.minutes is not None:
        return f"Only {span(reason.minutes)} of work are left on it. {spare}".strip()
    if reason.kind == "in_hand":
        return "It is in your hands."
    return f"It is the only thing that can go on now. {spare}".strip()


def gap_words(cost: float, bound: float, jobs: int, late: float, weights: Weights, late_bound: float = 0.0) -> str:
    """How much better a plan could at most be, in words, from what is proven.

    Args:
        cost: of the plan. bound: no plan costs less. jobs: how many finish. late: weighted minutes late in it.
        weights: what it was judged by. late_bound: no plan is less late.
    """
    gap = cost - bound
    if gap < 0.5:
        return "Nothing better is possible: that is proven."
    if late >= 1:
        if late - late_bound < 1:
            return "With these hands it cannot be less late: that is proven."
        return f"At most {span(late - late_bound)} less late, in all, is possible."
    sooner = max(gap - weights.late * max(late - late_bound, 0.0), 0.0) / (jobs * weights.completion + weights.finish)
    if sooner < 0.5:
        return "Nothing better by a minute is possible: that is proven."
    return f"At most {span(sooner)} earlier for each instrument, on average, is possible."
