"""Run a function over many tasks."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Protocol, TypeVar

from zembra.core.errors import Refusal

Result = TypeVar("Result")
# what a task says of itself while it is carried out: a kind and a value
Report = Callable[[str, Any], None]
OnReport = Callable[[int, str, Any], None]
Check = Callable[[], None]


@dataclass(frozen=True, slots=True)
class TaskLimits:
    """Limits of one task.

    memory_mb: beyond what its process has at the start
    resident_mb: of its process in all, watched from outside, for code that reserves more than it uses
    seconds: run time
    niceness: see nice(2)
    """

    memory_mb: int | None = None
    resident_mb: int | None = None
    seconds: float | None = None
    niceness: int = 0


class EndReason(StrEnum):
    """Why a task ended early."""

    MEMORY = "memory"
    TIME = "time"
    KILLED = "killed"
    FAULT = "fault"


class TaskEnded(Refusal):
    """A task that ended early, as a sentence.

    reason: the known cause
    """

    def __init__(self, reason: EndReason, what: str, *, todo: str | None = None) -> None:
        super().__init__(what, todo=todo)
        self.reason = reason

    def __reduce__(self) -> tuple[Any, ...]:
        return _ended, (self.reason, self.what, self.todo)


@contextlib.contextmanager
def advised(todo: Mapping[EndReason, str]) -> Iterator[None]:
    """Add advice to TaskEnded raised within, by reason."""
    try:
        yield
    except TaskEnded as ended:
        raise TaskEnded(ended.reason, ended.what, todo=todo.get(ended.reason, ended.todo)) from None


def _ended(reason: EndReason, what: str, todo: str | None) -> TaskEnded:
    return TaskEnded(reason, what, todo=todo)


def ignore_report(_task: int, _kind: str, _value: Any) -> None:
    """Discard a report."""


def no_check() -> None:
    """Never end a task early."""


class Executor(Protocol):
    """Runs `function(report, *task)` for each task, and yields (index, result) as they finish. `on_report` is
    called with reports in the caller's thread. `check` is called repeatedly; what it raises, and leaving the
    iteration, cancels running tasks. Raises Refusal and OSError from a task, and TaskEnded if one ends otherwise;
    the others are cancelled. With `each_by_itself`, errors are yielded as results and the others continue.
    """

    def map(
        self,
        function: Callable[..., Result],
        tasks: Sequence[tuple[Any, ...]],
        *,
        name: str,
        limits: TaskLimits = ...,
        on_report: OnReport = ...,
        check: Check = ...,
        each_by_itself: bool = ...,
    ) -> Iterator[tuple[int, Result]]: ...


def run_one(
    executor: Executor,
    function: Callable[..., Result],
    *task: Any,
    name: str,
    limits: TaskLimits | None = None,
    on_report: OnReport = ignore_report,
    check: Check = no_check,
) -> Result:
    """Run one task and return its result.

    name: what it does, as a noun phrase: “reading the file”
    """
    results = executor.map(function, [task], name=name, limits=limits or TaskLimits(), on_report=on_report, check=check)
    return next(result for _, result in results)


def run_watched(
    executor: Executor,
    function: Callable[..., Result],
    *task: Any,
    name: str,
    limits: TaskLimits | None = None,
    step: tuple[str, float],
    progress: Callable[[str, float], None],
) -> Result:
    """Run one task that reports steps.

    progress: called repeatedly with the latest step and the share done
    step: the first one
    """

    def on_report(_task: int, _kind: str, reported: tuple[str, float]) -> None:
        nonlocal step
        step = reported

    return run_one(
        executor, function, *task, name=name, limits=limits, on_report=on_report, check=lambda: progress(*step)
    )


class Here:
    """Runs tasks in this process one after another, without limits, for small ones."""

    def map(
        self,
        function: Callable[..., Result],
        tasks: Sequence[tuple[Any, ...]],
        *,
        name: str,
        limits: TaskLimits = TaskLimits(),
        on_report: OnReport = ignore_report,
        check: Check = no_check,
        each_by_itself: bool = False,
    ) -> Iterator[tuple[int, Result]]:
        for number, task in enumerate(tasks):
            check()

            def report(kind: str, value: Any, number: int = number) -> None:
                on_report(number, kind, value)
                check()

            try:
                found: Any = function(report, *task)
            except (Refusal, OSError) as error:
                if not each_by_itself:
                    raise
                found = error
            yield number, found
