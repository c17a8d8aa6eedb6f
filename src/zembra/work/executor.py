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
    """What one task may take. memory_mb: beyond what its process has when it begins, in MB. resident_mb: that its process has in all, in MB,
    as it is seen from outside: for what reserves far more than it uses. seconds: from its begin. niceness: how far it steps back behind
    others (nice(2))."""

    memory_mb: int | None = None
    resident_mb: int | None = None
    seconds: float | None = None
    niceness: int = 0


class EndReason(StrEnum):
    """Why a task ended before it was done."""

    MEMORY = "memory"
    TIME = "time"
    KILLED = "killed"
    FAULT = "fault"


class TaskEnded(Refusal):
    """A task that ended before it was done, as a sentence. reason: what is known to have ended it."""

    def __init__(self, reason: EndReason, what: str, *, todo: str | None = None) -> None:
        super().__init__(what, todo=todo)
        self.reason = reason

    def __reduce__(self) -> tuple[Any, ...]:
        return _ended, (self.reason, self.what, self.todo)


@contextlib.contextmanager
def advised(todo: Mapping[EndReason, str]) -> Iterator[None]:
    """What ends within is raised with what there is to do about it, where that is known of the reason."""
    try:
        yield
    except TaskEnded as ended:
        raise TaskEnded(ended.reason, ended.what, todo=todo.get(ended.reason, ended.todo)) from None


def _ended(reason: EndReason, what: str, todo: str | None) -> TaskEnded:
    return TaskEnded(reason, what, todo=todo)


def ignore_report(_task: int, _kind: str, _value: Any) -> None:
    """What is reported is of no interest."""


def no_check() -> None:
    """Nothing ends it early."""


class Executor(Protocol):
    """Carries out `function(report, *task)` for each task.

    Yields (number of the task, its result) as they are done, in any order. `on_report` is called with what tasks report, in
    the caller's thread. `check` is called again and again; whatever it raises, and leaving the iteration, cancels what is
    under way. Raises Refusal and OSError as a task raises them, and TaskEnded where one ends otherwise; the others are cancelled.
    Where `each_by_itself` is set, what a task would raise is yielded as its result instead, and the others go on.
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
    """The result of one task. name: what it does, as a noun phrase: “reading the file”."""
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
    """The result of one task, which reports its steps: what it does, and the share that is done. progress: called with the
    last of them again and again. step: the first one."""

    def on_report(_task: int, _kind: str, reported: tuple[str, float]) -> None:
        nonlocal step
        step = reported

    return run_one(
        executor, function, *task, name=name, limits=limits, on_report=on_report, check=lambda: progress(*step)
    )


class Here:
    """Carries tasks out in this process, one after the other. Limits are not kept: what is run here is known to be small."""

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
