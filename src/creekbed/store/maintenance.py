"""Keeping the records safe: copies, going back to one, checking all of it, putting back, forgetting.

The work itself is the database's own and lies in its package; callers come here.
"""

from creekbed.store.sqlite.backup import back_up, copies_in, made_on
from creekbed.store.sqlite.copies import (
    Copy,
    all_copies,
    find,
    go_on_without,
    prune_aside,
    restore,
    set_aside_empty,
)
from creekbed.store.sqlite.damage import Damage, check_beside, check_records, put_back
from creekbed.store.sqlite.redaction import ERASED, erase, forget_log
from creekbed.store.tables import KINDS

EXPORTED = tuple(name for name in KINDS if name != "clock_anchor")
"""The tables that an export holds."""

__all__ = [
    "ERASED",
    "EXPORTED",
    "Copy",
    "Damage",
    "all_copies",
    "back_up",
    "check_beside",
    "check_records",
    "copies_in",
    "erase",
    "find",
    "forget_log",
    "go_on_without",
    "made_on",
    "prune_aside",
    "put_back",
    "restore",
    "set_aside_empty",
]  # fmt: skip
