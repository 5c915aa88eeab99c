"""The catalogue: everything the shop knows, read and cross-checked."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from creekbed.core.catalogue.catalogue import Catalogue
from creekbed.core.catalogue.compiled import compiled
from creekbed.core.catalogue.families import read_group
from creekbed.core.catalogue.models.agents import (
    Agent,
    ForbiddenMix,
    Ingredient,
    MaterialCompatibility,
    Product,
)
from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.house import House, Supply
from creekbed.core.catalogue.models.leaks import LeakTable
from creekbed.core.catalogue.models.policies import Topic
from creekbed.core.catalogue.reading import read_entries, read_model
from creekbed.core.errors import BadData

DATA = Path(__file__).parent / "data"


def load(data: Path = DATA, *, check: bool = True) -> Catalogue:
    """Read a whole catalogue folder.

    Args:
        data: the folder. check: cross-check it too; only what was checked before may do without.

    Raises:
        BadData: a file is wrong, names something that does not exist, or a family's order contradicts itself.
    """
    families: dict[str, Family] = {}
    groups = [(read_group(path, data / "shared"), path) for path in sorted((data / "families").glob("*.toml"))]
    for (_, found), path in sorted(groups, key=lambda g: g[0][0]):
        for key, family in found.items():
            if key in families:
                raise BadData(f"{path.name}: family “{key}” is there twice.", file=path.name, key=key, line=0)
            families[key] = family
    catalogue = Catalogue(
        families=families,
        topics=read_entries(data / "policies.toml", "topic", Topic),
        agents=read_entries(data / "agents.toml", "agent", Agent),
        materials=read_entries(data / "materials.toml", "material", MaterialCompatibility),
        supplies=read_entries(data / "supplies.toml", "supply", Supply),
        never=read_entries(data / "never.toml", "never", ForbiddenMix),
        products=read_entries(data / "products.toml", "product", Product),
        ingredients=read_entries(data / "ingredients.toml", "ingredient", Ingredient),
        leaks=read_entries(data / "leaks.toml", "leaks", LeakTable),
        house=read_model(data / "house.toml", House),
    )
    if check:
        from creekbed.core.catalogue.cross import check_catalogue

        check_catalogue(catalogue)
    return catalogue


@lru_cache(maxsize=1)
def shipped() -> Catalogue:
    """The catalogue that ships with Creekbed, read once; its cross-check is a test, not a part of each start."""
    return compiled(DATA, lambda: load(check=False))
