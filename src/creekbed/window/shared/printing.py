"""Papers that the window writes: tags, labels, sheets, notes; each into the shop's own folder, and offered to print."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from creekbed.core.errors import CreekbedError, Refused

if TYPE_CHECKING:
    from creekbed.window.frame.frame import Frame
    from creekbed.window.shared.long_work import LongWork


class Printing:
    """Writes papers for one window."""

    def __init__(self, frame: Frame):
        self.frame = frame

    def make_ready(self, job_id: int) -> None:
        """Close a job as ready and save its tag; then the page of its history."""
        from creekbed.workshop.release.release_check import make_ready

        facts: list[dict[str, Any]] = []
        if self.frame.do(lambda: facts.append(make_ready(self.frame.shop, job_id))):
            self.save_tag(facts[0])
            self.frame.nav.open_history(facts[0]["tag"])

    def save_hires(self, numbers: Sequence[int]) -> Path | None:
        """Write the sheets of hires, to be signed."""
        from creekbed.papers.hire_sheet import hire_pdf
        from creekbed.workshop.fleet.hiring import hire_facts
        from creekbed.workshop.shop.identity import identity

        name = f"hire-{numbers[0]}" if len(numbers) == 1 else f"hires-{numbers[0]}-to-{numbers[-1]}"
        shop = self.frame.shop
        paper = identity(shop).paper
        return self._save(name, lambda: hire_pdf([hire_facts(shop, n) for n in numbers], paper), "The sheet to sign:")

    def save_labels(self, rows: Sequence[Mapping[str, str]], size: str, work: LongWork) -> None:
        """Draw and write sheets of labels beside the window; a thousand of them take some seconds."""
        from creekbed.papers.label_sheet import label_sheets

        name, said = f"labels-{len(rows)}-{size}", f"{len(rows)} labels:"
        work.start(
            f"Drawing {len(rows):,} labels …", lambda progress: label_sheets(rows, size, progress=progress),
            lambda data: self._save(name, lambda: data, said),
        )  # fmt: skip

    def save_codes(self) -> Path | None:
        """Write the sheets of codes that stand for keys, pages, people and supplies."""
        from creekbed.papers.label_sheet import label_sheets
        from creekbed.workshop.arrival.scan_codes import all_codes
        from creekbed.workshop.shop.identity import identity

        shop = self.frame.shop
        size = "67x25" if identity(shop).paper == "Letter" else "52x30"
        return self._save("codes", lambda: label_sheets(all_codes(shop), size), "The codes to scan:")

    def save_note(self, job_id: int, to: str) -> Path | None:
        """Write the note to a specialist, PDF and text."""
        from creekbed.papers.note import note_pdf, note_text
        from creekbed.workshop.inspection.specialist import note_for

        try:
            note = note_for(self.frame.shop, job_id, to)
            name = f"note-{note.facts['tag']}-{to.replace(' ', '-').replace('/', '-')[:40]}"
            text = note_text(note.facts).encode()
            self._write(f"{name}.txt", text)
        except Refused:
            return None  # sent out for another reason: there is nothing to tell
        except (CreekbedError, OSError) as error:
            self.frame.say(f"The note could not be written: {error}. Nothing else was changed.", warn=True)
            return None
        said = f"{note.facts['tag']} is at the {to}. The note lies in"
        return self._save(name, lambda: note_pdf(note.facts, note.photos), said, "Nothing else was changed.")

    def save_label(self, lot_id: int) -> Path | None:
        """Write the label of a mix."""
        from creekbed.papers.label import label_pdf
        from creekbed.workshop.supplies.stock import label_facts

        try:
            facts = label_facts(self.frame.shop, lot_id)
        except CreekbedError as error:
            self.frame.could_not(error)
            return None
        said = f"{facts['what']} {facts['strength']} is on record. Its label lies in"
        return self._save(f"label-{lot_id}", lambda: label_pdf(facts), said, "The mix is on record; label it by hand.")

    def save_tray(self, tray: str, tag: str, name: str) -> Path | None:
        """Write the label of a tray."""
        from creekbed.papers.label import tray_pdf

        said = f"Tray {tray} is for {tag}. Its label lies in"
        return self._save(f"tray-{tray}", lambda: tray_pdf(tray, tag, name), said, f"Letter the tray by hand: {tray}.")

    def save_tag(self, facts: dict[str, Any] | None) -> Path | None:
        """Write the tag of an instrument that is ready."""
        if facts is None:
            self.frame.say("No tag was printed for it.", warn=True)
            return None
        from creekbed.papers.tag import tag_pdf
        from creekbed.workshop.shop.identity import identity

        head, said = identity(self.frame.shop).name, f"{facts['tag']} is ready. Its tag lies in"
        safe = "The instrument is ready all the same."
        return self._save(f"tag-{facts['tag']}".replace("/", "-"), lambda: tag_pdf(facts, head), said, safe)

    def save_plot(self, name: str, plot: Any) -> None:
        """Write a plot into the shop's papers, as a drawing, a picture and its numbers, and say where."""
        from creekbed.window.shared.plots import as_csv, as_png, as_svg

        folder = Path(self.frame.shop.folder) / "papers"
        stem = f"plot-{name}-{self.frame.shop.now.astimezone():%Y-%m-%d-%H%M%S}"
        try:
            for ending, data in (("svg", as_svg(plot)), ("png", as_png(plot)), ("csv", as_csv(plot.table()))):
                self._write(f"{stem}.{ending}", data)
        except OSError as error:
            self.frame.say(f"The plot could not be saved: {error.strerror or error}.", warn=True)
            return
        self.frame.say(f"The plot is saved as SVG, PNG and CSV: {folder / stem}")

    def _write(self, name: str, content: bytes) -> Path:
        """Write a file into the shop's own folder of papers; a slow disk does not stop the window.

        Raises:
            OSError: it cannot be written.
        """
        from creekbed.store.files import write_whole

        shop = self.frame.shop
        return shop.store.on_disk(lambda: write_whole(Path(shop.folder) / "papers" / name, content))

    def _save(
        self, name: str, make: Callable[[], bytes], said: str, safe: str = "All else is on record."
    ) -> Path | None:
        """Write a paper into the shop's own folder, say where, and offer to print it.

        Args:
            name: of its file. said: before the place, when it was written. safe: after the reason, when it was not.
        """
        try:
            path = self._write(f"{name}.pdf", make())
        except (CreekbedError, OSError) as error:
            why = getattr(error, "strerror", None) or str(error).rstrip(".")
            self.frame.say(f"The paper could not be written: {why}. {safe}", warn=True)
            return None
        self.frame.say(f"{said} {path}", act=("Print …", lambda: self._print(path)))
        return path

    def _print(self, path: Path) -> None:
        from creekbed.window.shared.printer import print_paper

        print_paper(self.frame, path)
