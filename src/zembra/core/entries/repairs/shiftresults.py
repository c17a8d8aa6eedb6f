"""The level shifts of a series as a typed result, and their table."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zembra.core.arithmetic.shifts import LevelShift
from zembra.core.calendar.grain import Grain
from zembra.core.ledger.evidence import SERIES, Row, Table, measure, percent, period, table
from zembra.core.ledger.results import SeriesResult


@dataclass(frozen=True, slots=True)
class DatedShift:
    """A level shift and the first period after it.

    level: means on both sides, the step and its interval
    """

    period: int
    level: LevelShift


@dataclass(frozen=True, slots=True)
class SeriesShifts(SeriesResult):
    """The level shifts of a series, the earliest first.

    wave_may_pass: whether the series is so short that a yearly wave may be taken for a shift
    """

    shifts: tuple[DatedShift, ...]
    wave_may_pass: bool = False


def shift_table(title: str, results: Sequence[SeriesShifts], grain: Grain) -> Table:
    """Tabulate the shifts of all series."""
    columns = (
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
    return table(title, columns, [_row(found.series, shift, grain) for found in results for shift in found.shifts])


def _row(series: str, shift: DatedShift, grain: Grain) -> Row:
    level = shift.level
    share = 100 * level.size / abs(level.before) if level.before else None
    since = grain.label(shift.period)
    return (series, since, level.before, level.after, level.size, share, level.low, level.high, 100 * level.sure)
