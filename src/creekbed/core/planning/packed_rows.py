"""Rows of immutable values that go to another process and back again and again: packed once, unpacked once.

What is left to do of a job stays the same from one request to the next until something is done to it, and the steps of
a plan come back as they went. They travel as bytes that both sides remember, so that the same rows are the same object
there.
"""

from __future__ import annotations

import pickle
import threading
from collections import OrderedDict
from typing import Any

from creekbed.core.quick_dataclasses import dataclass

Rows = tuple[Any, ...]


@dataclass(frozen=True)
class _Known:
    rows: Rows
    raw: bytes


class PackedRows:
    """Remembers rows and their bytes, the last ones that were used; safe in several threads.

    Args:
        most: how many are remembered.
    """

    def __init__(self, most: int):
        self._most = most
        self._by_rows: OrderedDict[int, _Known] = OrderedDict()
        """By the identity of the rows, which are held here, so that nothing else gets that identity."""
        self._by_raw: dict[bytes, _Known] = {}
        self._lock = threading.Lock()

    def pack(self, rows: Rows) -> bytes:
        """Rows as bytes."""
        with self._lock:
            known = self._by_rows.get(id(rows))
            if known is not None:
                self._by_rows.move_to_end(id(rows))
                return known.raw
        return self._keep(rows, pickle.dumps(rows, protocol=5)).raw

    def unpack(self, raw: bytes) -> Rows:
        """The rows of these bytes, from the planner's own process; the same object for the same bytes."""
        with self._lock:
            known = self._by_raw.get(raw)
            if known is not None:
                self._by_rows.move_to_end(id(known.rows))
                return known.rows
        return self._keep(pickle.loads(raw), raw).rows  # noqa: S301  # as the message that it came with

    def _keep(self, rows: Rows, raw: bytes) -> _Known:
        with self._lock:
            there = self._by_rows.get(id(rows))
            if there is not None:  # another thread was sooner
                return there
            known = self._by_rows[id(rows)] = _Known(rows, raw)
            self._by_raw.setdefault(raw, known)  # alike instruments have alike rows: the first stand for all
            while len(self._by_rows) > self._most:
                _, old = self._by_rows.popitem(last=False)
                if self._by_raw.get(old.raw) is old:
                    del self._by_raw[old.raw]
        return known
