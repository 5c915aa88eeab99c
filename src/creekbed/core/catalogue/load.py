"""Reading the catalogue: TOML files to typed models, with errors that name file, key and line."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from creekbed.core.catalogue.models import Agent, Bearing, Family, House, Step, Supply, Topic
from creekbed.core.errors import BadData
from creekbed.core.hygiene.touch import may_touch
from creekbed.core.procedure.order import topological_order

DATA = Path(__file__).parent / "data"
MAX_BYTES = 1_000_000
M = TypeVar("M", bound=BaseModel)


@dataclass(frozen=True)
class Catalogue:
    """Everything the shop knows, by key."""

    families: dict[str, Family]
    topics: dict[str, Topic]
    agents: dict[str, Agent]
    materials: dict[str, Bearing]
    supplies: dict[str, Supply]
    house: House

    def topics_for(self, family: str) -> list[Topic]:
        """The questions on which practitioners disagree, for one family."""
        return [t for t in self.topics.values() if family in t.families]


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
    raw = path.read_bytes()
    if len(raw) > MAX_BYTES:
        raise BadData(f"{path.name} is larger than {MAX_BYTES:,} bytes.", file=path.name, key="", line=0)
    try:
        text = raw.decode("utf-8")
        return tomllib.loads(text), text
    except (UnicodeDecodeError, tomllib.TOMLDecodeError) as error:
        found = re.search(r"line (\d+)", str(error))
        line = int(found[1]) if found else 0
        raise BadData(
            f"{path.name}, line {line}: {error}.", todo="Mend the file.", file=path.name, key="", line=line
        ) from error


def read_model(path: Path, model: type[M]) -> M:
    """A whole file as one model.

    Raises:
        BadData: with ``file``, ``key`` and ``line`` of the first thing wrong.
    """
    table, text = read_table(path)
    return _validate(path, text, model, table, ())


def read_entries(path: Path, name: str, model: type[M]) -> dict[str, M]:
    """The ``[[name]]`` tables of a file, by their ``key``.

    Raises:
        BadData: as :func:`read_model`; also for a key given twice or a table of another name.
    """
    table, text = read_table(path)
    lines = key_lines(text)
    for other in table:
        if other != name:
            line = next((n for where, n in lines.items() if where[0] == other), 0)
            raise BadData(
                f"{path.name}, line {line}: “{other}” is not known here.", file=path.name, key=other, line=line
            )
    found: dict[str, M] = {}
    for index, entry in enumerate(table.get(name, [])):
        item = _validate(path, text, model, entry, (name, index))
        key = str(getattr(item, "key", ""))
        if key in found:
            line = lines.get((name, index), 0)
            raise BadData(
                f"{path.name}, line {line}: {name} “{key}” is there twice.", file=path.name, key=key, line=line
            )
        found[key] = item
    return found


def _validate(path: Path, text: str, model: type[M], table: Any, prefix: tuple[str | int, ...]) -> M:
    try:
        return model.model_validate(table)
    except ValidationError as error:
        first = error.errors()[0]
        where = prefix + tuple(first["loc"])
        lines = key_lines(text)
        line = next((lines[where[:n]] for n in range(len(where), 0, -1) if where[:n] in lines), 1)
        key = ".".join(str(part) for part in where)
        raise BadData(
            f"{path.name}, line {line}: {key}: {first['msg']}.",
            todo="Mend the file; the rest works on.", file=path.name, key=key, line=line,
        ) from error  # fmt: skip


def load(data: Path = DATA) -> Catalogue:
    """Read and cross-check a whole catalogue folder.

    Raises:
        BadData: a file is wrong, names something that does not exist, or a family's order contradicts itself.
    """
    families = {}
    for path in sorted((data / "families").glob("*.toml")):
        family = read_model(path, Family)
        families[family.key] = family
    catalogue = Catalogue(
        families=families,
        topics=read_entries(data / "schools.toml", "topic", Topic),
        agents=read_entries(data / "agents.toml", "agent", Agent),
        materials=read_entries(data / "materials.toml", "material", Bearing),
        supplies=read_entries(data / "supplies.toml", "supply", Supply),
        house=read_model(data / "house.toml", House),
    )
    for family in families.values():
        _cross_check(family, catalogue)
    return catalogue


def _cross_check(family: Family, catalogue: Catalogue) -> None:
    file = f"{family.key}.toml"

    def known(kind: str, key: str, names: Iterable[str]) -> None:
        if key not in names:
            raise BadData(f"{file}: {kind} “{key}” does not exist.", file=file, key=key, line=0)

    steps = {s.key: s for s in family.step}
    parts = {p.key for p in family.part}
    places = {p.key for p in catalogue.house.place}
    if len(steps) != len(family.step):
        raise BadData(f"{file}: a step is there twice.", file=file, key="step", line=0)
    for part in family.part:
        for material in part.materials:
            known("material", material, catalogue.materials)
    for item in family.item:
        if item.stock:
            known("supply", item.stock, catalogue.supplies)
    for step in family.step:
        for other in step.after + ((step.ends,) if step.ends else ()):
            known("step", other, steps)
        if step.ends and steps[step.ends].wait is None:
            raise BadData(f"{file}: {step.key} ends {step.ends}, which has no wait.", file=file, key=step.key, line=0)
        if step.part:
            known("part", step.part, parts)
        if step.agent:
            known("agent", step.agent, catalogue.agents)
            _guard(family, step, catalogue)
        if step.school:
            known("topic", step.school, catalogue.topics)
        if step.wait:
            known("place", step.wait.place, places)
        for use in step.supplies:
            known("supply", use.item, catalogue.supplies)
    try:
        topological_order({s.key: set(s.after) for s in family.step})
    except ValueError as error:
        raise BadData(f"{file}: {error}", file=file, key="after", line=0) from error


def _guard(family: Family, step: Step, catalogue: Catalogue) -> None:
    """No step may bring an agent to a material of its part that does not bear it."""
    assert step.agent is not None
    for part in family.part:
        if part.key != step.part:
            continue
        for key in part.materials:
            answer = may_touch(catalogue.materials[key], step.agent, step.exposure)
            if not answer.allowed:
                raise BadData(
                    f"{family.key}.toml: {step.key} brings {step.agent} to {catalogue.materials[key].name}: "
                    f"{answer.why}",
                    file=f"{family.key}.toml", key=step.key, line=0,
                )  # fmt: skip


@lru_cache(maxsize=1)
def shipped() -> Catalogue:
    """The catalogue that ships with Creekbed, read once."""
    return load()
