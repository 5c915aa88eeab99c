"""The store: one way to read a shop's records, one way to change them, one way to note what is no work at the bench."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from time import monotonic
from typing import TypeVar

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import DBAPIError, OperationalError, StatementError

from creekbed.core.errors import CreekbedError
from creekbed.store.disk_thread import DiskThread
from creekbed.store.problems import from_error, in_words, kind_of
from creekbed.store.reader import Reader
from creekbed.store.records import JournalEntry
from creekbed.store.sqlite.database import open_engine
from creekbed.store.sqlite.making import without_waiting
from creekbed.store.unit_of_work import Change
from creekbed.store.witness import Syncing, Witness, WitnessedEntry

T = TypeVar("T")
PATIENCE_S = 30.0
"""How long an action waits for another program that holds the records: house default."""
STEP_MS, READ_MS = 40, 100
"""A window waits for a change in steps of this length, and reads no longer than that: house default."""


class Store:
    """The records in a data folder.

    Args:
        folder: the data folder. busy_ms: how long to wait for another program that holds the records.

    Raises:
        StoreProblem: they cannot be opened; ``fields["kind"]`` says why.
    """

    def __init__(self, folder: Path, *, busy_ms: int = 2000):
        self.folder = folder
        self.engine: Engine = open_engine(folder, busy_ms=busy_ms)
        self.on_wait: Callable[[float], bool] | None = None
        """Told for how many seconds a change has waited for the records; ``False`` gives up."""
        self.patience_s = PATIENCE_S
        self._reads = self.engine
        self._write = self.engine.execution_options(write=True)
        self._write_now = self.engine.execution_options(write=True, patience_ms=0)
        self._disk = DiskThread()
        self._witness = Witness(folder)
        self._syncing = Syncing(self._witness)

    def close(self) -> None:
        """Let go of the records."""
        self._disk.close()
        self.engine.dispose()
        self._syncing.close()

    def hurry(self) -> None:
        """Do not wait for the disk from now on: for records that nobody works with yet, such as a demo being made."""
        without_waiting(self.engine)

    def wait_in_steps(
        self, on_wait: Callable[[float], bool], while_writing: Callable[[float, bool], None] | None = None
    ) -> None:
        """Wait for the records in short steps from now on, so that a window stays alive meanwhile.

        Args:
            on_wait: as :attr:`on_wait`.
            while_writing: told for how many seconds a slow disk has not taken what is being written, and whether it is
                a note that nobody asked for; without it, a disk is waited for without a word.
        """
        self.on_wait, self._disk.while_waiting = on_wait, while_writing
        self._reads = self.engine.execution_options(patience_ms=READ_MS)
        self._write = self.engine.execution_options(write=True, patience_ms=STEP_MS)

    def on_disk(self, work: Callable[[], T]) -> T:
        """Do something that waits for the disk, such as writing a file; a window stays alive meanwhile.

        It runs in another thread: it must not touch the records or the window.

        Returns:
            What came of it; what it raises is raised here.
        """
        return self._disk.do(work)

    @contextmanager
    def read(self) -> Iterator[Reader]:
        """Read: one state of the records throughout.

        Raises:
            StoreProblem: the records cannot be read.
        """
        with self._errors(), self._reads.connect() as connection:
            yield Reader(connection)

    @contextmanager
    def change(self, *, wait: bool = True) -> Iterator[Change]:
        """Change records: all of it is on disk when this returns, or nothing of it was done.

        Nobody else changes anything between what is read within and what is written within.

        Args:
            wait: for another program that holds the records; else it is refused at once.

        Raises:
            StoreProblem: busy, full, read-only …; nothing was changed.
        """
        with self._errors(), (self._write if wait else self._write_now).connect() as connection:
            self._take_turn(connection, wait=wait)
            change = Change(connection)
            yield change
            if change.unlogged:
                raise RuntimeError("records were changed without an entry of the journal")
            try:
                self._disk.do(connection.commit, note=not wait)
            except BaseException:
                connection.invalidate()  # a transaction that could not be ended must not be met again
                raise

    @contextmanager
    def note(self) -> Iterator[Change]:
        """Change what is no work at the bench: no journal entry, nothing to undo, no waiting.

        Raises:
            StoreProblem: busy, full or read-only; nothing was noted.
        """
        with self.change(wait=False) as change:
            yield change

    def witness(self, entry: JournalEntry) -> str:
        """Note the last entry beside the records; what a person should hear where that cannot be done, else ""."""
        error: OSError | None
        try:
            self._witness.note(WitnessedEntry(entry.id, entry.chain), wait=False)
            error = self._syncing.failed
            self._syncing.ask()
        except OSError as failed:  # it is on record; only the second place that counts along is missing
            error = failed
        if error is None:
            return ""
        return f"It is on record, but its number could not be noted beside the records: {in_words(error)}"

    def _take_turn(self, connection: Connection, *, wait: bool) -> None:
        """Begin the transaction, waiting for whoever holds the records now.

        Raises:
            sqlalchemy.exc.OperationalError: they are held for too long, or cannot be written.
        """
        began = monotonic()
        while True:
            try:
                connection.begin()
                return
            except OperationalError as error:
                waited = monotonic() - began
                if not wait or self.on_wait is None or error.orig is None or kind_of(error.orig) != "busy":
                    raise
                connection.rollback()
                if self._disk.busy and self._disk.while_waiting is not None:  # it is this program that holds them
                    self._disk.while_waiting(waited, False)
                elif waited > self.patience_s or not self.on_wait(waited):
                    raise

    @contextmanager
    def _errors(self) -> Iterator[None]:
        """Errors of the database as :class:`StoreProblem`, by the database's own code."""
        try:
            yield None
        except DBAPIError as error:
            raise from_error(error.orig or error, self.folder) from error
        except UnicodeDecodeError as error:
            raise from_error(error, self.folder) from error
        except StatementError as error:
            if isinstance(error.orig, CreekbedError):
                raise error.orig from error
            raise
