"""The shop's own values, in file and journal as one: cut off anywhere, written by two, changed by hand."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest

from creekbed.core.errors import BadData, Refused
from creekbed.store import files
from creekbed.store.records import JournalEntry
from creekbed.workshop.shop import bench_capacity as room
from creekbed.workshop.shop import own_values, own_values_file
from creekbed.workshop.shop.clock import HandClock
from creekbed.workshop.shop.shop import Shop

WHERE = ("family", "alto_saxophone", "step", "body_swab", "hands_min")


def entries(shop: Shop) -> list[str]:
    with shop.reading() as session:
        return [e.words for e in session.all_of(JournalEntry, action="own_value")]


def test_cut_off_between_record_and_file(tmp_path: Path, clock: HandClock, monkeypatch: pytest.MonkeyPatch) -> None:
    shop = Shop(tmp_path, clock)
    own_values.set_value(shop, WHERE, 4.0, "timed")

    def killed(path: Path, content: bytes) -> Path:
        raise KeyboardInterrupt

    monkeypatch.setattr(own_values_file, "write_whole", killed)
    with pytest.raises(KeyboardInterrupt):
        own_values.set_value(shop, WHERE, 5.0, "timed again")
    monkeypatch.setattr(own_values_file, "write_whole", files.write_whole)
    shop.close()
    assert "4.0" in own_values_file.path_of(shop).read_text()
    again = Shop(tmp_path, clock)
    assert "5.0" in own_values_file.path_of(again).read_text() and len(entries(again)) == 2
    step = next(s for s in again.catalogue.families["alto_saxophone"].step if s.key == "body_swab")
    assert step.hands_min == 5.0
    again.close()


def test_a_file_that_cannot_be_written_is_said_and_the_value_holds(
    tmp_path: Path, clock: HandClock, monkeypatch: pytest.MonkeyPatch
) -> None:
    shop = Shop(tmp_path, clock)

    def full(path: Path, content: bytes) -> Path:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(own_values_file, "write_whole", full)
    own_values.set_value(shop, WHERE, 4.0, "timed")
    assert any("could not be written" in note for note in shop.last_done.notes)  # type: ignore[union-attr]
    step = next(s for s in shop.catalogue.families["alto_saxophone"].step if s.key == "body_swab")
    assert step.hands_min == 4.0
    own_values.set_value(shop, ("family", "violin", "case_minutes"), 50.0, "")  # goes on from what is on record
    monkeypatch.setattr(own_values_file, "write_whole", files.write_whole)
    shop.close()
    again = Shop(tmp_path, clock)
    assert own_values.own_paths(again) == {WHERE, ("family", "violin", "case_minutes")}
    again.close()


def test_two_writers_lose_none(tmp_path: Path, clock: HandClock) -> None:
    shops = [Shop(tmp_path, clock, person=who) for who in ("IW", "TO")]
    for shop in shops:
        shop.wait_in_steps(lambda seconds: True)
    family = shops[0].catalogue.families["alto_saxophone"]
    steps = [s.key for s in family.step][:12]
    faults: list[BaseException] = []

    def write(shop: Shop, mine: list[str]) -> None:
        try:
            for key in mine:
                own_values.set_value(shop, ("family", "alto_saxophone", "step", key, "hands_min"), 7.5, "raced")
        except BaseException as error:  # noqa: BLE001  # told by the test's own thread
            faults.append(error)

    threads = [threading.Thread(target=write, args=(s, steps[n::2])) for n, s in enumerate(shops)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert faults == []
    held = {w[3] for w in own_values.own_paths(shops[0])}
    assert held == set(steps) and len(entries(shops[0])) == len(steps)
    for shop in shops:
        shop.close()


def test_a_text_that_is_written_late_loses_nothing(
    tmp_path: Path, clock: HandClock, monkeypatch: pytest.MonkeyPatch
) -> None:
    """One window commits, the other commits before that was written, then the first writes what it had read."""
    one, two = (Shop(tmp_path, clock, person=who) for who in ("IW", "TO"))
    steps = [s.key for s in one.catalogue.families["alto_saxophone"].step][:4]
    where = [("family", "alto_saxophone", "step", key, "hands_min") for key in steps]
    with monkeypatch.context() as held:
        held.setattr(own_values_file, "_written", lambda shop: "")
        own_values.set_value(one, where[0], 7.5, "first")
    late = one.setting(own_values_file.SETTING)["text"].encode()
    own_values.set_value(two, where[1], 7.5, "second")
    own_values_file.path_of(one).write_bytes(late)  # what the first window had read comes only now
    own_values.set_value(one, where[2], 7.5, "third")
    assert own_values.own_paths(one) == set(where[:3])
    own_values_file.path_of(one).write_bytes(late)  # and so it stands when everything ends there
    one.close()
    two.close()
    again = Shop(tmp_path, clock)
    assert own_values.own_paths(again) == set(where[:3])
    clock.advance(minutes=5)
    own_values.set_value(again, where[3], 7.5, "fourth")
    own_values_file.path_of(again).write_bytes(late)  # by hand, long after: somebody went back to an old file
    own_values_file.settle(again)
    assert own_values.own_paths(again) == {where[0]}
    again.close()


def test_changed_by_hand_counts_and_is_on_record(tmp_path: Path, clock: HandClock) -> None:
    shop = Shop(tmp_path, clock)
    room.change(shop, {"tub": 3}, {})
    shop.close()
    path = own_values_file.path_of(shop)
    path.write_text(path.read_text().replace("3", "4"))
    again = Shop(tmp_path, clock)
    assert "changed by hand" in again.own_file_words and "changed by hand" in entries(again)[-1]
    assert next(p.capacity for p in again.catalogue.house.place if p.key == "tub") == 4
    again.close()
    path.unlink()
    third = Shop(tmp_path, clock)
    assert "taken away by hand" in third.own_file_words
    assert Shop(tmp_path, clock).own_file_words == ""
    third.close()


def test_a_value_that_cannot_be_leaves_file_and_record(tmp_path: Path, clock: HandClock) -> None:
    shop = Shop(tmp_path, clock)
    own_values.set_value(shop, WHERE, 4.0, "timed")
    before = own_values_file.path_of(shop).read_text()
    for wrong in (-1.0, float("inf"), 1e308, float("nan")):
        with pytest.raises(BadData):
            own_values.set_value(shop, WHERE, wrong, "")
    with pytest.raises(Refused):
        own_values.take_back(shop, ("family", "violin", "case_minutes"))
    assert own_values_file.path_of(shop).read_text() == before and len(entries(shop)) == 1
    own_values_file.path_of(shop).write_text("[broken")
    with pytest.raises(Refused, match="cannot be read"):
        own_values.set_value(shop, WHERE, 5.0, "")
    assert own_values_file.path_of(shop).read_text() == "[broken" and len(entries(shop)) == 1
    shop.close()
