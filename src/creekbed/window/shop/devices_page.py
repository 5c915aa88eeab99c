"""Devices: each with its port, its last reading, and a test."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QGridLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput
from creekbed.core.units import show
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import button, card, label, restyle, scroll

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame

DEVICES: dict[str, tuple[str, str, str]] = {
    "caliper": ("Caliper", "lengths", "/dev/ttyUSB0"),
    "pressure": ("Pressure gauge", "the leak test", "/dev/ttyUSB1"),
    "scale": ("Scale", "weights", "/dev/ttyUSB2"),
    "force": ("Force gauge", "slide friction", "/dev/ttyUSB3"),
    "thermometer": ("Thermometer", "the air and the case", "/dev/ttyUSB4"),
    "hygrometer": ("Hygrometer", "the air", "/dev/ttyUSB5"),
    "scanner": ("Code scanner", "tags and supplies", "/dev/ttyACM0"),
    "camera": ("Camera", "still pictures", "http://192.168.0.20/still.jpg"),
    "microphone": ("Microphone", "tuning, play-test", "default"),
}
"""Kind: name, what it is for, how its port or address looks."""


class DevicesPage(Page):
    """One line for each device."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP)
        box.addWidget(label("Devices", "title"))
        box.addWidget(
            label(
                "A device is asked only when you ask; the code scanner speaks by itself, and the microphone is heard "
                "only while a page says so. Pulling a plug loses nothing. "
                "A scanner that types like a keyboard needs no port.", tone="muted",
            )
        )  # fmt: skip
        inner = QWidget()
        holder = QVBoxLayout(inner)
        holder.setContentsMargins(0, 0, 8, 0)
        surface, inside = card()
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(12)
        inside.addLayout(grid)
        holder.addWidget(surface)
        holder.addStretch(1)
        box.addWidget(scroll(inner), 1)
        self.fields: dict[str, QLineEdit] = {}
        self.last: dict[str, QLabel] = {}
        for n, (kind, (name, purpose, looks)) in enumerate(DEVICES.items()):
            grid.addWidget(label(name, "name", wrap=False), n, 0)
            grid.addWidget(label(f"for {purpose}", tone="muted", wrap=False), n, 1)
            field = QLineEdit()
            field.setObjectName(f"port_{kind}")
            field.setAccessibleName(f"Port of the {name.lower()}")
            field.setPlaceholderText(looks)
            field.setMaxLength(120)
            field.returnPressed.connect(partial(self.keep, kind))
            self.fields[kind] = field
            grid.addWidget(field, n, 2)
            grid.addWidget(button("Keep", partial(self.keep, kind), "quiet", f"keep_{kind}"), n, 3)
            grid.addWidget(button("Try it", partial(self.try_it, kind), "", f"try_{kind}"), n, 4)
            self.last[kind] = label("", wrap=False)
            grid.addWidget(self.last[kind], n, 5)
        grid.setColumnStretch(2, 1)
        grid.setColumnMinimumWidth(5, theme.current.px(200))

    def refresh(self) -> None:
        for kind, field in self.fields.items():
            if not field.isModified():  # what somebody is typing stays
                field.setText(self.frame.devices.ports.get(kind, ""))
            words = self.frame.devices.last_readings.get(DEVICES[kind][0].lower(), "")
            connected = bool(self.frame.devices.ports.get(kind))
            self.last[kind].setText(words or ("not asked yet" if connected else "not connected"))
            restyle(self.last[kind], tone="" if words else "muted")

    def keep(self, kind: str) -> None:
        """Keep the port that is typed; an empty one takes the device away."""
        port = self.fields[kind].text().strip()
        name = DEVICES[kind][0]

        def act() -> None:
            if kind not in ("camera", "microphone") and port and not port.startswith("/dev/"):
                raise BadInput(f"“{port[:40]}” is no port.", todo="It looks like /dev/ttyUSB0.")

            def with_port(before: Any) -> dict[str, str]:
                return {k: v for k, v in {**(before or {}), kind: port}.items() if v}

            stored = self.shop.change_setting("devices", with_port, f"{name}: {port or 'taken away'}")
            self.frame.devices.ports = {**stored, **self.frame.devices.given}
            if kind in self.frame.devices.given and port != self.frame.devices.given[kind]:
                self.frame.devices.ports[kind] = port
            if kind == "scanner":
                self.frame.devices.listen_to_scanner()

        self.do(act)
        self.refresh()

    def try_it(self, kind: str) -> None:
        """Ask a device once and show what it says."""
        if not self.frame.devices.ports.get(kind):
            self.frame.say(f"{DEVICES[kind][0]}: no port is set.", warn=True)
        elif kind == "camera":
            self.frame.devices.take_picture(lambda data: self.refresh())
        elif kind == "scanner":
            self.frame.devices.try_scanner()
        elif kind == "microphone":
            port = self.frame.devices.ports[kind]
            self.frame.devices.ask("microphone", lambda: loudness(port), lambda words: self.refresh())
        elif kind == "pressure":
            port = self.frame.devices.ports[kind]
            self.frame.devices.ask("pressure gauge", lambda: first_reading(port), lambda words: self.refresh())
        else:
            self.frame.devices.read_meter(kind, 0.0, lambda reading: self.refresh())


TRIED_S = 1.0
"""How long a microphone is tried."""


def loudness(address: str) -> str:
    """How loud a microphone hears the room for a moment, in words.

    Raises:
        DeviceProblem: it does not answer.
    """
    import math

    from creekbed.devices.microphone import Block, Microphone

    squares, count, rate = 0.0, 0, 0.0

    def told(block: Block) -> bool:
        nonlocal squares, count, rate
        squares += float(block.samples @ block.samples)
        count, rate = count + block.samples.size, block.rate
        return count < TRIED_S * rate

    Microphone(address).listen(told)
    if not squares:
        return "silent: is it muted?"
    return f"the room at {number(10 * math.log10(squares / count), 0)} dB, {number(rate, 0)} samples a second"


def first_reading(port: str) -> str:
    """One reading of the pressure gauge, in words.

    Raises:
        DeviceProblem: it does not answer.
    """
    from creekbed.devices.gauge import PressureGauge

    heard: list[float] = []

    def told(t: float, p: float) -> bool:
        heard.append(p)
        return False

    PressureGauge(port).record(told)
    return show(heard[0] / 1000, "kilopascal")
