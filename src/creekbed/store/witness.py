"""The last number of the journal, kept outside the records, so that records that went back in time are noticed.

The file holds two lines of 128 bytes that are written in turn, each with its own checksum: one that a power cut tore is
not believed, and the other still is. Nobody waits for the disk to take it: a power cut may leave it behind the records,
which says nothing, but never before them.
"""

from __future__ import annotations

import fcntl
import os
import threading
import zlib
from pathlib import Path

from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.files import open_private
from creekbed.store.layout import WITNESS

SLOT = 128


@dataclass(frozen=True)
class WitnessedEntry:
    """The last entry that was acknowledged: its number and its chain."""

    number: int
    chain: str


class Witness:
    """The file.

    Args:
        folder: the data folder.
    """

    def __init__(self, folder: Path):
        self.path = folder / WITNESS

    def read(self) -> WitnessedEntry | None:
        """What it saw last; ``None`` where it is not there or neither line can be believed.

        Raises:
            OSError: it is there and cannot be read.
        """
        try:
            handle = os.open(self.path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        except FileNotFoundError:
            return None
        try:
            return _newest(os.pread(handle, 2 * SLOT, 0))
        finally:
            os.close(handle)

    def note(self, seen: WitnessedEntry, *, anew: bool = False, wait: bool = True) -> None:
        """Note an entry that was acknowledged; an older one than what it saw is passed over.

        Args:
            wait: for the disk to take it.
            anew: what it saw is forgotten: somebody went back to a copy, or on without what is missing.

        Raises:
            OSError: it cannot be written.
        """
        handle = open_private(self.path)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX)
            before = None if anew else _newest(os.pread(handle, 2 * SLOT, 0))
            if before is not None and before.number >= seen.number:
                return
            if anew:
                os.pwrite(handle, _line(seen) * 2, 0)
            else:
                os.pwrite(handle, _line(seen), SLOT * (seen.number % 2))
            if wait:
                os.fdatasync(handle)
        finally:
            os.close(handle)

    def sync(self) -> None:
        """Have what was noted on disk.

        Raises:
            OSError: the disk does not take it.
        """
        handle = os.open(self.path, os.O_RDWR | os.O_CLOEXEC)
        try:
            os.fdatasync(handle)
        finally:
            os.close(handle)


class Syncing:
    """Has a witness on disk in a thread of its own, so that no action waits for that; the last asked for is enough."""

    def __init__(self, witness: Witness):
        self.witness = witness
        self.failed: OSError | None = None
        """What the disk said when it was tried last."""
        self._wanted = threading.Event()
        self._thread: threading.Thread | None = None
        self._ended = False

    def ask(self) -> None:
        """Have it on disk soon."""
        if self._thread is None:
            self._thread = threading.Thread(target=self._run, name="witness", daemon=True)
            self._thread.start()
        self._wanted.set()

    def close(self) -> None:
        """Have it on disk now, and end."""
        if self._thread is not None:
            self._ended = True
            self._wanted.set()
            self._thread.join()
            self._thread = None

    def _run(self) -> None:
        while True:
            self._wanted.wait()
            self._wanted.clear()
            try:
                self.witness.sync()
                self.failed = None
            except OSError as error:
                self.failed = error
            if self._ended and not self._wanted.is_set():
                return


def _line(seen: WitnessedEntry) -> bytes:
    text = f"{seen.number} {seen.chain}"
    return f"{text} {zlib.crc32(text.encode()):08x}".ljust(SLOT - 1).encode("ascii") + b"\n"


def _newest(content: bytes) -> WitnessedEntry | None:
    found = [_parsed(content[n : n + SLOT]) for n in (0, SLOT)]
    return max((s for s in found if s is not None), key=lambda s: s.number, default=None)


def _parsed(line: bytes) -> WitnessedEntry | None:
    try:
        number, chain, check = line.decode("ascii").split()
        if zlib.crc32(f"{number} {chain}".encode()) == int(check, 16):
            return WitnessedEntry(int(number), chain)
    except ValueError:
        pass
    return None
