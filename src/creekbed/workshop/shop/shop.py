"""The shop: its records, its clock, what it knows, and one way to change anything."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import field, replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.load import shipped
from creekbed.core.catalogue.own import with_own_files
from creekbed.core.conventions import Conventions, use
from creekbed.core.errors import CreekbedError, Refused, StoreProblem
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.files import private_folder
from creekbed.store.journal import RowConflict, invert
from creekbed.store.layout import CATALOGUE
from creekbed.store.presence import Presence
from creekbed.store.problems import DamagedCell, from_error
from creekbed.store.reader import Reader
from creekbed.store.records import JournalEntry, Setting
from creekbed.store.store import Store
from creekbed.store.unit_of_work import Change
from creekbed.words.clocks import after_restart
from creekbed.workshop.planning.bench_planner import BenchPlanner
from creekbed.workshop.shop import own_values_file, undoing
from creekbed.workshop.shop.clock import Clock, SystemClock
from creekbed.workshop.shop.stored import FORMATS, conventions_in
from creekbed.workshop.shop.timekeeping import ClockNews, Timekeeper

BACKUP_AGAIN = timedelta(minutes=20)
"""A copy that could not be made is tried again after this time: house default."""


@dataclass
class Act:
    """One use case while it happens.

    Attributes:
        records: reads and changes the records. words, tag: what the journal says, and about which instrument.
        notes: what the person should hear, such as stock that runs short.
        erased: entries of the journal that this changes, see :mod:`creekbed.store.chain`.
        after: done once it is on disk; each says what the person should hear, or "".
    """

    records: Change
    now: datetime
    words: str = ""
    tag: str = ""
    notes: list[str] = field(default_factory=list)
    erased: dict[str, str] = field(default_factory=dict)
    after: list[Callable[[], str]] = field(default_factory=list)


@dataclass(frozen=True)
class Done:
    """What was acknowledged: number of its journal entry, action, words, tag, notes."""

    entry: int
    action: str
    words: str
    tag: str
    notes: tuple[str, ...] = ()


NOBODY = "NN"
"""Who works, as long as nobody has said it."""
SITS = "sits"
"""Setting, with the machine behind it: who sat there last."""
Listener = Callable[[Done], None]


class Shop:
    """Everything a use case needs.

    Args:
        folder: the data folder. clock: the time. person: who works (initials); who sat here last if not given.
        busy_ms: how long to wait for another program that holds the records.
        kind: "window" or "shell": who has it open, for the words of whoever must wait.

    Raises:
        StoreProblem: the records cannot be opened.
    """

    last_done: Done | None = None

    def __init__(
        self,
        folder: Path,
        clock: Clock | None = None,
        *,
        person: str = "",
        catalogue: Catalogue | None = None,
        busy_ms: int = 2000,
        kind: str = "window",
    ):
        self.folder = folder
        self.clock: Clock = clock or SystemClock()
        self.time = Timekeeper(self.clock)
        self.person = person or NOBODY
        self._person_given = bool(person)
        self.fixed_catalogue = catalogue
        self.in_the_way: set[int] = set()
        """Entries that could not be taken back: undo passes them by until something is done."""
        self.known_bench: object = None
        """What was read of the bench last, see :func:`creekbed.workshop.bench.bench_records.job_now`."""
        self._listeners: list[Listener] = []
        self._mine: set[int] = set()
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
        self.store = Store(self.folder, busy_ms=busy_ms)
        self.planner = BenchPlanner()
        settled = own_values_file.settle(self)
        self.catalogue = self.fixed_catalogue or with_own_files(shipped(), self.own_folder)
        with self.reading() as records:
            conventions = conventions_in(records)
            self._seen = records.journal.newest()
            self.time.take_over(records)
            if not self._person_given:
                self.person = _who_sits(records, self.clock.machine)
        self.own_file_words = settled
        use(conventions)

    @property
    def seat(self) -> str:
        """Which window this is, among those that have the shop open."""
        return self.presence.seat

    @property
    def now(self) -> datetime:
        return self.time.now()

    def close(self) -> None:
        """Let go of the records."""
        self.store.close()
        self.presence.close()

    def sit_down(self, person: str) -> None:
        """Somebody works at this computer from now on, and at its next start."""
        self.person = person
        self.set_setting(f"{SITS}.{self.clock.machine}", person, f"{person} sits here")

    def wait_in_steps(
        self, on_wait: Callable[[float], bool], while_writing: Callable[[float, bool], None] | None = None
    ) -> None:
        """As :meth:`creekbed.store.store.Store.wait_in_steps`."""
        self.store.wait_in_steps(on_wait, while_writing)

    def listen(self, listener: Listener) -> None:
        """Be told after every acknowledged use case."""
        self._listeners.append(listener)

    # --- others, and the shop's own files -----------------------------------------------------------------------

    def others(self) -> list[JournalEntry]:
        """What others have done at other windows since this was asked last, oldest first.

        Where one of them has changed the shop's own values, this window works by them from now on too.
        """
        with self.reading() as records:
            found = records.journal.since(self._seen)
            if found:
                self.time.take_over(records)
        if not found:
            return []
        self._seen = found[-1].id
        theirs = [e for e in found if e.id not in self._mine]
        self._mine = {n for n in self._mine if n > self._seen}
        if any(e.action == "own_value" for e in theirs):
            self.read_own_files()
        if any(e.action == FORMATS for e in theirs):
            with self.reading() as records:
                self.write_by(conventions_in(records))
        return theirs

    def write_by(self, conventions: Conventions) -> None:
        """Write times, numbers and quantities by these from now on; what was put into words is put so anew."""
        use(conventions)
        self.catalogue = replace(self.catalogue)

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

    # --- reading and changing -----------------------------------------------------------------------------------

    @contextmanager
    def reading(self) -> Iterator[Reader]:
        """Read the records: one state of them throughout.

        Raises:
            StoreProblem: the file cannot be read.
        """
        with self.store.read() as records:
            yield records

    @contextmanager
    def act(self, action: str, *, undoable: bool = True, person: str | None = None) -> Iterator[Act]:
        """Do a use case: one transaction with one journal entry; acknowledged when this returns, else nothing.

        Whatever the use case reads within, it reads as of this transaction: nobody changes it in between. Before it
        begins, the wall clock is compared with the boot-time clock: a clock that was set has an entry of its own in the
        same transaction.

        Raises:
            StoreProblem: busy, full, read-only, or changed by somebody since it was read; nothing was changed.
        """
        with self._turn() as (change, moved):
            act = Act(change, self.now)
            yield act
            entry = change.log(
                at=self.now, person=person or self.person, seat=self.seat, action=action, words=act.words, tag=act.tag,
                undoable=undoable, erased=act.erased,
            )  # fmt: skip
        self.last_done = done = self._acknowledged(entry, act, moved)
        self.in_the_way.clear()
        self._tell(done)

    @contextmanager
    def _turn(self, *, wait: bool = True) -> Iterator[tuple[Change, ClockNews | None]]:
        """A transaction that writes, with what was found of the clock; where it comes to nothing, so does that."""
        anchor, entries = self.time.anchor, list[JournalEntry]()
        try:
            with self.store.change(wait=wait) as change:
                entries = change.entries
                yield change, self._look_at_clock(change)
                self._mine.update(e.id for e in entries)  # others() may read them before this returns
        except BaseException:
            self.time.anchor = anchor
            self._mine.difference_update(e.id for e in entries)
            raise

    def _acknowledged(self, entry: JournalEntry, act: Act, moved: ClockNews | None) -> Done:
        """An entry is on disk: do what follows from it."""
        after = [self.store.witness(entry), *(_said_of(then) for then in act.after)]
        notes = (*act.notes, *([moved.words] if moved is not None else []), *(words for words in after if words))
        return Done(entry.id, entry.action, entry.words, entry.tag, notes)

    def _tell(self, done: Done) -> None:
        for listener in self._listeners:
            listener(done)

    @contextmanager
    def noting(self) -> Iterator[Change]:
        """Note what is no work at the bench: no journal entry, nothing to undo, no waiting.

        Raises:
            StoreProblem: held by another (``kind`` is "busy"), full or read-only; nothing was noted.
        """
        with self.store.note() as change:
            yield change

    # --- time ---------------------------------------------------------------------------------------------------

    def _look_at_clock(self, change: Change) -> ClockNews | None:
        """Compare the clocks before anything is written; a clock that was set gets its entry in this transaction."""
        moved = self.time.look(change)
        if moved is not None:
            change.log(at=self.now, person=self.person, seat=self.seat, action="clock.moved", words=moved.entry_words)
        return moved

    def look_at_clock(self) -> str:
        """Notice a clock that was set, keep running waits at their true length, and say so; "" when all is well.

        Called at start and once a minute; every action looks too. While another holds the records it is left for
        later.

        Raises:
            StoreProblem: the records cannot be written.
        """
        try:
            with self._turn(wait=False) as (change, moved):
                restarted = self.time.restarted
                ran = len(change.jobs.running_waits()) if restarted and moved is None else 0
                last = change.entries[-1] if change.entries else None
        except StoreProblem as problem:
            if problem.fields.get("kind") == "busy":
                return ""
            raise
        if moved is not None and last is not None:
            noted = self.store.witness(last)
            self._tell(Done(last.id, "clock.moved", moved.entry_words, ""))
            return " ".join(w for w in (moved.words, noted) if w)
        return after_restart(ran) if ran else ""

    # --- undo ---------------------------------------------------------------------------------------------------

    def undoable(self, limit: int = 20) -> list[JournalEntry]:
        """The last actions of who works at this window that can be taken back, newest first."""
        with self.reading() as records:
            return undoing.undoable(records, self, limit)

    def undo(self, number: int | None = None) -> Done:
        """Take back the last action, or the one with a number; the journal keeps both.

        Raises:
            Refused: there is nothing to take back, or something later depends on it; who did what is said, and the
                next undo takes back what is before it.
        """
        with self._turn() as (change, moved):
            last = undoing.to_undo(change, self, number)
            try:
                undoing.need_order(change, self, last)
                changes = invert(undoing.as_it_stands(change, last))
                undoing.need_files(self, changes)
            except Refused:
                self.in_the_way.add(last.id)
                raise
            try:
                change.revert(changes)
            except RowConflict as conflict:
                raise undoing.refusal(change, self, last, conflict) from None
            entry = change.log(
                at=self.now, person=self.person, seat=self.seat, action="undo", words=f"Undone: {last.words}",
                tag=last.tag, undoes=last.id,
            )  # fmt: skip
        done = self._acknowledged(entry, Act(change, entry.at), moved)
        self._tell(done)
        return done

    # --- copies -------------------------------------------------------------------------------------------------

    def backup_due(self) -> bool:
        """Whether today's copy is to be made now: there is none yet, and none failed a short while ago."""
        failed = self._backup_failed
        if failed is not None and timedelta(0) <= self.now - failed < BACKUP_AGAIN:
            return False
        from creekbed.store.maintenance import made_on

        return not made_on(self.folder, self.now)

    def daily_backup(self) -> Path | None:
        """Make today's copy if there is none yet.

        Raises:
            StoreProblem: it cannot be made, or the records are damaged; it is due again a little later the same day.
        """
        from creekbed.store.maintenance import back_up, made_on

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
        """A stored setting, or the default; also where it cannot be read, which the daily check tells."""
        with self.reading() as records:
            return setting_in(records, key, default)

    def change_setting(self, key: str, change: Callable[[Any], Any], words: str) -> Any:
        """Store what becomes of a setting, read and stored in one transaction; the new value.

        Args:
            change: makes the new value of the stored one, or of ``None``.
        """
        with self.act("setting", undoable=False) as act:
            value = change(setting_in(act.records, key))
            act.records.put(Setting(key=key, value={"v": value}))
            act.words = words
        return value

    def set_setting(self, key: str, value: Any, words: str) -> None:
        """Store a setting. It is on record, but undo is for work at the bench and passes it by."""
        with self.act("setting", undoable=False) as act:
            act.records.put(Setting(key=key, value={"v": value}))
            act.words = words


def setting_in(records: Reader, key: str, default: Any = None) -> Any:
    """A stored setting, or the default."""
    try:
        row = records.get(Setting, key)
    except DamagedCell:
        return default
    return default if row is None else row.value.get("v", default)


def _who_sits(records: Reader, machine: str) -> str:
    """Who sat at a machine last; in a shop from before that was noted, who did the last thing on record."""
    found = setting_in(records, f"{SITS}.{machine}")
    if found is not None or any(s.key.startswith(f"{SITS}.") for s in records.readable(Setting)):
        return str(found or NOBODY)
    last = records.first_of(JournalEntry, newest=True)
    return last.person if last is not None and last.person else NOBODY


def _said_of(then: Callable[[], str]) -> str:
    """What comes of something that follows from an action on record; it cannot make the action undone."""
    try:
        return then()
    except CreekbedError as error:
        return f"It is on record, but: {error.words()}"


@contextmanager
def free_to_note(shop: Shop) -> Iterator[Change | None]:
    """As :meth:`Shop.noting`; ``None`` while somebody else holds the records: a window does not wait for a note.

    Raises:
        StoreProblem: full or read-only; nothing was noted.
    """
    with ExitStack() as stack:
        try:
            change = stack.enter_context(shop.noting())
        except StoreProblem as problem:
            if problem.fields.get("kind") != "busy":
                raise
            yield None
            return
        yield change
