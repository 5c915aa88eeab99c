"""Files that somebody chose."""

from __future__ import annotations

from pathlib import Path

from creekbed.core.bounded import read_at_most
from creekbed.core.errors import BadInput


def chosen_file(path: Path, most_bytes: int) -> bytes:
    """The bytes of a file that somebody chose.

    Raises:
        BadInput: it is larger, is no ordinary file, is not there, or cannot be read.
    """
    try:
        return read_at_most(path, most_bytes)
    except OSError as error:
        raise BadInput(f"{path.name} cannot be read.", todo="Choose it again.") from error
