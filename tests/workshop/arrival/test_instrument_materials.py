"""What nobody knows bears nothing but a dry cloth, is asked for once, and can be put right."""

from __future__ import annotations

import pytest

from creekbed.core.errors import BadInput, Refused
from creekbed.workshop.arrival import instrument_materials as made_of
from creekbed.workshop.arrival import intake
from creekbed.workshop.bench import job_steps
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand


def test_a_material_without_an_entry_stays_no(shop: Shop, hand: Hand) -> None:
    rose = made_of.unknown("  rose gold ")
    assert rose == "unknown:rose gold"
    job = intake.book_in(shop, "MH-0900", family="alto_saxophone", materials={"mouthpiece": rose})
    assert shop.last_done is not None and "mouthpiece of MH-0900 is made of has no entry" in shop.last_done.notes[0]
    view = hand.view(job)
    wash = next(
        s for s in view.steps if s.step.caution.startswith("Stop: Nobody here knows what the mouthpiece is made of")
    )
    assert "mouthpiece" in wash.step.touches
    with pytest.raises(Refused, match="must not come to it") as refused:
        for _ in range(30):
            step = next(s for s in hand.view(job).open_steps if s.state in ("ready", "waiting"))
            hand.do(job, step.step.key)
    assert "Made of" in refused.value.words()
    made_of.set_made_of(shop, "MH-0900", {"mouthpiece": "hard_rubber"}, {})
    assert shop.last_done.words != "" and not shop.last_done.notes
    again = hand.view(job).step(wash.step.key)
    assert again is not None and not again.step.caution.startswith("Stop")
    shop.undo()
    assert hand.view(job).instrument.materials["mouthpiece"] == rose


def test_it_is_asked_once(shop: Shop) -> None:
    rose = made_of.unknown("rose gold")
    assert made_of.met(shop) == []
    intake.book_in(shop, "MH-0900", family="alto_saxophone", materials={"mouthpiece": rose})
    intake.book_in(shop, "MH-0901", family="alto_saxophone", materials={"mouthpiece": rose})
    assert shop.last_done is not None and shop.last_done.notes == ()
    assert made_of.met(shop) == ["rose gold"]
    family = shop.catalogue.families["alto_saxophone"]
    assert ("Mouthpiece: rose gold", {"mouthpiece": rose}, {}) in made_of.choices(shop, family)


def test_what_cannot_be_is_refused(shop: Shop, hand: Hand) -> None:
    hand.book("MH-0142")
    for tag, materials, finishes in (
        ("MH-0999", {"mouthpiece": "hard_rubber"}, {}), ("MH-0142", {"mouthpiece": "lead"}, {}),
        ("MH-0142", {"handle": "hard_rubber"}, {}), ("MH-0142", {}, {"mouthpiece": "varnish"}),
    ):  # fmt: skip
        with pytest.raises(BadInput):
            made_of.set_made_of(shop, tag, materials, finishes)
    for name in ("", "   ", "x" * 41):
        with pytest.raises(BadInput):
            made_of.unknown(name)
    with pytest.raises(Refused):
        job_steps.finish_step(shop, 1, "pack")
