"""The shop: its records, its clock, what it knows, and one way to change anything."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from creekbed.core.catalogue.load import Catalogue, shipped
from creekbed.core.catalogue.own import with_own_files
from creekbed.core.errors import Refused
from creekbed.store.database import back_up, from_sqlite, open_engine
from creekbed.store.journal import Recorder, apply, invert
from creekbed.store.tables import ClockAnchor, Entry, Job, Setting, Wait
from creekbed.workshop.clock import Clock, SystemClock, Tick, moved_by
from creekbed.workshop.planner import BenchPlanner


@dataclass
class Act:
    """One use case while it happens."""

    session: Session
    now: datetime
    words: str = ""
    tag: str = ""
    notes: list[str] = field(default_factory=list)
    """Things the person should hear, such as stock that runs short."""


@dataclass(frozen=True)
class Done:
    """What was acknowledged: journal entry, words, tag, notes."""

    entry: int
    action: str
    words: str
    tag: str
    notes: tuple[str, ...] = ()


Listener = Callable[[Done], None]


class Shop:
    """Everything a use case needs.

    Args:
        folder: the data folder. clock: the time. person: who works (initials).

    Raises:
        StoreProblem: the records cannot be opened.
    """

    def __init__(
        self,
        folder: Path,
        clock: Clock | None = None,
        *,
        person: str = "IW",
        catalogue: Catalogue | None = None,
        busy_ms: int = 2000,
    ):
        self.folder = folder
        self.clock: Clock = clock or SystemClock()
        self.person = person
        self.fixed_catalogue = catalogue
        self.catalogue = catalogue or with_own_files(shipped(), self.own_folder)
        self.planner = BenchPlanner()
        self.engine = open_engine(folder, busy_ms=busy_ms)
        self._write = self.engine.execution_options(write=True)
        self._listeners: list[Listener] = []
        self._mine: set[int] = set()
        with self.reading() as session:
            self._seen: int = session.scalar(select(func.max(Entry.id))) or 0

    def close(self) -> None:
        """Let go of the records."""
        self.engine.dispose()

    def others(self) -> list[Entry]:
        """What others have done at other windows since this was asked last, oldest first.

        Where one of them has changed the shop's own values, this window works by them from now on too.
        """
        with self.reading() as session:
            found = list(session.scalars(select(Entry).where(Entry.id > self._seen).order_by(Entry.id)))
        if not found:
            return []
        self._seen = found[-1].id
        theirs = [e for e in found if e.id not in self._mine]
        self._mine = {n for n in self._mine if n > self._seen}
        if any(e.action == "own_value" for e in theirs):
            self.catalogue = self.fixed_catalogue or with_own_files(shipped(), self.own_folder)
        return theirs

    @property
    def own_folder(self) -> Path:
        """Where the shop's own families and values lie."""
        return self.folder / "catalogue"

    def catalogue_without_values(self) -> Catalogue:
        """The catalogue with the shop's own families, but none of its own values."""
        return self.fixed_catalogue or with_own_files(shipped(), self.own_folder, values=False)

    @property
    def now(self) -> datetime:
        return self.clock.now()

    def listen(self, listener: Listener) -> None:
        """Be told after every acknowledged use case."""
        self._listeners.append(listener)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session to read with; it sees one state of the records throughout.

        Raises:
            StoreProblem: the file cannot be read.
        """
        try:
            with Session(self.engine) as session:
                yield session
        except DBAPIError as error:
            raise from_sqlite(error.orig or error, self.folder) from error

    @contextmanager
    def act(self, action: str, *, undoable: bool = True, person: str | None = None) -> Iterator[Act]:
        """Do a use case: one transaction with its journal entry; acknowledged when this returns, else nothing.

        Raises:
            StoreProblem: locked, full or read-only; nothing was changed.
        """
        try:
            with Session(self._write, expire_on_commit=False) as session:
                recorder = Recorder(session)
                act = Act(session, self.now)
                yield act
                session.flush()
                recorder.stop()
                entry = Entry(
                    at=act.now,
                    person=person or self.person,
                    action=action,
                    words=act.words,
                    tag=act.tag,
                    undoable=undoable,
                    changes=recorder.changes,
                )
                done = self._commit(session, entry, act.notes)
        except DBAPIError as error:
            raise from_sqlite(error.orig or error, self.folder) from error
        self.last_done = done
        self._tell(done)

    @contextmanager
    def noting(self) -> Iterator[Session]:
        """A session to note something that is no work at the bench: no journal entry, nothing to undo.

        Raises:
            StoreProblem: locked, full or read-only; nothing was noted.
        """
        try:
            with Session(self._write) as session:
                yield session
                session.commit()
        except DBAPIError as error:
            raise from_sqlite(error.orig or error, self.folder) from error

    last_done: Done | None = None

    def _commit(self, session: Session, entry: Entry, notes: Sequence[str] = ()) -> Done:
        """Write an entry with the changes it describes, and where time stands: all of it, or nothing."""
        session.add(entry)
        self._see(session, self.clock.tick())
        session.commit()
        self._mine.add(entry.id)
        return Done(entry.id, entry.action, entry.words, entry.tag, tuple(notes))

    def _tell(self, done: Done) -> None:
        for listener in self._listeners:
            listener(done)

    def _see(self, session: Session, tick: Tick) -> None:
        anchor = session.get(ClockAnchor, 1)
        if anchor is None:
            session.add(ClockAnchor(id=1, utc=tick.utc, boot_id=tick.boot_id, boot_seconds=tick.boot_seconds))
        else:
            anchor.utc, anchor.boot_id, anchor.boot_seconds = tick.utc, tick.boot_id, tick.boot_seconds

    # --- time ---------------------------------------------------------------------------------------------------

    def look_at_clock(self) -> str:
        """Notice a clock that was set, move running waits with it, and say so; "" when all is well.

        Called at start and once a minute.
        """
        tick = self.clock.tick()
        with self.reading() as session:
            anchor = session.get(ClockAnchor, 1)
            before = None if anchor is None else Tick(anchor.utc, anchor.boot_id, anchor.boot_seconds)
            running = session.scalars(select(Wait.id).where(Wait.ended_at.is_(None))).first() is not None
        step = moved_by(before, tick) if before is not None else None
        if before is None or not step:
            with Session(self._write) as session:
                self._see(session, tick)
                session.commit()
            return ""
        minutes = round(abs(step.total_seconds()) / 60)
        way = "back" if step.total_seconds() < 0 else "forward"
        same_boot = before.boot_id == tick.boot_id
        with self.act("clock.moved", undoable=False) as act:
            for wait in act.session.scalars(select(Wait).where(Wait.ended_at.is_(None))):
                wait.started_at += step
                if wait.wet_since is not None:
                    wait.wet_since += step
            shut = select(Job).where(Job.state == "open", Job.release_at > before.utc)
            for job in act.session.scalars(shut):
                assert job.release_at is not None
                job.release_at += step
                job.opened_at += step
            for key in ("bath", "reed_bath"):
                kept = act.session.get(Setting, key)
                value = dict(kept.value.get("v") or {}) if kept is not None else {}
                for name in set(value) & {"since", "filled_at"}:
                    value[name] = (datetime.fromisoformat(value[name]) + step).isoformat()
                if kept is not None and value:
                    kept.value = {"v": value}
            length = f"{minutes} min" if minutes else "less than a minute"
            act.words = f"The computer's clock was set {way} by {length}; running waits were kept as they were"
        if not same_boot:
            return (
                f"The computer's clock stands {length} before the last entry. Nothing is lost. "
                "Waits count only the time that is certain: look at each, and set the clock right."
            )
        return (
            f"The computer's clock was set {way} by {length}. {'Waits go on by true time.' if running else ''}".strip()
        )

    # --- undo ---------------------------------------------------------------------------------------------------

    def undoable(self, limit: int = 20) -> list[Entry]:
        """The last actions of who works here that can be taken back, newest first; nobody undoes another's work."""
        with self.reading() as session:
            undone = select(Entry.undoes).where(Entry.undoes.is_not(None))
            query = (
                select(Entry)
                .where(Entry.undoes.is_(None), Entry.undoable.is_(True), Entry.id.not_in(undone))
                .where(Entry.person == self.person)
                .order_by(Entry.id.desc())
                .limit(limit)
            )
            return list(session.scalars(query))

    def undo(self) -> Done:
        """Take back the last action; the journal keeps both.

        Raises:
            Refused: there is nothing to take back, or something later depends on it.
        """
        last = next(iter(self.undoable(1)), None)
        if last is None:
            raise Refused("There is nothing to undo.")
        try:
            with Session(self._write, expire_on_commit=False) as session:
                changes = invert(last.changes)
                apply(session.connection(), changes)
                words = f"Undone: {last.words}"
                entry = Entry(
                    at=self.now, person=self.person, action="undo", words=words, tag=last.tag,
                    undoes=last.id, undoable=False, changes=changes,
                )  # fmt: skip
                done = self._commit(session, entry)
        except DBAPIError as error:
            raise from_sqlite(error.orig or error, self.folder) from error
        self._tell(done)
        return done

    def daily_backup(self) -> Path | None:
        """Make today's backup if there is none yet.

        Raises:
            StoreProblem: it cannot be made, or the records are damaged.
        """
        stamp = self.now.strftime("%Y%m%d")
        if any((self.folder / "backups").glob(f"{stamp}T*-daily.sqlite3")):
            return None
        return back_up(self.folder, "daily", now=self.now)

    # --- settings -----------------------------------------------------------------------------------------------

    def setting(self, key: str, default: Any = None) -> Any:
        """A stored setting, or the default."""
        with self.reading() as session:
            row = session.get(Setting, key)
            return default if row is None else row.value.get("v", default)

    def set_setting(self, key: str, value: Any, words: str) -> None:
        """Store a setting. It is on record, but undo is for work at the bench and passes it by."""
        with self.act("setting", undoable=False) as act:
            self.keep_setting(act, key, value)
            act.words = words

    def keep_setting(self, act: Act, key: str, value: Any) -> None:
        """Store a setting inside a use case, so that undoing that takes it back too."""
        row = act.session.get(Setting, key)
        if row is None:
            act.session.add(Setting(key=key, value={"v": value}))
        else:
            row.value = {"v": value}
