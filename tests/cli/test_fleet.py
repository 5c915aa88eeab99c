"""The shell commands of the fleet on the demo shop."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from tests.cli.test_cli import facts, run


@pytest.fixture
def demo(demo_folder: Path) -> tuple[str, ...]:
    """A copy of the demo shop that may be changed."""
    return ("--demo", "--folder", str(demo_folder))


def test_the_fleet_of_the_demo(capsys: Any, demo: tuple[str, ...]) -> None:
    found = facts(capsys, *demo, "instruments")["instruments"]
    assert len(found) > 60 and {"hired", "bench", "ready"} <= {r["place"] for r in found}
    few = facts(capsys, *demo, "instruments", "sax", "--place", "ready")["instruments"]
    assert few and all("saxophone" in r["family"] and r["place"] == "ready" for r in few)
    assert run(capsys, *demo, "instruments", "--place", "nowhere")[0] == 1
    status, out, _ = run(capsys, *demo, "instruments", "unobtainium")
    assert status == 0 and "No such instrument" in out


def test_hired_out_with_its_sheet_and_retired(capsys: Any, demo: tuple[str, ...], tmp_path: Path) -> None:
    tag = facts(capsys, *demo, "instruments", "--place", "ready")["instruments"][0]["tag"]
    sheet = tmp_path / "sheet.pdf"
    done = facts(
        capsys, *demo, "hire-out", tag, "--to", "R-200", "--until", "2027-06-30", "--sheet", str(sheet)
    )["hires"][0]  # fmt: skip
    assert done["renter"] == "R-200" and done["due_on"] == "2027-06-30" and done["condition"]
    assert sheet.read_bytes().startswith(b"%PDF")
    assert facts(capsys, *demo, "instruments", tag.lower())["instruments"][0]["place"] == "hired"
    status, _, err = run(capsys, *demo, "hire-out", tag, "--to", "R-201")
    assert status == 1 and "out with R-200 already" in err
    status, _, err = run(capsys, *demo, "standing", tag, "--as", "retire", "--why", "old")
    assert status == 1 and "is out" in err


def test_labels(capsys: Any, demo: tuple[str, ...], tmp_path: Path) -> None:
    out = tmp_path / "labels.pdf"
    found = facts(capsys, *demo, "labels", "violin", "--to", str(out), "--skip", "3")
    assert found["labels"] > 5 and out.read_bytes().startswith(b"%PDF")
    assert run(capsys, *demo, "labels", "violin", "--size", "9x9", "--to", str(out))[0] == 1
    assert run(capsys, *demo, "labels", "unobtainium", "--to", str(out))[0] == 1
