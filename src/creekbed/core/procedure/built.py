"""Steps as they are built for one job."""

from __future__ import annotations

from creekbed.core.catalogue.models.base import Stage
from creekbed.core.catalogue.models.steps import SwabPath
from creekbed.core.procedure.moves import Move
from creekbed.core.quick_dataclasses import dataclass


@dataclass(frozen=True)
class BuiltWait:
    """A wait as it will really run: minutes, place, wet or not, and what happens at its end.

    Attributes:
        takes: how much of the place's room it takes. alike: with what it may share a vessel there; "": with nothing.
        dries: whether it dries in the room's air, which makes it longer or shorter.
    """

    name: str
    place: str
    where: str
    min_minutes: float
    max_minutes: float | None
    wet: bool
    at_end: str
    takes: int = 1
    alike: str = ""
    dries: bool = False


@dataclass(frozen=True)
class BuiltStep:
    """One step of one job, all words filled in; ``after`` names keys within the same job."""

    key: str
    base: str
    stage: Stage
    kind: str
    what: str
    amount: str
    how: str
    caution: str
    reason: str
    part: str | None
    agent: str | None
    agents: tuple[str, ...]
    touches: tuple[str, ...]
    exposure: str
    moves: tuple[Move, ...]
    path: SwabPath | None
    sign: str
    place: str | None
    skill: str
    hands_min: float
    setup_min: float
    wait: BuiltWait | None
    ends: str | None
    after: tuple[str, ...]
    tools: tuple[str, ...]
    supplies: tuple[tuple[str, float], ...]
    policy: str
    changes: bool
    optional: bool
    quarantine: bool
    mark: str
    source: str
    deeds: frozenset[str] = frozenset()
    """Those of ``after`` whose wait may still run: it is enough that they are done."""
    checks: tuple[str, ...] = ()
    """The checks that a look asks, in their order."""
    held: tuple[str, ...] = ()
    """Checks whose open finding forbids it; empty where it may be done."""
    pieces: frozenset[str] = frozenset()
    """The pieces that are in somebody's hands meanwhile, and lie where its wait is."""
    cleans: str = ""
    cloth: str = ""
    fresh: bool = False
    stuff: str = ""
    side: str = "none"
    blows: bool = False
    bows: bool = False
    wears: tuple[str, ...] = ()
    through: tuple[str, ...] = ()
    dries: bool = False
    wets: bool | None = None
    tension: str = ""
    takes: str = ""
    logs: str | None = None
    pulls: float = 0.0
    """How often a cloth is drawn through."""
    note: str = ""
    refused: tuple[str, ...] = ()
    """Why the step is refused: its agents must not touch its part."""

    @property
    def before(self) -> frozenset[str]:
        """Everything that must be done before it: what it comes after, and what began the wait that it ends."""
        return frozenset((*self.after, *((self.ends,) if self.ends else ())))

    @property
    def waits_for(self) -> frozenset[str]:
        """Of what is before it, that whose wait must be over too."""
        return self.before - self.deeds

    @property
    def bores(self) -> tuple[str, ...]:
        """The parts whose bores a cloth passes, in at the first; none where it passes no bore."""
        return () if self.path is None or self.part is None else (self.part, *self.through)

    @property
    def in_quarantine(self) -> bool:
        """Whether it may be done in quarantine: what treats it, and ticking what lies in the open case."""
        return self.quarantine or self.kind == "contents"
