"""What a scanned code means."""

from __future__ import annotations

from creekbed.core.errors import BadInput
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.text import code as plain
from creekbed.store.records import Instrument
from creekbed.workshop.arrival.intake import clean_tag
from creekbed.workshop.shop.shop import Shop
from creekbed.workshop.shop.staff import workers


@dataclass(frozen=True)
class Scanned:
    """A code understood: kind is "job", "instrument" (known, no open job), "new", "supply" or "person"."""

    kind: str
    key: str
    job_id: int | None = None


def understand(shop: Shop, code: str) -> Scanned:
    """Where a scan leads: a label of this shop, or the maker's serial number of an instrument that is known.

    Raises:
        BadInput: nothing here has such a code.
    """
    text = plain(code)
    supply = text.lower().removeprefix("su-").replace("-", "_")
    if text.lower().startswith("su-") and supply in shop.catalogue.supplies:
        return Scanned("supply", supply)
    person = text.upper().removeprefix("PE-")
    if text.upper().startswith("PE-") and any(w.key == person for w in workers(shop)):
        return Scanned("person", person)
    try:
        tag = clean_tag(text)
    except BadInput:
        raise BadInput(
            f"“{text[:32]}” is no code of this shop.", todo="Scan the tag on the instrument, or a drawer label."
        ) from None
    with shop.reading() as records:
        if records.get(Instrument, tag) is None:
            maker = records.fleet.by_serial(text)
            if len(maker) != 1:
                return Scanned("new", tag)
            tag = maker[0].tag
        job = records.jobs.here_of(tag)
    if job is None:
        return Scanned("instrument", tag)
    return Scanned("job" if job.state == "open" else "instrument", tag, job.id)
