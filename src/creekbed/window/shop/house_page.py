"""House rules: a list of topics to find and choose from, and beside it the one that is chosen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QListWidgetItem, QVBoxLayout, QWidget

from creekbed.core.catalogue.models.policies import Topic
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import Beside, card, clear, entry, focus_name, label, listing, refocus, scroll
from creekbed.window.shop.house_panes import ShopPane, TopicPane, WindowPane
from creekbed.workshop.shop import policies

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


SHOP = "for everybody"
"""The rules of the shop itself, in the list of those who may ask for others."""
WINDOW_PANE, SHOP_PANE = "this_window", "this_shop"
"""Keys of the two entries that are no topics; they stand first."""


class HousePage(Page):
    """Topics on the left, found as one types; the chosen one on the right, with what each answer would change."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.preview: dict[str, str] = {}
        """The choice that is looked at, by topic, where it is not the one that holds."""
        self.group = ""
        """Whose rules are listed; "" for all families."""
        self.who = ""
        """The group or teacher whose wishes are shown; "": the shop."""
        self.key = ""
        self.topics: list[str] = []
        """Keys of the topics that are listed."""
        box = QHBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        box.setSpacing(theme.STEP * 2)
        left = QVBoxLayout()
        left.setSpacing(theme.STEP)
        left.addWidget(label("House rules", "title", wrap=False))
        self.search = entry("find_rule", "Find a rule", "find: swab, pegs, drying …", self._first)
        self.search.textChanged.connect(lambda text: self._list())
        left.addWidget(self.search)
        self.pick, self.whose = self._combo("which_families", "Which families"), self._combo("for_whom", "For whom")
        self.pick.activated.connect(self._group_chosen)
        self.whose.activated.connect(self._whose_chosen)
        whose = Beside()
        whose.addWidget(self.pick, 1)
        whose.addWidget(self.whose, 1)
        left.addLayout(whose)
        self.list = listing("Topics")
        self.list.setObjectName("topics")
        self.list.currentItemChanged.connect(self._chosen)
        left.addWidget(self.list, 1)
        box.addLayout(left, 40)
        frame_right, right = card(margin=20)
        self.detail = QWidget()
        inner = QVBoxLayout(self.detail)
        inner.setContentsMargins(0, 0, 8, 0)
        self.area = scroll(self.detail)
        right.addWidget(self.area, 1)
        self.note = label("A change counts for jobs booked in from then on; open jobs keep theirs.", tone="muted")
        right.addWidget(self.note)
        box.addWidget(frame_right, 60)
        self.shop_pane: ShopPane | None = None
        self.topic_pane: TopicPane | None = None

    @staticmethod
    def _combo(name: str, said: str) -> QComboBox:
        found = QComboBox()
        found.setObjectName(name)
        found.setAccessibleName(said)
        found.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        found.setMinimumContentsLength(13)
        return found

    def start(self, topic: str = "") -> None:
        """Open the page, at a topic or entry where one is given."""
        if topic in self.shop.catalogue.topics or topic in (WINDOW_PANE, SHOP_PANE):
            self.group, self.who, self.key = "", "", topic
            self.search.clear()
        self.refresh()
        QTimer.singleShot(0, lambda: self.list.setFocus(Qt.FocusReason.OtherFocusReason))

    # --- the list --------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        focused = focus_name(self)
        self._fill_groups()
        self._fill_whose()
        self.now = policies.chosen(self.shop) | policies.asks(self.shop).get(self.who, {})
        self._list()
        refocus(self, focused)

    def _list(self) -> None:
        """List what fits the search; what was chosen stays chosen, else the first is."""
        words = self.search.text().lower().split()
        found = [(WINDOW_PANE, "This window", "light, targets, text size")] if not words else []
        found += [(SHOP_PANE, "This shop", "name, clock, money, units, days, devices, backups")] if not words else []
        fitting = [t for t in self.shop.catalogue.topics.values() if self._fits(t, words)]
        fitting.sort(key=lambda t: not all(word in t.name.lower() for word in words))  # named so come first
        found += [(t.key, t.name, t.pick(self.now[t.key]).name) for t in fitting]
        self.topics = [key for key, _, _ in found if key not in (WINDOW_PANE, SHOP_PANE)]
        self.list.blockSignals(True)
        self.list.clear()
        for key, name, below in found:
            item = QListWidgetItem(f"{name}\n{below}")
            item.setData(Qt.ItemDataRole.UserRole, key)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{name}: {below}")
            self.list.addItem(item)
        keys = [key for key, _, _ in found]
        wanted = self.key if self.key in keys else (self.topics or keys or [""])[0]
        if wanted:
            self.list.setCurrentRow(keys.index(wanted))
        self.list.blockSignals(False)
        self._show_detail(wanted)
        self.list.scrollToItem(self.list.currentItem())

    def _fits(self, topic: Topic, words: list[str]) -> bool:
        families = self.shop.catalogue.families_of(topic)
        if (self.who and topic.hygiene) or not (not self.group or any(f.group == self.group for f in families)):
            return False
        text = " ".join([topic.name, *(f.name for f in families), *(f"{c.name} {c.reason}" for c in topic.choice)])
        return all(word in text.lower() for word in words)

    def _first(self) -> None:
        """Return in the search: go to the first that was found."""
        self.list.setFocus(Qt.FocusReason.OtherFocusReason)

    def _chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self._show_detail(item.data(Qt.ItemDataRole.UserRole))

    def _fill_groups(self) -> None:
        groups = self.shop.catalogue.groups()
        self.pick.clear()
        self.pick.addItem("All families", "")
        for group, members in groups.items():
            names = [f.name for f in members]
            self.pick.addItem(" · ".join(names[:2]) + (" …" if len(names) > 2 else ""), group)
        if self.group not in groups:
            self.group = ""
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

    # --- what is chosen ---------------------------------------------------------------------------------------------

    def _show_detail(self, key: str) -> None:
        moved, self.key = key != self.key, key
        focused = focus_name(self.detail)
        inner = self.detail.layout()
        assert isinstance(inner, QVBoxLayout)
        clear(inner)
        self.shop_pane = self.topic_pane = None
        if key == WINDOW_PANE:
            inner.addWidget(WindowPane(self))
        elif key == SHOP_PANE:
            self.shop_pane = ShopPane(self)
            inner.addWidget(self.shop_pane)
        elif key:
            self.topic_pane = TopicPane(self, self.shop.catalogue.topics[key])
            inner.addWidget(self.topic_pane)
        else:
            inner.addWidget(label("No rule has these words. Try fewer of them.", tone="muted"))
        inner.addStretch(1)
        self.note.setVisible(self.topic_pane is not None)
        if moved:
            self.area.verticalScrollBar().setValue(0)
        refocus(self, focused)

    def look_at(self, topic: str, choice: str) -> None:
        """Show what a choice would change; nothing is kept."""
        self.preview[topic] = choice
        self.key = topic
        self._list()

    def take(self, topic: str, choice: str) -> None:
        """Make a choice the house rule, or note that a group asks for it."""
        self.preview.pop(topic, None)
        if self.who:
            house = policies.chosen(self.shop)[topic]
            self.do(lambda: policies.ask(self.shop, self.who, topic, "" if choice == house else choice))
        else:
            self.do(lambda: policies.choose_policy(self.shop, topic, choice))
