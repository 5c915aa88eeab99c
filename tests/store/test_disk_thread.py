"""Waiting for a disk beside a window: what was asked for is done to its end, and its end is told."""

from __future__ import annotations

import threading

import pytest

from creekbed.store.disk_thread import DiskThread


def test_without_a_window_it_is_done_at_once() -> None:
    disk = DiskThread()
    assert disk.do(threading.current_thread) is threading.current_thread()
    disk.close()


def test_a_quick_disk_says_nothing_and_a_slow_one_does() -> None:
    disk, let_go = DiskThread(), threading.Event()
    told: list[tuple[float, bool]] = []

    def waits(seconds: float, note: bool) -> None:
        told.append((seconds, note))
        assert disk.busy
        let_go.set()

    disk.while_waiting = waits
    assert disk.do(lambda: 7) == 7 and not told
    assert disk.do(lambda: let_go.wait(60), note=True) and told[0][0] > 0 and told[0][1]
    assert not disk.busy
    disk.close()


def test_what_goes_wrong_is_raised_where_it_was_asked_for() -> None:
    disk = DiskThread()
    disk.while_waiting = lambda seconds, note: None
    with pytest.raises(OSError, match="no room"):
        disk.do(lambda: _raise(OSError("no room")))
    assert not disk.busy
    disk.close()


def test_who_stops_waiting_has_it_done_all_the_same() -> None:
    """An interrupt while the disk works is raised when the disk is done, never before."""
    disk, let_go, done = DiskThread(), threading.Event(), []

    def interrupted(seconds: float, note: bool) -> None:
        threading.Timer(0.01, let_go.set).start()
        raise KeyboardInterrupt

    disk.while_waiting = interrupted
    with pytest.raises(KeyboardInterrupt):
        disk.do(lambda: (let_go.wait(60), done.append(True)))
    assert done == [True]
    disk.close()


def test_closing_waits_for_what_is_under_way() -> None:
    disk, let_go, done = DiskThread(), threading.Event(), []

    def closes(seconds: float, note: bool) -> None:
        let_go.set()
        disk.close()
        assert done == [True]

    disk.while_waiting = closes
    disk.do(lambda: (let_go.wait(60), done.append(True)))
    assert done == [True]


def _raise(error: Exception) -> None:
    raise error
