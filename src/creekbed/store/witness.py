"""The last number of the journal, kept outside the records, so that records that went back in time are noticed.

The file holds two lines of 128 bytes that are written in turn, each with its own checksum: one that a power cut tore is
not believed, and the other still is.
"""

from __future__ import annotations

import fcntl
import os
import zlib
from dataclasses import dataclass
from pathlib import Path

from creekbed.store.files import open_private
from creekbed.store.layout import WITNESS

SLOT = 128


@dataclass(frozen=True)
class Seen:
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

    def read(self) -> Seen | None:
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

    def note(self, seen: Seen, *, anew: bool = False) -> None:
        """Note an entry that was acknowledged; an older one than what it saw is passed over.

        Args:
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
            os.fdatasync(handle)
        finally:
            os.close(handle)


def _line(seen: Seen) -> bytes:
    text = f"{seen.number} {seen.chain}"
    return f"{text} {zlib.crc32(text.encode()):08x}".ljust(SLOT - 1).encode("ascii") + b"\n"


def _newest(content: bytes) -> Seen | None:
    found = [_parsed(content[n : n + SLOT]) for n in (0, SLOT)]
    return max((s for s in found if s is not None), key=lambda s: s.number, default=None)


def _parsed(line: bytes) -> Seen | None:
    try:
        number, chain, check = line.decode("ascii").split()
        if zlib.crc32(f"{number} {chain}".encode()) == int(check, 16):
            return Seen(int(number), chain)
    except ValueError:
        pass
    return None
