"""Whether chances come true: ``python -m benchmarks.chances [SHOPS]``.

Each simulated shop has true paces of its own: of operations, of families at them, of its people, of days. It has a past
from which the planner learns; then a bench is planned, the chance of each job is told, and the day is lived once with
the true paces. Over many shops, of the jobs that were given eight in ten, eight in ten must make it: within three in a
hundred overall, and in each band as far as the number of jobs can tell.
"""

from __future__ import annotations

import itertools
import random
import sys
from dataclasses import dataclass, replace

import numpy as np

from benchmarks.planning import bench
from creekbed.core.planning.chances import chances, live_through, work_of
from creekbed.core.planning.dispatch import dispatch_plan
from creekbed.core.planning.durations import SPREAD, Taken, learn
from creekbed.core.planning.model import Problem

OPERATIONS, FAMILIES, PEOPLE = 30, 5, ("P0", "P1")
BANDS = (0.0, 0.2, 0.4, 0.6, 0.8, 0.95, 1.0)


@dataclass
class Truth:
    """A shop's true paces, as logarithms; drawn from the same spreads as the planner starts from, wider or narrower."""

    chance: np.random.Generator
    wider: float = 1.0

    def __post_init__(self) -> None:
        self.known: dict[tuple[str, str], float] = {}

    def effect(self, kind: str, name: str) -> float:
        """What belongs to an operation, a family at it, a person or a day."""
        if (kind, name) not in self.known:
            self.known[kind, name] = float(self.wider * SPREAD[kind] * self.chance.standard_normal())
        return self.known[kind, name]

    def minutes(self, operation: str, family: str, person: str, day: str, house: float) -> float:
        """How long it takes this time."""
        log = self.effect("operation", operation) + self.effect("family", f"{family}/{operation}")
        log += self.effect("person", person) + self.effect("day", day)
        log += self.wider * SPREAD["rest"] * float(self.chance.standard_normal())
        return float(house * np.exp(log))


def shop(seed: int, wider: float = 1.0) -> list[tuple[float, bool]]:
    """One shop: (chance given, whether it was made) for each job with a departure."""
    chance = np.random.default_rng(seed)
    truth, pick = Truth(chance, wider), random.Random(seed)
    past = [
        Taken(o, f, p, day, truth.minutes(o, f, p, f"past{day}", 6.0), 6.0)
        for day in range(pick.choice((1, 4, 12)))
        for o, f, p in (
            (f"o{pick.randrange(OPERATIONS)}", f"f{pick.randrange(FAMILIES)}", pick.choice(PEOPLE)) for _ in range(25)
        )
    ]
    learned = learn(past)
    asked = bench(pick.randint(6, 14), seed=seed)
    named = {
        (j.key, o.key): (f"o{pick.randrange(OPERATIONS)}", f"f{n % FAMILIES}", o.hands_min)
        for n, j in enumerate(asked.jobs) for o in j.operations
    }  # fmt: skip
    problem = _with_medians(asked, learned.median, named, pick)
    plan = dispatch_plan(problem)
    work = work_of(plan.steps, named)
    told = chances(problem, plan, learned, work, times=1500).in_time
    lived = np.array([[truth.minutes(w.operation, w.family, w.person, f"+{w.day}", w.house_min) for w in work]])
    finish, _ = live_through(problem, plan, lived)
    due = {j.key: j.due for j in problem.jobs if j.due is not None}
    return [(told[k], bool(finish[k][0] <= due[k])) for k in told]


def _with_medians(problem: Problem, median: object, named: dict[tuple[str, str], tuple[str, str, float]],
                  pick: random.Random) -> Problem:  # fmt: skip
    """The bench planned with learned medians, its departures about when the jobs get ready."""
    jobs = tuple(
        replace(j, operations=tuple(replace(o, hands_min=median(*named[j.key, o.key])) for o in j.operations))  # type: ignore[operator]
        for j in problem.jobs
    )
    loose = replace(problem, jobs=tuple(replace(j, due=None) for j in jobs))
    ready = {k: f.finish or 0.0 for k, f in dispatch_plan(loose).forecasts.items()}
    return replace(problem, jobs=tuple(replace(j, due=ready[j.key] * pick.uniform(0.8, 1.5) + 15.0) for j in jobs))


def rows(shops: int, wider: float = 1.0) -> list[tuple[float, bool]]:
    """Of so many shops."""
    return [r for seed in range(shops) for r in shop(seed, wider)]


def main() -> int:
    """Print what came true."""
    shops = int(sys.argv[1]) if len(sys.argv) > 1 else 400
    worst = 0.0
    for wider in (1.0, 0.7, 1.4):
        found = rows(shops, wider)
        given, made = np.mean([c for c, _ in found]), np.mean([m for _, m in found])
        if wider == 1.0:
            worst = abs(given - made)
        spread = "as assumed" if wider == 1.0 else f"{wider:g} times as wide as assumed"
        print(f"{len(found)} jobs, true spreads {spread}: given {given:.1%} on average, made {made:.1%}")
        for low, high in itertools.pairwise(BANDS):
            mine = [(c, m) for c, m in found if low <= c < high or (c == high == 1.0)]
            if mine:
                error = 2 * (0.25 / len(mine)) ** 0.5
                print(f"  {low:4.0%} to {high:4.0%}: {len(mine):5} given {np.mean([c for c, _ in mine]):.1%}, "
                      f"made {np.mean([m for _, m in mine]):.1%} (known to {error:.1%})")  # fmt: skip
    return int(worst > 0.03)


if __name__ == "__main__":
    raise SystemExit(main())
