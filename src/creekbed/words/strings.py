"""The choice of strings, in words."""

from __future__ import annotations

from datetime import datetime

from creekbed.core.conventions import millimetres, number
from creekbed.core.strings.choice import LEAST_MARGIN_CENTS, Ask, Band, StringFit, StringSet
from creekbed.core.strings.life import Life

BANDS: dict[Band, str] = {
    "good": "suits", "slack": "a little slack", "too_slack": "too slack", "tight": "a little tight",
    "too_tight": "too tight",
}  # fmt: skip


MORE_THAN_MADE_FOR = 0.15
"""A string that pulls so much more than its maker states is warned of: house default."""


def off_words(fit: StringFit) -> str:
    """How far its tension is from what is wanted: "14 % less than wanted"."""
    size = number(100 * abs(fit.off), 0)
    if size == "0":
        return "as wanted"
    return f"{size} % {'more' if fit.off > 0 else 'less'} than wanted"


def risk_words(fit: StringFit) -> str:
    """What to mind with a string; "" if nothing."""
    if fit.margin_cents is not None and fit.margin_cents < LEAST_MARGIN_CENTS:
        if fit.margin_cents < 0:
            return "It breaks before it comes to pitch."
        return f"It breaks {number(fit.margin_cents, 0)} cents above its pitch: bring it up with care, eyes protected."
    over = fit.tension_n / fit.string.tension_n - 1
    if over > MORE_THAN_MADE_FOR:
        return f"It pulls {number(100 * over, 0)} % more than its maker states: its core may not bear that."
    if fit.band == "too_tight":
        return "Too much for an old or light instrument."
    if fit.band == "too_slack":
        return "It will sound dull and touch the fingerboard."
    return ""


def fit_words(fit: StringFit) -> str:
    """What a string does where it is wanted: "30 N, 21 % less than wanted: too slack. …"."""
    return f"{number(fit.tension_n, 0)} N, {off_words(fit)}: {BANDS[fit.band]}. {risk_words(fit)}".strip()


def ask_words(ask: Ask, full_mm: float) -> str:
    """What would suit, as one asks a dealer for it."""
    words = f"Ask for one stated {number(ask.tension_n, 0)} N at {millimetres(full_mm)}"
    if ask.diameter_mm is not None:
        words += f", {millimetres(ask.diameter_mm, 3)} thick"
    return f"{words}; or a set made for this size."


def life_words(life: Life) -> str:
    """How long strings of a kind last: "Lasts about 9 months on hire (6 to 14), by 12 of this shop's."."""
    about, low, high = (_months(d) for d in (life.median_days, life.low_days, life.high_days))
    if life.low_days >= IN_MONTHS_DAYS:  # the unit once
        low = number(life.low_days / DAYS_A_MONTH, 0)
    known = life.worn + life.fine
    by = f"by {known} of this shop's" if known else "from memory"
    return f"Lasts about {about} on hire ({low} to {high}), {by}."


def age_words(hire_days: float, since: datetime) -> str:
    """How long a string is on: "On since 12 Mar 2026, 5 months of that on hire."."""
    return f"On since {since.astimezone():%d %b %Y}, {_months(hire_days)} of that on hire."


def due_words(chance: float) -> str:
    """What to do about a string that may be found worn in the next hire; "" if nothing."""
    if chance < LIKELY:
        return ""
    return f"A new one now? The chance that it wears out in the next 3 months on hire is {chance:.0%}."


LIKELY = 0.5
"""A string that is found worn in the next hire with this chance is offered to be replaced now: house default."""
DAYS_A_MONTH, IN_MONTHS_DAYS = 30.44, 45.0
"""A longer time is told in months."""


def _months(days: float) -> str:
    if days < IN_MONTHS_DAYS:
        return f"{number(days, 0)} days"
    return f"{number(days / DAYS_A_MONTH, 0)} months"


def set_words(found: StringSet) -> str:
    """What the set does together."""
    words = f"Together they pull {number(found.total_n, 0)} N"
    if found.bridge_n is not None:
        words += f" and press {number(found.bridge_n, 0)} N on the bridge"
    return f"{words}. The strongest pulls {number(found.uneven, 1)} times as much as the weakest."
