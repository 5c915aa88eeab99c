"""Asks the caliper in a thread of its own: a device that is silent must not stop the window."""

from __future__ import annotations

from PySide6.QtCore import QThread, Signal

from creekbed.core.errors import DeviceProblem
from creekbed.devices.caliper import Caliper


class AskCaliper(QThread):
    """One question; ``answered`` carries the reading, ``failed`` the problem."""

    answered = Signal(object)
    failed = Signal(object)

    def __init__(self, port: str, u_method_mm: float):
        super().__init__()
        self.port, self.u_method_mm = port, u_method_mm

    def run(self) -> None:
        try:
            reading = Caliper(self.port).reading(self.u_method_mm)
        except DeviceProblem as problem:
            self.failed.emit(problem)
        else:
            self.answered.emit(reading)
