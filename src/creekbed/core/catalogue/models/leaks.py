"""Notes and pads that find a leak by playing."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from pydantic import Field, model_validator

from creekbed.core.catalogue.models.base import Entry, Key, Marked, Text

NOTE = r"^[A-G]#?\d$"


class LeakPad(Entry):
    """One pad of a woodwind, for finding leaks by playing."""

    key: Key
    name: Text
    part: Key
    vents: Annotated[str, Field(pattern=NOTE.replace("$", "$|^register$"))]
    """The note that sounds when it is the first open hole; or "register"."""
    rests: Literal["open", "closed"]
    often: float = Field(gt=0)
    """How often it leaks, against the others."""

    @property
    def register(self) -> bool:
        """Whether it is a register or octave pad: closed for every note that does not open it."""
        return self.vents == "register"


class PlayedNote(Entry):
    """One fingering: a written note, or words for a special one."""

    key: Text
    of: Annotated[str, Field(pattern=NOTE)] | None = None
    opens: tuple[Key, ...] = ()

    @model_validator(mode="after")
    def _placed(self) -> PlayedNote:
        if self.of is None and not re.match(NOTE, self.key):
            raise ValueError("a fingering in words needs “of”, the note it is a fingering of")
        return self


class LeakTable(Marked):
    """Which pads must be closed for which note, for one group of families."""

    key: Key
    pads: tuple[LeakPad, ...] = Field(min_length=2)
    scale: tuple[Text, ...] = Field(min_length=3)
    """The notes to begin with, from the top down."""
    notes: tuple[PlayedNote, ...] = Field(min_length=3)

    @model_validator(mode="after")
    def _whole(self) -> LeakTable:
        pads, notes = {p.key for p in self.pads}, {n.key for n in self.notes}
        for note in self.notes:
            if set(note.opens) - pads:
                raise ValueError(f"{note.key} opens a pad that is not there")
        if set(self.scale) - notes:
            raise ValueError("the scale has a note that is not there")
        return self

    def pad(self, key: str) -> LeakPad:
        """The pad with this key."""
        return next(p for p in self.pads if p.key == key)
