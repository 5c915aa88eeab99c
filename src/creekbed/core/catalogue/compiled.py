"""The shipped catalogue as it was read the last time, kept beside Python's own compiled modules.

Reading and validating the catalogue's files takes longer than anything else that opening the window needs, and they
change only with Creekbed itself. So the validated catalogue is kept where Python keeps compiled modules and under the
same rules: in ``__pycache__``, made when it can be written, used only while every file that it came from is unchanged.
Like a compiled module it can be trusted as far as the program's own folder can. A shop's own files are never kept so.
"""

from __future__ import annotations

import contextlib
import os
import pickle
import sys
import tempfile
from collections.abc import Callable
from importlib.util import cache_from_source
from pathlib import Path

import pydantic

from creekbed.core.catalogue.catalogue import Catalogue

MADE_BY = Path(__file__).parent
"""What reads the catalogue: a change there makes what was kept useless too."""


def compiled(data: Path, read: Callable[[], Catalogue]) -> Catalogue:
    """The catalogue in a folder: what was kept of it where that is up to date, else read anew and kept.

    Args:
        data: the folder. read: reads it.

    Raises:
        BadData: as ``read``.
    """
    kept, state = _kept_at(data), _state(data)
    found = _read(kept, state)
    if found is None:
        found = read()
        if not sys.dont_write_bytecode:
            _write(kept, state, found)
    return found


def _kept_at(data: Path) -> Path:
    return Path(cache_from_source(str(data / "catalogue.py"))).with_suffix(".pickle")


def _state(data: Path) -> list[tuple[str, int, int]]:
    """Name, size and time of change of each file that the catalogue comes from, and the version of what made it."""
    state = [(pydantic.VERSION, 0, 0)]
    for path in sorted((*MADE_BY.rglob("*.py"), *data.rglob("*.toml"))):
        stat = path.stat()
        state.append((str(path), stat.st_size, stat.st_mtime_ns))
    return state


def _read(kept: Path, state: list[tuple[str, int, int]]) -> Catalogue | None:
    try:
        with kept.open("rb") as file:
            if pickle.load(file) != state:  # noqa: S301  # Creekbed's own, like a compiled module
                return None
            found = pickle.load(file)  # noqa: S301
    except Exception:  # noqa: BLE001  # not there, torn, or of another version: it is read anew
        return None
    return found if isinstance(found, Catalogue) else None


def _write(kept: Path, state: list[tuple[str, int, int]], catalogue: Catalogue) -> None:
    """Keep it, whole or not at all; where the folder cannot be written, each start reads the files."""
    with contextlib.suppress(OSError):
        kept.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(dir=kept.parent)
        try:
            with os.fdopen(handle, "wb") as file:
                pickle.dump(state, file, protocol=5)
                pickle.dump(catalogue, file, protocol=5)
            os.replace(name, kept)
        except OSError:
            Path(name).unlink(missing_ok=True)
            raise
