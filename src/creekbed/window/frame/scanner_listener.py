"""Listens to the code scanner on its serial line beside everything else, and finds it again when its plug returns."""

from __future__ import annotations

import threading

from PySide6.QtCore import QObject, QThread, Signal

from creekbed.core.errors import DeviceProblem
from creekbed.devices.scanner import CodeScanner

AGAIN_S = 2.0


class Listening(QThread):
    """``heard`` gives each code, ``lost`` the problem, once for each time that the plug is pulled."""

    heard = Signal(str)
    lost = Signal(object)

    def __init__(self, port: str, parent: QObject | None = None):
        super().__init__(parent)
        self.scanner = CodeScanner(port)
        self._stop = threading.Event()

    def run(self) -> None:
        told = False
        while not self._stop.is_set():
            codes = self.scanner.codes()
            try:
                for code in codes:
                    told = False
                    if self._stop.is_set():
                        break
                    if code:
                        self.heard.emit(code)
            except DeviceProblem as problem:
                if not told:
                    self.lost.emit(problem)
                told = True
                self._stop.wait(AGAIN_S)
            finally:
                codes.close()

    def stop(self) -> None:
        """End it, and wait until the port is free."""
        self._stop.set()
        self.wait()
