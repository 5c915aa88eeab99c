"""Which pad leaks, from how notes speak. A leak light or a feeler strip decides; this says where to look first.

Woodwind notes speak down the scale as pads close one after another: a leaking pad spoils, mostly, the notes that
need it closed. Each answer moves the odds (Bayes) of every pad alone and of every two together; no note ever rules
one out for certain. The next note is the one whose
answer is expected to tell most (Shannon). A second hand that presses one pad shut while a note is played tells pads
apart that lie at the same height.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import numpy.typing as npt

from creekbed.core.catalogue.models.leaks import LeakTable
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass

WRONG = 0.05
"""Chance that a note speaks badly without reason, or well in spite of the leak: house default."""
SURE = 0.98
PAIRS = 0.08
"""Chance, before any note, that two pads leak at once: house default."""


@dataclass(frozen=True)
class Probe:
    """A note to play, and the pad that a second hand presses shut meanwhile, if any."""

    note: str
    held: str = ""

    def words(self, table: LeakTable) -> str:
        """The words in which it is asked for."""
        if not self.held:
            return f"Play {note_words(self.note)}"
        return f"Play {note_words(self.note)} while somebody presses the {table.pad(self.held).name} pad shut"


@dataclass(frozen=True)
class Played:
    """A probe and how it spoke."""

    probe: Probe
    good: bool


@dataclass(frozen=True)
class Located:
    """Where to look.

    Attributes:
        ranked: pads with the chance that each leaks, alone or with another, the likeliest first.
        none: chance that no pad leaks.
        following: the probe that is expected to tell most, or ``None`` when it is sure enough.
        bits: how much that probe is expected to tell.
    """

    ranked: tuple[tuple[str, float], ...]
    none: float
    following: Probe | None
    bits: float


def note_words(note: str) -> str:
    """A written note as people say it: "F sharp 4"."""
    return note[0] + " sharp " + note[2:] if note[1:2] == "#" else note


def along_joint(table: LeakTable, key: str) -> float:
    """About where a pad sits along its joint: 0 at the upper end, 1 at the lower.

    A hole's distance from the top goes roughly with the wavelength of the note that it vents; the joint's highest and
    lowest hole are put near its ends. Good enough to point at a pad in a drawing, not to measure by.

    Reference:
        wavelength at equal temperament, 2^(−n/12) (ISO 16); the ends: house default.
    """
    pad = table.pad(key)
    if pad.register:
        return 0.04
    near, far = 0.08, 0.92
    waves = {p.key: 2.0 ** (-semitones(p.vents) / 12) for p in table.pads if p.part == pad.part and not p.register}
    low, high = min(waves.values()), max(waves.values())
    return 0.5 if high == low else near + (far - near) * (waves[key] - low) / (high - low)


def closed_for(table: LeakTable, note: str) -> frozenset[str]:
    """The pads that must be closed for a note.

    Raises:
        BadInput: a note that the table does not have.
    """
    played = next((n for n in table.notes if n.key == note), None)
    if played is None:
        known = ", ".join(n.key for n in table.notes)
        raise BadInput(f"“{note[:40]}” is not in the table.", todo=f"There are: {known}.")
    height = semitones(played.of or played.key)
    return frozenset(
        p.key for p in table.pads if p.key not in played.opens and (p.register or semitones(p.vents) > height)
    )


def semitones(note: str) -> int:
    """Height of a note, semitones over C0."""
    step = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}[note[0]]
    return step + (1 if note[1] == "#" else 0) + 12 * int(note[-1])


class Locator:
    """The odds over the pads of one table. Answers come in; ranks and the next probe come out."""

    def __init__(self, table: LeakTable, none: float = 0.02, wrong: float = WRONG, pairs: float = PAIRS):
        """
        Args:
            table: which pads close for which note. none: chance, before any note, that no pad leaks.
            wrong: chance of a wrong answer. pairs: chance, before any note, that two pads leak at once.
        """
        self.table, self.wrong = table, wrong
        self.keys = [p.key for p in table.pads]
        often = np.array([p.often for p in table.pads])
        one, n = often / often.sum(), len(often)
        first, second = np.triu_indices(n, 1)
        both = one[first] * one[second]
        self._prior = np.concatenate([one * (1 - none - pairs), both / both.sum() * pairs, [none]])
        self._leaks = np.zeros((len(self._prior), n), dtype=bool)
        """Which pads leak under each hypothesis: each alone, each two, none."""
        self._leaks[np.arange(n), np.arange(n)] = True
        rows = n + np.arange(len(first))
        self._leaks[rows, first] = self._leaks[rows, second] = True
        self._needs = {n.key: closed_for(table, n.key) for n in table.notes}
        self.probes = self._every()
        self._bad = np.array([self._chance_bad(p) for p in self.probes])  # shape (probes, hypotheses)
        self._index = {p: n for n, p in enumerate(self.probes)}

    def _every(self) -> list[Probe]:
        """All notes; and for each pad the lowest note that needs it, with the pad pressed."""
        notes = [Probe(n.key) for n in self.table.notes]
        held = []
        for key in self.keys:
            need = [n.key for n in self.table.notes if key in self._needs[n.key]]
            if need:
                held.append(Probe(need[-1] if not self._low(need) else self._low(need), key))
        return notes + held

    def _low(self, notes: Sequence[str]) -> str:
        plain = [n.key for n in self.table.notes if n.key in notes and not n.of]
        return min(plain, key=semitones, default="")

    def _chance_bad(self, probe: Probe) -> npt.NDArray[np.float64]:
        needs = self._needs[probe.note]
        spoils = np.array([k in needs and k != probe.held for k in self.keys])
        return np.where((self._leaks & spoils).any(axis=1), 1 - self.wrong, self.wrong)

    def posterior(self, played: Iterable[Played]) -> npt.NDArray[np.float64]:
        """Chance of each hypothesis: each pad alone, each two, none; shape (hypotheses,).

        Raises:
            BadInput: a note or pad that the table does not have.
        """
        odds = np.log(self._prior)
        for one in played:
            row = self._row(one.probe)
            odds = odds + np.log(1 - row if one.good else row)
        p = np.exp(odds - odds.max())
        return np.asarray(p / p.sum())

    def _row(self, probe: Probe) -> npt.NDArray[np.float64]:
        if probe in self._index:
            return np.asarray(self._bad[self._index[probe]])
        if probe.note not in self._needs:
            closed_for(self.table, probe.note)
        if probe.held and probe.held not in self.keys:
            raise BadInput(f"There is no pad “{probe.held[:40]}”.", todo=f"There are: {', '.join(self.keys)}.")
        return self._chance_bad(probe)

    def locate(self, played: Sequence[Played]) -> Located:
        """Rank the pads and name the next probe.

        Args:
            played: every note so far, in any order; a note may come more than once.

        Raises:
            BadInput: as :meth:`posterior`.
        """
        p = self.posterior(played)
        each = p @ self._leaks
        order = np.argsort(-each, kind="stable")
        ranked = tuple((self.keys[n], float(each[n])) for n in order)
        if max(each.max(), p[-1]) >= SURE:
            return Located(ranked, float(p[-1]), None, 0.0)
        told = self._expected_bits(p)
        best = int(np.argmax(told))
        return Located(ranked, float(p[-1]), self.probes[best], float(told[best]))

    def _expected_bits(self, p: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
        """Expected information of each probe, bits: entropy of its answer less that of its noise."""
        bad = self._bad @ p
        return np.asarray(_entropy(bad) - _entropy(np.array([self.wrong])))


def _entropy(q: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    q = np.clip(q, 1e-12, 1 - 1e-12)
    return np.asarray(-(q * np.log2(q) + (1 - q) * np.log2(1 - q)))
