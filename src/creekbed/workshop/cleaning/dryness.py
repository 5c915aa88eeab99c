"""Whether what was weighed is dry enough to be cased."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.errors import BadInput
from creekbed.store.records import Wait
from creekbed.words.drying import weighings_missing

if TYPE_CHECKING:  # it needs numpy, and most waits are never weighed: the window opens without
    from creekbed.core.climate.drying import Drying


def weighed(catalogue: Catalogue, wait: Wait) -> tuple[Drying | None, str]:
    """What the weighings of a wait say, or why they say nothing yet. Remembered on the catalogue."""
    from creekbed.core.climate.drying import FEWEST, fit_drying

    rows = wait.weighings
    if len(rows) < FEWEST:
        return None, weighings_missing(FEWEST - len(rows))
    limit = catalogue.house.limits.dry_left_g
    memory: dict[tuple[str, float], tuple[Drying | None, str]] = catalogue.memory.setdefault("weighed", {})
    key = (repr(rows), limit)
    if key not in memory:
        times = [datetime.fromisoformat(row[0]) for row in rows]
        minutes = [(t - times[0]).total_seconds() / 60 for t in times]
        try:
            step = max(float(row[2]) for row in rows)
            memory[key] = fit_drying(minutes, [float(row[1]) for row in rows], limit, step_g=step), ""
        except BadInput as error:
            memory[key] = None, f"{error.happened} {error.todo}"
    return memory[key]


def is_damp(catalogue: Catalogue, wait: Wait) -> bool:
    """Whether its weighings say that water is left: time alone does not make it dry."""
    found, _ = weighed(catalogue, wait) if wait.weighings else (None, "")
    return found is not None and not found.is_dry
