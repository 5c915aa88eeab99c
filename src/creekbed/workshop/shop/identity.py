"""What the shop is called, where it is, and which paper it prints on."""

from __future__ import annotations

from typing import Literal

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import line
from creekbed.store.records import Setting
from creekbed.workshop.shop.shop import Shop, setting_in

KEY = "identity"
Paper = Literal["A4", "Letter"]
PAPERS: tuple[Paper, ...] = ("A4", "Letter")
MOST_LINES = 5
"""An address has so many lines at most."""


@dataclass(frozen=True)
class Identity:
    """How the shop stands on its papers.

    Attributes:
        name: "" as long as nobody has said it. address: its lines. paper: of the printer.
    """

    name: str = ""
    address: tuple[str, ...] = ()
    paper: Paper = "A4"


def identity(shop: Shop) -> Identity:
    """What is on record; the defaults for what is not, or cannot be read."""
    with shop.reading() as records:
        kept = setting_in(records, KEY, {})
    if not isinstance(kept, dict):
        return Identity()
    address = kept.get("address", [])
    lines = tuple(str(x) for x in address) if isinstance(address, list) else ()
    paper: Paper = "Letter" if kept.get("paper") == "Letter" else "A4"
    return Identity(str(kept.get("name", "")), lines, paper)


def set_identity(shop: Shop, found: Identity) -> None:
    """Say how the shop stands on its papers.

    Raises:
        BadInput: a line is too long, there are too many, or the paper is not known.
    """
    name = line(found.name, what="The shop's name", longest=60)
    address = [said for text in found.address if (said := line(text, what="A line of the address", longest=60))]
    if len(address) > MOST_LINES:
        raise BadInput("The address has too many lines.", todo=f"Up to {MOST_LINES} are printed.")
    if found.paper not in PAPERS:
        raise BadInput(f"“{found.paper[:12]}” is no paper that is known.", todo=f"There are: {', '.join(PAPERS)}.")
    with shop.act("identity") as act:
        act.records.put(Setting(key=KEY, value={"v": {"name": name, "address": address, "paper": found.paper}}))
        act.words = f"This shop: {name or 'no name'}, {found.paper}"
