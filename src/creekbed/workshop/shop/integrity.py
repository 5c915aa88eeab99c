"""Whether all that is on record is as it was written, and putting back what is not."""

from __future__ import annotations

from creekbed.store.maintenance import Damage, check_records, put_back
from creekbed.workshop.shop.shop import Done, Shop


def examine(shop: Shop) -> list[Damage]:
    """Everything on record that is not as it was written, read now.

    Raises:
        StoreProblem: the file cannot be read at all.
    """
    return check_records(shop.folder)


def repair(shop: Shop, damage: Damage) -> Done:
    """Put a damaged row back as the journal, or the copy that it names, has it; the journal says that this was done.

    Raises:
        Refused: nobody has it whole, or it is no longer as it was found. StoreProblem: it cannot be written.
    """
    with shop.act("put_back", undoable=False) as act:
        put_back(act.records, damage)
        where = f"{damage.table.replace('_', ' ')} {damage.row}".strip() or "the order of the file"
        act.words = f"Put back as it was, from {damage.source}: {where}"
    assert shop.last_done is not None
    return shop.last_done
