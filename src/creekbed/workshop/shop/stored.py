"""Settings as they were stored: what cannot be read is passed by, so that no spoilt value stops the bench."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from creekbed.core.conventions import PLAIN, Conventions
from creekbed.core.errors import BadInput
from creekbed.store.problems import DamagedCell
from creekbed.store.unopened import setting_of

if TYPE_CHECKING:
    from creekbed.store.reader import Reader

T = TypeVar("T")


def readable(value: Any, make: Callable[[Any], T]) -> dict[str, T]:
    """The rows of a stored setting by key, each made into what it stands for.

    Args:
        value: the setting; anything but a mapping holds no row.
        make: may raise what code raises that meets a row of another form; that row is left out.
    """
    found = {}
    for key, row in (value if isinstance(value, Mapping) else {}).items():
        try:
            found[str(key)] = make(row)
        except (AttributeError, BadInput, LookupError, TypeError, ValueError):
            continue
    return found


FORMATS = "formats"
"""Setting, and action: how the shop writes."""


def conventions_in(records: Reader) -> Conventions:
    """How the shop writes, as it is on record; each part that cannot be read is as it ships."""
    from creekbed.store.records import Setting  # a calculator of the shell does without the tables

    try:
        row = records.get(Setting, FORMATS)
    except DamagedCell:
        return PLAIN
    return _conventions(row.value.get("v") if row is not None else None)


def conventions_kept(folder: Path) -> Conventions:
    """As :func:`conventions_in`, of a shop that is not opened for it; as Creekbed ships where there is none."""
    return _conventions(setting_of(folder, FORMATS))


def _conventions(kept: Any) -> Conventions:
    if not isinstance(kept, Mapping):
        return PLAIN
    text = {k: kept[k] for k in ("locale", "decimal", "currency", "zone") if isinstance(kept.get(k), str)}
    return Conventions(
        **text, hours=12 if kept.get("hours") == 12 else 24, units="us" if kept.get("units") == "us" else "metric"
    )
