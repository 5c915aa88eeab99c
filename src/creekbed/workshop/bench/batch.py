"""Alike steps of several jobs done in one go."""

from __future__ import annotations

from collections.abc import Iterable

from creekbed.core.errors import CreekbedError, Refused
from creekbed.core.planning.place_capacity import Piece, taken
from creekbed.core.quick_dataclasses import dataclass
from creekbed.workshop.bench.job_steps import finish_step
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.bench.wait_view import WaitView
from creekbed.workshop.bench.waits import TOGETHER
from creekbed.workshop.planning.planning_input import piece_of
from creekbed.workshop.shop.shop import Shop


@dataclass(frozen=True)
class Alike:
    """Another job whose same step could be done now too."""

    job_id: int
    tag: str
    key: str
    family: str


def alike(shop: Shop, jobs: Iterable[JobView], waits: Iterable[WaitView], view: JobView, step: StepView) -> list[Alike]:
    """Jobs whose step of the same kind is ready and has room beside this one, in the order given.

    Args:
        jobs: every open job. waits: every wait that runs, for how full the place is. view, step: what is in hand.
    """
    wait = step.step.wait
    if wait is None or wait.place not in TOGETHER or step.state != "ready":
        return []
    place = next((p for p in shop.catalogue.house.place if p.key == wait.place), None)
    by_id = {v.job.id: v for v in jobs}
    room, holds = (place.capacity, place.holds) if place is not None else (1, 1)
    mine = Piece(wait.takes, wait.alike)
    lying = [piece_of(by_id[w.job_id], w) for w in waits if w.place == wait.place and w.job_id in by_id] + [mine]
    found: list[Alike] = []
    for other in by_id.values():
        if other.job.id == view.job.id or other.blocked:
            continue
        for theirs in other.steps:
            same = theirs.step.base == step.step.base and theirs.step.wait is not None
            if same and theirs.state == "ready" and theirs.step.what == step.step.what:
                lying.append(mine)
                if taken(lying, room, holds) > room:
                    return found
                found.append(Alike(other.job.id, other.tag, theirs.step.key, other.family.name))
                break
    return found


def finish_together(shop: Shop, first: tuple[int, str], others: Iterable[Alike]) -> None:
    """Finish a step and the same step of others; each is its own entry and can be undone by itself.

    Raises:
        Refused: one could not be finished; it says which were.
    """
    finish_step(shop, *first)
    done: list[str] = []
    for other in others:
        try:
            finish_step(shop, other.job_id, other.key)
        except CreekbedError as error:
            before = f"Done before it: {', '.join(done)}." if done else "The first one is done."
            raise Refused(f"{other.tag}: {error.happened}", todo=f"{error.todo} {before}".strip()) from error
        done.append(other.tag)
