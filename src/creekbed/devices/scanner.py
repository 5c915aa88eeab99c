"""A code scanner on a serial line: it sends what it reads by itself, and looks once when told to.

The line protocol is plain text, 9600 baud, 8N1: each code is one line of printable ASCII, ended by CR, LF or both.
The host may send ``T`` and a line feed to make it look; ``E`` and a word say that it saw nothing. A scanner that acts
as a keyboard needs no driver.
"""

from __future__ import annotations

import re
import threading
from collections.abc import Generator

import serial

from creekbed.core.errors import DeviceProblem

BAUD = 9600
LONGEST = 64
_CODE = re.compile(rb"^[\x21-\x7e][\x20-\x7e]{1,63}$")


class CodeScanner:
    """The driver. ``listening`` tells whether its port is open.

    Args:
        port: device file. quiet_s: how long :meth:`codes` listens before it gives its caller a turn.
    """

    def __init__(self, port: str, quiet_s: float = 0.25):
        self.port = port
        self.quiet_s = quiet_s
        self._look = threading.Event()
        self.listening = False

    def look(self) -> None:
        """Have it look once; what it sees comes out of :meth:`codes`. May be called from another thread."""
        self._look.set()

    def codes(self) -> Generator[str, None, None]:
        """What it reads, code by code, and "" whenever it is quiet; the port stays open until this is closed.

        Half a line that came before a pause is kept; a line that is no code is left out.

        Raises:
            DeviceProblem: no such port, or the plug was pulled.
        """
        try:
            with serial.Serial(self.port, BAUD, timeout=self.quiet_s, write_timeout=1.0) as line:
                line.reset_input_buffer()
                self.listening = True
                pending = b""
                while True:
                    if self._look.is_set():
                        self._look.clear()
                        line.write(b"T\n")
                    pending += line.read(1) + line.read(line.in_waiting)
                    *lines, pending = pending.replace(b"\r", b"\n").split(b"\n")
                    for text in lines:
                        if _CODE.match(text) and not text.startswith(b"E "):
                            yield text.decode("ascii").strip()
                    pending = pending[-2 * LONGEST :]  # what never ends is no code
                    yield ""
        except (serial.SerialException, OSError, ValueError) as error:
            raise DeviceProblem(
                "The code scanner is not connected.", safe="Nothing was lost.",
                todo="Look at its plug, or type the tag.", detail=str(error),
            ) from error  # fmt: skip
        finally:
            self.listening = False
