"""Colours, type and sizes, in one place; the style sheet is made from them."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from string import Template

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from creekbed.core.quick_dataclasses import dataclass

FONTS = Path(__file__).parents[2] / "assets" / "fonts"
SIGNS = Path(__file__).parents[2] / "assets" / "signs"
STYLE = Path(__file__).parents[2] / "assets" / "style" / "bench.qss"
FAMILY = "Atkinson Hyperlegible Next"
RADIUS = 10
LINE = 2
STEP = 8


@dataclass(frozen=True)
class Colours:
    """One palette. Accent is for the primary action only; warn for late or unsafe, always with word and shape."""

    paper: str
    card: str
    ink: str
    muted: str
    line: str
    water: str
    deep: str
    accent: str
    on_accent: str
    warn: str
    warn_soft: str
    silt: str
    focus: str

    def q(self, name: str) -> QColor:
        return QColor(getattr(self, name))


LIGHT = Colours(
    paper="#F2F0E8", card="#FBFAF5", ink="#1D2B30", muted="#4F5F63", line="#C9C8BB", water="#BFD4D3", deep="#33616A",
    accent="#2C6A4E", on_accent="#FFFFFF", warn="#9E3F22", warn_soft="#F6E3DA", silt="#E4E0D2", focus="#1D2B30",
)  # fmt: skip
DUSK = Colours(
    paper="#1F1D1A", card="#2A2723", ink="#F3E7D0", muted="#BDB09A", line="#4C463D", water="#3A5256", deep="#9CC7C9",
    accent="#8CCBA6", on_accent="#15211B", warn="#F2A182", warn_soft="#43302A", silt="#37332D", focus="#F3E7D0",
)  # fmt: skip

TEXT_PAIRS = (
    ("ink", "paper"), ("ink", "card"), ("ink", "silt"), ("ink", "water"), ("ink", "warn_soft"),
    ("muted", "paper"), ("muted", "card"), ("muted", "silt"), ("deep", "paper"), ("deep", "card"),
    ("warn", "card"), ("warn", "paper"), ("warn", "warn_soft"), ("on_accent", "accent"),
)  # fmt: skip
"""Every text/background pair that the window uses; a test holds each to 4.5:1."""


@dataclass
class Theme:
    """Palette and sizes as set by the person at the bench.

    Args:
        dark: bench lamp at dusk. gloves: larger targets. scale: text size, 1.0 to 1.5.
    """

    dark: bool = False
    gloves: bool = False
    scale: float = 1.0

    @property
    def c(self) -> Colours:
        return DUSK if self.dark else LIGHT

    @property
    def target(self) -> int:
        """Height of anything that is pressed, px."""
        return 64 if self.gloves else max(44, round(44 * min(self.scale, 1.25)))

    def px(self, size: float) -> int:
        """A type size at the chosen text scale."""
        return round(size * self.scale)

    @property
    def roomy(self) -> bool:
        """Text or targets are large: pages make room by scrolling upright."""
        return self.scale > 1.1 or self.gloves

    def big(self, size: float) -> int:
        """A size that is large already: it grows by a fifth at most."""
        return round(size * min(self.scale, 1.2))

    def font(self, size: float, bold: bool = False, large: bool = False) -> QFont:
        """The shipped family with tabular figures; ``large`` sizes grow less."""
        font = QFont(FAMILY)
        font.setPixelSize(self.big(size) if large else self.px(size))
        font.setBold(bold)
        font.setFeature(QFont.Tag("tnum"), 1)
        return font


STEP_SIZE, NUMERAL_SIZE, TITLE_SIZE, NAME_SIZE, TEXT_SIZE = 38, 34, 28, 19, 15

current = Theme()


def load_fonts() -> None:
    """Register the shipped type.

    Raises:
        FileNotFoundError: a font file does not ship or is damaged.
    """
    for file in ("AtkinsonHyperlegibleNext-Regular.ttf", "AtkinsonHyperlegibleNext-Bold.ttf"):
        if QFontDatabase.addApplicationFont(str(FONTS / file)) < 0:
            raise FileNotFoundError(FONTS / file)


def apply(app: QApplication) -> None:
    """Dress the whole application in the current theme."""
    c = current.c
    palette = QPalette()
    for role, name in (
        (QPalette.ColorRole.Window, "paper"), (QPalette.ColorRole.Base, "card"), (QPalette.ColorRole.Text, "ink"),
        (QPalette.ColorRole.WindowText, "ink"), (QPalette.ColorRole.Button, "card"),
        (QPalette.ColorRole.ButtonText, "ink"), (QPalette.ColorRole.Highlight, "deep"),
        (QPalette.ColorRole.HighlightedText, "paper"), (QPalette.ColorRole.PlaceholderText, "muted"),
        (QPalette.ColorRole.ToolTipBase, "card"), (QPalette.ColorRole.ToolTipText, "ink"),
    ):  # fmt: skip
        palette.setColor(role, c.q(name))
    app.setPalette(palette)
    app.setFont(current.font(TEXT_SIZE))
    sheet = style_sheet(current)
    if app.styleSheet() != sheet:  # dressing every widget anew is the dear part
        app.setStyleSheet(sheet)
    app.styleHints().setColorScheme(Qt.ColorScheme.Dark if current.dark else Qt.ColorScheme.Light)


def style_sheet(theme: Theme) -> str:
    """The style sheet of a theme: the shipped one with its colours and sizes."""
    sizes = {
        "radius": RADIUS, "line_px": LINE, "target": theme.target, "inner": theme.target - 2 * LINE,
        "row": theme.target - 12, "step": STEP, "step_and_1": STEP + 1, "step_2": 2 * STEP,
        "name_px": theme.px(NAME_SIZE),
    }  # fmt: skip
    arrow = (SIGNS / f"down-{'dusk' if theme.dark else 'day'}.png").as_posix()
    return Template(STYLE.read_text(encoding="utf-8")).substitute(asdict(theme.c), **sizes, arrow=arrow)
