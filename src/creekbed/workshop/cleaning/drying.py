"""Drying by weight: weighings of what dries, what they say, and ending the wait when it is dry."""

from __future__ import annotations

from datetime import datetime

from creekbed.core.climate.drying import Drying
from creekbed.core.conventions import number
from creekbed.core.errors import BadInput, Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.reader import Reader
from creekbed.store.records import Job, Wait
from creekbed.words.drying import dry_by_weight
from creekbed.words.findings import drying_words
from creekbed.workshop.cleaning.dryness import weighed
from creekbed.workshop.shop.shop import Act, Shop


@dataclass(frozen=True)
class DryingView:
    """Weighings of one wait and what they say.

    Attributes:
        minutes, grams: since the first weighing. limit_g: water that may be left.
        fit: ``None`` while there are too few; problem: why there is none, in words.
    """

    wait_id: int
    name: str
    tag: str
    minutes: tuple[float, ...]
    grams: tuple[float, ...]
    limit_g: float
    fit: Drying | None
    problem: str

    def words(self) -> str:
        """What they say, in a line."""
        return drying_words(self.fit, self.problem, self.limit_g)


def can_be_weighed(wait: Wait) -> bool:
    """Whether a wait is a drying: on the rack, no contact time, and without a longest time as a brush rod has."""
    return not wait.wet and wait.place == "rack" and wait.max_minutes is None


def add_weighing(shop: Shop, wait_id: int, grams: float, step_g: float = 0.1) -> DryingView:
    """Note a weight now.

    Raises:
        BadInput: no weight that anything here has. Refused: the wait is over, or nothing that dries.
    """
    if not 0 < grams <= 30_000:
        raise BadInput("A weight is more than 0 and at most 30 kg.", todo="Zero the scale and weigh it again.")
    with shop.act("weighing") as act:
        wait, tag = _drying(act, wait_id)
        act.records.update(wait, weighings=[*wait.weighings, [act.now.isoformat(), grams, step_g]])
        act.tag, act.words = tag, f"{tag}: {wait.name.lower()}: {number(grams)} g"
    return drying_of(shop, wait_id)


def drying_of(shop: Shop, wait_id: int) -> DryingView:
    """What the weighings of a wait say.

    Raises:
        Refused: there is no such wait.
    """
    with shop.reading() as records:
        return _drying_in(records, shop, wait_id)


def _drying_in(records: Reader, shop: Shop, wait_id: int) -> DryingView:
    wait = records.get(Wait, wait_id)
    job = records.get(Job, wait.job_id) if wait is not None else None
    if wait is None or job is None:
        raise Refused("That wait is over.")
    times = [datetime.fromisoformat(row[0]) for row in wait.weighings]
    minutes = tuple((t - times[0]).total_seconds() / 60 for t in times)
    grams = tuple(float(row[1]) for row in wait.weighings)
    limit = shop.catalogue.house.limits.dry_left_g
    fit, problem = weighed(shop.catalogue, wait)
    return DryingView(wait_id, wait.name, job.tag, minutes, grams, limit, fit, problem)


def end_dry(shop: Shop, wait_id: int) -> None:
    """End a drying because its weighings say that it is dry.

    Raises:
        Refused: they do not say so.
    """
    with shop.act("weighed.dry") as act:
        view = _drying_in(act.records, shop, wait_id)
        if view.fit is None or not view.fit.is_dry:
            raise Refused("The weighings do not say yet that it is dry.", todo=view.words())
        wait, tag = _drying(act, wait_id)
        why = dry_by_weight(view.fit.left_g, len(view.grams))
        act.records.update(wait, ended_at=act.now, ended_why=why)
        act.tag, act.words = tag, f"{tag}: {wait.name.lower()} ended: {why}"


def _drying(act: Act, wait_id: int) -> tuple[Wait, str]:
    wait = act.records.get(Wait, wait_id)
    if wait is None or wait.ended_at is not None:
        raise Refused("That wait is over.")
    if not can_be_weighed(wait):
        raise Refused("That is nothing that dries on the rack.")
    job = act.records.get(Job, wait.job_id)
    assert job is not None
    return wait, job.tag
