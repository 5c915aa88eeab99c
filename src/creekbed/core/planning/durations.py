"""How long things take here: house defaults, replaced bit by bit by what the shop's own records say.

The logarithm of minutes over the house default is taken as the sum of what belongs to the operation, to the family at
that operation, to the person, to the day, and a rest, each normal about nothing. What was recorded moves each of them
away from nothing the more records there are (best linear unbiased prediction; Henderson 1975), so that one slow
afternoon does not make a rule, and how sure that is goes with it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import field
from statistics import NormalDist
from typing import TYPE_CHECKING, Any

from creekbed.core.quick_dataclasses import dataclass

if TYPE_CHECKING:  # numpy comes in where it is needed: the window opens without
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

SPREAD = {"operation": 0.30, "family": 0.15, "person": 0.15, "day": 0.10, "rest": 0.40}
"""Standard deviations of the logarithm before anything is recorded: house default."""
PRIOR_WEIGHT = 20.0
"""Weight of the pooled spread against the spread of one kind of work, in records: house default."""
ALL_WEIGHT = 6.0
"""How many records the house's spreads are worth together. The spread here is learned soon, for all kinds at once:
house default."""
BELIEVED = 8.0
"""A record that differs from the house default by more than this factor counts as forgotten: house default."""
LATEST = 3000
"""How many of the latest records are used: house default."""
ROUNDS = 8


@dataclass(frozen=True)
class Taken:
    """One record: minutes that hands took, with the house default; ``day`` is any number for a day."""

    operation: str
    family: str
    person: str
    day: int
    minutes: float
    house_min: float


@dataclass(frozen=True)
class WorkKind:
    """Work to come. ``key`` names it for draws that are the same in every comparison."""

    key: str
    operation: str
    family: str
    person: str
    day: int
    house_min: float


@dataclass
class Learned:
    """What is known of durations.

    Attributes:
        index: (kind, name) → row. mean: of each effect, shape (q,). cov: of them, shape (q, q).
        spread: standard deviation by kind, "rest" among them. records: how many were used.
        sure: as how many records the spreads are known: degrees of freedom of their common factor.
    """

    index: dict[tuple[str, str], int] = field(default_factory=dict)
    mean: Any = field(default_factory=list)
    cov: Any = field(default_factory=list)
    spread: dict[str, float] = field(default_factory=lambda: dict(SPREAD))
    records: int = 0
    sure: float = ALL_WEIGHT

    def median(self, operation: str, family: str, house_min: float, person: str = "") -> float:
        """Minutes that half of such work takes at most; without a person, that of the usual one."""
        rows = [self.index[n] for n in _names(operation, family, person) if n in self.index]
        return house_min * math.exp(sum(float(self.mean[r]) for r in rows)) if rows else house_min

    def deviation(self, operation: str, family: str, person: str = "") -> float:
        """Standard deviation of the logarithm of the next such duration, with what is still uncertain of its median."""
        variance = self.spread["rest"] ** 2 + self.spread["day"] ** 2
        rows = []
        for name in _names(operation, family, person or "?"):
            if name in self.index:
                rows.append(self.index[name])
            else:
                variance += self.spread[name[0]] ** 2
        variance += sum(float(self.cov[a][b]) for a in rows for b in rows)
        return math.sqrt(variance * self.sure / (self.sure - 2))  # of Student's t

    def draw(self, work: Sequence[WorkKind], times: int, seed: int = 11) -> Array:
        """Random durations, minutes, shape (times, len(work)); effects of person, day and operation are shared.

        The same seed gives the same luck to the same ``key``, whatever else is drawn (common random numbers).
        """
        import numpy as np

        luck: dict[tuple[str, str], Array] = {}
        effects = self._effects(times, seed)
        # how wide all spreads are is not sure either: one factor for each life (scaled inverse chi-square)
        wide = np.sqrt(self.sure / np.random.default_rng([seed, 2]).chisquare(self.sure, times))

        def effect(kind: str, name: str) -> Array:
            row = self.index.get((kind, name))
            if row is not None:
                return np.asarray(self.mean[row] + wide * effects[:, row])
            if (kind, name) not in luck:
                luck[kind, name] = wide * self.spread[kind] * _normal(seed, f"{kind}/{name}", times)
            return luck[kind, name]

        made = np.empty((times, len(work)))
        for n, w in enumerate(work):
            log = wide * self.spread["rest"] * _normal(seed, w.key, times) + effect("day", f"+{w.day}")
            for kind, name in _names(w.operation, w.family, w.person):
                log = log + effect(kind, name)
            made[:, n] = w.house_min * np.exp(log)
        return made

    def _effects(self, times: int, seed: int) -> Array:
        """What is not sure of each effect, about its mean, shape (times, q)."""
        import numpy as np

        size = len(self.mean)
        if not size:
            return np.zeros((times, 0))
        root = np.linalg.cholesky(self.cov + 1e-12 * np.eye(size))
        free = np.random.default_rng([seed, 1]).standard_normal((times, size))
        return np.asarray(free @ root.T)


def _names(operation: str, family: str, person: str) -> list[tuple[str, str]]:
    names = [("operation", operation), ("family", f"{family}/{operation}")]
    return [*names, ("person", person)] if person else names


def _normal(seed: int, key: str, times: int) -> Array:
    import numpy as np

    return np.random.default_rng([seed, *key.encode()]).standard_normal(times)


def learn(records: Sequence[Taken]) -> Learned:
    """What the records say, the latest last.

    Args:
        records: durations with the house defaults; what is far beyond belief is left out.

    Reference:
        C. R. Henderson, Biometrics 31, 423 (1975); the spreads by expectation and maximisation (Dempster, Laird and
        Rubin 1977): one factor for all of them with the house's counting as ``ALL_WEIGHT`` records, and about that each
        kind's own with ``PRIOR_WEIGHT``.
    """
    import numpy as np

    used = [
        r for r in records
        if r.minutes > 0 and r.house_min > 0 and 1 / BELIEVED <= r.minutes / r.house_min <= BELIEVED
    ][-LATEST:]  # fmt: skip
    if not used:
        return Learned()
    index: dict[tuple[str, str], int] = {}
    rows = []
    for r in used:
        names = [*_names(r.operation, r.family, r.person), ("day", str(r.day))]
        rows.append([index.setdefault(n, len(index)) for n in names])
    y = np.array([math.log(r.minutes / r.house_min) for r in used])
    size = len(index)
    design = np.zeros((len(used), size))
    for n, columns in enumerate(rows):
        design[n, columns] = 1.0
    kinds = [kind for kind, _ in index]
    square, right = design.T @ design, design.T @ y
    spread = dict(SPREAD)
    mean: Array = np.zeros(size)
    cov: Array = np.eye(size)
    for _ in range(ROUNDS):
        rest = spread["rest"] ** 2
        prior = np.array([spread[k] ** 2 for k in kinds])
        cov = np.asarray(np.linalg.inv(square / rest + np.diag(1 / prior)))
        mean = np.asarray(cov @ right / rest)
        misfit = float(((y - design @ mean) ** 2).sum() + np.einsum("ij,ij->", square, cov))
        squares = {"rest": (misfit, len(used))}
        for kind in ("operation", "family", "person", "day"):
            mine = [n for n, k in enumerate(kinds) if k == kind]
            squares[kind] = (float((mean[mine] ** 2 + np.diag(cov)[mine]).sum()), len(mine))
        over = sum(total / SPREAD[kind] ** 2 for kind, (total, _) in squares.items())
        wider = (ALL_WEIGHT + over) / (ALL_WEIGHT + sum(count for _, count in squares.values()))
        for kind, (total, count) in squares.items():
            house = PRIOR_WEIGHT * wider * SPREAD[kind] ** 2
            spread[kind] = math.sqrt((house + total) / (PRIOR_WEIGHT + count))
    return Learned(index, np.asarray(mean), np.asarray((cov + cov.T) / 2), spread, len(used), ALL_WEIGHT + len(used))


def left_min(median_min: float, deviation: float, elapsed_min: float) -> float:
    """Median of what is left of work that has gone on for a while, minutes.

    Args:
        median_min: of the whole, minutes. deviation: of its logarithm. elapsed_min: since it was taken up.
    """
    if elapsed_min <= 0 or median_min <= 0:
        return median_min
    normal = NormalDist()
    over = normal.cdf(-math.log(elapsed_min / median_min) / deviation)
    if over < 1e-12:
        return 0.1 * elapsed_min
    return median_min * math.exp(-deviation * normal.inv_cdf(over / 2)) - elapsed_min
