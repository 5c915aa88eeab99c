"""The microphone's driver: the network, the sound card through PortAudio itself, and everything that goes wrong."""

from __future__ import annotations

import os
import struct
import subprocess
import sys
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from creekbed.core.errors import DeviceProblem
from creekbed.demo.player import as_pcm, pieces
from creekbed.devices import microphone
from creekbed.devices.microphone import Block, Microphone
from creekbed.devices.simulated import SimulatedMicrophone


def saw(count: int = 48_000) -> Any:
    return (np.arange(count) % 1000) / 1000 - 0.5


def heard(address: str, count: int, timeout_s: float = 2.0) -> list[Block]:
    """The blocks of so many samples."""
    blocks: list[Block] = []

    def told(block: Block) -> bool:
        blocks.append(block)
        return sum(b.samples.size for b in blocks) < count

    Microphone(address, timeout_s).listen(told)
    return blocks


def test_every_sample_comes_once_and_in_order() -> None:
    with SimulatedMicrophone(lambda: pieces(as_pcm(saw())), paced=False) as device:
        blocks = heard(device.address, 30_000)
    found = np.concatenate([b.samples for b in blocks])
    assert {b.rate for b in blocks} == {48_000.0} and not any(b.lost for b in blocks)
    assert found == pytest.approx(saw()[: found.size], abs=2 / 32767)


def test_a_plug_that_is_pulled_keeps_what_was_heard() -> None:
    blocks: list[Block] = []
    with (
        SimulatedMicrophone(lambda: pieces(as_pcm(saw(9_600))), paced=False) as device,
        pytest.raises(DeviceProblem, match="does not answer") as problem,
    ):
        Microphone(device.address).listen(lambda block: blocks.append(block) is None)
    assert sum(b.samples.size for b in blocks) == 9_600 and "What was heard before is kept" in problem.value.words()


def served(answer: bytes, status: int = 200, *, stalls: bool = False) -> Iterator[str]:
    done = threading.Event()

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self.send_response(status)
            self.end_headers()
            self.wfile.write(answer)
            if stalls:
                done.wait(20)

        def log_message(self, format: str, *args: object) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    server.daemon_threads = True
    thread = threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}/a.wav"
    finally:
        done.set()
        server.shutdown()
        server.server_close()


def head(rate: int = 48_000, channels: int = 1, bits: int = 16, kind: int = 1) -> bytes:
    width = channels * bits // 8
    form = struct.pack("<HHIIHH", kind, channels, rate, rate * width, width, bits)
    return b"RIFF\xff\xff\xff\xffWAVEfmt " + struct.pack("<I", 16) + form + b"data\xff\xff\xff\xf0"


@pytest.mark.parametrize(
    ("answer", "status", "said"),
    [
        (b"", 200, "does not answer"), (b"hello", 200, "does not answer"), (head(), 302, "does not answer"),
        (head(kind=3, bits=32) + bytes(4000), 200, "does not answer"),
        (head(rate=1000) + bytes(4000), 200, "takes 1000 samples"), (head(channels=40) + bytes(8000), 200, "does not"),
        (head() + bytes(100), 200, "does not answer"),
    ],
)  # fmt: skip
def test_what_is_no_microphone(answer: bytes, status: int, said: str) -> None:
    for address in served(answer, status):
        with pytest.raises(DeviceProblem, match=said):
            heard(address, 48_000, 1.0)


def test_one_that_falls_silent() -> None:
    for address in served(head() + bytes(960 * 3), stalls=True):
        with pytest.raises(DeviceProblem, match="does not answer"):
            heard(address, 48_000, 0.3)


@pytest.mark.parametrize(("bits", "tiny"), [(8, 1 / 127), (16, 1e-4), (24, 1e-6), (32, 1e-8)])
def test_every_depth_and_the_first_of_two_channels(bits: int, tiny: float) -> None:
    whole = saw(2000)
    both = np.stack([whole, -whole], axis=1).reshape(-1)
    if bits == 8:
        data = np.round(both * 127 + 128).astype(np.uint8).tobytes()
    elif bits == 24:
        data = np.round(both * (2**23 - 1)).astype("<i4").view(np.uint8).reshape(-1, 4)[:, :3].tobytes()
    else:
        data = np.round(both * (2 ** (bits - 1) - 1)).astype(f"<i{bits // 8}").tobytes()
    for address in served(head(channels=2, bits=bits) + data):
        blocks = heard(address, 960)
    found = np.concatenate([b.samples for b in blocks])
    assert found == pytest.approx(whole[: found.size], abs=2 * tiny)


@pytest.mark.parametrize(
    "address",
    ["https://127.0.0.1/a.wav", "http://93.184.216.34/a.wav", "http://example.org/a.wav", "file:///etc/passwd"],
)
def test_addresses_outside_the_shop_are_not_asked(address: str) -> None:
    with pytest.raises(DeviceProblem, match="not one of this room"):
        heard(address, 1)


def test_none_is_set() -> None:
    with pytest.raises(DeviceProblem, match="No microphone is set"):
        heard(" ", 1)


# --- the sound card -------------------------------------------------------------------------------------------------

LISTEN = """
import sys, numpy as np
from creekbed.core.errors import DeviceProblem
from creekbed.devices.microphone import Microphone
blocks = []
def told(block):
    blocks.append(block)
    return sum(b.samples.size for b in blocks) < 30000
try:
    Microphone(sys.argv[1]).listen(told)
except DeviceProblem as problem:
    sys.exit(problem.words())
np.save(sys.argv[2], np.concatenate([b.samples for b in blocks]))
"""


def test_portaudio_itself_hands_over_every_sample(tmp_path: Path) -> None:
    """The real library on a sound card of ALSA that reads a file: what comes is what is in it, until blocks are lost
    because that card is faster than time."""
    raw, settings = tmp_path / "s.raw", tmp_path / "alsa.conf"
    samples = (np.arange(48_000 * 20) % 30_000).astype("<f4") / 30_000
    samples.tofile(raw)
    settings.write_text(
        f'pcm.bench {{ type file slave.pcm {{ type null }} file "/dev/null" infile "{raw}" format "raw" }}\n'
    )
    main = "/usr/share/alsa/alsa.conf"
    if not Path(main).exists():
        pytest.skip("no ALSA here")
    env = {**os.environ, "ALSA_CONFIG_PATH": f"{main}:{settings}"}
    out = tmp_path / "heard.npy"
    done = subprocess.run(
        [sys.executable, "-c", LISTEN, "bench", str(out)], env=env, capture_output=True, text=True, timeout=60
    )
    assert done.returncode == 0, done.stderr[-600:]
    assert np.load(out)[:30_000] == pytest.approx(samples[:30_000], abs=1e-6)
    gone = subprocess.run(
        [sys.executable, "-c", LISTEN, "another", str(out)], env=env, capture_output=True, text=True, timeout=60
    )
    assert "There is no microphone “another”" in gone.stderr and "There are: bench" in gone.stderr


class _Library:
    """PortAudio as it behaves when something is wrong."""

    class PortAudioError(Exception):
        pass

    def __init__(self, rate: float = 48_000.0, busy: bool = False, blocks: int = 0):
        self.rate, self.busy, self.blocks = rate, busy, blocks

    def query_devices(self, device: Any, kind: str) -> dict[str, float]:
        return {"default_samplerate": self.rate}

    def RawInputStream(self, *, callback: Any, blocksize: int, **more: Any) -> Any:
        library = self

        class Stream:
            def __enter__(self) -> None:
                if library.busy:
                    raise library.PortAudioError("Device unavailable [PaErrorCode -9985]")
                for n in range(library.blocks):
                    callback(np.full(blocksize, n, "<f4").tobytes(), blocksize, None, None)

            def __exit__(self, *more: object) -> None:
                pass

        return Stream()


@pytest.mark.parametrize(
    ("library", "said"),
    [
        (_Library(rate=1000.0), "takes 1000 samples"), (_Library(busy=True), "cannot be opened"),
        (_Library(blocks=2), "does not answer"),
    ],
)  # fmt: skip
def test_a_sound_card_that_does_not_do(monkeypatch: Any, library: _Library, said: str) -> None:
    monkeypatch.setattr(microphone, "_portaudio", lambda: library)
    with pytest.raises(DeviceProblem, match=said):
        heard("default", 48_000, 0.1)
    assert not microphone._ONE_AT_A_TIME.locked()


def test_blocks_that_nobody_took_are_counted_as_lost(monkeypatch: Any) -> None:
    """More than two seconds wait: what comes then is lost, and the next block says how much."""
    library = _Library(blocks=203)
    monkeypatch.setattr(microphone, "_portaudio", lambda: library)
    blocks = heard("default", 200 * 480, 0.1)
    assert len(blocks) == 200 and not any(b.lost for b in blocks)
    waiting = microphone._Waiting(48_000.0)
    for n in range(204):
        waiting.put(np.full(480, n, "<f4").tobytes(), 480, None, None)
    for _ in range(200):
        waiting.take(0.1)
    waiting.put(np.full(480, np.nan, "<f4").tobytes(), 480, None, None)
    last = waiting.take(0.1)
    assert last.lost == 4 * 480 and not last.samples.any()


def test_no_library(monkeypatch: Any) -> None:
    monkeypatch.setitem(sys.modules, "sounddevice", None)
    with pytest.raises((DeviceProblem, ImportError)):
        heard("default", 1, 0.1)
