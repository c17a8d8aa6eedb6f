"""Putting observations on a calendar: one point per expected period, with what was received."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np
import polars as pl

from zembra.core.arrays import Bools, Codes, Counts, Floats, Ints
from zembra.core.calendar.grain import Grain
from zembra.core.grammar import Choice
from zembra.core.lines import NO_ENTRY, Condition, Line, Received


class Combine(Choice):
    """What rows that share a period and a series become."""

    SUM = ("sum", "adds up", "sum")
    MEAN = ("mean", "averages", "arithmetic mean")
    MEDIAN = ("median", "takes the middle value of", "median")
    FIRST = ("first", "takes the first of")
    LAST = ("last", "takes the last of")
    MIN = ("min", "takes the smallest of", "minimum")
    MAX = ("max", "takes the largest of", "maximum")
    COUNT = ("count", "counts the rows with", "count")


class Absent(Choice):
    """What an expected period without a row means."""

    UNKNOWN = ("unknown", "not known", "the line is open there")
    ZERO = ("zero", "nothing happened, zero", "the period gets a zero, marked as filled")
    CLOSED = ("closed", "closed, not expected", "the period leaves the calendar")


@dataclass(frozen=True, slots=True)
class Expected:
    """Which periods are expected.

    weekdays: the weekdays (Monday 0) on which a day or a part of one is expected.
    start, end: a fixed range, or None for each series' own first and last row.
    """

    grain: Grain
    weekdays: tuple[int, ...] = (0, 1, 2, 3, 4, 5, 6)
    start: date | None = None
    end: date | None = None

    def days(self, periods: Ints) -> Bools:
        """Which of the periods are expected, by their weekday."""
        if len(self.weekdays) == 7 or self.grain.seconds > 86_400:
            return np.ones(periods.size, dtype=bool)
        return np.isin(self.grain.weekdays(periods), self.weekdays)

    def following(self, period: int, count: int) -> Ints:
        """The next `count` expected periods after `period`."""
        ahead = np.arange(period + 1, period + 1 + count * 7 + 7 * 86_400 // int(min(self.grain.seconds, 86_400)))
        return ahead[self.days(ahead)][:count]


_PICKS: dict[Combine, Callable[[Floats], float]] = {
    Combine.FIRST: lambda group: float(group[0]),
    Combine.LAST: lambda group: float(group[-1]),
    Combine.MEDIAN: lambda group: float(np.median(group)),
}


@dataclass(frozen=True, slots=True)
class _Grouped:
    """One element per distinct (series, period), ordered by series and then period."""

    code: Ints
    period: Ints
    value: Floats
    received: Codes
    first_row: Ints
    row_count: Counts


def complete(
    frame: pl.DataFrame,
    names: Sequence[str],
    expected: Expected,
    combine: Combine,
    absent: Absent,
    by: str,
) -> list[Line]:
    """A Line per name, in order; a name without any dated row gives an empty Line.

    frame: observations of one measure (see intake.observe). by: id of the entry that decides what
    an absent period means.
    """
    grouped = _group(frame, expected.grain, combine)
    edges = np.searchsorted(grouped.code, np.arange(len(names) + 1))
    return [
        _line(name, grouped, int(edges[n]), int(edges[n + 1]), expected, absent, by) for n, name in enumerate(names)
    ]


def _group(frame: pl.DataFrame, grain: Grain, combine: Combine) -> _Grouped:
    code = frame["series"].to_numpy().astype(np.int64)
    moments = frame["when"].to_physical().to_numpy().astype("datetime64[ms]").astype("datetime64[s]")
    period = grain.periods(moments)
    value = frame["value"].fill_null(np.nan).to_numpy()
    received = frame["received"].to_numpy()
    place = np.arange(period.size, dtype=np.int64)
    if period.size == 0:
        return _Grouped(code, period, value, received, place, np.zeros(0, dtype=np.int32))
    low = int(period.min())
    key = code * (int(period.max()) - low + 1) + (period - low)
    steps = np.diff(key)
    if not np.all(steps > 0):
        order = np.argsort(key, kind="stable")
        key, code, period = key[order], code[order], period[order]
        value, received, place = value[order], received[order], place[order]
        steps = np.diff(key)
    starts = np.concatenate(([0], np.flatnonzero(steps) + 1))
    count = np.diff(np.append(starts, key.size)).astype(np.int32)
    if starts.size == key.size and combine is not Combine.COUNT:
        return _Grouped(code, period, value, received, place, count)
    combined = combined_values(value, starts, count, combine)
    worst = np.maximum.reduceat(np.where(received == Received.MEASURED, 0, received), starts)
    any_measured = np.maximum.reduceat((received == Received.MEASURED).astype(np.uint8), starts).astype(bool)
    if combine is Combine.COUNT:
        any_measured = np.ones(starts.size, dtype=bool)
    return _Grouped(
        code[starts],
        period[starts],
        combined,
        np.where(any_measured, Received.MEASURED, worst).astype(np.uint8),
        np.minimum.reduceat(place, starts),
        count,
    )


def combined_values(value: Floats, starts: Ints, count: Counts, combine: Combine) -> Floats:
    """Combine consecutive groups of values; blanks inside a group are passed over.

    starts, count: where each group begins and how many elements it has. A group without any number
    gives NaN, whatever the rule, except that COUNT counts rows.
    """
    has = ~np.isnan(value)
    used = np.add.reduceat(has.astype(np.int64), starts)
    if combine is Combine.COUNT:
        return count.astype(np.float64)
    if combine in (Combine.SUM, Combine.MEAN):
        total = np.add.reduceat(np.where(has, value, 0.0), starts)
        out = total if combine is Combine.SUM else total / np.maximum(used, 1)
    elif combine is Combine.MIN:
        out = np.minimum.reduceat(np.where(has, value, np.inf), starts)
    elif combine is Combine.MAX:
        out = np.maximum.reduceat(np.where(has, value, -np.inf), starts)
    else:
        out = value[starts].copy()
        pick = _PICKS[combine]
        for n in np.flatnonzero(count > 1):
            group = value[starts[n] : starts[n] + count[n]]
            group = group[~np.isnan(group)]
            if group.size:
                out[n] = pick(group)
    return np.where(used > 0, out, np.nan)


def _line(name: str, grouped: _Grouped, first: int, last: int, expected: Expected, absent: Absent, by: str) -> Line:
    grain = expected.grain
    have = grouped.period[first:last]
    low = grain.period(expected.start) if expected.start else (int(have[0]) if have.size else 0)
    high = grain.period(expected.end) if expected.end else (int(have[-1]) if have.size else low - 1)
    inside = (have >= low) & (have <= high)
    have = have[inside]
    periods = np.arange(low, high + 1, dtype=np.int64)
    present = np.zeros(periods.size, dtype=bool)
    present[have - low] = True
    if absent is Absent.CLOSED:
        wanted = present
    else:
        wanted = present | expected.days(periods)
    spread = np.full(periods.size, np.nan)
    spread[have - low] = grouped.value[first:last][inside]
    received = np.full(periods.size, Received.ABSENT, dtype=np.uint8)
    received[have - low] = grouped.received[first:last][inside]
    first_row = np.full(periods.size, -1, dtype=np.int64)
    first_row[have - low] = grouped.first_row[first:last][inside]
    row_count = np.zeros(periods.size, dtype=np.int32)
    row_count[have - low] = grouped.row_count[first:last][inside]
    if not bool(wanted.all()):
        periods, spread, received = periods[wanted], spread[wanted], received[wanted]
        first_row, row_count = first_row[wanted], row_count[wanted]
    condition = np.where(received == Received.MEASURED, Condition.MEASURED, Condition.OPEN).astype(np.uint8)
    line = Line(
        name=name,
        periods=periods,
        value=spread,
        original=spread,
        received=received,
        condition=condition,
        entry=np.zeros(periods.size, dtype=np.uint8),
        bridged=np.zeros(periods.size, dtype=bool),
        first_row=first_row,
        row_count=row_count,
        entries=(NO_ENTRY,),
    )
    if absent is Absent.ZERO:
        nothing: Bools = received == Received.ABSENT
        if bool(nothing.any()):
            line = line.marked(nothing, Condition.FILLED, by, np.zeros(periods.size))
    return line
