"""The caliper: a meter in millimetres, see :mod:`creekbed.devices.meter` for its line protocol."""

from __future__ import annotations

from creekbed.devices.meter import KINDS, Meter

RESOLUTION_MM = KINDS["caliper"].resolution
U_DEVICE_MM = KINDS["caliper"].u


class Caliper(Meter):
    """A caliper on a serial line."""

    def __init__(self, port: str, timeout_s: float = 1.5):
        super().__init__("caliper", port, timeout_s)

    def read_mm(self) -> float:
        """What lies between its jaws, mm.

        Raises:
            DeviceProblem: as :meth:`Meter.read`.
        """
        return self.read()
