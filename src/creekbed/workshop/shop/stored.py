"""Settings as they were stored: what cannot be read is passed by, so that no spoilt value stops the bench."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, TypeVar

from creekbed.core.errors import BadInput

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
