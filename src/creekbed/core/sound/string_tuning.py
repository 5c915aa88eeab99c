"""Tuning strings by ear taken over: which string sounds, how far it is off, what to do, and when it holds.

A string is known by its pitch; one that is far off, as a new one is, can be held on to. What each string read when it
was first played is kept apart from what it reads now: before a turn it says how the string has settled.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

from creekbed.core.catalogue.models.family import StringedData
from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.sound.listening import Heard
from creekbed.core.sound.pitch import Pitch
from creekbed.core.sound.rasp import Rasp, buzzes_db
from creekbed.core.sound.tuning import CLOCK_CENTS
from creekbed.core.strings.tension import lies_in_fifths, pitch_hz

Advice = Literal["far_up", "up", "up_little", "stop", "holds", "down_little", "down", "far_down"]
IN_TUNE_CENTS = 3.0
"""A string is in tune within so many cents: house default."""
LITTLE_CENTS, FAR_CENTS = 15.0, 100.0
"""So far off it takes a little turn, and a large one: house default."""
STEADY_CENTS = 4.0
"""A reading whose pitch wanders by more is not kept: somebody is turning: house default."""
RECENT_S, STILL_CENTS = 0.5, 3.0
"""A steady reading tells of the needle for so long, and while that stands no further off: house default."""
OTHER_STRING_CENTS = 450.0
"""A pitch that is further from every string than that is none of them: house default."""
AGREE_CENTS, UNCLEAR = 15.0, 2
"""The whole tone must agree with the needle within so many cents; a string that was never steady is suspect when so
many looks at a whole tone found no pitch, or another: house default."""
FIFTH, OCTAVE = 1.5, 2.0


@dataclass(frozen=True)
class Target:
    """A string and the pitch that it should have, Hz."""

    key: str
    name: str
    hz: float


def targets(stringed: StringedData, a4_hz: float, *, pure_fifths: bool = False) -> tuple[Target, ...]:
    """The strings of a family, the lowest first.

    Args:
        a4_hz: what the shop tunes to. pure_fifths: bowed strings in fifths of 3 : 2 from their A.

    Raises:
        BadInput: pure fifths for strings that do not lie in fifths, or have no A.
    """
    found = [Target(s.key, s.name, pitch_hz(s.pitch, a4_hz)) for s in stringed.strings]
    if pure_fifths:
        a = next((n for n, s in enumerate(stringed.strings) if s.pitch.startswith("A")), None)
        if a is None or not lies_in_fifths(stringed):
            raise BadInput("These strings do not lie in fifths.")
        found = [replace(t, hz=found[a].hz * FIFTH ** (n - a)) for n, t in enumerate(found)]
    return tuple(sorted(found, key=lambda t: t.hz))


@dataclass(frozen=True)
class StringReading:
    """A string's pitch against what it should be.

    Attributes:
        cents: above its pitch, negative: flat. u_cents: standard uncertainty. at_s: when it was heard.
    """

    cents: float
    u_cents: float
    at_s: float

    def in_tune(self, within_cents: float = IN_TUNE_CENTS) -> bool:
        """Within the limit, with its doubt (k = 2) told off: JCGM 106."""
        return abs(self.cents) + 2 * self.u_cents <= within_cents


@dataclass(frozen=True)
class StringState:
    """What is known of one string.

    Attributes:
        found: as it was first heard in this sitting. now: the last steady reading. live: the needle.
        false_cents: how far its partials scatter off the law of a string, where they do beyond doubt; 0: they do not.
        rasp: what sounds beside its partials. buzz_db: by how much more that is than of the other strings, where it
            may be a buzz; 0: it is none.
    """

    target: Target
    found: StringReading | None = None
    now: StringReading | None = None
    live: StringReading | None = None
    false_cents: float = 0.0
    rasp: Rasp | None = None
    buzz_db: float = 0.0
    sure_partials: int = 0
    tone_s: float = -math.inf
    """From how many partials it is known whether it is false, and when that tone began: one that fades tells less."""
    unclear: int = 0
    """How often it sounded long enough without one pitch that fits it."""

    @property
    def may_be_false(self) -> bool:
        """Its partials lie off beyond doubt, or so far that no pitch fits all of them."""
        return self.false_cents > 0 or (self.now is None and self.unclear >= UNCLEAR)

    @property
    def steady(self) -> bool:
        """The needle stands where the steady reading of this moment is."""
        if self.now is None or self.live is None:
            return False
        return self.live.at_s - self.now.at_s < RECENT_S and abs(self.live.cents - self.now.cents) < STILL_CENTS

    @property
    def holds(self) -> bool:
        """Its last steady reading is in tune."""
        return self.now is not None and self.now.in_tune()


def advice_for(reading: StringReading, *, steady: bool) -> Advice:
    """What to do about a string.

    Args:
        steady: the reading is one that is kept, not of the needle alone.
    """
    cents = reading.cents
    if abs(cents) <= IN_TUNE_CENTS:
        return "holds" if steady and reading.in_tune() else "stop"
    size = "far" if abs(cents) > FAR_CENTS else "little" if abs(cents) <= LITTLE_CENTS else ""
    up: dict[str, Advice] = {"far": "far_up", "": "up", "little": "up_little"}
    down: dict[str, Advice] = {"far": "far_down", "": "down", "little": "down_little"}
    return up[size] if cents < 0 else down[size]


class Tuner:
    """Follows the player from string to string.

    Args:
        strings: what they should be, ascending.
    """

    def __init__(self, strings: Sequence[Target]):
        if not strings:
            raise BadInput("There are no strings to tune.")
        self.states = {t.key: StringState(t) for t in strings}
        self.held: str = ""
        """The string that is meant whatever is heard; "" for the nearest."""
        self.playing: str = ""
        """The string that was heard last."""
        self.advice: Advice | None = None

    @property
    def lowest_hz(self) -> float:
        """The lowest fundamental to listen for: a new string may be far flat."""
        return min(s.target.hz for s in self.states.values()) * 0.7

    @property
    def highest_hz(self) -> float:
        """The highest fundamental to listen for."""
        return max(s.target.hz for s in self.states.values()) * 1.45

    def hold(self, key: str) -> None:
        """Take everything that is heard for this string; "" for the nearest again.

        Raises:
            BadInput: a string that is not there.
        """
        if key and key not in self.states:
            raise BadInput(f"There is no string “{key[:20]}”.")
        self.held = key

    def string_of(self, hz: float) -> Target | None:
        """Which string has this pitch: the nearest, or the one that is held on to."""
        near = min(
            (s.target for s in self.states.values() if self.held in ("", s.target.key)),
            key=lambda t: abs(math.log2(hz / t.hz)),
        )
        far = abs(1200 * math.log2(hz / near.hz))
        return near if far <= (1500.0 if self.held else OTHER_STRING_CENTS) else None

    def hear(self, heard: Heard) -> StringState | None:
        """Take what is heard; the string that sounds, or ``None``."""
        if heard.pitch is None:
            self.advice = None
            return None
        target = self.string_of(heard.pitch.hz)
        if target is None:
            self.advice = None
            return None
        state = self.states[target.key]
        cents = heard.pitch.cents_from(target.hz)
        live = StringReading(cents, math.hypot(heard.pitch.u_cents, CLOCK_CENTS), heard.at_s)
        state = replace(state, live=live)
        self.advice = advice_for(live, steady=False)
        kept = heard.kept
        agrees = kept is not None and abs(kept.cents_from(target.hz) - cents) < AGREE_CENTS
        if heard.unclear or (kept is not None and not agrees):
            state = replace(state, unclear=state.unclear + 1)
        if kept is not None and agrees and kept.wander_cents <= STEADY_CENTS:
            reading = StringReading(kept.cents_from(target.hz), math.hypot(kept.u_cents, CLOCK_CENTS), heard.at_s)
            state = replace(state, now=reading, found=state.found or reading, rasp=heard.rasp or state.rasp)
            false, sure = _scatter(kept)
            if sure >= state.sure_partials or (sure and heard.since_s != state.tone_s):
                state = replace(state, false_cents=false, sure_partials=sure, tone_s=heard.since_s)
        if state.now is not None and state.steady:
            self.advice = advice_for(state.now, steady=True)
        self.states[target.key], self.playing = state, target.key
        if heard.rasp is not None:
            self._compare()
        return self.states[target.key]

    def _compare(self) -> None:
        """Which strings rasp more than the others."""
        for key, state in self.states.items():
            others = [s.rasp for k, s in self.states.items() if k != key]
            self.states[key] = replace(state, buzz_db=buzzes_db(state.rasp, others))

    def listen_anew(self) -> None:
        """What was read stays; times count from nought again, so none of it is of this moment."""
        for key, state in self.states.items():
            now = None if state.now is None else replace(state.now, at_s=-math.inf)
            self.states[key] = replace(state, now=now, live=None, tone_s=-math.inf)
        self.playing, self.advice = "", None

    @property
    def all_hold(self) -> bool:
        """Every string's last steady reading is in tune."""
        return all(s.holds for s in self.states.values())


FALSE_CENTS = 4.0
"""Partials that scatter by so much beyond doubt make a string false: house default."""


def _scatter(kept: Pitch) -> tuple[float, int]:
    """Root mean square of how far the first partials lie off the law, less what their doubt makes of it, cents.

    Returns:
        That, 0 where they lie where they should; and from how many partials that is known, 0: from too few to say.
    """
    low = kept.partials <= 8
    off, doubt = kept.off_cents[low], kept.u_off_cents[low]
    sure = doubt < FALSE_CENTS / 2
    count = int(sure.sum())
    if kept.partials.size < 5 or count < 4:
        return 0.0, 0
    beyond = float((off[sure] ** 2 - doubt[sure] ** 2).mean())
    return (math.sqrt(beyond) if beyond > FALSE_CENTS**2 else 0.0), count
