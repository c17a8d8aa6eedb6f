"""A queue of work: once for a key, with progress, stop, a bounded queue and slots."""

from __future__ import annotations

import threading
from typing import Any

import pytest

from zembra.core.errors import Refusal
from zembra.work.queue import MOST_WAITING, Busy, Lane, Stage, WorkQueue


def held(gate: threading.Event, began: list[str], name: str) -> Any:
    def work(progress: Any) -> str:
        began.append(name)
        while not gate.wait(0.01):
            progress("holding", 0.5)
        return name

    return work


def test_the_same_work_asked_for_twice_is_done_once() -> None:
    queue, gate, began = WorkQueue(1), threading.Event(), []
    first = queue.submit("a", Lane.ENTRIES, held(gate, began, "a"))
    assert queue.submit("a", Lane.ENTRIES, held(gate, began, "again")) is first
    gate.set()
    assert first.finished.wait(5)
    assert (first.stage, first.result, began) == (Stage.DONE, "a", ["a"])


def test_what_is_stopped_ends_and_begins_again_only_when_asked() -> None:
    queue, gate, began = WorkQueue(1), threading.Event(), []
    work = queue.submit("a", Lane.ENTRIES, held(gate, began, "a"))
    waits = queue.submit("b", Lane.ENTRIES, held(gate, began, "b"))
    queue.stop("b")
    queue.stop("a")
    assert work.finished.wait(5)
    assert waits.finished.wait(5)
    assert (work.stage, waits.stage, began) == (Stage.STOPPED, Stage.STOPPED, ["a"])
    assert queue.submit("a", Lane.ENTRIES, held(gate, began, "a")) is work
    gate.set()
    again = queue.again("a")
    assert again is not None
    assert again.finished.wait(5)
    assert again.stage is Stage.DONE


def test_of_a_slot_only_the_newest_goes_on() -> None:
    queue, gate, began = WorkQueue(2), threading.Event(), []
    old = queue.submit("a", Lane.ENTRIES, held(gate, began, "a"), slot="preview")
    new = queue.submit("b", Lane.ENTRIES, held(gate, began, "b"), slot="preview")
    assert old.finished.wait(5)
    assert old.stage is Stage.STOPPED
    gate.set()
    assert new.finished.wait(5)
    assert new.stage is Stage.DONE


def test_a_failure_is_kept_and_the_queue_is_bounded() -> None:
    queue, gate = WorkQueue(1), threading.Event()

    def fails(progress: Any) -> None:
        raise Refusal("It cannot be.")

    failed = queue.submit("f", Lane.ENTRIES, fails)
    assert failed.finished.wait(5)
    assert failed.stage is Stage.FAILED

    def many() -> None:
        for n in range(MOST_WAITING + 3):
            queue.submit(str(n), Lane.ENTRIES, held(gate, [], "x"))

    with pytest.raises(Busy):
        many()
    gate.set()
