"""An instrument as hands find it: what sits on what, what is loose, what lies in the case, what was found.

It shares no code with the application: it knows the families' joints and what findings mean by itself, is told one
step after another, and says what cannot be done, or does harm. Common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

SINGLE_REED = ("saxophone", "clarinet")
JOINED_CHECKS: Mapping[str, Mapping[str, tuple[str, ...]]] = {
    "saxophone": {"neck_cork": ("neck", "a mouthpiece"), "neck_swing": ("neck",), "octave_lever": ("neck",)},
    "clarinet": {"bridge": ("middle",), "grip": ("barrel", "bell", "middle")},
    "oboe": {"grip": ("bell", "middle")},
}
"""What must stand together for a check, by group."""
APART_CHECKS: Mapping[str, Mapping[str, tuple[str, ...]]] = {
    "saxophone": {
        "cork_feel": ("mouthpiece",), "leak": ("neck",), "mouthpiece": ("mouthpiece", "reed"), "reed": ("reed",),
    },
    "clarinet": {
        "corks": ("barrel", "bell", "middle"), "leak_upper": ("middle", "barrel"), "mouthpiece": ("mouthpiece", "reed"),
        "reed": ("reed",),
    },
    "oboe": {"corks": ("bell", "middle"), "leak_upper": ("middle",), "reed": ("reed",)},
    "bassoon": {"corks": ("bocal",), "leak_wing": ("wing",), "reed": ("reed",)},
    "flute": {"head_cork": ("head",), "leak": ("head",)},
    "trombone": {"lift": ("bell", "mouthpiece"), "friction": ("bell", "mouthpiece")},
}  # fmt: skip
"""What must not be on for a check."""
AT_PITCH = ("bridge_lean", "string_height", "nut_height", "string_angle", "action", "relief", "bridge_moved")
BOW_ORDER = ("cracks", "hair", "bow_camber", "bow_speaks", "bow_relaxes")
TUNING = (
    "tune", "string_on", "hang", "retune_1", "retune_2", "retune_3", "tuner_back", "tuner_in", "pegs_dope",
)  # fmt: skip
SOUNDING = ("play", "play_bench_bow")
SLIDING = (
    "slide_apart", "inner_wipe", "bores", "outer_bores", "slide_two_part", "slide_cream", "slide_together",
    "lift_proof",
)  # fmt: skip
BOWING = ("play", "play_bench_bow", "bow_rosin")
OWN_BOW = ("bow_rosin", "play")
STILL: Mapping[tuple[str, str], tuple[str, ...]] = {
    ("sound_post", "fallen"): (*SOUNDING, *TUNING),
    ("seams", "open"): (*SOUNDING, *TUNING),
    ("bridge_lean", "act"): SOUNDING,
    ("bridge_warp", "act"): (*SOUNDING, *TUNING),
    ("heat_cold", "moved"): SOUNDING,
    ("pegs", "slips on a bass"): TUNING,
    ("slide_dents", "any"): (*SOUNDING, *SLIDING),
    ("lift", "rises_clean"): SOUNDING,
    ("keys", "bent"): SOUNDING,
    ("octave_lever", "fails"): SOUNDING,
    ("end_pin", "slips"): SOUNDING,
    ("corks", "torn"): ("together", *SOUNDING),
    ("cork_feel", "torn"): ("together", *SOUNDING),
    ("cracks", "tip"): OWN_BOW,
    ("cracks", "frog"): OWN_BOW,
    ("bow_relaxes", "stays"): OWN_BOW,
    ("bow_camber", "act"): OWN_BOW,
}
"""A finding → steps that must not be done while it is open. With a bow that is not whole, the bench's own plays."""
BOWED = ("violin", "cello", "double_bass")


@dataclass
class Instrument:
    """What sits where. ``on``: joints that stand together. ``ligature``: off, loose or snug; its own ones likewise."""

    group: str
    policies: Mapping[str, str]
    joints: tuple[str, ...]
    on: set[str] = field(default_factory=set)
    in_case: bool = False
    cap: bool = False
    reed: bool = False
    ligature: str = "off"
    own_on: bool = False
    own_reed: bool = False
    own_ligature: str = "off"
    plug: bool = False
    strap: bool = False
    pitch: bool = False
    rosin: bool = False
    tight: bool = False
    cased: bool = False

    def loose(self) -> str:
        """What would fall off what is turned now."""
        if "mouthpiece" in self.on and self.ligature == "loose":
            return "its ligature"
        return "your ligature" if self.own_on and self.own_ligature == "loose" else ""

    def move(self, key: str) -> Iterator[str]:
        """Make one move; yields what is wrong with it."""
        name, _, way = key.rpartition("_")
        handle = getattr(self, f"_{name}", None)
        if handle is not None:
            yield from handle(way)
        elif name in self.joints:
            yield from self._joint(name, way)

    def _joint(self, name: str, way: str) -> Iterator[str]:
        if loose := self.loose():
            yield f"{name} is turned while {loose} is loose"
        if self.in_case:
            yield f"{name} is moved while it lies in the case"
        if way == "off":
            if name not in self.on:
                yield f"{name} comes off and is not on"
            self.on.discard(name)
        else:
            if name in self.on:
                yield f"{name} goes on and is on"
            self.on.add(name)

    def _cap(self, way: str) -> Iterator[str]:
        if way == "off" and not self.cap:
            yield "the cap comes off and is not on"
        self.cap = way == "on"

    def _screws(self, way: str) -> Iterator[str]:
        if way == "on":
            self.ligature = "snug"
            return
        if self.cap:
            yield "the screws are under the cap"
        if self.ligature != "snug":
            yield "the screws are loosened and were not snug"
        self.ligature = "loose"

    def _snug(self, way: str) -> Iterator[str]:
        if self.ligature != "loose" or self.reed:
            yield "the ligature is snugged and was not loose, or a reed is under it"
        self.ligature = "snug"

    def _loosen(self, way: str) -> Iterator[str]:
        if self.ligature != "snug":
            yield "the ligature is loosened and was not snug"
        self.ligature = "loose"

    def _reed(self, way: str) -> Iterator[str]:
        if self.group in SINGLE_REED and (self.cap or self.ligature == "snug"):
            yield "the reed is drawn from under a snug ligature, or the cap"
        if not self.reed:
            yield "the reed comes off and is not there"
        self.reed = False

    def _ligature(self, way: str) -> Iterator[str]:
        if way == "on":
            self.ligature = "loose"
            return
        if self.ligature != "loose" or self.cap or self.reed:
            yield "the ligature is slid while it is snug, capped, or over the reed"
        self.ligature = "off"

    def _mouthpiece(self, way: str) -> Iterator[str]:
        if self.group not in SINGLE_REED:
            yield from self._joint("mouthpiece", way)
            return
        if "mouthpiece" not in self.on:
            yield "the mouthpiece comes off and is not on"
        if loose := self.loose():
            yield f"the mouthpiece is turned while {loose} is loose"
        if self.in_case and "neck" in self.on:
            yield "the mouthpiece is twisted in the case"
        self.on.discard("mouthpiece")

    def _neck(self, way: str) -> Iterator[str]:
        if way == "on" and self.plug:
            yield "the neck goes into a plugged socket"
        yield from self._joint("neck", way)

    def _plug(self, way: str) -> Iterator[str]:
        if way == "off":  # set in when the neck is off
            if "neck" in self.on or self.plug:
                yield "the plug goes into a socket that is not free"
            if self.in_case and not (self.cased and self.policies.get("end_plug") == "after"):
                yield "the plug is set in the case"
            self.plug = True
        else:
            if not self.plug:
                yield "the plug comes out and is not in"
            self.plug = False

    def _strap(self, way: str) -> Iterator[str]:
        if self.group == "saxophone" and way == "off" and "neck" in self.on:
            yield "the strap is unhooked before the body lies"
        self.strap = way == "on"
        yield from ()

    def _body(self, way: str) -> Iterator[str]:
        if self.group != "saxophone":
            return
        if way == "off":
            if not self.in_case:
                yield "the body is out of its case"
            self.in_case = False
            return
        if self.on & {"neck", "mouthpiece"} or self.own_on or self.strap:
            yield f"the body is cased with {sorted(self.on)}, or your mouthpiece, or its strap on"
        self.in_case = self.cased = True

    def _own_mouthpiece(self, way: str) -> Iterator[str]:
        if way == "on":
            if self.own_ligature == "loose":
                yield "your mouthpiece is twisted on with a loose ligature"
            self.own_on = True
        else:
            if not self.own_on:
                yield "your mouthpiece is not on"
            if self.own_ligature == "loose":
                yield "your mouthpiece is twisted off with a loose ligature"
            self.own_on = False

    def _own_ligature(self, way: str) -> Iterator[str]:
        if way == "on":
            self.own_ligature = "loose"
        else:
            if self.own_ligature != "loose" or self.own_reed:
                yield "your ligature is slid while it is snug, or over the reed"
            self.own_ligature = "off"

    def _own_screws(self, way: str) -> Iterator[str]:
        if way == "on":
            if self.own_ligature != "loose" or not self.own_reed:
                yield "your ligature is snugged on nothing"
            self.own_ligature = "snug"
        else:
            if self.own_ligature != "snug":
                yield "your ligature is loosened and was not snug"
            self.own_ligature = "loose"

    def _own_snug(self, way: str) -> Iterator[str]:
        if self.own_ligature != "loose" or self.own_reed:
            yield "your empty ligature was not loose"
        self.own_ligature = "snug"

    def _own_loosen(self, way: str) -> Iterator[str]:
        if self.own_ligature != "snug":
            yield "your ligature was not snug"
        self.own_ligature = "loose"

    def _own_reed(self, way: str) -> Iterator[str]:
        if way == "off" and (not self.own_reed or self.own_ligature == "snug"):
            yield "your reed is drawn from under a snug ligature, or is not there"
        self.own_reed = way == "on"

    # --- steps ------------------------------------------------------------------------------------------------------

    def step(self, step: Any) -> Iterator[str]:
        """Do one step: what it asks, moves, tunes and plays."""
        base = step.base
        if base == "after_whole":  # the moves come before the pull
            yield from self._moves(step)
        for check in step.checks:
            yield from self._asked(check)
        if base in ("tune", "hang", "retune_1"):
            self.pitch = True
        if base == "string_on":
            self.pitch = False
        if base in SOUNDING:
            yield from self._played(base)
        if base in BOWING and self.group in BOWED:
            self.rosin = True
        if base in ("dust_strings", "after_rosin"):
            self.rosin = False
        if base != "after_whole":
            yield from self._moves(step)
        if base == "lift_proof" and self.on & {"bell", "mouthpiece"} | ({"yours"} if self.own_on else set()):
            yield "the slide is tried with bell or mouthpiece on"
        if step.kind == "pack":
            yield from self._packed()

    def _moves(self, step: Any) -> Iterator[str]:
        for move in step.moves:
            for told in self.move(move.key):
                yield f"{step.key}: {told}"

    def _asked(self, check: str) -> Iterator[str]:
        on = self.on | ({"a mouthpiece"} if self.own_on or "mouthpiece" in self.on else set())
        if missing := set(JOINED_CHECKS.get(self.group, {}).get(check, ())) - on:
            yield f"{check} is asked while {sorted(missing)} is off"
        still = {*on, *({"reed"} if self.reed and self.ligature != "off" else ())}
        if there := set(APART_CHECKS.get(self.group, {}).get(check, ())) & still:
            yield f"{check} is asked while {sorted(there)} is on"
        if check in AT_PITCH and not self.pitch:
            yield f"{check} is asked before it is at pitch"

    def _played(self, base: str) -> Iterator[str]:
        wanted = set(self.joints)
        if missing := wanted - self.on:
            yield f"it is played while {sorted(missing)} is off"
        if self.group in (*BOWED, "guitar") and not self.pitch:
            yield "it is played before it is tuned"

    def _packed(self) -> Iterator[str]:
        if self.own_on or self.own_reed or self.own_ligature != "off":
            yield "what is yours is packed"
        if self.group in CASED_APART and self.on:
            yield f"it is packed with {sorted(self.on)} together"
        if self.rosin:
            yield "it is packed with rosin on it"


JOINTS: Mapping[str, tuple[str, ...]] = {
    "saxophone": ("neck",),
    "clarinet": ("barrel", "bell", "middle"),
    "oboe": ("bell", "middle"),
    "bassoon": ("bocal", "bell", "long", "wing"),
    "flute": ("head", "foot"),
    "trombone": ("bell",),
}
CASED_APART = ("saxophone", "clarinet", "oboe", "bassoon", "flute", "trombone")


def as_it_came(group: str, family: str, situation: Any, joints: Iterable[str]) -> Instrument:
    """The instrument as the case is opened."""
    mine = ("head",) if family == "piccolo" else JOINTS.get(group, ())
    made = Instrument(group, situation.policies, mine, on=set(joints) & {*mine, "mouthpiece"})

    def there(item: str, *states: str) -> bool:
        return situation.contents.get(item, "present") in (states or ("present", "worn"))

    made.reed = there("reed")
    if group in SINGLE_REED:
        made.ligature = "snug" if there("ligature") else "off"
        made.cap = there("cap")
    if group == "saxophone":
        made.in_case = True
        made.plug = "neck" not in made.on and there("end_plug", "present", "replaced")
    return made


def wrong_moves(group: str, family: str, situation: Any, joints: Iterable[str], steps: Iterable[Any]) -> list[str]:
    """What is wrong with the steps of a job, done in this order."""
    now = as_it_came(group, family, situation, joints)
    return [told for step in steps for told in now.step(step)]


def strained(group: str, situation: Any, steps: Iterable[Any], send: str) -> list[str]:
    """Steps that an open finding forbids and that may be done before it is sent out."""
    rows = {s.key: s for s in steps}
    found = []
    for (check, answer), keys in STILL.items():
        result = situation.findings.get(check)
        if result is None or check in situation.closed or answer not in result.facts:
            continue
        for step in rows.values():
            if step.base not in keys or (step.base == "play" and keys == OWN_BOW and group not in (*BOWED, "bow")):
                continue
            before, left = {step.key}, [step.key]
            while left:
                new = {k for k in rows[left.pop()].after if k in rows} - before
                before |= new
                left += new
            if not (step.held or any(rows[k].held for k in before)) or send not in before:
                found.append(f"{check}: {answer}: {step.key} may be done")
    return found
