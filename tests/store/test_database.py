"""Opening the records: first start, migration, backup, and every way it can go wrong."""

from __future__ import annotations

import os
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import text

import creekbed.store.sqlite.database as database
from creekbed.core.errors import StoreProblem
from creekbed.store.layout import FILE
from creekbed.store.sqlite.database import open_engine
from creekbed.store.sqlite.migrating import HEAD
from creekbed.store.tables import METADATA


def count(folder: Path, table: str = "departure") -> int:
    with sqlite3.connect(folder / FILE) as connection:
        return int(connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0])  # noqa: S608


def add_departure(folder: Path, name: str = "x") -> None:
    with sqlite3.connect(folder / FILE) as connection:
        connection.execute(
            "INSERT INTO departure (name, leaves_at, version) VALUES (?, '2026-11-20 10:00:00', 0)", (name,)
        )


def test_first_start(tmp_path: Path) -> None:
    folder = tmp_path / "new" / "data"
    engine = open_engine(folder)
    with engine.connect() as connection:
        assert connection.execute(text("PRAGMA journal_mode")).scalar() == "wal"
        assert connection.execute(text("PRAGMA synchronous")).scalar() == 2
        assert connection.execute(text("PRAGMA foreign_keys")).scalar() == 1
    engine.dispose()
    assert (folder / FILE).stat().st_mode & 0o777 == 0o600
    assert folder.stat().st_mode & 0o077 == 0
    assert sorted(p.name for p in folder.iterdir()) == ["journal.last", FILE]


def test_second_start_does_not_migrate(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    open_engine(tmp_path).dispose()
    monkeypatch.setattr(database, "migrate", lambda *a: pytest.fail("migrated again"))
    open_engine(tmp_path).dispose()


def test_loose_file_modes_are_tightened(tmp_path: Path) -> None:
    open_engine(tmp_path).dispose()
    (tmp_path / FILE).chmod(0o644)
    open_engine(tmp_path).dispose()
    assert (tmp_path / FILE).stat().st_mode & 0o777 == 0o600


def test_the_newest_revision_is_the_one_this_program_knows() -> None:
    config = Config()
    config.set_main_option("script_location", str(Path(database.__file__).parent / "migrations"))
    assert ScriptDirectory.from_config(config).get_heads() == [HEAD]


def test_migrations_make_what_the_models_say(tmp_path: Path) -> None:
    engine = open_engine(tmp_path)
    with engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True})
        assert compare_metadata(context, METADATA) == []
    engine.dispose()


def kind_of(folder: Path, busy_ms: int = 50) -> str:
    with pytest.raises(StoreProblem) as caught:
        open_engine(folder, busy_ms=busy_ms)
    error = caught.value
    assert error.happened and error.safe and error.todo
    return str(error.fields["kind"])


def test_newer(tmp_path: Path) -> None:
    open_engine(tmp_path).dispose()
    with sqlite3.connect(tmp_path / FILE) as connection:
        connection.execute("UPDATE alembic_version SET version_num = '0999'")
    before = (tmp_path / FILE).read_bytes()
    assert kind_of(tmp_path) == "newer"
    assert (tmp_path / FILE).read_bytes() == before


def test_damaged(tmp_path: Path) -> None:
    open_engine(tmp_path).dispose()
    path = tmp_path / FILE
    path.write_bytes(b"\x00rubbish" * 4000)
    assert kind_of(tmp_path) == "damaged"
    assert path.read_bytes() == b"\x00rubbish" * 4000


def test_somebody_elses_database(tmp_path: Path) -> None:
    with sqlite3.connect(tmp_path / FILE) as connection:
        connection.execute("CREATE TABLE recipes (id)")
    assert kind_of(tmp_path) == "foreign"


def test_while_another_writes_the_records_are_opened(tmp_path: Path) -> None:
    first = open_engine(tmp_path)
    with first.connect() as connection:  # from the first use on they have a log beside them
        connection.execute(text("SELECT 1"))
    first.dispose()
    other = sqlite3.connect(tmp_path / FILE, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    engine = open_engine(tmp_path, busy_ms=50)
    with engine.connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM job")).scalar() == 0
    engine.dispose()
    other.execute("ROLLBACK")
    other.close()


def test_while_another_holds_them_for_itself_they_are_busy(tmp_path: Path) -> None:
    open_engine(tmp_path).dispose()
    other = sqlite3.connect(tmp_path / FILE, isolation_level=None)
    other.execute("PRAGMA locking_mode=EXCLUSIVE")
    other.execute("BEGIN EXCLUSIVE")
    other.execute("DELETE FROM setting")
    other.execute("COMMIT")
    try:
        assert kind_of(tmp_path) == "busy"
    finally:
        other.close()
    open_engine(tmp_path).dispose()


def test_read_only(tmp_path: Path) -> None:
    """Root may write anything, so this is tried by a process that is not root."""
    open_engine(tmp_path).dispose()
    for path in (tmp_path, *tmp_path.parents):
        if path.stat().st_uid == os.getuid() and str(path).startswith("/tmp"):
            path.chmod(0o755)
    for file in tmp_path.iterdir():
        file.chmod(0o444)
    tmp_path.chmod(0o555)
    code = (
        "import os, sys\n"
        "from pathlib import Path\n"
        "from creekbed.store.sqlite.database import open_engine\n"
        "from creekbed.core.errors import StoreProblem\n"
        "if os.getuid() == 0: os.setgid(65534); os.setuid(65534)\n"
        "try: open_engine(Path(sys.argv[1]), busy_ms=50)\n"
        "except StoreProblem as error: print(error.fields['kind'], error.words())\n"
    )
    done = subprocess.run([sys.executable, "-c", code, str(tmp_path)], capture_output=True, text=True, check=False)
    tmp_path.chmod(0o755)
    assert done.stdout.startswith("read_only"), done.stderr
    assert "write" in done.stdout
