"""Simulated devices: on pseudo-terminals and a local address, so that the real drivers open them like any other."""

from __future__ import annotations

import math
import os
import random
import select
import struct
import threading
import time
import tty
from collections.abc import Callable, Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from types import TracebackType
from typing import Self

from creekbed.devices.meter import KINDS


class Plugged:
    """Something with a plug: leaving its ``with`` block pulls it."""

    def close(self) -> None:
        """Pull its plug."""
        raise NotImplementedError

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, value: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()


class _OnALine(Plugged):
    """A device at the far end of a pseudo-terminal."""

    def __init__(self) -> None:
        self._master, self._slave = os.openpty()
        tty.setraw(self._slave)
        self.port = os.ttyname(self._slave)
        self._stop_read, self._stop_write = os.pipe()
        self._closed = False
        self._thread = threading.Thread(target=self._serve, name=type(self).__name__, daemon=True)
        self._thread.start()

    def _serve(self) -> None:
        pending = b""
        while True:
            ready, _, _ = select.select([self._master, self._stop_read], [], [], self.pause())
            if self._stop_read in ready:
                return
            if self._master in ready:
                try:
                    pending += os.read(self._master, 64)
                except OSError:
                    return
            while b"\n" in pending:
                command, _, pending = pending.partition(b"\n")
                self.say(self.answer(command.strip()))
            pending = pending[-64:]
            self.idle()

    def pause(self) -> float | None:
        """How long to wait for a command before :meth:`idle`; ``None``: for ever."""
        return None

    def idle(self) -> None:
        """What it does by itself."""

    def answer(self, command: bytes) -> bytes:
        """What the device says to a command."""
        raise NotImplementedError

    def say(self, words: bytes) -> None:
        """Send bytes to the host."""
        if words:
            os.write(self._master, words)

    def close(self) -> None:
        """Pull its plug."""
        if self._closed:
            return
        self._closed = True
        os.write(self._stop_write, b"x")
        self._thread.join()
        for handle in (self._master, self._slave, self._stop_read, self._stop_write):
            os.close(handle)


class SimulatedMeter(_OnALine):
    """A meter that holds a value set by hand.

    Args:
        kind: key of :data:`creekbed.devices.meter.KINDS`.
        value: what it would read, in the kind's unit; ``None``: it has no reading.
        scatter: standard deviation from one reading to the next. seed: of the scatter.
    """

    def __init__(self, kind: str, value: float | None, scatter: float = 0.0, seed: int = 7):
        self.kind = KINDS[kind]
        self.value = value
        self.scatter = scatter
        self._random = random.Random(seed)
        super().__init__()

    def answer(self, command: bytes) -> bytes:
        if command != b"R":
            return b"E command\n"
        if self.value is None:
            return b"E open\n"
        value = self.value + self._random.gauss(0.0, self.scatter)
        if self.kind.unit != "degC":
            value = max(value, 0.0)
        unit = next(iter(self.kind.units))
        decimals = max(0, round(-math.log10(self.kind.resolution)))
        return f"{value:+.{decimals}f} {unit}\n".encode()


class SimulatedCaliper(SimulatedMeter):
    """A caliper that holds a value set by hand.

    Args:
        value_mm: what lies between its jaws, mm; ``None`` for jaws open.
        scatter_mm: standard deviation of placing the jaws anew each time, mm.
        seed: of the scatter.
    """

    def __init__(self, value_mm: float | None = 2.4, scatter_mm: float = 0.05, seed: int = 7):
        super().__init__("caliper", value_mm, scatter_mm, seed)

    @property
    def value_mm(self) -> float | None:
        return self.value

    @value_mm.setter
    def value_mm(self, value: float | None) -> None:
        self.value = value


class SimulatedGauge(_OnALine):
    """A gauge on a joint that somebody pumps up some seconds after it is started.

    Args:
        flow_ml_min: leak at 2.5 kPa. volume_l: of joint, hose and bulb. law: "laminar" or "orifice".
        heat: share of the pressure that pumping warmed. drift: of the room, Pa/s. noise: of the gauge, Pa.
        pace_s: real time between two readings; their own times are always a tenth of a second apart.
        seed: of the noise.
    """

    STEP_S, QUIET_S = 0.1, 4.0

    def __init__(
        self, flow_ml_min: float = 22.0, volume_l: float = 0.12, law: str = "laminar", *, heat: float = 0.12,
        drift: float = -0.4, noise: float = 3.0, pace_s: float = 0.1, seed: int = 7,
    ):  # fmt: skip
        self.flow_ml_min, self.volume_l, self.law = flow_ml_min, volume_l, law
        self.heat, self.drift, self.noise, self.pace_s = heat, drift, noise, pace_s
        self._random = random.Random(seed)
        self._running = False
        self._n, self._p = 0, 0.0
        super().__init__()

    def pause(self) -> float | None:
        return self.pace_s if self._running else None

    def answer(self, command: bytes) -> bytes:
        if command in (b"S", b"X"):
            self._running, self._n, self._p = command == b"S", 0, 0.0
            return b""
        return b"E command\n"

    def idle(self) -> None:
        if not self._running:
            return
        t = self._n * self.STEP_S
        pumped = self._n - round(self.QUIET_S / self.STEP_S)
        if 0 <= pumped < 4:
            self._p += 2500.0 * (1 + self.heat) / 4
        since = max(pumped - 4, 0) * self.STEP_S
        self.say(f"{1000 * t:.0f} {self._p + self._random.gauss(0, self.noise):.1f}\n".encode())
        capacity = self.volume_l / 101_325.0
        for k in range(20):
            h = self.STEP_S / 20
            over = self._p / 2500.0 if self.law == "laminar" else math.copysign(abs(self._p / 2500.0) ** 0.5, self._p)
            cooling = 2500.0 * self.heat / 3.0 * math.exp(-(since + k * h) / 3.0) if pumped >= 4 else 0.0
            self._p += (self.drift - self.flow_ml_min / 60_000 * over / capacity - cooling) * h
        self._n += 1


class SimulatedScanner(_OnALine):
    """A code scanner with a tag before it.

    Args:
        sees: the code that it reads when it is told to look; ``None``: nothing lies before it.
    """

    def __init__(self, sees: str | None = None):
        self.sees = sees
        super().__init__()

    def answer(self, command: bytes) -> bytes:
        if command != b"T":
            return b"E command\r\n"
        return b"E nothing\r\n" if self.sees is None else f"{self.sees}\r\n".encode("ascii")

    def scan(self, code: str) -> None:
        """Somebody holds a code before it and presses its button."""
        self.say(f"{code}\r\n".encode("ascii"))


class SimulatedCamera(Plugged):
    """A camera on this machine's own address that shows one picture.

    Args:
        picture: gives the JPEG it would take now.
    """

    def __init__(self, picture: Callable[[], bytes]):
        class Handler(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                data = picture()
                self.send_response(200)
                self.send_header("Content-Type", "image/jpeg")
                self.send_header("Content-Length", str(len(data)))
                self.end_headers()
                self.wfile.write(data)

            def log_message(self, format: str, *args: object) -> None:
                pass

        self._server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        self.address = f"http://127.0.0.1:{self._server.server_address[1]}/still.jpg"
        self._thread = threading.Thread(target=self._server.serve_forever, args=(0.05,), name="camera", daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Pull its plug."""
        self._server.shutdown()
        self._server.server_close()
        self._thread.join()


class SimulatedMicrophone(Plugged):
    """A microphone on this machine's own address that sends WAV without an end.

    Args:
        sound: begins a sound for each who listens: pieces of 16-bit samples, little-endian. rate: samples per second.
        paced: as fast as time goes; else as fast as it is taken.
    """

    def __init__(self, sound: Callable[[], Iterator[bytes]], rate: int = 48_000, *, paced: bool = True):
        closed = self._closed = threading.Event()

        class Handler(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                self.send_response(200)
                self.send_header("Content-Type", "audio/wav")
                self.end_headers()
                begun, sent = time.monotonic(), 0
                try:
                    self.wfile.write(_endless_head(rate))
                    for piece in sound() if paced else _in_large_pieces(sound()):
                        sent += len(piece) // 2
                        ahead = sent / rate - (time.monotonic() - begun) if paced else 0.0
                        if closed.wait(ahead) if ahead > 0 else closed.is_set():
                            return
                        self.wfile.write(piece)
                except OSError:
                    return  # nobody listens any more

            def log_message(self, format: str, *args: object) -> None:
                pass

        self._server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        self._server.daemon_threads = True
        self.address = f"http://127.0.0.1:{self._server.server_address[1]}/sound.wav"
        self._thread = threading.Thread(target=self._server.serve_forever, args=(0.05,), name="microphone", daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Pull its plug."""
        self._closed.set()
        self._server.shutdown()
        self._server.server_close()
        self._thread.join()


LARGE_PIECE = 1 << 16


def _in_large_pieces(sound: Iterator[bytes]) -> Iterator[bytes]:
    """The same in larger pieces: what nobody hears as it comes need not come bit by bit."""
    held = b""
    for piece in sound:
        held += piece
        if len(held) >= LARGE_PIECE:
            yield held
            held = b""
    yield held


def _endless_head(rate: int) -> bytes:
    """The head of a WAV file of one channel, 16 bits, whose length is not known."""
    most = 0xFFFFFFFF
    return struct.pack(
        "<4sI4s4sIHHIIHH4sI", b"RIFF", most, b"WAVE", b"fmt ", 16, 1, 1, rate, 2 * rate, 2, 16, b"data", most - 36
    )
