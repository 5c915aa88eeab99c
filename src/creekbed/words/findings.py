"""What was measured over time, in words: trends from hire to hire, weighings, settling strings, disinfections."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any

from creekbed.core.climate.drying import Drying
from creekbed.core.conventions import clock, number
from creekbed.core.inspection.trend import YEAR_DAYS, Trend
from creekbed.core.strings.settling import DAY_MIN
from creekbed.core.units import show, with_doubt
from creekbed.words.times import span

if TYPE_CHECKING:
    from creekbed.core.inspection.work_effect import Change
    from creekbed.core.measure import Reading
    from creekbed.core.prediction import Prediction
    from creekbed.core.strings.forecast import Forecast

MOST_BEFORE = 4
"""So many earlier readings are named."""


def trend_words(
    trend: Trend, unit: str, went_out: Sequence[tuple[float, datetime]], began: datetime, now: datetime,
    trade: str = "", away_days: float = 0.0,
) -> str:  # fmt: skip
    """What went before, its pace, when that passes the limit, and when it is sent so that it is back by then.

    Args:
        unit: of the readings. went_out: (value, when) of each hire, the oldest first. began: the first reading, from
            which the trend counts its days. trade: of the specialist who mends it; "": nobody. away_days: how long
            that takes.
    """

    def month(day: float) -> str:
        return f"{(began + timedelta(days=day)).astimezone():%b %Y}"

    said = ""
    if went_out:
        rows = ", ".join(f"{show(value, unit)} ({at.astimezone():%b %Y})" for value, at in went_out[-MOST_BEFORE:])
        said = f"Went out with: {rows}."
    line = trend.line
    if line is None:
        return said
    if not line.goes:
        return f"{said} No pace that can be told from chance.".strip()
    word = "rises" if line.slope > 0 else "falls"
    year, u = abs(line.slope) * YEAR_DAYS, 2 * line.u_slope * YEAR_DAYS
    said = f"{said} It {word} {show(year, unit)} ± {show(u, unit)} a year.".strip()
    cross = trend.crossing
    if cross is None:
        return said
    limit = show(cross.limit, unit)
    today = (now - began).total_seconds() / 86400
    if cross.day <= today:
        return f"{said} {limit} is reached."
    soon = month(cross.soonest)
    if not math.isfinite(cross.latest):
        between = f", not before {soon}"
    else:
        late = month(cross.latest)
        between = f", between {soon} and {late}" if soon != late else ""
    said = f"{said} At this pace it passes {limit} about {month(cross.day)}{between}."
    return f"{said} {_send_words(trade, away_days, cross.soonest - away_days, today, began)}".strip()


SEND_SOON_DAYS = 400.0
"""When to send an instrument out is said for so long ahead: house default."""


def _send_words(trade: str, away_days: float, day: float, today: float, began: datetime) -> str:
    """When an instrument is sent to a specialist, so that it is back before it may pass its limit."""
    if not trade or day > today + SEND_SOON_DAYS:
        return ""
    takes = f"The {trade} takes about {number(away_days)} days"
    if day <= today:
        return f"{takes}: send it before the next hire."
    return f"{takes}: send it by {(began + timedelta(days=day)).astimezone():%d %b %Y}."


def _moment(at: datetime) -> str:
    return clock(at, "%d %b, ")


def answers_words(earlier: Sequence[tuple[datetime, str]]) -> str:
    """What was found earlier in the same job: (when, what), the oldest first."""
    said = " ".join(f"{_moment(at)}: {reason}" for at, reason in earlier)
    return f"Earlier in this job, {said}" if said else ""


def change_words(change: Change, before: Reading, at: datetime) -> str:
    """What a check read first in the same job, and what it changed by since."""
    said = f"Earlier in this job ({_moment(at)}) it read {show(before.value, before.unit)}"
    if not change.told:
        return f"{said}: no change since that can be told from chance."
    by = with_doubt(abs(change.by.value), change.by.expanded, before.unit)
    return f"{said}: {by} {'less' if change.by.value < 0 else 'more'} now."


def cleaning_words(left: Prediction, found: Reading, cleaned: bool) -> str:
    """What earlier cleanings left, and so what the next one will take or whether this one did as well.

    Args:
        found: what it reads now. cleaned: whether it was cleaned before it was read.
    """
    wide = 0.0 if left.high is None else left.high - left.likely
    level = with_doubt(left.likely, wide, found.unit)
    said = f"Earlier cleanings left {level}" if wide else f"The cleaning before left {level}"
    if cleaned:
        more = left.high is not None and found.value - found.expanded > left.high
        return f"{said}, this one more: dirt that stayed, wear, or out of line." if more else f"{said}."
    takes = found.value - left.likely
    if takes <= found.expanded:
        return f"{said}: it is as good as that now."
    off = (
        with_doubt(takes, math.hypot(wide, found.expanded), found.unit) if wide else f"about {show(takes, found.unit)}"
    )
    return f"{said}: cleaning will take {off} off."


def drying_words(fit: Drying | None, problem: str, limit_g: float) -> str:
    """What weighings say, in a line.

    Args:
        problem: why there is no fit, in words. limit_g: water that may stay.
    """
    if fit is None:
        return problem
    low, high = fit.left_95
    left = f"{fit.left_g:.2g} g of water left ({low:.2g} to {high:.2g}, 95 %)"
    notes = "".join(f" {note}" for note in fit.notes)
    if fit.is_dry:
        return f"Dry enough to case: {left}.{notes}"
    first, last = fit.minutes_95
    return f"{left}. Dry in {span(first)} to {span(last)}; {number(limit_g)} g may stay.{notes}"


def settling_words(ahead: Forecast, limit_cents: float, holds: bool) -> str:
    """How far a new string goes flat in the day after its last retune, and what the house says to that."""
    day = ahead.first_day
    drift = (
        f"In the day after its last retune it goes about {number(day.median, 0)} cents flat "
        f"({number(day.low, 0)} to {number(day.high, 0)}); the house allows {number(limit_cents, 0)}"
    )
    if holds:
        return f"{drift}: it will hold."
    if ahead.slips > 0.5:
        return f"{drift}. It creeps as no such string does: does its peg or its winding slip? Look at that first."
    chance = number(100 * ahead.holds, 0)
    more = ahead.good_from - ahead.last_min
    if more > 60:
        more = 15 * round(more / 15)  # it is no surer than that
    when = f"about {span(more)} after the last time" if more < DAY_MIN else "tomorrow"
    return f"{drift}: the chance that it holds is {chance} %. Let it hang longer, and retune it {when}."


def disinfection_words(row: Mapping[str, Any]) -> str:
    """One line of evidence: "Mouthpiece: 10 min in hydrogen peroxide 3 %, from lot 11, by AB"."""
    strength = f" {row['strength_pct']:.3g} %" if row["strength_pct"] else ""
    lot = f", {row['lot']}" if row["lot"] else ""
    again = f", dried and begun again {row['restarts']} times" if row["restarts"] else ""
    over = f", {number(row['over_min'], 0)} min past its longest time" if row["over_min"] >= 0.5 else ""
    asked = f"{number(row['wet_min'], 0)} min wet of {number(row['required_min'])} asked for"
    return f"{row['part'].capitalize()}: {asked}, {row['agent']}{strength}{lot}{again}{over}, by {row['person']}"
