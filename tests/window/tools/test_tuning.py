"""The tuning page: a simulated player, the advice, the strings, and what the step of a job gets from it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from PySide6.QtWidgets import QApplication

from creekbed.core.sound.string_tuning import IN_TUNE_CENTS
from creekbed.demo.player import as_pcm, pieces
from creekbed.devices.simulated import SimulatedMicrophone
from creekbed.window.frame.frame import Frame
from creekbed.window.tools.gauge_post import GaugePost, height_of
from creekbed.workshop.bench import settling
from creekbed.workshop.inspection import recordings
from creekbed.workshop.shop.clock import HandClock
from tests.conftest import Hand
from tests.window.conftest import Driver, answer, nothing_skipped, rest
from tests.worlds.playing import RATE, strings_played


def microphone(sound: Any) -> SimulatedMicrophone:
    def without_end() -> Iterator[bytes]:
        rng = np.random.default_rng(9)
        yield from pieces(as_pcm(sound))
        for _ in range(400):
            yield as_pcm(2e-4 * rng.normal(size=480))

    return SimulatedMicrophone(without_end, RATE, paced=False)


def listen(frame: Frame, driver: Driver, sound: Any) -> Any:
    """Listen on the tuning page until the player has ended."""
    page = frame.page("tuning")
    with nothing_skipped(), microphone(sound) as device:
        frame.devices.ports["microphone"] = device.address
        driver.press("tuning_listen")
        driver.qtbot.waitUntil(lambda: page.listening is None, timeout=30_000)
    rest(frame)
    return page


def hang_a_new_string(hand: Hand, tag: str = "MH-0300") -> int:
    """A violin's job with a new A that hangs to settle; its first retune is next."""
    job = hand.book(tag, "violin")
    hand.until(job, "hang", strings={"A": "worn"})
    return job


def test_the_whole_violin_by_ear(drive: Callable[[str], Driver]) -> None:
    driver = drive("keyboard")
    driver.press("way_mix")
    driver.press("tool_tuning")
    page = listen(driver.frame, driver, strings_played("violin", {"G": [-6], "D": [0.5], "A": [-14, -0.4], "E": [20]}))
    said = {key: (found.text(), now.text()) for key, (_, found, now) in page.rows.items()}
    assert said["D"][1] == "✓ holds" and said["A"] == ("14 cents flat", "✓ holds")
    assert said["G"][1] == "6.0 cents flat" and said["E"][1] == "20 cents sharp"
    assert "does not answer" in page.mind.text()  # the player has pulled the plug; what was heard stays
    assert not page.done.isVisible()


def test_what_it_says_while_a_string_sounds(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_tool("tuning")
    page = driver.frame.page("tuning")
    seen: list[tuple[str, str, str]] = []
    show = page._show_reading

    def shown(state: Any, live: Any) -> None:
        show(state, live)
        seen.append((page.string.text(), page.advice.text(), page.post.accessibleName()))

    page._show_reading = shown
    listen(driver.frame, driver, strings_played("violin", {"A": [-30, -1.0], "E": [180]}))
    told = {(string, advice) for string, advice, _ in seen}
    assert ("A string, 440.0 Hz", "Up") in told and ("A string, 440.0 Hz", "Holds") in told
    assert ("E string, 659.3 Hz", "Down, far") in told
    assert any(name.startswith("A string: Up, 30 cents flat") for _, _, name in seen)


def test_the_retune_of_a_job_is_fed_by_ear(
    drive: Callable[[str], Driver], hand: Hand, clock: HandClock, window: Frame
) -> None:
    """The new A was 21 cents flat, the old strings were not what the step asks about; all hold at the end."""
    driver = drive("mouse")
    job = hang_a_new_string(hand)
    clock.advance(minutes=13)
    window.refresh()
    window.nav.open_job(job, "steps")
    window.page("job").steps.choose("retune_1")
    rest(window)
    window.nav.open_tool_for(job, "retune_1")
    assert window.here == "tuning" and window.page("tuning").rows["A"][0].text() == "A string, new"
    page = listen(window, driver, strings_played("violin", {"G": [-40, 0.3], "D": [0.5], "A": [-21, 0.6], "E": [-0.7]}))
    driver.press("tuning_done")
    assert window.here == "job"
    view = hand.view(job)
    record = next(w for w in view.all_work if w.key == "retune_1")
    assert record.data["cents"] == pytest.approx(21.0, abs=0.2)
    read = record.data["strings"]
    assert set(read) == {"G", "D", "A", "E"} and read["A"]["found"] == pytest.approx(-21, abs=0.2)
    assert abs(read["A"]["left"]) < IN_TUNE_CENTS and view.situation.drops[0][2] == record.data["cents"]
    driver.press("undo")
    assert not any(w.key == "retune_1" and w.state == "done" for w in hand.view(job).all_work)
    assert page.listening is None


def test_a_step_that_must_wait_refuses_and_the_readings_stay(
    drive: Callable[[str], Driver], hand: Hand, window: Frame
) -> None:
    driver = drive("mouse")
    job = hang_a_new_string(hand)
    window.refresh()
    window.nav.open_tool_for(job, "retune_1")
    page = listen(window, driver, strings_played("violin", {"G": [0.3], "D": [0.5], "A": [-21, 0.6], "E": [-0.7]}))
    driver.press("tuning_done")
    assert "Not yet" in window.words.text() and window.here == "tuning"
    assert page.rows["A"][1].text() == "21 cents flat" and hand.view(job).situation.drops == ()


def test_what_was_heard_before_is_not_shown_as_heard_now(drive: Callable[[str], Driver]) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_tool("tuning")
    page = listen(driver.frame, driver, strings_played("violin", {"A": [-30], "E": [0.5]}))
    assert page.tuner.states["E"].holds
    page.tuner.listen_anew()
    assert page.tuner.states["E"].holds and page.tuner.advice is None and not page.tuner.states["E"].steady
    driver.press("tuning_listen")
    assert page.tuner.playing == "" and page.string.text() == "Play a string"
    page.end()


def test_it_cannot_be_done_before_all_hold(drive: Callable[[str], Driver], hand: Hand, clock: HandClock) -> None:
    driver = drive("mouse")
    job = hang_a_new_string(hand)
    clock.advance(minutes=13)
    driver.frame.refresh()
    driver.frame.nav.open_tool_for(job, "retune_1")
    page = listen(driver.frame, driver, strings_played("violin", {"A": [0.4], "E": [9]}))
    assert page.done.isVisible() and not page.done.isEnabled()
    driver.press("tuning_back")
    assert driver.frame.here == "job" and driver.frame.page("job").job_id == job


def test_from_a_recording_and_what_is_none(drive: Callable[[str], Driver], tmp_path: Path) -> None:
    driver = drive("mouse")
    driver.frame.nav.open_tool("tuning")
    page = driver.frame.page("tuning")
    page.family.setCurrentIndex(page.family.findData("acoustic_guitar"))
    assert not page.intervals.isEnabled() and len(page.rows) == 6
    path = tmp_path / "guitar.flac"
    soundfile.write(path, strings_played("acoustic_guitar", {"E2": [-8], "G3": [1.0]}), RATE)
    page.read_file(path)
    driver.qtbot.waitUntil(lambda: not page.reading.busy, timeout=20_000)
    assert page.rows["E2"][2].text() == "8.0 cents flat" and page.rows["G3"][2].text() == "✓ holds"
    assert page.rows["A2"][2].text() == "not played"
    broken = tmp_path / "broken.wav"
    broken.write_bytes(b"RIFF of nothing")
    page.read_file(broken)
    driver.qtbot.waitUntil(lambda: not page.reading.busy, timeout=20_000)
    assert "no sound that can be read" in driver.frame.words.text()
    assert page.rows["E2"][2].text() == "8.0 cents flat"  # what was heard before is kept


def test_nobody_is_overheard(drive: Callable[[str], Driver]) -> None:
    """A page that is left, or a window that closes, listens no more; without a microphone it says so."""
    driver = drive("mouse")
    driver.frame.nav.open_tool("tuning")
    page = driver.frame.page("tuning")
    driver.press("tuning_listen")
    driver.qtbot.waitUntil(lambda: page.listening is None)
    assert "No microphone is set" in page.mind.text()
    rng = np.random.default_rng(3)
    noise = as_pcm(1e-3 * rng.normal(size=480))

    def for_ever() -> Iterator[bytes]:
        while True:
            yield noise

    with SimulatedMicrophone(for_ever, RATE) as device:
        driver.frame.devices.ports["microphone"] = device.address
        driver.press("tuning_listen")
        assert page.listening is not None
        thread = page.listening
        driver.frame.nav.go_home()
        assert page.listening is None and thread.isFinished()


def test_heights_on_the_post() -> None:
    """Up is sharp; the scale is fine in the middle; nothing leaves it."""
    assert height_of(0) == 0 and height_of(-5) < 0 < height_of(5)
    assert height_of(5) - height_of(0) > height_of(55) - height_of(50)
    assert height_of(10_000) == 1 and height_of(-10_000) == -1


def test_the_post_draws_at_any_size(qtbot: Any) -> None:
    from creekbed.core.sound.string_tuning import StringReading

    post = GaugePost()
    qtbot.addWidget(post)
    for size in ((240, 260), (400, 900)):
        post.resize(*size)
        for cents in (-500.0, -3.0, 0.0, 80.0):
            post.set_reading(StringReading(cents, 2.0, 0.0), abs(cents) < 3, "words")
            assert not post.grab().isNull()
    post.set_reading(None, False, "Pitch: nothing is heard")
    QApplication.processEvents()
    assert post.accessibleName() == "Pitch: nothing is heard"


def test_once_more_and_accepted_in_the_window(
    drive: Callable[[str], Driver], hand: Hand, clock: HandClock, window: Frame
) -> None:
    """Somebody retunes once more than is planned; or accepts new strings with a reason, and nothing waits any more."""
    driver = drive("mouse")
    job = hand.book("MH-0300", "violin")
    hand.until(job, "pack", strings={"A": "worn"})
    window.refresh()
    window.nav.open_job(job, "steps")
    driver.type("again_cents", "5 cents")
    driver.press("retuned_again")
    retunes = [w.key for w in hand.view(job).all_work if w.key.startswith("retune")]
    assert retunes == ["retune_1", "retune_2", "retune_3", "retune_4"]
    drops = hand.view(job).situation.drops
    assert [cents for _, _, cents in drops] == [5.0]
    other = hand.book("MH-0301", "violin")
    hand.until(other, "retune_2", strings={"A": "worn"})
    window.refresh()
    window.nav.open_job(other, "steps")
    assert [w.at_end for w in hand.view(other).waits] == ["Retune, to hold for a day"]
    window.page("job").show_tab("ready")
    answer("the renter tunes it")
    driver.press("accept_strings")
    assert not hand.view(other).waits and settling.accepted(hand.view(other))
    hand.until(other, "pack")
    window.refresh()
    assert window.page("job").release_check.ready.isEnabled()


def test_a_sound_is_kept_only_when_asked_and_heard_again(
    drive: Callable[[str], Driver], hand: Hand, window: Frame
) -> None:
    """Nothing is written until the button is pressed; heard again it says the same; taken away it can come back."""
    driver = drive("mouse")
    job = hang_a_new_string(hand)
    window.refresh()
    window.nav.open_tool_for(job, "retune_1")
    page = window.page("tuning")
    assert page.keep.isVisible() and not page.keep.isEnabled() and not page.kept.isVisible()
    listen(window, driver, strings_played("violin", {"A": [-21], "E": [-7]}))
    said = {key: now.text() for key, (_, _, now) in page.rows.items()}
    assert not (window.shop.folder / "sounds").exists() and "Voices" in page.keep_hint.text()
    driver.press("tuning_keep")
    driver.qtbot.waitUntil(lambda: not page.reading.busy)
    rest(window)
    (kept,) = recordings.recordings_of(window.shop, job)
    assert kept.about == "tuning" and kept.key == "retune_1" and kept.seconds > 2 and page.kept.isVisible()
    driver.press("tuning_keep")
    driver.qtbot.waitUntil(lambda: not page.reading.busy)
    assert "kept already" in window.words.text()
    page.anew()
    assert page.rows["A"][2].text() == "not played"
    driver.press(f"sound_hear_{kept.id}")
    driver.qtbot.waitUntil(lambda: not page.reading.busy, timeout=20_000)
    assert {key: now.text() for key, (_, _, now) in page.rows.items()} == said and not page.keep.isEnabled()
    driver.press(f"sound_away_{kept.id}")
    rest(window)
    assert recordings.recordings_of(window.shop, job) == [] and not page.kept.isVisible()
    driver.press("undo")
    rest(window)
    assert page.kept.isVisible() and driver.find(f"sound_save_{kept.id}").isEnabled()
    window.nav.open_tool("tuning")
    assert not page.keep.isVisible() and not page.kept.isVisible()


def test_what_was_worked_through_for_one_job_is_not_shown_or_kept_for_another(
    drive: Callable[[str], Driver], hand: Hand, window: Frame, tmp_path: Path
) -> None:
    """Somebody opens another instrument while a recording is still worked through: it is not heard as that one's."""
    driver = drive("mouse")
    first, second = hang_a_new_string(hand), hang_a_new_string(hand, "MH-0301")
    path = tmp_path / "violin.flac"
    soundfile.write(path, strings_played("violin", {"A": [-21]}), RATE)
    window.refresh()
    window.nav.open_tool_for(first, "retune_1")
    page = window.page("tuning")
    page.read_file(path)
    window.nav.open_tool_for(second, "retune_1")
    driver.qtbot.waitUntil(lambda: not page.reading.busy, timeout=20_000)
    rest(window)
    assert page.job_id == second and page.rows["A"][2].text() == "not played" and not page.keep.isEnabled()
    window.nav.open_tool("tuning")
    page.read_file(path)
    page.family.setCurrentIndex(page.family.findData("acoustic_guitar"))
    driver.qtbot.waitUntil(lambda: not page.reading.busy, timeout=20_000)
    rest(window)
    assert len(page.rows) == 6 and all(now.text() == "not played" for _, _, now in page.rows.values())
