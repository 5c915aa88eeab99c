"""The pressure gauge of the leak test: it streams while asked to.

The line protocol is plain text, 115200 baud, 8N1: ``S`` and a line feed starts it, ``X`` and a line feed stops it;
meanwhile each line is its own time in milliseconds and the gauge pressure in pascals (``1250 2478.3``), or ``E`` and
a word.
"""

from __future__ import annotations

import re
import time
from collections.abc import Callable

import serial

from creekbed.core.errors import DeviceProblem

BAUD = 115_200
MAX_LINE = 64
MOST_SECONDS = 180.0
LATE_S = 20.0
"""By this computer's clock a record is over so long after its longest time, whatever the gauge says: house default."""
_LINE = re.compile(rb"^(\d{1,9}) ([+-]?\d{1,6}(?:\.\d{1,3})?)$")
Told = Callable[[float, float], bool]
"""Gets each reading, time in s and pressure in Pa; ``False`` ends the record."""


class PressureGauge:
    """The driver. What was read before a plug is pulled has been told and is kept by whoever listens.

    Args:
        port: device file. timeout_s: how long a gauge may be silent.
    """

    def __init__(self, port: str, timeout_s: float = 1.5):
        self.port = port
        self.timeout_s = timeout_s

    def record(self, told: Told) -> None:
        """Stream readings to ``told`` until it returns ``False``.

        Raises:
            DeviceProblem: no such port, silence, an error from the device, or three lines running that are no readings.
        """
        try:
            with serial.Serial(self.port, BAUD, timeout=self.timeout_s, write_timeout=self.timeout_s) as line:
                line.reset_input_buffer()
                line.write(b"S\n")
                try:
                    self._listen(line, told)
                finally:
                    line.write(b"X\n")
        except (serial.SerialException, OSError, ValueError) as error:
            raise self._silent(str(error)) from error

    def _listen(self, line: serial.Serial, told: Told) -> None:
        first: float | None = None
        wrong = 0
        until = time.monotonic() + MOST_SECONDS + LATE_S
        while time.monotonic() < until:  # whatever time the gauge says it is
            text = line.read_until(b"\n", MAX_LINE)
            if not text.endswith(b"\n"):
                raise self._silent("")
            if text.startswith(b"E "):
                words = text[2:].strip().decode("ascii", "replace")[:30]
                raise DeviceProblem(
                    f"The pressure gauge says: {words}.",
                    safe="What was read before is kept.",
                    todo="Begin the test again.",
                )
            match = _LINE.match(text.strip())
            if match is None:
                wrong += 1
                if wrong == 3:
                    raise DeviceProblem(
                        "What comes from the pressure gauge are no readings.", safe="What was read before is kept.",
                        todo="Look at its plug and begin again.",
                    )  # fmt: skip
                continue
            wrong = 0
            now = int(match[1]) / 1000.0
            first = now if first is None else first
            if not told(now - first, float(match[2])) or now - first > MOST_SECONDS:
                return

    def _silent(self, detail: str) -> DeviceProblem:
        return DeviceProblem(
            "The pressure gauge does not answer.", safe="What was read before is kept.",
            todo="Look at the plug and switch it on.", detail=detail,
        )  # fmt: skip
