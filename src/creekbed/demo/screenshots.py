"""Takes the pictures of the main views of the demo shop: ``python -m creekbed.demo.screenshots FOLDER``.

``--dark``, ``--gloves`` and ``--scale 1.5`` take them in other dress; ``--only NAME`` takes one.
"""

from __future__ import annotations

import argparse
import json
import os
import tempfile
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from creekbed.demo.devices import DemoDevices

PICTURE_DAY = datetime(2026, 11, 19, 12, 0, tzinfo=UTC)


def main() -> int:
    """Take the pictures."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--dark", action="store_true")
    parser.add_argument("--gloves", action="store_true")
    parser.add_argument("--scale", type=float, default=1.0)
    parser.add_argument("--only", action="append")
    parser.add_argument("--shop", type=Path, help="a demo folder made before, to save time")
    given = parser.parse_args()
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    with tempfile.TemporaryDirectory() as place:
        _take(given, given.shop or Path(place) / "demo")
    return 0


def think_once(frame: Any, seconds: float = 4.0) -> None:
    """What the background would have thought of the bench by now, thought at once."""
    from creekbed.workshop.planning.better_plan import thought_over

    for _ in range(2):  # what was learned changes the plan that the second thought is about
        thought_over(frame.shop, seconds)
    frame.refresh()


def _take(given: argparse.Namespace, place: Path) -> None:
    from PySide6.QtWidgets import QApplication

    from creekbed.demo.devices import DemoDevices
    from creekbed.demo.folder import DEMO_PERSON, is_made
    from creekbed.demo.seed import make_demo
    from creekbed.window.frame.frame import Frame
    from creekbed.window.shared import theme
    from creekbed.workshop.shop.clock import HandClock
    from creekbed.workshop.shop.shop import Shop

    app = QApplication([])
    app.setStyle("Fusion")
    theme.load_fonts()
    if not is_made(place):
        make_demo(place, PICTURE_DAY)
    began = datetime.fromisoformat(json.loads((place / "demo.json").read_text())["began"])
    clock = HandClock(began + timedelta(seconds=20))
    theme.current.dark, theme.current.gloves, theme.current.scale = given.dark, given.gloves, given.scale
    theme.apply(app)
    with DemoDevices(pace_s=0.001) as simulated:
        frame = Frame(lambda: Shop(place, clock, person=DEMO_PERSON), devices=simulated.addresses)
        frame.show()
        frame.open_shop()
        frame.resize(1280, 800)
        think_once(frame)
        given.folder.mkdir(parents=True, exist_ok=True)
        views = Views(frame, simulated)
        for name, go in views.all().items():
            if given.only and name not in given.only:
                continue
            views.shown = frame
            go()
            views.shown.hush()
            _settle(app, views.shown)
            views.shown.grab().save(str(given.folder / f"{name}.png"))
            if views.shown is not frame:
                views.shown.close()
        frame.close()


def _settle(app: Any, frame: Any) -> None:
    """Let the window do what it does between its turns."""
    from creekbed.window.shared.turns import at_rest

    for _ in range(4):
        app.processEvents()
    while not at_rest(frame):
        app.processEvents()
    app.processEvents()


def _until(done: Callable[[], bool], looks: int = 2000) -> None:
    """Let the window go on until a device has answered, or it was looked so many times."""
    from PySide6.QtTest import QTest

    for _ in range(looks):
        if done():
            return
        QTest.qWait(10)


class Views:
    """Every main view, and the way to it.

    Args:
        frame: the window. simulated: what hangs on its bench.

    Attributes:
        shown: the window that a picture is taken of.
    """

    def __init__(self, frame: Any, simulated: DemoDevices):
        self.frame = self.shown = frame
        self.simulated = simulated

    def job(self, tag: str, tab: str) -> Callable[[], object]:
        return lambda: self.frame.nav.open_job(next(v.job.id for v in self.frame.home.jobs if v.tag == tag), tab)

    def book_in(self) -> None:
        self.frame.nav.open_book_in("MH-0391")
        page = self.frame.page("book_in")
        page._choose_family("alto_saxophone")
        page.case.setText("4 °C")

    def house(self) -> None:
        self.frame.nav.open_house()
        self.frame.page("house").look_at("sax_body_pulls", "by_hours")

    def look(self, tag: str, check: str, way: str) -> Any:
        self.job(tag, "look_over")()
        panel = self.frame.page("job").checks
        panel.choose(check)
        panel.start_way(way)
        return panel.way

    def look_over(self) -> None:
        self.job("MH-0207", "look_over")()
        self.frame.page("job").checks.choose("fine_tuner")

    def leak(self) -> None:
        way = self.look("MH-0312", "leak_upper", "leak")
        way.volume.setText("120 ml")
        way.toggle()
        _until(lambda: way.fit is not None)

    def photo(self) -> None:
        from creekbed.demo.devices import picture_points

        way = self.look("MH-0207", "bridge_lean", "photo")
        way.take()
        _until(lambda: way.opened is not None)
        for x, y in picture_points():
            way.view_.place(x, y)

    def tuning(self) -> None:
        self.frame.nav.open_tool("tuning")
        page = self.frame.page("tuning")
        self.simulated.put_before_microphone("violin")
        page.toggle()
        _until(lambda: page.tuner.playing == "A" and page.tuner.states["A"].found is not None)
        page.end()

    def playing(self) -> None:
        self.frame.nav.open_tool("playing")
        page = self.frame.page("playing")
        page.family.setCurrentIndex(page.family.findData("alto_saxophone"))
        self.simulated.put_before_microphone("alto_saxophone")
        page.toggle()
        _until(lambda: page.listening is None or not page.result.missing, 12_000)
        page.end()
        page.refresh()

    def day(self) -> None:
        self.frame.nav.open_day()
        page = self.frame.page("day")
        _until(lambda: page.schedule.day is not None)
        page.schedule.choose(page.schedule.day.rows[0].runs[5])

    def instruments(self) -> None:
        self.frame.nav.open_instruments()
        page = self.frame.page("instruments")
        _until(lambda: not page.loading.busy)

    def bring(self) -> None:
        """A list as a shop might have it, with what is not sure in it."""
        rows = ["Inventory no.;Instrument;Size;Serial;Bought;Price;School;Out since"]
        what = ("Violin", "Viola", "Clarinet", "Trumpet", "Sax", "3/4 cello", "Flute")
        for n in range(40):
            school = "Hill school;01.09.2026" if n % 3 == 0 else ";"
            size = "15 in" if n % 7 == 1 else "7/8" if n == 14 else ""
            rows.append(f"V-{n + 201};{what[n % 7]};{size};A{4400 + n};0{n % 9 + 1}.03.2021;349,00 €;{school}")
        with tempfile.TemporaryDirectory() as place:
            file = Path(place) / "instruments.csv"
            file.write_text("\n".join(rows), encoding="utf-8")
            self.frame.nav.open_bring()
            page = self.frame.page("bring")
            page.open_file(file)
            _until(lambda: not page.work.busy and page.found is not None)

    def first(self) -> None:
        """A new shop, in a window of its own."""
        from creekbed.window.frame.frame import Frame
        from creekbed.workshop.shop.clock import HandClock
        from creekbed.workshop.shop.shop import Shop

        place = Path(tempfile.mkdtemp()) / "shop"
        self.shown = Frame(lambda: Shop(place, HandClock(self.frame.shop.now)))
        self.shown.show()
        self.shown.open_shop()
        self.shown.resize(1280, 800)

    def days(self) -> None:
        from datetime import date

        from creekbed.workshop.shop import departures, shop_days

        shop = self.frame.shop
        school = departures.KindRequest("Hill school delivery", 630, dates=(date(2026, 12, 3), date(2027, 1, 14)))
        departures.add_kind(shop, school)
        shop_days.close(shop, "Midwinter", date(2026, 12, 24), date(2027, 1, 1))
        shop_days.set_season(
            shop, "Festival weeks", date(2027, 6, 7), date(2027, 6, 27), dict.fromkeys(range(6), "8-12, 13-19")
        )
        self.frame.nav.open_days()

    def all(self) -> dict[str, Callable[[], object]]:
        """Every main view with the way to it."""
        frame = self.frame
        return {
            "bench": frame.nav.go_home,
            "day": self.day,
            "book-in": self.book_in,
            "case": self.job("MH-0107", "case"),
            "leak-test": self.leak,
            "photo": self.photo,
            "tuning": self.tuning,
            "playing": self.playing,
            "look-over-violin": self.look_over,
            "steps": self.job("MH-0142", "steps"),
            "ready": self.job("MH-0107", "ready"),
            "mix-bench": frame.nav.open_mix,
            "count": frame.nav.open_count,
            "house-rules": self.house,
            "book": lambda: frame.nav.open_book("clarinet", "job", "upper_swab"),
            "instruments": self.instruments,
            "days": self.days,
            "bring": self.bring,
            "first": self.first,
        }


if __name__ == "__main__":
    raise SystemExit(main())
