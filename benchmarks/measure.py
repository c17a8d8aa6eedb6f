"""Timing two things in turns and comparing their medians."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Ratio:
    """value: ours over theirs. most: what it may be."""

    name: str
    value: float
    most: float
    detail: str

    @property
    def holds(self) -> bool:
        return self.value <= self.most

    def told(self) -> str:
        verdict = "ok" if self.holds else "OVER"
        return f"{verdict:4} {self.value:7.3f} (at most {self.most}) {self.name}: {self.detail}"


def compare(name: str, most: float, ours: Callable[[], object], theirs: Callable[[], object], rounds: int = 5) -> Ratio:
    """The two take turns, so that a busy moment of the machine hits both; medians are compared."""
    ours_times, their_times = [], []
    theirs()
    ours()
    for _ in range(rounds):
        their_times.append(seconds(theirs))
        ours_times.append(seconds(ours))
    a, b = statistics.median(ours_times), statistics.median(their_times)
    return Ratio(name, a / b, most, f"{a * 1000:.1f} ms against {b * 1000:.1f} ms, median of {rounds}")


def seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start
