"""The words of a built step, filled in for one job."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.base import Deed
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.house import Recipe
from creekbed.core.catalogue.models.policies import Choice, Topic
from creekbed.core.catalogue.models.steps import Dip, Step
from creekbed.core.conventions import litres, millimetres, number, quantities_in, significant, temperature
from creekbed.core.errors import CreekbedError
from creekbed.core.hygiene.baths import fill, jar_ml
from creekbed.core.hygiene.mixes import Mix, dilute
from creekbed.core.inspection.valves import way_words
from creekbed.core.procedure.moves import Move, Moves
from creekbed.core.procedure.situation import ASKED, Situation, policy_values
from creekbed.core.procedure.step_waits import Water, water_of
from creekbed.core.strings.tension import pitch_hz, tension_elsewhere_n
from creekbed.core.supplies.next_amount import next_amount


def mix_for(recipe: Recipe, stock_pct: Mapping[str, float]) -> Mix | None:
    """The mix that a recipe makes from the bottle in use; ``None`` when no bottle is known."""
    strength = stock_pct.get(recipe.stock)
    if strength is None or strength < recipe.target_pct:
        return None
    return dilute(strength, recipe.target_pct, recipe.make_ml, recipe.graduation_ml)


def common_words(
    catalogue: Catalogue, family: Family, situation: Situation, chosen: Mapping[str, Choice], moves: Moves
) -> dict[str, Any]:
    """The values that the sentences of every step of this case may name, by their names in the catalogue."""
    words = policy_values(chosen)
    limits = catalogue.house.limits
    for recipe in catalogue.house.recipe:
        mix = mix_for(recipe, situation.stock_pct)
        words |= {
            "target": number(recipe.target_pct),
            "make_ml": number(recipe.make_ml),
            "dose_ml": number(recipe.dose_ml),
        }
        words["stock_ml"] = number(mix.stock_rounded_ml) if mix else "?"
    words |= _water_words(water_of(catalogue, family, situation, words))
    words |= {
        "name": family.noun,
        "size": situation.size,
        "joinings": len(moves.on),
        "cold_words": COLD_WORDS if situation.came == "cold" else "",
        "dip_level": _dip_words(family),
        **({"dose_ml": number(dip_ml(family.dip), 0)} if family.dip is not None else {}),
        "valve_words": way_words(situation.air_way or family.air_way) if family.air_way else "",
        "reed_strength": "2, no harder" if situation.renter in ("beginner", "young_child") else "2",
        "took_words": _took_words(family, situation),
        "bath_c": number(limits.bath_c),
        "bath_temperature": temperature(limits.bath_c),
        "detergent": number(limits.detergent_ml_per_l),
    }
    for check in family.check:
        bench = {o.key for o in check.options if o.verdict == "bench"}
        found = situation.places.get(check.key, {})
        mended = [place for place, answer in found.items() if answer in bench]
        words |= {f"{check.key}_list": ", ".join(mended), f"{check.key}_count": len(mended)}
        for option in check.options if found else ():
            words[f"{check.key}_{option.key}"] = ", ".join(p for p, answer in found.items() if answer == option.key)
    return words


COLD_WORDS = "Wood from the cold is not blown before it has the room's warmth."
"""From memory."""


def _dip_words(family: Family) -> str:
    """How much liquid stands below the cork, for one mouthpiece and for as many as the jar takes."""
    dip = family.dip
    if dip is None:
        return ""
    return (
        f"So much stands {millimetres(dip.level_mm)} high in a jar {millimetres(dip.jar_mm)} wide; "
        f"with {dip.most} in it {number(dip_ml(dip, dip.most), 0)} ml do."
    )


def dip_ml(dip: Dip, together: int = 1) -> float:
    """How much liquid stands below the cork, ml."""
    return jar_ml(dip.jar_mm, dip.level_mm, [dip.solid_mm] * together)


def _took_words(family: Family, situation: Situation) -> str:
    """How much of what is noted for each instrument it took last time, and how much is to be expected."""
    for step in family.step:
        took = situation.took.get(step.logs or "", ())
        ahead = next_amount(took)
        if ahead is None:
            continue
        last = f"last time this one took {number(took[-1])} ml"
        if ahead.low is not None and ahead.high is not None:
            likely, low, high = (significant(x, 2) for x in (ahead.likely, ahead.low, ahead.high))
            last += f", mostly {likely}: expect {low} to {high} ml ({len(took)} times on record)"
        return f"{last}; note what it takes now"
    return "a little at a time; note what this one takes"


def own_words(
    catalogue: Catalogue, family: Family, situation: Situation, step: Step, value: str, chosen: Mapping[str, Choice]
) -> dict[str, Any]:
    """The values that only this step's sentences may name: its policy, amount, intake and product."""
    words: dict[str, Any] = {"value": value}
    if step.policy is not None and step.policy in chosen:
        words["policy_reason"] = chosen[step.policy].reason
        who = situation.policies.get(f"{ASKED}{step.policy}", "")
        words["policy_name"] = policy_words(catalogue.topics[step.policy], chosen[step.policy].name, who)
    if step.bath_l is not None:
        words |= _bath_words(catalogue, step.bath_l)
        words["bath_soap"] = round(step.bath_l * catalogue.house.limits.detergent_ml_per_l, 1)
    if family.stringed is not None and value:
        spec = next(s for s in family.stringed.strings if s.key == value)
        supply = catalogue.supplies[spec.stock]
        a4 = catalogue.house.limits.a4_hz
        hz = pitch_hz(spec.pitch, a4)
        tension = 0.0
        if supply.string is not None:
            tension = tension_elsewhere_n(
                supply.string.tension_n,
                supply.string.length_mm,
                family.stringed.length_mm[situation.size],
                pitch_hz(supply.string.pitch),
                hz,
            )
        words |= {
            "string_name": spec.name,
            "string_pitch": f"{spec.pitch} ({number(hz, 1)} Hz at A4 = {number(a4)})",
            "string_tension": number(tension, 0),
            "string_state": situation.places.get("strings", {}).get(value, "worn"),
            "string_stock": spec.stock,
        }
    return words


def _bath_words(catalogue: Catalogue, volume_l: float) -> dict[str, str]:
    """How much hot and cold makes a bath of the house's temperature from the house's taps."""
    limits = catalogue.house.limits
    try:
        bath = fill(volume_l, limits.bath_c, limits.tap_hot_c, limits.tap_cold_c)
    except CreekbedError:  # the shop's own numbers: its taps cannot make its bath
        return {**dict.fromkeys(("bath_hot_l", "bath_cold_l", "bath_hot", "bath_cold"), "?"), "scald_s": "seconds"}
    scald = "more than five minutes" if bath.scald_s is None else f"{number(bath.scald_s, 0)} s"
    return {
        "bath_hot_l": number(bath.hot_l, 1),
        "bath_cold_l": number(bath.cold_l, 1),
        "bath_hot": litres(bath.hot_l, 1),
        "bath_cold": litres(bath.cold_l, 1),
        "scald_s": scald,
    }


def move_words(move: Move, words: Mapping[str, Any]) -> Move:
    """The move with the case's values set into its sentences."""
    table = BlankWords(words)

    def said(text: str) -> str:
        return quantities_in(text.format_map(table))

    return replace(move, what=said(move.what), how=said(move.how), caution=said(move.caution), reason=said(move.reason))


def send_words(family: Family, situation: Situation, forbidden: Mapping[Deed, tuple[str, ...]]) -> dict[str, str]:
    """To whom it is sent, why, and what to do until then, from the findings that forbid something."""
    checks = [family.find_check(k) for k in dict.fromkeys(k for keys in forbidden.values() for k in keys)]
    told = {c.key: situation.findings[c.key] for c in checks}
    return {
        "send_to": " and the ".join(dict.fromkeys(c.trade for c in checks if c.trade)) or "specialist",
        "send_why": ", ".join(c.name[:1].lower() + c.name[1:] for c in checks),
        "send_until": " ".join(dict.fromkeys(told[c.key].reason for c in checks)),
    }


def policy_words(topic: Topic, choice: str, who: str = "") -> str:
    """The policy chosen in this topic, in a short line for the step, with who asks for it."""
    return f"{topic.name}: {choice.lower()}" + (f", as {who} asks" if who else "")


class BlankWords(dict[str, Any]):
    def __missing__(self, key: str) -> str:
        return ""


def _water_words(water: Water | None) -> dict[str, str]:
    if water is None:
        return {}
    left = "less than 0.1" if water.left_g < 0.1 else f"about {number(water.left_g, 1)}"
    return {
        "water_g": number(water.bound_g, 1), "water_found_g": number(water.found_g, 1), "water_left_g": left,
        "water_min": number(water.minutes, 0), "water_pulls": number(water.pulls),
    }  # fmt: skip
