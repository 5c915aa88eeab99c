"""The shop's own values, in their file and on record as one.

The record comes first: the journal's transaction holds the whole text, what stood before, and what stands now. The file
follows. Where the program is killed between the two, the next start finds the file as it stood before and writes it;
where somebody has changed it by hand, that counts, and the journal says so.
"""

from __future__ import annotations

import fcntl
import hashlib
import os
from datetime import timedelta
from pathlib import Path
from typing import TYPE_CHECKING, Any

from creekbed.core.bounded import read_at_most
from creekbed.core.catalogue.own import OVERRIDES
from creekbed.core.catalogue.reading import MAX_BYTES
from creekbed.core.errors import BadInput, Refused
from creekbed.store.files import open_private, private_folder, write_whole
from creekbed.store.layout import IN_USE
from creekbed.store.problems import in_words
from creekbed.store.reader import Reader
from creekbed.store.records import Setting

if TYPE_CHECKING:
    from creekbed.workshop.shop.shop import Act, Shop

SETTING = "own_values"
"""Setting: {"text": the file as it stands, "sha": its checksum, "before": that of the file before, "late": [checksum,
time] of texts that were replaced a moment before: another window may write one of them after this one}."""
LATE = timedelta(seconds=60)
"""How long after it was replaced a text may still be written by another window: house default."""


def path_of(shop: Shop) -> Path:
    """Where the shop's own values lie."""
    return shop.own_folder / OVERRIDES


def _sum(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()


def _read(path: Path) -> str:
    """The file's text; "" where there is none.

    Raises:
        Refused: it cannot be read.
    """
    try:
        return read_at_most(path, MAX_BYTES).decode("utf-8")
    except FileNotFoundError:
        return ""
    except (OSError, ValueError, BadInput) as error:
        words = error.happened if isinstance(error, BadInput) else f"{OVERRIDES} cannot be read: {in_words(error)}."
        raise Refused(words, todo="Mend the file by hand, then try again.") from error


def text_of(shop: Shop) -> str:
    """The file's text as it stands; "" where there is none.

    Raises:
        Refused: it cannot be read.
    """
    return _read(path_of(shop))


def current(act: Act, shop: Shop) -> str:
    """The text to go on from, in the transaction that will change it.

    Raises:
        Refused: the file cannot be read.
    """
    here = _read(path_of(shop))
    kept = _kept(act.records)
    return kept["text"] if kept is not None and _unfinished(kept, here) else here


def keep(act: Act, shop: Shop, text: str) -> None:
    """Put a new text on record; the file is written as soon as that is on disk."""
    before, last = _sum(_read(path_of(shop))), _kept(act.records)
    since = (act.now - LATE).isoformat()
    late = [row for row in (last or {}).get("late", ()) if row[1] >= since]
    late += [[last["sha"], act.now.isoformat()]] if last is not None else []
    _store(act, {"text": text, "sha": _sum(text), "before": before, "late": late})
    act.after.append(lambda: _written(shop))


def settle(shop: Shop) -> str:
    """Bring file and record together.

    Returns:
        What a person should hear; "" when all is well.
    """
    with shop.reading() as records:
        kept = _kept(records)
    if kept is None:
        return ""
    try:
        here = _read(path_of(shop))
    except Refused:
        return ""  # reading the shop's own files says what is wrong with it
    if _sum(here) == kept["sha"]:
        return ""
    if _unfinished(kept, here):
        return _written(shop)
    with shop.act("own_value", undoable=False) as act:
        _store(act, {"text": here, "sha": _sum(here), "before": _sum(here)})
        act.words = f"{OVERRIDES} was changed by hand" if here else f"{OVERRIDES} was taken away by hand"
    return f"{act.words}; it counts as it stands now."


def _unfinished(kept: dict[str, Any], here: str) -> bool:
    """Whether the file is behind the record: as it stood before, or a text of another window that came late."""
    found = _sum(here)
    return found != kept["sha"] and (found == kept["before"] or any(found == sha for sha, _ in kept.get("late", ())))


def _store(act: Act, value: dict[str, Any]) -> None:
    act.records.put(Setting(key=SETTING, value={"v": value}))


def _kept(records: Reader) -> dict[str, Any] | None:
    row = records.get(Setting, SETTING)
    value: Any = None if row is None else row.value.get("v")
    whole = isinstance(value, dict) and all(isinstance(value.get(k), str) for k in ("text", "sha", "before"))
    late = value.get("late", []) if whole else []
    pairs = isinstance(late, list) and all(isinstance(row, list) and len(row) == 2 for row in late)
    return value if whole and pairs else None


def _written(shop: Shop) -> str:
    """Write the file from the records; when two people changed it, the last write has both changes.

    Returns:
        What a person should hear; "" when it is written.
    """
    try:
        lock = open_private(private_folder(shop.folder / IN_USE) / "own-values")
        try:
            fcntl.flock(lock, fcntl.LOCK_EX)
            with shop.reading() as records:
                kept = _kept(records)
            if kept is not None:
                text = kept["text"].encode("utf-8")
                shop.store.on_disk(lambda: write_whole(path_of(shop), text))
        finally:
            os.close(lock)
    except OSError as error:
        return f"It is on record, but {OVERRIDES} could not be written: {in_words(error)}. The next start tries again."
    return ""
