"""Taking apart and putting together: the moves of both, made from one description of each joint."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence

from creekbed.core.catalogue.conditions import Condition, Facts
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.steps import Joint
from creekbed.core.procedure.order import restrict, topological_order
from creekbed.core.quick_dataclasses import dataclass

WORDS = {
    "twist": ("Twist {piece} off {of}", "Twist {piece} onto {of}"),
    "slide": ("Slide {piece} off {of}", "Slide {piece} onto {of}"),
    "draw": ("Draw {piece} out of {of}", "Slide {piece} into {of}"),
    "unscrew": ("Unscrew {piece} from {of}", "Screw {piece} onto {of}"),
    "lift": ("Lift {piece} off {of}", "Set {piece} on {of}"),
    "unhook": ("Unhook {piece} from {of}", "Hook {piece} to {of}"),
    "set": ("Set {piece} into {of}", "Take {piece} out of {of}"),
    "case": ("Take {piece} out of {of}, {lead} first", "Lay {piece} into {of}, {trail} first"),
}
"""Words of each verb, off and on. "own" has none: its joint brings them."""


@dataclass(frozen=True)
class Move:
    """One move of a step: what to do with which piece, how, and what never to do."""

    key: str
    part: str
    what: str
    how: str
    caution: str
    reason: str
    sign: str
    agent: str | None
    supply: tuple[str, float] | None
    policy: str
    hands_min: float
    mark: str
    source: str


@dataclass(frozen=True)
class Moves:
    """The moves of one job, in order: apart, together, apart again after it was played, and into the case."""

    off: tuple[Move, ...]
    on: tuple[Move, ...]
    again: tuple[Move, ...]
    pack: tuple[Move, ...]

    def phase(self, names: Collection[str], *, after_play: bool) -> tuple[Move, ...]:
        """The one of the four in which moves of these names are made; a move off is made before or after playing."""
        several = (self.again, self.pack, self.off, self.on) if after_play else (self.off, self.on)
        return next((moves for moves in several if {m.key for m in moves} & set(names)), ())

    def of(self, kind: str) -> tuple[Move, ...]:
        """Those that a kind of step makes."""
        return {"apart": self.off, "together": self.on, "again": self.again, "pack": self.pack}.get(kind, ())


def off_name(joint: str) -> str:
    """Name of the move that takes a joint apart."""
    return f"{joint}_off"


def on_name(joint: str) -> str:
    """Name of the move that puts it together."""
    return f"{joint}_on"


def move_homes(family: Family) -> dict[str, str]:
    """Every move of a family → the kind of step in which it is made: "apart", "together", "again" or "pack".

    What is off when it comes in, such as a strap, comes off for the first time after it was played.
    """
    later = "again" if _plays_apart(family) else "pack"
    homes = {off_name(j.key): "apart" if j.arrives else later for j in family.joint}
    return homes | {on_name(j.key): "pack" if j.together == "pack" else "together" for j in family.joint}


def move_rules(family: Family, facts: Facts) -> list[tuple[str, str]]:
    """Pairs (first, then) of moves that hold under these facts, with the mirrored ones.

    A rule between two moves off holds in reverse between the moves on, where both joints are mirrored.
    """
    joints = {off_name(j.key): j for j in family.joint}
    found = []
    for rule in family.order:
        if not _holds(rule.when, facts):
            continue
        found.append((rule.first, rule.then))
        first, then = joints.get(rule.first), joints.get(rule.then)
        if rule.mirror and first is not None and then is not None and first.mirror and then.mirror:
            found.append((on_name(then.key), on_name(first.key)))
    return found


def _plays_apart(family: Family) -> bool:
    """Whether it is taken apart again in a step of its own, before it is packed."""
    return any(s.kind == "again" for s in family.step)


def _holds(conditions: Iterable[Condition], facts: Facts) -> bool:
    return all(c.holds(facts) for c in conditions)


def make_moves(family: Family, facts: Facts, policies: Mapping[str, str]) -> Moves:
    """All moves of a job, each phase in an order that keeps every rule.

    Args:
        family: with its joints and order rules. facts: what is known of the job.
        policies: topic → words of the choice, shown on moves that follow one.

    Raises:
        ValueError: the rules contradict each other; the message names the cycle.
    """
    names = {p.key: p.name for p in family.part}
    made: dict[str, Move] = {}
    for joint in (j for j in family.joint if _holds(j.when, facts)):
        made[off_name(joint.key)] = _move(joint, names, policies, off=True)
        made[on_name(joint.key)] = _move(joint, names, policies, off=False)
    return Moves(*(tuple(made[name] for name in phase) for phase in move_orders(family, facts)))


def move_orders(family: Family, facts: Facts) -> tuple[list[str], list[str], list[str], list[str]]:
    """The names of the moves of each phase, as :class:`Moves` has them, in an order that keeps every rule.

    Raises:
        ValueError: the rules contradict each other; the message names the cycle.
    """
    joints = {j.key: j for j in family.joint if _holds(j.when, facts)}
    came = facts.get("arrived.joints")
    off = [
        off_name(k)
        for k, j in joints.items()
        if j.arrives and (came is None or k in came) and _holds(j.when_off, facts)
    ]
    on = [on_name(k) for k, j in joints.items() if j.together == "together" and _holds(j.when_on, facts)]
    again = [
        off_name(k)
        for k, j in joints.items()
        if j.again and (on_name(k) in on or not (j.arrives or j.together != "never"))
    ]
    case = [on_name(k) for k, j in joints.items() if j.together == "pack" and _holds(j.when_on, facts)]
    rules = move_rules(family, facts)
    every_off = [off_name(j.key) for j in family.joint]
    every_on = [on_name(j.key) for j in reversed(family.joint)]
    last = _order_of(every_off + every_on, again + case, rules)
    packing = set(case)
    apart = _plays_apart(family)
    for name in topological_order(last):  # what is taken apart only in the case stays there
        if not apart or last[name] & packing:
            packing.add(name)
    every = topological_order({k: v | (set(again) - packing if k in packing else set()) for k, v in last.items()})
    return (
        topological_order(_order_of(every_off, off, rules)), topological_order(_order_of(every_on, on, rules)),
        [name for name in every if name not in packing], [name for name in every if name in packing],
    )  # fmt: skip


def _order_of(every: Sequence[str], keep: Collection[str], rules: Iterable[tuple[str, str]]) -> dict[str, set[str]]:
    """The moves to make in the family's order, each with what it comes after; what falls away keeps its order."""
    after: dict[str, set[str]] = {name: set() for name in every}
    for first, then in rules:
        if first in after and then in after:
            after[then].add(first)
    return restrict(after, keep)


def _move(joint: Joint, names: Mapping[str, str], policies: Mapping[str, str], *, off: bool) -> Move:
    name = names[joint.piece]
    piece = name if name.startswith("your ") else f"the {name}"
    if joint.verb == "own":
        what = joint.off if off else joint.on
    else:
        pattern = WORDS[joint.verb][0 if off else 1]
        what = pattern.format(piece=piece, of=joint.of, lead=joint.lead, trail=joint.trail or joint.lead)
    how = [
        f"With {joint.hold}" if joint.hold else "",
        f"Grip {joint.grip}" if joint.grip else "",
        _capital(joint.turn if off else joint.on_turn or joint.turn),
        "" if off else _capital(joint.line_up),
        _capital(joint.off_note if off else joint.on_note),
    ]
    supply = None if off or joint.on_supply is None else (joint.on_supply, joint.on_amount)
    return Move(
        key=off_name(joint.key) if off else on_name(joint.key),
        part=joint.piece,
        what=what,
        how=" ".join(f"{part.rstrip('.')}." for part in how if part),
        caution=f"Never {joint.never}." if joint.never else "",
        reason=joint.reason if off else joint.on_reason,
        sign=joint.sign,
        agent=None if off else joint.on_agent,
        supply=supply,
        policy=policies.get(joint.policy or "", ""),
        hands_min=joint.hands_min,
        mark=joint.mark,
        source=joint.source,
    )


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def names_of(moves: Iterable[Move], family: Family) -> str:
    """The pieces that move, in words: "reed, ligature, mouthpiece"; what comes off stands where it is off at last."""
    names = {p.key: p.name for p in family.part}
    found = [(names[m.part], m.key.endswith("_off")) for m in moves]
    if all(off for _, off in found):
        return ", ".join(reversed(dict.fromkeys(name for name, _ in reversed(found))))
    return ", ".join(dict.fromkeys(name for name, _ in found))
