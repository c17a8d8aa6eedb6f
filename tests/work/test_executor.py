"""Tasks in child processes: results as they are done, limits, cancelling, and the true reason of an end."""

from __future__ import annotations

import os
import signal
import threading
import time
from pathlib import Path
from typing import Any

import polars as pl
import pytest

from zembra.core.errors import Refusal
from zembra.work.executor import EndReason, Executor, Here, TaskEnded, TaskLimits, run_one
from zembra.work.processes import Processes

# the functions of tasks are found by their names in the child


def square(report: Any, number: int) -> int:
    report("seen", number)
    return number * number


def slowly(report: Any, folder: Path, name: str) -> None:
    (folder / name).write_text(str(os.getpid()))
    for _ in range(600):
        report("alive", name)
        time.sleep(0.05)


def how_many(_: Any, folder: Path, number: int) -> int:
    (folder / str(number)).touch()
    time.sleep(0.2)
    count = len(list(folder.iterdir()))
    (folder / str(number)).unlink()
    return count


def end(_: Any, how: str) -> object:
    match how:
        case "refusal":
            raise Refusal("It cannot be.", place="row 7", todo="Mend it.")
        case "no file":
            return Path("/not/there").read_bytes()
        case "python memory":
            return bytearray(3 * 10**9)
        case "polars memory":
            return pl.int_range(0, 500_000_000, eager=True).shuffle(1).len()
        case "killed":
            os.kill(os.getpid(), signal.SIGKILL)
        case "crashed":
            os.kill(os.getpid(), signal.SIGSEGV)
        case "left":
            os._exit(3)
        case "fault":
            return {}["gone"]
        case "no pickle":
            return lambda: None
    return None


@pytest.mark.parametrize("executor", [Here(), Processes(2)])
def test_every_task_is_done_and_reports(executor: Executor) -> None:
    seen: list[tuple[int, int]] = []
    tasks = [(n,) for n in range(7)]
    found = dict(executor.map(square, tasks, name="squaring", on_report=lambda n, _, value: seen.append((n, value))))
    assert found == {n: n * n for n in range(7)}
    assert sorted(seen) == [(n, n) for n in range(7)]


@pytest.mark.parametrize(
    ("how", "reason", "said"),
    [
        ("python memory", EndReason.MEMORY, "Trying needs more than 200 MB of memory, the most Zembra gives it."),
        ("polars memory", EndReason.MEMORY, "Trying needs more than 200 MB of memory, the most Zembra gives it."),
        ("killed", EndReason.KILLED, "Trying was killed (SIGKILL) before it was done"),
        ("crashed", EndReason.FAULT, "SIGSEGV"),
        ("left", EndReason.FAULT, "exit status 3"),
        ("fault", EndReason.FAULT, "KeyError: 'gone'"),
        ("no pickle", EndReason.FAULT, "pickle"),
    ],
)
def test_the_true_reason_of_an_end_is_told(how: str, reason: EndReason, said: str) -> None:
    with pytest.raises(TaskEnded) as ended:
        run_one(Processes(1), end, how, name="trying", limits=TaskLimits(memory_mb=200))
    assert ended.value.reason is reason
    assert said in str(ended.value)


def test_what_a_task_raises_in_words_is_raised_here() -> None:
    with pytest.raises(Refusal) as refused:
        run_one(Processes(1), end, "refusal", name="trying")
    assert (refused.value.what, refused.value.place, refused.value.todo) == ("It cannot be.", "row 7", "Mend it.")
    with pytest.raises(FileNotFoundError) as missing:
        run_one(Processes(1), end, "no file", name="trying")
    assert missing.value.filename == "/not/there"


def gone(folder: Path) -> bool:
    pids = [int(path.read_text()) for path in folder.iterdir() if path.read_text()]
    return bool(pids) and not any(Path(f"/proc/{pid}").exists() for pid in pids)


def test_a_task_that_takes_too_long_is_ended(tmp_path: Path) -> None:
    with pytest.raises(TaskEnded, match="Waiting is not done within 1 seconds") as ended:
        run_one(Processes(1), slowly, tmp_path, "a", name="waiting", limits=TaskLimits(seconds=1))
    assert ended.value.reason is EndReason.TIME
    assert gone(tmp_path)


def test_whatever_a_check_raises_and_leaving_cancel_all(tmp_path: Path) -> None:
    def check() -> None:
        if len(list(tmp_path.iterdir())) == 2:
            raise KeyError("enough")

    executor = Processes(2)
    tasks = [(tmp_path, name) for name in "abc"]
    with pytest.raises(KeyError):
        list(executor.map(slowly, tasks, name="waiting", check=check))
    assert gone(tmp_path)
    first = next(executor.map(square, [(3,), (4,)], name="squaring"))
    assert first in [(0, 9), (1, 16)]
    # the places of those that were cancelled are free again
    assert len(list(executor.map(square, [(n,) for n in range(5)], name="squaring"))) == 5


def test_at_most_so_many_children_whoever_asks(tmp_path: Path) -> None:
    executor, most = Processes(2), []

    def ask(first: int) -> None:
        tasks = [(tmp_path, n) for n in range(first, first + 4)]
        most.extend(count for _, count in executor.map(how_many, tasks, name="counting"))

    askers = [threading.Thread(target=ask, args=(10 * n,)) for n in range(3)]
    for asker in askers:
        asker.start()
    for asker in askers:
        asker.join()
    assert len(most) == 12
    assert max(most) <= 2
