"""Booking in: scan or type a tag; an unknown one is made on the spot."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QDate, QDateTime, Qt, QTime
from PySide6.QtWidgets import QComboBox, QDateTimeEdit, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.surfaces import Question, questions
from creekbed.core.climate.acclimatise import acclimatise
from creekbed.core.climate.journey import arrives, is_journey, parse_legs
from creekbed.core.conventions import temperature
from creekbed.core.errors import CreekbedError
from creekbed.core.renters import RENTERS
from creekbed.core.units import parse_quantity
from creekbed.window.shared import theme
from creekbed.window.shared.page import Page
from creekbed.window.shared.widgets import Flow, button, card, clear, entry, label, row, scroll, tip
from creekbed.words.times import clock_words, in_words, span
from creekbed.workshop.arrival import instrument_materials as made_of
from creekbed.workshop.arrival import intake
from creekbed.workshop.arrival.scan import understand
from creekbed.workshop.shop.departures import add_departure, coming_departures, need_in_a_year

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame


SHOWN = 5
"""So many coming departures are offered."""


class BookInPage(Page):
    """Books in one instrument after another; departure and sender of the last one are kept for the next."""

    def __init__(self, frame: Frame):
        super().__init__(frame)
        self.departure_id: int | None = None
        self.due_at: datetime | None = None
        """A due time of its own, instead of a departure."""
        self.family = ""
        self.group_key = ""
        self.surfaces: list[tuple[Question, QComboBox]] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 8, 24, 8)
        outer, inner = card(margin=24)
        inner.addWidget(label("Book in what came back", "title"))
        columns = QHBoxLayout()
        columns.setSpacing(theme.STEP * 4)
        columns.addLayout(self._what(), 1)
        columns.addLayout(self._where_to(), 1)
        holder_all = QWidget()
        holder_all.setLayout(columns)
        columns.setContentsMargins(0, 0, 8, 0)
        inner.addWidget(scroll(holder_all), 1)
        self.go = button("Book in", self._book, "primary", "book_in", "F2")
        inner.addLayout(row(self.go, button("Book in, then the next one", self._book_more, "", "book_more"), None))
        box.addWidget(outer, 1)

    def _what(self) -> QVBoxLayout:
        """Which instrument it is, and who brought it."""
        left = QVBoxLayout()
        left.setSpacing(theme.STEP)
        self.tag = QLineEdit()
        self.tag.setObjectName("tag")
        self.tag.setAccessibleName("Tag")
        self.tag.setPlaceholderText("Scan it, or type V-12")
        self.tag.setMaxLength(16)
        self.tag.setFont(theme.current.font(24, True))
        self.tag.textChanged.connect(lambda text: self._look())
        self.tag.returnPressed.connect(self._next)
        left.addWidget(label("Tag", "small"))
        left.addWidget(self.tag)
        self.known = label("", tone="muted")
        left.addWidget(self.known)
        self.alone = button("Only a piece of it came back …", self._alone, "quiet", "part_alone")
        self.alone.hide()
        left.addWidget(self.alone)
        self.new = self._new_instrument()
        left.addWidget(self.new)
        self.came_from = QLineEdit()
        self.came_from.setAccessibleName("Back from, a code")
        self.came_from.setPlaceholderText("K-17, a code rather than a name")
        left.addWidget(label("Back from", "small"))
        left.addWidget(self.came_from)
        left.addStretch(1)
        return left

    def _new_instrument(self) -> QWidget:
        """What is asked of a tag that is new here."""
        new = QWidget()
        grid = QGridLayout(new)
        grid.setContentsMargins(0, 0, 0, 0)
        self.families = Flow()
        holder = QWidget()
        holder.setLayout(self.families)
        self.size_pick = QComboBox()
        self.size_pick.setAccessibleName("Size")
        self.made_of = QGridLayout()
        self.members = Flow()
        those = QWidget()
        those.setLayout(self.members)
        grid.addWidget(label("New here. What is it?", "small"), 0, 0, 1, 2)
        grid.addWidget(holder, 1, 0, 1, 2)
        grid.addWidget(those, 2, 0, 1, 2)
        grid.addWidget(label("Size", "small", wrap=False), 3, 0)
        grid.addWidget(self.size_pick, 3, 1)
        grid.addLayout(self.made_of, 4, 0, 1, 2)
        grid.setColumnStretch(1, 1)
        return new

    def _where_to(self) -> QVBoxLayout:
        """Departure, next renter, and the temperature of the case."""
        right = QVBoxLayout()
        right.setSpacing(theme.STEP)
        right.addWidget(label("It leaves with", "small"))
        self.departures = Flow()
        departures = QWidget()
        departures.setLayout(self.departures)
        right.addWidget(departures)
        self.when = QDateTimeEdit()
        self.when.setAccessibleName("Time of another departure")
        self.when.setDisplayFormat("ddd d MMM HH:mm")
        self.when.setCalendarPopup(True)
        own = button("Due then, by itself", self._due_then, "quiet", "due_then")
        add = button("Add this departure", self._add_departure, "quiet", "add_departure")
        choose, holder = Flow(), QWidget()
        holder.setLayout(choose)
        for widget in (self.when, own, add):
            choose.addWidget(widget)
        right.addWidget(holder)
        self.group = QLineEdit()
        self.group.setAccessibleName("For whom, next")
        self.group.setPlaceholderText("band or group, not a name")
        right.addWidget(label("For whom, next", "small"))
        right.addWidget(self.group)
        self.renter = QComboBox()
        self.renter.setObjectName("renter")
        self.renter.setAccessibleName("The next renter is")
        for key, words in RENTERS.items():
            self.renter.addItem(words, key)
        right.addWidget(label("The next renter is", "small"))
        right.addWidget(self.renter)
        self.case = entry(
            "case_c", "Temperature on the instrument, if it came from heat or cold",
            "4 °C, or its way: 2 h at −5 °C; 10 min at 12 °C",
        )  # fmt: skip
        self.case.textChanged.connect(lambda text: self._climate())
        right.addWidget(label("Temperature in the case, if from heat or cold", "small"))
        case_line = row(self.case)
        if self.frame.devices.ports.get("thermometer"):
            case_line.addWidget(button("Thermometer", self._thermometer, "", "case_thermometer"))
        right.addLayout(case_line)
        self.climate = label("", tone="muted")
        right.addWidget(self.climate)
        right.addStretch(1)
        return right

    def start(self, tag: str = "") -> None:
        """Begin, with a tag that was scanned."""
        self.tag.setText(tag)
        self.refresh()
        self._look()
        (self.came_from if tag else self.tag).setFocus(Qt.FocusReason.OtherFocusReason)

    def refresh(self) -> None:
        clear(self.departures)
        now = self.shop.now
        departures = coming_departures(self.shop)
        if self.departure_id not in {b.id for b in departures} and self.due_at is None:
            self.departure_id = departures[0].id if departures else None
        chosen = [d for d in departures[SHOWN:] if d.id == self.departure_id]
        for departure in [*departures[:SHOWN], *chosen]:
            words = f"{departure.name}, {clock_words(departure.leaves_at)}"
            pick = button(words, partial(self._pick, departure.id), "", f"departure_{departure.id}")
            tip(pick, in_words(departure.leaves_at, now))
            pick.setCheckable(True)
            pick.setChecked(departure.id == self.departure_id)
            self.departures.addWidget(pick)
        if self.due_at is not None:
            own = button(f"Due {clock_words(self.due_at)}, by itself", self._due_then, "", "departure_own")
            own.setCheckable(True)
            own.setChecked(True)
            self.departures.addWidget(own)
        none = button("None yet", lambda: self._pick(None), "", "departure_none")
        none.setCheckable(True)
        none.setChecked(self.departure_id is None and self.due_at is None)
        self.departures.addWidget(none)
        self.departures.addWidget(button("Other ways …", self.frame.nav.open_days, "quiet", "to_days"))
        if not self.when.dateTime().isValid() or self.when.dateTime() < QDateTime.currentDateTime().addYears(-1):
            local = (now + timedelta(days=1)).astimezone()
            self.when.setDateTime(QDateTime(QDate(local.year, local.month, local.day), QTime(9, 0)))
        self._families()

    def _families(self) -> None:
        """Groups as buttons, and below them the families of the one that is open."""
        clear(self.families)
        clear(self.members)
        groups = self.shop.catalogue.groups()
        for group, members in groups.items():
            on = group == self.group_key
            self._pick_button(self.families, members[0].group_name, f"group_{group}", on, self._open_group, group)
        members = groups.get(self.group_key, [])
        if len(members) > 1:
            for family in members:
                on = family.key == self.family
                self._pick_button(
                    self.members, family.name, f"family_{family.key}", on, self._choose_family, family.key
                )

    def _pick_button(self, flow: Flow, words: str, name: str, on: bool, act: Callable[[str], None], key: str) -> None:
        pick = button(words, lambda: act(key), "", name)
        pick.setCheckable(True)
        pick.setChecked(on)
        flow.addWidget(pick)

    def _open_group(self, group: str) -> None:
        members = [f.key for f in self.shop.catalogue.groups()[group]]
        self.group_key = group
        if len(members) == 1 or self.family in members:
            self._choose_family(members[0] if len(members) == 1 else self.family)
        else:
            self.family = ""
            self._ask_surfaces(None)
            self._families()

    def _choose_family(self, key: str) -> None:
        family = self.shop.catalogue.families[key]
        self.family, self.group_key = key, family.group
        self.size_pick.clear()
        self.size_pick.addItems(list(family.sizes))
        self._ask_surfaces(family)
        self._families()

    def _ask_surfaces(self, family: Family | None) -> None:
        """Ask for materials, where the steps depend on them."""
        clear(self.made_of)
        self.surfaces = []
        for n, question in enumerate(questions(family) if family is not None else ()):
            words = f"{question.words.capitalize()}: {'finish' if question.kind == 'finish' else 'made of'}"
            pick = QComboBox()
            pick.setObjectName(f"{question.kind}_{question.parts[0]}")
            pick.setAccessibleName(words)
            for choice in question.choices:
                pick.addItem(self.shop.catalogue.materials[choice].name, choice)
            if question.kind == "material":
                for name in made_of.met(self.shop):
                    pick.addItem(name, made_of.unknown(name))
                pick.addItem("something else …", "")
                pick.activated.connect(lambda _at, p=pick, w=question.words: self._something_else(p, w))
            self.made_of.addWidget(label(words, "small"), n, 0)
            self.made_of.addWidget(pick, n, 1)
            self.surfaces.append((question, pick))

    def _something_else(self, pick: QComboBox, words: str) -> None:
        """Ask once for the name of a material without an entry; without an answer the first choice stands."""
        if pick.currentData():
            return
        said = self.ask(
            "Something else", f"What do people call what the {words} is made of? Nothing but a dry cloth comes to it.",
            ok="Keep",
        )  # fmt: skip
        names: list[str] = []
        if said is not None and self.do(lambda: names.append(made_of.unknown(said))):
            pick.insertItem(pick.count() - 1, names[0].partition(":")[2], names[0])
            pick.setCurrentIndex(pick.count() - 2)
        else:
            pick.setCurrentIndex(0)

    def _answers(self, kind: str) -> dict[str, str]:
        return {
            part: str(pick.currentData())
            for question, pick in self.surfaces
            if question.kind == kind
            for part in question.parts
        }

    def _pick(self, departure: int | None) -> None:
        self.departure_id, self.due_at = departure, None
        self.refresh()

    def _due_then(self) -> None:
        """It is due at a time of its own, whatever leaves then."""
        at = self._when()
        if self.do(lambda: need_in_a_year(at, self.shop.now)):
            self.departure_id, self.due_at = None, at
            self.refresh()

    def _when(self) -> datetime:
        at = self.when.dateTime().toPython()
        assert isinstance(at, datetime)
        return at.astimezone()

    def _add_departure(self) -> None:
        local = self._when()

        def act() -> None:
            self.departure_id, self.due_at = add_departure(self.shop, f"{local:%A} departure", local), None

        self.do(act)

    def _look(self) -> None:
        """Say what a tag means while it is typed."""
        text = self.tag.text()
        self.new.hide()
        self.alone.hide()
        self.known.setText("")
        if not text.strip():
            return
        try:
            found = understand(self.shop, text)
        except CreekbedError:
            self.known.setText("Tags look like V-12, VLN-0042 or 1047.")
            return
        if found.kind == "new":
            self.new.show()
            if self.family:
                self._choose_family(self.family)
        elif found.kind == "job":
            self.known.setText(f"{found.key} is booked in already. Book in opens its page.")
        elif found.kind == "instrument":
            instrument = intake.find_instrument(self.shop, found.key)
            assert instrument is not None
            family = self.shop.catalogue.family(instrument.family)
            size = family.size_words(instrument.size)
            self.known.setText(f"{family.name}{f', size {size}' if size else ''}, known here.")
            self.alone.setVisible(bool(intake.pieces_out(self.shop, found.key)))

    def _alone(self) -> None:
        """Ask which piece came back without its instrument."""
        tag = self.tag.text()
        pieces = intake.pieces_out(self.shop, tag)
        answer = self.ask_choice(
            "A piece came back alone", "Which? It is ticked by itself when the instrument comes.",
            choices=tuple((p.key, p.name.capitalize()) for p in pieces), needed=False, ok="Keep it",
        )  # fmt: skip
        if answer is not None and self.do(lambda: intake.part_alone(self.shop, tag, answer[0])):
            self.tag.clear()

    def _thermometer(self) -> None:
        """Take the case's temperature from the thermometer: its probe lies on the instrument."""
        self.frame.devices.read_meter("thermometer", 0.2, lambda r: self.case.setText(temperature(r.value, 1)))

    def _climate(self) -> None:
        text = self.case.text()
        if not text.strip():
            self.climate.setText("")
            return
        limits = self.shop.catalogue.house.limits
        journey = ""
        try:
            case, journey = self._case_c(text)
            tau = self._tau()
            answer = acclimatise(case, limits.room_c, limits.room_rh, tau, limits.acclimatise_tolerance_c)
        except CreekbedError as error:
            self.climate.setText(error.happened)
            return
        if answer.minutes < 1:
            self.climate.setText(f"{journey} Near enough to the room: it may be opened.".strip())
            return
        dew = " It is colder than the dew point: opened now, it would gather water." if answer.condenses else ""
        self.climate.setText(
            f"{journey} Keep it closed for {span(answer.minutes)}.{dew} "
            f"Room {temperature(limits.room_c)}, dew point {temperature(answer.dew_point_c, 1)}.".strip()
        )

    def _case_c(self, text: str) -> tuple[float, str]:
        """The case's temperature, °C, as read or as computed from its journey, and the journey in words."""
        if not is_journey(text):
            return parse_quantity(text, "degC", what="The case's temperature", minimum=-40, maximum=70), ""
        room = self.shop.catalogue.house.limits.room_c
        found = arrives(room, parse_legs(text), self._tau())
        return found.careful(room), found.words()

    def _tau(self) -> float:
        try:
            found = understand(self.shop, self.tag.text())
            instrument = intake.find_instrument(self.shop, found.key) if found.kind != "supply" else None
        except CreekbedError:
            instrument = None
        family = instrument.family if instrument is not None else self.family
        families = self.shop.catalogue.families
        return families[family].case_minutes if family in families else max(f.case_minutes for f in families.values())

    def _next(self) -> None:
        if not self.new.isVisible():
            self._book()

    def _book(self) -> None:
        self._do_book(True)

    def _book_more(self) -> None:
        if self._do_book(False):
            self.tag.setFocus(Qt.FocusReason.OtherFocusReason)

    def _do_book(self, go: bool) -> bool:
        job: list[int] = []

        def act() -> None:
            tag = intake.clean_tag(self.tag.text())
            found = understand(self.shop, tag)
            if found.kind == "job" and found.job_id is not None:
                job.append(found.job_id)
                return
            case = None
            if self.case.text().strip():
                case, _ = self._case_c(self.case.text())
            new = found.kind == "new"
            job.append(
                intake.book_in(
                    self.shop, tag, family=self.family, size=self.size_pick.currentText() if new else "",
                    materials=self._answers("material") if new else {},
                    finishes=self._answers("finish") if new else {}, renter=str(self.renter.currentData()),
                    came_from=self.came_from.text(), departure_id=self.departure_id, due_at=self.due_at,
                    next_group=self.group.text(), case_c=case,
                )
            )  # fmt: skip

        if not self.do(act):
            return False
        self.tag.clear()
        self.case.clear()
        self.renter.setCurrentIndex(0)
        if go and job:
            self.frame.nav.open_job(job[0], "case")
        return True
