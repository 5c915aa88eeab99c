"""Supplies, recipes, places, hours, limits, cloths of the shop."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from creekbed.core.catalogue.models.base import Entry, Key, Marked, Text


class StringSupply(Entry):
    """Tension that a string is stated to have, and where."""

    tension_n: float = Field(gt=0)
    length_mm: float = Field(gt=0)
    pitch: str
    plain: Literal["", "steel", "gut", "nylon"] = ""
    """What it is of where it is a plain wire; "": it is wound."""


class Supply(Marked):
    key: Key
    name: Text
    unit: Text
    reorder_at: float = Field(ge=0)
    string: StringSupply | None = None
    agent: Key | None = None


class Recipe(Marked):
    """A mix that the house makes: from a stock supply to a target strength."""

    key: Key
    name: Text
    stock: Key
    product: Key
    agent: Key
    target_pct: float = Field(gt=0, le=100)
    make_ml: float = Field(gt=0)
    dose_ml: float = Field(gt=0)
    """How much of the mix one part takes."""
    graduation_ml: float = Field(gt=0)
    basis: Literal["w/v", "v/v"] = "w/v"
    """What its per cent are of: mass in volume, or volume in volume, as alcohol is."""
    keeps_hours: float = Field(gt=0)
    contact_min: float = Field(gt=0)
    caution: Text


class BenchPlace(Marked):
    key: Key
    name: Text
    where: Text
    """How people say where something is: "in the tub"."""
    capacity: int = Field(ge=1, le=1000)
    """How much room it has, in units of what usually lies there: tubs, pegs, widths of a rack."""
    holds: int = Field(default=1, ge=1, le=20)
    """How many small alike pieces share one unit of it: mouthpieces in a tub."""


class Hours(Marked):
    """Opening of the bench by weekday (0 = Monday): local times of day as decimal hours."""

    open: dict[str, tuple[tuple[float, float], ...]]

    @model_validator(mode="after")
    def _of_a_week(self) -> Hours:
        for day, spans in self.open.items():
            if day not in ("0", "1", "2", "3", "4", "5", "6"):
                raise ValueError(f"“{day[:20]}” is no day of the week, 0 (Monday) to 6")
            last = 0.0
            for start, end in spans:
                if not last <= start < end <= 24:
                    raise ValueError(f"{start:g} to {end:g} is no opening, or comes before the one before it")
                last = end
        return self


class Limits(Marked):
    """House numbers that belong to no family."""

    room_c: float = Field(ge=-20, le=60)
    room_rh: float = Field(gt=0, le=1)
    acclimatise_tolerance_c: float = Field(gt=0)
    a4_hz: float = Field(ge=380, le=480)
    specialist_days: float = Field(ge=0, le=365)
    """How long a specialist keeps an instrument, from sending it to having it back."""
    rewet_every_min: float = Field(gt=0)
    bath_c: float = Field(gt=0, le=45)
    """Warmest bath, °C."""
    detergent_ml_per_l: float = Field(gt=0)
    bath_useful_c: float = Field(gt=0, le=45)
    """Coolest bath that still cleans, °C."""
    lukewarm_c: float = Field(gt=0, le=45)
    cool_c: float = Field(gt=0, le=45)
    """Warmest water that counts as lukewarm, and as cool, °C."""
    tub_tau_min: float = Field(gt=0)
    """Time constant with which a tub cools until one was measured, minutes."""
    tap_hot_c: float = Field(gt=0, le=95)
    tap_cold_c: float = Field(ge=0, le=40)
    hot_case_c: float = Field(ge=20, le=70)
    cold_case_c: float = Field(ge=-30, le=20)
    """Inside of a case above and below which seams, cracks and finish are looked at without being asked, °C."""
    dry_left_g: float = Field(gt=0)
    """Water that may be left in something that is cased, g."""


class FairWear(Marked):
    """What a hire may leave without being charged: a kind of mark up to a size, on some zones or on all."""

    kind: Text
    up_to_mm: float | None = Field(default=None, gt=0)
    """None: of any size."""
    zones: tuple[Text, ...] = ()
    """None named: on every zone."""


class Cloth(Marked):
    """A pull-through of the shop, reused and washed."""

    key: Key
    name: Text
    width_mm: float = Field(gt=0, le=2000)
    thickness_mm: float = Field(gt=0, le=20)
    groups: tuple[Key, ...] = Field(min_length=1)
    """Groups of families whose joints it is for."""
    kind: str = ""
    """Its name in the steps, such as "slim swab"; it tells several kinds of one family apart."""
    stuff: Literal["silk", "cotton", "microfibre", "chamois", "bristle"] = "silk"
    cord_mm: float = Field(default=0.0, ge=0, le=5000)
    """Length of its cord; 0: not measured."""
    weight_mm: float = Field(default=0.0, ge=0, le=100)
    """Width of the weight on its cord; 0: it has none, or it was not measured."""
    wash_after: int = Field(gt=0)
    """Uses after which it is washed."""
    lasts: int = Field(gt=0)
    """Washes after which it is replaced."""


class House(Entry):
    place: tuple[BenchPlace, ...]
    fair_wear: tuple[FairWear, ...] = ()
    recipe: tuple[Recipe, ...]
    """Mixes that steps ask for."""
    cloth: tuple[Cloth, ...] = ()
    bench_recipe: tuple[Recipe, ...] = ()
    """Mixes that are made at the bench only: no step waits for them."""
    hours: Hours
    limits: Limits

    @property
    def every_recipe(self) -> tuple[Recipe, ...]:
        """All mixes that the house makes."""
        return self.recipe + self.bench_recipe
