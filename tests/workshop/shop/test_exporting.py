"""Export with progress: left in the middle, nothing of it is there; what was there before is as it was."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from creekbed.core.errors import BadInput, Refused, StoreProblem
from creekbed.store.maintenance import all_copies, back_up
from creekbed.store.records import Instrument
from creekbed.workshop.shop.exporting import export_to
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand


@pytest.fixture
def full(shop: Shop, hand: Hand) -> Shop:
    hand.book()
    with shop.act("made") as act:
        act.records.add_all(
            Instrument(tag=f"X-{n:05d}", family="violin", size="4/4", created_at=shop.now) for n in range(3000)
        )
    return shop


@pytest.mark.parametrize("csv", [False, True])
def test_progress_rises_to_the_end_and_all_is_there(full: Shop, tmp_path: Path, csv: bool) -> None:
    shares: list[float] = []

    def note(share: float) -> bool:
        shares.append(share)
        return True

    to = tmp_path / ("out" if csv else "out.json")
    export_to(full, to, csv=csv, progress=note)
    assert shares == sorted(shares) and shares[0] == 0 and 0.7 < shares[-1] <= 1 and len(shares) > 5
    if csv:
        assert len((to / "instrument.csv").read_text().splitlines()) == 3002  # the head, one on the bench, 3,000
    else:
        assert len(json.loads(to.read_text())["tables"]["instrument"]) == 3001
    assert not list(tmp_path.glob("*.part*"))


@pytest.mark.parametrize("csv", [False, True])
def test_given_up_nothing_is_there(full: Shop, tmp_path: Path, csv: bool) -> None:
    to = tmp_path / ("out" if csv else "out.json")
    with pytest.raises(BadInput, match="Given up"):
        export_to(full, to, csv=csv, progress=lambda share: share < 0.5)
    assert list(tmp_path.iterdir()) == [p for p in tmp_path.iterdir() if p.name == "shop"]


def test_given_up_over_an_old_export_that_stays(full: Shop, tmp_path: Path) -> None:
    export_to(full, tmp_path / "out", csv=True)
    before = {p.name: p.read_bytes() for p in (tmp_path / "out").iterdir()}
    with pytest.raises(Refused):
        export_to(full, tmp_path / "out", csv=True)
    with pytest.raises(BadInput):
        export_to(full, tmp_path / "out", csv=True, replace=True, progress=lambda share: share < 0.5)
    assert {p.name: p.read_bytes() for p in (tmp_path / "out").iterdir()} == before


def test_where_it_cannot_be_written_it_says_so(full: Shop, tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    with pytest.raises((StoreProblem, Refused)):
        export_to(full, tmp_path / "file" / "out.json", csv=False)


def test_a_copy_that_is_given_up_is_none(full: Shop) -> None:
    before = len(all_copies(full.folder))
    for stop in (0.0, 0.4, 0.5):
        with pytest.raises(BadInput, match="no copy was made"):
            back_up(full.folder, "by-hand", now=full.now, progress=lambda share, stop=stop: share < stop)  # type: ignore[misc]
    assert len(all_copies(full.folder)) == before
    shares: list[float] = []
    back_up(full.folder, "by-hand", now=full.now, progress=lambda share: not shares.append(share))  # type: ignore[func-returns-value]
    assert shares == sorted(shares) and len(all_copies(full.folder)) == before + 1


@pytest.mark.parametrize("csv", [False, True])
def test_a_place_that_cannot_be_looked_at_is_refused(full: Shop, tmp_path: Path, csv: bool) -> None:
    with pytest.raises(Refused, match="cannot be looked at: File name too long"):
        export_to(full, tmp_path / ("x" * 300), csv=csv)
