"""Plots as all pages show them: in the theme's type and colours, without menus and mouse; each can be saved."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from typing import Any

import numpy as np
import pyqtgraph as pg
from numpy.typing import ArrayLike, NDArray
from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import QPushButton, QWidget

from creekbed.core.conventions import displayed, sign
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button

Table = tuple[Sequence[str], Sequence[Sequence[object]]]
"""Headings and rows of what a plot shows."""
SHARPER = 2.0
"""A picture is saved with so many points to a point of the screen, for print."""


class BenchPlot(pg.PlotWidget):  # type: ignore[misc]
    """A plot that is only looked at.

    Attributes:
        save: the button that saves it; the page places it.
    """

    def __init__(self, bottom: str, left: str, height: int, name: str):
        c = theme.current.c
        pg.setConfigOptions(antialias=True, foreground=c.q("ink"), background=c.q("card"))
        super().__init__()
        self.name, self.axes = name, (bottom, left)
        self.setFixedHeight(theme.current.px(height))
        self.setMenuEnabled(False)
        self.setMouseEnabled(False, False)
        self.hideButtons()
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName(f"{left} over {bottom}")
        above = theme.current.px(10)  # half of the topmost number stands above its tick
        self.getPlotItem().layout.setContentsMargins(0, above, above, 0)
        for side, words in (("bottom", bottom), ("left", left)):
            axis = self.getAxis(side)
            axis.setLabel(words, **{"font-size": f"{theme.current.px(13)}px", "color": c.ink})
            axis.setTickFont(theme.current.font(12))
            axis.setTextPen(pg.mkPen(c.q("ink")))
            axis.enableAutoSIPrefix(False)
        self.save = save_button(self, name)

    def table(self) -> Table:
        """Every point that is drawn: which line it belongs to, and where it lies."""
        rows: list[tuple[object, ...]] = []
        for n, item in enumerate(self.listDataItems(), start=1):
            x, y = item.getOriginalDataset()
            if x is not None and y is not None:
                rows += [(n, float(a), float(b)) for a, b in zip(np.asarray(x), np.asarray(y), strict=True)]
        return ("line", *self.axes), rows


def bare_plot(bottom: str, left: str, height: int, name: str) -> BenchPlot:
    """A plot that is only looked at.

    Args:
        bottom, left: what its axes show; "degC" and other names of units that the shop sees in its own way stand for
            their signs. height: px before the text scale. name: of the files that it is saved in.
    """
    return BenchPlot(bottom, sign(displayed(0.0, left)[1]), height, name)


def shown(values: ArrayLike, unit: str) -> NDArray[np.float64]:
    """Values in the unit that the shop sees them in; ``unit`` as for :func:`creekbed.core.conventions.displayed`."""
    zero, one = displayed(0.0, unit)[0], displayed(1.0, unit)[0]
    return zero + (one - zero) * np.asarray(values, float)


def free(plot: BenchPlot) -> None:
    """Let a plot take the height that there is, and no less than it was made with."""
    plot.setMaximumHeight(16_777_215)


def save_button(plot: QWidget, name: str) -> QPushButton:
    """A button that saves a plot as SVG, PNG and CSV; ``plot`` has ``table()``."""

    def save() -> None:
        top: Any = plot.window()
        while not hasattr(top, "papers"):  # a dialogue stands before the window
            top = top.parentWidget().window()
        top.papers.save_plot(name, plot)

    found = button("Save this plot", save, "quiet", f"save_plot_{name}")
    found.setAccessibleDescription("As SVG, PNG and CSV, among the shop's papers")
    return found


def as_svg(plot: QWidget) -> bytes:
    """What a widget shows, as a drawing that can be made larger without loss."""
    written = QByteArray()
    buffer = QBuffer(written)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    generator = QSvgGenerator()
    generator.setOutputDevice(buffer)
    generator.setSize(plot.size())
    generator.setViewBox(plot.rect())
    painter = QPainter(generator)
    plot.render(painter) if isinstance(plot, BenchPlot) else plot.render(painter, plot.rect().topLeft())
    painter.end()
    buffer.close()
    return bytes(written.data())


def as_png(plot: QWidget) -> bytes:
    """What a widget shows, as a picture fit for print."""
    size = plot.size()
    picture = QPixmap(QSize(round(size.width() * SHARPER), round(size.height() * SHARPER)))
    picture.setDevicePixelRatio(SHARPER)
    picture.fill(theme.current.c.q("card"))
    painter = QPainter(picture)
    plot.render(painter) if isinstance(plot, BenchPlot) else plot.render(painter, plot.rect().topLeft())
    painter.end()
    written = QByteArray()
    buffer = QBuffer(written)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    picture.save(buffer, "PNG")
    buffer.close()
    return bytes(written.data())


def as_csv(table: Table) -> bytes:
    """The numbers behind a plot: RFC 4180, UTF-8, a point as decimal mark."""
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow(table[0])
    writer.writerows(table[1])
    return text.getvalue().encode()
