"""Meters, gauge and camera: the real drivers against simulated devices, and against some that misbehave."""

from __future__ import annotations

import json
import select
import threading
from http.server import BaseHTTPRequestHandler
from typing import Any

import pytest

from creekbed.core.airtight.decay import fit_leak
from creekbed.core.errors import DeviceProblem
from creekbed.devices.camera import Camera
from creekbed.devices.gauge import PressureGauge
from creekbed.devices.meter import KINDS, Meter
from creekbed.devices.scanner import CodeScanner
from creekbed.devices.simulated import SimulatedCamera, SimulatedGauge, SimulatedMeter, SimulatedScanner
from tests.devices.test_caliper import device_that_says


@pytest.mark.parametrize(
    ("kind", "value"), [("scale", 451.2), ("force", 1.23), ("thermometer", -4.5), ("hygrometer", 48)]
)
def test_every_meter(kind: str, value: float) -> None:
    with SimulatedMeter(kind, value) as device:
        reading = Meter(kind, device.port).reading(0.5)
        assert reading.value == pytest.approx(value) and reading.unit == KINDS[kind].unit
        assert reading.u == pytest.approx((0.25 + KINDS[kind].resolution ** 2 / 12) ** 0.5)
        device.value = None
        with pytest.raises(DeviceProblem, match=f"The {KINDS[kind].name} says: open"):
            Meter(kind, device.port).read()


@pytest.mark.parametrize(
    ("kind", "answer", "value"),
    [
        ("scale", b"+0.451 kg\n", 451.0), ("scale", b"16 oz\n", 453.592), ("force", b"1 lbf\n", 4.44822),
        ("thermometer", b"+68.0 F\n", 20.0), ("thermometer", b"-40 F\n", -40.0), ("caliper", b"+1 in\n", 25.4),
    ],
)  # fmt: skip
def test_units_that_devices_write(kind: str, answer: bytes, value: float) -> None:
    """1 oz = 28.349523125 g, 1 lbf = 4.4482216 N (NIST SP 811, appendix B); −40 °F is −40 °C."""
    with device_that_says(answer) as port:
        assert Meter(kind, port).read() == pytest.approx(value, abs=1e-3)


@pytest.mark.parametrize("answer", [b"+12.3 kg\n", b"hello\n", b"+1e9 mm\n", b"\xff\xfe\n", b"+1.0\n", b"nan mm\n"])
def test_what_is_no_reading(answer: bytes) -> None:
    with device_that_says(answer) as port, pytest.raises(DeviceProblem, match="no reading"):
        Meter("caliper", port).read()


def test_a_port_that_is_not_there() -> None:
    with pytest.raises(DeviceProblem, match="scale does not answer"):
        Meter("scale", "/dev/ttyNONE").read()


# --- the gauge ------------------------------------------------------------------------------------------------------


def record(gauge: SimulatedGauge, seconds: float) -> tuple[list[float], list[float]]:
    times: list[float] = []
    pressures: list[float] = []

    def told(t: float, p: float) -> bool:
        times.append(t)
        pressures.append(p)
        return t < seconds

    PressureGauge(gauge.port).record(told)
    return times, pressures


@pytest.mark.parametrize("law", ["laminar", "orifice"])
def test_from_the_gauge_to_the_leak(law: str) -> None:
    with SimulatedGauge(18.0, 0.12, law, pace_s=0.0005) as gauge:
        fit = fit_leak(*record(gauge, 30.0), 0.12)
        assert fit.law == law and abs(fit.flow.value - 18.0) < 3 * fit.flow.u + 0.3
        again = record(gauge, 2.0)
    assert again[0][0] == 0.0 and max(again[1]) < 50


def test_a_plug_pulled_while_it_streams_loses_nothing() -> None:
    gauge = SimulatedGauge(pace_s=0.0005)
    got: list[float] = []

    def told(t: float, p: float) -> bool:
        got.append(p)
        if len(got) == 50:
            gauge.close()
        return True

    with pytest.raises(DeviceProblem, match="does not answer"):
        PressureGauge(gauge.port, timeout_s=3.0).record(told)
    assert len(got) >= 50


@pytest.mark.parametrize(
    ("answer", "words"),
    [(b"E low battery\n", "low battery"), (b"x\nx\nx\n", "no readings"), (b"12", "does not answer")],
)
def test_gauges_that_misbehave(answer: bytes, words: str) -> None:
    with device_that_says(answer) as port, pytest.raises(DeviceProblem, match=words):
        PressureGauge(port, timeout_s=1.0).record(lambda t, p: True)


# --- the camera -----------------------------------------------------------------------------------------------------


def test_the_camera_hands_out_what_it_sees() -> None:
    with SimulatedCamera(lambda: b"\xff\xd8 picture") as camera:
        assert Camera(camera.address).take() == b"\xff\xd8 picture"
    with pytest.raises(DeviceProblem, match="does not answer"):
        Camera(camera.address, timeout_s=0.5).take()


@pytest.mark.parametrize(
    "address",
    ["file:///etc/passwd", "http://8.8.8.8/x.jpg", "https://example.org/x", "ftp://127.0.0.1/x", "", "http://", "x"],
)
def test_nothing_far_away_is_asked(address: str) -> None:
    with pytest.raises(DeviceProblem, match="not one of this room"):
        Camera(address).take()


def test_no_redirection_is_followed(monkeypatch: Any) -> None:
    def away(self: BaseHTTPRequestHandler) -> None:
        self.send_response(302)
        self.send_header("Location", "file:///etc/passwd")
        self.end_headers()

    with SimulatedCamera(lambda: json.dumps({}).encode()) as camera:
        monkeypatch.setattr(camera._server.RequestHandlerClass, "do_GET", away)
        with pytest.raises(DeviceProblem, match="does not answer"):
            Camera(camera.address).take()


def test_a_camera_that_drips_is_given_up(monkeypatch: Any) -> None:
    left = threading.Event()

    def say(self: BaseHTTPRequestHandler, first: bytes) -> None:
        try:
            self.wfile.write(first)
            for _ in range(600):  # twelve seconds, never silent for longer than a fiftieth of one
                self.wfile.write(b"x")
                self.wfile.flush()
                select.select([], [], [], 0.02)
        except OSError:
            left.set()

    heads = (b"HTTP/1.0 200 OK\r\nContent-Length: 1000000\r\n\r\n", b"HTTP/1.0 200 OK\r\nX-Never-Ends: ")
    for head in heads:
        left.clear()
        with SimulatedCamera(lambda: b"") as camera:
            monkeypatch.setattr(camera._server.RequestHandlerClass, "do_GET", lambda self, head=head: say(self, head))
            with pytest.raises(DeviceProblem, match="does not answer"):
                Camera(camera.address, timeout_s=5.0, whole_s=0.3).take()
            assert left.wait(5.0)  # the camera was hung up on, long before it was done


def test_a_camera_is_left_when_the_window_closes(monkeypatch: Any) -> None:
    def stand_still(self: BaseHTTPRequestHandler) -> None:
        select.select([], [], [], 1.0)

    with SimulatedCamera(lambda: b"") as camera:
        monkeypatch.setattr(camera._server.RequestHandlerClass, "do_GET", stand_still)
        device = Camera(camera.address, timeout_s=30.0, whole_s=30.0)
        timer = threading.Timer(0.2, device.leave)
        timer.start()
        with pytest.raises(DeviceProblem, match="does not answer"):
            device.take()


# --- the code scanner -----------------------------------------------------------------------------------------------


def test_a_scanner_speaks_by_itself_and_when_told() -> None:
    with SimulatedScanner("CB-0042") as device:
        scanner = CodeScanner(device.port, 0.05)
        codes = scanner.codes()
        assert next(codes) == ""  # the port is open now
        device.scan("CB-0147")
        device.scan("SU-reed_alto_2")
        scanner.look()
        found = [code for _, code in zip(range(100), codes, strict=False) if code]
        codes.close()
        assert found == ["CB-0147", "SU-reed_alto_2", "CB-0042"]


def test_halves_noise_and_what_is_no_code() -> None:
    with SimulatedScanner() as device:
        codes = CodeScanner(device.port, 0.05).codes()
        assert next(codes) == ""
        for piece in (b"CB-", b"0011\rCB-0012\n\n", b"\xff\x00\n", b"E nothing\n", b"x" * 400 + b"\n", b"CB-0013\r\n"):
            device.say(piece)
        found = [code for _, code in zip(range(60), codes, strict=False) if code]
        codes.close()
        assert found == ["CB-0011", "CB-0012", "CB-0013"]


def test_a_scanner_whose_plug_is_pulled() -> None:
    device = SimulatedScanner()
    codes = CodeScanner(device.port, 0.05).codes()
    assert next(codes) == ""
    device.close()
    with pytest.raises(DeviceProblem, match="not connected"):
        for _ in zip(range(200), codes, strict=False):
            pass
    with pytest.raises(DeviceProblem, match="not connected"):
        next(CodeScanner("/dev/ttyNONE").codes())
