"""Frozen dataclasses that are made quickly.

Python 3.11 writes and compiles six methods for each frozen dataclass: 1 to 2 ms a class, a fifth of a start with 250 of
them. Here only ``__init__`` is written for each class; the other five are the same few lines for every class and read
its fields. What a class does is the same, and :mod:`dataclasses` knows it as its own: ``fields``, ``replace`` and
``asdict`` work. For type checkers it *is* the standard decorator.

From memory: Python 3.13 compiles all methods of a class at once; measure again when the oldest Python here is that.
"""

from __future__ import annotations

import dataclasses
from dataclasses import MISSING, Field, FrozenInstanceError
from operator import attrgetter
from reprlib import recursive_repr
from typing import TYPE_CHECKING, Any, NoReturn

if TYPE_CHECKING:
    from dataclasses import dataclass as dataclass
else:

    def dataclass(kind=None, /, *, frozen=False, eq=True, order=False, slots=False, kw_only=False):
        """Make a class a dataclass, as :func:`dataclasses.dataclass` does.

        Args:
            kind: the class; None when the decorator has arguments.
            frozen: no attribute may be set or deleted. eq: instances with equal fields are equal; so are their hashes.
            order, slots, kw_only: as in the standard library.
        """

        def make(kind):
            if not frozen or order:
                return dataclasses.dataclass(
                    kind, frozen=frozen, eq=eq, order=order, slots=slots, kw_only=kw_only
                )  # fmt: skip
            return _made(kind, eq, slots, kw_only)

        return make if kind is None else make(kind)


def _made(kind: Any, eq: bool, slots: bool, kw_only: bool) -> Any:
    own = dict(vars(kind))
    if kind.__doc__ is None:
        kind.__doc__ = kind.__name__  # or the standard library works one out from the signature, which takes long
    made: Any = dataclasses.dataclass(init=False, repr=False, eq=False, slots=slots, kw_only=kw_only)(kind)
    every = dataclasses.fields(made)
    if any(not f.init or f.hash is not None for f in every):
        raise TypeError(f"{kind.__qualname__}: a field that is not given, or hashed otherwise, wants the standard one")
    made.__values_of__ = _getter([f.name for f in every if f.compare])
    made.__shown_names__ = tuple(f.name for f in every if f.repr)
    methods: dict[str, Any] = {"__repr__": _repr, "__setattr__": _no_set, "__delattr__": _no_delete}
    if eq:
        methods |= {"__eq__": _eq, "__hash__": _hash}
    if slots:
        methods |= {"__getstate__": _getstate, "__setstate__": _setstate}
    if "__init__" not in own:
        made.__init__ = _init(made, every)
    for name, method in methods.items():
        if own.get(name) is None:  # also a hash that Python took away because the class says what is equal
            setattr(made, name, method)
    return made


def _init(kind: type, every: tuple[Field[Any], ...]) -> Any:
    """The function that sets all fields: written out, for it is called more often than all others together."""
    names: dict[str, Any] = {"_set": object.__setattr__, "_MISSING": MISSING}
    positional: list[str] = []
    by_name: list[str] = []
    body: list[str] = []
    for field in every:
        name, default, value = field.name, "", field.name
        if field.default_factory is not MISSING:
            names[f"_make_{name}"], default = field.default_factory, "=_MISSING"
            value = f"_make_{name}() if {name} is _MISSING else {name}"
        elif field.default is not MISSING:
            names[f"_default_{name}"], default = field.default, f"=_default_{name}"
        (by_name if field.kw_only else positional).append(name + default)
        body.append(f"_set(self, {name!r}, {value})")
    if hasattr(kind, "__post_init__"):
        body.append("self.__post_init__()")
    given = ", ".join(["self", *positional, *(["*", *by_name] if by_name else [])])
    text = f"def __init__({given}):\n " + "\n ".join(body or ["pass"])
    exec(compile(text, f"<fields of {kind.__qualname__}>", "exec"), names)  # the names are identifiers
    made = names["__init__"]
    made.__qualname__ = f"{kind.__qualname__}.__init__"
    made.__annotations__ = {f.name: f.type for f in every} | {"return": None}
    return made


def _getter(names: list[str]) -> Any:
    if len(names) > 1:
        return attrgetter(*names)
    return staticmethod(lambda self: tuple(getattr(self, name) for name in names))


def _eq(self: Any, other: Any) -> Any:
    if other.__class__ is self.__class__:
        return self.__values_of__(self) == self.__values_of__(other)
    return NotImplemented


def _hash(self: Any) -> int:
    return hash(self.__values_of__(self))


@recursive_repr()
def _repr(self: Any) -> str:
    shown = ", ".join([f"{name}={getattr(self, name)!r}" for name in self.__shown_names__])
    return f"{self.__class__.__qualname__}({shown})"


def _no_set(self: Any, name: str, value: object) -> NoReturn:
    raise FrozenInstanceError(f"cannot assign to field {name!r}")


def _no_delete(self: Any, name: str) -> NoReturn:
    raise FrozenInstanceError(f"cannot delete field {name!r}")


def _getstate(self: Any) -> list[Any]:
    return [getattr(self, f.name) for f in dataclasses.fields(self)]


def _setstate(self: Any, state: list[Any]) -> None:
    for field, value in zip(dataclasses.fields(self), state, strict=True):
        object.__setattr__(self, field.name, value)
