"""The store's contract: what every backend must keep. Backends are the parameters of one fixture."""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable, Iterator
from dataclasses import fields
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, get_args, get_type_hints

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from creekbed.core.errors import BadInput, StoreProblem
from creekbed.store.journal import RowConflict, dump, invert, replay
from creekbed.store.problems import StaleRecord
from creekbed.store.reader import Reader, key_of
from creekbed.store.records import (
    BenchReed,
    Departure,
    DepartureKind,
    Hire,
    HouseValue,
    Instrument,
    Job,
    JournalEntry,
    Lot,
    Person,
    Record,
    ReedBath,
    Setting,
    StockMove,
    Versioned,
)
from creekbed.store.store import Store
from creekbed.store.tables import FIELDS, KEYS, KINDS
from creekbed.store.unit_of_work import Change
from creekbed.workshop.shop.shop import Shop

AT = datetime(2026, 11, 19, 9, 0, tzinfo=UTC)


@pytest.fixture(params=["sqlite"])
def make_store(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Callable[[], Store]]:
    """Opens the same records as often as it is called."""
    opened: list[Store] = []

    def make() -> Store:
        opened.append(Store(tmp_path / "shop"))
        return opened[-1]

    yield make
    for store in opened:
        store.close()


@pytest.fixture
def store(make_store: Callable[[], Store]) -> Store:
    return make_store()


def logged(change: Change, words: str = "done", person: str = "IW") -> JournalEntry:
    return change.log(at=AT, person=person, seat="one", action="test", words=words, undoable=True)


def put_parents(change: Change) -> None:
    """What other records refer to."""
    change.add(Instrument(tag="MH-0001", family="violin", size="4/4", created_at=AT))
    change.add(Hire(tag="MH-0001", renter="R-1", out_at=AT))
    change.add(DepartureKind(name="Monday van", rhythm="weekly", minute=510))
    change.add(Departure(name="Monday van", leaves_at=AT))
    change.add(Job(tag="MH-0001", hire_id=1, departure_id=1, opened_at=AT))
    change.add(Lot(item="soap", amount=5.0, made_at=AT))
    change.add(ReedBath(since=AT))


def sample(kind: type[Record], n: int = 0) -> Record:
    """A record with a value in every field that has no default, and in those that may be empty."""
    values: dict[str, Any] = {}
    for field in fields(kind):
        hint = get_type_hints(kind)[field.name]
        plain = next((a for a in get_args(hint) if a is not type(None) and isinstance(a, type)), hint)
        refers = field.metadata.get("refers", "")
        if field.name in ("id", "version", "undoes"):
            continue
        if refers:
            values[field.name] = "MH-0001" if refers == "instrument.tag" else 1
        elif "dict" in str(hint):
            values[field.name] = {"a": [n, "ö"], "b": None}
        elif "list" in str(hint):
            values[field.name] = [n, {"x": 1.5}]
        elif plain is str:
            values[field.name] = f"{field.name} {n}"
        elif plain in (int, float):
            values[field.name] = plain(n + 3)
        elif plain is datetime:
            values[field.name] = AT + timedelta(days=n)
        else:
            values[field.name] = bool(n % 2)
    return kind(**values)


PLAIN = [k for k in KINDS.values() if k is not JournalEntry]


@pytest.mark.parametrize("kind", PLAIN, ids=lambda k: k.TABLE)
def test_every_record_comes_back_as_it_was_stored(store: Store, kind: type[Record]) -> None:
    with store.change() as change:
        put_parents(change)
        made = change.add(sample(kind))
        logged(change)
    with store.read() as records:
        assert records.get(kind, *key_of(made)) == made
        assert made in records.all_of(kind) and made in records.readable(kind)
        assert replay(records.journal.all_changes()) == dump(records.connection)


@pytest.mark.parametrize("kind", PLAIN, ids=lambda k: k.TABLE)
def test_every_record_can_be_changed_taken_out_and_brought_back(store: Store, kind: type[Record]) -> None:
    other = sample(kind, 7)
    free = {n: getattr(other, n) for n in FIELDS[kind] if n not in (*KEYS[kind], "version")}
    with store.change() as change:
        put_parents(change)
        first = change.add(sample(kind))
        logged(change)
    with store.change() as change:
        changed = change.update(first, **free)
        entry = logged(change)
    assert all(getattr(changed, n) == v for n, v in free.items()) and key_of(changed) == key_of(first)
    if isinstance(changed, Versioned):
        assert changed.version == entry.id
    with store.change() as change:
        change.remove(changed)
        taken_out = logged(change)
    with store.read() as records:
        assert records.get(kind, *key_of(first)) is None
    if not kind.JOURNALLED:
        return
    with store.change() as change:
        change.revert(invert(taken_out.changes))
        back = logged(change)
    with store.change() as change:
        change.revert(invert(entry.changes))
        logged(change)
    with store.read() as records:
        now = records.get(kind, *key_of(first))
        assert now is not None
        assert {n: getattr(now, n) for n in FIELDS[kind] if n != "version"} == {
            n: getattr(first, n) for n in FIELDS[kind] if n != "version"
        }
        assert getattr(now, "version", back.id + 1) == back.id + 1
        assert replay(records.journal.all_changes()) == dump(records.connection)


def test_who_changes_what_another_has_changed_is_told(make_store: Callable[[], Store]) -> None:
    one, two = make_store(), make_store()
    with one.change() as change:
        change.add(Person(initials="TO"))
        logged(change)
    with two.read() as records:
        seen = records.get(Person, "TO")
    assert seen is not None
    with one.change() as change:
        change.update(seen, helper=True)
        logged(change, "TO is a helper now", "AB")
    with pytest.raises(StaleRecord) as told, two.change() as change:
        change.update(seen, from_hour=13.0)
    assert (
        "AB has done this just now: “TO is a helper now”" in told.value.words() and told.value.fields["person"] == "AB"
    )
    with pytest.raises(StaleRecord), two.change() as change:
        change.remove(seen)
    with one.change() as change:
        change.remove(change.get(Person, "TO"))  # type: ignore[arg-type]
        logged(change, "TO works here no more", "AB")
    with pytest.raises(StaleRecord, match="TO works here no more"), two.change() as change:
        change.update(seen, from_hour=13.0)
    with two.read() as records:
        assert records.all_of(Person) == [] and len(records.journal.latest(9)) == 3


def test_a_record_may_be_changed_twice_in_one_transaction(store: Store) -> None:
    with store.change() as change:
        lot = change.add(Lot(item="soap", amount=5.0, made_at=AT))
        change.update(lot, amount=4.0)
        assert change.update(lot, lot="B").amount == 4.0
        assert change.update(lot, amount=4.0) == change.get(Lot, lot.id)
        logged(change)
    with store.read() as records:
        assert records.get(Lot, lot.id) == records.first_of(Lot, item="soap", amount=4.0, lot="B")


def test_what_fails_leaves_nothing(store: Store) -> None:
    with pytest.raises(ZeroDivisionError), store.change() as change:
        change.add(Person(initials="TO"))
        logged(change)
        raise ZeroDivisionError
    with pytest.raises(RuntimeError, match="without an entry"), store.change() as change:
        change.add(Person(initials="TO"))
    with pytest.raises(BadInput), store.change() as change:
        change.add(Person(initials="x" * 5000))
    with pytest.raises(StoreProblem) as told, store.change() as change:
        change.add(StockMove(lot_id=99, amount=1.0, why="nobody has it", at=AT))
        logged(change)
    assert told.value.fields["kind"] == "conflict"
    with store.read() as records:
        assert records.all_of(Person) == [] and records.journal.newest() == 0


def test_something_hangs_on_what_is_to_go(store: Store) -> None:
    with store.change() as change:
        lot = change.add(Lot(item="soap", amount=5.0, made_at=AT))
        entry = logged(change)
    with store.change() as change:
        change.add(StockMove(lot_id=lot.id, amount=1.0, why="x", at=AT))
        logged(change)
    with pytest.raises(RowConflict) as told, store.change() as change:
        change.revert(invert(entry.changes))
    assert told.value.table == "stock_move"


def test_one_reader_sees_one_state(make_store: Callable[[], Store]) -> None:
    one, two = make_store(), make_store()
    with one.read() as records:
        assert records.count(Person) == 0
        with two.change() as change:
            change.add(Person(initials="TO"))
            logged(change)
        assert records.count(Person) == 0
    with one.read() as records:
        assert records.count(Person) == 1


def test_who_holds_the_records_is_waited_for_or_not(make_store: Callable[[], Store]) -> None:
    one, two = make_store(), make_store()
    asked: list[float] = []
    two.wait_in_steps(lambda seconds: asked.append(seconds) or len(asked) < 3)  # type: ignore[func-returns-value]
    with one.change() as change:
        change.add(Person(initials="TO"))
        logged(change)
        for wait in (True, False):
            with pytest.raises(StoreProblem) as told, two.change(wait=wait):
                pass
            assert told.value.fields["kind"] == "busy"
    assert len(asked) == 3
    with two.note() as note:
        assert note.count(Person) == 1


def test_many_values_are_asked_for_in_batches(store: Store) -> None:
    with store.change() as change:
        change.add_all(Departure(name=f"d{n}", leaves_at=AT) for n in range(1203))
        logged(change)
    with store.read() as records:
        assert len(records.all_of(Departure, id=range(1, 2000) and list(range(1, 2000)))) == 1203
        assert [d.id for d in records.all_of(Departure, newest=True, limit=2)] == [1203, 1202]
        names = {name: sum(1 for _ in rows) for name, rows in records.tables()}
    assert names["departure"] == 1203 and "clock_anchor" not in names and names["journal"] == 1


# --- several programs at once ---------------------------------------------------------------------------------------

PROGRAMS, ACTIONS = 8, 200


def test_what_was_read_whole_is_known_through_its_changes(store: Store) -> None:
    """The same answer as another reader gets, without asking again."""
    with store.change() as change:
        put_parents(change)
        assert change.all_of(Setting) == change.all_of(Person) == []
        made = change.add(Setting(key="b", value={"n": 1}))
        change.add(Setting(key="a", value={"n": 2}))
        change.update(made, value={"n": 3})
        gone = change.add(Setting(key="c", value={"n": 4}))
        change.remove(gone)
        kept = change.all_of(Setting)
        assert [(s.key, s.value) for s in kept] == [("a", {"n": 2}), ("b", {"n": 3})]
        assert change.all_of(Setting, newest=True) == kept[::-1] and change.all_of(Setting, limit=1) == kept[:1]
        assert change.get(Setting, "c") is None and change.get(Setting, "d") is None
        assert change.get(Setting, "b") == kept[1]
        entry = logged(change)
    with store.read() as reader:
        assert reader.all_of(Setting) == kept
        assert reader.get(Setting, "d") is None
    with store.change() as change:
        assert change.all_of(Setting) == kept
        change.revert(invert(entry.changes))
        assert change.all_of(Setting) == [] and change.get(Setting, "a") is None
        logged(change)


def _add_one(folder: Path, name: str) -> None:
    """Add to what all others add to, and to what is one's own."""
    store = Store(folder)
    store.wait_in_steps(lambda seconds: True)
    for n in range(ACTIONS):
        with store.change() as change:
            lot = change.get(Lot, 1)
            assert lot is not None
            change.update(lot, amount=lot.amount + 1)
            change.put(HouseValue(key=name, value=float(n + 1), at=AT))
            change.put(Setting(key="last", value={"v": name}))
            change.log(at=AT, person=name, seat=name, action="add", words=f"{name} {n}")
    store.close()


def test_nothing_is_lost_between_many_programs(store: Store) -> None:
    """Eight programs do 200 actions each on one row and on rows of their own; nobody is refused, nothing is lost."""
    with store.change() as change:
        change.add(Lot(item="soap", amount=0.0, made_at=AT))
        logged(change)
    spawn = multiprocessing.get_context("spawn")
    programs = [spawn.Process(target=_add_one, args=(store.folder, f"P{n}")) for n in range(PROGRAMS)]
    for program in programs:
        program.start()
    seen, numbers = 0, []
    while any(p.is_alive() for p in programs):
        with store.read() as records:  # who asks what is new since never misses one
            fresh = records.journal.since(seen)
        numbers += [e.id for e in fresh]
        seen = fresh[-1].id if fresh else seen
    for program in programs:
        program.join()
    assert [p.exitcode for p in programs] == [0] * PROGRAMS
    with store.read() as records:
        numbers += [e.id for e in records.journal.since(seen)]
        lot = records.get(Lot, 1)
        assert lot is not None and lot.amount == PROGRAMS * ACTIONS
        assert {v.key: v.value for v in records.all_of(HouseValue)} == {f"P{n}": ACTIONS for n in range(PROGRAMS)}
        assert replay(records.journal.all_changes()) == dump(records.connection)
        own = [e.words for e in records.all_of(JournalEntry, person="P3")]
    assert own == [f"P3 {n}" for n in range(ACTIONS)]
    assert numbers == list(range(1, PROGRAMS * ACTIONS + 2))


# --- properties -----------------------------------------------------------------------------------------------------

STEPS = st.lists(
    st.tuples(st.sampled_from(["add", "update", "remove", "undo", "fail"]), st.integers(0, 6)), max_size=30
)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(steps=STEPS)
def test_any_changes_replay_to_the_state(store: Store, steps: list[tuple[str, int]]) -> None:
    def act(change: Change, what: str, n: int, reeds: list[BenchReed], entries: list[JournalEntry]) -> None:
        if what == "add":
            change.add(BenchReed(group_name=f"g{n}"))
        elif what == "update" and reeds:
            change.update(reeds[n % len(reeds)], uses=n, last_at=AT + timedelta(days=n) if n else None)
        elif what == "remove" and reeds:
            change.remove(reeds[n % len(reeds)])
        elif what == "undo" and entries:
            change.revert(invert(entries[n % len(entries)].changes))
        elif what == "fail":
            change.add(BenchReed(group_name="never"))
            raise ZeroDivisionError

    for what, n in steps:
        with store.read() as records:
            reeds, entries = records.all_of(BenchReed), records.journal.latest(3)
        try:
            with store.change() as change:
                act(change, what, n, reeds, entries)
                logged(change)
        except (ZeroDivisionError, RowConflict):
            pass
    with store.read() as records:
        assert replay(records.journal.all_changes()) == dump(records.connection)
        assert not [r for r in records.all_of(BenchReed) if r.group_name == "never"]
        _chained(records)


def _chained(records: Reader) -> None:
    from creekbed.store.chain import Link, broken, said

    links = [
        Link(e.id, said(e.id, e.at, e.person, e.seat, e.action, e.words, e.tag, e.undoes, e.undoable, e.changes),
             e.digest, e.chain, e.erased)
        for e in records.journal.since(0)
    ]  # fmt: skip
    assert list(broken(links)) == []


def test_several_rows_are_stored_in_one_go_and_a_stale_one_stops_all(shop: Shop) -> None:
    with shop.act("make") as act:
        now = act.now
        rows = act.records.add_all([Departure(name=f"Boat {n}", leaves_at=now) for n in range(3)])
        act.words = "made"
    with shop.act("name") as act:
        done = act.records.update_all(rows, name="Packet")
        act.words = "named"
    assert [d.name for d in done] == ["Packet"] * 3
    with pytest.raises(StaleRecord), shop.act("name") as act:
        act.records.update_all([done[0], rows[1]], name="Ferry")
    with shop.reading() as records:
        assert {d.name for d in records.all_of(Departure, id=[r.id for r in rows])} == {"Packet"}
