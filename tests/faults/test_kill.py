"""Killed at any moment (SIGKILL, again and again): everything acknowledged is there, nothing is half done."""

from __future__ import annotations

import os
import random
import select
import signal
import subprocess
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path

from creekbed.store.journal import dump, replay
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop

# Works job after job and says each acknowledged entry on its standard output.
ROOT = Path(__file__).parents[2]
HERE = {**os.environ, "PYTHONPATH": os.pathsep.join((str(ROOT), str(ROOT / "src")))}
"""The processes run the code beside these tests, wherever it is installed."""

WORKER = """
import sys
from datetime import datetime, timedelta
from pathlib import Path
from tests.conftest import Hand
from creekbed.workshop.release import release_check
from creekbed.workshop.supplies import stock
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop

clock = HandClock(datetime.fromisoformat(sys.argv[2]))
shop = Shop(Path(sys.argv[1]), clock)
shop.look_at_clock()
out = sys.stdout

def say(done):
    out.write(f"{done.entry} {clock.now().isoformat()}\\n")
    out.flush()

shop.listen(say)
hand = Hand(shop, clock)
number = int(sys.argv[3])
stock.book_in_stock(shop, "peroxide_6_ml", 1000, strength_pct=6.0, lot=f"L{number}")
for item in ("reed_alto_2", "string_violin_a", "soap_ml", "pad_paper", "vinegar_ml", "cork_grease_ml"):
    stock.book_in_stock(shop, item, 50)
while True:
    number += 1
    if number % 2:
        job = hand.book(f"MH-{number:04d}")
        hand.until(job, "pack", pads={"G sharp": "sticks"})
    else:
        job = hand.book(f"MH-{number:04d}", "violin")
        hand.until(job, "pack", strings={"A": "worn"})
    shop.undo()
    hand.do(job, "pack")
    release_check.make_ready(shop, job)
"""


def test_killed_again_and_again(tmp_path: Path) -> None:
    folder, chance = tmp_path / "shop", random.Random(11)
    now = datetime(2026, 11, 19, 9, 0, tzinfo=UTC)
    acknowledged: list[int] = []
    root = str(ROOT)
    for round_number in range(4):
        worker = subprocess.Popen(
            [sys.executable, "-c", WORKER, str(folder), now.isoformat(), str(round_number * 100)],
            stdout=subprocess.PIPE, cwd=root, env=HERE, bufsize=0,
        )  # fmt: skip
        assert worker.stdout is not None
        wanted, seen, rest = chance.randint(3, 45), 0, b""
        while seen < wanted:
            readable, _, _ = select.select([worker.stdout], [], [], 60)
            assert readable, "the worker said nothing for a minute"
            chunk = os.read(worker.stdout.fileno(), 4096)
            assert chunk, "the worker ended by itself"
            *whole, rest = (rest + chunk).split(b"\n")
            for line in whole:
                entry, at = line.decode().split()
                acknowledged.append(int(entry))
                now = datetime.fromisoformat(at)
                seen += 1
        os.kill(worker.pid, signal.SIGKILL)  # somewhere in the middle of the next action
        for line in (rest + worker.stdout.read()).split(b"\n")[:-1]:
            entry, at = line.decode().split()
            acknowledged.append(int(entry))
            now = datetime.fromisoformat(at)
        worker.wait()
        worker.stdout.close()
        now += timedelta(minutes=1)
        shop = Shop(folder, HandClock(now))
        with shop.reading() as session:
            entries = session.journal.changes_since(0, 1_000_000)
            assert session.connection.exec_driver_sql("PRAGMA integrity_check").scalar() == "ok"
            assert session.connection.exec_driver_sql("PRAGMA foreign_key_check").all() == []
            assert replay(changes for _, changes in entries) == dump(session.connection)
        assert set(acknowledged) <= {number for number, _ in entries}
        assert len(entries) - len(set(acknowledged)) <= round_number + 1  # at most the one action cut off each time
        shop.close()
    assert len(acknowledged) > 40


THINKING = """
import sys, threading
from creekbed.core.planning.requests import PlannerRequest
from creekbed.workshop.planning.planner_process import PlannerProcess
from creekbed.workshop.planning.planner_server import SEARCH

class Endless(PlannerRequest):
    def answer(self):
        threading.Event().wait()

if __name__ == "__main__":
    process = PlannerProcess()
    process.submit(Endless(), urgency=SEARCH, seconds=600.0)
    print(process.pid, flush=True)
    sys.stdin.read()
"""


def test_what_thinks_goes_when_the_window_is_killed(tmp_path: Path) -> None:
    script = tmp_path / "thinking.py"
    script.write_text(THINKING)
    window = subprocess.Popen(
        [sys.executable, str(script)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env=HERE
    )  # fmt: skip
    assert window.stdout is not None
    thinking = os.pidfd_open(int(window.stdout.readline()))
    window.kill()
    window.wait()
    assert select.select([thinking], [], [], 30.0)[0], "it goes on without a window"
    os.close(thinking)
