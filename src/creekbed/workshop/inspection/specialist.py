"""What a specialist is told when an instrument is sent out."""

from __future__ import annotations

from typing import Any

from creekbed.core.errors import Refused
from creekbed.core.quick_dataclasses import dataclass
from creekbed.words.instruments import UNTIL_THEN
from creekbed.workshop.arrival.photos import photos_of, store_of
from creekbed.workshop.bench.job_view import JobView, load_job
from creekbed.workshop.inspection.trends import check_history
from creekbed.workshop.release.release_check import open_findings, test_name
from creekbed.workshop.shop.identity import identity
from creekbed.workshop.shop.shop import Shop


@dataclass(frozen=True)
class Note:
    """Facts and photographs of a note, for :mod:`creekbed.papers.note`."""

    facts: dict[str, Any]
    photos: tuple[bytes, ...]


def trades(view: JobView) -> list[str]:
    """The specialists whom the open findings ask for."""
    checks = {c.key: c for c in view.family.check}
    wanted = [f for f in open_findings(view) if (f.overruled or f.verdict) == "specialist"]
    found = [checks[f.check].trade for f in wanted if f.check in checks and checks[f.check].trade]
    return list(dict.fromkeys(found))


def note_for(shop: Shop, job_id: int, to: str) -> Note:
    """The note that goes along: every open finding for that specialist, or all open ones where none is theirs.

    Raises:
        Refused: there is no such job, or nothing is open.
    """
    with shop.reading() as records:
        view = load_job(records, shop.catalogue, shop.now, job_id, shop.time.clocks)
    if view is None:
        raise Refused("There is no such job.")
    checks = {c.key: c for c in view.family.check}
    wanted = [f for f in open_findings(view) if (f.overruled or f.verdict) in ("specialist", "retire")]
    theirs = [f for f in wanted if f.check in checks and checks[f.check].trade == to] or wanted
    if not theirs:
        raise Refused("No finding is open that a specialist would mend.", todo="Record first what you found.")
    rows = []
    for finding in theirs:
        check = checks.get(finding.check)
        part = view.family.find_part(check.part) if check is not None and check.part else None
        before = check_history(shop, view, check) if check is not None else None
        say = check.say_act if check is not None else ""
        reason = finding.reason.replace(say, "").strip() if say else finding.reason
        rows.append(
            {
                "name": check.name if check is not None else test_name(finding.check),
                "where": part.name if part is not None else "",
                "reason": reason + (f" Decided by hand: {finding.overrule_reason}" if finding.overruled else ""),
                "until_then": say or (UNTIL_THEN if "slide" in finding.check else ""),
                "before": before.words() if before is not None else "",
            }
        )
    head = identity(shop)
    about = {f"check:{f.check}" for f in theirs}
    pictures = [p for p in photos_of(shop, job_id) if p.about in about or p.about.startswith("mark:")]
    facts = {
        "tag": view.tag, "family": view.family.name, "serial": view.instrument.serial, "to": to,
        "size": view.family.size_words(view.instrument.size),
        "written_at": shop.now.isoformat(), "person": shop.person, "findings": rows,
        "wanted_by": view.departure.leaves_at.isoformat() if view.departure is not None else "",
        "shop": head.name, "address": list(head.address),
    }  # fmt: skip
    store = store_of(shop)
    return Note(facts, tuple(store.read(p.name) for p in pictures))
