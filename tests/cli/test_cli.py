"""The shell commands as scripts use them: output, exit status, what goes to standard error."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from creekbed.cli.main import main
from creekbed.core.errors import Refused
from creekbed.demo.folder import MARKER, day_is_over, demo_clock, is_made, last_thursday, reset
from creekbed.store.layout import FILE
from creekbed.store.sqlite.backup import back_up
from tests.conftest import MORNING


def run(capsys: Any, *arguments: str) -> tuple[int, str, str]:
    status = main(arguments)
    out, err = capsys.readouterr()
    return status, out, err


def facts(capsys: Any, *arguments: str) -> dict[str, Any]:
    status, out, err = run(capsys, *arguments, "--json")
    assert status == 0, err
    return dict(json.loads(out))


def test_mix(capsys: Any) -> None:
    """500 ml of 3 % from 6 %: 250 ml and 250 ml (arithmetic)."""
    found = facts(capsys, "mix", "--from", "6 %", "--to", "3 %", "--make", "500 ml")
    assert (found["stock_ml"], found["diluent_ml"], found["strength_pct"]) == (250.0, 250.0, 3.0)
    assert all(k.endswith(("_ml", "_pct")) or k in ("basis", "trust") for k in found)
    found = facts(capsys, "mix", "--from", "12 %", "--to", "2.5 %", "--make", "2 cups", "--marks", "25 ml")
    assert found["stock_ml"] == 100.0 and found["stock_exact_ml"] == pytest.approx(98.578, abs=0.001)
    assert found["strength_pct"] == pytest.approx(12 * 100 / 473.176, abs=0.001)


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--from", "3 %", "--to", "6 %", "--make", "500 ml"), "weaker"),
        (("--from", "0 %", "--to", "0 %", "--make", "500 ml"), "more than 0"),
        (("--from", "6 %", "--to", "3 %", "--make", "0 ml"), "more than 0"),
        (("--from", "6 %", "--to", "3 %", "--make", "500 kg"), "does not measure"),
        (("--from", "banana", "--to", "3 %", "--make", "500 ml"), "not a number"),
        (("--from", "6 %", "--to", "-3 %", "--make", "500 ml"), "more than 0"),
    ],
)
def test_mix_refused(capsys: Any, arguments: tuple[str, ...], words: str) -> None:
    status, out, err = run(capsys, "mix", *arguments)
    assert status == 1 and out == "" and words in err


@pytest.mark.parametrize(
    "arguments", [(), ("juggle",), ("mix",), ("mix", "--from", "6 %"), ("plan", "--xml"), ("history",)]
)
def test_usage(capsys: Any, arguments: tuple[str, ...]) -> None:
    status, out, err = run(capsys, *arguments)
    assert status == 2 and out == "" and "usage" in err


def test_help(capsys: Any) -> None:
    status, out, _ = run(capsys, "--help")
    assert status == 0 and "history" in out


def test_calculators(capsys: Any) -> None:
    climate = facts(capsys, "acclimatise", "--case", "4 °C")
    assert climate["dew_point_c"] == pytest.approx(9.272, abs=0.002)  # psychrolib
    assert climate["condenses_if_opened_now"] is True
    warm = facts(capsys, "acclimatise", "--case", "86 °F", "--room", "68 °F", "--humidity", "40 %", "--tau", "1 h")
    assert warm["wait_min"] == pytest.approx(60 * 1.20397, abs=0.1)  # 60·ln(10/3)
    tension = facts(
        capsys, "tension", "--stated", "58 N", "--stated-length", "328 mm", "--length", "283 mm", "--pitch", "A4"
    )
    assert tension["tension_n"] == pytest.approx(58 * (283 / 328) ** 2, abs=0.001)  # Mersenne's law
    lean = facts(capsys, "lean", "--height", "30 mm", "--gap", "1/4 in")
    assert lean["lean_deg"] == pytest.approx(11.95, abs=0.01) and lean["verdict"] == "specialist" and lean["k"] == 2
    settled = facts(capsys, "settle")
    string = ("string", "--length", "25.5 in", "--pitch", "E4")
    thin = facts(capsys, *string, "--diameter", "0.010 in", "--angle", "165°")
    assert thin["tension_n"] == pytest.approx(72.5, abs=0.1)  # charts print 16.2 lbf, from memory
    assert thin["bridge_load_n"] == pytest.approx(2 * thin["tension_n"] * 0.130526, abs=0.01)  # cos 82.5°
    assert facts(capsys, *string, "--wanted", "72.5 N")["diameter_mm"] == pytest.approx(0.254, abs=0.001)
    assert "breaks before" in run(capsys, "string", "--length", "700 mm", "--pitch", "E5", "--diameter", "0.2 mm")[1]
    for wrong in ((), ("--diameter", "9 mm"), ("--diameter", "0.2 mm", "--wanted", "60 N"), ("--wanted", "x")):
        assert run(capsys, *string, *wrong)[0] == 1
    plain = 5 * (2.718281828**1.25 - 1)  # τ(e^(15/12) − 1): the house's own law, which is the middle of the prior
    low, high = settled["next_retune_95_min"]
    assert low < plain < high and settled["next_retune_min"] == pytest.approx(plain, rel=0.5)
    assert settled["holds"] is False and settled["chance_to_hold"] < 0.5
    worse = facts(capsys, "settle", "--read", "0", "12", "30 cents")
    assert worse["first_day_cents"] > settled["first_day_cents"] and sum(worse["laws"].values()) == pytest.approx(
        1, abs=0.002
    )
    assert run(capsys, "settle", "--read", "0", "12", "-100 cents")[0] == 1
    assert run(capsys, "settle", "--family", "flute")[0] == 1
    assert run(capsys, "settle", "--read", "12", "0", "3")[0] == 1
    status, out, _ = run(capsys, "acclimatise", "--case", "4 °C")
    assert status == 0 and "gather water" in out


def test_a_better_plan_of_the_demo(capsys: Any, demo_folder: Path) -> None:
    found = facts(capsys, "--demo", "--folder", str(demo_folder), "plan", "--better", "2")["better"]
    assert found["bound"] <= found["cost"] <= found["cost_now"] and found["first"] and "possible" in found["words"]


def test_demo_plan(capsys: Any, demo_folder: Path) -> None:
    found = facts(capsys, "--demo", "--folder", str(demo_folder), "plan")
    assert found["next"]["what"] and found["next"]["why"]
    departures = {b["name"]: b for b in found["departures"]}
    assert len(departures) == 3 and sum(len(b["items"]) for b in departures.values()) >= 15
    late = [a for b in departures.values() for a in b["items"] if a["late_min"] > 0 or a["blocked"]]
    assert late and len(found["waits"]) >= 3
    status, out, _ = run(capsys, "--demo", "--folder", str(demo_folder), "plan")
    assert status == 0 and out.startswith("Next: MH-")


def test_history(capsys: Any, demo_folder: Path) -> None:
    found = facts(capsys, "--demo", "--folder", str(demo_folder), "history", "mh-0142")
    period = found["periods"][0]
    assert period["job_state"] == "open" and {c["status"] for c in period["condition"]} & {"grown", "new"}
    assert len(found["periods"]) >= 2 and period["parts"]
    status, _, err = run(capsys, "--demo", "--folder", str(demo_folder), "history", "MH-9999")
    assert status == 1 and "No instrument MH-9999" in err
    status, _, err = run(capsys, "--demo", "--folder", str(demo_folder), "history", "'; DROP TABLE job; --")
    assert status == 1 and "not a tag" in err
    status, out, _ = run(capsys, "--demo", "--folder", str(demo_folder), "history", "MH-0142")
    assert status == 0 and "Neck-cork fit" in out


def test_export(capsys: Any, demo_folder: Path, tmp_path: Path) -> None:
    target = tmp_path / "out.json"
    status, _, _ = run(capsys, "--demo", "--folder", str(demo_folder), "export", "--to", str(target))
    assert status == 0 and target.stat().st_mode & 0o777 == 0o600
    tables = json.loads(target.read_text())["tables"]
    assert len(tables["instrument"]) >= 60 and len(tables["hire"]) >= 120
    assert run(capsys, "--demo", "--folder", str(demo_folder), "export", "--csv")[0] == 2
    status, _, _ = run(capsys, "--demo", "--folder", str(demo_folder), "export", "--csv", "--to", str(tmp_path / "csv"))
    assert status == 0 and (tmp_path / "csv" / "instrument.csv").exists()


def test_restore(capsys: Any, demo_folder: Path) -> None:
    status, _, err = run(capsys, "--folder", str(demo_folder), "restore")
    assert status == 1 and "no copy" in err
    back_up(demo_folder, "daily")
    status, out, _ = run(capsys, "--folder", str(demo_folder), "restore")
    assert status == 0 and "kept as" in out


def test_a_damaged_file_is_refused_with_reason(capsys: Any, demo_folder: Path) -> None:
    (demo_folder / FILE).write_bytes(b"rubbish" * 3000)
    status, out, err = run(capsys, "--demo", "--folder", str(demo_folder), "plan", "--json")
    assert status == 1 and out == "" and "damaged" in err


def test_the_demo_window_opens_and_says_how_long(demo_folder: Path) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "creekbed", "--demo", "--folder", str(demo_folder), "demo", "--offscreen",
         "--quit-when-shown"],
        capture_output=True, text=True, timeout=120, check=False, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert "window visible after" in done.stdout and "bench drawn after" in done.stdout


def test_the_window_on_damaged_records_exits_with_one(tmp_path: Path) -> None:
    (tmp_path / FILE).write_bytes(b"rubbish" * 3000)
    done = subprocess.run(
        [sys.executable, "-m", "creekbed", "--folder", str(tmp_path), "open", "--offscreen", "--quit-when-shown"],
        capture_output=True, text=True, timeout=120, check=False, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )  # fmt: skip
    assert done.returncode == 1


def test_the_demos_day(demo_folder: Path) -> None:
    clock = demo_clock(demo_folder)
    assert not day_is_over(demo_folder, clock.now())
    local = clock.now().astimezone()
    assert local.weekday() == 3 and (local.hour, local.minute) >= (11, 52)
    assert last_thursday(MORNING).weekday() == 3


def test_reset_touches_demo_shops_only(tmp_path: Path, demo_folder: Path) -> None:
    other = tmp_path / "photos"
    other.mkdir()
    (other / "cat.png").write_text("x")
    with pytest.raises(Refused, match="not touched"):
        reset(other)
    assert (other / "cat.png").exists()
    reset(demo_folder)
    assert not demo_folder.exists()
    reset(demo_folder)


def test_a_demo_left_half_made_is_begun_anew(capsys: Any, demo_folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import creekbed.demo.seed as seed

    (demo_folder / "making").touch()
    made: list[Path] = []

    def make(folder: Path, now: object, progress: object) -> None:
        made.append(folder)
        folder.mkdir(parents=True)
        (folder / MARKER).write_text('{"offset_seconds": 0, "began": "2026-11-19T11:52:00+00:00"}')

    monkeypatch.setattr(seed, "make_demo", make)
    assert is_made(demo_folder)
    assert run(capsys, "--demo", "--folder", str(demo_folder), "plan")[0] == 0
    assert made == [demo_folder]


def test_families_for_machines(capsys: Any) -> None:
    status, out, _ = run(capsys, "families", "--json")
    rows = {r["key"]: r for r in json.loads(out)}
    assert status == 0 and len(rows) == 24
    assert rows["violin"]["string_length_mm"]["4/4"] == 328.0 and rows["clarinet"]["sounds_semitones"] == -2
    status, out, _ = run(capsys, "families")
    assert "B flat clarinet" in out and status == 0


def test_a_job_that_nobody_booked_in(capsys: Any) -> None:
    status, out, err = run(
        capsys, "job", "B flat clarinet", "--policy", "clarinet_apart=bell_first", "--finding", "mouthpiece=lime",
        "--material", "upper=wood_bore", "--missing", "reed", "--renter", "young_child", "--json",
    )  # fmt: skip
    steps = {s["key"]: s for s in json.loads(out)}
    assert status == 0, err
    assert {"descale", "grease_apart"} <= set(steps) and "bore_oil" not in steps  # the lower joint is resin
    moves = [m["key"] for m in steps["apart"]["moves"]]
    assert moves.index("bell_off") < moves.index("mouthpiece_off") and "reed_off" not in moves
    assert steps["disinfect"]["wait"]["min_min"] == 10.0 and steps["look"]["mark_words"]
    status, out, _ = run(capsys, "job", "trumpet", "--lately", "bath=3")
    assert status == 0 and "Mind: " in out


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("kazoo",), "no family"), (("violin", "--policy", "tea=green"), "house rule"),
        (("violin", "--finding", "chin_rest"), "cannot be read"), (("violin", "--lately", "look=soon"), "days"),
        (("violin", "--size", "9/9"), "size"), (("clarinet", "--finding", "pads=low Z:wet"), "place"),
    ],
)  # fmt: skip
def test_a_job_that_cannot_be(capsys: Any, arguments: tuple[str, ...], words: str) -> None:
    status, out, err = run(capsys, "job", *arguments)
    assert status == 1 and words in err and not out


def test_chances_people_and_what_is_set(capsys: Any, demo_folder: Path) -> None:
    demo = ("--demo", "--folder", str(demo_folder))
    found = facts(capsys, *demo, "plan", "--better", "1")
    chances = [a["chance"] for b in found["departures"] for a in b["items"] if a["chance"] is not None]
    assert len(chances) >= 8 and all(0 <= c <= 1 for c in chances) and found["better"]["learned_from"] > 10
    assert [h["person"] for h in found["hands"]] == ["IW", "TO"] and found["hands"][1]["helper"]
    team = facts(capsys, *demo, "people", "--add", "AB 8-12")["people"]
    assert [p["person"] for p in team] == ["IW", "AB", "TO"]
    assert facts(capsys, *demo, "people", "--leaves", "AB")["people"][1]["here"] is False
    status, out, _ = run(capsys, *demo, "people", "--here", "AB", "--remove", "TO")
    assert status == 0 and "AB: " in out and "TO" not in out
    assert run(capsys, *demo, "people", "--add", "no initials")[0] == 1
    following = found["next"]
    open_ones = [a for b in found["departures"] for a in b["items"] if a["chance"] is not None]
    tag = next(a["tag"] for a in open_ones if a["tag"] != following["tag"])
    step = "pack"
    lock = facts(capsys, *demo, "set", tag, step, "--at", "16:30")
    assert lock["tag"] == tag and "set to" in lock["words"] and lock["start"]
    assert "may move it again" in facts(capsys, *demo, "set", tag, step, "--let-go")["words"]
    assert run(capsys, *demo, "set", tag, step, "--let-go")[0] == 1
    assert run(capsys, *demo, "set", tag, step, "--at", "noon")[0] == 1
    assert run(capsys, *demo, "set", "MH-9999", step)[0] == 1
    coming = facts(capsys, *demo, "part", tag, "pack", "a new strap, Tue 9:00")
    assert "a new strap comes Tue 09:00" in coming["words"] and coming["start"] > lock["start"]
    assert "is here" in facts(capsys, *demo, "part", tag, "pack")["words"]
    assert run(capsys, *demo, "part", tag, "pack")[0] == 1
    assert run(capsys, *demo, "part", tag, "pack", "a new strap")[0] == 1


def test_what_is_late_and_what_would_help(capsys: Any, demo_folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("creekbed.cli.plan.LATE_S", 0.5)  # it is late however long is thought
    demo = ("--demo", "--folder", str(demo_folder))
    late = facts(capsys, *demo, "late")["late"]
    assert late[0]["tag"] == "MH-0184" and late[0]["late_min"] > 0 and "work on it" in late[0]["why"]
    status, out, _ = run(capsys, *demo, "late", "MH-0184")
    assert status == 0 and out.startswith("MH-0184: ")
    assert run(capsys, *demo, "late", "MH-0142")[1].strip() == "Nothing is late."
    assert run(capsys, *demo, "late", "MH-9999")[0] == 1
    assert facts(capsys, *demo, "forecasts") == {"bands": []}


def test_how_long_steps_take_here(capsys: Any, demo_folder: Path) -> None:
    found = facts(capsys, "--demo", "--folder", str(demo_folder), "pace")
    assert found["records"] > 10 and found["steps"]
    for row in found["steps"]:
        assert row["median_min"] > 0 and row["factor_68_pct"] > 1 and row["records"] >= 1
    assert run(capsys, "--demo", "--folder", str(demo_folder), "pace")[1].count(" times)") == len(found["steps"])
    empty = run(capsys, "--folder", str(demo_folder.parent / "fresh"), "pace")
    assert empty[0] == 0 and "No length" in empty[1]


def test_room_and_hours(capsys: Any, demo_folder: Path) -> None:
    demo = ("--demo", "--folder", str(demo_folder))
    found = facts(capsys, *demo, "room")
    assert found["changed"] == [] and found["open"]["Sunday"] == "shut"
    assert {"key": "tub", "name": "tub", "room": 2, "alike_in_each": 4} in found["room"]
    changed = facts(capsys, *demo, "room", "tub=3", "Drying rack=9", "sunday=10-12")
    assert changed["changed"] == ["tub 3", "drying rack 9", "Sunday 10:00-12:00"]
    status, out, _ = run(capsys, *demo, "room", "tub=2", "rack=8", "Sunday=shut")
    assert status == 0 and out.startswith("Changed: ") and "tub: 2, 4 alike in each" in out
    for wrong in ("tub=none", "attic=4", "Monday=late"):
        assert run(capsys, *demo, "room", wrong)[0] == 1
