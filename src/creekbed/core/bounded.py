"""Reading a file that somebody else may have put there: never more of it than a limit, and nothing but a plain file."""

from __future__ import annotations

import os
import stat
from pathlib import Path

from creekbed.core.errors import BadInput


def read_at_most(path: Path, limit: int) -> bytes:
    """The bytes of an ordinary file.

    A pipe, a device or a folder is refused before anything is read from it, so that none can hold the program.

    Args:
        path: the file; a link to an ordinary file is followed. limit: bytes that it may have.

    Raises:
        BadInput: it is larger, or no ordinary file. OSError: it is not there or cannot be read.
    """
    handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    with os.fdopen(handle, "rb") as file:
        if not stat.S_ISREG(os.fstat(handle).st_mode):
            raise BadInput(f"{path.name} is not an ordinary file.", todo="Choose another, or move it away.")
        content = file.read(limit + 1)
    if len(content) > limit:
        raise BadInput(
            f"{path.name} is larger than {_size(limit)}, which is more than it can be.",
            todo="Choose another, or move it away.",
        )
    return content


def _size(limit: int) -> str:
    return f"{limit / 1e6:g} MB" if limit >= 1_000_000 else f"{limit / 1e3:g} kB"
