"""House rules: choosing a school, with its effect shown before."""

from __future__ import annotations

from creekbed.core.catalogue.models import Topic
from creekbed.core.errors import BadInput
from creekbed.core.procedure.build import Difference, Situation, compare_schools
from creekbed.store.tables import SchoolChoice
from creekbed.workshop.shop import Shop
from creekbed.workshop.views import current_schools


def chosen(shop: Shop) -> dict[str, str]:
    """Every topic with the shop's choice."""
    with shop.reading() as session:
        found: dict[str, str] = {}
        for family in shop.catalogue.families:
            found |= current_schools(session, shop.catalogue, family)
    return found


def effect(shop: Shop, topic: str, choice: str) -> Difference:
    """What a choice would change in a typical job of its first family."""
    found = _topic(shop, topic, choice)
    family = shop.catalogue.families_of(found)[0]
    situation = Situation(family.key, family.sizes[0], schools=chosen(shop), stock_pct={"peroxide_6_ml": 6.0})
    return compare_schools(shop.catalogue, situation, topic, choice)


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
