"""Plots as all pages show them: in the theme's type and colours, without menus, buttons and mouse."""

from __future__ import annotations

import pyqtgraph as pg
from PySide6.QtCore import Qt

from creekbed.window.shared import theme


def bare_plot(bottom: str, left: str, height: int) -> pg.PlotWidget:
    """A plot that is only looked at.

    Args:
        bottom, left: what its axes show. height: px before the text scale.
    """
    c = theme.current.c
    pg.setConfigOptions(antialias=True, foreground=c.q("ink"), background=c.q("card"))
    plot = pg.PlotWidget()
    plot.setFixedHeight(theme.current.px(height))
    plot.setMenuEnabled(False)
    plot.setMouseEnabled(False, False)
    plot.hideButtons()
    plot.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    for side, words in (("bottom", bottom), ("left", left)):
        axis = plot.getAxis(side)
        axis.setLabel(words, **{"font-size": f"{theme.current.px(13)}px", "color": c.ink})
        axis.setTickFont(theme.current.font(12))
        axis.setTextPen(pg.mkPen(c.q("ink")))
        axis.enableAutoSIPrefix(False)
    return plot


def free(plot: pg.PlotWidget) -> None:
    """Let a plot take the height that there is, and no less than it was made with."""
    plot.setMaximumHeight(16_777_215)
