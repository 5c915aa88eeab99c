"""The command that brings lists: three unlike files, tried first, then brought; what is refused says why."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from tests.cli.test_calendar import folder as folder  # a fixture
from tests.cli.test_cli import facts, run

COMMAS = "Tag,Instrument,Serial\nV-1,Violin 1/2,S1\nV-2,Sax,\n"
SEMICOLONS = "Inventar-Nr.;Instrument;Kaufpreis\nB-1;Bratsche 15 in;1.249,50\n"


def test_tried_then_brought_then_undone(capsys: Any, folder: str, tmp_path: Path) -> None:
    file = tmp_path / "list.csv"
    file.write_text(COMMAS)
    command = ("--folder", folder, "import", str(file), "--as", "instruments")
    found = facts(capsys, *command, "--try")
    assert (found["new"], found["problems"], found["written"]) == (1, 1, 0)
    assert found["asks"][0]["words"] == "Sax" and "alto_saxophone" in found["asks"][0]["families"]
    status, _, err = run(capsys, *command)
    assert status == 1 and "1 row cannot be brought" in err
    answers = tmp_path / "map.toml"
    answers.write_text(
        '[families]\nSax = ["alto_saxophone", "alto"]\n[made_of]\n"alto_saxophone.mouthpiece" = "hard_rubber"\n'
    )
    found = facts(capsys, *command, "--map", str(answers))
    assert found["written"] == 2 and found["not_said_what_of"] == {"alto_saxophone.mouthpiece": 1}
    status, out, _ = run(capsys, "--folder", folder, "history", "V-2")
    assert status == 0 and "V-2" in out
    status, _, err = run(capsys, *command)
    assert status == 1 and "on record already" in err


def test_three_unlike_files(capsys: Any, folder: str, tmp_path: Path) -> None:
    from tests.interchange.test_tables import workbook

    (tmp_path / "a.csv").write_text(SEMICOLONS, encoding="utf-8")
    (tmp_path / "b.txt").write_text("Nummer\tWas\nT-1\tTrompete\n", encoding="utf-16")
    (tmp_path / "c.xlsx").write_bytes(workbook(("Asset", "Description", "Cost"), ("C-1", "3/4 cello", 900.5)))
    told = [
        facts(capsys, "--folder", folder, "import", str(tmp_path / name), "--as", "instruments")
        for name in ("a.csv", "b.txt", "c.xlsx")
    ]
    assert [t["read_as"] for t in told] == ["CSV, semicolons, UTF-8", "CSV, tabs, UTF-16", "spreadsheet"]
    assert [t["written"] for t in told] == [1, 1, 1]


def test_supplies_and_people(capsys: Any, folder: str, tmp_path: Path) -> None:
    (tmp_path / "s.csv").write_text("Item,Count\nPad papers,40\n")
    assert facts(capsys, "--folder", folder, "import", str(tmp_path / "s.csv"), "--as", "supplies")["written"] == 1
    (tmp_path / "p.csv").write_text("Initials,Hours\nAB,9-13\n")
    status, out, _ = run(capsys, "--folder", folder, "import", str(tmp_path / "p.csv"), "--as", "people")
    assert status == 0 and "1 brought" in out and "AB" in out


@pytest.mark.parametrize(
    ("text", "answers", "words"),
    [
        ("", "", "nothing in that file"),
        ("Tag,What\nV-1,Violin\n", "[colums]\ntag = 'Tag'\n", "not understood"),
        ("Tag,What\nV-1,Violin\n", "[columns]\ntag = 3\n", "is no text"),
        ("Tag,What\nV-1,Violin\n", "[columns]\ntag = 'Nothing'\n", "no column"),
        ("Tag,What\nV-1,Violin\n", "[families]\nViolin = 'kazoo'\n", "no family kazoo"),
        ("Tag,What\nV-1,Violin\n", "[families]\nViolin = ['violin', '9/9']\n", "in size 9/9"),
        ("Tag,What\nV-1,Violin\n", "columns = ", "map.toml"),
        ("Colour,Weight\nred,3\n", "", "Which column"),
    ],
)
def test_what_is_refused(capsys: Any, folder: str, tmp_path: Path, text: str, answers: str, words: str) -> None:
    (tmp_path / "list.csv").write_text(text)
    (tmp_path / "map.toml").write_text(answers)
    more = ("--map", str(tmp_path / "map.toml")) if answers else ()
    command = ("--folder", folder, "import", str(tmp_path / "list.csv"), "--as", "instruments", *more)
    status, out, err = run(capsys, *command)
    assert status == 1 and out == "" and words in err
    assert run(capsys, "--folder", folder, "import", str(tmp_path / "none.csv"), "--as", "people")[0] == 1
