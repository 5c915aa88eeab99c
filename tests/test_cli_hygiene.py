"""The shell commands of mixes, baths, cloths and air."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import pytest

from .test_cli import facts, run


def test_may_touch(capsys: Any) -> None:
    found = facts(capsys, "may-touch", "clarinet/mouthpiece", "hot_water")
    assert not found["allowed"] and any("warps" in r["why"] for r in found["surfaces"])
    assert facts(capsys, "may-touch", "hard_rubber", "vinegar", "--as", "short")["allowed"]
    assert not facts(capsys, "may-touch", "hard_rubber", "vinegar", "--as", "yes")["allowed"]
    assert not facts(capsys, "may-touch", "bow_wood", "alcohol")["allowed"]
    for wrong in (("hard_rubber", "green stuff"), ("cheese", "alcohol"), ("clarinet/gong", "alcohol")):
        assert run(capsys, "may-touch", *wrong)[0] == 1


def test_never_together(capsys: Any) -> None:
    found = facts(capsys, "never-together", "hypochlorite", "vinegar", "soap")
    assert not found["allowed"] and found["clashes"][0]["forms"] == "chlorine gas"
    assert facts(capsys, "never-together", "soap", "cool_water") == {"allowed": True, "clashes": []}
    assert not facts(capsys, "never-together", "peroxide", "something")["allowed"]


def test_bath(capsys: Any) -> None:
    """12 l at 38 °C from 55 and 14 °C: 7.02 l hot (arithmetic); 38 to 32 °C in a room of 20: τ·ln 1.5."""
    found = facts(capsys, "bath", "--make", "12 l", "--at", "38 °C", "--for", "lacquer")
    assert found["hot_l"] == pytest.approx(7.024, abs=0.001) and found["ceiling_c"] == 40
    assert found["useful_min"] == pytest.approx(60 * math.log(1.5), abs=0.1) and found["hot_scalds_s"] < 30
    assert facts(capsys, "bath", "--make", "3 gallon", "--at", "100 °F")["target_c"] == pytest.approx(37.78, abs=0.01)
    for more, words in (
        (("--at", "45 °C", "--for", "lacquer"), "too warm"), (("--at", "38 °C", "--for", "cork"), "must not go"),
        (("--at", "30 °C"), "cooler than it may end"), (("--at", "38 °C", "--for", "cheese"), "no material"),
    ):  # fmt: skip
        assert words in run(capsys, "bath", "--make", "12 l", *more)[2]


def test_swab(capsys: Any) -> None:
    found = facts(capsys, "swab", "clarinet/upper", "--width", "100 mm", "--thickness", "0.3 mm")
    assert found["enter"] == "wide end" and found["fit"] in ("passes", "snug") and "register tube" in found["why"]
    wad = facts(capsys, "swab", "alto_saxophone/neck", "--width", "45 cm", "--thickness", "0.5 mm")
    assert wad["fit"] == "jams"
    calibrated = facts(
        capsys, "swab", "clarinet/upper", "--width", "300 mm", "--thickness", "0.4 mm", "--rope", "16.67 mm"
    )
    assert calibrated["packing"] == pytest.approx(0.55, abs=0.002)
    assert run(capsys, "swab", "clarinet/keys", "--width", "1 cm", "--thickness", "1 mm")[0] == 1


def test_dew_point(capsys: Any) -> None:
    """20 °C, 50 %: 9.272 °C (psychrolib); 10 °C, 90 % are 47 % at 20 °C."""
    assert facts(capsys, "dew-point", "--air", "20 °C", "--humidity", "50 %")["dew_point_c"] == pytest.approx(
        9.272, abs=0.002
    )
    window = facts(capsys, "dew-point", "--air", "10 °C", "--humidity", "90 %", "--at", "20 °C")
    assert window["humidity_there_pct"] == pytest.approx(47, abs=0.5)


def test_wood(capsys: Any) -> None:
    """Wood Handbook, EMC table at 21.1 °C: 9.2 % at 50 %, 6.2 % at 30 %."""
    found = facts(
        capsys,
        "wood",
        "--air",
        "70 °F",
        "--humidity",
        "50 %",
        "--to-humidity",
        "30 %",
        "--width",
        "20 cm",
        "--of",
        "maple",
    )
    assert found["moisture_pct"] == pytest.approx(9.2, abs=0.1) and found["to_moisture_pct"] == pytest.approx(
        6.2, abs=0.1
    )
    assert found["tangential_mm"] == pytest.approx(200 * 0.00353 * (6.2 - 9.2), abs=0.1)
    assert run(capsys, "wood", "--air", "20 °C", "--humidity", "50 %", "--of", "cheese")[0] == 1
    assert run(capsys, "wood", "--air", "20 °C", "--humidity", "99.5 %")[0] == 1


def test_drying(capsys: Any, tmp_path: Path) -> None:
    path = tmp_path / "w.csv"
    rows = [f"{t},{200 + 6 * math.exp(-t / 50):.1f}" for t in range(0, 100, 10)]
    path.write_text("time_min,weight_g\n" + "\n".join(rows))
    found = facts(capsys, "drying", str(path))
    left = 6 * math.exp(-90 / 50)
    assert found["left_95_g"][0] <= left <= found["left_95_g"][1] and not found["is_dry"]
    assert "Dry in" in run(capsys, "drying", str(path))[1]
    for text in ("", "a,b\n1,2", "time_min,weight_g\n1,x", "time_min,weight_g\n1,2\n"):
        path.write_text(text)
        assert run(capsys, "drying", str(path))[0] == 1
