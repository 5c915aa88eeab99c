"""What becomes of the rows of a list, before anything is written."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import Any, Literal

from creekbed.core.errors import CreekbedError
from creekbed.core.quick_dataclasses import dataclass
from creekbed.interchange.tables import Table
from creekbed.workshop.bringing.columns import Kind

State = Literal["new", "changed", "same", "problem"]
STATES: dict[State, str] = {"new": "new", "changed": "changes", "same": "as it is", "problem": "cannot be brought"}
"""State of a row → words."""


@dataclass(frozen=True)
class ListRequest:
    """What somebody wants of a file.

    Attributes:
        columns: field → name of the file's column. families: words of the file → (family, size) as it was answered;
            kept as the shop's own words. made_of: "family.part" → key of a material or finish, for all that the file
            says nothing of.
    """

    kind: Kind
    columns: Mapping[str, str]
    families: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    made_of: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class RowProblem:
    """Why a row cannot be brought: the field that is wrong, "" for the row as a whole, and the words."""

    field: str
    words: str


@dataclass(frozen=True)
class RowPlan:
    """What becomes of one row.

    Attributes:
        line: of the file. key: tag, item or initials, as it will be known. words: what it becomes, or what changes.
        values: what is written, by field. problems: why it cannot be.
    """

    line: int
    key: str
    state: State
    words: str
    values: Mapping[str, Any] = field(default_factory=dict)
    problems: tuple[RowProblem, ...] = ()


@dataclass(frozen=True)
class Ask:
    """Words that could be several families, or none that is known: asked once for all rows alike.

    Attributes:
        words: as the file has them. candidates: keys of families, the likeliest first; empty: any. rows: how many.
    """

    words: str
    candidates: tuple[str, ...]
    rows: int


@dataclass(frozen=True)
class Bringing:
    """A list that was understood, ready to be taken over.

    Attributes:
        asks: what must be answered first. unsaid: "family.part" → how many rows say nothing of what that is made of.
    """

    request: ListRequest
    table: Table
    rows: tuple[RowPlan, ...]
    asks: tuple[Ask, ...] = ()
    unsaid: Mapping[str, int] = field(default_factory=dict)

    def count(self, state: State) -> int:
        """How many rows are in a state."""
        return sum(row.state == state for row in self.rows)

    @property
    def to_write(self) -> list[RowPlan]:
        """Rows that change something."""
        return [row for row in self.rows if row.state in ("new", "changed")]


class Row:
    """One row while it is read: its cells by field, and what is wrong with it."""

    def __init__(self, line: int, cells: Mapping[str, str]):
        self.line, self.cells = line, cells
        self.problems: list[RowProblem] = []

    def get(self, name: str) -> str:
        """The cell of a field; "" where it is empty or there is no such column."""
        return self.cells.get(name, "")

    def wrong(self, name: str, words: str) -> None:
        """Something is wrong with a field."""
        self.problems.append(RowProblem(name, words))

    def refused(self, name: str, error: CreekbedError) -> None:
        """A check of the shop refused a field."""
        self.wrong(name, error.happened)

    def problem(self, key: str = "") -> RowPlan:
        """The row as one that cannot be brought."""
        return RowPlan(self.line, key, "problem", " ".join(p.words for p in self.problems), {}, tuple(self.problems))


def rows_of(table: Table, request: ListRequest) -> list[Row]:
    """The rows of a table with their cells by field."""
    at = {name: table.columns.index(column) for name, column in request.columns.items() if column in table.columns}
    return [Row(line, {name: cells[n] for name, n in at.items()}) for line, cells in table.rows]
