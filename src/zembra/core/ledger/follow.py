"""What follows from a level shift, whether it was found or marked by hand, and how changes are told."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from zembra.core.arithmetic.shifts import LevelShift
from zembra.core.calendar.complete import Expected
from zembra.core.calendar.grain import Grain, Unit
from zembra.core.calendar.lines import Condition, Line
from zembra.core.english import number
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice
from zembra.core.ledger.evidence import SERIES, Evidence, Row, Table, measure, percent, period

SHIFT_COLUMNS = (
    SERIES,
    period("from", "From"),
    measure("before", "Before"),
    measure("after", "After"),
    measure("size", "Size"),
    percent("percent", "Percent"),
    measure("low", "95 % from"),
    measure("high", "to"),
    percent("sure", "How sure, %"),
)
_YEAR = {Unit.HOUR: 8766.0, Unit.DAY: 365.25, Unit.WEEK: 52.18}


class Follow(Choice):
    AFRESH = ("afresh", "averages and bands start afresh")
    DIFFERENCE = ("difference", "the earlier part is lifted by the difference")
    RATIO = ("ratio", "the earlier part is lifted by the ratio")
    BEGIN = ("begin", "trend lines and projections start from it")


def points_per_year(expected: Expected) -> float | None:
    """How many expected periods a year holds; None where the season is the year, or there is none."""
    grain = expected.grain
    year = _YEAR.get(grain.unit)
    share = len(expected.weekdays) / 7 if grain.unit in (Unit.HOUR, Unit.DAY) else 1.0
    return year * share / grain.step if year else None


def followed(line: Line, shift: LevelShift, then: Sequence[Follow], by: str) -> Line:
    """The line after what follows from one shift. Raises Refusal where a ratio makes no sense."""
    period = int(line.periods[shift.place])
    if Follow.AFRESH in then:
        line = replace(line, afresh=tuple(sorted({*line.afresh, period})))
    if Follow.BEGIN in then:
        line = replace(line, begin=period if line.begin is None else max(line.begin, period))
    if Follow.DIFFERENCE in then:
        return _lifted(line, period, line.value + shift.size, by)
    if Follow.RATIO in then:
        if shift.before <= 0 or shift.before + shift.size <= 0:
            raise Refusal(
                "A ratio needs levels above zero before and after the shift.",
                place=f"{line.name}: {number(round(shift.before, 2))} before",
                todo="Lift by the difference instead.",
            )
        return _lifted(line, period, line.value * (1 + shift.size / shift.before), by)
    return line


def _lifted(line: Line, period: int, values: np.ndarray, by: str) -> Line:
    earlier = (line.periods < period) & ~np.isnan(line.value)
    measured = earlier & np.isin(line.condition, (Condition.MEASURED, Condition.ADJUSTED))
    filled = earlier & (line.condition == Condition.FILLED)
    return line.marked(measured, Condition.ADJUSTED, by, values).marked(filled, Condition.FILLED, by, values)


def shift_row(line: Line, shift: LevelShift, grain: Grain) -> Row:
    share = 100 * shift.size / abs(shift.before) if shift.before else None
    when = grain.label(int(line.periods[shift.place]))
    return (line.name, when, shift.before, shift.after, shift.size, share, shift.low, shift.high, 100 * shift.sure)


def signed(size: float) -> str:
    """+165, −12.5: a step as it is written beside its mark."""
    rounded = round(size) if abs(size) >= 20 else float(f"{size:.2g}")
    return f"{'+' if rounded >= 0 else ''}{number(rounded)}"


def from_below_zero(name: str, count: int) -> list[str]:
    """What is said of percent changes that start from a negative value."""
    if not count:
        return []
    return [f"{name}: {count} changes start below zero; their percent is of the size of that value, without its sign."]


@dataclass(frozen=True, slots=True)
class ToldShift:
    """A level shift as evidence tells it. since: the label of its first period."""

    series: str
    since: str
    after: float
    size: float


def shifts_told(evidence: Iterable[Evidence]) -> Iterator[ToldShift]:
    """Those of every table of level shifts."""
    for table in evidence:
        if isinstance(table, Table) and table.columns == SHIFT_COLUMNS:
            for row in table.rows:
                cells: dict[str, Any] = dict(zip((column.key for column in SHIFT_COLUMNS), row, strict=True))
                yield ToldShift(cells["series"], cells["from"], cells["after"], cells["size"])
