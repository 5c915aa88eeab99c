"""The lines of a step: a heading each, and its words."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel

from creekbed.window.shared import theme
from creekbed.window.shared.widgets import label, restyle

ROWS = 11


def make_rows(full: bool) -> tuple[list[tuple[QLabel, QLabel]], QGridLayout]:
    """Lines of a heading and its words, made once, and the grid that holds them."""
    grid = QGridLayout()
    grid.setHorizontalSpacing(theme.STEP * 3)
    grid.setVerticalSpacing(theme.STEP)
    rows: list[tuple[QLabel, QLabel]] = []
    for n in range(ROWS):
        head, text = label("", "small", wrap=False), label("")
        head.setAlignment(Qt.AlignmentFlag.AlignTop)
        text.setFont(theme.current.font(theme.TEXT_SIZE if full else theme.TEXT_SIZE + 1))
        grid.addWidget(head, n, 0)
        grid.addWidget(text, n, 1)
        rows.append((head, text))
    grid.setColumnStretch(1, 1)
    return rows, grid


def fill_rows(rows: list[tuple[QLabel, QLabel]], words: list[tuple[str, str, str]]) -> None:
    """Set (heading, words, tone) into the lines; those that are left over are hidden and empty."""
    for n, (head, text) in enumerate(rows):
        name, said, tone = words[n] if n < len(words) else ("", "", "")
        head.setText(name)
        text.setText(said)
        head.setVisible(n < len(words))
        text.setVisible(n < len(words))
        restyle(text, tone=tone)
