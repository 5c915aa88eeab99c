"""House rules: which school the shop follows, with the effect shown first; and how the window looks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from creekbed.core.catalogue.models import MARK_WORDS, Choice, Topic
from creekbed.window import theme
from creekbed.window.page import Page
from creekbed.window.widgets import Flow, button, card, clear, focus_name, label, refocus, row, scroll
from creekbed.workshop import schools

if TYPE_CHECKING:
    from creekbed.window.frame import Frame


class HousePage(Page):
    """One card for each topic that has more than one answer."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.preview: dict[str, str] = {}
        box = QHBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP * 2)
        inner = QWidget()
        self.topics = QVBoxLayout(inner)
        self.topics.setContentsMargins(0, 0, 8, 0)
        self.topics.setSpacing(theme.STEP)
        box.addWidget(scroll(inner), 68)
        frame_right, right = card(margin=20)
        right.addWidget(label("This window", "name"))
        right.addWidget(label("Light", "small"))
        self.look = QHBoxLayout()
        right.addLayout(self.look)
        right.addWidget(label("Targets", "small"))
        self.targets = QHBoxLayout()
        right.addLayout(self.targets)
        right.addWidget(label("Text size", "small"))
        self.sizes = QHBoxLayout()
        right.addLayout(self.sizes)
        right.addStretch(1)
        right.addWidget(
            label("A change of school counts for jobs booked in from then on; open jobs keep theirs.", tone="muted")
        )
        box.addWidget(scroll(frame_right), 32)

    def refresh(self) -> None:
        focused = focus_name(self)
        clear(self.topics)
        self.topics.addWidget(label("House rules: where practitioners disagree", "title"))
        now = schools.chosen(self.shop)
        for topic in self.shop.catalogue.topics.values():
            if len(topic.choice) > 1:
                self.topics.addWidget(self._topic(topic, now[topic.key]))
        self.topics.addStretch(1)
        refocus(self, focused)
        t = theme.current
        self._switch(self.look, (("Day", not t.dark, {"dark": False}), ("Bench lamp", t.dark, {"dark": True})))
        self._switch(
            self.targets, (("Bare hands", not t.gloves, {"gloves": False}), ("Gloves", t.gloves, {"gloves": True}))
        )
        self._switch(
            self.sizes, tuple((f"{round(s * 100)} %", abs(t.scale - s) < 0.01, {"scale": s}) for s in (1.0, 1.25, 1.5))
        )

    def _switch(self, box: QHBoxLayout, choices: tuple[tuple[str, bool, dict[str, object]], ...]) -> None:
        clear(box)
        for words, on, change in choices:
            pick = button(
                words, lambda c=change: self.frame.change_theme(**c), "", f"theme_{words.lower().replace(' ', '_')}"
            )
            pick.setCheckable(True)
            pick.setChecked(on)
            box.addWidget(pick)
        box.addStretch(1)

    def _topic(self, topic: Topic, now: str) -> QWidget:
        frame, box = card()
        box.addWidget(label(topic.name, "name"))
        shown = self.preview.get(topic.key, now)
        holder = QWidget()
        flow = Flow()
        holder.setLayout(flow)
        for choice in topic.choice:
            words = choice.name + (" (house rule)" if choice.key == now else "")
            pick = button(words, lambda t=topic.key, c=choice.key: self._show(t, c), "", f"{topic.key}_{choice.key}")
            pick.setCheckable(True)
            pick.setChecked(choice.key == shown)
            flow.addWidget(pick)
        box.addWidget(holder)
        picked: Choice = topic.pick(shown)
        box.addWidget(label(f"{picked.reason} ({MARK_WORDS[picked.mark]})"))
        if shown != now:
            effect = schools.effect(self.shop, topic.key, shown)
            lines = [f"Before: {x}" for x in effect.before] + [f"Then: {x}" for x in effect.after]
            minutes = (
                f"{effect.minutes:+.1f} min of hands on each job".replace("-", "−")
                if effect.minutes
                else "no change in time"
            )
            box.addWidget(label("\n".join([*lines, minutes]), tone="muted"))
            box.addLayout(
                row(
                    button("Make it the house rule", lambda: self._choose(topic.key, shown), "primary", "choose_it"),
                    button("Leave it", lambda: self._show(topic.key, now), "", f"leave_{topic.key}"), None,
                )
            )  # fmt: skip
        else:
            default = (
                "This is the default: "
                if now == topic.default
                else f"The default is “{topic.pick(topic.default).name.lower()}”: "
            )
            box.addWidget(label(f"{default}{topic.default_why}", tone="muted"))
        return frame

    def _show(self, topic: str, choice: str) -> None:
        self.preview[topic] = choice
        self.refresh()

    def _choose(self, topic: str, choice: str) -> None:
        self.preview.pop(topic, None)
        self.do(lambda: schools.choose_school(self.shop, topic, choice))
