"""House rules: which policy the shop follows, with the effect shown first; own values; how the window looks."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from creekbed.core.catalogue.models.base import MARK_WORDS
from creekbed.core.catalogue.models.policies import Choice, Topic
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import Flow, button, card, clear, focus_name, label, refocus, restyle, row, scroll
from creekbed.workshop.shop import bench_capacity, own_values, policies

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


SHOP = "for everybody"
"""The rules of the shop itself, in the list of those who may ask for others."""


class HousePage(Page):
    """One card for each topic that has more than one answer."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.preview: dict[str, str] = {}
        self.group: str | None = None
        """Whose rules are shown; "" for all, ``None`` until something was on show."""
        self.cards: dict[str, QWidget] = {}
        box = QHBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP * 2)
        inner = QWidget()
        self.topics = QVBoxLayout(inner)
        self.topics.setContentsMargins(0, 0, 8, 0)
        self.topics.setSpacing(theme.STEP)
        left = QVBoxLayout()
        left.setSpacing(theme.STEP)
        self.pick = QComboBox()
        self.pick.setAccessibleName("Which families")
        self.pick.setObjectName("which_families")
        self.pick.activated.connect(self._group_chosen)
        self.whose = QComboBox()
        self.whose.setAccessibleName("For whom")
        self.whose.setObjectName("for_whom")
        self.whose.activated.connect(self._whose_chosen)
        self.who = ""
        """The group or teacher whose wishes are shown; "": the shop."""
        left.addLayout(row(label("House rules", "title", wrap=False), self.whose, self.pick))
        self.area = scroll(inner)
        left.addWidget(self.area, 1)
        box.addLayout(left, 68)
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
        right.addSpacing(theme.STEP * 2)
        right.addWidget(label("This shop", "name"))
        self.files = label("")
        right.addWidget(self.files)
        right.addLayout(
            row(button("Our own values, in the reference", lambda: frame.nav.open_book("", "own"), "", "to_own"), None)
        )
        flow, holder = Flow(6), QWidget()
        holder.setLayout(flow)
        for words, way, name in (
            ("Name and paper", self._identity, "to_identity"), ("Bring a list", frame.nav.open_bring, "to_bring"),
            ("Days and departures", frame.nav.open_days, "to_days"), ("Devices", frame.nav.open_devices, "to_devices"),
            ("Backups", frame.nav.open_kept, "house_to_kept"),
        ):  # fmt: skip
            flow.addWidget(button(words, way, "", name))
        right.addWidget(holder)
        right.addStretch(1)
        right.addWidget(label("A change counts for jobs booked in from then on; open jobs keep theirs.", tone="muted"))
        box.addWidget(scroll(frame_right), 32)

    def _identity(self) -> None:
        from creekbed.window.shop.identity_dialog import IdentityDialog

        self.open_dialog(IdentityDialog(self))

    def start(self, topic: str = "") -> None:
        """Open the page, at a topic where one is given."""
        found = self.shop.catalogue.topics.get(topic)
        if found is not None:
            self.group = self.shop.catalogue.families_of(found)[0].group
        self.refresh()
        if topic in self.cards:
            QTimer.singleShot(0, lambda: self._scroll_to(topic))

    def _scroll_to(self, topic: str) -> None:
        """Bring a topic's card to the top; its place is known once the page is laid out."""
        if topic in self.cards:
            self.area.verticalScrollBar().setValue(self.cards[topic].y())

    def _fill_groups(self) -> None:
        groups = self.shop.catalogue.groups()
        self.pick.clear()
        for group, members in groups.items():
            names = [f.name for f in members]
            self.pick.addItem(" · ".join(names[:2]) + (" …" if len(names) > 2 else ""), group)
        self.pick.addItem("All families", "")
        if self.group not in ("", *groups):
            self.group = next(iter(groups))
        self.pick.setCurrentIndex(self.pick.findData(self.group))

    def _group_chosen(self, at: int) -> None:
        self.group = self.pick.itemData(at)
        self.refresh()

    def _fill_whose(self) -> None:
        self.whose.clear()
        self.whose.addItem(SHOP, "")
        for name in policies.groups(self.shop):
            self.whose.addItem(f"as {name} asks", name)
        self.whose.addItem("somebody else asks …", None)
        if self.who and self.whose.findData(self.who) < 0:
            self.whose.addItem(f"as {self.who} asks", self.who)
        self.whose.setCurrentIndex(max(self.whose.findData(self.who), 0))

    def _whose_chosen(self, at: int) -> None:
        known: str | None = self.whose.itemData(at)
        if known is None:
            words = "Which group or teacher wants it otherwise? Hygiene is for all."
            known = self.ask("Who asks?", words, ok="Show it")
        if known is not None:
            self.who, self.preview = known.strip(), {}
        self.refresh()

    def _show_files(self) -> None:
        """What the shop's own files hold, and which of them were refused."""
        problems = self.shop.catalogue.problems
        own = len(own_values.own_entries(self.shop.catalogue))
        room_hours = bench_capacity.own(self.shop)
        words = [f"{own} entries changed by this shop."] if own else []
        words += [f"Places and hours of this shop: {', '.join(room_hours)}."] if room_hours else []
        words = words or ["Everything as it ships."]
        words += [f"Refused: {p.happened}" for p in problems]
        self.files.setText("\n".join(words))
        restyle(self.files, tone="warn" if problems else "")

    def refresh(self) -> None:
        focused = focus_name(self)
        clear(self.topics)
        self._fill_groups()
        self._fill_whose()
        now = policies.chosen(self.shop) | policies.asks(self.shop).get(self.who, {})
        self.cards = {}
        for topic in self.shop.catalogue.topics.values():
            if self.who and topic.hygiene:
                continue
            if any(f.group == self.group for f in self.shop.catalogue.families_of(topic)) or not self.group:
                self.cards[topic.key] = self._topic(topic, now[topic.key])
                self.topics.addWidget(self.cards[topic.key])
        self.topics.addStretch(1)
        self._show_files()
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
                words, partial(self.frame.change_theme, **change), "", f"theme_{words.lower().replace(' ', '_')}"
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
            mark = f" (as {self.who} asks)" if self.who else " (house rule)"
            words = choice.name + (mark if choice.key == now else "")
            pick = button(words, partial(self._show, topic.key, choice.key), "", f"{topic.key}_{choice.key}")
            pick.setCheckable(True)
            pick.setChecked(choice.key == shown)
            flow.addWidget(pick)
        box.addWidget(holder)
        picked: Choice = topic.pick(shown)
        box.addWidget(label(f"{picked.reason} ({MARK_WORDS[picked.mark]})"))
        if shown != now:
            effect = policies.effect(self.shop, topic.key, shown)
            box.addWidget(label("\n".join(self._effect_words(effect)), tone="muted"))
            box.addLayout(
                row(
                    button(
                        f"As {self.who} asks" if self.who else "Make it the house rule",
                        lambda: self._choose(topic.key, shown), "primary", "choose_it",
                    ),
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

    def _effect_words(self, effect: policies.PolicyEffect) -> list[str]:
        """What would change, line by line: steps, order, minutes, supplies, what is due."""
        d = effect.difference
        words = [f"On a job: {effect.job}"]
        words += [f"Before: {x}" for x in d.before] + [f"Then: {x}" for x in d.after] + list(d.moved)
        words += [f"Due: {x}" for x in d.due]
        for item, amount in d.supplies.items():
            supply = self.shop.catalogue.supplies[item]
            words.append(f"{supply.name}: {amount:+g} {supply.unit}".replace("-", "−"))
        minutes = f"{d.minutes:+.1f} min of hands" if d.minutes else "no change in time of hands"
        waits = f", {d.wait_minutes:+g} min of waits" if d.wait_minutes else ""
        return [*words, (minutes + waits).replace("-", "−")]

    def _show(self, topic: str, choice: str) -> None:
        self.preview[topic] = choice
        self.refresh()

    def _choose(self, topic: str, choice: str) -> None:
        self.preview.pop(topic, None)
        if self.who:
            house = policies.chosen(self.shop)[topic]
            self.do(lambda: policies.ask(self.shop, self.who, topic, "" if choice == house else choice))
        else:
            self.do(lambda: policies.choose_policy(self.shop, topic, choice))
