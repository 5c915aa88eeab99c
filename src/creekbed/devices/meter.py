"""Instruments that give one number when asked: caliper, scale, force gauge, thermometer, hygrometer.

The line protocol is plain text, 8N1: the host sends ``R`` and a line feed; the device answers with one line, a signed
number and its unit (``+12.34 mm``, ``+0.451 kg``, ``+21.4 C``), or ``E`` and a word when it has no reading.
"""

from __future__ import annotations

import re

import serial

from creekbed.core.errors import DeviceProblem
from creekbed.core.measure import Reading
from creekbed.core.quick_dataclasses import dataclass

MAX_LINE = 64
_LINE = re.compile(rb"^([+-]?\d{1,6}(?:\.\d{1,4})?) ([A-Za-z%]{1,3})$")


@dataclass(frozen=True)
class MeterKind:
    """One kind of device.

    Attributes:
        key, name: as settings and people call it. unit: Pint's name of the unit that it gives.
        units: how the device may write its unit → (factor, offset) to ``unit``.
        resolution: of its display, in ``unit``. span: what it can show, in ``unit``.
        advice: what to do when it has no reading.
    """

    key: str
    name: str
    unit: str
    units: dict[str, tuple[float, float]]
    resolution: float
    span: tuple[float, float]
    advice: str
    baud: int = 9600

    @property
    def u(self) -> float:
        """Standard uncertainty of the resolution: a rectangle of its width (JCGM 100:2008, F.2.2.1)."""
        return self.resolution / 12**0.5


KINDS: dict[str, MeterKind] = {
    k.key: k
    for k in (
        MeterKind("caliper", "caliper", "millimeter", {"mm": (1.0, 0.0), "in": (25.4, 0.0)}, 0.01, (-1000.0, 1000.0),
                  "Close and open its jaws, then take the reading again."),
        MeterKind("scale", "scale", "gram", {"g": (1.0, 0.0), "kg": (1000.0, 0.0), "oz": (28.349523125, 0.0)}, 0.1,
                  (-500.0, 30_000.0),
                  "Clear its plate, zero it, then take the reading again."),
        MeterKind("force", "force gauge", "newton", {"N": (1.0, 0.0), "lbf": (4.4482216152605, 0.0)}, 0.01,
                  (-500.0, 500.0),
                  "Zero it, then pull again."),
        MeterKind("thermometer", "thermometer", "degC", {"C": (1.0, 0.0), "F": (5 / 9, -160 / 9)}, 0.1, (-60.0, 120.0),
                  "Look at its probe, then take the reading again."),
        MeterKind("hygrometer", "hygrometer", "percent", {"%": (1.0, 0.0)}, 0.1, (0.0, 100.0),
                  "Give it a minute in the room, then take the reading again."),
    )
}  # fmt: skip


class Meter:
    """The driver: opens the port for one reading at a time, so that a pulled plug loses nothing.

    Args:
        kind: key of :data:`KINDS`. port: device file, such as ``/dev/ttyUSB0``.
        timeout_s: how long to wait for an answer.
    """

    def __init__(self, kind: str, port: str, timeout_s: float = 1.5):
        self.kind = KINDS[kind]
        self.port = port
        self.timeout_s = timeout_s

    def read(self) -> float:
        """Ask for one value, in the kind's unit.

        Raises:
            DeviceProblem: no such port, no answer, an error from the device, or a line that is no reading.
        """
        try:
            with serial.Serial(self.port, self.kind.baud, timeout=self.timeout_s, write_timeout=self.timeout_s) as line:
                line.reset_input_buffer()
                line.write(b"R\n")
                answer = line.read_until(b"\n", MAX_LINE)
        except (serial.SerialException, OSError, ValueError) as error:
            raise self._silent(str(error)) from error
        if not answer:
            raise self._silent("")
        return self._value(answer.strip())

    def _silent(self, detail: str) -> DeviceProblem:
        return DeviceProblem(
            f"The {self.kind.name} does not answer.", safe="Nothing was recorded.",
            todo="Look at the plug and switch it on, or type the value.", detail=detail,
        )  # fmt: skip

    def _value(self, text: bytes) -> float:
        if text.startswith(b"E "):
            raise DeviceProblem(
                f"The {self.kind.name} says: {text[2:].decode('ascii', 'replace')[:30]}.",
                safe="Nothing was recorded.", todo=self.kind.advice,
            )  # fmt: skip
        match = _LINE.match(text)
        found = self.kind.units.get(match[2].decode()) if match is not None else None
        low, high = self.kind.span
        value = float(match[1]) * found[0] + found[1] if match is not None and found is not None else None
        if value is None or not low <= value <= high:
            raise DeviceProblem(
                f"What came from the {self.kind.name} is no reading.",
                safe="Nothing was recorded.",
                todo="Take it again.",
            )
        return value

    def reading(self, u_method: float = 0.0) -> Reading:
        """One reading with the uncertainty of device and method together.

        Args:
            u_method: standard uncertainty of how it is used, in the kind's unit.

        Raises:
            DeviceProblem: as :meth:`read`.
        """
        u = (u_method**2 + self.kind.u**2) ** 0.5
        return Reading(self.read(), u, self.kind.unit, self.kind.name)
