"""What people call what stands in their cupboards, and what is active in it: by name, or by its label's ingredients.

A name that is known leads to what such products usually hold. A name that only has a known word in it ("lemon bleach
gel"), or is written like a known one, counts as that and as unknown. What nobody knows is unknown, which is unsafe with
everything but water and a cloth.
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable, Mapping
from typing import Literal

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.models.agents import Agent
from creekbed.core.conventions import quantities_in
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

UNKNOWN = "unknown"
MOST_LETTERS, MOST_INGREDIENTS = 80, 40
"""House default."""


@dataclass(frozen=True)
class Named:
    """What somebody named.

    Attributes:
        agent: what is active in it; its key is the bench's where it is one of the bench's, else what was typed.
        known: how it was found: "agent", "own", "product", "word" (a known word is in its name), "like" (it is written
            like a known one) or "" (unknown).
        like: the known names that it has in it, or is written like.
    """

    agent: Agent
    known: Literal["agent", "own", "product", "word", "like", ""]
    like: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """How it was understood, for people; "" where the bench knows it by that name."""
        name = self.agent.name
        if self.known in ("word", "like"):
            how = "by its name" if self.known == "word" else "written like that"
            return f"{name} is not known here; {how} it is treated as {self.like[0]}, and as unknown besides."
        return f"{name} is not known here." if self.known == "" else ""


def plain(text: str) -> str:
    """A name as it is compared: small letters, single spaces, no hyphens, no plural s."""
    words = re.sub(r"[\s_\-–/.,;()]+", " ", text.casefold()).split()
    return " ".join(w[:-1] if len(w) > 3 and w.endswith("s") and not w.endswith("ss") else w for w in words)


def understand(catalogue: Catalogue, text: str, own: Mapping[str, Agent] = {}) -> Named:
    """What somebody means by a name.

    Args:
        text: what was typed. own: products of the shop, by key.

    Raises:
        BadInput: nothing, or more than a name.
    """
    name = " ".join(text.split())
    if not name or len(name) > MOST_LETTERS:
        raise BadInput("Name one product.", todo="Type what stands on it, such as bleach or dish soap.")
    if name in catalogue.agents:
        return Named(catalogue.agents[name], "agent")
    wanted = plain(name)
    for agent in own.values():
        if plain(agent.name) == wanted or agent.key == name:
            return Named(agent, "own")
    names = _names(catalogue)
    if wanted in names:
        found = names[wanted]
        return Named(found, "agent" if catalogue.agents.get(found.key) is found else "product")
    inside = sorted((known for known in names if f" {known} " in f" {wanted} "), key=len, reverse=True)
    like = inside or difflib.get_close_matches(wanted, names, 2, 0.8)
    held = {word for known in like for word in names[known].holds}
    suspect = made(name, sorted({*held, UNKNOWN}), "as unknown, and as what its name is like")
    told = tuple(dict.fromkeys(names[k].name for k in like))
    return Named(suspect, "word" if inside else "like" if like else "", told)


def made(name: str, holds: Iterable[str], source: str) -> Agent:
    """An agent that the bench does not have, under the name that somebody gave it.

    Args:
        holds: what is active in it.
    """
    slug = re.sub(r"[^a-z0-9]+", "_", name.casefold()).strip("_")[:40]
    return Agent(key=f"named_{slug}", name=name, holds=tuple(holds), mark="H", source=source)


def _names(catalogue: Catalogue) -> dict[str, Agent]:
    """Every known name as it is compared, and what it leads to. Remembered on the catalogue."""
    found: dict[str, Agent] = catalogue.memory.get("product names", {})
    if not found:
        for product in catalogue.products.values():
            agent = Agent(
                key=product.agent or product.key, name=product.name, holds=product.holds, mark=product.mark,
                source=product.source,
                caution=quantities_in(catalogue.agents[product.agent].caution) if product.agent else "",
                neutral=product.agent is not None and catalogue.agents[product.agent].neutral,
            )  # fmt: skip
            for name in (product.name, product.key, *product.names):
                found.setdefault(plain(name), agent)
        for agent in catalogue.agents.values():  # the bench's own names come first
            for name in (agent.key, agent.name, agent.name.partition(",")[0]):
                found[plain(name)] = agent
        catalogue.memory["product names"] = found
    return found


@dataclass(frozen=True)
class Label:
    """What a label's ingredients say: what is active, and which of them nobody here knows."""

    holds: tuple[str, ...]
    not_known: tuple[str, ...]


def by_ingredients(catalogue: Catalogue, text: str) -> Label:
    """What is active in a product by the ingredients on its label, with commas between them.

    Returns:
        ``holds`` has "unknown" in it where one of them is not known: the whole is then no safer than that.

    Raises:
        BadInput: no ingredient, or more than a label holds.
    """
    found = _ingredients(catalogue)
    pieces = [p.strip() for p in re.split(r"[,;\n]", text) if p.strip()]
    if not pieces or len(pieces) > MOST_INGREDIENTS:
        raise BadInput("Type the ingredients of its label.", todo="With commas between: water, citric acid, perfume.")
    held: set[str] = set()
    not_known = []
    for piece in pieces:
        name = plain(re.sub(r"\(?[<>≤≥]?\s*[0-9]+([.,][0-9]+)?\s*(-|–|to)?\s*([0-9]+([.,][0-9]+)?)?\s*%\)?", "", piece))
        inside = [known for known in found if f" {known} " in f" {name} "]
        if name in found:
            held.update(found[name])
        elif inside:  # "sodium hypochlorite solution" is what its longest known words say
            held.update(found[max(inside, key=len)])
        elif name:
            not_known.append(piece[:MOST_LETTERS])
    if not_known:
        held.add(UNKNOWN)
    return Label(tuple(sorted(held)), tuple(not_known))


def _ingredients(catalogue: Catalogue) -> dict[str, tuple[str, ...]]:
    """Every known ingredient as it is compared, and what is active in it. Remembered on the catalogue."""
    found: dict[str, tuple[str, ...]] = catalogue.memory.get("ingredients", {})
    if not found:
        found = {plain(name): one.holds for one in catalogue.ingredients.values() for name in one.names}
        catalogue.memory["ingredients"] = found
    return found


def together_with(catalogue: Catalogue, named: Iterable[Named]) -> dict[str, Agent]:
    """The bench's agents and the named products, by key: the input of :func:`never_together`."""
    return catalogue.agents | {n.agent.key: n.agent for n in named}
