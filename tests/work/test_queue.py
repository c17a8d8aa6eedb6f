"""A queue of work: once for a key, with progress, stop, a bounded queue and slots."""

from __future__ import annotations

import threading
from contextlib import suppress
from functools import partial
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

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
    assert first.finished.wait(120)
    assert (first.stage, first.result, began) == (Stage.DONE, "a", ["a"])


def test_what_is_stopped_ends_and_begins_again_only_when_asked() -> None:
    queue, gate, began = WorkQueue(1), threading.Event(), []
    work = queue.submit("a", Lane.ENTRIES, held(gate, began, "a"))
    waits = queue.submit("b", Lane.ENTRIES, held(gate, began, "b"))
    queue.stop("b")
    queue.stop("a")
    assert work.finished.wait(120)
    assert waits.finished.wait(120)
    assert (work.stage, waits.stage, began) == (Stage.STOPPED, Stage.STOPPED, ["a"])
    assert queue.submit("a", Lane.ENTRIES, held(gate, began, "a")) is work
    gate.set()
    again = queue.again("a")
    assert again is not None
    assert again.finished.wait(120)
    assert again.stage is Stage.DONE


def test_of_a_slot_only_the_newest_goes_on() -> None:
    queue, gate, began = WorkQueue(2), threading.Event(), []
    old = queue.submit("a", Lane.ENTRIES, held(gate, began, "a"), slot="preview")
    new = queue.submit("b", Lane.ENTRIES, held(gate, began, "b"), slot="preview")
    assert old.finished.wait(120)
    assert old.stage is Stage.STOPPED
    gate.set()
    assert new.finished.wait(120)
    assert new.stage is Stage.DONE


def test_a_failure_is_kept_and_the_queue_is_bounded() -> None:
    queue, gate = WorkQueue(1), threading.Event()

    def fails(progress: Any) -> None:
        raise Refusal("It cannot be.")

    failed = queue.submit("f", Lane.ENTRIES, fails)
    assert failed.finished.wait(120)
    assert failed.stage is Stage.FAILED

    def many() -> None:
        for n in range(MOST_WAITING + 3):
            queue.submit(str(n), Lane.ENTRIES, held(gate, [], "x"))

    with pytest.raises(Busy):
        many()
    gate.set()


STEPS = st.lists(
    st.tuples(st.sampled_from(["submit", "stop", "again", "forget", "let go on", "close"]), st.sampled_from("abc"), st.sampled_from([None, "s", "t"])),
    max_size=25,
)  # fmt: skip


@settings(max_examples=150, deadline=None)
@given(STEPS, st.integers(0, 3))
def test_what_work_was_given_is_let_go_of_once_however_it_ends(
    steps: list[tuple[str, str, str | None]], fail: int
) -> None:
    queue, gate = WorkQueue(1), threading.Event()
    released: list[int] = []
    works = []

    def work(progress: Any) -> None:
        while not gate.wait(0.001):
            progress("holding", 0.5)
        if fail == 0:
            raise Refusal("It cannot be.")

    given_to = 0
    for step, key, slot in steps:
        if step == "submit":
            given_to += 1
            with suppress(Busy):
                works.append(queue.submit(key, Lane.ENTRIES, work, slot, release=partial(released.append, given_to)))
        elif step == "again":
            with suppress(Refusal):
                works.append(queue.again(key))
        elif step == "let go on":
            gate.set()
        elif step == "close":
            queue.close()
        else:
            getattr(queue, step)(key)
    queue.close()
    gate.set()
    for each in works:
        if each is not None:
            assert each.finished.wait(60)
            assert not each.under_way
    assert sorted(released) == list(range(1, given_to + 1))


def test_too_much_work_lets_go_of_what_it_was_given() -> None:
    queue, gate = WorkQueue(1), threading.Event()
    released: list[str] = []
    for n in range(MOST_WAITING + 1):
        queue.submit(str(n), Lane.ENTRIES, held(gate, [], "a"))
    while sum(queue.get(str(n)).stage is Stage.WAITING for n in range(MOST_WAITING + 1)) < MOST_WAITING:  # type: ignore[union-attr]
        pass
    with pytest.raises(Busy):
        queue.submit("more", Lane.ENTRIES, held(gate, [], "b"), release=lambda: released.append("more"))
    assert released == ["more"]
    queue.close()


def test_two_who_ask_do_not_stop_each_others_work() -> None:
    asking = ["ann"]
    queue, gate = WorkQueue(2, lambda: asking[0]), threading.Event()
    first = queue.submit("a", Lane.ENTRIES, held(gate, [], "a"), slot="preview")
    asking[0] = "ben"
    queue.submit("b", Lane.ENTRIES, held(gate, [], "b"), slot="preview")
    gate.set()
    assert first.finished.wait(60)
    assert (first.stage, first.who) == (Stage.DONE, "ann")
