"""How this shop writes times, numbers, money and quantities; the pitch it tunes to, and how warm its room is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtWidgets import QComboBox, QDialog, QGridLayout, QVBoxLayout, QWidget

from creekbed.core import conventions
from creekbed.core.conventions import Conventions
from creekbed.core.units import parse_quantity
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import button, entry, label, row
from creekbed.workshop.shop import formats
from creekbed.workshop.shop.house_numbers import PITCHES, house_numbers, set_house_numbers
from creekbed.workshop.shop.identity import Identity, identity, set_identity

CLOCKS = (("24", 24), ("12, with am and pm", 12))
UNITS = (("metric: °C, mm, l", "metric"), ("US: °F, inches, gallons", "us"))
MARKS = (("a point, 2.5", "."), ("a comma, 2,5", ","))
NO_COUNTRY = "choose, and the rest follows"


class FormatsDialog(QDialog):
    """A country fills in what is usual there; each part can be chosen otherwise; what is wrong is said."""

    def __init__(self, page: Page):
        super().__init__(page.frame)
        self.page = page
        self.setModal(True)
        self.setWindowTitle("Clock, money and units")
        self.setMinimumWidth(theme.current.px(640))
        now, self.numbers = formats.formats(page.shop), house_numbers(page.shop)
        self.language, self.paper = now.locale, identity(page.shop).paper
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 20, 24, 20)
        box.setSpacing(theme.STEP)
        box.addWidget(label("Clock, money and units", "title"))
        box.addWidget(label("What is on record stays as it is; only how it is written changes.", tone="muted"))
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(theme.STEP * 2)
        self.grid.setVerticalSpacing(theme.STEP)
        self.grid.setColumnStretch(1, 1)
        box.addLayout(self.grid)
        lands = [(name, code) for code, name in formats.countries().items()]
        self.country = self._choice("Country", "formats_country", [(NO_COUNTRY, ""), *lands], "")
        coins = [("no sign, plain numbers", "")]
        coins += [(f"{code}  {name}", code) for code, name in formats.currencies().items()]
        self.currency = self._choice("Money", "formats_currency", coins, now.currency)
        self.hours = self._choice("Hours of the clock", "formats_hours", CLOCKS, now.hours)
        self.units = self._choice("Units", "formats_units", UNITS, now.units)
        self.decimal = self._choice("Decimal mark", "formats_decimal", MARKS, now.decimal)
        places = [(name.replace("_", " "), name) for name in formats.zones()]
        self.zone = self._choice("Time zone", "formats_zone", [("as this computer's", ""), *places], now.zone)
        kept = self.numbers.a4_hz
        hertz = sorted({*PITCHES, kept})
        self.pitch = self._choice("Pitch, A4", "formats_pitch", [(f"{x:g} Hz", x) for x in hertz], kept)
        self.room = entry("formats_room", "Usual temperature of the room", f"such as {conventions.temperature(21)}")
        self.room.setText(conventions.temperature(self.numbers.room_c))
        self._line("Room, usually", self.room)
        self.looks = label("", tone="deep")
        self.looks.setObjectName("formats_looks")
        box.addWidget(self.looks)
        self.country.activated.connect(self._country_chosen)
        for field in (self.currency, self.hours, self.units, self.decimal, self.zone):
            field.currentIndexChanged.connect(self._show)
        keep = button("Keep", self._keep, "primary", "formats_keep")
        box.addLayout(row(keep, button("Leave it", self.reject, "", "formats_leave"), None))
        self._show()

    def _line(self, words: str, field: QWidget) -> None:
        at = self.grid.rowCount()
        self.grid.addWidget(label(words, "small", wrap=False), at, 0)
        self.grid.addWidget(field, at, 1)
        self.grid.setRowMinimumHeight(at, theme.current.target)

    def _choice(self, words: str, name: str, rows: Sequence[tuple[str, object]], now: object) -> QComboBox:
        field = QComboBox()
        field.setObjectName(name)
        field.setAccessibleName(words)
        field.setMaxVisibleItems(14)
        for said, value in rows:
            field.addItem(said, value)
        field.setCurrentIndex(max(field.findData(now), 0))
        self._line(words, field)
        return field

    def _country_chosen(self) -> None:
        """What is usual there; the time zone stays, for many countries have several."""
        code = self.country.currentData()
        if not code:
            return
        usual = formats.country(code)
        self.language, self.paper = usual.conventions.locale, usual.paper
        for field, value in (
            (self.currency, usual.conventions.currency), (self.hours, usual.conventions.hours),
            (self.units, usual.conventions.units), (self.decimal, usual.conventions.decimal),
        ):  # fmt: skip
            field.setCurrentIndex(max(field.findData(value), 0))
        self._show()

    @property
    def wanted(self) -> Conventions:
        """What is chosen now."""
        return Conventions(
            locale=self.language, decimal=self.decimal.currentData(), currency=self.currency.currentData(),
            hours=self.hours.currentData(), units=self.units.currentData(), zone=self.zone.currentData(),
        )  # fmt: skip

    def _show(self) -> None:
        """How things would look."""
        now = self.page.shop.now
        afternoon = now.astimezone().replace(hour=13, minute=5)
        with conventions.trying(self.wanted):
            parts = (
                conventions.clock(afternoon, "%a "), conventions.money(1234.5), conventions.temperature(20.5, 1),
                conventions.millimetres(328), conventions.litres(20), f"paper {self.paper}",
            )  # fmt: skip
        self.looks.setText("Like this: " + "  ·  ".join(parts))

    def _keep(self) -> None:
        shop, wanted = self.page.shop, self.wanted
        known = identity(shop)
        room: list[float] = []
        acts: list[Callable[[], object]] = [
            lambda: room.append(parse_quantity(self.room.text(), "degC", what="The room"))
        ]
        acts.append(partial(self._set_numbers, room))
        if self.paper != known.paper:
            acts.append(partial(set_identity, shop, Identity(known.name, known.address, self.paper)))
        acts.append(partial(formats.set_formats, shop, wanted))
        if all(self.page.do(act) for act in acts):
            self.accept()

    def _set_numbers(self, room: list[float]) -> None:
        wanted = type(self.numbers)(float(self.pitch.currentData()), room[0])
        if wanted != self.numbers:
            set_house_numbers(self.page.shop, wanted)
