"""Sounds beside the records, as FLAC: content-addressed, never changed, readable by their owner only."""

from __future__ import annotations

from pathlib import Path

from creekbed.store.kept_files import KeptFiles, name_of
from creekbed.store.layout import SOUNDS


class RecordingStore(KeptFiles):
    """The folder of sounds.

    Args:
        folder: the shop's data folder; sounds lie in ``sounds/`` there.
    """

    def __init__(self, folder: Path):
        super().__init__(folder / SOUNDS, "recording", ".flac")

    def keep(self, flac: bytes) -> str:
        """Write a sound; on disk when this returns. One that is there already is left alone.

        Returns:
            Its name.

        Raises:
            StoreProblem: it cannot be written.
        """
        name = name_of(flac)
        self.write(self.path(name), flac)
        return name

    def read(self, name: str) -> bytes:
        """The FLAC of a sound.

        Raises:
            StoreProblem: it is not there any more, or was changed.
        """
        return self.contents(self.path(name), name)
