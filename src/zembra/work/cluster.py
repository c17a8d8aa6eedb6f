"""Run tasks on a Dask cluster whose workers see the same files."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from importlib import import_module
from types import TracebackType
from typing import Any, Self, TypeVar

from zembra.core.errors import Refusal
from zembra.work.executor import Check, EndReason, OnReport, TaskEnded, TaskLimits, ignore_report, no_check

Result = TypeVar("Result")
ANSWERS = 10  # seconds that the scheduler may take to answer
DEATHS = 3  # of workers, after which a task is told as ended
POLL = 0.5  # seconds between two checks
LOOKED_FOR, MISSED_FOR = 5.0, 90.0  # seconds between two looks for workers; after which none is waited for


class Cluster:
    """A client of a Dask scheduler, closed on exit."""

    def __init__(self, address: str) -> None:
        """Connect. Raises Refusal if nothing answers.

        address: tcp://host:port
        """
        try:
            self._dask: Any = import_module("distributed")
        except ModuleNotFoundError:
            raise Refusal(
                "Zembra is installed without what talks to clusters.",
                todo="Install it with pip install zembra[cluster].",
            ) from None
        try:
            self._client: Any = self._dask.Client(address, timeout=ANSWERS)
        except (OSError, TimeoutError, ValueError) as error:
            raise Refusal(
                f"No scheduler answers: {error}.", place=address, todo="Start one with dask scheduler, and its workers."
            ) from None

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._client.close()

    def map(
        self,
        function: Callable[..., Result],
        tasks: Sequence[tuple[Any, ...]],
        *,
        name: str,
        limits: TaskLimits = TaskLimits(),  # noqa: B008
        on_report: OnReport = ignore_report,
        check: Check = no_check,
        each_by_itself: bool = False,
    ) -> Iterator[tuple[int, Result]]:
        """As Executor.map; reports are not forwarded, and workers set their own limits."""
        suspects = []
        for number, result in self._done(function, dict(enumerate(tasks)), name, check):
            if isinstance(result, TaskEnded) and result.reason is EndReason.KILLED:
                suspects.append(number)
            else:
                yield number, self._told(result, each_by_itself)
        # tasks queued at a dead worker fail with the running one, so retry each alone
        for number in suspects:
            for _, result in self._done(function, {number: tasks[number]}, name, check):
                yield number, self._told(result, each_by_itself)

    def _done(
        self, function: Callable[..., Result], tasks: Mapping[int, tuple[Any, ...]], name: str, check: Check
    ) -> Iterator[tuple[int, Any]]:
        # an equal task may still differ, as its files may have changed
        futures = {
            self._client.submit(_carried_out, function, task, pure=False): number for number, task in tasks.items()
        }
        left = set(futures)
        alone = _Alone()
        try:
            while left:
                check()
                try:
                    done = self._dask.wait(left, timeout=POLL, return_when="FIRST_COMPLETED").done
                except TimeoutError:
                    alone.look(self._client)
                    continue
                for future in done:
                    yield futures[future], self._result(future, name)
                left -= done
        finally:
            self._client.cancel(list(left))

    @staticmethod
    def _told(result: Any, each_by_itself: bool) -> Any:
        if isinstance(result, Exception) and not each_by_itself:
            raise result
        return result

    def _result(self, future: Any, name: str) -> Any:
        try:
            return future.result()
        except self._dask.KilledWorker:
            return TaskEnded(
                EndReason.KILLED, f"{name[:1].upper()}{name[1:]}: workers that had it ended {DEATHS} times."
            )
        except (Refusal, OSError) as error:
            return error
        except Exception as error:
            return TaskEnded(EndReason.FAULT, f"{name[:1].upper()}{name[1:]} ended: {type(error).__name__}: {error}.")


class _Alone:
    """Detects a scheduler without workers."""

    def __init__(self) -> None:
        self._looked = self._seen = time.monotonic()

    def look(self, client: Any) -> None:
        """Raise Refusal if it has had no worker for too long."""
        now = time.monotonic()
        if now - self._looked < LOOKED_FOR:
            return
        self._looked = now
        if client.nthreads():
            self._seen = now
        elif now - self._seen > MISSED_FOR:
            raise Refusal(
                "The cluster has no workers.", todo="Start some, and begin again: it goes on with what is left."
            )


def _carried_out(function: Callable[..., Result], task: tuple[Any, ...]) -> Result:
    """Run the task. Runs on the worker."""
    return function(_no_report, *task)


def _no_report(_kind: str, _value: Any) -> None:
    """Discard a report."""
