"""Conditions that must hold before a step is done."""

from __future__ import annotations

from creekbed.core.errors import Refused
from creekbed.core.hygiene.residue import Use, clashes_with
from creekbed.core.procedure.build import refusals
from creekbed.core.procedure.built import BuiltStep
from creekbed.words.times import span
from creekbed.workshop.arrival.intake import expected_items
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.shop.shop import Act, Shop


def ready_step(view: JobView, key: str, act: Act) -> StepView:
    if view.blocked:
        raise Refused(f"{view.tag} cannot go on. {view.blocked}.", todo="Lift that first.")
    step = view.step(key)
    if step is None:
        raise Refused("This step does not belong to the job any more.", todo="Look at what comes next.")
    if step.work is not None:
        raise Refused("This step is done already.", todo="Look at what comes next.")
    if view.kept_back(step.step):
        raise Refused(
            f"{view.tag} is in quarantine.",
            todo=f"First: {view.treatment}." if view.treatment else "When what runs is over, look again, then lift it.",
        )
    if step.state == "held":
        names = ", ".join(view.family.find_check(k).name.lower() for k in step.step.held)
        raise Refused(f"What was found forbids it: {names}.", todo="Send it out first, or close the finding.")
    if step.state == "later":
        missing = [b.step.what for b in view.steps if b.step.key in step.step.after and b.work is None]
        raise Refused("Something comes before it.", todo=f"First: {missing[0]}." if missing else "")
    if step.state == "waiting" and step.until is not None:
        left = (step.until - act.now).total_seconds() / 60
        part = next((p for p in step.parts if p.at > act.now), None)
        if part is not None:
            raise Refused(f"It waits for this: {part.words}.",
                          todo="When that is here, say so.")  # fmt: skip
        dried = any(w.dry for w in view.waits if w.key in (step.step.ends, *step.step.after))
        if dried:
            raise Refused("It has dried; the contact time starts again.", todo="Wet it again.")
        raise Refused(
            f"Not yet: {span(left)} are missing.",
            todo="A contact time cannot be cut short; a drying time can, with a reason.",
        )
    return step


def uses_of_parts(view: JobView) -> list[Use]:
    """What was brought to the parts of this instrument in this job, in the order in which it was done."""
    known = {s.key: s for s in view.family.step}
    uses = []
    for work in (w for w in view.all_work if w.state == "done"):  # in the order in which it was done
        done = known.get(work.key.partition(".")[0])
        if done is not None and done.agents:
            uses.append(Use(frozenset(done.touches), frozenset(done.agents), done.rinses))
    return uses


def need_rinsed(shop: Shop, view: JobView, step: BuiltStep) -> None:
    """Refuse an agent after another on a part where the two must never meet, unless it was rinsed between."""
    uses = uses_of_parts(view)
    following = Use(frozenset(step.touches), frozenset(step.agents))
    agents, never = shop.catalogue.agents, shop.catalogue.never.values()
    clashes = [c for c in clashes_with(agents, never, uses, following) if c[1].kind != "useless"]
    if clashes:
        part, clash = clashes[0]
        found = view.family.find_part(part)
        name = found.name if found is not None else part
        raise Refused(
            f"On the {name} there is still {agents[clash.first].name}: with {agents[clash.second].name} it makes "
            f"{clash.forms}.",
            todo="Rinse the part with plenty of cool water first, and do the rinsing step.",
        )


def need_borne(shop: Shop, view: JobView, step: BuiltStep) -> None:
    """Refuse an agent on a part that does not bear it, or on a material without an entry."""
    found = refusals(shop.catalogue, view.situation, step.touches, step.agents, step.exposure)
    if found:
        raise Refused(found[0], todo="Leave the step out and say why, or say at “Made of” what the part is made of.")


def need_contents(view: JobView) -> None:
    left = [i.name for i in expected_items(view) if i.key not in view.lines]
    if left:
        raise Refused(f"Not ticked yet: {', '.join(left)}.", todo="Tick each piece, or “The rest is here”.")


def need_checks(view: JobView, look: BuiltStep) -> None:
    """Refuse to end a look while a check that it asks is not done, or not sure."""
    missing = [c.name for c in view.needed_at(look) if c.key not in view.findings]
    if missing:
        raise Refused(f"Not looked at yet: {', '.join(missing)}.", todo="Do each check.")
    mine = [view.findings[key] for key in look.checks if key in view.findings]
    unsure = [f for f in mine if f.band == "again" and not f.overruled]
    if unsure:
        names = ", ".join(view.family.find_check(f.check).name for f in unsure)
        raise Refused(f"Not sure yet: {names}.", todo="Measure again, or decide with a reason.")
