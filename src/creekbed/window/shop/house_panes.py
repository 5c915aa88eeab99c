"""What stands beside the list of house rules: one topic with its answers, this window, this shop."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QVBoxLayout, QWidget

from creekbed.core.catalogue.models.base import MARK_WORDS
from creekbed.core.catalogue.models.policies import Choice, Topic
from creekbed.core.conventions import current, number, temperature
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import Flow, button, label, row
from creekbed.workshop.shop import bench_capacity, own_values, policies
from creekbed.workshop.shop.house_numbers import house_numbers
from creekbed.workshop.shop.identity import identity

if TYPE_CHECKING:
    from creekbed.window.shop.house_page import HousePage


def _pane() -> QVBoxLayout:
    box = QVBoxLayout()
    box.setContentsMargins(0, 0, 0, 0)
    box.setSpacing(theme.STEP)
    return box


class TopicPane(QWidget):
    """A topic: its answers, why each, and what the one that is looked at would change."""

    def __init__(self, page: HousePage, topic: Topic):
        super().__init__()
        box = _pane()
        self.setLayout(box)
        now = page.now[topic.key]
        shown = page.preview.get(topic.key, now)
        box.addWidget(label(topic.name, "title"))
        families = page.shop.catalogue.families_of(topic)
        box.addWidget(label("For: " + ", ".join(f.name for f in families), tone="muted"))
        holder, flow = QWidget(), Flow()
        holder.setLayout(flow)
        for choice in topic.choice:
            mark = f" (as {page.who} asks)" if page.who else " (house rule)"
            words = choice.name + (mark if choice.key == now else "")
            pick = button(words, partial(page.look_at, topic.key, choice.key), "", f"{topic.key}_{choice.key}")
            pick.setCheckable(True)
            pick.setChecked(choice.key == shown)
            flow.addWidget(pick)
        box.addWidget(holder)
        picked: Choice = topic.pick(shown)
        box.addWidget(label(f"{picked.reason} ({MARK_WORDS[picked.mark]})"))
        if shown == now:
            same, other = now == topic.default, topic.pick(topic.default).name.lower()
            default = "This is the default: " if same else f"The default is “{other}”: "
            box.addWidget(label(f"{default}{topic.default_why}", tone="muted"))
            return
        words = f"As {page.who} asks" if page.who else "Make it the house rule"
        take = button(words, lambda: page.take(topic.key, shown), "primary", "choose_it")
        leave = button("Leave it", lambda: page.look_at(topic.key, now), "", f"leave_{topic.key}")
        box.addLayout(row(take, leave, None))
        effect = policies.effect(page.shop, topic.key, shown)
        box.addWidget(label("What it would change", "name"))
        box.addWidget(label("\n".join(_effect_words(page, effect)), tone="muted"))


def _effect_words(page: HousePage, effect: policies.PolicyEffect) -> list[str]:
    """What would change, line by line: steps, order, minutes, supplies, what is due."""
    d = effect.difference
    words = [f"On a job: {effect.job}"]
    words += [f"Before: {x}" for x in d.before] + [f"Then: {x}" for x in d.after] + list(d.moved)
    words += [f"Due: {x}" for x in d.due]
    for item, amount in d.supplies.items():
        supply = page.shop.catalogue.supplies[item]
        words.append(f"{supply.name}: {amount:+g} {supply.unit}".replace("-", "−"))
    minutes = f"{d.minutes:+.1f} min of hands" if d.minutes else "no change in time of hands"
    waits = f", {d.wait_minutes:+g} min of waits" if d.wait_minutes else ""
    return [*words, (minutes + waits).replace("-", "−")]


class WindowPane(QWidget):
    """How this window looks: light, targets, text."""

    def __init__(self, page: HousePage):
        super().__init__()
        self.page = page
        self.box = _pane()
        self.setLayout(self.box)
        t = theme.current
        self.box.addWidget(label("This window", "title"))
        self._switch("Light", (("Day", not t.dark, {"dark": False}), ("Bench lamp", t.dark, {"dark": True})))
        self._switch(
            "Targets", (("Bare hands", not t.gloves, {"gloves": False}), ("Gloves", t.gloves, {"gloves": True}))
        )
        sizes: tuple[tuple[str, bool, dict[str, object]], ...] = tuple(
            (f"{round(s * 100)} %", abs(t.scale - s) < 0.01, {"scale": s}) for s in (1.0, 1.25, 1.5)
        )
        self._switch("Text size", sizes)

    def _switch(self, words: str, choices: tuple[tuple[str, bool, dict[str, object]], ...]) -> None:
        self.box.addWidget(label(words, "small"))
        line = row()
        for said, on, change in choices:
            name = f"theme_{said.lower().replace(' ', '_')}"
            pick = button(said, partial(self.page.frame.change_theme, **change), "", name)
            pick.setAccessibleName(f"{words}: {said}")
            pick.setCheckable(True)
            pick.setChecked(on)
            line.addWidget(pick)
        line.addStretch(1)
        self.box.addLayout(line)


class ShopPane(QWidget):
    """What this shop has said of itself, and the ways to change it."""

    def __init__(self, page: HousePage):
        super().__init__()
        self.page = page
        nav, box = page.frame.nav, _pane()
        self.setLayout(box)
        box.addWidget(label("This shop", "title"))
        known, home = identity(page.shop), page.frame.page("home")
        named = f"{known.name or 'no name yet'}, {known.paper}"
        self._line(box, "Name and paper", named, home.ask_identity, "to_identity")
        self._line(box, "Clock, money, units", self._formats_words(), home.ask_formats, "to_formats")
        own = len(own_values.own_entries(page.shop.catalogue))
        room_hours = bench_capacity.own(page.shop)
        self._line(box, "Places and hours", ", ".join(room_hours) or "as they ship", home.ask_hours, "to_hours")
        self._line(box, "Days and departures", "how instruments leave, days off, seasons", nav.open_days, "to_days")
        ours = f"{own} entries changed by this shop" if own else "everything as it ships"
        self._line(box, "Our own values", f"{ours}; in the reference", lambda: nav.open_book("", "own"), "to_own")
        self._line(box, "Bring a list", "instruments, supplies, people from a file", nav.open_bring, "to_bring")
        self._line(box, "Devices", "scale, caliper, gauge, camera, scanner", nav.open_devices, "to_devices")
        self._line(
            box,
            "Codes to scan",
            "keys, pages, people and supplies on paper, for hands that are busy",
            self._codes,
            "to_codes",
        )
        self._line(box, "Backups", "copies of the records, and going back", nav.open_kept, "house_to_kept")
        problems = page.shop.catalogue.problems
        self.files = label("\n".join(f"Refused: {p.happened}" for p in problems), tone="warn")
        self.files.setVisible(bool(problems))
        box.addWidget(self.files)

    def _line(self, box: QVBoxLayout, name: str, words: str, way: Callable[[], object], key: str) -> None:
        texts = QVBoxLayout()
        texts.setSpacing(0)
        texts.addWidget(label(name, "small"))
        texts.addWidget(label(words, tone="muted"))
        line = row()
        line.addLayout(texts, 1)
        opens = button("Open", way, "", key)
        opens.setAccessibleName(f"Open: {name}")
        line.addWidget(opens)
        box.addLayout(line)

    def _codes(self) -> None:
        self.page.frame.papers.save_codes()

    def _formats_words(self) -> str:
        now, numbers = current(), house_numbers(self.page.shop)
        parts = (
            f"{now.hours} h", now.currency or "no currency", "US units" if now.units == "us" else "metric",
            f"A4 = {number(numbers.a4_hz)} Hz", f"room {temperature(numbers.room_c)}", now.zone.replace("_", " "),
        )  # fmt: skip
        return ", ".join(p for p in parts if p)
