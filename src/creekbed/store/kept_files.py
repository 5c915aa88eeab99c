"""Files beside the records: named by their contents, never changed, readable by their owner only."""

from __future__ import annotations

import hashlib
import os
import time
from pathlib import Path

from creekbed.core.errors import BadInput, StoreProblem
from creekbed.store.files import clear_litter, write_whole


def name_of(content: bytes) -> str:
    """What a file is called by: SHA-256 of its contents, hex."""
    return hashlib.sha256(content).hexdigest()


class KeptFiles:
    """A folder of such files; each lies in a folder by the first two signs of its name.

    Args:
        folder: where they lie. what: what people call one, such as "photograph". ending: of their names, with its dot.
    """

    def __init__(self, folder: Path, what: str, ending: str):
        self.folder, self.what, self.ending = folder, what, ending

    def path(self, name: str) -> Path:
        """Where a file lies.

        Raises:
            BadInput: not a name that this store gave.
        """
        if len(name) != 64 or any(c not in "0123456789abcdef" for c in name):
            raise BadInput(f"There is no such {self.what}.")
        return self.folder / name[:2] / f"{name}{self.ending}"

    def write(self, path: Path, content: bytes) -> None:
        """Put a file on disk; one that is there already is left alone.

        Raises:
            StoreProblem: it cannot be written.
        """
        if path.exists():
            return
        try:
            write_whole(path, content)
        except OSError as error:
            raise StoreProblem(
                f"The {self.what} could not be kept.", safe="Everything else is as it was.",
                todo="Look whether the disk is full.", detail=str(error),
            ) from error  # fmt: skip

    def contents(self, path: Path, name: str = "") -> bytes:
        """What a file holds.

        Args:
            name: what its contents must be; "" for a file that is not named by them.

        Raises:
            StoreProblem: it is not there any more, or was changed.
        """
        todo = f"Put the {self.folder.name} folder back from a backup."
        safe = "The record that names it is whole."
        try:
            content = path.read_bytes()
        except OSError as error:
            raise StoreProblem(
                f"That {self.what} is not in its place.", safe=safe, todo=todo, detail=str(error)
            ) from error
        if name and name_of(content) != name:
            raise StoreProblem(f"That {self.what} was changed on disk.", safe=safe, todo=todo)
        return content

    def sweep(self, named: set[str], older_s: float) -> int:
        """Remove files that no record has named for a while, and what interrupted writing left.

        A file's time is when it was written or last seen named; a name that comes back in time keeps it.

        Args:
            named: names that the records hold. older_s: seconds.

        Returns:
            How many were removed, each counted once.
        """
        removed = set()
        now = time.time()
        for path in self.folder.glob(f"??/*{self.ending}"):
            name = path.name.split(".")[0]
            try:
                if name in named:
                    os.utime(path)
                elif now - path.stat().st_mtime > older_s:
                    path.unlink()
                    removed.add(name)
            except OSError:
                continue  # gone, or not ours to touch
        for place in self.folder.glob("??"):
            clear_litter(place)
        return len(removed)
