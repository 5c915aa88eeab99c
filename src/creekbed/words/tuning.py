"""What is heard of strings and the microphone, in words."""

from __future__ import annotations

from collections.abc import Iterable

from creekbed.core.conventions import number
from creekbed.core.sound.listening import Heard
from creekbed.core.sound.string_tuning import LITTLE_CENTS, Advice, StringReading, StringState
from creekbed.words.phrases import sentence

ADVICE: dict[Advice, str] = {
    "far_up": "Up, far", "up": "Up", "up_little": "Up a little", "stop": "Stop", "holds": "Holds",
    "down_little": "Down a little", "down": "Down", "far_down": "Down, far",
}  # fmt: skip
PEG_CENTS = 40.0
"""So far off it takes the peg, less the fine tuner where there is one: house default."""


def cents_words(reading: StringReading) -> str:
    """How far off a string is: "12 cents flat"."""
    digits = 0 if abs(reading.cents) >= 9.95 else 1
    size = number(abs(reading.cents), digits)
    if float(f"{abs(reading.cents):.{digits}f}") == 0:
        return "on its pitch"
    return f"{size} {'cent' if size == '1' else 'cents'} {'sharp' if reading.cents > 0 else 'flat'}"


def doubt_words(reading: StringReading) -> str:
    """Its doubt: "± 0.2 cents (k = 2)"."""
    u = 2 * reading.u_cents
    return f"± {number(max(u, 0.1), 0 if u >= 5 else 1)} cents (k = 2)"


def where_words(reading: StringReading, *, pegs: bool) -> str:
    """What to turn, and how.

    Args:
        pegs: it has pegs and may have fine tuners; else machine heads.
    """
    if reading.in_tune():
        return ""
    if reading.cents > LITTLE_CENTS:
        return "Let it down below its pitch, then bring it up: it holds better."
    if not pegs:
        return "Turn until it says stop. Face away from the string."
    if abs(reading.cents) > PEG_CENTS:
        return "At the peg: turn and push it in. Face away from the string."
    return "At the fine tuner, if it has one; else at the peg."


def microphone_words(heard: Heard | None) -> str:
    """What is wrong with what the microphone hears; "" if nothing is."""
    if heard is None:
        return ""
    if heard.state == "dead":
        return "Not even noise comes from the microphone. Is it muted, or is another one meant?"
    if heard.clipped:
        return "It is cut off where it is loudest: move the microphone away, or turn it down."
    if heard.state == "noise":
        return "There is sound, but no one pitch in it. Damp the other strings."
    return ""


def suspicion_words(state: StringState) -> str:
    """What its partials, and what sounds beside them, say of a string; "" if nothing."""
    if state.may_be_false:
        evidence = sentence(_false_evidence(state))
        return f"{evidence}: it may be false. Damp the others and play it again before you blame it."
    if state.buzz_db:
        return (
            f"Beside its tone it rasps {number(state.buzz_db, 0)} dB more than the others, in its own beat: it may "
            "buzz. Hold what may rattle, look at nut, frets and windings, and play it again."
        )
    return ""


def _false_evidence(state: StringState) -> str:
    if not state.false_cents:
        return "no one pitch fits its partials"
    return f"its partials lie {number(state.false_cents, 0)} cents off where a string has them"


def failed_words(states: Iterable[StringState]) -> str:
    """What is wrong with the strings that were played, as the words of a play-test that failed; "" if nothing."""
    said = []
    for state in states:
        if state.now is not None and not state.holds:
            said.append(f"{state.target.name} {cents_words(state.now)}")
        if state.may_be_false:
            said.append(f"{state.target.name} may be false: {_false_evidence(state)}")
        elif state.buzz_db:
            said.append(f"{state.target.name} may buzz: it rasps {number(state.buzz_db, 0)} dB more than the others")
    return "; ".join(said)


def state_words(state: StringState) -> str:
    """Sign and word for how a string stands; in a line of its own, that it may be false or buzz."""
    if state.now is None:
        return "may be false" if state.may_be_false else "not played"
    said = "✓ holds" if state.holds else cents_words(state.now)
    doubt = "may be false" if state.may_be_false else "may buzz" if state.buzz_db else ""
    return f"{said}\n{doubt}" if doubt else said
