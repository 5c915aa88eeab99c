"""Who has a shop open: each window has a seat, and nobody goes back to a copy under an open shop.

Locks are the kernel's (flock): they end with the process that holds them, however it ends, so none is ever stale. What
is written in a seat's file, who and since when, is for words only.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from creekbed.core.bounded import read_at_most
from creekbed.core.conventions import clock
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.store.files import open_private, private_folder
from creekbed.store.layout import IN_USE
from creekbed.store.problems import problem

GATE = "gate"
MOST_SEATS = 64
PATIENCE_S = 2.0
SHELL = "shell"


@dataclass(frozen=True)
class Holder:
    """Somebody who has the shop open: process, window or shell, since when."""

    pid: int
    kind: str
    since: datetime

    @property
    def words(self) -> str:
        """The words that people use for it."""
        return f"a {self.kind} since {clock(self.since, '%a ')} (process {self.pid})"


class Presence:
    """A place in an open shop; closed when it is let go, or when the process ends.

    Args:
        folder: the data folder; it is there. kind: "window" or "shell".

    Raises:
        StoreProblem: somebody is going back to a copy. OSError: the folder cannot be written.
    """

    def __init__(self, folder: Path, kind: str = "window"):
        self.folder = private_folder(folder / IN_USE)
        self._gate = open_private(self.folder / GATE)
        self._handle = -1
        try:
            _locked(self._gate, fcntl.LOCK_SH, folder)
            self.number = self._sit(kind)
        except BaseException:
            self.close()
            raise
        self.seat = SHELL if kind == SHELL else f"{kind}-{self.number}"

    def _sit(self, kind: str) -> int:
        for number in range(1, MOST_SEATS + 1):
            handle = open_private(self.folder / f"{kind}-{number}")
            if _try(handle, fcntl.LOCK_EX):
                self._handle = handle
                text = json.dumps({"pid": os.getpid(), "kind": kind, "since": datetime.now(UTC).isoformat()})
                os.ftruncate(handle, 0)
                os.pwrite(handle, text.encode(), 0)
                return number
            os.close(handle)
        return 0  # a crowd: they share a seat

    def close(self) -> None:
        """Get up."""
        for handle in (self._handle, self._gate):
            if handle >= 0:
                os.close(handle)
        self._handle = self._gate = -1


@contextmanager
def alone(folder: Path) -> Iterator[None]:
    """Hold a shop exclusively: nobody has it open, and nobody can open it until the block ends.

    Raises:
        StoreProblem: it is open; who has it open is in the words. OSError: the folder cannot be written.
    """
    gate = open_private(private_folder(folder / IN_USE) / GATE)
    try:
        if not _try(gate, fcntl.LOCK_EX):
            raise problem("in_use", folder, who=" and ".join(h.words for h in holders(folder)) or "by another program")
        yield None
    finally:
        os.close(gate)


def holders(folder: Path) -> list[Holder]:
    """Who has the shop open now."""
    found = []
    for path in sorted((folder / IN_USE).glob("*-*")):
        with contextlib.suppress(OSError, ValueError, KeyError, TypeError, BadInput):
            handle = open_private(path)
            try:
                free = _try(handle, fcntl.LOCK_EX)
            finally:
                os.close(handle)
            if not free:
                row = json.loads(read_at_most(path, 1000))
                found.append(Holder(int(row["pid"]), str(row["kind"])[:20], datetime.fromisoformat(row["since"])))
    return found


def _try(handle: int, how: int) -> bool:
    try:
        fcntl.flock(handle, how | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True


def _locked(handle: int, how: int, folder: Path) -> None:
    """Wait a little: who goes back to a copy is soon done, who looks whether a shop is open at once."""
    until = time.monotonic() + PATIENCE_S
    while not _try(handle, how):
        if time.monotonic() > until:
            raise problem("restoring", folder)
        time.sleep(0.02)
