"""Contrast of every text and background pair of both themes (WCAG 2, by the package wcag-contrast-ratio)."""

import pytest
import wcag_contrast_ratio as wcag

from creekbed.window.shared.theme import DUSK, LIGHT, TEXT_PAIRS, Colours


def rgb(colour: str) -> tuple[float, float, float]:
    return tuple(int(colour[n : n + 2], 16) / 255 for n in (1, 3, 5))  # type: ignore[return-value]


def test_the_measure_itself() -> None:
    """Black on white is 21 (W3C)."""
    assert wcag.rgb(rgb("#000000"), rgb("#FFFFFF")) == pytest.approx(21)


@pytest.mark.parametrize("theme", [LIGHT, DUSK], ids=["day", "dusk"])
@pytest.mark.parametrize(("text", "ground"), TEXT_PAIRS)
def test_text_can_be_read(theme: Colours, text: str, ground: str) -> None:
    assert wcag.rgb(rgb(getattr(theme, text)), rgb(getattr(theme, ground))) >= 4.5


@pytest.mark.parametrize("theme", [LIGHT, DUSK], ids=["day", "dusk"])
@pytest.mark.parametrize(
    ("line", "ground"), [("deep", "card"), ("warn", "card"), ("focus", "card"), ("muted", "card"), ("focus", "paper")]
)
def test_edges_and_focus_can_be_seen(theme: Colours, line: str, ground: str) -> None:
    """3:1 for the edges of controls (WCAG 2.1, 1.4.11)."""
    assert wcag.rgb(rgb(getattr(theme, line)), rgb(getattr(theme, ground))) >= 3
