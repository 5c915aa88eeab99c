"""Planning at size: ``python -m benchmarks.planning [SECONDS] [--job-shops] [--seeds]``.

60 jobs with some 550 operations, two people, four kinds of place, generated from a seed; cost in minutes:
100 × lateness + 10 × last finish + Σ finishes. What is wanted: a first plan within 100 ms and no dearer than the best
plain rule; after 10 s at least 2 % cheaper; the gap to what is proven; for 200 jobs a first plan within 500 ms.
"""

from __future__ import annotations

import json
import random
import sys
import time
from pathlib import Path

from creekbed.core.planning.dispatch import DispatchRule, dispatch_plan
from creekbed.core.planning.lower_bounds import lower_bound
from creekbed.core.planning.model import Operation, PlanJob, PlanPerson, Problem, Weights
from creekbed.core.planning.optimiser import improve
from creekbed.core.planning.plan_checker import violations
from creekbed.core.planning.schedule_builder import ScheduleBuilder
from creekbed.core.planning.schedule_report import plan_of

CAPACITY = {"sink": 1, "tub": 3, "rack": 12, "hook": 8}
SEED = 42


def bench(jobs: int = 60, seed: int = SEED, people: int = 2) -> Problem:
    """A bench of so many jobs: chains of hands and waits, some waits with a longest time and what ends them.

    Args:
        seed: of everything. people: who works, in one stretch of bench time.
    """
    chance = random.Random(seed)
    windows = ((0.0, 60.0 * jobs * 9),)
    rows = []
    for n in range(jobs):
        operations: list[Operation] = []
        count = chance.randint(7, 11)
        pending = ""
        for k in range(count):
            key, hands = f"o{k}", float(chance.randint(2, 9))
            after = (operations[-1].key,) if operations else ()
            if len(operations) > 2 and chance.random() < 0.15:
                after = (operations[-2].key,)  # a branch: something else goes on meanwhile
            kind = chance.random()
            if pending:
                operations.append(Operation(key, float(chance.randint(2, 5)), after=after, ends=pending))
                pending = ""
            elif kind < 0.16 and k < count - 1:
                least = float(chance.randint(10, 30))
                operations.append(Operation(key, hands, after, least, least + chance.randint(10, 30), "tub"))
                pending = key
            elif kind < 0.32:
                operations.append(Operation(key, hands, after, float(chance.randint(20, 90)), None, "rack"))
            elif kind < 0.38:
                operations.append(Operation(key, hands, after, float(chance.randint(10, 40)), None, "hook"))
            elif kind < 0.55:
                operations.append(Operation(key, hands, after, at="sink"))
            else:
                operations.append(Operation(key, hands, after))
        due = float(chance.randint(20 * jobs, 45 * jobs)) if chance.random() < 0.8 else None
        rows.append(
            PlanJob(
                f"J{n:03d}", tuple(operations), due, chance.choice((1.0, 1.0, 2.0)), float(chance.choice((0, 0, 0, 60)))
            )
        )
    return Problem(tuple(rows), CAPACITY, windows, people=tuple(PlanPerson(f"P{k}", windows) for k in range(people)))


def main() -> int:
    """Print what the planner does."""
    given = [a for a in sys.argv[1:] if not a.startswith("-")]
    seconds = float(given[0]) if given else 10.0
    problem = bench()
    dispatch_plan(problem)
    began = time.perf_counter()
    plan = dispatch_plan(problem)
    took = time.perf_counter() - began
    bound = lower_bound(problem)
    cost = plan.cost(problem)
    count = sum(len(j.operations) for j in problem.jobs)
    print(f"{len(problem.jobs)} jobs, {count} operations")
    broken = len(violations(problem, plan))
    print(f"first plan          {1000 * took:.0f} ms (at most 100), cost {cost:.0f}, broken {broken}")
    plain = {
        name: plan_of(DispatchRule(ScheduleBuilder(problem), pressing).run()).cost(problem)
        for name, pressing in (("least slack", 0.0), ("apparent tardiness cost", 1.0))
    }
    print("plain rules         " + ", ".join(f"{name} {value:.0f}" for name, value in plain.items()))
    better = improve(problem, plan, seconds)
    gain = 1 - better.cost / min(plain.values())
    print(f"after {seconds:.0f} s          cost {better.cost:.0f}, {gain:.1%} cheaper than the best plain rule (2 %), "
          f"{better.rounds} neighbourhoods, broken {len(violations(problem, better.plan))}")  # fmt: skip
    print(f"proven              nothing under {bound:.0f}: at most {better.gap:.1%} better is possible (aim 8 %)")
    large = bench(200)
    began = time.perf_counter()
    many = dispatch_plan(large)
    took = time.perf_counter() - began
    print(
        f"200 jobs            first plan in {1000 * took:.0f} ms (at most 500), broken {len(violations(large, many))}"
    )
    if "--job-shops" in sys.argv:
        job_shops()
    if "--seeds" in sys.argv:
        for jobs, count in ((60, 20), (120, 5)):
            seeds(jobs, count, seconds)
    return 0


def seeds(jobs: int, count: int, seconds: float) -> None:
    """Benches of seeds 1 to a number: gain on the best plain rule (2 % wanted), gap to what is proven (8 %)."""
    rows = []
    for seed in range(1, count + 1):
        problem = bench(jobs, seed)
        plain = min(plan_of(DispatchRule(ScheduleBuilder(problem), p).run()).cost(problem) for p in (0.0, 1.0))
        found = improve(problem, dispatch_plan(problem), seconds)
        broken = len(violations(problem, found.plan))
        rows.append((1 - found.cost / plain, found.gap))
        print(f"{jobs} jobs, seed {seed:2}    {rows[-1][0]:.1%} cheaper, gap {rows[-1][1]:.1%}, broken {broken}")
    gains, gaps = zip(*rows, strict=True)
    print(f"{jobs} jobs             least gain {min(gains):.1%}, widest gap {max(gaps):.1%}")


def job_shops(seconds: float = 60.0) -> None:
    """Published job shops through the planner's own model: each machine is somebody with one skill."""
    shops = json.loads((Path(__file__).parent.parent / "tests" / "reference" / "jobshop.json").read_text("utf-8"))
    always = ((0.0, 1e6),)
    for name, row in shops.items():
        jobs = tuple(
            PlanJob(f"j{n}", tuple(
                Operation(f"o{k}", float(d), (f"o{k - 1}",) if k else (), skill=f"m{m}")
                for k, (m, d) in enumerate(work)
            ))
            for n, work in enumerate(row["jobs"])
        )  # fmt: skip
        machines = sorted({f"m{m}" for work in row["jobs"] for m, _ in work})
        people = tuple(PlanPerson(m, always, frozenset((m,))) for m in machines)
        problem = Problem(jobs, {}, always, people=people, weights=Weights(0.0, 1.0, 0.0))
        began = time.perf_counter()
        found = improve(problem, dispatch_plan(problem), seconds)
        proof = "proven" if found.proven else f"nothing under {found.bound:.0f}"
        print(f"{name:<20}{found.cost:.0f} (best {row['optimum']}), {proof}, {time.perf_counter() - began:.1f} s")


if __name__ == "__main__":
    raise SystemExit(main())
