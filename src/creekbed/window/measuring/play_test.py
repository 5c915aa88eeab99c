"""Find a leaking pad by playing: down the scale first, then what tells most; the likeliest pads with their odds."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QSizePolicy, QWidget

from creekbed.core.airtight.pads import Located, Locator, Played, Probe, along_joint
from creekbed.core.catalogue.models.leaks import LeakTable
from creekbed.core.conventions import number
from creekbed.window.measuring.method import Method
from creekbed.window.shared import theme
from creekbed.window.shared.instrument_picture import Picture
from creekbed.window.shared.widgets import button, how_sure, label, row
from creekbed.workshop.inspection import findings as inspection
from creekbed.workshop.inspection import playing

SHOWN = 4


class Odds(QWidget):
    """The likeliest pads as bars with their chance in words."""

    def __init__(self, table: LeakTable) -> None:
        super().__init__()
        self.table = table
        self.found: Located | None = None
        self.setMinimumHeight(theme.current.px(26) * SHOWN)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def set_found(self, found: Located) -> None:
        """Show new odds."""
        self.found = found
        said = ", ".join(f"{self.table.pad(k).name} {p:.0%}" for k, p in found.ranked[:SHOWN])
        self.setAccessibleName(f"Likeliest pads: {said}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.found is None:
            return
        c, painter = theme.current.c, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        high, names = theme.current.px(26), theme.current.px(190)
        room = self.width() - names - theme.current.px(60)
        for n, (key, p) in enumerate(self.found.ranked[:SHOWN]):
            y = n * high
            painter.setFont(theme.current.font(theme.TEXT_SIZE, bold=n == 0))
            painter.setPen(c.q("ink"))
            name = f"{n + 1}  {self.table.pad(key).name}"
            painter.drawText(QRectF(0, y, names, high), Qt.AlignmentFlag.AlignVCenter, name)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(c.q("silt"))
            painter.drawRoundedRect(QRectF(names, y + 6, room, high - 12), 4, 4)
            painter.setBrush(c.q("deep"))
            painter.drawRoundedRect(QRectF(names, y + 6, max(room * min(p, 1.0), 2.0), high - 12), 4, 4)
            painter.setPen(c.q("ink"))
            percent = "under 1 %" if p < 0.01 else f"{number(100 * p, 0)} %"
            painter.drawText(QRectF(names + room + 8, y, 80, high), Qt.AlignmentFlag.AlignVCenter, percent)


class PlayTest(Method):
    """One note at a time: it speaks, or it does not."""

    title = "which pad"
    how = "Only what was disinfected, or your own mouthpiece. Does the note speak at once and clear, or is it stuffy?"

    def fill(self) -> None:
        table = self.page.shop.catalogue.leak_table(self.view.family)
        assert table is not None
        self.table = table
        self.locator = Locator(table)
        self.played: list[Played] = []
        self.asked = label("", "title")
        self.box.addWidget(self.asked)
        self.good = button("It speaks", lambda: self.answer(True), "", "note_good", "+")
        self.bad = button("Stuffy or silent", lambda: self.answer(False), "", "note_bad", "-")
        self.back = button("Undo the last note", self.take_back, "quiet", "note_back")
        heard = playing.heard_in_job(self.page.shop, self.view)
        self.heard = [Played(Probe(note), good) for note, good in heard if note in {n.key for n in table.notes}]
        self.take = button("Take what the microphone heard", self.take_heard, "", "note_heard")
        self.take.setVisible(bool(self.heard))
        self.box.addLayout(row(self.good, self.bad, self.back, self.take, None))
        self.picture = Picture(170)
        self.picture.set_family(self.view.family)
        self.box.addWidget(self.picture)
        self.odds = Odds(table)
        self.box.addWidget(self.odds)
        self.said = label("")
        self.box.addWidget(self.said)
        self.so_far: QLabel = label("", tone="muted")
        self.box.addWidget(self.so_far)
        self.box.addWidget(how_sure("pads"))
        self.probe: Probe | None = None
        self.work()

    def answer(self, good: bool) -> None:
        """How the note spoke."""
        if self.probe is not None:
            self.played.append(Played(self.probe, good))
            self.work()

    def take_heard(self) -> None:
        """The notes of the play-test by sound are the first answers."""
        self.played = [*self.heard, *self.played]
        self.work()

    def take_back(self) -> None:
        """The last answer was wrong."""
        if self.played:
            self.played.pop()
            self.work()

    def work(self) -> None:
        """Odds and the next note."""
        self.found = self.locator.locate(self.played)
        done = {p.probe.note for p in self.played}
        left = [note for note in self.table.scale if note not in done]
        self.probe = Probe(left[0]) if left else self.found.following
        self.asked.setText(f"{self.probe.words(self.table)}." if self.probe is not None else "That is sure enough.")
        for answer in (self.good, self.bad):
            answer.setEnabled(self.probe is not None)
        self.back.setEnabled(bool(self.played))
        self.take.setEnabled(not any(p in self.played for p in self.heard))
        self.odds.set_found(self.found)
        best, chance = self.found.ranked[0]
        pad = self.table.pad(best)
        likely = chance > 0.2 and len(self.played) >= 3
        part = self.view.family.find_part(pad.part)
        where = f"{pad.name} pad, on the {part.name if part is not None else pad.part}"
        self.picture.light((pad.part,) if likely else (), where if likely else "")
        shown = self.found.ranked[:SHOWN] if likely else ()
        self.picture.set_spots(
            (self.table.pad(k).part, along_joint(self.table, k), str(n + 1), n == 0)
            for n, (k, p) in enumerate(shown)
            if p > 0.03
        )
        none = self.found.none
        self.said.setText(
            "A leak light or a feeler strip decides." if none < 0.5 else "So far nothing points to a leak."
        )
        notes = [f"{p.probe.note}{'' if p.good else ' (stuffy)'}" for p in self.played]
        self.so_far.setText(f"Played: {', '.join(notes)}" if notes else "Down the scale first.")
        self.changed.emit()

    def main_words(self) -> str:
        name = self.table.pad(self.found.ranked[0][0]).name
        return "No pad leaks" if self.found.none > 0.5 else f"Note it: {name}"

    def can_finish(self) -> bool:
        done = {p.probe.note for p in self.played}
        return all(note in done for note in self.table.scale)

    def finish(self) -> None:
        found = self.found
        shop, job, key = self.page.shop, self.view.job.id, self.check.key
        old = dict(self.view.findings[key].places) if key in self.view.findings else {}
        if found.none <= 0.5:
            name = self.table.pad(found.ranked[0][0]).name
            old[name] = "leaks"
        if self.page.do(lambda: inspection.record_places(shop, job, key, old)):
            self.left.emit()
