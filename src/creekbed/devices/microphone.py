"""A microphone: what it hears comes in blocks, from a sound card of this machine or from the shop's own network.

A sound card is read through PortAudio. A microphone in the network sends WAV without an end over HTTP, as cameras send
pictures; only addresses of this machine and of private networks are asked.
"""

from __future__ import annotations

import http.client
import queue
import threading
import urllib.parse
import wave
from collections.abc import Callable
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from creekbed.core.errors import DeviceProblem
from creekbed.core.quick_dataclasses import dataclass
from creekbed.devices.nearby import is_near, path_of

BLOCK_S, KEPT_S = 0.01, 2.0
"""Length of a block, and how much may wait to be taken before blocks are lost, s: house default."""
SLOWEST, FASTEST = 8_000.0, 192_000.0
"""Rates that a microphone may have, samples per second: house default."""
ANYONE = "default"
"""Address of the microphone that the system has chosen."""


@dataclass(frozen=True, eq=False)
class Block:
    """Some sound.

    Attributes:
        samples: −1 to 1, shape (N,). rate: samples per second. lost: samples that were lost just before it.
    """

    samples: NDArray[np.float64]
    rate: float
    lost: int = 0


Told = Callable[[Block], bool]
"""Gets each block; ``False`` ends listening."""


class Microphone:
    """The driver. What was heard before a plug is pulled has been told and is kept by whoever listens.

    Args:
        address: name of a sound card's input, :data:`ANYONE`, or ``http://`` address of WAV without an end.
        timeout_s: how long it may say nothing.
    """

    def __init__(self, address: str, timeout_s: float = 4.0):
        self.address = address.strip()
        self.timeout_s = timeout_s

    def listen(self, told: Told) -> None:
        """Hand blocks to ``told`` until it returns ``False``.

        Raises:
            DeviceProblem: there is no such microphone, it is busy, has no rate that can be used, or falls silent as a
                pulled plug does.
        """
        if not self.address:
            raise DeviceProblem(
                "No microphone is set.", safe="Nothing was recorded.", todo="Set one on the page of devices."
            )
        if "://" in self.address:
            _listen_far(self.address, self.timeout_s, told)
        else:
            _listen_here(self.address, self.timeout_s, told)


def _gone(detail: str = "") -> DeviceProblem:
    return DeviceProblem(
        "The microphone does not answer.", safe="What was heard before is kept.",
        todo="Look at its plug, then listen again.", detail=detail,
    )  # fmt: skip


def _need_rate(rate: float) -> float:
    if not SLOWEST <= rate <= FASTEST:
        raise DeviceProblem(
            f"The microphone takes {rate:.0f} samples a second.", safe="Nothing was recorded.",
            todo="Set it to 44,100 or 48,000.",
        )  # fmt: skip
    return rate


# --- a sound card of this machine --------------------------------------------------------------------------------

_ONE_AT_A_TIME = threading.Lock()


def _portaudio() -> Any:
    """The library, which looks anew for what is plugged in."""
    try:
        import sounddevice  # it opens every sound card once: only when a microphone is wanted
    except OSError as error:
        raise DeviceProblem(
            "The library that reads sound cards is missing.", safe="Nothing was recorded.",
            todo="Install PortAudio (on Debian: libportaudio2), or set a microphone of the network.", detail=str(error),
        ) from error  # fmt: skip
    sounddevice._terminate()
    sounddevice._initialize()
    return sounddevice


def _listen_here(name: str, timeout_s: float, told: Told) -> None:
    if not _ONE_AT_A_TIME.acquire(timeout=timeout_s):
        raise _busy("another page listens")
    try:
        library = _portaudio()
        device = None if name == ANYONE else name
        try:
            rate = _need_rate(float(library.query_devices(device, "input")["default_samplerate"]))
        except (ValueError, library.PortAudioError) as error:
            raise DeviceProblem(
                "There is no microphone." if name == ANYONE else f"There is no microphone “{name[:60]}”.",
                safe="Nothing was recorded.", todo=_there_are(library),
                detail=str(error),
            ) from error  # fmt: skip
        heard = _Waiting(rate)
        try:
            with library.RawInputStream(
                samplerate=rate, channels=1, dtype="float32", device=device, blocksize=max(int(rate * BLOCK_S), 1),
                latency="low", callback=heard.put,
            ):  # fmt: skip
                while told(heard.take(timeout_s)):
                    pass
        except library.PortAudioError as error:
            raise _busy(str(error)) from error
    finally:
        _ONE_AT_A_TIME.release()


def _there_are(library: Any) -> str:
    names = [str(d["name"])[:60] for d in library.query_devices() if d["max_input_channels"] > 0]
    if not names:
        return "Plug one in, or set one of the network on the page of devices."
    return f"There are: {', '.join(names[:6])}. Name one of them on the page of devices."


def _busy(detail: str) -> DeviceProblem:
    return DeviceProblem(
        "The microphone cannot be opened.", safe="Nothing was recorded.",
        todo="Close what else records, or look at its plug.", detail=detail,
    )  # fmt: skip


class _Waiting:
    """Blocks between PortAudio's thread, which must not wait, and the one that listens."""

    def __init__(self, rate: float):
        self.rate = rate
        self._lost = 0
        self._blocks: queue.Queue[tuple[bytes, int]] = queue.Queue(maxsize=int(KEPT_S / BLOCK_S))

    def put(self, data: Any, frames: int, time: Any, status: Any) -> None:
        """A block from PortAudio."""
        if status and status.input_overflow:
            self._lost += frames  # how many is not told
        try:
            self._blocks.put_nowait((bytes(data), self._lost))
            self._lost = 0
        except queue.Full:
            self._lost += frames

    def take(self, timeout_s: float) -> Block:
        """The next block.

        Raises:
            DeviceProblem: none comes.
        """
        try:
            data, lost = self._blocks.get(timeout=timeout_s)
        except queue.Empty:
            raise _gone("no block came") from None
        samples = np.nan_to_num(np.frombuffer(data, dtype="<f4").astype(np.float64), posinf=0.0, neginf=0.0)
        return Block(samples, self.rate, lost)


# --- a microphone in the network ---------------------------------------------------------------------------------


def _listen_far(address: str, timeout_s: float, told: Told) -> None:
    if not is_near(address):
        raise DeviceProblem(
            "The microphone's address is not one of this room.", safe="Nothing was asked.",
            todo="Use its http address in the shop's own network, such as http://192.168.0.21/sound.wav.",
        )  # fmt: skip
    parts = urllib.parse.urlsplit(address)
    try:
        host = http.client.HTTPConnection(parts.hostname or "", parts.port, timeout=timeout_s)
        try:
            host.request("GET", path_of(address))
            answer = host.getresponse()
            if answer.status != 200:  # also a redirection, which is not followed
                raise http.client.HTTPException(f"status {answer.status}")
            _read_wave(answer, told)
        finally:
            host.close()
    except (http.client.HTTPException, OSError, ValueError, EOFError, wave.Error) as error:
        raise _gone(str(error)) from error


def _read_wave(answer: http.client.HTTPResponse, told: Told) -> None:
    with wave.open(cast(Any, answer), "rb") as sound:
        channels, width, rate = sound.getnchannels(), sound.getsampwidth(), _need_rate(float(sound.getframerate()))
        if not (1 <= channels <= 16 and width in WIDTHS):
            raise wave.Error("neither 8, 16, 24 nor 32 bits")
        count = max(int(rate * BLOCK_S), 1)
        while True:
            data = sound.readframes(count)
            if len(data) < count * channels * width:
                raise _gone("it ended")
            if not told(Block(_samples(data, width).reshape(-1, channels)[:, 0].copy(), rate)):
                return


WIDTHS = (1, 2, 3, 4)


def _samples(data: bytes, width: int) -> NDArray[np.float64]:
    """Whole numbers of a WAV file, −1 to 1: 8 bits are counted from the middle, all others are signed."""
    if width == 1:
        return (np.frombuffer(data, dtype=np.uint8).astype(np.float64) - 128) / 128
    if width == 3:
        three = np.frombuffer(data, dtype=np.uint8).reshape(-1, 3)
        four = np.concatenate([np.zeros((three.shape[0], 1), np.uint8), three], axis=1)
        return four.reshape(-1).view("<i4").astype(np.float64) / 2**31
    numbers: NDArray[np.float64] = np.frombuffer(data, dtype=f"<i{width}").astype(np.float64)
    scale: float = 2.0 ** (8 * width - 1)
    return numbers / scale
