"""Children end with what began them, whatever they are doing, and by themselves when their time is over."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest

from zembra.work.executor import TaskLimits, run_one
from zembra.work.processes import Processes
from zembra.work.warm import WarmChildren

ENOUGH = 120.0  # seconds that a machine under load may take


def never_ending(_: Any, pids: Path) -> None:
    """In code of another language that lets nothing of Python run beside it."""
    (pids / str(os.getpid())).touch()
    (pids / str(os.getppid())).touch()
    re.match(r"(a+)+$", "a" * 64 + "b")


def never_ending_warm(pids: Path) -> None:
    never_ending(None, pids)


def begin(pids: Path, how: str) -> None:
    """In a process that is killed."""
    if how == "warm":
        WarmChildren(1).call(never_ending_warm, pids, name="matching", limits=TaskLimits())
    run_one(Processes(1), never_ending, pids, name="matching", limits=TaskLimits(seconds=1 if how == "alarm" else None))


@contextmanager
def begun(pids: Path, how: str) -> Iterator[subprocess.Popen[bytes]]:
    script = (
        f"from pathlib import Path; from tests.work.test_outliving import begin; begin(Path({str(pids)!r}), {how!r})"
    )
    root = Path(__file__).parents[2]
    process = subprocess.Popen([sys.executable, "-c", script], cwd=root, env={**os.environ, "PYTHONPATH": str(root)})
    try:
        until(lambda: bool(list(pids.iterdir())))
        yield process
    finally:
        process.kill()
        process.wait()
        for pid in running(pids):
            os.kill(pid, signal.SIGKILL)


def until(holds: Any) -> None:
    end = time.monotonic() + ENOUGH
    while not holds():
        assert time.monotonic() < end, "it never came"
        time.sleep(0.05)


def running(pids: Path) -> list[int]:
    found = []
    for path in pids.iterdir():
        stat = Path(f"/proc/{path.name}/stat")
        if stat.exists() and stat.read_text().rpartition(")")[2].split()[0] != "Z":
            found.append(int(path.name))
    return found


@pytest.mark.parametrize("how", ["forked", "warm"])
def test_a_child_ends_with_what_began_it(tmp_path: Path, how: str) -> None:
    with begun(tmp_path, how) as process:
        process.kill()
        process.wait()
        until(lambda: not running(tmp_path))


def test_a_child_ends_by_itself_when_its_time_is_over(tmp_path: Path) -> None:
    with begun(tmp_path, "alarm") as process:
        # nobody watches it
        process.send_signal(signal.SIGSTOP)
        parent = {int(path.name) for path in tmp_path.iterdir()} - {max(running(tmp_path))}
        until(lambda: set(running(tmp_path)) <= parent)
