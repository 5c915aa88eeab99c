"""The shop: its records, its clock, what it knows, and one way to change anything."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from functools import wraps
from pathlib import Path
from time import monotonic
from typing import Any, Concatenate, ParamSpec, TypeVar

from sqlalchemy import Engine, func, select
from sqlalchemy.exc import DBAPIError, OperationalError, StatementError
from sqlalchemy.orm import Session

from creekbed.core import text
from creekbed.core.catalogue.load import Catalogue, shipped
from creekbed.core.catalogue.own import with_own_files
from creekbed.core.errors import CreekbedError, Refused, StoreProblem
from creekbed.store.backup import back_up, made_on
from creekbed.store.chain import START, digest_of, next_chain, said
from creekbed.store.database import open_engine
from creekbed.store.files import private_folder
from creekbed.store.journal import Recorder, RowConflict, apply, invert
from creekbed.store.layout import CATALOGUE
from creekbed.store.presence import Presence
from creekbed.store.problems import DamagedCell, from_error, in_words, kind_of
from creekbed.store.tables import Entry, Setting
from creekbed.store.witness import Syncing, Witness, WitnessedEntry
from creekbed.workshop.planning.bench_planner import BenchPlanner
from creekbed.workshop.shop import own_values_file, undoing
from creekbed.workshop.shop.clock import Clock, SystemClock
from creekbed.workshop.shop.timekeeping import ClockMove, Timekeeper, running

PATIENCE_S = 30.0
"""So long an action waits for another program that holds the records: house default."""
STEP_MS, READ_MS = 40, 100
"""A window waits in such steps, and reads no longer than that: house default."""
BACKUP_AGAIN = timedelta(minutes=20)
"""A copy that could not be made is tried again after so long: house default."""
_LAST = select(Entry.id, Entry.chain).order_by(Entry.id.desc()).limit(1)


@dataclass
class Act:
    """One use case while it happens."""

    session: Session
    now: datetime
    words: str = ""
    tag: str = ""
    notes: list[str] = field(default_factory=list)
    """Things the person should hear, such as stock that runs short."""
    erased: dict[str, str] = field(default_factory=dict)
    """Entries of the journal that this changes, see :mod:`creekbed.store.chain`."""
    after: list[Callable[[], str]] = field(default_factory=list)
    """Done once it is on disk; each says what the person should hear, or ""."""


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
        busy_ms: how long to wait for another program that holds the records.
        kind: "window" or "shell": who has it open, for the words of whoever must wait.

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
        kind: str = "window",
    ):
        self.folder = folder
        self.clock: Clock = clock or SystemClock()
        self.time = Timekeeper(self.clock)
        self.person = person
        self.fixed_catalogue = catalogue
        self.in_the_way: set[int] = set()
        """Entries that could not be taken back: undo passes them by until something is done."""
        self.on_wait: Callable[[float], bool] | None = None
        """Told how many seconds an action has waited for the records; ``False`` gives up."""
        self.patience_s = PATIENCE_S
        self._listeners: list[Listener] = []
        self._mine: set[int] = set()
        self._changing: Act | None = None
        self._backup_failed: datetime | None = None
        try:
            self.presence = Presence(private_folder(folder), kind)
        except OSError as error:
            raise from_error(error, folder) from error
        try:
            self._open(busy_ms)
        except BaseException:
            self.presence.close()
            raise

    def _open(self, busy_ms: int) -> None:
        self.engine = open_engine(self.folder, busy_ms=busy_ms)
        self._reads = self.engine
        self._write = self.engine.execution_options(write=True)
        self._write_now = self.engine.execution_options(write=True, patience_ms=0)
        self.witness = Witness(self.folder)
        self._syncing = Syncing(self.witness)
        self.planner = BenchPlanner()
        settled = own_values_file.settle(self)
        self.catalogue = self.fixed_catalogue or with_own_files(shipped(), self.own_folder)
        with self.reading() as session:
            self._seen: int = session.scalar(select(func.max(Entry.id))) or 0
            self.time.take_over(session)
        self.own_file_words = settled

    @property
    def seat(self) -> str:
        """Which window this is, among those that have the shop open."""
        return self.presence.seat

    def close(self) -> None:
        """Let go of the records."""
        self.engine.dispose()
        self._syncing.close()
        self.presence.close()

    def wait_in_steps(self, on_wait: Callable[[float], bool]) -> None:
        """Wait for the records in short steps from now on, so that a window stays alive and a shell says so.

        Args:
            on_wait: as :attr:`on_wait`.
        """
        self.on_wait = on_wait
        self._reads = self.engine.execution_options(patience_ms=READ_MS)
        self._write = self.engine.execution_options(write=True, patience_ms=STEP_MS)

    def others(self) -> list[Entry]:
        """What others have done at other windows since this was asked last, oldest first.

        Where one of them has changed the shop's own values, this window works by them from now on too.
        """
        with self.reading() as session:
            found = list(session.scalars(select(Entry).where(Entry.id > self._seen).order_by(Entry.id)))
            if found:
                self.time.take_over(session)
        if not found:
            return []
        self._seen = found[-1].id
        theirs = [e for e in found if e.id not in self._mine]
        self._mine = {n for n in self._mine if n > self._seen}
        if any(e.action == "own_value" for e in theirs):
            self.read_own_files()
        return theirs

    def read_own_files(self) -> None:
        """Work by the shop's own families and values as they stand in their files now."""
        own_values_file.settle(self)
        self.catalogue = self.fixed_catalogue or with_own_files(shipped(), self.own_folder)

    @property
    def own_folder(self) -> Path:
        """Where the shop's own families and values lie."""
        return self.folder / CATALOGUE

    def catalogue_without_values(self) -> Catalogue:
        """The catalogue with the shop's own families, but none of its own values."""
        return self.fixed_catalogue or with_own_files(shipped(), self.own_folder, values=False)

    @property
    def now(self) -> datetime:
        return self.time.now()

    def listen(self, listener: Listener) -> None:
        """Be told after every acknowledged use case."""
        self._listeners.append(listener)

    @contextmanager
    def _in_words(self) -> Iterator[None]:
        """Errors of the database as problems in words.

        Raises:
            StoreProblem: what it is, by SQLite's own code.
        """
        try:
            yield
        except DBAPIError as error:
            raise from_error(error.orig or error, self.folder) from error
        except StatementError as error:
            if isinstance(error.orig, CreekbedError):
                raise error.orig from error
            raise

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session to read with; it sees one state of the records throughout.

        Raises:
            StoreProblem: the file cannot be read.
        """
        with self._in_words(), Session(self._reads) as session:
            yield session

    @contextmanager
    def act(self, action: str, *, undoable: bool = True, person: str | None = None) -> Iterator[Act]:
        """Do a use case: one transaction with its journal entry; acknowledged when this returns, else nothing.

        Before it begins, the wall clock is compared with the boot-time clock: a clock that was set has an entry of its
        own in the same transaction.

        Raises:
            StoreProblem: locked, full or read-only; nothing was changed.
        """
        with self._in_words(), self._turn() as (session, moved):
            recorder = Recorder(session)
            act = Act(session, self.now)
            yield act
            session.flush()
            recorder.stop()
            entry = self._entry(
                session, action=action, words=act.words, tag=act.tag, undoable=undoable, changes=recorder.changes,
                person=person or self.person, erased=act.erased,
            )  # fmt: skip
            done = self._commit(session, entry, act, moved)
        self.last_done = done
        self.in_the_way.clear()
        self._tell(done)

    @contextmanager
    def _turn(self, engine: Engine | None = None) -> Iterator[tuple[Session, ClockMove | None]]:
        """A transaction that writes, with what was found of the clock; where it comes to nothing, so does that."""
        anchor = self.time.anchor
        try:
            with Session(engine or self._write, expire_on_commit=False) as session:
                self._take_turn(session, wait=engine is None)
                yield session, self._look_at_clock(session)
        except BaseException:
            self.time.anchor = anchor
            raise

    def _take_turn(self, session: Session, *, wait: bool = True) -> None:
        """Hold the records for this transaction, waiting for who holds them now.

        Raises:
            sqlalchemy.exc.OperationalError: they are held for too long, or cannot be written.
        """
        began = monotonic()
        while True:
            try:
                session.connection()
                return
            except OperationalError as error:
                waited = monotonic() - began
                if not wait or self.on_wait is None or error.orig is None or kind_of(error.orig) != "locked":
                    raise
                session.rollback()
                if waited > self.patience_s or not self.on_wait(waited):
                    raise

    @contextmanager
    def noting(self) -> Iterator[Session]:
        """A session to note something that is no work at the bench: no journal entry, nothing to undo, no waiting.

        Raises:
            StoreProblem: held by another (``kind`` is locked), full or read-only; nothing was noted.
        """
        with self._in_words(), Session(self._write_now) as session:
            session.connection()  # held from here on, or refused at once
            yield session
            session.commit()

    last_done: Done | None = None

    def _entry(self, session: Session, *, action: str, person: str, words: str, tag: str = "", **more: Any) -> Entry:
        """The next entry of the journal, with its checksums."""
        last = session.execute(_LAST).first()
        number, chain = (last[0] + 1, last[1]) if last is not None else (1, START)
        entry = Entry(
            id=number, at=self.now, person=text.clean(person), seat=self.seat, action=action, words=text.clean(words),
            tag=tag, **{"undoes": None, "undoable": False, "changes": [], "erased": {}, **more},
        )  # fmt: skip
        entry.digest = digest_of(said(
            number, entry.at, entry.person, entry.seat, action, entry.words, tag, entry.undoes, entry.undoable,
            entry.changes,
        ))  # fmt: skip
        entry.chain = next_chain(chain, entry.digest)
        session.add(entry)
        session.flush()
        return entry

    def _commit(self, session: Session, entry: Entry, act: Act, moved: ClockMove | None) -> Done:
        """Have an entry on disk with the changes it describes: all of it, or nothing; then do what follows from it."""
        session.commit()
        self._mine.add(entry.id)
        after = [self._note_outside(WitnessedEntry(entry.id, entry.chain)), *(_said_of(then) for then in act.after)]
        notes = (*act.notes, *([moved.words] if moved is not None else []), *(words for words in after if words))
        return Done(entry.id, entry.action, entry.words, entry.tag, notes)

    def _note_outside(self, seen: WitnessedEntry) -> str:
        """Note the last entry beside the records; what a person should hear where that cannot be."""
        error: OSError | None
        try:
            self.witness.note(seen, wait=False)
            error = self._syncing.failed
            self._syncing.ask()
        except OSError as failed:  # it is on record; only the second place that counts along is missing
            error = failed
        if error is None:
            return ""
        return f"It is on record, but its number could not be noted beside the records: {in_words(error)}"

    def _tell(self, done: Done) -> None:
        for listener in self._listeners:
            listener(done)

    # --- time ---------------------------------------------------------------------------------------------------

    def _look_at_clock(self, session: Session) -> ClockMove | None:
        """Compare the clocks before anything is written; a clock that was set gets its entry in this transaction."""
        recorder = Recorder(session)
        moved = self.time.look(session)
        session.flush()
        recorder.stop()
        if moved is not None:
            entry = self._entry(
                session, action="clock.moved", person=self.person, words=moved.entry_words, changes=recorder.changes
            )
            self._mine.add(entry.id)
        return moved

    def look_at_clock(self) -> str:
        """Notice a clock that was set, keep running waits at their true length, and say so; "" when all is well.

        Called at start and once a minute; every action looks too. While another holds the records it is left for
        later.

        Raises:
            StoreProblem: the records cannot be written.
        """
        try:
            with self._in_words(), self._turn(self._write_now) as (session, moved):
                restarted = self.time.restarted
                ran = running(session) if restarted and moved is None else 0
                last = session.execute(_LAST).first()
                session.commit()
        except StoreProblem as problem:
            if problem.fields.get("kind") == "locked":
                return ""
            raise
        if moved is not None and last is not None:
            noted = self._note_outside(WitnessedEntry(last[0], last[1]))
            self._tell(Done(last[0], "clock.moved", moved.entry_words, ""))
            return " ".join(w for w in (moved.words, noted) if w)
        waits = f"{ran} waits ran" if ran > 1 else "a wait ran"
        return (
            f"The computer was started anew while {waits}. How long that took is known by its clock alone: "
            "see that the clock is right." if ran else ""
        )  # fmt: skip

    # --- undo ---------------------------------------------------------------------------------------------------

    def undoable(self, limit: int = 20) -> list[Entry]:
        """The last actions of who works at this window that can be taken back, newest first."""
        with self.reading() as session:
            return undoing.undoable(session, self, limit)

    def undo(self, number: int | None = None) -> Done:
        """Take back the last action, or the one with a number; the journal keeps both.

        Raises:
            Refused: there is nothing to take back, or something later depends on it; who did what is said, and the
                next undo takes back what is before it.
        """
        with self._in_words(), self._turn() as (session, moved):
            last = undoing.to_undo(session, self, number)
            try:
                undoing.need_order(session, self, last)
                changes = invert(undoing.as_it_stands(session, last))
                undoing.need_files(self, changes)
            except Refused:
                self.in_the_way.add(last.id)
                raise
            try:
                apply(session.connection(), changes)
            except RowConflict as conflict:
                raise undoing.refusal(session, self, last, conflict) from None
            entry = self._entry(
                session, action="undo", person=self.person, words=f"Undone: {last.words}", tag=last.tag,
                undoes=last.id, changes=changes,
            )  # fmt: skip
            done = self._commit(session, entry, Act(session, entry.at), moved)
        self._tell(done)
        return done

    # --- copies -------------------------------------------------------------------------------------------------

    def backup_due(self) -> bool:
        """Whether today's copy is to be made now: there is none yet, and none failed a short while ago."""
        failed = self._backup_failed
        if failed is not None and timedelta(0) <= self.now - failed < BACKUP_AGAIN:
            return False
        return not made_on(self.folder, self.now)

    def daily_backup(self) -> Path | None:
        """Make today's copy if there is none yet.

        Raises:
            StoreProblem: it cannot be made, or the records are damaged; it is due again a little later the same day.
        """
        if made_on(self.folder, self.now):
            return None
        try:
            made = back_up(self.folder, "daily", now=self.now)
        except StoreProblem:
            self._backup_failed = self.now
            raise
        self._backup_failed = None
        return made

    # --- settings -----------------------------------------------------------------------------------------------

    def setting(self, key: str, default: Any = None) -> Any:
        """A stored setting, or the default; also where it cannot be read, which the daily reading tells."""
        with self.reading() as session:
            try:
                row = session.get(Setting, key)
            except DamagedCell:
                return default
            return default if row is None else row.value.get("v", default)

    def set_setting(self, key: str, value: Any, words: str) -> None:
        """Store a setting. It is on record, but undo is for work at the bench and passes it by."""
        with self.changing() as act:
            self.keep_setting(act, key, value)
            act.words = f"{act.words}; {words}" if act.words else words

    @contextmanager
    def changing(self) -> Iterator[Act]:
        """One action for all settings that are read, checked and stored within: nobody else stores one in between.

        What is read within it is as it was before: what was just stored is not read again.
        """
        if self._changing is not None:
            yield self._changing
            return
        with self.act("setting", undoable=False) as act:
            self._changing = act
            try:
                yield act
            finally:
                self._changing = None

    def keep_setting(self, act: Act, key: str, value: Any) -> None:
        """Store a setting inside a use case, so that undoing that takes it back too."""
        row = act.session.get(Setting, key)
        if row is None:
            act.session.add(Setting(key=key, value={"v": value}))
        else:
            row.value = {"v": value}


P = ParamSpec("P")
R = TypeVar("R")


def one_change(use_case: Callable[Concatenate[Shop, P], R]) -> Callable[Concatenate[Shop, P], R]:
    """A use case whose settings are read, checked and stored in one action."""

    @wraps(use_case)
    def inside(shop: Shop, /, *args: P.args, **named: P.kwargs) -> R:
        with shop.changing():
            return use_case(shop, *args, **named)

    return inside


def _said_of(then: Callable[[], str]) -> str:
    """What comes of something that follows from an action on record; it cannot make the action undone."""
    try:
        return then()
    except CreekbedError as error:
        return f"It is on record, but: {error.words()}"


@contextmanager
def free_to_note(shop: Shop) -> Iterator[Session | None]:
    """As :meth:`Shop.noting`; ``None`` while somebody else holds the records: a window does not wait for a note.

    Raises:
        StoreProblem: full or read-only; nothing was noted.
    """
    with ExitStack() as stack:
        try:
            session = stack.enter_context(shop.noting())
        except StoreProblem as problem:
            if problem.fields.get("kind") != "locked":
                raise
            yield None
            return
        yield session
