"""What all models of the catalogue have in common. Every value carries its mark and source (see docs/sources.md)."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Mark = Literal["T", "P", "L", "H", "M", "S"]

MARK_WORDS: dict[str, str] = {
    "T": "fact of the trade",
    "P": "published",
    "L": "checked with a library",
    "H": "house default",
    "M": "from memory",
    "S": "the shop's own value",
}

Stage = Literal["book_in", "look_over", "clean", "fit_out", "settle", "after", "ready"]

Deed = Literal["play", "tune", "slide", "tighten", "join"]
"""What a step does that an open finding may forbid: sounding it, bringing strings up to pitch, drawing a hand slide,
tightening a bow's hair, joining what is torn."""

STAGES: tuple[Stage, ...] = ("book_in", "look_over", "clean", "fit_out", "settle", "after", "ready")

Verdict = Literal["ready", "bench", "specialist", "retire"]

VERDICT_ORDER: tuple[Verdict, ...] = ("ready", "bench", "specialist", "retire")

Key = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]*$", max_length=48)]

Text = Annotated[str, Field(min_length=1, max_length=400)]

LARGEST = 1e7
"""The largest number that a value may have, in any of the units used here: house default."""


class Entry(BaseModel):
    """Base of everything read from a file: frozen, unknown keys are errors, and so are numbers that cannot be true."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, defer_build=True)

    @model_validator(mode="before")
    @classmethod
    def _numbers(cls, table: Any) -> Any:
        if isinstance(table, dict):
            for name, value in table.items():
                field = cls.model_fields.get(name)
                if field is not None:
                    _believable(name, value, field.annotation in (bool, bool | None))
        return table


def _believable(name: str, value: Any, switch: bool) -> None:
    """Numbers that are finite and of a size that can be; true and false only where they are asked for.

    Raises:
        ValueError: one is not.
    """
    if isinstance(value, bool):
        if not switch:
            raise ValueError(f"{name}: true and false are no values here")
    elif isinstance(value, int | float):
        if not abs(value) <= LARGEST:  # nor what is no number
            raise ValueError(f"{name}: {value:.6g} cannot be true")
    elif isinstance(value, dict | list | tuple):  # tables in it that are entries see to themselves
        for inner in value.values() if isinstance(value, dict) else value:
            if not isinstance(inner, bool | dict):
                _believable(name, inner, switch)


class Marked(Entry):
    """A value or rule with where it comes from."""

    mark: Mark
    source: Text
