"""How the checks of a job stand, and closing a finding."""

from __future__ import annotations

from typing import TYPE_CHECKING

from creekbed.core.units import show
from creekbed.workshop.bench.job_situation import measured
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.inspection import findings as lookover
from creekbed.workshop.release.release_check import finding_open

if TYPE_CHECKING:
    from creekbed.window.job.job_page import JobPage


VERDICT_WORDS = {
    "ready": "Good to go", "bench": "Mend at the bench", "specialist": "Specialist", "retire": "Replace or retire",
}  # fmt: skip


LATER = {
    "apart": "when it lies apart", "joined": "while it is joined", "together": "when it is together again",
    "pitch": "when it is at pitch", "retuned": "when it was tuned",
}  # fmt: skip
"""When a check is made, by the look that asks it."""


def open_checks(view: JobView) -> list[str]:
    """Needed checks of the look that is open which are not done, or wait to be measured again."""
    found, look = view.findings, view.look
    return [
        c.key
        for c in (view.needed_at(look.step) if look is not None else ())
        if c.key not in found or (found[c.key].band == "again" and not found[c.key].overruled)
    ]


def check_line(view: JobView, key: str, name: str) -> tuple[str, bool]:
    """A check in the list: its name, its state, and whether somebody must act."""
    finding = view.findings.get(key)
    check = next((c for c in view.checks if c.key == key), None)
    if finding is None:
        asked = view.asked_at(key)
        if asked is not None and asked.work is None and asked is not view.look:
            return f"{name}\n{LATER[asks_of(view, asked)]}", False
        return (f"{name}\nwhere there is reason" if check is not None and check.optional else name), False
    if finding.closed:
        return f"{name}\nclosed", False
    if finding.band == "again" and not finding.overruled:
        return f"{name}\nmeasure again", True
    verdict = finding.overruled or finding.verdict
    mean = measured(finding)
    value = f"{show(mean.value, mean.unit)}, " if mean is not None else ""
    if verdict == "ready":
        return f"{name}\n{value}{'watch it' if finding.band == 'amber' else 'good'}", False
    return f"{name}\n{value}{VERDICT_WORDS.get(verdict, verdict).lower()}", finding_open(view, finding)


def asks_of(view: JobView, look: StepView) -> str:
    """In what state of the instrument a look asks."""
    return next(s.asks for s in view.family.step if s.key == look.step.base)


def state_of(view: JobView, key: str) -> tuple[object, ...]:
    """Everything a card shows of a finding; two equal states look the same."""
    f = view.findings.get(key)
    if f is None:
        return ()
    return (
        f.readings, f.choice, f.places, f.band, f.verdict, f.reason, f.overruled, f.overrule_reason, f.closed,
        finding_open(view, f),
    )  # fmt: skip


def close(page: JobPage, view: JobView, key: str) -> None:
    """Ask how a finding was closed, and close it."""
    how = page.ask(
        "Close this finding",
        "What was done, or why is it accepted as it is?",
        ready=("part replaced", "accepted as it is"),
    )
    if how is not None:
        page.do(lambda: lookover.close_finding(page.shop, view.job.id, key, how))
