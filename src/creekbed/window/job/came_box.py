"""How an instrument came: in one piece, in pieces, or partly joined. What is looked at when follows from it."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QVBoxLayout, QWidget

from creekbed.core.procedure.situation import asked_joints
from creekbed.window.shared.widgets import Flow, button, clear, label, row
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench.job_view import JobView

if TYPE_CHECKING:
    from creekbed.window.job.job_page import JobPage


class CameBox(QWidget):
    """Asked once, when the case is opened."""

    def __init__(self, page: JobPage):
        super().__init__()
        self.page = page
        self.view: JobView | None = None
        self._asked: list[str] = []
        self._part_by_part = False
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        self.ways = {
            "joined": button("In one piece", lambda: self._came(self._asked), "", "came_joined"),
            "pieces": button("In pieces", lambda: self._came([]), "", "came_pieces"),
            "partly": button("Partly …", self._partly, "", "came_partly"),
        }
        for way in self.ways.values():
            way.setCheckable(True)
        box.addWidget(label("How did it come?", "name"))
        box.addLayout(row(*self.ways.values(), None))
        self.joints, self.flow = QWidget(), Flow(6)
        self.joints.setLayout(self.flow)
        box.addWidget(self.joints)

    def show_job(self, view: JobView) -> None:
        """Ask about this job, where its case is being opened and it has joints to ask about."""
        if self.view is None or self.view.job.id != view.job.id:
            self._part_by_part = False
        self.view = view
        joints, joined = asked_joints(view.family), view.job.joined
        self._asked = [j.key for j in joints]
        contents = view.step("contents")
        opening = contents is not None and contents.work is None and not self._new
        self.setVisible(bool(joints) and opening)
        partly = self._part_by_part or (joined is not None and 0 < len(joined) < len(joints))
        said = {
            "joined": joined is not None and len(joined) == len(joints) and not partly,
            "pieces": joined == [] and not partly, "partly": partly,
        }  # fmt: skip
        for name, way in self.ways.items():
            way.setChecked(said[name])
        self.ways["partly"].setVisible(len(joints) > 1)
        self.joints.setVisible(partly)
        clear(self.flow)
        names = {p.key: p.name for p in view.family.part}
        for joint in joints if partly else ():
            words = f"{names[joint.piece]} on {joint.of}"
            tick = button(words[:1].upper() + words[1:], partial(self._turn, joint.key), "", f"on_{joint.key}")
            tick.setCheckable(True)
            tick.setChecked(joint.key in (joined or []))
            self.flow.addWidget(tick)

    @property
    def unsaid(self) -> bool:
        """Whether somebody must still say it."""
        return self.view is not None and bool(self._asked) and self.view.job.joined is None and not self._new

    @property
    def _new(self) -> bool:
        return self.view is not None and self.view.job.renter == "new_stock"

    def _came(self, joined: Sequence[str]) -> None:
        self._part_by_part = False
        self._say(joined)

    def _partly(self) -> None:
        self._part_by_part = True
        if self.view is not None:
            self.show_job(self.view)

    def _turn(self, joint: str) -> None:
        now = set(self.view.job.joined or []) if self.view is not None else set()
        self._say(sorted(now ^ {joint}))

    def _say(self, joined: Sequence[str]) -> None:
        if self.view is not None:
            job = self.view.job.id
            self.page.do(lambda: intake.came(self.page.shop, job, joined))
