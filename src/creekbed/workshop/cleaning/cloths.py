"""The shop's pull-throughs: which passes which joint, how often each was used since its wash, when it is worn out."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Any

from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.house import Cloth
from creekbed.core.catalogue.models.parts import Part
from creekbed.core.conventions import millimetres, number
from creekbed.core.errors import BadInput
from creekbed.core.hygiene.swabs import PHI, SwabFit, packing, swab_fit
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import line
from creekbed.store.reader import Reader
from creekbed.store.records import ClothRecord
from creekbed.words.cloths import taken_words, wanted_words, wash_it
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.cleaning.shelf import DRY_HOURS, counts, stuff_of
from creekbed.workshop.shop.shop import Act, Shop

MEASURES = ("name", "width_mm", "thickness_mm", "groups", "wash_after", "lasts", "stuff", "cord_mm", "weight_mm")
"""What a shop may set of a cloth for itself."""
MOST = 40


@dataclass(frozen=True)
class ClothView:
    """A cloth as the shop has it.

    Attributes:
        cloth: its measures, the shop's own over the shipped ones. phi: packing fraction, house or calibrated.
        uses: joints it went through since its wash. washes: so far. washed_at: the last time.
    """

    cloth: Cloth
    phi: float
    calibrated: bool
    uses: int
    washes: int
    washed_at: datetime | None

    @property
    def to_wash(self) -> bool:
        """Whether it has been used as often as it may be between washes."""
        return self.uses >= self.cloth.wash_after

    @property
    def worn(self) -> bool:
        """Whether it has been washed as often as it lasts."""
        return self.washes >= self.cloth.lasts

    def fit(self, family: Family, *parts: str) -> SwabFit | None:
        """How it goes through parts, one after another: as through the narrowest; ``None``: no part has a bore."""
        found = self.narrowest(family, *parts)
        return found[1] if found is not None else None

    def narrowest(self, family: Family, *parts: str) -> tuple[Part, SwabFit] | None:
        """The part whose bore it fills most, and how it goes through that; ``None``: no part has a bore."""
        c = self.cloth
        fits = [
            (part, swab_fit(c.width_mm, c.thickness_mm, part.bore, self.phi, stuff=c.stuff, cord_mm=c.cord_mm,
                            weight_mm=c.weight_mm))
            for part in map(family.find_part, parts) if part is not None and part.bore is not None
        ]  # fmt: skip
        return max(fits, key=lambda row: row[1].share, default=None)


def cloths(shop: Shop) -> list[ClothView]:
    """Every cloth of the shop, those to wash first."""
    with shop.reading() as records:
        return cloths_in(records, shop)


def cloths_in(records: Reader, shop: Shop) -> list[ClothView]:
    """As :func:`cloths`, from records that are open already."""
    own = {row.key: row for row in records.readable(ClothRecord)}
    shipped = {c.key: c for c in shop.catalogue.house.cloth}
    views = []
    for key in (*shipped, *(k for k in own if k not in shipped)):
        mine = own.get(key, ClothRecord(key=key))
        measures: dict[str, Any] = {k: v for k in MEASURES if (v := getattr(mine, k)) is not None}
        if key in shipped:
            cloth = shipped[key].model_copy(update=measures)
        else:
            cloth = Cloth(key=key, mark="S", source="entered at the bench", **measures)
        phi = PHI if mine.phi is None else mine.phi
        views.append(ClothView(cloth, phi, mine.phi is not None, mine.uses, mine.washes, mine.washed_at))
    return sorted(views, key=lambda v: (not v.to_wash, v.cloth.name))


def cloth_for(shop: Shop, family: Family, parts: Sequence[str], kind: str = "") -> tuple[ClothView, SwabFit] | None:
    """The cloth to take: the fullest that passes every bore on its way, else the slimmest that is snug; ``None``: none.

    Args:
        parts: whose bores it passes. kind: as the step names it; a cloth of another kind is not taken, one of no kind
            may be.
    """
    with shop.reading() as records:
        return cloth_in(records, shop, family, parts, kind)


def cloth_in(
    records: Reader, shop: Shop, family: Family, parts: Sequence[str], kind: str = ""
) -> tuple[ClothView, SwabFit] | None:
    """As :func:`cloth_for`, from records that are open already."""
    fits = [
        (view, fit)
        for view in cloths_in(records, shop)
        if (family.group in view.cloth.groups or family.key in view.cloth.groups)
        and (not kind or view.cloth.kind in ("", kind))
        for fit in [view.fit(family, *parts)]
        if fit is not None and fit.fit != "jams"
    ]
    passing = [row for row in fits if row[1].fit == "passes"]
    if passing:
        return max(passing, key=lambda row: row[1].share)
    return min(fits, key=lambda row: row[1].share, default=None)


def cloth_words(shop: Shop, view: JobView, step: BuiltStep) -> str:
    """Which cloth a step takes: "Silk for clarinets, passes (75 % of the bore)", or ""."""
    if not step.bores:
        return ""
    taken = cloth_for(shop, view.family, step.bores, step.cloth)
    if taken is None:
        return ""
    cloth, fit = taken
    found = cloth.narrowest(view.family, *step.bores) if len(step.bores) > 1 else None
    where = found[0].name if found is not None else ""
    return taken_words(cloth.cloth.name, fit.fit, fit.share, to_wash=cloth.to_wash, narrowest=where)


def used(act: Act, view: ClothView, *, fresh: bool = False) -> None:
    """Count one use inside a use case, so that undoing it takes the use back too.

    Args:
        fresh: a washed, dry one was taken for it: its uses begin anew.
    """
    uses = 1 if fresh else view.uses + 1
    act.records.put(replace(_record(act, view.cloth.key), uses=uses))
    if uses >= view.cloth.wash_after:
        act.notes.append(wash_it(view.cloth.name, uses))


def _record(act: Act, key: str) -> ClothRecord:
    """What is on record of a cloth, else a record of one on which nothing was done yet."""
    return act.records.get(ClothRecord, key) or ClothRecord(key=key)


def _named(act: Act, shop: Shop, key: str) -> ClothView:
    found = next((v for v in cloths_in(act.records, shop) if v.cloth.key == key), None)
    if found is None:
        raise BadInput("That cloth is not known here.")
    return found


def wanted(shop: Shop, views: Iterable[JobView]) -> list[tuple[JobView, Mapping[str, int]]]:
    """Each job with the washed, dry cloths that its open steps take from the shelf: stuff → how many."""
    known: dict[tuple[str, tuple[str, ...], str], str] = {}
    found: list[tuple[JobView, Mapping[str, int]]] = []
    for view in views:
        mine: Counter[str] = Counter()
        for step in (s.step for s in view.open_steps if s.step.fresh and s.step.cloth):
            pulled = ""
            if step.bores:
                key = (view.family.key, step.bores, step.cloth)
                if key not in known:
                    taken = cloth_for(shop, view.family, step.bores, step.cloth)
                    known[key] = taken[0].cloth.stuff if taken is not None else ""
                pulled = known[key]
            stuff = stuff_of(step, pulled)
            if stuff:
                mine[stuff] += 1
        found.append((view, mine))
    return found


@dataclass(frozen=True)
class WantedCloths:
    """How far what lies dry of a stuff lasts.

    Attributes:
        total: that the open jobs want. short: the job that finds none, in the order of departures. dirty: in the
            basket. dry_hours: until one that is washed now is dry.
    """

    total: int
    short: JobView | None
    dirty: int
    dry_hours: float

    @property
    def urgent(self) -> bool:
        """Whether some should be washed now."""
        return self.short is not None and self.dirty > 0

    def words(self) -> str:
        """The same in sentences."""
        departure = self.short.departure if self.short is not None else None
        tag = self.short.tag if self.short is not None else ""
        return wanted_words(self.total, tag, departure.name if departure else "", self.dirty, self.dry_hours)


def how_far(shop: Shop, stuff: str, views: Iterable[JobView]) -> WantedCloths:
    """How far what lies dry of a stuff lasts.

    Args:
        views: open jobs, in order of departure.
    """
    here, total, short = counts(shop)[stuff], 0, None
    for view, mine in wanted(shop, views):
        total += mine.get(stuff, 0)
        if total > here.dry and short is None:
            short = view
    return WantedCloths(total, short, here.dirty, DRY_HOURS[stuff])


def washed(shop: Shop, key: str) -> None:
    """A cloth was washed: its uses count from nothing, its washes go up by one."""
    with shop.act("cloth") as act:
        view = _named(act, shop, key)
        act.records.put(replace(_record(act, key), washed_at=act.now, washes=view.washes + 1, uses=0))
        act.words = f"{view.cloth.name}: washed, the {view.washes + 1}. time"


def replaced(shop: Shop, key: str) -> None:
    """A new cloth took its place."""
    with shop.act("cloth") as act:
        view = _named(act, shop, key)
        act.records.put(replace(_record(act, key), washed_at=act.now, washes=0, uses=0))
        act.words = f"{view.cloth.name}: replaced by a new one"


def calibrate(shop: Shop, key: str, rope_mm: float) -> None:
    """Measure a gathered cloth: its packing fraction follows.

    Raises:
        BadInput: a rope that cannot be.
    """
    with shop.act("cloth") as act:
        view = _named(act, shop, key)
        phi = round(packing(view.cloth.width_mm, view.cloth.thickness_mm, rope_mm), 4)
        act.records.put(replace(_record(act, key), phi=phi))
        act.words = f"{view.cloth.name}: gathered {millimetres(rope_mm)}, packing {number(phi, 2)}"


def add_cloth(shop: Shop, name: str, width_mm: float, thickness_mm: float, group: str) -> None:
    """Enter a cloth of the shop's own.

    Raises:
        BadInput: no name, measures that cannot be, a group that is not there, or too many cloths.
    """
    name = line(name, what="The name", longest=60)
    groups = {f.group for f in shop.catalogue.families.values()} | set(shop.catalogue.families)
    if not name or group not in groups:
        raise BadInput("A cloth needs a name and a family.", todo="Type both.")
    if not (0 < width_mm <= 2000 and 0 < thickness_mm <= 20):
        raise BadInput("Width and thickness of the cloth cannot be so.", todo="Measure them again.")
    with shop.act("cloth") as act:
        taken = {row.key for row in act.records.all_of(ClothRecord)}
        if len(taken) >= MOST:
            raise BadInput(f"There are {MOST} cloths already.", todo="Use one of them.")
        key = next(k for k in (f"own_{n}" for n in range(1, MOST + 2)) if k not in taken)
        act.records.add(ClothRecord(
            key=key, name=name, width_mm=width_mm, thickness_mm=thickness_mm, groups=[group], wash_after=6, lasts=80,
        ))  # fmt: skip
        act.words = f"New cloth: {name}"
