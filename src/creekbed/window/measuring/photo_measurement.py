"""Measure in a photograph: known points first, then what is measured, and the result with its uncertainty."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtGui import QImage
from PySide6.QtWidgets import QComboBox, QLineEdit, QWidget

from creekbed.core.conventions import number
from creekbed.core.errors import BadInput, CreekbedError
from creekbed.core.inspection.photo import (
    ANGLES,
    POINTS,
    Depth,
    Kind,
    Placings,
    Point,
    Reference,
    card,
    depth,
    measure,
    rectangle,
    ruler,
)
from creekbed.core.measure import Reading
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.units import parse_quantity, with_doubt
from creekbed.store.photos import Clean, clean, decoded
from creekbed.window.measuring.method import Method
from creekbed.window.measuring.photo_view import PointPicture
from creekbed.window.measuring.picture_source import Into, PictureSource
from creekbed.window.shared import theme
from creekbed.window.shared.widgets import button, entry, how_sure, label, restyle, row
from creekbed.workshop.arrival import photos
from creekbed.workshop.inspection import point_placing

if TYPE_CHECKING:
    from creekbed.window.job.job_page import JobPage

DRAWN_SIDE = 1600
KNOWN = {
    "card": "a bank card", "rectangle": "a rectangle of known size", "ruler": "three marks of a ruler",
}  # fmt: skip
CORNERS = ("corner", "next corner, going round", "third corner", "last corner")
MARKS = ("one mark", "the mark halfway", "the other mark")
KINDS: dict[str, Kind] = {
    "bridge_lean": "lean", "string_angle": "angle", "bridge_warp": "bow", "reed_warp": "bow", "dents": "circle",
    "reed_aside": "offset",
}  # fmt: skip
"""Check: what is measured; every other one measures a length."""


@dataclass(frozen=True)
class Opened:
    """A picture made safe and decoded, whole and as it is drawn."""

    picture: Clean
    whole: QImage
    drawn: QImage
    pixels: tuple[bytes, bytes]
    """What the two images stand on: they hold no copy of their own."""


def open_picture(data: bytes) -> Opened:
    """Make a picture safe and decode it; slow, and so never on the interface thread.

    Raises:
        BadInput: no picture.
    """
    made = clean(data)
    whole, drawn = decoded(made.jpeg), decoded(made.jpeg, DRAWN_SIDE)  # by a library that lets the window go on
    images = [QImage(p, w, h, 3 * w, QImage.Format.Format_RGB888) for p, (w, h) in (whole, drawn)]
    return Opened(made, images[0], images[1], (whole[0], drawn[0]))


class PhotoMeasurement(PictureSource["JobPage"], Method):
    """The photograph, what is known in it, and the result."""

    page: JobPage
    title = "from a photograph"

    def fill(self) -> None:
        self.kind: Kind = KINDS.get(self.check.key, "length")
        self.opened: Opened | None = None
        self.placed: list[list[Point]] = []
        """Earlier placings of all points."""
        self.reading: Reading | None = None
        self.setAcceptDrops(True)
        sources = row(None)
        if self.page.frame.devices.ports.get("camera"):
            sources.insertWidget(0, button("Take a picture", self.take, "", "photo_take", "F4"))
        sources.insertWidget(sources.count() - 1, button("From a file …", self.choose_file, "", "photo_file"))
        sources.insertWidget(sources.count() - 1, button("Paste", self.paste, "quiet", "photo_paste"))
        self.known = QComboBox()
        self.known.setObjectName("photo_known")
        self.known.setAccessibleName("What is known in the picture")
        self.known.addItems(list(KNOWN.values()))
        self.known.currentIndexChanged.connect(lambda n: self._known_changed())
        self.size_field = QLineEdit()
        self.size_field.setObjectName("photo_size")
        self.size_field.textChanged.connect(lambda text: self.work())
        sources.addWidget(label("Known:", wrap=False))
        sources.addWidget(self.known)
        sources.addWidget(self.size_field)
        self.box.addLayout(sources)
        self.deep = QWidget()
        beside = row(None)
        beside.setContentsMargins(0, 0, 0, 0)
        self.nearer = entry("photo_nearer", "How much nearer to the camera it lies", "0 mm")
        self.camera = entry("photo_camera", "Distance of the camera", "400 mm")
        for field in (self.nearer, self.camera):
            field.setMaximumWidth(theme.current.px(110))
            field.textChanged.connect(lambda text: self.work())
        for n, piece in enumerate((
            label("Not in that plane? It lies nearer to the camera by", tone="muted", wrap=False), self.nearer,
            label("of", tone="muted", wrap=False), self.camera,
            label("from the camera to what is known", tone="muted", wrap=False),
        )):  # fmt: skip
            beside.insertWidget(n, piece)
        self.deep.setLayout(beside)
        self.deep.setVisible(self.kind not in ANGLES)  # angles do not change by it
        self.box.addWidget(self.deep)
        self.view_ = PointPicture()
        self.view_.moved.connect(self.work)
        self.box.addWidget(self.view_, 1)
        self.asked = label("", "name")
        self.box.addWidget(self.asked)
        self.said = label("", tone="muted")
        self.box.addWidget(self.said)
        self.again = button("Point again", self.point_again, "", "photo_again")
        self.trusted = label("", tone="muted")
        line = row(self.again, self.trusted)
        line.setStretch(1, 1)
        self.box.addLayout(line)
        self.box.addWidget(how_sure("photograph"))
        self._known_changed()

    # --- pictures ---------------------------------------------------------------------------------------------------

    def receiver(self) -> Into:
        return self._open

    def _open(self, get: Callable[[], bytes]) -> None:
        self.page.frame.devices.ask("picture", lambda: open_picture(get()), self._opened)

    def _opened(self, opened: Opened) -> None:
        self.opened = opened
        self.placed = []
        self.view_.set_image(opened.whole, opened.drawn)
        self.view_.setFocus()
        self.page.frame.hush()
        self.work()

    # --- measuring --------------------------------------------------------------------------------------------------

    def point_again(self) -> None:
        """Place every point once more: their mean counts, and how far they lie apart is learned."""
        self.placed.append(self._points())
        self.view_.clear_points()
        self.view_.setFocus()
        self.work()

    def _points(self) -> list[Point]:
        return [(p.x(), p.y()) for p in self.view_.points]

    def _repeats(self) -> list[tuple[Point, ...]]:
        """For each point all its placings."""
        return list(zip(*self.placed, self._points(), strict=True)) if self.placed else []

    @property
    def _pixel(self) -> float:
        return max(1.0, self.view_.image.width() / 3000)

    def _known_changed(self) -> None:
        known = list(KNOWN)[self.known.currentIndex()]
        self.size_field.setVisible(known in ("rectangle", "ruler"))
        words = "100 mm" if known == "ruler" else "100 mm, 60 mm"
        self.size_field.setPlaceholderText(words)
        self.size_field.setAccessibleName("Distance of the marks" if known == "ruler" else "Its two sides")
        first = MARKS if known == "ruler" else CORNERS
        self.view_.set_names((*first, *POINTS[self.kind]), len(first))
        self.work()

    def _reference(self) -> Reference:
        known = list(KNOWN)[self.known.currentIndex()]
        corners = self._means()[: self.view_.split]
        if known == "ruler":
            return ruler(
                corners, parse_quantity(self.size_field.text(), "millimeter", what="The distance of the marks")
            )
        if known == "rectangle":
            texts = self.size_field.text().replace(";", ",").split(",")
            if len(texts) != 2:
                raise BadInput("A rectangle has two sides.", todo="Type both, with a comma between them.")
            sides = [parse_quantity(t, "millimeter", what="The side") for t in texts]
            return rectangle(corners, sides[0], sides[1])
        return card(corners)

    def _means(self) -> list[Point]:
        """Each point where it was placed, or the mean of its placings."""
        every = [*self.placed, self._points()]
        return [(sum(x for x, _ in p) / len(p), sum(y for _, y in p) / len(p)) for p in zip(*every, strict=True)]

    def _depth(self) -> Depth:
        nearer, camera = self.nearer.text().strip(), self.camera.text().strip()
        if not nearer and not camera:
            return Depth()
        return depth(
            parse_quantity(nearer, "millimeter", what="How much nearer"),
            parse_quantity(camera, "millimeter", what="The camera's distance"),
        )

    def _trust(self, known: Placings, reference: Reference) -> str:
        by = (
            f"your own {known.free // 2} repeated placings"
            if known.free
            else "the house's guess: point again to learn it"
        )
        return f"{reference.words} Points to within {number(known.u_px, 1)} pixels, by {by}.".strip()

    def work(self) -> None:
        """What the points say now."""
        view, self.reading = self.view_, None
        if self.placed and len(self.placed[0]) != len(view.names):  # other points are asked for now
            self.placed = []
        self.again.setVisible(not view.image.isNull() and not view.wanted)
        self.trusted.setText("")
        restyle(self.said, tone="muted")
        if view.image.isNull():
            self.asked.setText("")
            self.said.setText("Lay a card flat in the same plane as what is measured; photograph it from the front.")
        elif view.wanted:
            self.asked.setText(f"{len(view.points) + 1}. Point at: {view.wanted}")
            self.said.setText("Arrow keys nudge the last point, Backspace takes it back.")
        else:
            try:
                known = point_placing.placings_of(self.page.shop).and_(self._repeats(), self._pixel)
                u_px = known.u_px * self._pixel / math.sqrt(1 + len(self.placed))
                points, reference = self._means()[view.split :], self._reference()
                self.reading = measure(self.kind, reference, points, u_px=u_px, off_plane=self._depth())
            except CreekbedError as error:
                self.asked.setText(error.happened)
                self.said.setText(error.todo)
                restyle(self.said, tone="warn")
            else:
                r = self.reading
                self.trusted.setText(self._trust(known, reference))
                self.asked.setText(f"{with_doubt(r.value, r.expanded, r.unit)} (k = 2)")
                if self.kind in ANGLES:
                    self.said.setText("An angle stays the same nearer to the camera.")
                elif self.nearer.text().strip():
                    self.said.setText("Corrected for what lies before the plane of what is known.")
                else:
                    self.said.setText("Only in the plane of what is known: nearer to the camera looks longer.")
        self.changed.emit()

    def can_finish(self) -> bool:
        return self.reading is not None and self.reading.unit == self.check.unit

    def finish(self) -> None:
        if self.reading is None or self.opened is None:
            return
        shop, job, about = self.page.shop, self.view.job.id, f"check:{self.check.key}"
        picture, reading, repeats = self.opened.picture, self.reading, self._repeats()

        def act() -> None:
            photos.add_photo(shop, job, picture, about)
            if repeats:
                point_placing.learn(shop, repeats, self._pixel)

        if self.page.do(act):
            self.record(reading)
