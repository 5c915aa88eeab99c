"""Staff of the day: who is here, who leaves, who is new."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtWidgets import QWidget

from creekbed.window.frame.sitting import seat_key
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import Flow, button, clear, label, row
from creekbed.workshop.bench.bench_view import PersonQueue
from creekbed.workshop.shop import staff


class Hands(QWidget):
    """The people of the day, with what can be said about each.

    Attributes:
        head: what stands above, in the box of the page.
    """

    def __init__(self, page: Page):
        super().__init__()
        self.page = page
        self.flow = Flow()
        self.setLayout(self.flow)
        new = button("New person", self._new, "quiet", "new_hands")
        room_hours = button("Places and hours …", self._room, "quiet", "room_hours")
        self.head = row(label("Staff", "name", wrap=False), None, new, room_hours)

    def show_queues(self, queues: Sequence[PersonQueue]) -> None:
        """Show who is here, and who could be."""
        clear(self.flow)
        for queue in queues:
            who = f"{queue.person}, helper" if queue.helper else queue.person
            if queue.here:
                act = button(f"{who} leaves", partial(self._leave, queue.person), "", f"leave_{queue.person}")
            else:
                act = button(f"{who} is here", partial(self._back, queue.person), "", f"back_{queue.person}")
            self.flow.addWidget(act)
            if queue.here and queue.person != self.page.shop.person:
                key = seat_key(self.page.frame, queue.person)
                words = f"{queue.person} sits here{f'   {key}' if key and theme.current.scale < 1.3 else ''}"
                sits = button(words, partial(self.page.frame.sit_down, queue.person), "quiet", f"sits_{queue.person}")
                self.flow.addWidget(sits)

    def _leave(self, person: str) -> None:
        self.page.do(lambda: staff.goes_home(self.page.shop, person))

    def _back(self, person: str) -> None:
        self.page.do(lambda: staff.is_back(self.page.shop, person))

    def _room(self) -> None:
        from creekbed.window.shop.capacity_dialog import RoomDialog

        dialog = RoomDialog(self.page)
        if self.page.open_dialog(dialog) and dialog.told:
            self.page.frame.refresh()
            self.page.frame.say(f"Kept: {', '.join(dialog.told)}.")

    def _new(self) -> None:
        answer = self.page.ask_choice(
            "Who is it?",
            "Initials, and hours if not the shop's, such as “TO 13-17”. A helper does what needs no technician.",
            choices=(("technician", "Technician"), ("helper", "Helper")), least=1,
        )  # fmt: skip
        if answer is not None:
            self.page.do(lambda: staff.add_worker(self.page.shop, answer[1], helper=answer[0] == "helper"))
