"""Instruments by what people remember of them."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import TYPE_CHECKING

from sqlalchemy import ColumnElement, and_, or_, select

from creekbed.store.records import Hire, Instrument, Job
from creekbed.store.tables import TABLES

if TYPE_CHECKING:
    from creekbed.store.reader import Reader

_I, _H, _J = TABLES[Instrument], TABLES[Hire], TABLES[Job]
_HERE = ("open", "ready")


class Fleet:
    """Questions about the instruments."""

    def __init__(self, reader: Reader):
        self._reader = reader

    def find(self, words: Sequence[tuple[str, Collection[str]]], limit: int) -> list[Instrument]:
        """Instruments in which every word is found, by tag; none that cannot be read.

        Args:
            words: each with the keys of the families whose name has it. A word is looked for in tag, serial, size, and
                in group and code of the hire that is in force and of the job that is here.
        """
        tests = [self._holds(word, families) for word, families in words]
        return self._reader.fetch(Instrument, select(_I).where(and_(*tests)).order_by(_I.c.tag).limit(limit))

    def _holds(self, word: str, families: Collection[str]) -> ColumnElement[bool]:
        hired = select(_H.c.tag).where(
            _H.c.back_at.is_(None), or_(_has(_H.c.group_name, word), _has(_H.c.renter, word))
        )
        here = select(_J.c.tag).where(_J.c.state.in_(_HERE), _has(_J.c.next_group, word))
        own = [_has(column, word) for column in (_I.c.tag, _I.c.serial, _I.c.size)]
        return or_(*own, _I.c.family.in_(sorted(families)), _I.c.tag.in_(hired), _I.c.tag.in_(here))

    def jobs_here(self, tags: Collection[str]) -> dict[str, Job]:
        """The job of each of some instruments that is on the bench, or ready and not hired out."""
        question = select(_J).where(_J.c.tag.in_(sorted(tags)), _J.c.state.in_(_HERE)).order_by(_J.c.state.desc())
        return {job.tag: job for job in self._reader.fetch(Job, question)}

    def used(self) -> frozenset[str]:
        """Tags of the instruments that were hired out or on the bench before."""
        question = select(_H.c.tag).union(select(_J.c.tag))
        return frozenset(tag for (tag,) in self._reader.rows(question))

    def by_serial(self, serial: str) -> list[Instrument]:
        """Instruments of a serial number, whatever case its letters have; two at most."""
        return self._reader.fetch(Instrument, select(_I).where(_I.c.serial.ilike(_plain(serial), escape="\\")).limit(2))

    def groups(self, word: str, limit: int) -> list[str]:
        """Names of groups that have a word in them, and an instrument out or on the bench."""
        of_hires = select(_H.c.group_name).where(_H.c.back_at.is_(None), _has(_H.c.group_name, word))
        of_jobs = select(_J.c.next_group).where(_J.c.state.in_(_HERE), _has(_J.c.next_group, word))
        return [name for (name,) in self._reader.rows(of_hires.union(of_jobs).order_by("group_name").limit(limit))]


def _plain(text: str) -> str:
    """Text as it is, for LIKE."""
    return text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")


def _has(column: ColumnElement[str], word: str) -> ColumnElement[bool]:
    return column.ilike(f"%{_plain(word)}%", escape="\\")
