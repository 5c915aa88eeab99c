"""The caliper: the real driver against the simulated device, and against devices that misbehave."""

from __future__ import annotations

import os
import threading
import tty
from collections.abc import Iterator
from contextlib import contextmanager

import pytest

from creekbed.core.errors import DeviceProblem
from creekbed.devices.caliper import U_DEVICE_MM, Caliper
from creekbed.devices.simulated import SimulatedCaliper


@contextmanager
def device_that_says(answer: bytes) -> Iterator[str]:
    """A serial line whose far end answers anything with the same bytes."""
    master, slave = os.openpty()
    tty.setraw(slave)

    def serve() -> None:
        try:
            while os.read(master, 64):
                os.write(master, answer)
        except OSError:
            pass

    thread = threading.Thread(target=serve, daemon=True)
    thread.start()
    try:
        yield os.ttyname(slave)
    finally:
        os.close(slave)  # its far end reads the end of it, and must have let go before its number is used again
        thread.join()
        os.close(master)


def test_reads_what_lies_between_the_jaws() -> None:
    with SimulatedCaliper(7.42, scatter_mm=0.0) as device:
        assert Caliper(device.port).read_mm() == pytest.approx(7.42)
        device.value_mm = 2.38
        assert Caliper(device.port).read_mm() == pytest.approx(2.38)


def test_readings_scatter_as_hands_do() -> None:
    with SimulatedCaliper(7.42, scatter_mm=0.1, seed=1) as device:
        values = {Caliper(device.port).read_mm() for _ in range(8)}
    assert len(values) > 3 and all(abs(v - 7.42) < 0.6 for v in values)


def test_a_reading_carries_device_and_method() -> None:
    """Resolution 0.01 mm as a rectangle: u = 0.01/√12 = 0.00289 mm (JCGM 100:2008, F.2.2.1)."""
    assert pytest.approx(0.00289, abs=1e-5) == U_DEVICE_MM
    with SimulatedCaliper(7.42, scatter_mm=0.0) as device:
        reading = Caliper(device.port).reading(0.25)
    assert reading.u == pytest.approx((0.25**2 + 0.00289**2) ** 0.5, rel=1e-4)
    assert (reading.unit, reading.how) == ("millimeter", "caliper")


@pytest.mark.parametrize(
    ("answer", "mm"), [(b"+12.34 mm\n", 12.34), (b"+0.4858 in\n", 12.33932), (b"-0.02 mm\r\n", -0.02)]
)
def test_lines_of_the_protocol(answer: bytes, mm: float) -> None:
    with device_that_says(answer) as port:
        assert Caliper(port).read_mm() == pytest.approx(mm)


@pytest.mark.parametrize(
    "answer", [b"12,34 mm\n", b"+12.34\n", b"\xff\xfe\n", b"+99999.9 mm\n", b"nan mm\n", b"x" * 64]
)
def test_rubbish_is_no_reading(answer: bytes) -> None:
    with device_that_says(answer) as port, pytest.raises(DeviceProblem, match="no reading"):
        Caliper(port).read_mm()


def test_the_device_says_what_is_wrong() -> None:
    with SimulatedCaliper(None) as device, pytest.raises(DeviceProblem, match="open"):
        Caliper(device.port).read_mm()


def test_unplugged() -> None:
    device = SimulatedCaliper(3.0)
    port = device.port
    assert Caliper(port).read_mm()
    device.close()
    with pytest.raises(DeviceProblem) as caught:
        Caliper(port, timeout_s=0.2).read_mm()
    assert caught.value.safe == "Nothing was recorded." and caught.value.todo


def test_silence() -> None:
    master, slave = os.openpty()
    try:
        with pytest.raises(DeviceProblem, match="does not answer"):
            Caliper(os.ttyname(slave), timeout_s=0.1).read_mm()
    finally:
        os.close(master)
        os.close(slave)


def test_unknown_commands() -> None:
    with SimulatedCaliper(1.0) as device:
        assert device.answer(b"X") == b"E command\n"
