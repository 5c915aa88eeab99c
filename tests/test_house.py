"""What holds for the whole project."""

from __future__ import annotations

import ast
import logging
import os
import re
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from creekbed.workshop.arrival import intake
from creekbed.workshop.shop.shop import Shop

ROOT = Path(__file__).parents[1]
SOURCE = sorted((ROOT / "src" / "creekbed").rglob("*.py"))


def public_functions(tree: ast.Module) -> Iterator[ast.FunctionDef]:
    """Functions and methods that other modules may call."""
    for node in tree.body:
        inside = node.body if isinstance(node, ast.ClassDef) and not node.name.startswith("_") else [node]
        for found in inside:
            if isinstance(found, ast.FunctionDef) and not found.name.startswith("_"):
                yield found


def test_modules_and_public_functions_say_what_they_do() -> None:
    missing = []
    for file in SOURCE:
        tree = ast.parse(file.read_text(encoding="utf-8"))
        if not ast.get_docstring(tree):
            missing.append(file.name)
        if "core" in file.parts:
            missing += [f"{file.name}:{f.name}" for f in public_functions(tree) if not ast.get_docstring(f)]
    assert missing == []


def test_no_bare_except_and_no_string_built_sql() -> None:
    for file in SOURCE:
        tree = ast.parse(file.read_text(encoding="utf-8"))
        for node in ast.walk(tree):
            assert not (isinstance(node, ast.ExceptHandler) and node.type is None), file
        assert not re.search(r"execute\(\s*f[\"']", file.read_text(encoding="utf-8")) or file.name == "0001_first.py", (
            file
        )


def test_the_readme_has_two_set_up_commands() -> None:
    text = (ROOT / "README.md").read_text(encoding="utf-8")
    commands = re.findall(r"^\./(\S+)", text, re.MULTILINE)
    assert commands == ["run-demo", "run-tests"]
    for name in commands:
        assert (ROOT / name).stat().st_mode & 0o111


def test_every_direct_dependency_is_pinned_and_explained() -> None:
    words = (ROOT / "docs" / "dependencies.md").read_text(encoding="utf-8").lower()
    pinned = (ROOT / "requirements-run.txt").read_text() + (ROOT / "requirements-tests.txt").read_text()
    locked = {line.split("==")[0].lower().replace("_", "-"): line for line in pinned.splitlines() if "==" in line}
    for name, version in re.findall(r'"([A-Za-z0-9_\-]+)==([^"]+)"', (ROOT / "pyproject.toml").read_text()):
        assert locked[name.lower().replace("_", "-")].endswith(f"=={version}"), name
        if not name.startswith("types-"):
            assert name.lower() in words, name


def test_nothing_of_a_renter_is_logged(shop: Shop, caplog: pytest.LogCaptureFixture, capsys: Any) -> None:
    with caplog.at_level(logging.DEBUG):
        intake.book_in(shop, "MH-0142", family="violin", came_from="R-777-secret")
        with pytest.raises(Exception, match="booked in already"):
            intake.book_in(shop, "MH-0142", family="violin", came_from="R-777-secret")
    out, err = capsys.readouterr()
    assert "R-777" not in caplog.text + out + err
    assert all("R-777" not in e.words for e in shop.undoable(50))


def test_tests_lie_where_what_they_test_lies() -> None:
    """A test of a package is found in the folder of the same name."""
    apart = {"tests", "reference", "worlds", "faults"}  # the outside, simulators, failing disks and kills
    folders = [p.parent.relative_to(ROOT / "tests") for p in (ROOT / "tests").rglob("test_*.py")]
    lost = [str(f) for f in folders if f.parts and f.parts[0] not in apart and not (SOURCE[0].parent / f).is_dir()]
    assert lost == []


DEMO_WORDS = re.compile(
    r"\bMH-\d|\bIW\b|Marram|Lamplighter|Harbour Street|Boatyard|Netloft|Winter festival|\b[Bb]oats?\b|\bsailing"
)
STORED = {"store/journal.py": '"boat": ("departure"', "papers/tag.py": 'NAMED_BEFORE = "boat"'}
"""Names that older records have: the only lines outside the demo that may hold such a word."""


def test_no_word_of_the_demo_stands_outside_it() -> None:
    """A shop of one's own never meets the invented one: not in words, nor in data, nor as a default."""
    root, found = ROOT / "src" / "creekbed", []
    for file in [*root.rglob("*.py"), *root.rglob("*.toml"), *root.rglob("*.qss")]:
        name = file.relative_to(root).as_posix()
        if name.startswith(("demo/", "store/sqlite/migrations/versions/")):
            continue
        for n, line in enumerate(file.read_text(encoding="utf-8").splitlines(), 1):
            if DEMO_WORDS.search(line) and STORED.get(name, "\0") not in line:
                found.append(f"{name}:{n}: {line.strip()}")
    assert found == []


def test_scripts_are_sound_shell() -> None:
    for name in ("run-demo", "run-tests", ".ci/run", ".setup/prepare"):
        assert subprocess.run(["bash", "-n", str(ROOT / name)], check=False).returncode == 0


def test_the_bench_is_drawn_without_what_only_thinking_needs(tmp_path: Path) -> None:
    """What takes long to load waits until somebody wants it."""
    code = (
        "import sys; from pathlib import Path; from PySide6.QtWidgets import QApplication;"
        "from creekbed.window.frame.frame import Frame; from creekbed.workshop.arrival import intake;"
        "from creekbed.workshop.shop.shop import Shop; app = QApplication([]); shop = Shop(Path(sys.argv[1]));"
        "intake.book_in(shop, 'MH-0142', family='alto_saxophone'); frame = Frame(lambda: shop);"
        "frame.show(); frame.open_shop(); app.processEvents();"
        "assert frame.home.next is not None; frame.close();"
        "print(sorted({'numpy', 'scipy', 'ortools', 'pyqtgraph'} & set(sys.modules)))"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(tmp_path / "shop")], capture_output=True, text=True, check=False,
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )  # fmt: skip
    assert done.stdout.strip() == "[]", done.stderr
