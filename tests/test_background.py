"""Work in the background: once for a key, with progress, stop, a bounded queue and slots."""

from __future__ import annotations

import threading
from datetime import date
from typing import Any

import numpy as np
import pytest

from tests.help import daily_csv, run_csv, smoothing
from zembra.apart import made_apart
from zembra.background import MOST_WAITING, Background, Busy, Lane, Stage
from zembra.core.errors import Refusal
from zembra.core.ledger.lineentry import Made, directly
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import run


def held(gate: threading.Event, began: list[str], name: str) -> Any:
    def work(progress: Any) -> str:
        began.append(name)
        while not gate.wait(0.01):
            progress("holding", 0.5)
        return name

    return work


def test_the_same_work_asked_for_twice_is_done_once() -> None:
    background, gate, began = Background(1), threading.Event(), []
    first = background.submit("a", Lane.ENTRIES, held(gate, began, "a"))
    assert background.submit("a", Lane.ENTRIES, held(gate, began, "again")) is first
    gate.set()
    assert first.finished.wait(5)
    assert (first.stage, first.result, began) == (Stage.DONE, "a", ["a"])


def test_what_is_stopped_ends_and_begins_again_only_when_asked() -> None:
    background, gate, began = Background(1), threading.Event(), []
    work = background.submit("a", Lane.ENTRIES, held(gate, began, "a"))
    waits = background.submit("b", Lane.ENTRIES, held(gate, began, "b"))
    background.stop("b")
    background.stop("a")
    assert work.finished.wait(5)
    assert waits.finished.wait(5)
    assert (work.stage, waits.stage, began) == (Stage.STOPPED, Stage.STOPPED, ["a"])
    assert background.submit("a", Lane.ENTRIES, held(gate, began, "a")) is work
    gate.set()
    again = background.again("a")
    assert again is not None
    assert again.finished.wait(5)
    assert again.stage is Stage.DONE


def test_of_a_slot_only_the_newest_goes_on() -> None:
    background, gate, began = Background(2), threading.Event(), []
    old = background.submit("a", Lane.ENTRIES, held(gate, began, "a"), slot="preview")
    new = background.submit("b", Lane.ENTRIES, held(gate, began, "b"), slot="preview")
    assert old.finished.wait(5)
    assert old.stage is Stage.STOPPED
    gate.set()
    assert new.finished.wait(5)
    assert new.stage is Stage.DONE


def test_a_failure_is_kept_and_the_queue_is_bounded() -> None:
    background, gate = Background(1), threading.Event()

    def fails(progress: Any) -> None:
        raise Refusal("It cannot be.")

    failed = background.submit("f", Lane.ENTRIES, fails)
    assert failed.finished.wait(5)
    assert failed.stage is Stage.FAILED

    def many() -> None:
        for n in range(MOST_WAITING + 3):
            background.submit(str(n), Lane.ENTRIES, held(gate, [], "x"))

    with pytest.raises(Busy):
        many()
    gate.set()


def test_what_another_process_makes_is_what_is_made_here() -> None:
    rng = np.random.default_rng(4)
    values = (50 + 9 * np.sin(np.arange(80) * 2 * np.pi / 7) + rng.normal(0, 2, 80)).round(2).tolist()
    begun = run_csv(daily_csv(values))
    entry = smoothing(ahead=7, season=7)
    ledger = Ledger(entries=(*(record(r.entry, r.id) for r in begun.reports), record(entry, "p")))
    memo = Memo()
    waiting = run(begun.state.observations, ledger, date(2026, 10, 31), memo=memo, defer=True)
    (pending,) = waiting.pending
    (task,) = pending.tasks
    found: list[Made | Refusal] = []
    made_apart(pending.entry, pending.tasks, lambda n, made: found.append(made), lambda: None)
    (there,), here = found, directly(entry, task.line, task.study)
    assert isinstance(there, Made)
    assert isinstance(here, Made)
    for a, b in zip(there.arrays(), here.arrays(), strict=True):
        np.testing.assert_array_equal(a, b)
    memo.put(task.key, there, task.line.arrays())
    done = run(begun.state.observations, ledger, date(2026, 10, 31), memo=memo, defer=True)
    assert not done.pending
    assert done.reports[-1].outcome.touched == 80
