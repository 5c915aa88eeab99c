"""One working day, with every write of it failed once in turn, or the process killed there once in turn.

    python -m tests.faults.day                 all of it, some minutes
    python -m tests.faults.day --every 23      each 23rd write

Before each action the shop's folder is set aside. A process of its own takes that, does the action with one write
going wrong, and says whether it was acknowledged, refused in words, or anything else. Then the shop is opened anew, as
after any of these: everything acknowledged must be there, the records whole and as their journal says, and the action
must go well when it is done again.
"""

from __future__ import annotations

import argparse
import contextlib
import os
import secrets
import shutil
import sys
import tempfile
import traceback
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import timedelta
from io import BytesIO
from itertools import islice
from pathlib import Path

from creekbed.core.errors import BadInput, CreekbedError, Refused
from creekbed.core.measure import Reading
from creekbed.demo.seed import STOCK
from creekbed.store.photos import PhotoStore
from creekbed.store.sqlite.backup import back_up, copies_in, is_good
from creekbed.store.sqlite.damage import find
from creekbed.workshop.arrival import intake, photos
from creekbed.workshop.arrival.condition_marks import add_mark
from creekbed.workshop.bench import job_steps
from creekbed.workshop.cleaning import bench_reeds
from creekbed.workshop.inspection import findings
from creekbed.workshop.release import release_check
from creekbed.workshop.shop import bench_capacity, own_values, staff
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.departures import add_departure
from creekbed.workshop.shop.privacy import sweep_files
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import MORNING, Hand
from tests.faults.faults import Faults

Act = Callable[[Shop, HandClock], object]


def picture() -> bytes:
    """A small photograph."""
    from PIL import Image

    out = BytesIO()
    Image.new("RGB", (48, 32), "olive").save(out, "JPEG")
    return out.getvalue()


def actions() -> Iterator[tuple[str, Act]]:
    """The day: each action knows what it needs from the records alone, so that it can be done in any process."""
    for item, amount, more in STOCK:
        yield f"stock {item}", lambda s, c, i=item, a=amount, m=more: stock.book_in_stock(s, i, a, **m)
    yield "boat", lambda s, c: add_departure(s, "Friday boat", s.now + timedelta(hours=26))
    yield "people", lambda s, c: staff.add_worker(s, "TO 13-17", helper=True)
    yield (
        "book in",
        lambda s, c: intake.book_in(s, "MH-0142", family="alto_saxophone", departure_id=1, came_from="R-041"),
    )
    yield "book in a violin", lambda s, c: intake.book_in(s, "MH-0300", family="violin", departure_id=1)
    yield "in hand", lambda s, c: job_steps.take_up(s, 1, "contents")
    yield "tick", lambda s, c: intake.tick_item(s, 1, "end_plug", "missing")
    yield "replace", lambda s, c: intake.replace_item(s, 1, "end_plug")
    yield "tick the rest", lambda s, c: intake.tick_rest(s, 1)
    yield "mark", lambda s, c: add_mark(s, 1, "bell", "dent", 6.0)
    yield "photograph", lambda s, c: photos.add_photo(s, 1, picture())
    yield "undo", lambda s, c: s.undo()
    yield "photograph again", lambda s, c: photos.add_photo(s, 1, picture())
    yield "reading", lambda s, c: findings.record_reading(s, 1, "neck_cork", Reading(9.4, 0.1, "millimeter"))
    yield "own value", lambda s, c: own_values.set_value(
        s, ("family", "alto_saxophone", "step", "body_swab", "hands_min"), 4.0, "timed at our bench"
    )  # fmt: skip
    yield "room", lambda s, c: bench_capacity.change(s, {"tub": 3}, {})
    yield "price", lambda s, c: stock.set_price(s, "strap_sax", 12.5)
    yield "bench reed", lambda s, c: bench_reeds.add_reed(s, "saxophone")
    yield "opened elsewhere", lambda s, c: Shop(s.folder, c).close()
    for n in range(10):
        yield f"next step {n}", _next_step
    yield "quarantine", lambda s, c: intake.set_quarantine(s, 2, "mould")
    yield "lifted", lambda s, c: intake.set_quarantine(s, 2, "")
    yield "photo away", lambda s, c: [photos.remove_photo(s, p.id) for p in photos.photos_of(s, 1)]
    yield "sweep", lambda s, c: sweep_files(s)
    yield "copy", lambda s, c: back_up(s.folder, "daily", now=s.now)
    yield "own value back", lambda s, c: own_values.take_back(
        s, ("family", "alto_saxophone", "step", "body_swab", "hands_min")
    )  # fmt: skip
    for n in range(30):
        yield f"and on {n}", _next_step
    yield "ready", lambda s, c: release_check.make_ready(s, 1)
    yield "second copy", lambda s, c: back_up(s.folder, "daily", now=s.now + timedelta(hours=1))


def _next_step(shop: Shop, clock: HandClock) -> None:
    hand = Hand(shop, clock)
    view = hand.view(1)
    step = next((s for s in view.open_steps if s.state in ("ready", "waiting")), None)
    if step is not None:
        found = {"pads": {"G sharp": "sticks"}, "mouthpiece": "lime"} if step.step.kind == "look" else {}
        hand.do(1, step.step.key, **found)


@dataclass(frozen=True)
class Before:
    """The shop before an action: its folder, its time, how many entries it had, how many calls the action takes."""

    name: str
    act: Act
    folder: Path
    utc: str
    entries: int
    calls: int


def entries_of(shop: Shop) -> int:
    """How many entries are on record."""
    with shop.reading() as session:
        return int(session.connection.exec_driver_sql("SELECT count(*) FROM journal").scalar_one())


def opened(folder: Path, utc: str) -> tuple[Shop, HandClock]:
    """The shop at a time."""
    from datetime import datetime

    clock = HandClock(datetime.fromisoformat(utc))
    clock.boot_id = f"boot {secrets.token_hex(4)}"  # another run of the computer
    return Shop(folder, clock), clock


def plain_day(place: Path, faults: Faults, first: int | None = None) -> list[Before]:
    """The day without faults, or its first actions: each with the shop as it was before it."""
    found = []
    clock = HandClock(MORNING)
    live = place / "live"
    shop, clock = opened(live, clock.now().isoformat())
    entries = entries_of(shop)
    shop.close()
    for n, (name, act) in enumerate(islice(actions(), first)):
        utc = clock.now().isoformat()
        kept = place / f"before-{n}"
        shutil.copytree(live, kept)
        shop, clock = opened(live, utc)
        faults.arm("full", 0)
        act(shop, clock)
        calls = faults.disarm()
        found.append(Before(name, act, kept, utc, entries, calls))
        entries = entries_of(shop)
        shop.close()
        clock.advance(minutes=1)
    return found


def one_case(before: Before, faults: Faults, kind: str, at: int, place: Path) -> str:
    """Do an action with one call going wrong; what came of it: "refused", "acknowledged" or "killed".

    Raises:
        AssertionError: something acknowledged is not there, or the way back does not work.
    """
    folder = place / "case"
    shutil.rmtree(folder, ignore_errors=True)
    shutil.copytree(before.folder, folder)
    mine, theirs = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(mine)
        answer = b"fault"
        try:
            shop, clock = opened(folder, before.utc)
            said: list[int] = []
            shop.listen(lambda done: said.append(done.entry))
            faults.arm(kind, at)
            try:
                before.act(shop, clock)
                answer = b"acknowledged"
            except CreekbedError as error:
                assert error.happened and error.safe is not None
                answer = b"refused"
            faults.disarm()
            answer += f" {len(said)}".encode()
        except BaseException:  # noqa: BLE001  # whatever it is, it is neither acknowledged nor refused
            traceback.print_exc()
        os.write(theirs, answer)
        os._exit(0)
    os.close(theirs)
    with os.fdopen(mine, "rb") as pipe:
        answer = pipe.read().decode()
    os.waitpid(child, 0)
    what, _, count = answer.partition(" ")
    assert what != "fault", "neither acknowledged nor refused in words"
    _way_back(before, folder, what or "killed", int(count or 0))
    return what or "killed"


def _way_back(before: Before, folder: Path, what: str, acknowledged: int) -> None:
    shop, clock = opened(folder, before.utc)
    try:
        entries = entries_of(shop)
        assert entries >= before.entries + acknowledged, f"{before.entries + acknowledged - entries} entries lost"
        if what == "refused":
            assert entries == before.entries + acknowledged, "refused, but on record"
        assert find(folder) == []
        _files(shop)
        with contextlib.suppress(Refused, BadInput):  # done already, if it was on record when it was cut off
            before.act(shop, clock)
        assert find(folder) == []
        _files(shop)
    finally:
        shop.close()


def _files(shop: Shop) -> None:
    """What lies beside the records: photographs that they name, own values as they are on record, good copies only."""
    for job in (1, 2):
        for photo in photos.photos_of(shop, job):
            assert PhotoStore(shop.folder).path(photo.name).exists(), "a photograph on record is not on disk"
    assert all(is_good(p) for p in copies_in(shop.folder / "backups"))
    kept = shop.setting("own_values")
    path = shop.own_folder / "overrides.toml"
    assert (path.read_text() if path.exists() else "") == (kept["text"] if kept else "")


def first_starts(faults: Faults, kinds: tuple[str, ...], every: int, place: Path) -> tuple[int, list[str]]:
    """The first start of a shop, with one call going wrong: how many cases, and what went wrong."""
    faults.arm("full", 0)
    Shop(place / "first", HandClock(MORNING)).close()
    calls, cases, wrong = faults.disarm(), 0, []
    for kind in kinds:
        for at in range(1, calls + 1, every):
            folder = place / "start"
            shutil.rmtree(folder, ignore_errors=True)
            child = os.fork()
            if child == 0:
                faults.arm(kind, at)
                try:
                    Shop(folder, HandClock(MORNING))
                    os._exit(0)
                except CreekbedError:
                    os._exit(1)
                except BaseException:  # noqa: BLE001  # whatever it is, it is not in words
                    traceback.print_exc()
                    os._exit(2)
            _, status = os.waitpid(child, 0)
            cases += 1
            try:
                assert not os.WIFEXITED(status) or os.WEXITSTATUS(status) < 2, "not in words"
                shop = Shop(folder, HandClock(MORNING))
                stock.book_in_stock(shop, "soap_ml", 1.0)
                assert find(folder) == []
                shop.close()
            except (AssertionError, CreekbedError) as error:
                wrong.append(f"first start, {kind} at {at} of {calls}: {error}")
    return cases, wrong


def run(
    every: int, kinds: tuple[str, ...], place: Path, part: tuple[int, int] = (0, 1), first: int | None = None
) -> tuple[Counter[str], list[str]]:
    """Cases of the day: how many came to what, and what went wrong."""
    faults = Faults()
    day = plain_day(place, faults, first)
    told: Counter[str] = Counter()
    told["first starts"], wrong = first_starts(faults, kinds, max(every // 4, 1), place)
    sampled = Counter[str]()  # counted for each kind alone: whatever the number of writes, each kind has its share
    for before in day:
        print(f"{sum(told.values()):6} cases, {len(wrong)} wrong: {before.name}", file=sys.stderr)
        for kind in kinds:
            for at in range(1, before.calls + 1):
                sampled[kind] += 1
                n = sampled[kind]
                if n % every or (n // every) % part[1] != part[0]:
                    continue
                try:
                    told[one_case(before, faults, kind, at, place)] += 1
                except (AssertionError, CreekbedError) as error:
                    wrong.append(f"{before.name}, {kind} at {at} of {before.calls}: {error}")
    told["actions"], told["writes"] = len(day), sum(b.calls for b in day)
    return told, wrong


def main() -> int:
    """The whole day, or part of it."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--every", type=int, default=1)
    parser.add_argument("--part", type=int, nargs=2, default=(0, 1), metavar=("N", "OF"))
    parser.add_argument("--first", type=int, help="only so many actions")
    parser.add_argument("--kinds", nargs="+", default=["full", "disk", "kill"])
    given = parser.parse_args()
    shared = Path("/dev/shm")
    with tempfile.TemporaryDirectory(dir=shared if shared.is_dir() else None) as place:
        told, wrong = run(given.every, tuple(given.kinds), Path(place), tuple(given.part), given.first)
    print(dict(told))
    for line in wrong:
        print(line)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
