"""Policies: topics in which practice differs, and their choices."""

from __future__ import annotations

from pydantic import model_validator

from creekbed.core.catalogue.models.base import Entry, Key, Mark, Marked, Text


class Choice(Entry):
    key: Key
    name: Text
    reason: Text
    values: dict[Key, float | str] = {}
    mark: Mark = "T"


class Topic(Marked):
    """A question on which practitioners disagree; the shop picks one answer."""

    key: Key
    name: Text
    families: tuple[Key, ...]
    """Families or whole groups."""
    default: Key
    default_why: Text
    choice: tuple[Choice, ...]
    hygiene: bool = False
    """A matter of hygiene, chemistry or safety: no group or teacher overrides it."""

    @model_validator(mode="after")
    def _default_exists(self) -> Topic:
        if self.default not in {c.key for c in self.choice}:
            raise ValueError(f"default {self.default!r} is not among the choices")
        return self

    def pick(self, key: str) -> Choice:
        """The choice named, or the default where the shop's file names one that is gone."""
        named = {c.key: c for c in self.choice}
        return named.get(key, named[self.default])
