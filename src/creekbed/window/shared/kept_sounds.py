"""The sounds that are kept with a job or an instrument, a line each: hear it again, save a copy, take it away."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import button, clear, label, row
from creekbed.words.recordings import recording_words
from creekbed.workshop.inspection import recordings
from creekbed.workshop.inspection.recordings import RecordingView


class KeptSounds(QWidget):
    """Lines of sounds; it is not there where there are none.

    Args:
        hear: what hears one again; lines have no such button without it. gone: told when one was taken away.
    """

    def __init__(
        self, page: Page, *, hear: Callable[[RecordingView], object] | None = None,
        gone: Callable[[], object] | None = None,
    ):  # fmt: skip
        super().__init__()
        self.page, self._hear, self._gone = page, hear, gone
        self._shown: tuple[int, ...] | None = None
        self.lines = QVBoxLayout(self)
        self.lines.setContentsMargins(0, 0, 0, 0)
        self.lines.setSpacing(4)

    def set_rows(self, rows: Sequence[RecordingView]) -> None:
        """Show these."""
        self.setVisible(bool(rows))
        shown = tuple(r.id for r in rows)
        if shown == self._shown:
            return
        self._shown = shown
        clear(self.lines)
        for view in rows:
            said = recording_words(view.about, view.made_at, view.seconds)
            ways = [
                button("Save a copy …", partial(self.save, view), "quiet", f"sound_save_{view.id}"),
                button("Take it away", partial(self.take_away, view), "quiet", f"sound_away_{view.id}"),
            ]
            if self._hear is not None:
                ways.insert(0, button("Hear it again", partial(self._hear, view), "quiet", f"sound_hear_{view.id}"))
            for way in ways:
                way.setAccessibleName(f"{way.text()}: {said}")
            self.lines.addWidget(label(said))
            self.lines.addLayout(row(*ways, None))

    def save(self, view: RecordingView) -> None:
        """Ask where a copy goes, and write it."""
        title = f"A copy of: {recording_words(view.about, view.made_at, view.seconds)}"
        path, _ = QFileDialog.getSaveFileName(self, title, f"{view.tag}-{view.about}.flac", "Sound (*.flac)")
        if path:
            to = Path(path if Path(path).suffix else f"{path}.flac")
            self.page.do(lambda: recordings.save_copy(self.page.shop, view.id, to))

    def take_away(self, view: RecordingView) -> None:
        """Take one away; that can be undone."""
        if self.page.do(lambda: recordings.remove_recording(self.page.shop, view.id)) and self._gone is not None:
            self._gone()
