"""Typed results of entries. Pictures, tables, files and watches are made from them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import TypeVar


@dataclass(frozen=True, slots=True)
class SeriesResult:
    """What an entry found out about one series. Each entry kind subclasses it.

    series: name of the series
    """

    series: str


R = TypeVar("R", bound=SeriesResult)


def results_of(results: Iterable[SeriesResult | None], kind: type[R]) -> list[R]:
    """Return the results of one class, in order."""
    return [result for result in results if isinstance(result, kind)]
