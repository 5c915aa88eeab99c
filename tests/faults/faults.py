"""Makes writing fail: every call by which SQLite or the program changes a file is counted, and one of them goes wrong.

SQLite lets its calls of the system be replaced (``xSetSystemCall`` of ``sqlite3_vfs``, sqlite.org/c3ref/vfs.html); the
program's own go through ``os``.
"""

from __future__ import annotations

import ctypes
import errno
import os
import signal
from collections.abc import Callable
from typing import Any

WRITES = ("pwrite64", "pwrite", "write", "ftruncate", "unlink", "fallocate")
"""SQLite's calls that change a file, by its names for them."""
OURS = ("fsync", "fdatasync", "replace", "rename", "link", "pwrite", "mkdir", "unlink", "ftruncate")
KINDS = {"full": errno.ENOSPC, "disk": errno.EIO, "kill": 0}
"""A disk that is full from then on, one call that the disk does not take, the end of the process."""


class _Vfs(ctypes.Structure):
    pass


_SYSCALL = ctypes.CFUNCTYPE(ctypes.c_void_p)
_Vfs._fields_ = [
    ("iVersion", ctypes.c_int), ("szOsFile", ctypes.c_int), ("mxPathname", ctypes.c_int),
    ("pNext", ctypes.c_void_p), ("zName", ctypes.c_char_p), ("pAppData", ctypes.c_void_p),
    *((name, ctypes.c_void_p) for name in (
        "xOpen", "xDelete", "xAccess", "xFullPathname", "xDlOpen", "xDlError", "xDlSym", "xDlClose", "xRandomness",
        "xSleep", "xCurrentTime", "xGetLastError", "xCurrentTimeInt64",
    )),
    ("xSetSystemCall", ctypes.CFUNCTYPE(ctypes.c_int, ctypes.POINTER(_Vfs), ctypes.c_char_p, ctypes.c_void_p)),
    ("xGetSystemCall", ctypes.CFUNCTYPE(ctypes.c_void_p, ctypes.POINTER(_Vfs), ctypes.c_char_p)),
]  # fmt: skip
_SHAPES: dict[str, Any] = {
    "pwrite64": (ctypes.c_ssize_t, ctypes.c_int, ctypes.c_void_p, ctypes.c_size_t, ctypes.c_int64),
    "pwrite": (ctypes.c_ssize_t, ctypes.c_int, ctypes.c_void_p, ctypes.c_size_t, ctypes.c_int64),
    "write": (ctypes.c_ssize_t, ctypes.c_int, ctypes.c_void_p, ctypes.c_size_t),
    "ftruncate": (ctypes.c_int, ctypes.c_int, ctypes.c_int64),
    "fallocate": (ctypes.c_int, ctypes.c_int, ctypes.c_int64, ctypes.c_int64),
    "unlink": (ctypes.c_int, ctypes.c_char_p),
}


class Faults:
    """Counts calls that change a file, and has one go wrong; put in place once in a process, and never taken out."""

    def __init__(self) -> None:
        self.calls = 0
        self.at = 0
        """The call that goes wrong; 0: none."""
        self.kind = "full"
        self.hit = False
        self._kept: list[Any] = []
        self._sqlite()
        for name in OURS:
            setattr(os, name, self._ours(getattr(os, name)))

    def arm(self, kind: str, at: int) -> None:
        """Count from here; the call with this number goes wrong."""
        self.calls, self.at, self.kind, self.hit = 0, at, kind, False

    def disarm(self) -> int:
        """Nothing goes wrong any more; how many calls there were."""
        self.at = 0
        return self.calls

    def _wrong(self) -> int:
        """The error of this call, 0 if it goes well."""
        self.calls += 1
        if not self.at or self.calls < self.at or (self.kind != "full" and self.calls > self.at):
            return 0
        self.hit = True
        if self.kind == "kill":
            os.kill(os.getpid(), signal.SIGKILL)
        return KINDS[self.kind]

    def _ours(self, real: Callable[..., Any]) -> Callable[..., Any]:
        frees = real.__name__ == "unlink"  # a full disk can be emptied

        def call(*args: Any, **more: Any) -> Any:
            wrong = self._wrong()
            if wrong and not (frees and wrong == errno.ENOSPC):
                raise OSError(wrong, os.strerror(wrong))
            return real(*args, **more)

        return call

    def _sqlite(self) -> None:
        library = ctypes.CDLL("libsqlite3.so.0", use_errno=True)
        library.sqlite3_vfs_find.restype = ctypes.POINTER(_Vfs)
        vfs = library.sqlite3_vfs_find(None)
        for name in WRITES:
            found = vfs.contents.xGetSystemCall(vfs, name.encode())
            if not found:
                continue
            shape = ctypes.CFUNCTYPE(*_SHAPES[name], use_errno=True)
            call = shape(self._theirs(name, shape(found)))
            self._kept.append(call)
            done = vfs.contents.xSetSystemCall(vfs, name.encode(), ctypes.cast(call, ctypes.c_void_p))
            assert done == 0, name
        assert self._kept, "this SQLite lets none of its calls be replaced"

    def _theirs(self, name: str, real: Callable[..., int]) -> Callable[..., int]:
        frees = name in ("unlink", "ftruncate")

        def call(*args: Any) -> int:
            wrong = self._wrong()
            if wrong and not (frees and wrong == errno.ENOSPC):
                ctypes.set_errno(wrong)
                return -1
            return real(*args)

        return call
