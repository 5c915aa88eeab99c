"""Which tool a step opens, and what else belongs to it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from creekbed.window.job.step_card import StepContext
from creekbed.words.phrases import listed
from creekbed.workshop.bench import batch
from creekbed.workshop.bench.job_view import JobView, StepView
from creekbed.workshop.bench.tuning import wants_tuning
from creekbed.workshop.cleaning import hand_washing, trays
from creekbed.workshop.inspection.playing import wants_playing

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


def tool_of(view: JobView, step: StepView) -> str:
    """Key of the tool that helps with a step, or ""."""
    if view.family.stringed is not None and step.step.base == "string_on":
        return "strings"
    if wants_tuning(view, step):
        return "tuning"
    if wants_playing(view, step):
        return "playing"
    plain = next((s for s in view.family.step if s.key == step.step.base), None)
    if plain is not None and plain.bath_l is not None:
        return "bath"
    if step.step.kind == "apart" and trays.has_trays(view):
        return "tray"
    if step.step.base == "piston_jar":
        return "jar"
    if step.step.path is not None and step.step.part:
        return "cloths"
    return "agents" if step.step.agents and step.step.part else ""


WORDS = {
    "tray": "Tray label",
    "bath": "The bath",
    "jar": "The jar",
    "cloths": "Which cloth",
    "agents": "What it bears",
    "strings": "Which string",
    "tuning": "Tune by ear",
    "playing": "Play it to the microphone",
}


def beside(frame: Frame, view: JobView, step: StepView) -> StepContext:
    """Tool, others, tray and hands of a step."""
    key = tool_of(view, step)
    others = batch.alike(frame.shop, frame.records.views, frame.records.waits, view, step)
    tags = listed([o.tag for o in others])
    tray = ""
    if step.step.kind in ("apart", "together") or step.step.part == "valves":
        letter = trays.tray_of(frame.shop, view)
        tray = f"{letter}: small parts of {view.tag} only, valves in their order" if letter else ""
    words = hand_washing.hands_words(frame.shop, frame.records.views, step)
    return StepContext(WORDS.get(key, ""), f"Done, also for {tags}" if others else "", tray, words)


def open_for(frame: Frame, job_id: int, key: str) -> None:
    """Open the tool of a step, filled in."""
    view = frame.records.job(job_id)
    step = view.step(key) if view is not None else None
    if view is None or step is None:
        return
    tool = tool_of(view, step)
    if not tool:
        return
    if tool == "tray":
        frame.papers.save_tray(trays.tray_of(frame.shop, view), view.tag, view.family.name)
        return
    frame.nav.open_tool(tool)
    page = frame.page(tool)
    if tool == "strings":
        page.start_for(view)
    elif tool in ("bath", "tuning", "playing"):
        page.start_for(view, step)
    elif tool in ("cloths", "agents") and step.step.part:
        page.start_at(view.family.key, step.step.part)
