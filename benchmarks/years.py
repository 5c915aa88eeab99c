"""Five years of a busy shop: how long the questions take that stand between a press and the drawn window.

Run ``python -m benchmarks.years FOLDER`` to make the records (15,000 jobs, 375,000 actions, 10,000 instruments; about
two minutes, once) and to measure. Times are the median of several tries on this machine; the ratio to one bare
question of SQLite, measured in the same run, is what can be compared between machines.
"""

from __future__ import annotations

import argparse
import json
import random
import resource
import shutil
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import event, insert

from creekbed.store.chain import START, digest_of, next_chain, said
from creekbed.store.records import (
    ContentLine,
    Departure,
    Disinfection,
    Finding,
    ForecastRecord,
    Hire,
    Instrument,
    Job,
    JournalEntry,
    Lot,
    Record,
    StepRecord,
    StockMove,
    TagPrint,
    Wait,
)
from creekbed.store.store import Store
from creekbed.store.tables import FIELDS, KEYS, TABLES, plain
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench.bench_records import job_now, read
from creekbed.workshop.bench.job_steps import finish_step
from creekbed.workshop.planning.forecast_calibration import calibration
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop

END = datetime(2026, 11, 19, 9, 0, tzinfo=UTC)
JOBS, INSTRUMENTS, OPEN = 15_000, 10_000, 70
ENTRIES_A_JOB = 25
FAMILIES = ("alto_saxophone", "violin", "trumpet", "clarinet")
BATCH = 500


class Years:
    """Writes a shop's past in large pieces: rows, and the journal entries that say the same."""

    def __init__(self, folder: Path, jobs: int, instruments: int):
        self.store = Store(folder)
        self.store.hurry()
        self.jobs, self.instruments = jobs, instruments
        self.chance = random.Random(5)
        self.numbers: dict[type[Record], int] = {}
        self.rows: dict[type[Record], list[dict[str, Any]]] = {}
        self.entry, self.chain = 0, START
        self.changes: list[dict[str, Any]] = []

    def add(self, kind: type[Record], **values: Any) -> int:
        """A row, and its change in the entry that comes next."""
        number = 0
        if KEYS[kind] == ("id",):
            number = self.numbers[kind] = self.numbers.get(kind, 0) + 1
            values = {"id": number, **values}
        record = kind(**values)
        row = {column: getattr(record, name) for name, column in FIELDS[kind].items()}
        self.rows.setdefault(kind, []).append(row)
        if kind.JOURNALLED:
            image = {c: plain(v) for c, v in row.items() if c != "version"}
            key = {FIELDS[kind][n]: image[FIELDS[kind][n]] for n in KEYS[kind]}
            self.changes.append({"t": kind.TABLE, "k": key, "b": None, "a": image})
        return number

    def log(self, at: datetime, action: str, words: str, tag: str) -> None:
        self.entry += 1
        changes, self.changes = self.changes, []
        person = self.chance.choice(("IW", "IW", "TO", "AB"))
        digest = digest_of(said(self.entry, at, person, "1", action, words, tag, None, True, changes))
        self.chain = next_chain(self.chain, digest)
        self.rows.setdefault(JournalEntry, []).append({
            "id": self.entry, "at": at, "person": person, "action": action, "words": words, "tag": tag, "undoes": None,
            "undoable": True, "changes": changes, "seat": "1", "digest": digest, "chain": self.chain, "erased": {},
        })  # fmt: skip

    def flush(self) -> None:
        with self.store.engine.execution_options(write=True).begin() as connection:
            connection.exec_driver_sql("PRAGMA defer_foreign_keys = ON")  # a job may stand behind its lines
            for kind in TABLES:
                if self.rows.get(kind):
                    connection.execute(insert(TABLES[kind]), self.rows[kind])
        self.rows = {}

    def make(self) -> None:
        """Everything, oldest first; the last jobs stay open."""
        start = END - timedelta(days=5 * 365)
        for n in range(self.instruments):
            tag = f"YR-{n:05d}"
            self.add(Instrument, tag=tag, family=FAMILIES[n % 4], size="4/4" if n % 4 == 1 else "standard",
                     serial=str(n), created_at=start)  # fmt: skip
            if n % 20 == 19:
                self.log(start, "demo.past", "twenty instruments", "")
        lot = self.add(
            Lot, item="peroxide_6_ml", lot="PX", amount=1e5, strength_pct=6.0, contact_min=10.0, made_at=start
        )
        self.log(start, "stock.in", "Stock in", "")
        self.flush()
        for n in range(self.jobs):
            self._job(n, start + (END - start) * (n / self.jobs), lot)
            if n % BATCH == BATCH - 1:
                self.flush()
                print(f"{n + 1} jobs, {self.entry} actions", flush=True)
        self.flush()
        self.store.close()

    def _job(self, n: int, at: datetime, lot: int) -> None:
        tag, open_ = f"YR-{n % self.instruments:05d}", n >= self.jobs - OPEN
        day = at + timedelta(days=1)
        leaves = self.add(Departure, name="Friday boat", leaves_at=day) if n % 8 == 0 else self.numbers[Departure]
        condition = [{"check": "neck_cork", "value": 7.5, "unit": "millimeter", "band": "green"}]
        hire = self.add(Hire, tag=tag, renter=f"R-{n % 90:03d}", out_at=at - timedelta(days=200), back_at=at,
                        condition_out=condition)  # fmt: skip
        state, ready = ("open", None) if open_ else ("gone", day)
        job = self.add(Job, tag=tag, hire_id=hire, departure_id=leaves, state=state, opened_at=at, ready_at=ready,
                       came_from=f"R-{n % 90:03d}")  # fmt: skip
        self.log(at, "book_in", f"Booked in {tag}", tag)
        for k in range(8):
            self.add(ContentLine, job_id=job, item=f"item_{k}", state="present")
        self.log(at, "contents.rest", f"{tag}: the other 8 pieces present", tag)
        if open_:
            return
        for k in range(3):
            self.add(Finding, job_id=job, check=f"check_{k}", readings=[{"value": 7.1, "u": 0.1, "unit": "millimeter",
                     "how": "typed"}], band="green", reason="within its band", at=at, person="IW")  # fmt: skip
            self.log(at, "check.reading", f"{tag}: check {k}", tag)
        for k in range(18):
            when = at + timedelta(minutes=7 * k)
            self.add(StepRecord, job_id=job, key=f"step_{k}", what=f"What is done in step {k} of this job, in words",
                     stage="clean", state="done", at=when, minutes=float(3 + k % 5), data={"house_min": 4.0},
                     person="IW")  # fmt: skip
            if k % 3 == 0:
                self.add(StockMove, lot_id=lot, job_id=job, amount=-5.0, why=f"{tag}: step_{k}", at=when)
            if k in (5, 9):
                self.add(Wait, job_id=job, key=f"step_{k}", name="Peroxide", place="tray", at_end="rinse",
                         started_at=when, min_minutes=10.0, ended_at=when + timedelta(minutes=11),
                         ended_why="done")  # fmt: skip
                self.add(Disinfection, job_id=job, part="mouthpiece", agent="peroxide_3", lot="PX", began_at=when,
                         ended_at=when + timedelta(minutes=11), required_min=10.0, wet_min=11.0, restarts=0,
                         over_min=0.0, person="IW")  # fmt: skip
            self.log(when, "step.done", f"{tag}: step {k}", tag)
        self.add(TagPrint, job_id=job, at=day, person="IW", facts={"tag": tag, "disinfections": [{"part": "x"}] * 3})
        self.log(day, "ready", f"{tag} is ready", tag)
        for k in range(4):
            self.add(ForecastRecord, job_id=job, departure_id=leaves, at=at + timedelta(hours=12 * k), chance=0.9)
        self.log(day, "gone", f"{tag} has left", tag)


@contextmanager
def counting(shop: Shop) -> Iterator[list[str]]:
    """The statements that are asked within."""
    found: list[str] = []

    def note(connection: Any, cursor: Any, statement: str, *rest: Any) -> None:
        found.append(statement)

    event.listen(shop.store.engine, "before_cursor_execute", note)
    try:
        yield found
    finally:
        event.remove(shop.store.engine, "before_cursor_execute", note)


def median_ms(act: Callable[[], Any], times: int = 15) -> float:
    """Median of several tries, milliseconds."""
    spent = []
    for _ in range(times):
        began = time.perf_counter()
        act()
        spent.append((time.perf_counter() - began) * 1000)
    return statistics.median(spent)


def measure(folder: Path) -> dict[str, Any]:
    """Times, statements and sizes."""
    shop = Shop(folder, HandClock(END))
    found: dict[str, Any] = {"records_mb": round((folder / "records.sqlite3").stat().st_size / 1e6)}

    def bare() -> None:
        with shop.reading() as records:
            records.connection.exec_driver_sql("SELECT 1").all()

    found["bare_question_ms"] = round(median_ms(bare, 100), 3)
    known = read(shop, shop.now)
    job = known.views[0].job.id

    def one_job() -> None:
        with shop.reading() as records:
            job_now(shop, records, shop.now, job)

    one_job()

    questions: dict[str, Callable[[], Any]] = {
        "undo": lambda: shop.undoable(1),
        "one job": one_job,
        "chances on record": lambda: calibration(shop),
        "what is new since": lambda: read(shop, shop.now, known),
        "the whole bench": lambda: read(shop, shop.now),
        "others": shop.others,
    }
    for name, act in questions.items():
        with counting(shop) as statements:
            act()
        found[name] = {"ms": round(median_ms(act), 2), "statements": len(statements)}
    spent, asked = [], []
    for view in known.views[1:11]:
        intake.tick_rest(shop, view.job.id)
        step = next(s for s in view.open_steps if s.state == "ready")
        with counting(shop) as statements:
            began = time.perf_counter()
            finish_step(shop, view.job.id, step.step.key)
            spent.append((time.perf_counter() - began) * 1000)
        asked.append(len(statements))
    found["finishing a step"] = {"ms": round(statistics.median(spent), 2), "statements": max(asked)}
    with tempfile.TemporaryDirectory() as place:
        from creekbed.papers.export import export_json

        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        began = time.perf_counter()
        with (Path(place) / "all.json").open("wb") as out, shop.reading() as records:
            export_json(records.tables(), shop.now, out)
        found["export"] = {
            "s": round(time.perf_counter() - began, 1), "mb": round((Path(place) / "all.json").stat().st_size / 1e6),
            "more_memory_mb": round((resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1e3),
        }  # fmt: skip
    shop.close()
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--jobs", type=int, default=JOBS)
    parser.add_argument("--instruments", type=int, default=INSTRUMENTS)
    given = parser.parse_args()
    if not given.folder.exists():
        Years(given.folder, given.jobs, given.instruments).make()
    with tempfile.TemporaryDirectory() as place:  # what is measured changes the records
        copy = Path(place) / "shop"
        shutil.copytree(given.folder, copy)
        print(json.dumps(measure(copy), indent=1))


if __name__ == "__main__":
    main()
