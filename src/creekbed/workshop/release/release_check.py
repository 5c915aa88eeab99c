"""The release check: every condition must be met before the tag is printed."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from datetime import datetime
from typing import Any

from creekbed.core.conventions import number
from creekbed.core.errors import Refused
from creekbed.core.procedure.readiness import ReleaseCondition, ReleaseProblem
from creekbed.core.procedure.states import BOW, PartState
from creekbed.store.reader import Reader
from creekbed.store.records import Finding, InHand, Mark, StepRecord, TagPrint
from creekbed.words.release import NAMES, condition_words
from creekbed.workshop.arrival.intake import expected_items, need_job
from creekbed.workshop.bench.job_situation import measured
from creekbed.workshop.bench.job_view import JobView
from creekbed.workshop.bench.settling import accepted, ahead_of, first_retunes_open, has_new_strings, settles
from creekbed.workshop.bench.wait_view import ACCLIMATISING
from creekbed.workshop.cleaning.part_states import stands
from creekbed.workshop.release.packing import given_up, pieces_to_pack
from creekbed.workshop.shop.shop import Shop

NOTED_BEFORE = "school"
"""Key under which older records of steps have the policy that was followed."""


def release_check(view: JobView) -> list[ReleaseCondition]:
    """Every condition of "ready", in the order of the work, each with whether it holds and why not."""
    parts = stands(view).parts
    return [
        _contents(view),
        _safety(view),
        _steps(view),
        _findings(view),
        _tests(view),
        *_strings(view),
        _mouth(view, parts),
        *_bow(parts),
        *_rosin(view, parts),
        _dry(view, parts),
        _case(view),
        _quarantine(view),
    ]


def _contents(view: JobView) -> ReleaseCondition:
    problems = []
    for item in expected_items(view):
        line = view.lines.get(item.key)
        if line is None:
            problems.append(ReleaseProblem("not_ticked", item.name))
        elif line.state == "missing" and item.kind != "safety":
            problems.append(ReleaseProblem("missing", item.name))
    if len(problems) > FEW:
        problems = [ReleaseProblem("unaccounted", count=len(problems))]
    return ReleaseCondition("contents", (*problems, *_not_in_case(view)))


def _not_in_case(view: JobView) -> list[ReleaseProblem]:
    """What goes out and was not in the case when that was packed, piece by piece."""
    pack = next((s.work for s in view.steps if s.step.kind == "pack" and s.work is not None), None)
    if pack is None or "pieces" not in pack.data:
        return []
    return [ReleaseProblem("not_in_case", p.name) for p in pieces_to_pack(view) if p.key not in pack.data["pieces"]]


def _missing_safety(view: JobView, coming: Collection[str] = ()) -> list[str]:
    """Names of the safety parts that are missing, but for those that are on their way."""
    lines = ((item, view.lines.get(item.key)) for item in view.family.item if item.kind == "safety")
    return [i.name for i, line in lines if line is not None and line.state == "missing" and i.key not in coming]


def _safety(view: JobView) -> ReleaseCondition:
    return ReleaseCondition("safety", tuple(ReleaseProblem("safety_missing", name) for name in _missing_safety(view)))


def _steps(view: JobView) -> ReleaseCondition:
    left = [s for s in view.open_steps if s.step.kind not in ("test", "pack")]
    problems = (ReleaseProblem("steps_left", left[0].step.what, count=len(left)),) if left else ()
    return ReleaseCondition("steps", problems)


def finding_open(view: JobView, finding: Finding) -> bool:
    """Whether a finding still stands in the way: not sure, or its mending not done and not closed."""
    if finding.closed:
        return False
    verdict = finding.overruled or finding.verdict
    if finding.band == "again" and not finding.overruled:
        return True
    if verdict == "ready":
        return False
    if verdict == "bench":
        fact = f"finding.{finding.check}"
        bases = {s.key for s in view.family.step if s.mends and any(c.fact == fact for c in s.when)}
        bases |= {s.key for s in view.family.step if (s.each or "").startswith(fact)}
        mending = [s for s in view.steps if s.step.base in bases]
        return not mending or any(s.work is None for s in mending)
    return True


def test_name(key: str) -> str:
    """The name of a test by its step's key: "Play-test", "Blow through"."""
    return "Play-test" if key == "play" else key.replace("_", " ").capitalize()


def open_findings(view: JobView) -> list[Finding]:
    """Findings that stand in the way of ready."""
    return [f for f in view.findings.values() if finding_open(view, f)]


def _findings(view: JobView) -> ReleaseCondition:
    names = {c.key: c.name for c in view.family.check}
    problems = [ReleaseProblem("check_not_done", c.name) for c in view.needed if c.key not in view.findings]
    for finding in open_findings(view):
        verdict = finding.overruled or finding.verdict or "measure again"
        problems.append(ReleaseProblem("finding", names.get(finding.check, test_name(finding.check)).lower(), verdict))
    return ReleaseCondition("findings", tuple(problems))


def _tests(view: JobView) -> ReleaseCondition:
    tests = [s for s in view.steps if s.step.kind == "test"]
    changes = [s.work.at for s in view.steps if s.step.changes and s.work is not None and s.work.state == "done"]
    last_change = max(changes, default=None)
    problems = []
    for test in tests:
        if test.work is None or test.work.state != "done":
            problems.append(ReleaseProblem("not_tested"))
        elif last_change is not None and test.work.at < last_change:
            problems.append(ReleaseProblem("changed_since"))
    return ReleaseCondition("tests", tuple(problems))


def _strings(view: JobView) -> list[ReleaseCondition]:
    """New strings hold for a renter's first day, by the forecast, or somebody has accepted that they may not."""
    if not has_new_strings(view):
        return []
    problems: tuple[ReleaseProblem, ...] = ()
    if first_retunes_open(view):
        problems = (ReleaseProblem("not_retuned"),)
    elif not accepted(view):
        ahead = ahead_of(view)
        if ahead is not None and not ahead.surely_holds:
            day = ahead.first_day
            range_ = f"{number(day.low, 0)} to {number(day.high, 0)}"
            problems = (ReleaseProblem("drifts", range_, count=round(100 * ahead.holds)),)
    return [ReleaseCondition("strings", problems)]


def _dry(view: JobView, parts: Mapping[str, PartState]) -> ReleaseCondition:
    waits = [w for w in view.waits if w.key != ACCLIMATISING and not settles(w.key)]  # they have their own
    running = [w for w in waits if w.wet or not w.contact.may_end]
    problems = [ReleaseProblem("still_runs", w.name) for w in running]
    problems += [ReleaseProblem("not_dry_by_weight", w.name) for w in waits if w.damp and w not in running]
    wet = [p.name for p in view.family.part if not p.own and parts[p.key].there and parts[p.key].wet]
    if not problems and wet:
        problems = [ReleaseProblem("still_wet", names=tuple(wet))]
    return ReleaseCondition("dry", tuple(problems))


FEW = 3
"""How many problems are named; the others are counted."""


def _mouth(view: JobView, now: Mapping[str, PartState]) -> ReleaseCondition:
    """What touches a mouth was disinfected, or cleaned as the house rule has it, after the last breath through it."""
    enough = ENOUGH if view.job.policies.get("sanitising") in ("spray", "soap") else ENOUGH[-1:]
    parts = [p for p in view.family.part if not p.own and now[p.key].there]
    problems = [ReleaseProblem("blown", p.name) for p in parts if now[p.key].mouthed]
    for part in (p for p in parts if p.key in MOUTH_PARTS and not now[p.key].mouthed):
        state = now[part.key]
        if state.soiled:
            problems.append(ReleaseProblem("touched", part.name, state.soiled))
        elif state.level not in enough:
            problems.append(ReleaseProblem("not_clean", part.name, state.level))
    disinfected, name = _disinfected(view)
    at = disinfected.at if disinfected else None
    return ReleaseCondition("mouth", tuple(problems[:FEW]), name, at)


ENOUGH = ("washed", "disinfected")
"""How clean what touches a mouth must be; washed is enough only where the house rule stops there."""


def _bow(parts: Mapping[str, PartState]) -> list[ReleaseCondition]:
    state = parts.get(BOW)
    if state is None or not state.there:
        return []
    problems = (ReleaseProblem("tight"),) if state.tight else ()
    return [ReleaseCondition("bow", problems)]


def _rosin(view: JobView, parts: Mapping[str, PartState]) -> list[ReleaseCondition]:
    """No rosin is left on what a bow was drawn over."""
    if view.family.find_part(BOW) is None or view.family.find_part("strings") is None:
        return []
    left = tuple(p.name for p in view.family.part if parts[p.key].there and parts[p.key].rosin)
    return [ReleaseCondition("rosin", (ReleaseProblem("rosin", names=left),) if left else ())]


def _case(view: JobView) -> ReleaseCondition:
    pack = next((s for s in view.steps if s.step.kind == "pack"), None)
    packed = pack is not None and pack.work is not None and pack.work.data.get("closes")
    return ReleaseCondition("case", () if packed else (ReleaseProblem("not_packed"),))


def _quarantine(view: JobView) -> ReleaseCondition:
    return ReleaseCondition("free", (ReleaseProblem("stands", view.stands),) if view.stands else ())


def obstacles(view: JobView, now: datetime) -> list[ReleaseProblem]:
    """Obstacles that no step of the job removes by itself.

    A safety part that is on its way does not: the plan waits for it.
    """
    found = [ReleaseProblem("stands", view.stands)] if view.stands else []
    coming = {p.item for p in view.parts if p.at > now}
    found += [ReleaseProblem("missing", name) for name in _missing_safety(view, coming)]
    checks = {c.key: c for c in view.family.check}
    for finding in open_findings(view):
        verdict, check = finding.overruled or finding.verdict, checks.get(finding.check)
        name = (check.name if check is not None else test_name(finding.check)).lower()
        if verdict == "specialist" and not view.job.waiting_for:
            found.append(ReleaseProblem("specialist", name, check.trade if check is not None else "specialist"))
        elif verdict == "retire":
            found.append(ReleaseProblem("replace", name))
    return found


def condition_rows(view: JobView) -> list[dict[str, Any]]:
    """The instrument's measured condition, to be kept with the hire it goes out on."""
    rows = []
    gone = given_up(view)
    for check in view.family.check:
        finding = view.findings.get(check.key)
        if finding is None or check.part in gone:  # what was looked at then was thrown away
            continue
        mean = measured(finding)
        value = None if mean is None else mean.value
        rows.append(
            {
                "check": check.key, "name": check.name, "value": value, "unit": check.unit,
                "band": "green" if finding.closed else finding.band, "words": finding.closed or finding.reason,
            }
        )  # fmt: skip
    return rows


def make_ready(shop: Shop, job_id: int) -> dict[str, Any]:
    """Close the job as ready and keep what the tag says.

    Returns:
        The facts of the tag, for :mod:`creekbed.papers.tag`.

    Raises:
        Refused: a condition does not hold; the message names all that do not.
    """
    with shop.act("ready") as act:
        view = need_job(shop, act.records, job_id, act.now)
        missing = [line for line in release_check(view) if not line.holds]
        if missing:
            raise Refused(
                f"{view.tag} is not ready: "
                + ". ".join(f"{NAMES[m.key]}: {condition_words(m)}" for m in missing)
                + ".",
                todo="Mend what is named.",
                conditions=[m.key for m in missing],
            )
        facts = tag_facts_in(act.records, shop, view)
        marks = [m for m in act.records.all_of(Mark, tag=view.tag) if m.status != "repaired"]
        facts["condition"] = condition_rows(view)
        pieces = pieces_to_pack(view)
        facts["pieces"], facts["renewed"] = [p.key for p in pieces], [p.key for p in pieces if p.new]
        facts["marks"] = [{"zone": m.zone, "kind": m.kind, "size_mm": m.size_mm} for m in marks]
        act.records.update(view.job, state="ready", ready_at=act.now)
        for held in act.records.all_of(InHand, job_id=job_id):
            act.records.remove(held)
        act.records.add(TagPrint(job_id=job_id, at=act.now, person=shop.person, facts=facts))
        act.tag, act.words = view.tag, f"{view.tag} is ready"
        return facts


def tag_facts(shop: Shop, view: JobView) -> dict[str, Any]:
    """What a ready tag says, as plain values."""
    with shop.reading() as records:
        return tag_facts_in(records, shop, view)


def tag_facts_in(records: Reader, shop: Shop, view: JobView) -> dict[str, Any]:
    """As :func:`tag_facts`, from records that are open already."""
    supplies = shop.catalogue.supplies
    new_parts = [i.name for i in view.family.item if view.lines.get(i.key) and view.lines[i.key].state == "replaced"]
    for step in view.steps:
        if step.work is not None and step.work.state == "done" and step.step.stage == "fit_out":
            new_parts += [supplies[k].name for k, _ in step.step.supplies if supplies[k].unit == "pieces"]
    disinfected, part = _disinfected(view)
    noted = (w.data.get("policy", w.data.get(NOTED_BEFORE)) for w in view.all_work)
    policies = sorted({str(words) for words in noted if words})
    without = [i.name for i in view.family.item if view.lines.get(i.key) and view.lines[i.key].state == "waived"]
    return {
        "tag": view.tag,
        "family": view.family.name,
        "size": view.family.size_words(view.instrument.size),
        "ready_at": shop.now.isoformat(),
        "person": shop.person,
        "departure": view.departure.name if view.departure else "",
        "leaves_at": view.departure.leaves_at.isoformat() if view.departure else "",
        "next_group": view.job.next_group,
        "disinfected_at": disinfected.at.isoformat() if disinfected else "",
        "disinfected_part": part,
        "played_at": _done_at(view, "play"),
        "aired_at": _done_at(view, "after_air"),
        "wiped_at": _done_at(view, "after_rosin") or _done_at(view, "after_wipe"),
        "disinfections": disinfections_in(records, shop, view.job.id),
        "policies": policies,
        "new_parts": new_parts,
        "without": without,
        "surplus": list(view.surplus),
    }


def _done_at(view: JobView, key: str) -> str:
    step = view.step(key)
    return step.work.at.isoformat() if step is not None and step.work is not None and step.work.state == "done" else ""


def disinfections(shop: Shop, job_id: int) -> list[dict[str, Any]]:
    """What was disinfected in a job, as plain values, in the order in which it was done."""
    with shop.reading() as records:
        return disinfections_in(records, shop, job_id)


def disinfections_in(records: Reader, shop: Shop, job_id: int) -> list[dict[str, Any]]:
    """As :func:`disinfections`, from records that are open already."""
    return [
        {
            "part": r.part, "agent": _agent_name(shop, r.agent), "lot": r.lot, "strength_pct": r.strength_pct,
            "began_at": r.began_at.isoformat(), "ended_at": r.ended_at.isoformat(), "required_min": r.required_min,
            "wet_min": r.wet_min, "restarts": r.restarts, "over_min": r.over_min, "person": r.person,
        }
        for r in records.jobs.disinfections(job_id)
    ]  # fmt: skip


def _agent_name(shop: Shop, key: str) -> str:
    agent = shop.catalogue.agents.get(key)
    return agent.name.partition(",")[0] if agent is not None else key


def _disinfected(view: JobView) -> tuple[StepRecord | None, str]:
    """The work that ended the last contact time of what touches the mouth, and the name of that part."""
    last: tuple[StepRecord | None, str] = None, ""
    for wetted in view.steps:
        s = wetted.step
        if s.part not in MOUTH_PARTS or s.wait is None or not s.wait.wet:
            continue
        ended = next((e.work for e in view.steps if e.step.ends == s.key and e.work is not None), None)
        part = view.family.find_part(s.part)
        if ended is not None and ended.state == "done" and part is not None:
            last = ended, part.name
    return last


MOUTH_PARTS = ("mouthpiece", "lip_plate")
