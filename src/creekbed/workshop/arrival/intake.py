"""Booking in: the instrument, where it came from, what lies in its case."""

from __future__ import annotations

import re
from collections.abc import Collection
from dataclasses import field
from datetime import datetime, timedelta

from creekbed.core.catalogue.models.family import Family
from creekbed.core.catalogue.models.parts import CaseItem
from creekbed.core.climate.acclimatise import acclimatise
from creekbed.core.conventions import clock
from creekbed.core.errors import BadInput, Refused
from creekbed.core.procedure.situation import asked_joints
from creekbed.core.quick_dataclasses import dataclass
from creekbed.core.renters import RENTERS
from creekbed.core.text import code, line
from creekbed.store.reader import Reader
from creekbed.store.records import ContentLine, Departure, Hire, Instrument, Job
from creekbed.store.unit_of_work import Change
from creekbed.words.times import span
from creekbed.workshop.arrival.instrument_materials import checked, told
from creekbed.workshop.bench.bench_records import job_now
from creekbed.workshop.bench.job_situation import SURPLUS, current_policies
from creekbed.workshop.bench.job_view import JobView, load_job
from creekbed.workshop.shop.departures import due_by, need_departure
from creekbed.workshop.shop.policies import asked_for
from creekbed.workshop.shop.shop import Act, Shop
from creekbed.workshop.supplies.stock import draw_supplies

TAG = re.compile(r"(?=.{2,16}$)(?=[^0-9]*[0-9])(?![0-9]{8})[A-Z0-9]+(?:[-./][A-Z0-9]+){0,3}")
"""Letters and digits in up to four parts, with a digit; eight digits and more are the bar code of a shelf."""


def clean_tag(text: str) -> str:
    """A tag in the shop's spelling; digits of any script and look-alike letters give the same tag.

    Raises:
        BadInput: it has no digit, or other signs than letters, digits, hyphens, points and strokes.
    """
    tag = code(text)
    if not TAG.fullmatch(tag):
        raise BadInput(
            f"“{text.strip()[:32]}” is not a tag." if text.strip() else "The tag is empty.",
            todo="Tags are letters and digits, such as V-12, VLN-0042 or 1047.",
        )
    return tag


def find_instrument(shop: Shop, tag: str) -> Instrument | None:
    """The instrument with a tag, or ``None``."""
    with shop.reading() as records:
        return records.get(Instrument, clean_tag(tag))


def change_departure(shop: Shop, job_id: int, departure_id: int) -> None:
    """A job goes with another departure.

    Raises:
        Refused: there is no such departure, it does not take place, or it has left.
    """
    with shop.act("change_departure") as act:
        view = need_job(shop, act.records, job_id, act.now)
        departure = need_departure(act, departure_id)
        act.records.update(view.job, departure_id=departure_id)
        act.tag, act.words = view.tag, f"{view.tag}: goes with the {departure.name}"


def change_due_time(shop: Shop, job_id: int, at: datetime) -> None:
    """A job is due at a time of its own, whatever leaves then.

    Raises:
        BadInput: a time that has passed or is more than a year away.
    """
    with shop.act("change_departure") as act:
        view = need_job(shop, act.records, job_id, act.now)
        act.records.update(view.job, departure_id=due_by(act, at))
        act.tag, act.words = view.tag, f"{view.tag}: due {clock(at, '%a %d %b ')}"


def book_in(
    shop: Shop, tag: str, *, family: str = "", size: str = "", materials: dict[str, str] | None = None,
    finishes: dict[str, str] | None = None, came_from: str = "", departure_id: int | None = None,
    due_at: datetime | None = None, next_group: str = "", case_c: float | None = None,
    returned_at: datetime | None = None, renter: str = "", weight: float = 1.0,
) -> int:  # fmt: skip
    """Book a returned instrument in and open its job. An unknown tag is made on the spot.

    Args:
        tag: as scanned or typed. family, size, materials, finishes: for an unknown tag.
        came_from: who brought it (a code, never a name). departure_id: the one it must leave with.
        due_at: a due time of its own, instead of a departure.
        case_c: temperature on the instrument, °C, when it came from heat or cold.
        returned_at: when it came back; now if not given.
        renter: what is known of the next renter: "young_child", "beginner", "same", or nothing.
        weight: how much its lateness counts, more than 0.

    Returns:
        The job's id.

    Raises:
        BadInput: tag, family, size, temperature or date cannot be right.
        Refused: it is booked in already.
    """
    details = ArrivalDetails(
        came_from, departure_id, due_at, next_group, case_c, returned_at, renter, weight, family, size, materials or {},
        finishes or {},
    )  # fmt: skip
    with shop.act("book_in") as act:
        job, kind = book_one(shop, act, tag, details)
        act.tag, act.words = job.tag, f"Booked in {job.tag}, {kind.noun}"
        return job.id


@dataclass(frozen=True)
class ArrivalDetails:
    """What is said when an instrument is booked in; as the arguments of :func:`book_in`."""

    came_from: str = ""
    departure_id: int | None = None
    due_at: datetime | None = None
    next_group: str = ""
    case_c: float | None = None
    returned_at: datetime | None = None
    renter: str = ""
    weight: float = 1.0
    family: str = ""
    size: str = ""
    materials: dict[str, str] = field(default_factory=dict)
    finishes: dict[str, str] = field(default_factory=dict)


def book_one(shop: Shop, act: Act, tag: str, said: ArrivalDetails) -> tuple[Job, Family]:
    """Open the job of a returned instrument."""
    tag, at, records = clean_tag(tag), said.returned_at or shop.now, act.records
    _need_possible(shop, at, said.renter, said.weight)
    sender = line(said.came_from, what="Who brought it", longest=60)
    group = line(said.next_group, what="The group", longest=60)
    instrument = records.get(Instrument, tag) or _make(
        shop, act, tag, said.family, said.size, said.materials, said.finishes
    )
    if records.jobs.open_of(tag) is not None:
        raise Refused(f"{tag} is booked in already.", todo="Its page is open.", tag=tag)
    _in_use(act, instrument)
    if said.departure_id is not None and records.get(Departure, said.departure_id) is None:
        raise BadInput("That departure is not on the list.")
    departure_id = due_by(act, said.due_at) if said.due_at is not None else said.departure_id
    kind = shop.catalogue.family(instrument.family)
    hire = _hire_ended(act, tag, at)
    policies = current_policies(records, shop.catalogue, instrument.family)
    job = records.add(Job(
        tag=tag, hire_id=hire.id if hire is not None else None, departure_id=departure_id, opened_at=at,
        release_at=_opens_at(shop, act, tag, kind, said.case_c) if said.case_c is not None else None,
        came_from=sender or (hire.renter if hire is not None else ""), next_group=group, renter=said.renter,
        weight=said.weight, case_c=said.case_c,
        policies=policies | asked_for(records, shop, group, instrument.family), machine=shop.clock.machine,
    ))  # fmt: skip
    _tick_early(act, job, hire)
    return job, kind


def _in_use(act: Act, instrument: Instrument) -> None:
    """An instrument that rested is in use again; a retired one is refused."""
    if instrument.standing == "retired":
        why = f": {instrument.standing_why}" if instrument.standing_why else ""
        raise Refused(
            f"{instrument.tag} is retired{why}.", todo="Bring it back to use on the page of instruments first."
        )
    if instrument.standing:
        act.records.update(instrument, standing="", standing_why="")


def _tick_early(act: Act, job: Job, hire: Hire | None) -> None:
    """Tick what came back before the instrument."""
    for row in hire.condition_out if hire is not None else ():
        if "early" in row:
            act.records.add(ContentLine(job_id=job.id, item=row["early"], state="present", reason="came back alone"))


def _need_possible(shop: Shop, at: datetime, renter: str, weight: float) -> None:
    """Check the details of a job.

    Raises:
        BadInput: it cannot.
    """
    if at > shop.now + timedelta(minutes=1):
        raise BadInput("It cannot have come back in the future.", todo="Look at the date again.")
    if renter not in RENTERS:
        raise BadInput(f"“{renter}” is not known of a renter.", todo="Choose from the list.")
    if not 0 < weight <= 100:
        raise BadInput("The weight of a job must be more than 0 and at most 100.")


def _hire_ended(act: Act, tag: str, at: datetime) -> Hire | None:
    """The hire that an instrument comes back from, with its end on record; ``None`` where it was not out.

    Raises:
        BadInput: it would end before it began.
    """
    hire = act.records.jobs.hire_now(tag)
    if hire is None:
        return None
    if at < hire.out_at:
        raise BadInput("It cannot have come back before it went out.", todo="Look at the date again.")
    return act.records.update(hire, back_at=at)


def _opens_at(shop: Shop, act: Act, tag: str, kind: Family, case_c: float) -> datetime | None:
    """When the case of an instrument that came from heat or cold may be opened; ``None``: at once."""
    limits = shop.catalogue.house.limits
    wait = acclimatise(case_c, limits.room_c, limits.room_rh, kind.case_minutes, limits.acclimatise_tolerance_c)
    if wait.minutes < 1:
        return None
    dew = " Opened now, it would gather water." if wait.condenses else ""
    act.notes.append(f"{tag} must stand closed for {span(wait.minutes)}.{dew}")
    return act.now + timedelta(minutes=wait.minutes)


def _make(
    shop: Shop, act: Act, tag: str, family: str, size: str, materials: dict[str, str], finishes: dict[str, str]
) -> Instrument:
    kind = shop.catalogue.families.get(family)
    if kind is None:
        raise BadInput(f"{tag} is new here.", todo="Say what it is.", unknown_tag=tag)
    if size and size not in kind.sizes:
        raise BadInput(f"A {kind.noun} does not come in size {size}.", todo="Choose from the list.")
    checked(kind, materials, finishes)
    told(act, kind, tag, materials)
    return act.records.add(
        Instrument(
            tag=tag,
            family=family,
            size=size or kind.sizes[0],
            serial="",
            materials=materials,
            finishes=finishes,
            created_at=shop.now,
        )
    )


def expected_items(view: JobView) -> list[CaseItem]:
    """What should be in the case: what went out, or the family's list where nothing was recorded."""
    items = list(view.family.item)
    if view.hire is None or not view.hire.contents_out:
        return items
    return [i for i in items if i.key in view.hire.contents_out]


def tick_item(shop: Shop, job_id: int, item: str, state: str) -> None:
    """Record one piece of the case: present, missing or worn.

    Raises:
        BadInput: no such item or state.
    """
    if state not in ("present", "missing", "worn"):
        raise BadInput(f"A piece is present, missing or worn, not “{state}”.")
    with shop.act("contents.tick") as act:
        view = need_job(shop, act.records, job_id, act.now)
        found = _item(view.family, item)
        _set_line(act, view, item, state, "")
        act.tag, act.words = view.tag, f"{view.tag}: {found.name} {state}"


def tick_rest(shop: Shop, job_id: int) -> None:
    """Everything expected that was not ticked is present.

    Raises:
        Refused: all is ticked already.
    """
    with shop.act("contents.rest") as act:
        view = need_job(shop, act.records, job_id, act.now)
        rest = [i for i in expected_items(view) if i.key not in view.lines]
        if not rest:
            raise Refused("Everything is ticked already.")
        for item in rest:
            _set_line(act, view, item.key, "present", "")
        act.tag, act.words = view.tag, f"{view.tag}: the other {len(rest)} pieces present"


def replace_item(shop: Shop, job_id: int, item: str) -> None:
    """Replace a missing or worn piece from stock.

    Raises:
        Refused: none in stock, no such stock is kept, or the piece is neither missing nor worn.
    """
    with shop.act("contents.replace") as act:
        view = need_job(shop, act.records, job_id, act.now)
        found = _lost(view, item)
        if found.stock is None:
            raise Refused(f"No {found.name} is kept in stock.", todo="Waive it with a reason, or order one.")
        draw_supplies(shop, act, [(found.stock, 1.0)], f"{view.tag}: {found.name}", job_id)
        _set_line(act, view, item, "replaced", "from stock")
        act.tag, act.words = view.tag, f"{view.tag}: {found.name} replaced from stock"


def waive_item(shop: Shop, job_id: int, item: str, reason: str) -> None:
    """Send it out without a piece, for a reason.

    Raises:
        BadInput: no reason. Refused: the piece is neither missing nor worn.
    """
    reason = need_reason(reason)
    with shop.act("contents.waive") as act:
        view = need_job(shop, act.records, job_id, act.now)
        found = _lost(view, item)
        _set_line(act, view, item, "waived", reason)
        act.tag, act.words = view.tag, f"{view.tag}: goes without {found.name}: {reason}"


def came(shop: Shop, job_id: int, joined: Collection[str]) -> None:
    """Record which joints were together when the case was opened: all in one piece, none in pieces, or some.

    Raises:
        BadInput: no such joint, or one that nobody is asked about.
    """
    with shop.act("arrival.joined") as act:
        view = need_job(shop, act.records, job_id, act.now)
        asked = {j.key: j for j in asked_joints(view.family)}
        if unknown := set(joined) - asked.keys():
            raise BadInput(f"A {view.family.noun} has no such joint: {', '.join(sorted(unknown))}.")
        act.records.update(view.job, joined=[key for key in asked if key in joined])
        words = "in pieces" if not joined else "in one piece" if len(set(joined)) == len(asked) else "partly joined"
        act.tag, act.words = view.tag, f"{view.tag}: it came {words}"


MOST_SURPLUS = 20


def note_surplus(shop: Shop, job_id: int, what: str) -> None:
    """Note something extra in the case: it goes into a labelled bag and is handed back.

    Raises:
        BadInput: no words. Refused: too much of it.
    """
    what = line(what, what="What it is", longest=80)
    if not what:
        raise BadInput("Nothing is named.", todo="Say what lay in the case.")
    with shop.act("contents.surplus") as act:
        view = need_job(shop, act.records, job_id, act.now)
        if len(view.surplus) >= MOST_SURPLUS:
            raise Refused("So much does not belong in it already.", todo="Name the bag as a whole.")
        item = f"{SURPLUS}.{len(view.surplus) + 1}"
        act.records.add(ContentLine(job_id=job_id, item=item, state=SURPLUS, reason=what))
        act.tag, act.words = view.tag, f"{view.tag}: does not belong in its case, into a labelled bag: {what}"


def pieces_out(shop: Shop, tag: str) -> list[CaseItem]:
    """The pieces of an instrument that are out on hire and have not come back alone; empty when it is here."""
    with shop.reading() as records:
        return pieces_out_in(records, shop, tag)


def pieces_out_in(records: Reader, shop: Shop, tag: str) -> list[CaseItem]:
    """As :func:`pieces_out`, from records that are open already."""
    instrument = records.get(Instrument, clean_tag(tag))
    hire = records.jobs.hire_now(clean_tag(tag))
    if instrument is None or hire is None:
        return []
    early = {row["early"] for row in hire.condition_out if "early" in row}
    items = shop.catalogue.family(instrument.family).item
    return [i for i in items if i.key not in early and (not hire.contents_out or i.key in hire.contents_out)]


def part_alone(shop: Shop, tag: str, item: str) -> None:
    """A bow, mouthpiece or other piece came back without its instrument: it is ticked when that comes.

    Raises:
        BadInput: no such piece. Refused: the instrument is not out on hire, or the piece is back already.
    """
    tag = clean_tag(tag)
    with shop.act("part.alone") as act:
        piece = next((i for i in pieces_out_in(act.records, shop, tag) if i.key == item), None)
        hire: Hire | None = act.records.jobs.hire_now(tag)
        if hire is None:
            raise Refused(f"{tag} is not out on hire.", todo="Look at its page.")
        if piece is None:
            raise BadInput(f"{tag} went out without such a piece, or it is back already.")
        back = {"early": item, "words": f"back {act.now:%Y-%m-%d}"}
        act.records.update(hire, condition_out=[*hire.condition_out, back])
        act.tag, act.words = tag, f"{tag}: {piece.name} came back alone"
        act.notes.append(
            "Tag it and lay it on the arrival shelf; gloves if it touched a mouth. It is cleaned with the rest."
        )


def set_quarantine(shop: Shop, job_id: int, why: str) -> None:
    """Put a job under quarantine (mould, insects, water), or lift it with an empty reason."""
    with shop.act("quarantine") as act:
        view = need_job(shop, act.records, job_id, act.now)
        why = line(why, what="The reason", longest=120)
        act.records.update(view.job, quarantine=f"Quarantine: {why}" if why else "")
        act.tag = view.tag
        act.words = f"{view.tag}: quarantine, {why}" if why else f"{view.tag}: quarantine lifted"
        if why:
            act.notes.append("Bag it, gloves and an FFP2 mask on, away from wood and felt, and work on it by itself.")


def need_job(shop: Shop, records: Reader, job_id: int, now: datetime) -> JobView:
    """The open job with this id.

    Raises:
        Refused: there is none, or it is finished.
    """
    fresh = not isinstance(records, Change) or records.untouched
    view = (
        job_now(shop, records, now, job_id)
        if fresh
        else load_job(records, shop.catalogue, now, job_id, shop.time.clocks)
    )
    if view is None or view.job.state != "open":
        raise Refused("This job is finished or was undone.", todo="Go back to the home view.")
    return view


def need_reason(reason: str) -> str:
    """A reason worth keeping.

    Raises:
        BadInput: empty, or shorter than three letters.
    """
    reason = line(reason, what="The reason")
    if len(reason) < 3:
        raise BadInput("A reason is needed.", todo="A few words will do; they stay on record.")
    return reason


def _item(family: Family, key: str) -> CaseItem:
    found = next((i for i in family.item if i.key == key), None)
    if found is None:
        raise BadInput(f"“{key}” does not belong in the case of a {family.noun}.")
    return found


def _lost(view: JobView, key: str) -> CaseItem:
    """A piece that was ticked as missing or worn."""
    found, line = _item(view.family, key), view.lines.get(key)
    if line is None or line.state not in ("missing", "worn"):
        raise Refused(f"The {found.name} is not missing or worn.")
    return found


def _set_line(act: Act, view: JobView, item: str, state: str, reason: str) -> None:
    line = view.lines.get(item)
    if line is None:
        act.records.add(ContentLine(job_id=view.job.id, item=item, state=state, reason=reason))
    else:
        act.records.update(line, state=state, reason=reason)
