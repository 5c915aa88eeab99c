"""The devices of the demo's bench, all simulated: they answer the real drivers."""

from __future__ import annotations

import math
from functools import lru_cache
from io import BytesIO

from creekbed.demo.player import RATE, plays
from creekbed.devices.simulated import (
    Plugged,
    SimulatedCaliper,
    SimulatedCamera,
    SimulatedGauge,
    SimulatedMeter,
    SimulatedMicrophone,
    SimulatedScanner,
)

PX_PER_MM = 9.0
SEEN = ((60, 90), (1530, 40), (1580, 1010), (20, 1060))
"""Where the corners of the plane lie in the picture, px."""
LEAN_DEG = 4.2
"""How far the bridge in the camera's picture leans toward the fingerboard."""


@lru_cache(maxsize=1)
def bridge_picture() -> bytes:
    """A violin's bridge from the side with a card beside it, in one plane, seen a little from above; JPEG."""
    from PIL import Image, ImageDraw, ImageFilter

    size = (round(170 * PX_PER_MM), round(105 * PX_PER_MM))
    plane = Image.new("RGB", size, (206, 196, 176))
    draw = ImageDraw.Draw(plane)

    def at(x_mm: float, y_mm: float) -> tuple[float, float]:
        return x_mm * PX_PER_MM, y_mm * PX_PER_MM

    draw.rectangle([at(0, 88), at(170, 105)], fill=(142, 84, 46))
    draw.line([at(0, 88), at(170, 88)], fill=(70, 38, 20), width=5)
    draw.rectangle([at(14, 24), at(14 + 85.6, 24 + 53.98)], fill=(236, 238, 240), outline=(30, 40, 44), width=4)
    draw.rectangle([at(14, 33), at(99.6, 42)], fill=(60, 74, 82))
    lean = math.tan(math.radians(LEAN_DEG))
    foot, height = 118.0, 33.0
    back = [(foot, 88.0), (foot + height * lean, 88.0 - height)]
    front = [(foot + height * lean + 2.4, 88.0 - height), (foot + 4.6, 88.0)]
    draw.polygon([at(x, y) for x, y in (*back, *front)], fill=(214, 178, 120), outline=(70, 50, 26))
    draw.line([at(100, 88.0 - height + 4), at(170, 88.0 - height - 3)], fill=(40, 40, 40), width=4)
    width, tall = 1600, 1100
    coefficients = _perspective(SEEN, size)
    seen = plane.transform(
        (width, tall), Image.Transform.PERSPECTIVE, coefficients, Image.Resampling.BICUBIC, fillcolor=(206, 196, 176)
    )
    seen = seen.filter(ImageFilter.GaussianBlur(0.9))
    out = BytesIO()
    seen.save(out, "JPEG", quality=92)
    return out.getvalue()


def picture_points() -> list[tuple[float, float]]:
    """Where a person would point in that picture: the card's corners, the plate twice, foot and top of the bridge."""
    import numpy as np

    from creekbed.core.inspection.homography import apply, homography

    w, h = round(170 * PX_PER_MM), round(105 * PX_PER_MM)
    plane = np.array([[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]])
    top = 118.0 + 33.0 * math.tan(math.radians(LEAN_DEG))
    mm = [(14, 24), (99.6, 24), (99.6, 77.98), (14, 77.98), (20, 88), (160, 88), (118, 88), (top, 55)]
    to_picture = homography(plane, np.array(SEEN, dtype=float))
    return [(float(x), float(y)) for x, y in apply(to_picture, np.array(mm, dtype=float) * PX_PER_MM)]


def _perspective(corners: tuple[tuple[int, int], ...], size: tuple[int, int]) -> tuple[float, ...]:
    """Coefficients that take a point of the picture to the plane's pixels."""
    import numpy as np

    from creekbed.core.inspection.homography import homography

    w, h = size
    plane = np.array([[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]])
    found = homography(np.array(corners, dtype=float), plane)
    return tuple(float(x) for x in found.ravel()[:8])


AS_TIME_GOES_S = 0.05


class DemoDevices(Plugged):
    """Everything that hangs on the demo's bench.

    Args:
        pace_s: real time between two readings of the gauge; the microphone is as fast as time goes unless it is short.
    """

    def __init__(self, pace_s: float = 0.1):
        self.caliper = SimulatedCaliper(7.4)
        self.scale = SimulatedMeter("scale", 452.0, 0.1)
        self.force = SimulatedMeter("force", 1.9, 0.06)
        self.thermometer = SimulatedMeter("thermometer", 20.4, 0.05)
        self.hygrometer = SimulatedMeter("hygrometer", 47.0, 0.3)
        self.gauge = SimulatedGauge(33.0, 0.12, pace_s=pace_s)
        self.camera = SimulatedCamera(bridge_picture)
        self.scanner = SimulatedScanner("MH-0142")
        self.instrument = "violin"
        self.microphone = SimulatedMicrophone(lambda: plays(self.instrument), RATE, paced=pace_s >= AS_TIME_GOES_S)
        self.addresses = {
            "caliper": self.caliper.port, "scale": self.scale.port, "force": self.force.port,
            "thermometer": self.thermometer.port, "hygrometer": self.hygrometer.port, "pressure": self.gauge.port,
            "camera": self.camera.address, "scanner": self.scanner.port,
            "microphone": self.microphone.address,
        }  # fmt: skip

    def put_before_microphone(self, family: str) -> None:
        """Have somebody play another instrument."""
        self.instrument = family

    def close(self) -> None:
        """Pull all plugs."""
        for device in (
            self.caliper,
            self.scale,
            self.force,
            self.thermometer,
            self.hygrometer,
            self.gauge,
            self.camera,
            self.scanner,
            self.microphone,
        ):
            device.close()
