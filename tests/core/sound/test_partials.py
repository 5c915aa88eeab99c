"""Least squares on partials, against NumPy's own least squares on the samples."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.linalg import LinAlgError

from creekbed.core.sound.partials import fit_partials


def _columns(omega: np.ndarray, decay: np.ndarray, n: int) -> np.ndarray:
    t = np.arange(n)
    u = (2 * t - (n - 1)) / n
    wave = np.exp(np.outer(t, 1j * omega - decay))
    ramp = u[:, None] * wave
    return np.concatenate([wave.real, ramp.real, -wave.imag, -ramp.imag, np.ones((n, 1))], axis=1)


@settings(max_examples=40, deadline=None)
@given(st.integers(300, 3000), st.integers(1, 6), st.floats(4.0, 40.0), st.floats(0.0, 8.0), st.integers(0, 2**32 - 1))
def test_it_is_least_squares(n: int, count: int, periods: float, folds: float, seed: int) -> None:
    """Amplitudes, slopes, level, what is left and the covariance, as numpy.linalg.lstsq has them."""
    rng = np.random.default_rng(seed)
    omega = 2 * np.pi * periods * np.arange(1, count + 1) / n
    if omega[-1] > 3.0:
        return
    decay = np.linspace(0, folds, count) / n
    sound = rng.normal(size=n) + 2.0 + np.cos(omega[0] * np.arange(n))
    rows = _columns(omega, decay, n)
    best = np.linalg.lstsq(rows, sound, rcond=None)[0]
    found = fit_partials(sound, omega, decay)
    k = count
    ours = np.concatenate([
        found.amplitude.real, found.slope.real, found.amplitude.imag, found.slope.imag, [found.level]
    ])  # fmt: skip
    scale = np.abs(best).max()
    assert ours == pytest.approx(best, abs=1e-4 * scale)
    assert found.sound() == pytest.approx(rows @ best, abs=1e-4 * np.abs(sound).max())
    covariance = np.linalg.inv(rows.T @ rows)
    assert found.inverse == pytest.approx(covariance, abs=1e-4 * np.abs(covariance).max())
    energy = [np.mean(np.real(best[i] + 1j * best[2 * k + i]) ** 2) for i in range(k)]
    assert len(energy) == found.strength().size


def test_a_frequency_and_a_decay_that_are_a_little_off_are_told() -> None:
    n = 8000
    t = np.arange(n)
    sound = np.exp(-5.2 * t / n) * np.cos(0.2003 * t + 0.4)
    omega, decay = np.array([0.2002]), np.array([5.0 / n])
    for _ in range(3):
        off = fit_partials(sound, omega, decay).off()
        omega, decay = omega + off.imag, decay - off.real
    assert omega[0] == pytest.approx(0.2003, abs=1e-8) and decay[0] * n == pytest.approx(5.2, abs=1e-4)


def test_the_variance_of_a_frequency_is_that_of_the_bound() -> None:
    """One steady sinusoid: var ω = 24σ²/(A²·N³): Kay 1993, example 3.14, amplitude and phase unknown."""
    n, sigma = 4000, 0.3
    t = np.arange(n)
    sound = 1.7 * np.cos(0.31 * t + 1.0)
    found = fit_partials(sound, np.array([0.31]), np.zeros(1)).frequency_covariance(np.array([sigma**2]))
    assert found[0, 0] == pytest.approx(24 * sigma**2 / (1.7**2 * n**3), rel=0.01)


def test_partials_that_are_one_cannot_be_told_apart() -> None:
    with pytest.raises(LinAlgError):
        fit_partials(np.random.default_rng(0).normal(size=500), np.array([0.3, 0.3 + 1e-12]), np.zeros(2))
