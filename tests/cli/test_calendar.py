"""The shell commands of the calendar: departures, days off, seasons."""

from __future__ import annotations

from datetime import date, timedelta
from pathlib import Path
from typing import Any

import pytest

from tests.cli.test_cli import facts, run


@pytest.fixture
def folder(tmp_path: Path) -> str:
    """An empty shop on the computer's clock."""
    from creekbed.workshop.shop.clock import SystemClock
    from creekbed.workshop.shop.shop import Shop

    Shop(tmp_path / "shop", SystemClock()).close()
    return str(tmp_path / "shop")


def test_a_van_on_mondays(capsys: Any, folder: str) -> None:
    found = facts(capsys, "--folder", folder, "departures")
    assert found == {"kinds": [], "departures": []}
    asked = ("--folder", folder, "departures", "--add", "Van", "--on", "Mon, thursday", "--at", "8:30")
    found = facts(capsys, *asked)
    assert found["kinds"][0]["rhythm"] == "Mondays and Thursdays 08:30" and len(found["departures"]) in (11, 12, 13)
    found = facts(capsys, *asked[:-1], "9:00", "--every", "2")
    assert [k["minute_of_day"] for k in found["kinds"]] == [540] and len(found["departures"]) <= 8
    number = found["departures"][0]["number"]
    found = facts(capsys, "--folder", folder, "departures", "--cancel", str(number))
    assert number not in [d["number"] for d in found["departures"]]
    assert facts(capsys, "--folder", folder, "departures", "--drop", "van") == {"kinds": [], "departures": []}


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("departures", "--add", "Van", "--on", "Mon"), "At what time"),
        (("departures", "--add", "Van", "--on", "Mo", "--at", "8:30"), "no weekday"),
        (("departures", "--add", "Van", "--at", "8:30"), "No weekday"),
        (("departures", "--add", "Van", "--dates", "soon", "--at", "8:30"), "no date"),
        (("departures", "--drop", "Van"), "Nothing leaves"),
        (("departures", "--cancel", "77"), "not on the list"),
        (("closed", "Feast"), "From when"),
        (("closed", "Feast", "2030-05-02", "2030-05-01"), "ends before"),
        (("closed", "--remove", "3"), "not in the calendar"),
        (("closed", "--calendar", "/nowhere/x.ics"), "cannot be read"),
        (("season", "Summer", "2030-07-01"), "From when to when"),
        (("season", "Summer", "2030-07-01", "2030-07-09", "Monday=12-9"), "end before they begin"),
    ],
)
def test_what_is_refused_says_why(capsys: Any, folder: str, arguments: tuple[str, ...], words: str) -> None:
    status, out, err = run(capsys, "--folder", folder, *arguments)
    assert status == 1 and out == "" and words in err


def test_days_off_and_seasons(capsys: Any, folder: str, tmp_path: Path) -> None:
    first = date.today() + timedelta(days=40)
    found = facts(capsys, "--folder", folder, "closed", "Feast", first.isoformat(), "--yearly")
    assert found["closed"][0]["yearly"] and found["closed"][0]["last"] == first.isoformat()
    file = tmp_path / "days.ics"
    event = f"BEGIN:VEVENT\r\nUID:1\r\nDTSTART;VALUE=DATE:{first:%Y%m%d}\r\nSUMMARY:Off\r\nEND:VEVENT\r\n"
    file.write_text(f"BEGIN:VCALENDAR\r\nVERSION:2.0\r\n{event}END:VCALENDAR\r\n", newline="")
    found = facts(capsys, "--folder", folder, "closed", "--calendar", str(file))
    assert (found["new"], found["changed"], len(found["closed"])) == (1, 0, 2)
    status, _, err = run(capsys, "--folder", folder, "closed", "--calendar", str(file))
    assert status == 1 and "already" in err
    number = str(found["closed"][0]["number"])
    assert len(facts(capsys, "--folder", folder, "closed", "--remove", number)["closed"]) == 1
    last = (first + timedelta(days=9)).isoformat()
    found = facts(capsys, "--folder", folder, "season", "Quiet", first.isoformat(), last, "Mon=10-12", "Tue=shut")
    assert found["seasons"][0]["hours"] == {"0": [[10.0, 12.0]]}
    status, out, _ = run(capsys, "--folder", folder, "season")
    assert status == 0 and "Mon 10:00-12:00" in out


def test_the_shop_has_a_name_and_a_paper(capsys: Any, folder: str) -> None:
    known = facts(capsys, "--folder", folder, "shop")
    assert known.items() >= {"name": "", "address": [], "paper": "A4", "hours": 24, "a4_hz": 440.0}.items()
    told = ("shop", "--name", "Our own", "--address", "3 Mill Lane", "Anytown", "--paper", "Letter")
    found = facts(capsys, "--folder", folder, *told)
    assert found == known | {"name": "Our own", "address": ["3 Mill Lane", "Anytown"], "paper": "Letter"}
    assert facts(capsys, "--folder", folder, "shop", "--paper", "A4")["name"] == "Our own"
    assert run(capsys, "--folder", folder, "shop", "--name", "x" * 80)[0] == 1
