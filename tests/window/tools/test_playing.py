"""The play-test page: a simulated player, what is said of each note, and what the job, the check and the record get."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from creekbed.core.sound.play_test import NoteResult
from creekbed.store.records import Playing
from creekbed.window.tools.scale_picture import ScalePicture
from creekbed.words.play_test import REED_FIRST
from creekbed.workshop.inspection import history, playing
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop
from tests.conftest import Hand
from tests.window.conftest import Driver, hear
from tests.worlds.playing import RATE, Ill, Style, performance

STUFFY = Ill(late_s=0.2, weaker_db=11.0, wind=0.15)


def player(page: Any, ills: dict[int, Ill] | None = None, seed: int = 1, **style: float) -> Any:
    """A performance of the scale that the page asks for."""
    rng = np.random.default_rng(seed)
    how = Style(odd=page.kind == "odd", **style)  # type: ignore[arg-type]
    return performance(rng, [n.hz for n in page.scale], how, ills)


def listen(driver: Driver, sound: Any) -> Any:
    """Listen on the page until the player has ended."""
    hear(driver, "playing", sound)
    return driver.frame.page("playing")


def at_the_test(driver: Driver, hand: Hand, tag: str = "MH-0404", family: str = "trumpet") -> int:
    """A job whose next step is its play-test, opened from that step."""
    job = hand.book(tag, family)
    view = hand.view(job)
    while next(s for s in view.open_steps if s.state in ("ready", "waiting")).step.base != "play":
        hand.do(job, next(s for s in view.open_steps if s.state in ("ready", "waiting")).step.key)
        view = hand.view(job)
    driver.frame.refresh()
    driver.frame.nav.open_tool_for(job, "play")
    assert driver.frame.here == "playing"
    return job


@pytest.fixture
def driver(drive: Callable[[str], Driver]) -> Driver:
    return drive("mouse")


def test_a_good_trumpet_passes_and_is_on_record(driver: Driver, hand: Hand, shop: Shop) -> None:
    job = at_the_test(driver, hand)
    page = driver.frame.page("playing")
    assert page.asked.text() == "Play C4" and "it sounds B♭3, 233.1 Hz" in page.how.text()
    assert not page.good.isEnabled() and not page.bad.isEnabled()
    listen(driver, player(page, lies=12.0))
    assert page.asked.text() == "That was the whole scale" and "cents sharp" in page.lies.text()
    assert not page.bad.isEnabled() and not page.odds
    driver.press("playing_good")
    assert driver.frame.here == "job" and hand.view(job).step("play").work is not None  # type: ignore[union-attr]
    [row] = playing.earlier(shop, "MH-0404")
    assert row.job_id == job and set(row.notes) == {"C4", "D4", "E4", "F4", "G4", "A4", "B4", "C5"}
    assert row.lies_cents == pytest.approx(12, abs=6) and not any(n["faults"] for n in row.notes.values())
    [period] = [p for p in history.history(shop, "MH-0404").periods if p.playings]
    assert period.playings == (row,)
    driver.frame.nav.open_history("MH-0404")
    driver.press("undo")
    assert playing.earlier(shop, "MH-0404") == [] and hand.view(job).step("play").work is None  # type: ignore[union-attr]


def test_a_leaking_flute_fails_and_the_pad_is_looked_for(driver: Driver, hand: Hand, shop: Shop) -> None:
    """From E down it is stuffy: the test fails with the notes as its words, and the check of the pads takes them."""
    job = at_the_test(driver, hand, "MH-0602", "flute")
    page = driver.frame.page("playing")
    low = [n.written for n in page.scale].index("E4")
    listen(driver, player(page, dict.fromkeys(range(low, len(page.scale)), STUFFY), seed=3))
    assert page.odds is not None and page.odds.isVisible() and page.bad.isEnabled() and not page.good.isEnabled()
    assert "E4" in page.wrong.text() and "A4" not in page.wrong.text() and "reed" not in page.wrong.text()
    driver.press("playing_bad")
    finding = hand.view(job).findings["play"]
    assert finding.band == "act" and "E4" in finding.reason
    [row] = playing.earlier(shop, "MH-0602")
    heard = dict(playing.heard_in_job(shop, hand.view(job)))
    assert heard["A4"] and not heard["D4"] and row.notes["A4"]["faults"] == []
    checks = driver.frame.page("job").checks
    checks.choose("pads")
    checks.start_way("notes")
    assert not checks.way.played
    driver.press("note_heard")
    assert len(checks.way.played) == len(page.scale) and not checks.way.take.isEnabled()
    assert checks.way.can_finish() and checks.way.found.none < 0.05


def test_on_a_single_reed_the_reed_is_looked_at_before_a_pad_is_blamed(driver: Driver) -> None:
    driver.frame.nav.open_tool("playing")
    page = driver.frame.page("playing")
    page.family.setCurrentIndex(page.family.findData("clarinet"))
    assert "reed" not in page.wrong.text()
    low = len(page.scale) - 3
    listen(driver, player(page, dict.fromkeys(range(low, len(page.scale)), STUFFY), seed=3))
    assert page.result.faulty and REED_FIRST in page.wrong.text()


def test_notes_that_have_moved_since_the_last_hire(driver: Driver, hand: Hand, shop: Shop, clock: HandClock) -> None:
    """G has gone some 45 cents flat since it was last here; all others lie within their doubt."""
    job = at_the_test(driver, hand)
    with shop.act("test.played") as act:
        act.records.add(Playing(
            job_id=job, tag="MH-0404", key="play", at=clock.now(), person="IW", a4_hz=440.0, warmth_cents=0.0,
            lies_cents=3.0, u_lies_cents=2.0,
            notes={n: {"off": 0.0, "u": 5.0, "faults": []} for n in ("C4", "D4", "E4", "F4", "G4", "A4", "B4", "C5")},
        ))  # fmt: skip
        act.words = "played"
    driver.frame.nav.open_tool_for(job, "play")
    page = driver.frame.page("playing")
    assert len(page.earlier) == 1
    listen(driver, player(page, {4: Ill(cents=-46.0)}, seed=4, scatter=2.0))
    assert "G4" in page.moved.text() and "flatter" in page.moved.text() and "C4" not in page.moved.text()
    assert page.picture.before[0][1]["G4"] == 0.0
    assert page.wrong.text().startswith("G4: ") and page.wrong.text().endswith("cents flat")


def test_the_page_follows_and_goes_on_after_a_stop(driver: Driver) -> None:
    driver.frame.nav.open_tool("playing")
    page = driver.frame.page("playing")
    page.family.setCurrentIndex(page.family.findData("trumpet"))
    assert not page.good.isVisible()
    marked: list[int] = []
    seen = page.picture.set_sounding
    page.picture.set_sounding = lambda which: (marked.append(which), seen(which))
    half = page.scale
    page.scale = half[:4]
    first = player(page, seed=5)
    page.scale = half[4:]
    second = player(page, seed=6)
    page.scale = half
    listen(driver, first)
    assert page.asked.text() == "Play G4" and {0, 1, 2, 3} <= set(marked)
    listen(driver, second)
    assert page.asked.text() == "That was the whole scale" and len(page.events()) == 8
    before, lay = page.warmth(), page.result.lies_cents
    page.room.setText("28 °C")  # another temperature judges what was heard anew, and forgets nothing
    assert len(page.events()) == 8 and page.result.lies_cents == pytest.approx(lay + before - page.warmth(), abs=0.1)
    driver.press("playing_anew")
    assert page.asked.text() == "Play C4" and not page.events()
    page.room.setText("no room")
    assert page.warmth() == 0.0 and "cannot be read" in page.lies.text()
    page.room.setText("28 °C")
    assert page.warmth() == pytest.approx(23.3, abs=0.1)


def test_a_recording_and_one_of_nothing(driver: Driver, tmp_path: Path) -> None:
    driver.frame.nav.open_tool("playing")
    page = driver.frame.page("playing")
    page.family.setCurrentIndex(page.family.findData("trumpet"))
    path = tmp_path / "trumpet.wav"
    soundfile.write(path, player(page, seed=7), RATE)
    page.read_file(path)
    driver.qtbot.waitUntil(lambda: not page.reading.busy, timeout=60_000)
    assert page.asked.text() == "That was the whole scale"
    driver.press("playing_anew")
    soundfile.write(path, 0.01 * np.random.default_rng(1).normal(size=RATE), RATE)
    page.read_file(path)
    driver.qtbot.waitUntil(lambda: not page.reading.busy, timeout=60_000)
    assert "no note of its scale" in page.mind.text()


def test_an_empty_picture_and_a_full_one(qtbot: Any) -> None:
    from creekbed.core.sound.play_test import ScaleNote

    picture = ScalePicture()
    qtbot.addWidget(picture)
    picture.resize(500, 260)
    assert not picture.grab().isNull()
    notes = [NoteResult(ScaleNote("A#3", 220.0), None, 0.0, 0.0, ("silent",)), NoteResult(ScaleNote("C4", 250.0))]
    picture.set_notes(notes, [("1 Jan 2026", {"A#3": -80.0})], 1)
    assert not picture.grab().isNull() and picture.accessibleName() == "Notes: B flat 3 silent"


def test_who_has_no_microphone_is_told(driver: Driver) -> None:
    driver.frame.nav.open_tool("playing")
    page = driver.frame.page("playing")
    driver.press("playing_listen")
    driver.qtbot.waitUntil(lambda: page.listening is None)
    assert "No microphone is set" in page.mind.text()


def test_what_was_never_played_moves_nothing(shop: Shop, hand: Hand) -> None:
    job = hand.book("MH-0404", "trumpet")
    assert playing.heard_in_job(shop, hand.view(job)) == [] and playing.earlier(shop, "MH-0404") == []


def test_every_note_can_be_asked_for(drive: Callable[[str], Driver]) -> None:
    """The page asks for two octaves by semitones, begins anew when that changes, and its picture has room for them."""
    driver = drive("mouse")
    driver.frame.nav.open_tool("playing")
    page = driver.frame.page("playing")
    page.family.setCurrentIndex(page.family.findData("clarinet"))
    few = len(page.scale)
    page.which.setCurrentIndex(page.which.findData(True))
    assert len(page.scale) == 25 > few and page.asked.text() == "Play E3"
    for width in (300, 1400):
        page.picture.resize(width, 320)
        assert not page.picture.grab().isNull()
    listen(driver, player(page, {3: Ill(cents=-45.0)}))
    assert [n.note.written for n in page.result.faulty] == ["G3"] and "cents flat" in page.wrong.text()
    page.which.setCurrentIndex(page.which.findData(False))
    assert len(page.scale) == few and not page.events()
