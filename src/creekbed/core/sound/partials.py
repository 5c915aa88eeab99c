"""Least squares on a sum of decaying partials, quick enough for every window of a live sound.

A sound is x[n] = Re Σ_k (c_k + d_k·u[n])·exp((j·ω_k − α_k)·n), with u running from −1 to 1 over the window. The slope
d_k holds what is wrong with the frequency and the decay that were assumed: it is (j·δω_k − δα_k)·N/2 times what
c_k + d_k·u is where the middle of the partial's energy lies. Sums over the samples are geometric series in closed
form; what the sound is projected on is worked out in blocks, as products of small matrices.

Source: Kay 1993, Fundamentals of Statistical Signal Processing: Estimation Theory, chapters 7 and 8 (nonlinear least
squares); sums of n^p·z^n are calculus.
"""

from __future__ import annotations

from functools import cached_property

import numpy as np
from numpy.linalg import LinAlgError
from numpy.typing import NDArray

from creekbed.core.quick_dataclasses import dataclass

Real = NDArray[np.float64]
Complex = NDArray[np.complex128]
MOST_DECAY = 30.0
"""A partial that decays by more e-folds within a window is not followed further: house default."""


def _sums(power: Complex, n: int) -> tuple[Complex, Complex, Complex]:
    """Σ u^p·z^i over i = 0 … n − 1 for p = 0, 1, 2, with z = exp(power) not near 1."""
    z, end = np.exp(power), np.exp(n * power)
    inverse, m = 1 / (1 - z), n - 1
    s0 = np.asarray((1 - end) * inverse, dtype=np.complex128)
    s1 = (z * s0 - n * end) * inverse
    s2 = (z * (1 + z) * s0 * inverse - 2 * n * z * end * inverse - n * n * end) * inverse
    first, second = (2 * s1 - m * s0) / n, (4 * s2 - 4 * m * s1 + m * m * s0) / n**2
    return s0, np.asarray(first), np.asarray(second)


_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(40)
_RAMPS = np.stack([_WEIGHTS * _NODES**p for p in (0, 1, 2)], axis=1)


def _decay_sums(decay: Real, n: int) -> tuple[Real, Real, Real]:
    """The same for real z = exp(−decay), where the series in closed form cancel: by Gauss–Legendre quadrature."""
    at = np.exp(-np.outer(decay, (_NODES + 1) * n / 2 - 0.5))
    half = decay / 2
    steps = np.where(np.abs(half) < 1e-8, 1.0, half / np.sinh(np.where(half == 0, 1.0, half)))  # of sum to integral
    found = (n / 2 * steps)[:, None] * (at @ _RAMPS)
    s0 = found[:, 0]  # what the slope and the bend of u within a step add to an integral is taken off
    s1 = found[:, 1] + decay / (6 * n) * s0
    return s0, s1, found[:, 2] + decay / (3 * n) * s1 - s0 / (3 * n * n)


@dataclass(frozen=True)
class PartialFit:
    """What least squares says of some partials.

    Attributes:
        amplitude: c of each partial, shape (K,). slope: d of each.
        inverse: inverse Gram matrix of (Re c, Re d, Im c, Im d, level), shape (4K + 1, 4K + 1).
        poles: j·ω − α of each. size: N. left: mean square of what they do not describe.
        level: the constant beside them: partials that are not whole in the window have a mean of their own, so it
            cannot be taken off before.
    """

    amplitude: Complex
    slope: Complex
    inverse: Real
    poles: Complex
    size: int
    level: float
    left: float

    def sound(self) -> Real:
        """The sound that it describes, shape (N,)."""
        return self.level + _synthesised(self.poles, self.amplitude, self.slope, self.size)

    @cached_property
    def _decays(self) -> tuple[Real, Real, Real]:
        return _decay_sums(-2 * self.poles.real, self.size)

    @cached_property
    def central(self) -> Complex:
        """The factor of each partial where the middle of its energy lies, shape (K,): there it is best known."""
        s0, s1, _ = self._decays
        return np.asarray(self.amplitude + self.slope * s1 / s0)

    def strength(self) -> Real:
        """Mean square of each partial over the window, shape (K,)."""
        return np.asarray(np.abs(self.central) ** 2 * self._decays[0] / (2 * self.size))

    def off(self) -> Complex:
        """j·δω − δα of each partial, radians per sample."""
        return 2 * self.slope / (self.size * self.central)

    def frequency_covariance(self, noise: Real) -> Real:
        """Covariance of δω between the partials, (rad/sample)², shape (K, K).

        Args:
            noise: variance of the noise for each partial: that of white noise of its density there. shape (K,).
        """
        k = self.amplitude.size
        scale = np.sqrt(noise) * 2 / (self.size * np.abs(self.central) ** 2)
        by_re, by_im = -self.central.imag * scale, self.central.real * scale
        re, im = slice(k, 2 * k), slice(3 * k, 4 * k)
        inv = self.inverse
        return (
            np.outer(by_re, by_re) * inv[re, re] + np.outer(by_re, by_im) * inv[re, im]
            + np.outer(by_im, by_re) * inv[im, re] + np.outer(by_im, by_im) * inv[im, im]
        )  # fmt: skip

    def amplitude_variance(self, noise: Real) -> Real:
        """Variance of c, both parts together, shape (K,)."""
        k = self.amplitude.size
        found: Real = noise * (np.diag(self.inverse)[:k] + np.diag(self.inverse)[2 * k : 3 * k])
        return found


def fit_partials(sound: Real, omega: Real, decay: Real) -> PartialFit:
    """Fit amplitudes and slopes of partials whose frequencies and decays are about known.

    Args:
        sound: shape (N,). omega: radians per sample, ascending, shape (K,). decay: e-folds per sample, shape (K,).

    Raises:
        numpy.linalg.LinAlgError: the partials cannot be told apart in so short a window.
    """
    n, k = sound.size, omega.size
    poles: Complex = np.asarray(1j * omega - decay, dtype=np.complex128)
    moments = _projected(sound, poles)
    gram = _gram(poles, n)
    right = np.concatenate([*(m.real for m in moments), *(m.imag for m in moments), [sound.sum()]])
    inverse: Real = np.asarray(np.linalg.inv(gram), dtype=np.float64)
    if not np.all(np.diag(inverse) > 0):
        raise LinAlgError("the partials cannot be told apart")
    found: Real = np.asarray(inverse @ right, dtype=np.float64)
    c, d = found[:k] + 1j * found[2 * k : 3 * k], found[k : 2 * k] + 1j * found[3 * k : -1]
    return PartialFit(c, d, inverse, poles, n, float(found[-1]), max(float(sound @ sound - right @ found), 0.0) / n)


def _blocks(n: int) -> tuple[int, int]:
    size = max(1 << ((n.bit_length() + 1) // 2), 16)
    return size, -(-n // size)


def _waves(poles: Complex, n: int) -> tuple[Real, Real, Complex, Complex]:
    """exp(pole·i) in two factors: the samples within a block, where the blocks begin, and the waves at both."""
    size, count = _blocks(n)
    within, along = np.arange(float(size))[:, None], np.arange(float(count))[:, None] * size
    return within, along, np.asarray(np.exp(within * poles)), np.asarray(np.exp(along * poles))


def _projected(sound: Real, poles: Complex) -> tuple[Complex, Complex]:
    """Σ u^p·x·conj(e_k) for p = 0, 1; conjugated so that the parts are those of c itself."""
    n = sound.size
    size, count = _blocks(n)
    padded = np.zeros(size * count)
    padded[:n] = sound
    grid = padded.reshape(count, size)
    within, along, inner, outer = _waves(np.conj(poles), n)
    stacked = np.concatenate([inner.real, inner.imag, inner.real * within, inner.imag * within], axis=1)
    k = poles.size
    found = grid @ stacked
    plain, ramped = found[:, :k] + 1j * found[:, k : 2 * k], found[:, 2 * k : 3 * k] + 1j * found[:, 3 * k :]
    s0 = (outer * plain).sum(axis=0)
    s1 = (outer * (ramped + along * plain)).sum(axis=0)
    return s0, (2 * s1 - (n - 1) * s0) / n


def _gram(poles: Complex, n: int) -> Real:
    """Gram matrix of the real columns (Re e, u·Re e, −Im e, −u·Im e, 1)."""
    k = poles.size
    powers = np.empty((2, k, k), dtype=np.complex128)
    powers[0] = np.conj(poles)[:, None] + poles
    powers[1] = poles[:, None] + poles
    powers[0].flat[:: k + 1] = -1.0  # these are put in below
    sums = _sums(powers, n)
    for s, own in zip(sums, _decay_sums(-2 * poles.real, n), strict=True):
        s[0].flat[:: k + 1] = own
    big = np.empty((2, 2 * k, 2 * k), dtype=np.complex128)
    big[:, :k, :k], big[:, k:, k:] = sums[0], sums[2]
    big[:, :k, k:] = big[:, k:, :k] = sums[1]
    both, apart = big[0] + big[1], big[0] - big[1]
    gram = np.empty((4 * k + 1, 4 * k + 1))
    gram[: 2 * k, : 2 * k], gram[2 * k : -1, 2 * k : -1] = both.real / 2, apart.real / 2
    gram[: 2 * k, 2 * k : -1] = -both.imag / 2
    gram[2 * k : -1, : 2 * k] = gram[: 2 * k, 2 * k : -1].T
    s0, s1, _ = _sums(poles, n)
    gram[-1, :-1] = gram[:-1, -1] = np.concatenate([s0.real, s1.real, -s0.imag, -s1.imag])
    gram[-1, -1] = n
    return gram


def _synthesised(poles: Complex, c: Complex, d: Complex, n: int) -> Real:
    within, along, inner, outer = _waves(poles, n)
    u_inner, u_along = 2 * within / n, (2 * along - (n - 1)) / n
    first = outer * (c + d * u_along)
    second = outer * d
    left = np.concatenate([first.real, -first.imag, second.real, -second.imag], axis=1)
    right = np.concatenate([inner.real, inner.imag, inner.real * u_inner, inner.imag * u_inner], axis=1)
    return np.asarray((left @ right.T).reshape(-1)[:n])
