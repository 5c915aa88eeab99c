"""Every plot can be saved: as a drawing, as a picture, and as the numbers behind it."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from pathlib import Path
from xml.etree import ElementTree

import pytest
from PIL import Image

from creekbed.core import conventions
from creekbed.core.conventions import Conventions
from creekbed.window.shared.plots import BenchPlot, shown
from creekbed.workshop.shop.shop import Shop
from tests.window.conftest import Driver, rest

TOOLS = {"bath": "bath", "wood": "wood"}


def saved(shop: Shop, ending: str) -> list[Path]:
    return sorted((Path(shop.folder) / "papers").glob(f"plot-*.{ending}"))


@pytest.mark.parametrize("tool", sorted(TOOLS))
def test_a_plot_is_saved_in_three_forms(drive: Callable[[str], Driver], shop: Shop, tool: str) -> None:
    driver = drive("keys")
    driver.frame.nav.open_tool(tool)
    rest(driver.frame)
    driver.press(f"save_plot_{TOOLS[tool]}")
    (svg,), (png,), (table,) = (saved(shop, ending) for ending in ("svg", "png", "csv"))
    plot = driver.frame.page(tool).plot
    root = ElementTree.fromstring(svg.read_bytes())
    drawn = {element.tag.rpartition("}")[2] for element in root.iter()}
    texts = {element.text for element in root.iter("{http://www.w3.org/2000/svg}text")}
    pictures = sum(element.tag.endswith("}image") for element in root.iter())
    assert drawn & {"path", "polyline"} and pictures <= 2  # lines are lines; only discs are small pictures
    assert set(plot.axes) <= {(t or "").strip() for t in texts}
    with Image.open(png) as picture:
        assert picture.size == (2 * plot.width(), 2 * plot.height())
        assert len(picture.convert("RGB").resize((90, 60)).getcolors(90 * 60) or ()) > 5
    rows = list(csv.reader(io.StringIO(table.read_text())))
    assert rows[0] == ["line", *plot.axes] and len(rows) > 100
    assert all(len(row) == 3 and [float(x) for x in row] for row in rows[1:])
    assert svg.stem in driver.frame.words.text()
    assert all(path.stat().st_mode & 0o077 == 0 for path in (svg, png, table))


def test_the_numbers_of_the_bath_are_those_that_are_drawn(drive: Callable[[str], Driver], shop: Shop) -> None:
    """A tub of 38 °C cools towards the room by Newton's law: its first point is 38 °C, the second lies below."""
    driver = drive("mouse")
    driver.frame.nav.open_tool("bath")
    rest(driver.frame)
    _, rows = driver.frame.page("bath").plot.table()
    assert rows[0] == (1, 0.0, 38.0) and rows[1][2] < 38.0
    conventions.use(Conventions(units="us"))
    driver.frame.page("bath")._compute()
    _, rows = driver.frame.page("bath").plot.table()
    assert rows[0][2] == pytest.approx(100.4)


def test_the_topmost_number_of_an_axis_is_whole(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_tool("bath")
    rest(driver.frame)
    for plot in driver.frame.page("bath").findChildren(BenchPlot):
        axis = plot.getAxis("left")
        top = axis.mapRectToScene(axis.rect()).top()
        assert top >= 8 and plot.axes == ("minutes", "°C")


def test_a_plot_that_cannot_be_saved_says_so(
    drive: Callable[[str], Driver], shop: Shop, monkeypatch: pytest.MonkeyPatch
) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_tool("bath")
    rest(driver.frame)
    (Path(shop.folder) / "papers").mkdir(exist_ok=True)

    def full(*_: object) -> Path:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("creekbed.store.files.write_whole", full)
    driver.press("save_plot_bath")
    assert "could not be saved: No space left" in driver.frame.words.text() and saved(shop, "csv") == []


def test_values_as_the_shop_sees_them() -> None:
    assert list(shown([0.0, 100.0], "degC")) == [0.0, 100.0]
    with conventions.trying(Conventions(units="us")):
        assert list(shown([0.0, 100.0], "degC")) == pytest.approx([32.0, 212.0])
    assert list(shown([1.5], "g")) == [1.5]
