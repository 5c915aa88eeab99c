"""Values that change by themselves: found by the daily reading, told by table and row, put back; the rest works on."""

from __future__ import annotations

import random
import shutil
import sqlite3
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest

from creekbed.core.errors import CreekbedError, Refused, StoreProblem
from creekbed.store.chain import Link, broken, digest_of, next_chain, said
from creekbed.store.journal import dump, replay
from creekbed.store.layout import FILE
from creekbed.store.maintenance import check_beside
from creekbed.store.records import StringDrop
from creekbed.store.sqlite.backup import back_up
from creekbed.store.sqlite.damage import Damage, find
from creekbed.workshop.arrival import intake
from creekbed.workshop.arrival.condition_marks import add_mark
from creekbed.workshop.bench.bench_records import read
from creekbed.workshop.bench.bench_view import home
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.integrity import examine, repair
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.supplies import stock
from tests.conftest import MORNING, Hand


@pytest.fixture
def worked(shop: Shop, hand: Hand) -> Shop:
    """A shop with a job half done and another begun; its records are one file, without a log."""
    hand.until(hand.book(), "disinfect", pads={"G sharp": "sticks"})
    hand.book("MH-0300", "violin", came_from="R-041")
    with shop.store.engine.connect() as connection:
        connection.exec_driver_sql("ROLLBACK")
        connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")
    return shop


def changed(shop: Shop, statement: str, *values: Any) -> None:
    """Change something behind everybody's back; what was read of the bench before is not remembered."""
    shop.known_bench = None
    file = sqlite3.connect(shop.folder / FILE, isolation_level=None)
    file.execute("PRAGMA ignore_check_constraints=ON")
    file.execute("DROP TRIGGER IF EXISTS journal_no_update")
    file.execute(statement, values)
    file.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    file.close()


def whole(shop: Shop) -> bool:
    """Whether journal and state agree, as they did when they were written."""
    with shop.reading() as session:
        entries = session.journal.all_changes()
        return replay(entries) == dump(session.connection) and find(shop.folder) == []


def test_nothing_is_found_where_nothing_is_wrong(worked: Shop, hand: Hand) -> None:
    assert find(worked.folder) == [] and check_beside(worked.folder) == []
    worked.undo()
    assert find(worked.folder) == []


@pytest.mark.parametrize(
    ("statement", "table", "what"),
    [
        ("UPDATE job SET policies = '{broken' WHERE id = 1", "job", "policies"),
        ("UPDATE job SET policies = '[]' WHERE id = 1", "job", "policies"),
        ("UPDATE job SET opened_at = '20x6-11-19' WHERE id = 1", "job", "opened_at"),
        ("UPDATE job SET weight = 'heavy' WHERE id = 1", "job", "weight"),
        ("UPDATE job SET came_from = CAST(x'52FF31' AS TEXT) WHERE id = 2", "job", "came_from"),
        ("UPDATE job SET came_from = 'R-042' WHERE id = 2", "job", "not what was written"),
        ("UPDATE lot SET amount = amount + 1 WHERE id = 1", "lot", "amount"),
        ("DELETE FROM content_line WHERE id = 1", "content_line", "gone"),
        ("INSERT INTO policy_choice VALUES ('gong', 'loud', '2026-11-19', 0)", "policy_choice", "no action"),
    ],
)
def test_a_changed_value_is_found_told_and_repair(worked: Shop, statement: str, table: str, what: str) -> None:
    changed(worked, statement)
    (found,) = examine(worked)
    assert found.table == table and what in found.what and found.source == "the journal"
    assert table.replace("_", " ") in found.words.lower() and "The journal has it whole" in found.words
    done = repair(worked, found)
    assert "Put back" in done.words and "the journal" in done.words
    assert whole(worked)


def test_a_changed_entry_is_found_and_put_back_from_a_copy(worked: Shop) -> None:
    back_up(worked.folder, "daily", now=MORNING)
    changed(worked, "UPDATE journal SET words = 'Nothing happened' WHERE id = 3")
    found = examine(worked)
    assert [(d.table, d.key, d.what) for d in found] == [("journal", {"id": 3}, "what it says was changed")]
    assert found[0].source.endswith("-daily")
    repair(worked, found[0])
    assert whole(worked)
    changed(worked, "UPDATE journal SET changes = '[{' WHERE id = 4")
    changed(worked, "UPDATE job SET came_from = 'R-099' WHERE id = 2")  # and a row that the journal tells
    found = examine(worked)
    assert {(d.table, bool(d.source)) for d in found} == {("journal", True), ("job", True)}
    for damage in found:
        repair(worked, damage)
    assert whole(worked)


def test_an_entry_nobody_has_whole_is_told(worked: Shop) -> None:
    changed(worked, "UPDATE journal SET words = 'Nothing happened' WHERE id = 3")
    (found,) = examine(worked)
    assert not found.source and "Nobody has it whole" in found.words
    with pytest.raises(Refused):
        repair(worked, found)


def test_a_row_is_offered_from_a_copy_where_the_journal_is_damaged_too(worked: Shop) -> None:
    changed(worked, "UPDATE journal SET changes = '[' WHERE id = 1")
    made = back_up(worked.folder, "daily", now=MORNING)
    changed(worked, "UPDATE job SET policies = '{' WHERE id = 1")
    found = {d.table: d for d in examine(worked)}
    assert found["job"].source == made.name and not found["journal"].source
    repair(worked, found["job"])
    assert "job" not in {d.table for d in examine(worked)}


def test_twenty_flipped_bits_are_found_or_harmless(worked: Shop, tmp_path: Path) -> None:
    """One bit flips somewhere in the file: opening says so, the reading finds it, or nothing on record is other."""
    back_up(worked.folder, "daily", now=MORNING)
    with worked.reading() as session:
        before = dump(session.connection)
    worked.close()
    content = (worked.folder / FILE).read_bytes()
    chance = random.Random(1612)
    written = [n for n, byte in enumerate(content) if byte]  # most of a young shop's file is empty
    told = {"refused": 0, "found": 0, "harmless": 0}
    for n in range(25):
        folder = tmp_path / f"flip{n}"
        shutil.copytree(worked.folder, folder)
        raw = bytearray(content)
        at = chance.choice(written)
        raw[at] ^= 1 << chance.randrange(8)
        (folder / FILE).write_bytes(raw)
        try:
            shop = Shop(folder, HandClock(MORNING + timedelta(hours=9)))
        except StoreProblem as problem:
            assert problem.fields["kind"] != "empty"
            told["refused"] += 1
            continue
        try:
            found = examine(shop)
            with shop.reading() as session:
                same = dump(session.connection) == before
        except CreekbedError:
            told["found"] += 1
            continue
        finally:
            shop.close()
        assert found or same, f"byte {at} changed something and nobody noticed"
        told["found" if found else "harmless"] += 1
    assert sum(told.values()) == 25 and told["found"] + told["refused"] >= 5, told


def test_damage_in_what_sqlite_says_of_it_is_told(worked: Shop) -> None:
    """Bytes in the definition of a table make SQLite's own message no text."""
    worked.close()
    path = worked.folder / FILE
    content = bytearray(path.read_bytes())
    content[content.index(b"tablecloth_countcloth_count") + 6] = 0xDF
    content[content.index(b"CREATE TABLE cloth_count") + 9] = ord("X")
    path.write_bytes(content)
    with pytest.raises(StoreProblem) as told:
        Shop(worked.folder, HandClock(MORNING + timedelta(hours=9)))
    assert told.value.fields["kind"] == "damaged"


def test_the_rest_of_the_bench_works_on(worked: Shop, hand: Hand) -> None:
    changed(worked, "UPDATE finding SET readings = '{' WHERE id = 1")
    with worked.reading() as session:
        tags = {1: "MH-0142", 2: "MH-0300"}
        bad = session.connection.exec_driver_sql("SELECT job_id FROM finding WHERE id = 1").scalar_one()
    found = read(worked, worked.now)
    assert [b.tag for b in found.broken] == [tags[bad]] and "cannot be read" in found.broken[0].words
    assert [v.tag for v in found.views] == [tags[3 - bad]]
    view = home(worked)
    assert view.next is not None
    with pytest.raises(StoreProblem, match="cannot be read"):
        add_mark(worked, bad, "bell", "dent", 6.0)
    intake.set_quarantine(worked, 3 - bad, "mould")
    again = read(worked, worked.now, found)
    assert len(again.broken) == 1 and again.views[0].job.quarantine
    repair(worked, examine(worked)[0])
    assert read(worked, worked.now, again).broken == () and whole(worked)


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE departure SET leaves_at = 'soon'", "UPDATE lot SET made_at = '?'", "UPDATE setting SET value = '{'",
        "UPDATE clock_anchor SET utc = 'x'", "UPDATE step_record SET data = 'x'", "UPDATE wait SET started_at = ''",
        "UPDATE instrument SET materials = '[1]'", "UPDATE hire SET out_at = 'x'",
    ],
)  # fmt: skip
def test_no_damaged_table_stops_the_bench(worked: Shop, statement: str) -> None:
    worked.set_setting("people", {"TO": {}}, "TO works here")
    changed(worked, statement)
    home(worked)
    stock.stock_list(worked)
    with_words = examine(worked)
    assert with_words or "anchor" in statement or "hire" in statement
    stock.book_in_stock(worked, "soap_ml", 10.0)  # also the clock's own row is in nobody's way
    for damage in with_words:
        repair(worked, damage)
    assert whole(worked)


def test_a_damaged_reading_of_a_string_stops_nobody(worked: Shop) -> None:
    """The newest that can be read are found, as many as are asked for; the bench goes on, and the row is put back."""
    with worked.act("strings") as act:
        for n in range(3):
            act.records.add(
                StringDrop(job_id=2, family="violin", from_min=0.0, to_min=12.0 + n, cents=16.0, at=act.now)
            )
        act.words = "read"
    changed(worked, "UPDATE string_drop SET at = 'soon' WHERE id = 3")
    with worked.reading() as records:
        assert [d.id for d in records.readable(StringDrop, newest=True, limit=1)] == [2]
        assert [d.id for d in records.readable(StringDrop, newest=True, job_id=2)] == [2, 1]
        assert [d.id for d in records.readable(StringDrop, limit=1)] == [1]
    home(worked)
    for damage in examine(worked):
        repair(worked, damage)
    assert whole(worked)


def test_an_index_out_of_order_is_put_right(worked: Shop) -> None:
    changed(worked, "PRAGMA writable_schema=ON")
    file = sqlite3.connect(worked.folder / FILE, isolation_level=None)
    file.execute("PRAGMA writable_schema=ON")
    row = file.execute("SELECT sql FROM sqlite_master WHERE name = 'ix_job_tag'").fetchone()
    file.execute("DELETE FROM sqlite_master WHERE name = 'ix_job_tag'")
    file.close()
    file = sqlite3.connect(worked.folder / FILE, isolation_level=None)
    file.execute("UPDATE job SET tag = tag")
    file.execute(row[0].replace("CREATE INDEX", "CREATE INDEX"))
    file.close()
    found = [d for d in examine(worked) if not d.table]
    for damage in found:
        if damage.source:
            repair(worked, damage)


# --- the chain ------------------------------------------------------------------------------------------------------


def links(n: int) -> list[Link]:
    made, chain = [], ""
    for k in range(1, n + 1):
        words = said(k, MORNING, "IW", "window-1", "x", f"words {k}", "", None, True, [{"n": k}])
        digest = digest_of(words)
        chain = next_chain(chain, digest)
        made.append(Link(k, words, digest, chain, {}))
    return made


def test_a_chain_tells_what_was_changed_left_out_or_put_in() -> None:
    whole = links(6)
    assert list(broken(whole)) == []
    other = [*whole[:2], Link(3, whole[2].said.replace("words", "lies"), *_rest(whole[2])), *whole[3:]]
    assert [n for n, _ in broken(other)] == [3]
    assert (4, "1 entries before it are gone") in broken([*whole[:2], *whole[3:]])
    forged = said(3, MORNING, "IW", "window-1", "x", "lies", "", None, True, [])
    swapped = Link(3, forged, digest_of(forged), whole[2].chain, {})
    assert 3 in dict(broken([*whole[:2], swapped, *whole[3:]]))
    erasing = Link(6, whole[5].said, whole[5].digest, whole[5].chain, {"3": digest_of(forged)})
    assert list(broken([*whole[:2], Link(3, forged, *_rest(whole[2])), *whole[3:5], erasing])) == []


def _rest(link: Link) -> tuple[str, str, dict[str, str]]:
    return link.digest, link.chain, link.erased


def test_a_damage_in_words() -> None:
    damage = Damage("content_line", {"id": 7}, "the row is gone", "the journal", {})
    assert damage.words == "Content line 7: the row is gone. The journal has it whole."
