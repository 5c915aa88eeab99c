"""Asks about built jobs: what is done, in what order, with what."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from creekbed.core.catalogue.load import shipped
from creekbed.core.procedure.build import build
from creekbed.core.procedure.built import BuiltStep
from creekbed.core.procedure.imagine import find_family, imagine


@lru_cache(maxsize=512)
def _built(family: str, more: tuple[tuple[str, Any], ...]) -> tuple[BuiltStep, ...]:
    catalogue = shipped()
    given = {k: dict(v) if isinstance(v, tuple) and k not in ("missing",) else v for k, v in more}
    return tuple(build(catalogue, imagine(catalogue, find_family(catalogue, family), **given)))


class Job:
    """The built job of a family in a situation; answers are taken from its steps and moves alone."""

    def __init__(self, family: str, **more: Any):
        frozen = {k: tuple(sorted(v.items())) if isinstance(v, dict) else v for k, v in more.items()}
        self.steps = list(_built(family, tuple(sorted(frozen.items()))))
        self.family = family

    def step(self, key: str) -> BuiltStep:
        return next(s for s in self.steps if key in (s.key, s.base))

    def has(self, key: str) -> bool:
        return any(key in (s.key, s.base) for s in self.steps)

    def words(self, key: str) -> str:
        """Everything a step says, its moves included, in small letters."""
        s = self.step(key)
        parts = [s.what, s.amount, s.how, s.caution, s.reason, *s.tools]
        parts += [w for m in s.moves for w in (m.what, m.how, m.caution, m.reason)]
        return " ".join(parts).lower()

    def says(self, key: str, *words: str) -> bool:
        text = self.words(key)
        return all(w.lower() in text for w in words)

    def says_anywhere(self, *words: str) -> bool:
        text = " ".join(self.words(s.key) for s in self.steps)
        return all(w.lower() in text for w in words)

    def never_says(self, *words: str) -> bool:
        text = " ".join(self.words(s.key) for s in self.steps)
        return not any(w.lower() in text for w in words)

    def order(self, *names: str) -> bool:
        """Whether these steps or moves come in this order; a step is forced by the partial order itself."""
        places = [self._place(n) for n in names]
        return places == sorted(places) and len(set(places)) == len(places)

    def forced(self, first: str, then: str) -> bool:
        """Whether the partial order forces one step before another."""
        by_key = {s.key: s for s in self.steps}
        seen: set[str] = set()
        stack = list(self.step(then).after)
        while stack:
            key = stack.pop()
            if key == self.step(first).key:
                return True
            if key not in seen:
                seen.add(key)
                stack += by_key[key].after
        return False

    def _place(self, name: str) -> tuple[int, int]:
        for n, s in enumerate(self.steps):
            if name in (s.key, s.base):
                return n, -1
        for kind in ("apart", "together", "again", "pack"):
            for n, s in enumerate(self.steps):
                if s.kind == kind:
                    for k, m in enumerate(s.moves):
                        if m.key == name:
                            return n, k
        raise AssertionError(f"{self.family}: no step or move {name}")

    def moves(self, kind: str) -> list[str]:
        return [m.key for s in self.steps if s.kind == kind for m in s.moves]

    def agents(self) -> set[str]:
        found = {a for s in self.steps for a in s.agents}
        return found | {m.agent for s in self.steps for m in s.moves if m.agent}

    def enters(self, key: str) -> str:
        path = self.step(key).path
        return path.enters if path else ""
