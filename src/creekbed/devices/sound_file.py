"""Recordings in files: WAV, FLAC, OGG and what else libsndfile reads, opened as data, with limits."""

from __future__ import annotations

from io import BytesIO
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from creekbed.core.bounded import read_at_most
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

LARGEST_BYTES = 100_000_000
LONGEST_S, MOST_CHANNELS = 300.0, 16
"""Five minutes; a play-test takes less."""
CLIPPED = 0.999
"""Samples at the end of the scale, as a share of it."""
MOST_CLIPPED = 1e-3
SILENT = 1e-5
"""A sound whose loudest sample is below that, −100 dB, is no recording of anything."""


@dataclass(frozen=True, eq=False)
class Recording:
    """A sound.

    Attributes:
        samples: of its loudest channel, −1 to 1, shape (N,). rate: samples per second. clipped: whether it is cut off.
    """

    samples: NDArray[np.float64]
    rate: float
    clipped: bool

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.samples.size / self.rate


def read_sound(path: Path) -> Recording:
    """A recording from a file.

    Raises:
        BadInput: there is none, it is no sound that can be read, too long, empty or silent.
    """
    try:
        content = read_at_most(path, LARGEST_BYTES)
    except OSError:
        raise BadInput(f"There is no file {str(path)[:120]}.", todo="Type its name again, with its folder.") from None
    return sound_in(content, path.name[:80])


def sound_in(data: bytes, name: str) -> Recording:
    """A recording from the contents of a file; ``name``: what it is called in refusals.

    Raises:
        BadInput: as :func:`read_sound`.
    """
    import soundfile  # it loads a library of its own: only when a sound is wanted

    content = BytesIO(data)
    try:
        with soundfile.SoundFile(content) as file:
            if not (1000 <= file.samplerate <= 400_000 and 1 <= file.channels <= MOST_CHANNELS):
                raise BadInput(f"{name} has a rate or channels that no microphone has.")
            if file.frames > LONGEST_S * file.samplerate:
                raise BadInput(f"{name} is longer than five minutes.", todo="Cut out what is to be heard.")
            most = int(LONGEST_S * file.samplerate)
            heard, rate = file.read(frames=most, dtype="float64", always_2d=True), float(file.samplerate)
    except (soundfile.LibsndfileError, OSError, RuntimeError, ValueError, TypeError, MemoryError):
        raise BadInput(f"{name} is no sound that can be read.", todo="Save it as WAV, FLAC or OGG.") from None
    if not heard.size:
        raise BadInput(f"{name} is empty.", todo="Record it again.")
    heard = np.nan_to_num(heard, nan=0.0, posinf=0.0, neginf=0.0)
    loudest = heard[:, int((heard**2).sum(axis=0).argmax())]
    if np.abs(loudest).max() < SILENT:
        raise BadInput(f"{name} is silent.", todo="Is the right microphone on, and not muted?")
    clipped = float((np.abs(loudest) >= CLIPPED).mean()) > MOST_CLIPPED
    return Recording(np.ascontiguousarray(loudest), rate, clipped)


def flac_of(samples: NDArray[np.int16], rate: float) -> bytes:
    """A sound as FLAC, 16 bits, one channel: what was heard comes out of it again, sample by sample.

    Args:
        samples: shape (N,). rate: samples per second, rounded to a whole number.

    Raises:
        BadInput: there is nothing in it, or a rate that FLAC does not know.
    """
    import soundfile

    if not samples.size:
        raise BadInput("Nothing was heard yet.", todo="Listen first.")
    out = BytesIO()
    try:
        soundfile.write(out, samples, round(rate), format="FLAC", subtype="PCM_16")
    except (soundfile.LibsndfileError, ValueError, TypeError) as error:
        raise BadInput(f"A sound with {rate:g} samples per second cannot be kept.") from error
    return out.getvalue()


def sixteen_bits(samples: NDArray[np.float64]) -> NDArray[np.int16]:
    """Samples from −1 to 1 as they are kept; what is beyond is cut off."""
    return np.rint(np.clip(samples, -1.0, 1.0) * 32767.0).astype(np.int16)
