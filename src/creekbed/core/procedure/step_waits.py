"""How long what a step begins must wait."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.family import Family, StringedData
from creekbed.core.catalogue.models.steps import Step
from creekbed.core.climate.breath import after_pulls_g, condensed_g, drying_minutes
from creekbed.core.procedure.built import BuiltWait
from creekbed.core.procedure.situation import Situation
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.strings.settling import DAY_MIN, Creep, fit_creep, retune_times

if TYPE_CHECKING:
    from creekbed.core.strings.forecast import Forecast


def creep_law(family: Family, situation: Situation) -> Creep:
    """The creep law for this job: the house's, adapted by the retunes read so far.

    Raises:
        ValueError: a family without strings.
    """
    if family.stringed is None:
        raise ValueError(f"{family.name} has no strings")
    return fit_creep(_shop_law(family.stringed, situation), situation.drops)


def _shop_law(stringed: StringedData, situation: Situation) -> Creep:
    """The house's law with what the shop's own strings have taught."""
    return Creep(stringed.creep_cents * situation.creeps_times, stringed.creep_tau_min)


def forecast_of(stringed: StringedData, situation: Situation, last_min: float | None = None) -> Forecast:
    """What is to be expected of the new strings of a job.

    Args:
        last_min: the last retune, minutes since they were tuned up; the last reading's end if not given.
    """
    law = _shop_law(stringed, situation)
    if last_min is not None and situation.drops and abs(last_min - situation.drops[-1][1]) < SAME_MIN:
        last_min = None  # it was read when it was retuned
    return _forecast(law, situation.drops, stringed.tolerance_cents, stringed.first_day_cents, last_min)


SAME_MIN = 0.1
"""A reading and a retune so near each other are one act, minutes."""


@lru_cache(maxsize=256)
def _forecast(
    law: Creep, drops: tuple[tuple[float, float, float], ...], tolerance: float, limit: float, last_min: float | None
) -> Forecast:
    """A forecast takes some 50 ms, and the steps of one job ask for the same one several times."""
    from creekbed.core.strings.forecast import Kind, forecast, readable  # the window opens without it

    return forecast(
        Kind(law.a_cents, law.tau_min), readable(drops), tolerance_cents=tolerance, limit_cents=limit,
        last_min=last_min,
    )  # fmt: skip


@dataclass(frozen=True)
class Water:
    """What the play-test leaves in the bore.

    Attributes:
        bound_g: that breath can leave at most, by moist air. found_g: to be reckoned with. left_g: after the policy's
            pulls. minutes: on the rack until no more is left than may be. pulls: of a dry cloth.
    """

    bound_g: float
    found_g: float
    left_g: float
    minutes: float
    pulls: float


def water_of(catalogue: Catalogue, family: Family, situation: Situation, values: Mapping[str, Any]) -> Water | None:
    """What the play-test of a job leaves in the bore; ``None`` where nothing is blown.

    Args:
        values: the words and numbers that the chosen policies bring.
    """
    play = next((s for s in family.step if s.blows), None)
    if play is None or family.breath is None:
        return None
    limits, breath = catalogue.house.limits, family.breath
    room = limits.room_c if situation.room_c is None else min(max(situation.room_c, -10.0), 45.0)
    bound = condensed_g(breath.litres_min * play.hands_min, room)
    found = bound * situation.breath_share
    pulls = float(values.get(family.pulls_by, 1.0)) if family.pulls_by else 1.0
    left = after_pulls_g(found, pulls, breath.pull_takes)
    minutes = drying_minutes(left, limits.dry_left_g, breath.tau_min, LEAST_AIR_MIN)
    return Water(bound, found, left, minutes, pulls)


LEAST_AIR_MIN = 15.0
"""How long a played bore airs at least before it is cased, minutes: house default."""


def _until_flat(stringed: StringedData, situation: Situation, *, first: bool) -> float:
    """Minutes until a new string is flat by the tolerance, as likely sooner as later.

    Args:
        first: since it was hung; else since its first retune, by what was read then where something was.
    """
    if not first and situation.drops:
        ahead = forecast_of(stringed, situation)
        if ahead.last_min > 0:  # something was read that a settling string shows
            return ahead.next_min.median - ahead.last_min
    return retune_times(_shop_law(stringed, situation), stringed.tolerance_cents, 2)[0 if first else 1]


LAST_RETUNE = 3
"""The number of the retune after which new strings should hold for a renter's first day."""
LEAST_HOLD_MIN, MOST_HOLD_MIN = 10.0, 1440.0
"""So long new strings rest at least and at most before they are retuned for the last time: house default."""


def retunes_wanted(stringed: StringedData, situation: Situation) -> int:
    """How many retunes new strings want, with those that are done or left out: until one is forecast to hold for a day.

    Before anything is forecast there are two while they creep fast, and a last one. Whoever leaves out the last is not
    asked for more: the release check says what the strings may do.
    """
    closed = len(situation.retuned_min) + len(situation.retunes_skipped)
    if situation.strings_accepted:
        return max(closed, LAST_RETUNE - 1)
    if closed < LAST_RETUNE - 1:
        return LAST_RETUNE
    if closed in situation.retunes_skipped:
        return max(closed, LAST_RETUNE)
    return closed if forecast_of(stringed, situation, situation.retuned_min[-1]).surely_holds else closed + 1


def until_holds(stringed: StringedData, situation: Situation, number: int) -> float:
    """Whole minutes from one retune of new strings until one that is forecast to hold for a day.

    Args:
        number: of the retune after which they rest, counted from 1.
    """
    times, law = situation.retuned_min, _shop_law(stringed, situation)
    if situation.drops:
        ahead = forecast_of(stringed, situation)
        holds, since = ahead.good_from, ahead.next_min.median
    else:
        # a string that creeps c times as much holds when ln(1 + day/t) is c times smaller
        rate = math.log1p(DAY_MIN / stringed.holds_from_min) / situation.creeps_times
        holds = DAY_MIN / math.expm1(rate)
        since = retune_times(law, stringed.tolerance_cents, number)[number - 1]
    turned = number - sum(left <= number for left in situation.retunes_skipped)
    if number not in situation.retunes_skipped and len(times) >= turned:
        since = times[turned - 1]
    return float(round(min(max(holds - since, LEAST_HOLD_MIN), MOST_HOLD_MIN)))


def wait_of(step: Step, catalogue: Catalogue, situation: Situation, words: Mapping[str, Any]) -> BuiltWait | None:
    """The wait after the step with its limits in minutes for this case, or nothing where the step has none.

    `words` are the values that go into the sentences of the wait.
    """
    wait = step.wait
    if wait is None:
        return None
    minutes, longest = wait.min_minutes, wait.max_minutes
    if wait.rule == "label":
        for use in step.supplies:
            recipe = next((r for r in catalogue.house.recipe if r.product == use.item), None)
            if recipe is not None:
                minutes = situation.contact_min.get(use.item, recipe.contact_min)
        longest = max(longest, minutes) if longest is not None else None
    elif wait.rule == "settle":
        family = catalogue.families[situation.family]
        assert family.stringed is not None
        minutes = float(round(_until_flat(family.stringed, situation, first=step.key == "hang")))
    elif wait.rule == "holds":
        family = catalogue.families[situation.family]
        assert family.stringed is not None
        number = int(step.key.rpartition("_")[2])
        if number >= retunes_wanted(family.stringed, situation):
            return None
        minutes = until_holds(family.stringed, situation, number)
    elif wait.rule == "water":
        minutes = max(minutes, float(words.get("water_min", 0.0)))
    where = next(p.where for p in catalogue.house.place if p.key == wait.place)
    alike = f"{step.key}/{step.agent or ''}" if wait.alike else ""
    dries = wait.place == "rack" and not wait.wet and longest is None and wait.dries
    return BuiltWait(wait.name, wait.place, where, minutes, longest, wait.wet, wait.at_end, wait.takes, alike, dries)
