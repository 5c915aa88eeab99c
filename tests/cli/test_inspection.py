"""The shell commands of looking over."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from creekbed.core.catalogue.load import shipped
from tests.cli.test_cli import facts, run
from tests.core.airtight.test_leak_fit import fall
from tests.worlds.drops import heard


def record(path: Path, name: str = "pressure_pa", factor: float = 1.0) -> Path:
    t, p = fall("laminar", 20.0)
    rows = [f"time_s,{name}"] + [f"{a:.3f},{b * factor:.4f}" for a, b in zip(t, p, strict=True)]
    path.write_text("\n".join(rows), encoding="utf-8")
    return path


def test_leak(capsys: Any, tmp_path: Path) -> None:
    found = facts(capsys, "leak", str(record(tmp_path / "a.csv")), "--volume", "100 ml")
    assert found["law"] == "laminar" and found["flow_ml_min"] == pytest.approx(20.0, abs=3 * found["flow_u_ml_min"])
    same = facts(capsys, "leak", str(record(tmp_path / "b.csv", "pressure_kpa", 0.001)), "--volume", "0.1 l")
    assert same["flow_ml_min"] == pytest.approx(found["flow_ml_min"], abs=0.3 * found["flow_u_ml_min"])
    status, out, _ = run(capsys, "leak", str(tmp_path / "a.csv"), "--volume", "100 ml")
    assert status == 0 and "ml/min at 2.5 kPa (k = 2)" in out


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no columns"),
        ("a,b\n1,2\n", "no columns"),
        ("time_s,pressure_pa\n1,x\n", "line 2 is no reading"),
        ("time_s,pressure_pa\n1\n", "line 2 is no reading"),
        ("time_s,pressure_pa\n1,2\n", "too few"),
        ("time_s,pressure_pa\n" + "1," * 3_000_000, "larger than 4 MB"),
    ],
)
def test_records_that_are_none(capsys: Any, tmp_path: Path, text: str, words: str) -> None:
    path = tmp_path / "x.csv"
    path.write_text(text, encoding="utf-8")
    status, out, err = run(capsys, "leak", str(path), "--volume", "100 ml")
    assert (status, out) == (1, "") and words in err
    path.write_bytes(b"\xff\xfe\x00")
    assert run(capsys, "leak", str(path), "--volume", "100 ml")[0] == 1
    assert run(capsys, "leak", str(tmp_path / "none.csv"), "--volume", "100 ml")[0] == 1


def test_leak_pads(capsys: Any) -> None:
    found = facts(capsys, "leak-pads", "Alto saxophone", "--good", "B4", "A4", "--bad", "G4", "F4", "E4", "D4", "C4")
    assert found["ranked"][0]["pad"] == "g_sharp" and found["next"]["note"]
    held = facts(capsys, "leak-pads", "clarinet", "--bad", "E3", "F3", "--good", "E3/low_f")
    assert held["ranked"][0]["pad"] == "low_f"
    assert run(capsys, "leak-pads", "Trumpet", "--good", "C4")[0] == 1
    assert "not in the table" in run(capsys, "leak-pads", "flute", "--good", "Q4")[2]


def test_friction(capsys: Any, tmp_path: Path) -> None:
    found = facts(capsys, "friction", "--mass", "450 g", "--pull", "1.2 N", "1.25 N")
    assert found["force_n"] == pytest.approx(1.225) and found["ratio"] == pytest.approx(
        1.225 / 0.45 / 9.80665, abs=1e-5
    )
    drop = ("friction", "--mass", "0.45 kg", "--drop", "25 cm", "--time", "0.25 s")
    assert facts(capsys, *drop, "--timed-by", "sound")["force_n"] == pytest.approx(0.813, abs=0.001)
    assert "by hand" in run(capsys, *drop)[2]
    path = tmp_path / "fall.wav"
    soundfile.write(path, heard(np.random.default_rng(5), 0.238), 44_100)
    fell = facts(capsys, "friction", "--mass", "452 g", "--drop", "20 cm", "--recording", str(path))
    assert fell["ratio"] == pytest.approx(0.28, abs=0.06) and fell["how"] == "from a drop, by sound"
    assert run(capsys, "friction", "--mass", "450 g")[0] == 1


def test_valves(capsys: Any) -> None:
    found = facts(capsys, "valves", "--open", "none", "--3", "air", "--2", "none")
    assert len(found["fit"]) == 6 and "Casing 2" in found["next"]
    assert run(capsys, "valves", "--open", "air", "--3", "none")[0] == 1


def test_photo(capsys: Any) -> None:
    corners = [a for x, y in ((100, 100), (956, 100), (956, 639.8), (100, 639.8)) for a in ("--corner", str(x), str(y))]
    points = ["--point", "100", "200", "--point", "956", "200"]
    assert facts(capsys, "photo", "length", *corners, *points, "--card")["value_mm"] == pytest.approx(85.6, abs=1e-3)
    sized = facts(capsys, "photo", "length", *corners, *points, "--size", "171.2 mm", "10.796 cm")
    assert sized["value_mm"] == pytest.approx(171.2, abs=1e-3)
    ruled = facts(capsys, "photo", "length", *corners[:6], *points, "--ruler", "4 in")
    assert ruled["value_mm"] == pytest.approx(101.6, abs=1e-3)
    assert run(capsys, "photo", "length", *corners, *points)[0] == 1
    assert run(capsys, "photo", "lean", *corners, *points, "--card")[0] == 1


def test_check(capsys: Any) -> None:
    """2.9° with u 0.2° against 3°: the chance that the truth is beyond is 31 % (normal distribution)."""
    found = facts(capsys, "check", "Violin", "bridge_lean", "--found", "2.9°", "--u", "0.2°")
    assert found["band"] == "again" and found["verdict"] is None and "31 %" in found["reason"]
    assert facts(capsys, "check", "Violin", "sound_post", "--found", "fallen")["verdict"] == "specialist"
    pads = facts(capsys, "check", "alto_saxophone", "pads", "--found", "G sharp: torn", "low B: wet")
    assert pads["verdict"] == "specialist" and pads["trade"] == "woodwind repairer"
    assert facts(capsys, "check", "alto_saxophone", "pads", "--found", "none")["band"] == "green"
    small = facts(capsys, "check", "Violin", "string_height", "--found", "4.2 mm", "--size", "1/2", "--u", "0.01 mm")
    assert small["band"] == "green"
    assert facts(capsys, "check", "Violin", "string_height", "--found", "4.2 mm")["band"] == "amber"
    assert any(r["key"] == "seams" for r in facts(capsys, "check", "Violin")["checks"])
    for wrong in (("kazoo",), ("Violin", "gongs"), ("Violin", "pegs", "--found", "Q: slips")):
        assert run(capsys, "check", *wrong)[0] == 1
    assert "one answer" in run(capsys, "check", "Violin", "sound_post", "--found", "a", "b")[2]
    assert "no size" in run(capsys, "check", "Violin", "string_height", "--found", "4 mm", "--size", "9/8")[2]


def test_no_check_is_ready_unless_somebody_looked(capsys: Any) -> None:
    """Every check of a family of each group without an answer asks for one; by places "none" says that all is well."""
    for family in (group[0] for group in shipped().groups().values()):
        for check in family.check:
            status, out, err = run(capsys, "check", family.key, check.key)
            assert status == 1 and out == "" and "was not looked at" in err, (family.key, check.key)
            if check.kind == "places":
                assert run(capsys, "check", family.key, check.key, "--found", "none")[1].startswith("ready")


def test_negative_values_bare_numbers_and_files_that_are_not_there(capsys: Any, tmp_path: Path) -> None:
    found = facts(capsys, "dew-point", "--air", "-5", "--humidity", "0.5")
    assert found["dew_point_c"] < -50 and found["read_as"] == [
        "The air: −5 is read as −5 °C.", "The humidity: 0.5 is read as 0.5 %."
    ]  # fmt: skip
    missing = str(tmp_path / "nowhere.csv")
    status, _, err = run(capsys, "leak", missing, "--volume", "120 ml")
    assert status == 1 and "There is no file" in err and "nowhere.csv" in err
    status, _, err = run(
        capsys, "swab", "clarinet/mouthpiece", "--width", "300 mm", "--thickness", "0.4 mm", "--stuff", "fog"
    )
    assert status == 2
    jams = facts(capsys, "swab", "clarinet/mouthpiece", "--width", "300 mm", "--thickness", "0.4 mm")
    assert jams["fit"] == "jams" and jams["enter"] is None


def test_a_record_in_other_units(capsys: Any, tmp_path: Path) -> None:
    """The same fall in Pa and s, in mbar and ms, and in inches of mercury (NIST SP 811, B.8)."""
    t = [0.1 * n for n in range(250)]
    p = [0.0 if x < 5 else 2500 * math.exp(-(x - 5) / 9.0) for x in t]
    flows = []
    for head, seconds, pascal in (
        ("time_s,pressure_pa", 1.0, 1.0), ("time_ms,pressure_mbar", 1000.0, 0.01),
        ("time_s,pressure_inhg", 1.0, 1 / 3386.389),
    ):  # fmt: skip
        path = tmp_path / "fall.csv"
        path.write_text("\n".join([head, *(f"{x * seconds:.6f},{y * pascal:.8f}" for x, y in zip(t, p, strict=True))]))
        found = facts(capsys, "leak", str(path), "--volume", "120 ml")
        flows.append(found["flow_ml_min"])
        assert found["trust"]["basis"] == "coverage tested"
    assert flows[1] == pytest.approx(flows[0], rel=1e-3) and flows[2] == pytest.approx(flows[0], rel=1e-3)
    path.write_text("\n".join(["time_s,pressure_pa", *(f"{x * 1000:.1f},{y:.3f}" for x, y in zip(t, p, strict=True))]))
    status, _, err = run(capsys, "leak", str(path), "--volume", "120")
    assert status == 1 and "milliseconds" in err


def test_a_pressure_that_rises_is_no_leak(capsys: Any, tmp_path: Path) -> None:
    path = tmp_path / "rises.csv"
    rows = [f"{0.1 * n},{0.0 if n < 50 else 2000 + 3.0 * (n - 50)}" for n in range(300)]
    path.write_text("\n".join(["time_s,pressure_pa", *rows]))
    status, _, err = run(capsys, "leak", str(path), "--volume", "120 ml")
    assert status == 1 and "rises" in err and "does not look like a leak" in err
