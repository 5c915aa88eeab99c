"""Files beside the records: readable by their owner only, and there whole or not at all."""

from __future__ import annotations

import contextlib
import errno
import os
import secrets
import shutil
import stat
import time
from collections.abc import Iterator
from pathlib import Path
from typing import IO

PART = ".part"
"""Ending of what is being written."""
LITTER_S = 3600.0
"""Age at which a file that was being written counts as interrupted: house default."""


def private_folder(path: Path) -> Path:
    """Make a folder for its owner alone, with the folders above it where they are missing, whatever the umask.

    One that is there already is left as it is.

    Raises:
        OSError: it cannot be made, or something else has its name.
    """
    missing = []
    above = path
    while not above.exists() and above != above.parent:
        missing.append(above)
        above = above.parent
    for folder in reversed(missing):
        with contextlib.suppress(FileExistsError):
            folder.mkdir(mode=0o700)
            folder.chmod(0o700)
    if not path.is_dir():
        raise NotADirectoryError(errno.ENOTDIR, "Not a folder", str(path))
    return path


def tighten(path: Path) -> None:
    """Let nobody but its owner into a folder of a shop; one that many share, such as ``/tmp``, is left as it is.

    Raises:
        OSError: its rights cannot be changed.
    """
    found = path.stat()
    shared = found.st_mode & stat.S_ISVTX or path.resolve() in (Path.home(), Path("/"))
    if found.st_mode & 0o077 and found.st_uid == os.getuid() and not shared:
        path.chmod(0o700)


def create_private(path: Path) -> int:
    """Make a new file for its owner alone, and open it for writing.

    Returns:
        Its handle.

    Raises:
        FileExistsError: something has that name, also a link. OSError: it cannot be made.
    """
    handle = os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_CLOEXEC, 0o600)
    os.fchmod(handle, 0o600)
    return handle


def open_private(path: Path) -> int:
    """Open a file for reading and writing, made for its owner alone where it is missing; no link is followed.

    Raises:
        OSError: it cannot be opened.
    """
    handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NOFOLLOW | os.O_NONBLOCK, 0o600)
    try:
        if os.fstat(handle).st_mode & 0o777 != 0o600:
            os.fchmod(handle, 0o600)
    except OSError:
        os.close(handle)
        raise
    return handle


def part_of(path: Path) -> Path:
    """A temporary name beside a file under which it is written; no other process uses it."""
    return path.with_name(f"{path.name}.{os.getpid()}-{secrets.token_hex(3)}{PART}")


def write_whole(path: Path, content: bytes) -> Path:
    """Write a file so that it is there whole, on disk, or as it was before; its folder is made where it is missing.

    Raises:
        OSError: it cannot be written; what was there before is untouched.
    """
    with writing_whole(path) as file:
        file.write(content)
    return path


@contextlib.contextmanager
def writing_whole(path: Path) -> Iterator[IO[bytes]]:
    """As :func:`write_whole`, in pieces: the file has its name when the block ends without an error.

    Raises:
        OSError: it cannot be written; what was there before is untouched.
    """
    private_folder(path.parent)
    part = part_of(path)
    try:
        with os.fdopen(create_private(part), "wb") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
        os.replace(part, path)
    except BaseException:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)
        raise
    sync_folder(path.parent)


def sync_folder(folder: Path) -> None:
    """Have the names in a folder on disk.

    Raises:
        OSError: the disk does not take it.
    """
    handle = os.open(folder, os.O_RDONLY | os.O_CLOEXEC)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def sync_file(path: Path) -> None:
    """Have the contents of a file on disk.

    Raises:
        OSError: the disk does not take it.
    """
    sync_folder(path)


def clear_litter(folder: Path, *, older_s: float = LITTER_S) -> int:
    """Remove what was being written and was interrupted; what others may be writing now is left alone.

    Returns:
        How many there were.
    """
    removed = 0
    try:
        found = list(folder.glob(f"*{PART}"))
    except OSError:
        return 0
    for path in found:
        try:
            if time.time() - path.lstat().st_mtime < older_s:
                continue
            if path.is_dir() and not path.is_symlink():
                shutil.rmtree(path)
            else:
                path.unlink()
            removed += 1
        except OSError:
            continue  # it is somebody else's, or gone
    return removed


def free_bytes(folder: Path) -> int:
    """Room that is left on the disk of a folder, bytes."""
    return shutil.disk_usage(folder).free
