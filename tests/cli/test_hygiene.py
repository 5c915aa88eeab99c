"""The shell commands of mixes, baths, cloths and air."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import pytest

from tests.cli.test_cli import facts, run


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
    quiet = facts(capsys, "never-together", "soap", "cool_water")
    assert quiet["allowed"] and quiet["clashes"] == []
    named = facts(capsys, "never-together", "bleach", "Toilet descaler", "--label", "water, xylofluor 7")
    assert [c["kind"] for c in named["clashes"]] == ["danger", "unknown", "unknown", "unknown"]
    assert named["named"][1] == {"typed": "Toilet descaler", "agent": "descaler", "holds": ["acid"], "known": "product"}
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


def test_alcohol_parts_and_spoons(capsys: Any) -> None:
    """1000 ml of 96 % to 70 % v/v takes 408 ml of water and makes 1371 ml (alcoholometric tables)."""
    mix = facts(capsys, "mix", "--from", "96 %", "--to", "70 %", "--make", "1371.4 ml", "--basis", "v/v")
    assert mix["stock_ml"] == pytest.approx(1000, abs=0.2) and mix["water_ml"] == pytest.approx(408, abs=2)
    two = facts(capsys, "mix", "--from", "6 %", "--with", "1 %", "--to", "3 %", "--make", "500 ml")
    assert (two["stock_ml"], two["diluent_ml"]) == (200.0, 300.0)  # alligation
    spoons = facts(capsys, "mix", "--from", "6 %", "--to", "3 %", "--make", "2 cups", "--measures", "us")
    assert spoons["stock_in_measures"] == "1 US cup" and abs(spoons["measures_error_ml"]) < 0.01
    assert run(capsys, "mix", "--from", "6 %", "--with", "4 %", "--to", "3 %", "--make", "1 l")[0] == 1


def test_a_case_by_its_thermometer(capsys: Any) -> None:
    """Newton's law with τ 25 min, read now and 20 min ago."""
    then, now = 4.0, 20 - 16 * math.exp(-20 / 25)
    found = facts(capsys, "acclimatise", "--case", f"{now:.2f} °C", "--read", "20 min", f"{then} °C")
    assert found["tau_95"][0] < 25 < found["tau_95"][1] and found["wait_95_min"][0] < found["wait_min"]
    assert found["wait_min"] == pytest.approx(25 * math.log((20 - now) / 3), abs=6)
    assert run(capsys, "acclimatise", "--case", "5 °C", "--read", "soon", "4 °C")[0] == 1


def test_a_storage_room(capsys: Any, tmp_path: Path) -> None:
    rows = [f"2026-11-{1 + n // 4:02d}T{6 * (n % 4):02d}:00,18,{75 if n > 8 else 50}" for n in range(24)]
    path = tmp_path / "log.csv"
    path.write_text("time,celsius,humidity_pct\n" + "\n".join(rows), encoding="utf-8")
    found = facts(capsys, "storage", str(path))
    assert found["risk"] == "act" and found["hours"] == 138.0 and found["longest_h"] == pytest.approx(84 + 6 * 7 / 25)
    assert run(capsys, "storage", str(tmp_path / "none.csv"))[0] == 1


@pytest.fixture
def us_shop(tmp_path: Path, capsys: Any) -> str:
    """A shop that writes °F, inches and gallons, with a decimal comma: no country does, so that each is seen."""
    folder = str(tmp_path / "shop")
    Path(folder).mkdir()
    assert run(capsys, "--folder", folder, "shop", "--units", "us", "--decimal", ",")[0] == 0
    return folder


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        (("dew-point", "--air", "20 °C", "--humidity", "50 %", "--at", "10 °C"), ("Dew point 48,7 °F", "At 50 °F")),
        (("bath", "--make", "12 l", "--at", "38 °C"), ("First 1,31 gal cold, then 1,86 gal hot.",)),
        (
            ("wood", "--air", "20 °C", "--humidity", "50 %", "--to-humidity", "30 %", "--width", "200 mm"),
            ("in move", " in quarter-sawn"),
        ),
        (("mix", "--from", "10 %", "--to", "2.5 %", "--make", "505 ml"), ("126,2 ml of 10 % stock", "2,5 %")),
        (
            ("tension", "--stated", "58 N", "--stated-length", "328 mm", "--length", "300 mm", "--pitch", "A4"),
            ("48,5 N at 440,0 Hz",),
        ),
    ],
)  # fmt: skip
def test_calculators_write_as_the_shop_does(
    capsys: Any, us_shop: str, tmp_path: Path, asked: tuple[str, ...], said: tuple[str, ...]
) -> None:
    """What they print for people; JSON stays metric, with a point."""
    status, out, err = run(capsys, "--folder", us_shop, *asked)
    assert status == 0, err
    for words in said:
        assert words in out
    nowhere = str(tmp_path / "nowhere")
    assert facts(capsys, "--folder", us_shop, *asked) == facts(capsys, "--folder", nowhere, *asked)
    assert not Path(nowhere).exists()
    assert said[0] not in run(capsys, "--folder", nowhere, *asked)[1]


def test_a_shop_that_cannot_be_read_stops_no_calculator(capsys: Any, tmp_path: Path) -> None:
    (tmp_path / "records.sqlite3").write_bytes(b"not a database at all" * 300)
    status, out, _ = run(capsys, "--folder", str(tmp_path), "dew-point", "--air", "20 °C", "--humidity", "50 %")
    assert status == 0 and "9.3 °C" in out
