"""Simulated devices on pseudo-terminals: the real driver opens them like any serial port."""

from __future__ import annotations

import os
import random
import threading
import tty
from types import TracebackType


class SimulatedCaliper:
    """A caliper that holds a value set by hand and answers on its own pseudo-terminal.

    Args:
        value_mm: what lies between its jaws, mm; ``None`` for jaws open.
        scatter_mm: standard deviation of placing the jaws anew each time, mm.
        seed: of the scatter.
    """

    def __init__(self, value_mm: float | None = 2.4, scatter_mm: float = 0.05, seed: int = 7):
        self.value_mm = value_mm
        self.scatter_mm = scatter_mm
        self._random = random.Random(seed)
        self._master, self._slave = os.openpty()
        tty.setraw(self._slave)
        self.port = os.ttyname(self._slave)
        self._stop_read, self._stop_write = os.pipe()
        self._thread = threading.Thread(target=self._serve, name="simulated-caliper", daemon=True)
        self._thread.start()

    def _serve(self) -> None:
        import select

        pending = b""
        while True:
            ready, _, _ = select.select([self._master, self._stop_read], [], [])
            if self._stop_read in ready:
                return
            try:
                pending += os.read(self._master, 64)
            except OSError:
                return
            while b"\n" in pending:
                command, _, pending = pending.partition(b"\n")
                os.write(self._master, self.answer(command.strip()))
            pending = pending[-64:]

    def answer(self, command: bytes) -> bytes:
        """What the device says to a command."""
        if command != b"R":
            return b"E command\n"
        if self.value_mm is None:
            return b"E open\n"
        value = max(0.0, self.value_mm + self._random.gauss(0.0, self.scatter_mm))
        return f"{value:+.2f} mm\n".encode()

    def close(self) -> None:
        """Pull its plug."""
        os.write(self._stop_write, b"x")
        self._thread.join()
        for handle in (self._master, self._slave, self._stop_read, self._stop_write):
            os.close(handle)

    def __enter__(self) -> SimulatedCaliper:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, value: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()
