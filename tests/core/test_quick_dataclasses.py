"""Quick dataclasses do what the standard library's do: both are made of the same class and asked the same."""

from __future__ import annotations

import copy
import dataclasses
import inspect
import pickle
from dataclasses import FrozenInstanceError, field
from functools import cached_property
from typing import Any, ClassVar

import pytest
from hypothesis import given
from hypothesis import strategies as st

from creekbed.core import quick_dataclasses as quick
from creekbed.store.tables import KINDS

MAKERS = pytest.mark.parametrize("dataclass", [dataclasses.dataclass, quick.dataclass], ids=["standard", "quick"])


def made(dataclass: Any, **options: Any) -> Any:
    """A class with every kind of field that Creekbed uses."""

    @dataclass(frozen=True, **options)
    class Reading:
        UNIT: ClassVar[str] = "mm"
        place: str
        value: float
        note: str = ""
        seen: list[int] = field(default_factory=list)
        by: str = field(default="", repr=False, compare=False, metadata={"length": 3})

        def __post_init__(self) -> None:
            if self.value < 0:
                raise ValueError(self.value)

    return Reading


@MAKERS
def test_fields_are_given_as_arguments_and_cannot_be_set(dataclass: Any) -> None:
    kind = made(dataclass)
    reading = kind("neck", 2.5)
    assert (reading.place, reading.value, reading.note, reading.seen, reading.by) == ("neck", 2.5, "", [], "")
    assert kind("neck", 1.0).seen is not kind("neck", 1.0).seen
    with pytest.raises(FrozenInstanceError):
        reading.value = 3.0
    with pytest.raises(FrozenInstanceError):
        del reading.value
    with pytest.raises(FrozenInstanceError):
        reading.other = 3.0
    with pytest.raises(ValueError, match="-1"):
        kind("neck", -1)
    for wrong in (lambda: kind("neck"), lambda: kind("neck", 1, "", [], "", 0), lambda: kind("neck", 1, what=2)):
        with pytest.raises(TypeError):
            wrong()


@given(st.lists(st.tuples(st.sampled_from("ab"), st.sampled_from([0.0, 1.0, float("nan")]), st.text(max_size=1))))
def test_equal_hash_and_shown_as_the_standard_ones(rows: list[tuple[str, float, str]]) -> None:
    plain, ours = made(dataclasses.dataclass), made(quick.dataclass)
    old, new = [plain(*row, seen=()) for row in rows], [ours(*row, seen=()) for row in rows]
    assert [a == b for a in old for b in old] == [a == b for a in new for b in new]
    assert [hash(a) for a in old] == [hash(a) for a in new]
    assert [repr(a) for a in old] == [repr(a) for a in new]
    assert len(set(old)) == len(set(new))
    assert all(a != b for a in old for b in new)


@MAKERS
def test_the_standard_functions_know_them(dataclass: Any) -> None:
    kind = made(dataclass)
    reading = kind("neck", 2.5, seen=[1])
    assert dataclasses.asdict(reading) == {"place": "neck", "value": 2.5, "note": "", "seen": [1], "by": ""}
    assert dataclasses.replace(reading, value=3.0) == kind("neck", 3.0, seen=[1])
    assert [f.name for f in dataclasses.fields(kind)] == ["place", "value", "note", "seen", "by"]
    assert dataclasses.fields(kind)[4].metadata == {"length": 3}
    assert copy.deepcopy(reading) == reading
    assert list(inspect.signature(kind).parameters) == ["place", "value", "note", "seen", "by"]
    assert kind.__match_args__ == ("place", "value", "note", "seen", "by")


@MAKERS
def test_what_a_class_says_itself_stays(dataclass: Any) -> None:
    @dataclass(frozen=True)
    class Named:
        name: str
        rest: int = 0

        def __eq__(self, other: object) -> bool:
            return isinstance(other, Named) and other.name == self.name

        def __hash__(self) -> int:
            return hash(self.name)

        def __repr__(self) -> str:
            return self.name

        @cached_property
        def twice(self) -> str:
            return self.name * 2

    assert Named("a", 1) == Named("a", 2)
    assert {Named("a", 1)} == {Named("a", 2)}
    assert repr(Named("a")) == "a"
    assert (Named("a").twice, Named("a")) == ("aa", Named("a"))

    @dataclass(frozen=True, eq=False)
    class Alone:
        name: str

    assert Alone("a") != Alone("a")
    assert len({Alone("a"), Alone("a")}) == 2


@MAKERS
def test_subclasses_take_the_fields_of_their_base_first(dataclass: Any) -> None:
    @dataclass(frozen=True, kw_only=True)
    class Row:
        version: int = 0

    @dataclass(frozen=True, kw_only=True)
    class Tray(Row):
        name: str

    @dataclass(frozen=True, kw_only=True)
    class Rack(Row):
        name: str

    assert Tray(name="a").version == 0
    assert repr(Tray(name="a", version=2)).endswith("Tray(version=2, name='a')")
    assert Tray(name="a") != Rack(name="a")
    with pytest.raises(TypeError):
        Tray("a")


@MAKERS
def test_without_fields_and_with_itself_inside(dataclass: Any) -> None:
    @dataclass(frozen=True)
    class Nothing:
        pass

    assert Nothing() == Nothing()
    assert hash(Nothing()) == hash(())

    @dataclass(frozen=True)
    class Ring:
        held: list[Any]

    ring = Ring([])
    ring.held.append(ring)
    assert repr(ring).endswith("Ring(held=[...])")


def test_every_record_survives_being_sent_to_another_process() -> None:
    for kind in KINDS.values():
        names = [f.name for f in dataclasses.fields(kind)]
        record = kind(**{name: name for name in names})
        sent = pickle.loads(pickle.dumps(record))  # noqa: S301  # what was pickled just now
        assert sent == record
        assert sent is not record
        assert not hasattr(record, "__dict__")
        with pytest.raises(FrozenInstanceError):
            setattr(record, names[0], 1)


def test_fields_that_it_cannot_do_are_refused() -> None:
    with pytest.raises(TypeError, match="standard one"):

        @quick.dataclass(frozen=True)
        class Later:
            found: int = field(init=False)
