"""Conditions in catalogue files: ``"finding.pads has sticks"``, ``"policy.bow_loosening is turns"``.

A fact is a set of words under a dotted name. Three questions can be put to it:
``is WORD`` (exactly that word), ``has WORD, WORD`` (at least one of them), ``lacks WORD`` (none of them).
A fact that nobody stated is the empty set.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from pydantic import GetCoreSchemaHandler
from pydantic_core import core_schema

from creekbed.core.quick_dataclasses import dataclass

Facts = Mapping[str, frozenset[str]]
_FORM = re.compile(r"^([a-z_]+(?:\.[a-z0-9_]+)?) (is|has|lacks) ([a-zA-Z0-9_]+(?:, ?[a-zA-Z0-9_]+)*)$")


@dataclass(frozen=True)
class Condition:
    """One parsed condition."""

    fact: str
    verb: str
    words: frozenset[str]

    @classmethod
    def parse(cls, text: str) -> Condition:
        """Read a condition.

        Raises:
            ValueError: it is not of the form ``FACT is|has|lacks WORD[, WORD]``.
        """
        match = _FORM.match(text)
        if match is None:
            raise ValueError(f"{text!r} is not a condition of the form 'FACT is|has|lacks WORD, WORD'")
        return cls(match[1], match[2], frozenset(re.split(r", ?", match[3])))

    def holds(self, facts: Facts) -> bool:
        """Whether the facts meet the condition."""
        known = facts.get(self.fact, frozenset())
        if self.verb == "is":
            return known == self.words
        if self.verb == "has":
            return bool(known & self.words)
        return not known & self.words

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> core_schema.CoreSchema:
        return core_schema.no_info_plain_validator_function(
            lambda value: value if isinstance(value, cls) else cls.parse(str(value))
        )
