"""A caliper on a serial line.

The line protocol is plain text, 9600 baud, 8N1: the host sends ``R`` and a line feed; the caliper answers with one
line, a signed number and its unit (``+12.34 mm`` or ``+0.4858 in``), or ``E`` and a word when it has no reading.
"""

from __future__ import annotations

import re

import serial

from creekbed.core.errors import DeviceProblem
from creekbed.core.measure import Reading

_LINE = re.compile(rb"^([+-]?\d{1,4}(?:\.\d{1,4})?) (mm|in)$")
RESOLUTION_MM = 0.01
U_DEVICE_MM = RESOLUTION_MM / 12**0.5
"""Standard uncertainty of the resolution: a rectangle of its width (JCGM 100:2008, F.2.2.1)."""
MAX_LINE = 64


class Caliper:
    """The driver: opens the port for one reading at a time, so that a pulled plug loses nothing.

    Args:
        port: device file, such as ``/dev/ttyUSB0``.
        timeout_s: how long to wait for an answer.
    """

    def __init__(self, port: str, timeout_s: float = 1.5):
        self.port = port
        self.timeout_s = timeout_s

    def read_mm(self) -> float:
        """Ask for one value, in millimetres.

        Raises:
            DeviceProblem: no such port, no answer, an error from the device, or a line that is no reading.
        """
        try:
            with serial.Serial(self.port, 9600, timeout=self.timeout_s, write_timeout=self.timeout_s) as line:
                line.reset_input_buffer()
                line.write(b"R\n")
                answer = line.read_until(b"\n", MAX_LINE)
        except (serial.SerialException, OSError) as error:
            raise DeviceProblem(
                "The caliper does not answer.",
                safe="Nothing was recorded.",
                todo="Look at the plug and switch it on, or type the value.",
                detail=str(error),
            ) from error
        return self._value(answer)

    def _value(self, answer: bytes) -> float:
        if not answer:
            raise DeviceProblem(
                "The caliper does not answer.", safe="Nothing was recorded.", todo="Switch it on, or type the value."
            )
        text = answer.strip()
        if text.startswith(b"E "):
            raise DeviceProblem(
                f"The caliper says: {text[2:].decode('ascii', 'replace')[:30]}.",
                safe="Nothing was recorded.",
                todo="Close and open its jaws, then take the reading again.",
            )
        match = _LINE.match(text)
        if match is None:
            raise DeviceProblem(
                "What came from the caliper is no reading.", safe="Nothing was recorded.", todo="Take it again."
            )
        value = float(match[1])
        return value * 25.4 if match[2] == b"in" else value

    def reading(self, u_method_mm: float) -> Reading:
        """One reading with the uncertainty of device and method together.

        Args:
            u_method_mm: standard uncertainty of placing the jaws, mm.

        Raises:
            DeviceProblem: as :meth:`read_mm`.
        """
        u = (u_method_mm**2 + U_DEVICE_MM**2) ** 0.5
        return Reading(self.read_mm(), u, "millimeter", "caliper")
