"""Reading TOML files as typed models: errors name file, key and line."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any, TypeVar

import tomli
from pydantic import BaseModel, ValidationError

from creekbed.core.bounded import read_at_most
from creekbed.core.errors import BadData, BadInput

MAX_BYTES = 1_000_000
M = TypeVar("M", bound=BaseModel)


def key_lines(text: str) -> dict[tuple[str | int, ...], int]:
    """Line numbers (from 1) of every table header and top-level key of a TOML text.

    Paths look like pydantic's error locations: ``("step", 3, "hands_min")``. Keys inside inline tables
    share the line of the key that holds them.
    """
    lines: dict[tuple[str | int, ...], int] = {}
    counts: dict[tuple[str, ...], int] = {}
    here: tuple[str | int, ...] = ()
    for number, line in enumerate(text.splitlines(), 1):
        header = re.match(r"^\s*(\[\[?)\s*([A-Za-z0-9_.\-]+)\s*\]\]?", line)
        if header:
            names = tuple(header[2].split("."))
            if header[1] == "[[":
                counts[names] = counts.get(names, -1) + 1
                for deeper in [k for k in counts if k[: len(names)] == names and k != names]:
                    del counts[deeper]
            path: list[str | int] = []
            for depth in range(1, len(names) + 1):
                path.append(names[depth - 1])
                if names[:depth] in counts:
                    path.append(counts[names[:depth]])
            here = tuple(path)
            lines.setdefault(here, number)
            continue
        key = re.match(r"^\s*([A-Za-z0-9_\-]+)\s*=", line)
        if key:
            lines.setdefault((*here, key[1]), number)
    return lines


def read_table(path: Path) -> tuple[dict[str, Any], str]:
    """A TOML file as a table, with its text.

    Raises:
        BadData: too large, not UTF-8, or not TOML.
    """
    try:
        text = read_at_most(path, MAX_BYTES).decode("utf-8")
    except UnicodeDecodeError as error:
        raise BadData(f"{path.name} is not text.", todo="Mend the file.", file=path.name, key="", line=0) from error
    except BadInput as error:
        raise BadData(error.happened, todo=error.todo, file=path.name, key="", line=0) from error
    except OSError as error:
        raise unreadable(path, error) from error
    return read_text(path, text), text


def unreadable(path: Path, error: OSError) -> BadData:
    """The error for a file or folder that cannot be read."""
    return BadData(
        f"{path.name} cannot be read: {error.strerror or error}.", todo="Look at its rights.", file=path.name, key="",
        line=0,
    )  # fmt: skip


def read_text(path: Path, text: str) -> dict[str, Any]:
    """The table in a text; ``path`` only names it in errors.

    Raises:
        BadData: it is not TOML.
    """
    try:
        table = tomli.loads(text)
        return _as_named_now(table) if "school" in text else table
    except (tomli.TOMLDecodeError, RecursionError, ValueError) as error:
        found = re.search(r"line (\d+)", str(error))
        line = int(found[1]) if found else 0
        raise BadData(
            f"{path.name}, line {line}: {error}.", todo="Mend the file.", file=path.name, key="", line=line
        ) from error


def _as_named_now(value: Any) -> Any:
    """A table of an older shop's own file: what is called policy now was called school there."""
    if isinstance(value, dict):
        return {"policy" if k == "school" else k: _as_named_now(v) for k, v in value.items()}
    if isinstance(value, list):
        return [_as_named_now(v) for v in value]
    if isinstance(value, str):
        return re.sub(r"^school\.(?=[a-z])|(?<=\{)school(?=_)", lambda m: m[0].replace("school", "policy"), value)
    return value


def read_model(path: Path, model: type[M]) -> M:
    """A whole file as one model.

    Raises:
        BadData: with ``file``, ``key`` and ``line`` of the first thing wrong.
    """
    table, text = read_table(path)
    return validate(path, text, model, table, ())


def read_entries(path: Path, name: str, model: type[M]) -> dict[str, M]:
    """The ``[[name]]`` tables of a file, by their ``key``, over what ``[defaults.name]`` says of all of them.

    Raises:
        BadData: as :func:`read_model`; also for a key given twice or a table of another name.
    """
    table, text = read_table(path)
    lines = key_lines(text)
    for other in table:
        if other not in (name, "defaults"):
            line = next((n for where, n in lines.items() if where[0] == other), 0)
            raise BadData(
                f"{path.name}, line {line}: “{other}” is not known here.", file=path.name, key=other, line=line
            )
    defaults = table.get("defaults", {}).get(name, {})
    found: dict[str, M] = {}
    for index, entry in enumerate(table.get(name, [])):
        item = validate(path, text, model, {**defaults, **entry}, (name, index))
        key = str(getattr(item, "key", ""))
        if key in found:
            line = lines.get((name, index), 0)
            raise BadData(
                f"{path.name}, line {line}: {name} “{key}” is there twice.", file=path.name, key=key, line=line
            )
        found[key] = item
    return found


def bad(path: Path, text: str, where: tuple[str | int, ...], what: str) -> BadData:
    """The error for one place of a file, with its line.

    Args:
        path, text: the file. where: path of keys as :func:`key_lines` gives them. what: what is wrong, in words.
    """
    lines = key_lines(text)
    inner = [n for found, n in lines.items() if where and found[: len(where)] == where]
    outer = (lines[where[:n]] for n in range(len(where), 0, -1) if where[:n] in lines)
    line = lines.get(where) or min(inner, default=0) or next(outer, 1)
    key = ".".join(str(part) for part in where)
    return BadData(
        f"{path.name}, line {line}: {key}: {what}",
        todo="Mend the file; the rest works on.", file=path.name, key=key, line=line, what=what,
    )  # fmt: skip


def validate(path: Path, text: str, model: type[M], table: Any, prefix: tuple[str | int, ...]) -> M:
    """One table of a file as a model.

    Raises:
        BadData: with ``file``, ``key`` and ``line`` of the first thing wrong.
    """
    try:
        return model.model_validate(table)
    except ValidationError as error:
        first = error.errors()[0]
        raise bad(
            path, text, prefix + tuple(first["loc"]), f"{first['msg'].removeprefix('Value error, ').rstrip('.')}."
        ) from error
