"""Ways to the pages of a window."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame
    from creekbed.workshop.bench.schedule_view import ScheduledBar
    from creekbed.workshop.fleet.finding import Found


class Navigation:
    """Opens pages at what is asked for."""

    def __init__(self, frame: Frame):
        self.frame = frame

    def go_home(self) -> None:
        """The bench."""
        self.frame.go_to("home")
        self.frame.refresh(drawn=self.frame.planner.behind)

    def open_job(self, job_id: int, tab: str = "") -> None:
        """The page of an open job."""
        page = self.frame.go_to("job")
        self.frame.in_words(lambda: page.open(job_id, tab))

    def ask_what_failed(self, job_id: int, key: str) -> None:
        """Ask what failed in a test and record it; then the page of its checks."""
        from creekbed.workshop.bench import job_steps

        words = self.frame.page("home").ask(
            "The test failed", "What did you hear or feel? It becomes a finding.",
            ready=("a note does not speak", "it buzzes", "the neck swings"),
        )  # fmt: skip
        if words is not None and self.frame.do(lambda: job_steps.fail_test(self.frame.shop, job_id, key, words)):
            self.open_job(job_id, "look_over")

    def open_any_job(self, job_id: int) -> None:
        """The page of a job; its history when it is finished."""
        if self.frame.records.job(job_id) is not None:
            self.open_job(job_id)
            return
        for shipment in self.frame.home.shipments:
            for item in shipment.items:
                if item.job_id == job_id:
                    self.open_history(item.tag)

    def open_step(self, job_id: int, key: str) -> None:
        """Open the page for a step that needs more than one press."""
        view = self.frame.records.job(job_id)
        step = view.step(key) if view is not None else None
        kind = step.step.kind if step is not None else "do"
        if kind == "mix":
            self.frame.start_page("mix", job_id)
            return
        if kind == "send":
            self.open_job(job_id, "steps")
            self.frame.page("job").send(job_id)
            return
        self.open_job(job_id, {"contents": "case", "look": "look_over"}.get(kind, "steps"))
        if kind in ("retune", "pack"):
            self.frame.page("job").steps.choose(key)

    def open_book_in(self, tag: str = "") -> None:
        self.frame.start_page("book_in", tag)

    def open_instruments(self, text: str = "") -> None:
        """The whole fleet, with a search."""
        self.frame.start_page("instruments", text)

    def open_find(self, text: str = "") -> None:
        """One search for everything."""
        self.frame.start_page("find", text)

    def follow(self, found: Found) -> None:
        """Go to something that was found."""
        if found.kind == "job" and found.job_id is not None:
            self.open_job(found.job_id)
        elif found.kind in ("instrument", "job"):
            self.open_history(found.key)
        elif found.kind == "group":
            self.open_instruments(found.key)
        elif found.kind == "supply":
            self.open_stock(found.key)
        elif found.kind == "person":
            self.frame.sit_down(found.key)
        elif found.kind == "rule":
            self.open_house(found.key)
        elif found.kind == "family":
            self.open_book(found.key)
        elif found.kind in ("step", "reference"):
            self.open_book(found.family, found.section, found.key)
        else:
            self.open_page(found.key)

    def open_page(self, key: str) -> None:
        """A page or tool by its key."""
        opens: dict[str, Callable[[], object]] = {
            "home": self.go_home, "day": self.open_day, "book_in": self.open_book_in, "stock": self.open_stock,
            "instruments": self.open_instruments, "count": self.open_count, "house": self.open_house,
            "days": self.open_days, "bring": self.open_bring, "book": self.open_book, "journal": self.open_journal,
            "devices": self.open_devices, "kept": self.open_kept, "find": self.open_find,
        }  # fmt: skip
        if key.startswith("this_"):
            self.open_house(key)
        elif key in opens:
            opens[key]()
        else:
            self.open_tool(key)

    def open_stock(self, item: str = "") -> None:
        self.frame.start_page("stock", item)

    def open_count(self, item: str = "") -> None:
        """Count the shelf, at a supply where one is given."""
        self.frame.start_page("count", item)

    def open_mix(self) -> None:
        self.open_tool("mix")

    def open_tool(self, key: str) -> None:
        """A tool of the bench by the key of its page."""
        page = self.frame.go_to(key)
        page.start()
        page.setFocus()

    def open_tool_for(self, job_id: int, key: str) -> None:
        """The tool that a step wants, filled in."""
        from creekbed.window.tools.for_step import open_for

        open_for(self.frame, job_id, key)

    def open_case(self, job_id: int) -> None:
        """The thermometer in the case of a job."""
        self.open_tool("air")
        self.frame.page("air").start_at(job_id)

    def open_house(self, topic: str = "") -> None:
        self.frame.start_page("house", topic)

    def open_bring(self, kind: str = "instruments") -> None:
        """Bring a list from a file."""
        self.frame.start_page("bring", kind)

    def open_days(self, form: str = "way") -> None:
        """How instruments leave, days off, and seasons."""
        self.frame.start_page("days", form)

    def open_book(self, family: str = "", section: str = "", key: str = "") -> None:
        self.frame.start_page("book", family, section, key)

    def open_devices(self) -> None:
        self.frame.go_to("devices").refresh()

    def open_day(self) -> None:
        """The plan as one picture."""
        self.frame.start_page("day")

    def open_day_at(self, run: ScheduledBar) -> None:
        """The plan, at a stretch of work."""
        self.open_day()
        self.frame.page("day").schedule.choose(run)

    def open_help(self, departure_id: int) -> None:
        """The schedule, with remedies for the late jobs of a departure."""
        self.open_day()
        self.frame.page("day").help_departure(departure_id)

    def open_kept(self) -> None:
        """What is kept, and what there is to go back to."""
        self.frame.start_page("kept")

    def open_journal(self) -> None:
        self.frame.go_to("journal").refresh()

    def open_history(self, tag: str) -> None:
        self.frame.start_page("history", tag)

    def open_stage(self, stage: str) -> None:
        self.frame.start_page("list", stage)
