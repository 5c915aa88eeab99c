"""House rules: choosing a policy, with its effect shown before."""

from __future__ import annotations

from creekbed.core.catalogue.models.policies import Topic
from creekbed.core.errors import BadInput, Refused
from creekbed.core.procedure.compare import Difference, compare_policies, telling
from creekbed.core.procedure.situation import ASKED
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import line
from creekbed.store.reader import Reader
from creekbed.store.records import PolicyChoice, PolicyRequest
from creekbed.workshop.bench.job_situation import policy_choices
from creekbed.workshop.shop.shop import Shop


def chosen(shop: Shop) -> dict[str, str]:
    """Every topic with the shop's choice."""
    with shop.reading() as records:
        choices = policy_choices(records)
    return {t.key: t.pick(choices.get(t.key, t.default)).key for t in shop.catalogue.topics.values()}


@dataclass(frozen=True)
class PolicyEffect:
    """What a choice would change, and on which imagined job: "Alto saxophone, for the same renter again"."""

    job: str
    difference: Difference


def effect(shop: Shop, topic: str, choice: str) -> PolicyEffect:
    """What a choice would change, shown on the simplest job in which it shows.

    Raises:
        BadInput: no such topic or choice.
    """
    found = _topic(shop, topic, choice)
    now = chosen(shop)
    families = shop.catalogue.families_of(found)
    for family in families:
        for words, situation in telling(shop.catalogue, family, now):
            difference = compare_policies(shop.catalogue, situation, topic, choice)
            if not difference.nothing:
                return PolicyEffect(f"{family.name}{', ' + words if words else ''}", difference)
    return PolicyEffect(families[0].name, difference)


def choose_policy(shop: Shop, topic: str, choice: str) -> None:
    """Choose another policy from the next job on; open jobs keep theirs.

    Raises:
        BadInput: no such topic or choice.
    """
    found = _topic(shop, topic, choice)
    with shop.act("policy") as act:
        act.records.put(PolicyChoice(topic=topic, choice=choice, at=act.now))
        act.words = f"House rule: {found.name}: {found.pick(choice).name.lower()}"


MOST_WHO = 60


def asks(shop: Shop) -> dict[str, dict[str, str]]:
    """What groups and teachers ask for: group → topic → choice."""
    with shop.reading() as records:
        return _asks(records)


def _asks(records: Reader) -> dict[str, dict[str, str]]:
    found: dict[str, dict[str, str]] = {}
    for row in records.readable(PolicyRequest):
        found.setdefault(row.who, {})[row.topic] = row.choice
    return found


def groups(shop: Shop) -> list[str]:
    """Groups and teachers that are known: from hires, jobs, and what was asked."""
    with shop.reading() as records:
        return sorted(records.jobs.groups() | set(_asks(records)))


def ask(shop: Shop, who: str, topic: str, choice: str) -> None:
    """Note the policy that a group or teacher asks for, from their next job on; "" removes it.

    Raises:
        BadInput: nobody named, or no such topic or choice. Refused: a matter of hygiene, chemistry or safety.
    """
    who = line(who, what="The group", longest=60)
    if not who:
        raise BadInput("Nobody is named who asks for it.", todo="Say which group or teacher.")
    known = shop.catalogue.topics.get(topic)
    found = _topic(shop, topic, choice or (known.default if known is not None else ""))
    if found.hygiene:
        raise Refused(
            f"{found.name} is a matter of hygiene, chemistry or safety.", todo="The house rule holds for everybody."
        )
    with shop.act("policy.ask") as act:
        own = _asks(act.records)
        if choice:
            if who not in own and len(own) >= MOST_WHO:
                raise Refused(f"{MOST_WHO} groups have asked already.", todo="Take one back first.")
            act.records.put(PolicyRequest(who=who, topic=topic, choice=choice))
            act.words = f"{found.name}: as {who} asks: {found.pick(choice).name.lower()}"
        else:
            row = act.records.get(PolicyRequest, who, topic)
            if row is not None:
                act.records.remove(row)
            act.words = f"{found.name}: {who} asks for nothing else any more"


def asked_for(records: Reader, shop: Shop, who: str, family: str) -> dict[str, str]:
    """What a job for a group follows instead of the house rules, with whose rule it is under :data:`ASKED` + topic."""
    mine = _asks(records).get(who, {}) if who else {}
    topics = {t.key: t for t in shop.catalogue.topics_for(shop.catalogue.family(family))}
    found: dict[str, str] = {}
    for topic, choice in mine.items():
        known = topics.get(topic)
        if known is not None and not known.hygiene and choice in {c.key for c in known.choice}:
            found |= {topic: choice, f"{ASKED}{topic}": who}
    return found


def _topic(shop: Shop, topic: str, choice: str) -> Topic:
    found = shop.catalogue.topics.get(topic)
    if found is None or choice not in {c.key for c in found.choice}:
        raise BadInput("That house rule or choice does not exist.")
    return found
