"""House rules: choosing a school, with its effect shown before."""

from __future__ import annotations

from dataclasses import dataclass

from creekbed.core.catalogue.models import Topic
from creekbed.core.errors import BadInput
from creekbed.core.procedure.compare import Difference, compare_schools, telling
from creekbed.store.tables import SchoolChoice
from creekbed.workshop.shop import Shop
from creekbed.workshop.views import school_choices


def chosen(shop: Shop) -> dict[str, str]:
    """Every topic with the shop's choice."""
    with shop.reading() as session:
        choices = school_choices(session)
    return {t.key: t.pick(choices.get(t.key, t.default)).key for t in shop.catalogue.topics.values()}


@dataclass(frozen=True)
class Effect:
    """What a choice would change, and on which imagined job: "Alto saxophone, for the same renter again"."""

    job: str
    difference: Difference


def effect(shop: Shop, topic: str, choice: str) -> Effect:
    """What a choice would change in the plainest job of its families in which it shows.

    Raises:
        BadInput: no such topic or choice.
    """
    found = _topic(shop, topic, choice)
    now = chosen(shop)
    families = shop.catalogue.families_of(found)
    for family in families:
        for words, situation in telling(shop.catalogue, family, now):
            difference = compare_schools(shop.catalogue, situation, topic, choice)
            if not difference.nothing:
                return Effect(f"{family.name}{', ' + words if words else ''}", difference)
    return Effect(families[0].name, difference)


def choose_school(shop: Shop, topic: str, choice: str) -> None:
    """Follow another school from the next job on; open jobs keep theirs.

    Raises:
        BadInput: no such topic or choice.
    """
    found = _topic(shop, topic, choice)
    with shop.act("school") as act:
        row = act.session.get(SchoolChoice, topic)
        if row is None:
            act.session.add(SchoolChoice(topic=topic, choice=choice, at=act.now))
        else:
            row.choice, row.at = choice, act.now
        act.words = f"House rule: {found.name}: {found.pick(choice).name.lower()}"


def _topic(shop: Shop, topic: str, choice: str) -> Topic:
    found = shop.catalogue.topics.get(topic)
    if found is None or choice not in {c.key for c in found.choice}:
        raise BadInput("That house rule or choice does not exist.")
    return found
