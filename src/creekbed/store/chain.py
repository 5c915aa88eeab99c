"""Checksums of the journal, each over what it says and over the one before, so that no silent change goes unseen.

An entry's *digest* is the SHA-256 of what it said when it was written; its *chain* is the SHA-256 of the chain before
it and its digest (a hash chain, FIPS 180-4). An entry from which a renter was erased keeps its digest and its chain;
the entry that erased it states the digest of what it says since.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Iterator
from datetime import UTC, datetime
from typing import Any

from creekbed.core.quick_dataclasses import dataclass

START = ""
"""The chain before the first entry."""


@dataclass(frozen=True)
class Link:
    """An entry as it stands in the journal.

    Attributes:
        said: what it says, in the form of :func:`said`. erased: number of an entry → digest of what it says since.
    """

    number: int
    said: str
    digest: str
    chain: str
    erased: dict[str, str]


def said(
    number: int, at: datetime, person: str, seat: str, action: str, words: str, tag: str, undoes: int | None,
    undoable: bool, changes: Any,
) -> str:  # fmt: skip
    """What an entry says, in a form that is the same for the same contents."""
    plain = json.loads(json.dumps(changes))
    what = [number, at.astimezone(UTC).isoformat(), person, seat, action, words, tag, undoes, bool(undoable), plain]
    return json.dumps(what, ensure_ascii=True, sort_keys=True, separators=(",", ":"))


def digest_of(text: str) -> str:
    """The digest of what an entry says, hex."""
    return hashlib.sha256(text.encode("ascii")).hexdigest()


def next_chain(before: str, digest: str) -> str:
    """The chain after an entry with this digest, hex."""
    return hashlib.sha256(f"{before}:{digest}".encode("ascii", "replace")).hexdigest()


def broken(links: Iterable[Link]) -> Iterator[tuple[int, str]]:
    """Entries that are not as they were written: number, and what is wrong in words.

    Args:
        links: all entries, oldest first. Erasures come after what they erase.
    """
    before, last, unlike, erased = START, 0, {}, {}
    for link in links:
        if last and link.number != last + 1:
            yield link.number, f"{link.number - last - 1} entries before it are gone"
        if next_chain(before, link.digest) != link.chain:
            yield link.number, "its place in the chain does not fit"
        now = digest_of(link.said)
        if now != link.digest:
            unlike[link.number] = now
        erased.update(link.erased)
        before, last = link.chain, link.number
    for number, now in unlike.items():
        if erased.get(str(number)) != now:
            yield number, "what it says was changed"
