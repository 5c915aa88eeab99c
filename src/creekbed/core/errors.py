"""The small family of errors that people may see.

Every error says three things to a person: what happened, what is safe, and what to do next.
Programs read the class and ``fields``.
"""

from __future__ import annotations

from typing import Any


class CreekbedError(Exception):
    """Base of all errors meant for people.

    Args:
        happened: what went wrong, in plain words.
        safe: what is not affected ("Nothing was changed.").
        todo: what the person can do about it.
        fields: the same facts for programs.
    """

    def __init__(self, happened: str, *, safe: str = "Nothing was changed.", todo: str = "", **fields: Any):
        super().__init__(happened)
        self.happened = happened
        self.safe = safe
        self.todo = todo
        self.fields = fields

    def words(self, *, safe: bool = True) -> str:
        """The whole message: what happened, what is safe, what to do.

        Args:
            safe: say what is safe; where nothing was asked to change, there is no need.
        """
        return " ".join(part for part in (self.happened, self.safe if safe else "", self.todo) if part)


class BadInput(CreekbedError):
    """What was typed, scanned or read cannot be understood or cannot be true."""


class Refused(CreekbedError):
    """Understood, but it may not be done now; the message says why."""


class BadData(CreekbedError):
    """A catalogue file is wrong; ``fields`` hold ``file``, ``key`` and ``line``."""


class StoreProblem(CreekbedError):
    """The records cannot be opened or written; ``fields['kind']`` names the case."""


class DeviceProblem(CreekbedError):
    """A device on the bench does not answer, or answers nonsense."""
