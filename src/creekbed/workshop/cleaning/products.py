"""Products that the shop itself has entered, by the ingredients on their labels."""

from __future__ import annotations

from creekbed.core.catalogue.models import Agent
from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.products import MOST_LETTERS, by_ingredients, made, plain, understand
from creekbed.workshop.shop.shop import Shop, one_change
from creekbed.workshop.shop.stored import readable

SETTING = "products"
MOST = 200
"""So many products of its own a shop may enter: house default."""


def own_products(shop: Shop) -> dict[str, Agent]:
    """The shop's own products, by key; what cannot be read is passed by.

    What is active in one is worked out anew from its label each time: a better list of ingredients counts at once.
    """
    labels = _stored(shop)
    holds = readable(labels, lambda label: by_ingredients(shop.catalogue, label).holds)
    agents = [made(name, active, f"its label: {labels[name]}") for name, active in holds.items()]
    return {agent.key: agent for agent in agents}


def _stored(shop: Shop) -> dict[str, str]:
    return readable(shop.setting(SETTING), str)


@one_change
def add_product(shop: Shop, name: str, ingredients: str) -> tuple[str, ...]:
    """Enter a product by its label; gives the ingredients that nobody here knows.

    Raises:
        BadInput: no name, or no ingredients. Refused: that name stands for something already, or there are too many.
    """
    name = " ".join(name.split())
    if not 0 < len(name) <= MOST_LETTERS or not plain(name):
        raise BadInput("A product has a name.", todo="Type what stands on it.")
    label = by_ingredients(shop.catalogue, ingredients)
    named = understand(shop.catalogue, name)
    if named.known in ("agent", "product"):
        raise Refused(f"{name} is known here already.", todo="Give it a name that tells it apart.")
    kept = {n: text for n, text in _stored(shop).items() if plain(n) != plain(name)}
    if len(kept) >= MOST:
        raise Refused("There are too many products.", todo="Forget those that are no longer used.")
    kept[name] = " ".join(ingredients.split())[:2000]
    shop.set_setting(SETTING, kept, f"Product {name}: {', '.join(label.holds) or 'nothing active'}")
    return label.not_known


@one_change
def forget_product(shop: Shop, key: str) -> None:
    """Take a product out again.

    Raises:
        Refused: there is none.
    """
    agent = own_products(shop).get(key)
    if agent is None:
        raise Refused("That product is not there.")
    kept = {n: text for n, text in _stored(shop).items() if plain(n) != plain(agent.name)}
    shop.set_setting(SETTING, kept, f"Product {agent.name} forgotten")
