"""Rows instead of values in settings; the field's names for tables; a version for every row that people change.

What was kept in settings becomes rows, and one entry of the journal says so, so that the journal's replay still gives
what is on record.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

import sqlalchemy as sa
from alembic import op

from creekbed.store.chain import START, digest_of, next_chain, said

revision = "0008"
down_revision = "0007"

RENAMED_TABLES = (("boat", "departure"), ("work", "step_record"), ("school_choice", "policy_choice"))
RENAMED_COLUMNS = (
    ("job", "boat_id", "departure_id"), ("job", "schools", "policies"), ("forecast", "boat_id", "departure_id"),
)  # fmt: skip
VERSIONED = (
    "content_line", "departure", "disinfection", "finding", "hire", "in_hand", "instrument", "job", "lot", "mark",
    "photo", "policy_choice", "setting", "step_record", "stock_move", "tag_print", "wait",
)  # fmt: skip


def _id() -> sa.Column[Any]:
    return sa.Column("id", sa.Integer(), primary_key=True)


def _text(name: str, *, key: bool = False, empty: bool = False) -> sa.Column[Any]:
    return sa.Column(name, sa.String(), primary_key=key, nullable=empty)


def _whole(name: str, *, empty: bool = False) -> sa.Column[Any]:
    return sa.Column(name, sa.Integer(), nullable=empty)


def _json(name: str) -> sa.Column[Any]:
    return sa.Column(name, sa.JSON(), nullable=False)


def _number(name: str, *, empty: bool = False) -> sa.Column[Any]:
    return sa.Column(name, sa.Double(), nullable=empty)


def _time(name: str, *, empty: bool = False) -> sa.Column[Any]:
    return sa.Column(name, sa.DateTime(), nullable=empty)


def _of(name: str, column: str, *, key: bool = False, empty: bool = False, kind: Any = None) -> sa.Column[Any]:
    return sa.Column(name, kind or sa.Integer(), sa.ForeignKey(column), primary_key=key, nullable=empty)


def _version() -> sa.Column[Any]:
    return sa.Column("version", sa.Integer(), nullable=False, server_default="0")


def _new_tables() -> None:
    make = op.create_table
    make("attendance", _id(), _text("person"), _text("kind"), _time("begins_at"), _time("ends_at"), _version())
    op.create_index("ix_attendance_person", "attendance", ["person"])
    temperatures = ("volume_l", "target_c", "hot_c", "cold_c", "room_c", "lowest_c", "start_c", "tau_min")
    make(
        "bath", _id(), *map(_number, temperatures), _time("filled_at"), _time("since"), _time("emptied_at", empty=True),
        _text("machine"), _version(),
    )  # fmt: skip
    op.create_index("ix_bath_emptied_at", "bath", ["emptied_at"])
    make(
        "cloth", _text("key", key=True), _text("name", empty=True), _number("width_mm", empty=True),
        _number("thickness_mm", empty=True), sa.Column("groups", sa.JSON()), _whole("wash_after", empty=True),
        _whole("lasts", empty=True), _text("stuff", empty=True), _number("cord_mm", empty=True),
        _number("weight_mm", empty=True), _number("phi", empty=True), _whole("uses"), _whole("washes"),
        _time("washed_at", empty=True), _version(),
    )  # fmt: skip
    make("cloth_count", _text("stuff", key=True), _whole("dry"), _whole("dirty"), _version())
    make("cloth_on_line", _id(), _text("stuff"), _whole("number"), _time("dry_at"), _version())
    _new_tables_of_people_and_jobs(make)


def _new_tables_of_people_and_jobs(make: Callable[..., Any]) -> None:
    make("hand_wash", _text("person", key=True), _time("at"), _version())
    make("house_value", _text("key", key=True), _number("value"), _time("at"), _version())
    make("own_product", _text("name", key=True), _text("ingredients"), _version())
    make(
        "person", _text("initials", key=True), sa.Column("helper", sa.Boolean(), nullable=False), _number("from_hour"),
        _number("to_hour"), _version(),
    )  # fmt: skip
    make("point_placing", _text("person", key=True), _number("squares"), _whole("free"), _version())
    make("policy_request", _text("who", key=True), _text("topic", key=True), _text("choice"), _version())
    make("price", _id(), _text("item"), _number("price", empty=True), _time("valid_from"), _version())
    op.create_index("ix_price_item", "price", ["item", "valid_from"])
    make("reed_bath", _id(), _time("since"), _time("ended_at", empty=True), _text("machine"), _version())
    make(
        "shown_plan", _id(), _whole("number"), _time("at"), sa.Column("steps", sa.JSON(), nullable=False),
        sa.Column("assessment", sa.JSON()),
    )  # fmt: skip
    make("water_weighing", _id(), _text("family"), _number("bound_g"), _number("found_g"), _time("at"), _version())
    op.create_index("ix_water_weighing_family", "water_weighing", ["family"])
    make(
        "bench_reed", _id(), _text("group_name"), _whole("uses"), _whole("fresh_uses"), _time("last_at", empty=True),
        _time("first_at", empty=True), _whole("cleanings"), _of("bath_id", "reed_bath.id", empty=True), _version(),
    )  # fmt: skip
    make(
        "lubricant_taken", _of("tag", "instrument.tag", key=True, kind=sa.String()), _text("supply", key=True),
        _number("amount"), _version(),
    )  # fmt: skip
    make(
        "awaited_part", _id(), _of("job_id", "job.id"), _text("key"), _text("what"), _text("item"), _time("at"),
        _version(),
    )  # fmt: skip
    op.create_index("ix_awaited_part_job_id", "awaited_part", ["job_id"])
    make(
        "fixed_start", _id(), _of("job_id", "job.id"), _text("key"), _text("person"), _time("at"), _version(),
        sa.UniqueConstraint("job_id", "key"),
    )  # fmt: skip
    op.create_index("ix_fixed_start_job_id", "fixed_start", ["job_id"])
    make("tray", _of("job_id", "job.id", key=True), _text("letter"), _version())
    op.drop_table("clock_anchor")
    make(
        "clock_anchor", _text("machine", key=True), _time("utc"), _text("boot_id"), _number("boot_seconds"),
        _text("checksum"), _json("at_most"),
    )  # fmt: skip


def _changed_tables() -> None:
    for table in VERSIONED:
        op.add_column(table, _version())
    op.add_column("instrument", sa.Column("air_way", sa.JSON(), nullable=False, server_default="[]"))
    for table in ("job", "wait"):
        op.add_column(table, sa.Column("machine", sa.String(), nullable=False, server_default=""))
    for name, table in (("boat_leaves_at", "departure"), ("journal_tag", "journal"), ("work_job_id", "step_record")):
        op.drop_index(f"ix_{name}", table_name=table)
    op.create_index("ix_departure_leaves_at", "departure", ["leaves_at"])
    op.create_index("ix_job_departure_id", "job", ["departure_id"])
    op.create_index("ix_mark_job_id", "mark", ["job_id"])
    op.create_index("ix_step_record_job_id", "step_record", ["job_id"])
    op.create_index("ix_step_record_person", "step_record", ["person", "id"])
    op.create_index("ix_journal_tag", "journal", ["tag", "id"])
    op.create_index("ix_journal_action", "journal", ["action", "id"])
    op.create_index("ix_journal_person", "journal", ["person", "seat", "id"])


Row = tuple[str, dict[str, Any]]
"""Table and columns of a row."""


class _Rows:
    """Makes rows of what was kept in settings.

    Args:
        at: the time of the entry. jobs, tags: what rows may refer to.
    """

    def __init__(self, at: str, jobs: set[int], tags: set[str]):
        self.at, self.jobs, self.tags = at, jobs, tags

    def people(self, value: Any) -> list[Row]:
        found: list[Row] = []
        for initials, row in value.items():
            first, last = row.get("hours") or (0.0, 24.0)
            person = {"initials": initials, "helper": bool(row.get("helper")), "from_hour": float(first)}
            found.append(("person", {**person, "to_hour": float(last)}))
            for kind in ("away", "stays"):
                for begin, end in row.get(kind, ()):
                    found.append(("attendance", {
                        "person": initials, "kind": kind, "begins_at": _utc(begin), "ends_at": _utc(end),
                    }))  # fmt: skip
        return found

    def parts(self, value: Any) -> list[Row]:
        return [
            ("awaited_part", {"job_id": job, "key": key, "what": what, "item": item, "at": _utc(at)})
            for job, key, what, item, at in value if job in self.jobs
        ]  # fmt: skip

    def locks(self, value: Any) -> list[Row]:
        rows = {(job, key): (person, at) for job, key, person, at in value if job in self.jobs}
        return [
            ("fixed_start", {"job_id": job, "key": key, "person": person, "at": _utc(at)})
            for (job, key), (person, at) in rows.items()
        ]  # fmt: skip

    def bath(self, value: Any) -> list[Row]:
        if not value:
            return []
        numbers = ("volume_l", "target_c", "hot_c", "cold_c", "room_c", "lowest_c", "start_c", "tau_min")
        times = {n: _utc(value[n]) for n in ("filled_at", "since")}
        return [("bath", {**{n: float(value[n]) for n in numbers}, **times, "emptied_at": None, "machine": ""})]

    def tub_tau_min(self, value: Any) -> list[Row]:
        return [("house_value", {"key": "tub_tau_min", "value": float(value), "at": self.at})] if value else []

    def reeds(self, value: Any, lying: frozenset[int] = frozenset()) -> list[Row]:
        return [
            ("bench_reed", {
                "id": int(r["id"]), "group_name": str(r["group"]), "uses": int(r["uses"]),
                "fresh_uses": int(r["fresh_uses"]), "last_at": _utc(r.get("last")), "first_at": _utc(r.get("first")),
                "cleanings": int(r["cleanings"]), "bath_id": 1 if int(r["id"]) in lying else None,
            })
            for r in value
        ]  # fmt: skip

    def reed_bath(self, value: Any) -> list[Row]:
        return (
            [("reed_bath", {"id": 1, "since": _utc(value["since"]), "ended_at": None, "machine": ""})] if value else []
        )

    def cloths(self, value: Any) -> list[Row]:
        own = (
            "name",
            "width_mm",
            "thickness_mm",
            "groups",
            "wash_after",
            "lasts",
            "stuff",
            "cord_mm",
            "weight_mm",
            "phi",
        )
        return [
            ("cloth", {
                "key": key, **{n: row.get(n) for n in own}, "uses": int(row.get("uses", 0)),
                "washes": int(row.get("washes", 0)), "washed_at": _utc(row.get("washed_at")),
            })
            for key, row in value.items()
        ]  # fmt: skip

    def shelf_cloths(self, value: Any) -> list[Row]:
        found: list[Row] = []
        for stuff, row in value.items():
            found.append(("cloth_count", {"stuff": stuff, "dry": int(row["dry"]), "dirty": int(row["dirty"])}))
            for until, n in row["wet"]:
                found.append(("cloth_on_line", {"stuff": stuff, "number": int(n), "dry_at": _utc(until)}))
        return found

    def water_weighed(self, value: Any) -> list[Row]:
        return [
            ("water_weighing", {"family": family, "bound_g": float(a), "found_g": float(b), "at": self.at})
            for family, rows in value.items() for a, b in rows
        ]  # fmt: skip

    def took(self, value: Any) -> list[Row]:
        return [
            ("lubricant_taken", {"tag": tag, "supply": supply, "amount": float(amount)})
            for tag, rows in value.items() if tag in self.tags for supply, amount in rows.items()
        ]  # fmt: skip

    def trays(self, value: Any) -> list[Row]:
        return [("tray", {"job_id": int(n), "letter": x}) for n, x in value.items() if int(n) in self.jobs]

    def prices(self, value: Any) -> list[Row]:
        return [("price", {"item": i, "price": float(p), "valid_from": self.at}) for i, p in value.items()]

    def asked_schools(self, value: Any) -> list[Row]:
        return [
            ("policy_request", {"who": who, "topic": topic, "choice": choice})
            for who, topics in value.items() for topic, choice in topics.items()
        ]  # fmt: skip

    def placings(self, value: Any) -> list[Row]:
        return [("point_placing", {"person": p, "squares": float(s), "free": int(n)}) for p, (s, n) in value.items()]

    def products(self, value: Any) -> list[Row]:
        return [("own_product", {"name": name, "ingredients": str(text)}) for name, text in value.items()]

    def hands_washed(self, value: Any) -> list[Row]:
        return [("hand_wash", {"person": who, "at": _utc(at)}) for who, at in value.items()]


ORDER = (
    "people", "parts", "locks", "bath", "tub_tau_min", "reed_bath", "reeds", "cloths", "shelf_cloths", "water_weighed",
    "took", "trays", "prices", "asked_schools", "placings", "products", "hands_washed",
)  # fmt: skip
TIMES = {"begins_at", "ends_at", "at", "filled_at", "since", "emptied_at", "last_at", "first_at", "washed_at", "dry_at",
         "valid_from", "ended_at"}  # fmt: skip


def _utc(text: str | None) -> str | None:
    """A time as the journal keeps it."""
    return datetime.fromisoformat(text).astimezone(UTC).isoformat() if text else None


def _stored(name: str, value: Any) -> Any:
    """A value of the journal as SQLite keeps it."""
    if name in TIMES and value is not None:
        return datetime.fromisoformat(value).astimezone(UTC).replace(tzinfo=None).isoformat(" ", "microseconds")
    return json.dumps(value) if isinstance(value, list | dict) else value


def _move_settings() -> None:
    connection = op.get_bind()
    run: Callable[..., Any] = connection.exec_driver_sql
    last = run("SELECT id, at, chain FROM journal ORDER BY id DESC LIMIT 1").first()
    number, chain = (last[0] + 1, last[2]) if last is not None else (1, START)
    at = datetime.fromisoformat(last[1]).replace(tzinfo=UTC) if last is not None else datetime.now(UTC)
    jobs = {n for (n,) in run("SELECT id FROM job")}
    tags = {t for (t,) in run("SELECT tag FROM instrument")}
    rows, changes = _Rows(at.isoformat(), jobs, tags), []
    run("DELETE FROM setting WHERE key = 'plan'")
    settings = {key: _value(text) for key, text in run("SELECT key, value FROM setting")}
    bathed = settings.get("reed_bath")
    lying = frozenset(bathed.get("reeds", ())) if isinstance(bathed, dict) else frozenset()
    for key in ORDER:
        if key not in settings:
            continue
        try:
            made = rows.reeds(settings[key], lying) if key == "reeds" else getattr(rows, key)(settings[key])
        except (AttributeError, KeyError, LookupError, TypeError, ValueError):
            continue  # a spoilt value stays as it was; the daily check tells of it
        changes.append({"t": "setting", "k": {"key": key}, "b": {"key": key, "value": {"v": settings[key]}}, "a": None})
        run("DELETE FROM setting WHERE key = ?", (key,))
        changes += [_insert(run, table, row, number) for table, row in made]
    changes += _air_ways(run, settings, tags, number)
    if not changes:
        return
    words = "The records were brought to a new form; nothing was lost"
    text = said(number, at, "", "", "records.moved", words, "", None, False, changes)
    digest = digest_of(text)
    run(
        "INSERT INTO journal (id, at, person, action, words, tag, undoes, undoable, changes, seat, digest, chain, "
        "erased) VALUES (?, ?, '', 'records.moved', ?, '', NULL, 0, ?, '', ?, ?, '{}')",
        (number, _stored("at", at.isoformat()), words, json.dumps(changes), digest, next_chain(chain, digest)),
    )


def _value(text: str) -> Any:
    try:
        return json.loads(text).get("v")
    except (ValueError, AttributeError):
        return None


def _insert(run: Callable[..., Any], table: str, row: dict[str, Any], number: int) -> dict[str, Any]:
    """Store a row; the change of the journal that says so."""
    keys = {"person": "initials", "house_value": "key", "cloth": "key", "cloth_count": "stuff", "tray": "job_id",
            "point_placing": "person", "own_product": "name", "hand_wash": "person"}  # fmt: skip
    names = [*row, "version"]
    marks = ", ".join("?" * len(names))
    quoted = ", ".join(f'"{n}"' for n in names)
    done = run(
        f"INSERT INTO {table} ({quoted}) VALUES ({marks})",  # noqa: S608  # names are from this file
        (*(_stored(n, v) for n, v in row.items()), number),
    )
    if table in ("lubricant_taken", "policy_request"):
        key = {n: row[n] for n in (("tag", "supply") if table == "lubricant_taken" else ("who", "topic"))}
    elif table in keys:
        key = {keys[table]: row[keys[table]]}
    else:
        row = {"id": row.get("id", done.lastrowid), **row}
        key = {"id": row["id"]}
    return {"t": table, "k": key, "b": None, "a": row}


def _air_ways(run: Callable[..., Any], settings: dict[str, Any], tags: set[str], number: int) -> list[dict[str, Any]]:
    """The way of the air that was set for single instruments: a column of theirs from now on."""
    value = settings.get("air_way")
    if not isinstance(value, dict):
        return []
    changes: list[dict[str, Any]] = [
        {"t": "setting", "k": {"key": "air_way"}, "b": {"key": "air_way", "value": {"v": value}}, "a": None}
    ]
    run("DELETE FROM setting WHERE key = 'air_way'")
    for tag, way in value.items():
        if tag in tags and isinstance(way, list):
            run("UPDATE instrument SET air_way = ?, version = ? WHERE tag = ?", (json.dumps(way), number, tag))
            changes.append({"t": "instrument", "k": {"tag": tag}, "b": {"air_way": []}, "a": {"air_way": way}})
    return changes


def upgrade() -> None:
    for old, new in RENAMED_TABLES:
        op.rename_table(old, new)
    for table, old, new in RENAMED_COLUMNS:
        op.alter_column(table, old, new_column_name=new)
    _changed_tables()
    _new_tables()
    _move_settings()
