"""Products that the shop itself has entered, by the ingredients on their labels."""

from __future__ import annotations

from creekbed.core.catalogue.models.agents import Agent
from creekbed.core.errors import BadInput, Refused
from creekbed.core.hygiene.products import MOST_LETTERS, by_ingredients, made, plain, understand
from creekbed.store.reader import Reader
from creekbed.store.records import OwnProduct
from creekbed.workshop.shop.shop import Shop

MOST = 200
"""How many products of its own a shop may enter: house default."""


def own_products(shop: Shop) -> dict[str, Agent]:
    """The shop's own products, by key; what cannot be read is passed by.

    What is active in one is worked out anew from its label each time: a better list of ingredients counts at once.
    """
    with shop.reading() as records:
        return _products(records, shop)


def _products(records: Reader, shop: Shop) -> dict[str, Agent]:
    found = {}
    for row in records.readable(OwnProduct):
        try:
            holds = by_ingredients(shop.catalogue, row.ingredients).holds
        except BadInput:
            continue
        agent = made(row.name, holds, f"its label: {row.ingredients}")
        found[agent.key] = agent
    return found


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
    with shop.act("product") as act:
        rows = act.records.all_of(OwnProduct)
        same = [row for row in rows if plain(row.name) == plain(name)]
        for row in same:
            act.records.remove(row)
        if len(rows) - len(same) >= MOST:
            raise Refused("There are too many products.", todo="Forget those that are no longer used.")
        act.records.add(OwnProduct(name=name, ingredients=" ".join(ingredients.split())[:2000]))
        act.words = f"Product {name}: {', '.join(label.holds) or 'nothing active'}"
    return label.not_known


def forget_product(shop: Shop, key: str) -> None:
    """Take a product out again.

    Raises:
        Refused: there is none.
    """
    with shop.act("product") as act:
        agent = _products(act.records, shop).get(key)
        if agent is None:
            raise Refused("That product is not there.")
        for row in act.records.all_of(OwnProduct):
            if plain(row.name) == plain(agent.name):
                act.records.remove(row)
        act.words = f"Product {agent.name} forgotten"
