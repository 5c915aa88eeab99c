"""A sample of the working day whose every write is failed or cut off once; ``tests/faults/day.py`` runs all of it."""

from __future__ import annotations

import ast
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_a_day_of_failed_writes_and_kills() -> None:
    done = subprocess.run(
        [sys.executable, "-m", "tests.faults.day", "--every", "401"], cwd=ROOT, capture_output=True, text=True,
        timeout=400, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr
    told = ast.literal_eval(done.stdout.splitlines()[0])
    assert told["actions"] > 70 and told["writes"] > 1200
    assert told["killed"] >= 3 and told["refused"] >= 8


def test_the_harness_would_notice_a_lost_action() -> None:
    """An action that is acknowledged before it is on disk fails the harness: it can fail."""
    code = (
        "from contextlib import contextmanager\n"
        "from creekbed.core.errors import StoreProblem\n"
        "from creekbed.store.store import Store\n"
        "real = Store.change\n"
        "@contextmanager\n"
        "def hasty(self, **how):\n"
        "    try:\n"
        "        with real(self, **how) as change: yield change\n"
        "    except StoreProblem:\n"
        "        if not change.entries: raise\n"
        "Store.change = hasty\n"
        "import sys; from tests.faults.day import main; sys.exit(main())\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, "--every", "61", "--first", "14", "--kinds", "full"], cwd=ROOT,
        capture_output=True, text=True, timeout=400, check=False,
    )  # fmt: skip
    assert done.returncode == 1 and "entries lost" in done.stdout, done.stdout + done.stderr
