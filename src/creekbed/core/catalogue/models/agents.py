"""Agents, products, ingredients, what a material bears, what must never meet."""

from __future__ import annotations

from typing import Literal

from creekbed.core.catalogue.models.base import Entry, Key, Marked, Text


class Agent(Marked):
    key: Key
    name: Text
    caution: str = ""
    holds: tuple[Key, ...] = ()
    """What is active in it; empty: nothing that could clash. "unknown": more than anybody here knows."""
    neutral: bool = False
    """Whether it is water or a dry cloth, which even an unknown material may meet."""


class Product(Marked):
    """A kind of product by the names that people use: what is active in it."""

    key: Key
    name: Text
    names: tuple[Text, ...] = ()
    holds: tuple[Key, ...] = ()
    agent: Key | None = None
    """The agent of the bench that it is, for what it may touch."""


class Ingredient(Marked):
    """An ingredient as labels name it, and what is active in it; empty: nothing."""

    key: Key
    names: tuple[Text, ...]
    holds: tuple[Key, ...] = ()


class ForbiddenMix(Marked):
    """Two active ingredients that must not meet, what they would form, and what to do if they did."""

    key: Key
    between: tuple[Key, Key]
    forms: Text
    kind: Literal["danger", "useless"]
    do: Text


class MaterialCompatibility(Entry):
    """What one material or finish bears. A missing agent means no; "label": only as the product's label says."""

    key: Key
    name: Text
    kind: Literal["material", "finish"] = "material"
    may: dict[Key, Literal["yes", "short", "brief", "cool", "label", "no"]]
    why: dict[Key, str] = {}
    trade: tuple[Key, ...] = ()
    """Agents whose cell is a fact of the trade; the others are from memory."""
    source: Text
