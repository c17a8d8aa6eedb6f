"""Complete a series to its calendar: one point for each expected period."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise

import numpy as np
import polars as pl

from zembra.core.arithmetic.arrays import Bools, Codes, Counts, Floats, Ints
from zembra.core.calendar.grain import MOST_STAMPS, Grain, Unit
from zembra.core.calendar.lines import NO_ENTRY, Condition, Line, Received
from zembra.core.grammar import Choice

# plain numbers: comparing an array with an enum's member is slow, and lines may be many
NEAR = 0.2  # of a step: how far a stamp may be off it
MEASURED = Received.MEASURED.value
OPEN = np.uint8(Condition.OPEN)


class Combine(Choice):
    """How rows of one period and series combine."""

    SUM = ("sum", "adds up", "sum")
    MEAN = ("mean", "averages", "arithmetic mean")
    MEDIAN = ("median", "takes the middle value of", "median")
    FIRST = ("first", "takes the first of")
    LAST = ("last", "takes the last of")
    MIN = ("min", "takes the smallest of", "minimum")
    MAX = ("max", "takes the largest of", "maximum")
    COUNT = ("count", "counts the rows with", "count")


class Absent(Choice):
    """The meaning of an expected period without a row."""

    UNKNOWN = ("unknown", "not known", "the line is open there")
    ZERO = ("zero", "nothing happened, zero", "the period gets a zero, marked as filled")
    CLOSED = ("closed", "closed, not expected", "the period leaves the calendar")


class Span(Choice):
    """The range to which series are completed."""

    OWN = ("own", "each series' own first row")
    WHOLE = ("whole", "the first row of any series")
    COMMON = ("common", "where every series has begun")
    GIVEN = ("given", "a given day")


class Until(Choice):
    OWN = ("own", "its last row")
    WHOLE = ("whole", "the last row of any series")
    COMMON = ("common", "where the first series ends")
    AS_OF = ("as-of", "the as-of date")
    GIVEN = ("given", "a given day")


@dataclass(frozen=True, slots=True)
class Expected:
    """Which periods are expected.

    weekdays: expected weekdays, Monday 0
    closed: days on which nothing is expected
    at_end: whether a period is drawn at its end
    """

    grain: Grain
    weekdays: tuple[int, ...] = (0, 1, 2, 3, 4, 5, 6)
    closed: frozenset[date] = frozenset()
    at_end: bool = False

    def days(self, periods: Ints) -> Bools:
        """Return a mask of expected periods."""
        wanted = self.usual(periods)
        if self.closed and self._daily:
            days = self.grain.days(periods).astype("datetime64[D]")
            wanted &= ~np.isin(days, np.array(sorted(self.closed), dtype="datetime64[D]"))
        return wanted

    def usual(self, periods: Ints) -> Bools:
        """Return a mask of periods on expected weekdays, closed days included."""
        if len(self.weekdays) == 7 or not self._daily:
            return np.ones(periods.size, dtype=bool)
        return np.isin(self.grain.weekdays(periods), self.weekdays)

    @property
    def _daily(self) -> bool:
        """Whether a period is a day or part of one."""
        return self.grain.seconds <= 86_400 and self.grain.unit is not Unit.MOMENT

    def following(self, period: int, count: int) -> Ints:
        """Return the next `count` expected periods after `period`."""
        found = np.zeros(0, dtype=np.int64)
        start, size = period + 1, count
        while found.size < count:
            ahead = np.arange(start, start + size, dtype=np.int64)
            found = np.concatenate((found, ahead[self.days(ahead)]))
            start, size = start + size, size * 2
        return found[:count]


@dataclass(frozen=True, slots=True)
class Range:
    """The range of completion. Trailing periods without a number after `as_of` have not happened, and are cut.

    start, end: for ranges with given days
    """

    as_of: date
    span: Span = Span.OWN
    until: Until = Until.OWN
    start: date | None = None
    end: date | None = None


@dataclass(frozen=True, slots=True)
class _Grouped:
    """One element for each (series, period), in that order."""

    code: Ints
    period: Ints
    value: Floats
    received: Codes
    first_row: Ints
    row_count: Counts


_PICKS: dict[Combine, Callable[[Floats], float]] = {
    Combine.FIRST: lambda group: float(group[0]),
    Combine.LAST: lambda group: float(group[-1]),
    Combine.MEDIAN: lambda group: float(np.median(group)),
}


def moments_for(frame: pl.DataFrame, grain: Grain) -> pl.DataFrame:
    """Return observations with moments that identify periods. Days are local days. Stamps a few seconds off a step
    of minutes or hours are snapped to it.
    """
    if grain.seconds >= 86_400 and grain.unit is not Unit.MOMENT:
        return frame.with_columns(when="wall") if "wall" in frame.columns else frame
    if grain.unit not in (Unit.MINUTE, Unit.HOUR) or not frame.height:
        return frame
    size = int(grain.seconds) * 1000
    stamps = frame["when"].to_physical()
    off = stamps % size
    if not bool((off % 60_000 != 0).any()):
        return frame
    moved = pl.select(pl.when(off * 2 >= size).then(size - off).otherwise(-off)).to_series()
    near = float((moved.abs() <= NEAR * size).mean() or 0.0)  # type: ignore[arg-type]
    if near < MOST_STAMPS:
        return frame
    return frame.with_columns(when=(stamps + moved).cast(pl.Datetime("ms")))


def complete(
    frame: pl.DataFrame,
    names: Sequence[str],
    expected: Expected,
    span: Range,
    combine: Combine,
    absent: Callable[[str], Absent],
    entry_id: str,
    exceptions: Mapping[str, Combine] | None = None,
) -> list[Line]:
    """Return a Line for each name, in order; empty for names without dated rows.

    frame: observations of one measure (see intake.observe)
    absent: the meaning of a period without a row, by series
    entry_id: of the calendar entry
    exceptions: series whose rows combine in another way
    """
    others = {names.index(name): how for name, how in (exceptions or {}).items() if name in names}
    grouped = _group(frame, expected.grain, combine, others)
    edges = np.searchsorted(grouped.code, np.arange(len(names) + 1)).tolist()
    ends = [(int(grouped.period[a]), int(grouped.period[b - 1])) for a, b in pairwise(edges) if b > a]
    limits = _limits(ends, expected.grain, span)
    return [
        _line(name, grouped, first, last, expected, limits, absent(name), entry_id)
        for name, (first, last) in zip(names, pairwise(edges), strict=True)
    ]


def _limits(ends: list[tuple[int, int]], grain: Grain, span: Range) -> tuple[int | None, int | None, int]:
    """Return first period, last period, and last period begun by the as-of date; None for a series' own."""
    today = grain.period(span.as_of)
    if not ends:
        return None, None, today
    low = {
        Span.OWN: None,
        Span.WHOLE: min(a for a, _ in ends),
        Span.COMMON: max(a for a, _ in ends),
        Span.GIVEN: grain.span(span.start)[0] if span.start else None,
    }[span.span]
    high = {
        Until.OWN: None,
        Until.WHOLE: max(b for _, b in ends),
        Until.COMMON: min(b for _, b in ends),
        Until.AS_OF: grain.span(span.as_of)[1],
        Until.GIVEN: grain.span(span.end)[1] if span.end else None,
    }[span.until]
    return low, high, today


def _group(frame: pl.DataFrame, grain: Grain, combine: Combine, others: Mapping[int, Combine]) -> _Grouped:
    """Group rows by series and period.

    others: codes of series that combine in another way
    """
    code = frame["series"].to_numpy().astype(np.int64)
    period = grain.periods(frame["when"].to_physical().to_numpy().view("datetime64[ms]"))
    value = frame["value"].fill_null(np.nan).to_numpy()
    received = frame["received"].to_numpy()
    place = np.arange(period.size, dtype=np.int64)
    if period.size == 0:
        return _Grouped(code, period, value, received, place, np.zeros(0, dtype=np.int32))
    low = int(period.min())
    key = code * (int(period.max()) - low + 1) + (period - low)
    order = None if bool(np.all(key[1:] > key[:-1])) else _order(key)
    if order is not None:
        code, period, key = code.take(order), period.take(order), key.take(order)
        value, received, place = value.take(order), received.take(order), order
    begins = key[1:] != key[:-1]
    counting = combine is Combine.COUNT
    if begins.all() and not counting:
        return _Grouped(code, period, value, received, place, np.ones(key.size, dtype=np.int32))
    starts = np.concatenate(([0], np.flatnonzero(begins) + 1))
    count = np.diff(np.append(starts, key.size)).astype(np.int32)
    combined = combined_values(value, starts, count, combine)
    for how in set(others.values()):
        ours = np.isin(code[starts], [other_name for other_name, other in others.items() if other is how])
        combined = np.where(ours, combined_values(value, starts, count, how), combined)
    worst = np.maximum.reduceat(np.where(received == Received.MEASURED, 0, received), starts)
    any_measured = np.maximum.reduceat((received == Received.MEASURED).astype(np.uint8), starts).astype(bool)
    if counting:
        any_measured = np.ones(starts.size, dtype=bool)
    return _Grouped(
        code[starts],
        period[starts],
        combined,
        np.where(any_measured, Received.MEASURED, worst).astype(np.uint8),
        np.minimum.reduceat(place, starts),
        count,
    )


def _order(key: Ints) -> Ints:
    """Return a stable sort order of keys, by counting where keys are dense and distinct."""
    size = int(key.max()) + 1
    if size <= 4 * key.size:
        slot = np.full(size, -1, dtype=np.int32)
        slot[key] = np.arange(key.size, dtype=np.int32)
        order = slot[slot >= 0]
        if order.size == key.size:
            return order.astype(np.int64)
    return np.asarray(np.argsort(key, kind="stable"), dtype=np.int64)


def combined_values(value: Floats, starts: Ints, count: Counts, combine: Combine) -> Floats:
    """Combine consecutive groups of values, ignoring NaN. A group without numbers gives NaN, except that COUNT
    counts rows.

    starts, count: start and size of each group
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


def _line(
    name: str,
    grouped: _Grouped,
    first: int,
    last: int,
    expected: Expected,
    limits: tuple[int | None, int | None, int],
    absent: Absent,
    entry_id: str,
) -> Line:
    have = grouped.period[first:last]
    if limits[:2] == (None, None) and _every_period(have, grouped.received[first:last]):
        # nothing to spread, nothing that is not expected, and the last has happened
        ours = slice(first, last)
        return new_line(
            name, have, grouped.value[ours], grouped.received[ours], grouped.first_row[ours], grouped.row_count[ours]
        )
    low = limits[0] if limits[0] is not None else (int(have[0]) if have.size else 0)
    high = limits[1] if limits[1] is not None else (int(have[-1]) if have.size else low - 1)
    inside = (have >= low) & (have <= high)
    have = have[inside]
    came = grouped.received[first:last][inside]
    high = min(high, _last_happened(have, came, limits[2], high))
    inside_now = have <= high
    have, came = have[inside_now], came[inside_now]
    pick: Ints | slice = slice(first, last)
    if have.size < last - first:
        pick = np.arange(first, last)[inside][inside_now]
    if expected.grain.unit is Unit.MOMENT:
        periods, places = have, np.arange(have.size)
    else:
        periods = np.arange(low, high + 1, dtype=np.int64)
        places = have - low

    def spread(values: np.ndarray, empty: float) -> np.ndarray:
        out = np.full(periods.size, empty, dtype=values.dtype)
        out[places] = values
        return out

    value = spread(grouped.value[pick], np.nan)
    received = spread(came, Received.ABSENT)
    first_row = spread(grouped.first_row[pick], -1)
    row_count = spread(grouped.row_count[pick], 0)
    present = row_count > 0
    wanted = present if absent is Absent.CLOSED else present | expected.days(periods)
    if not bool(wanted.all()):
        periods, value, received = periods[wanted], value[wanted], received[wanted]
        first_row, row_count = first_row[wanted], row_count[wanted]
    line = new_line(name, periods, value, received, first_row, row_count)
    if absent is Absent.ZERO:
        nothing: Bools = received == Received.ABSENT
        if bool(nothing.any()):
            line = line.marked(nothing, Condition.FILLED, entry_id, np.zeros(periods.size))
    return line


def _every_period(have: Ints, came: Codes) -> bool:
    """Return whether every period from first to last has a row, and the last a number."""
    return bool(have.size and have[-1] - have[0] + 1 == have.size and came[-1] == MEASURED)


def _last_happened(have: Ints, came: Codes, today: int, high: int) -> int:
    """Return the last period; periods after the as-of date without a number have not happened."""
    if came.size and came[-1] == MEASURED:
        return high if int(have[-1]) >= high else max(int(have[-1]), min(high, today))
    measured = have[came == MEASURED]
    last = int(measured[-1]) if measured.size else -(2**62)
    return high if last >= high else max(last, min(high, today))


def new_line(name: str, periods: Ints, value: Floats, received: Codes, first_row: Ints, row_count: Counts) -> Line:
    """Return a fresh line: measured or open, nothing decided."""
    return Line(
        name=name,
        periods=periods,
        value=value,
        original=value,
        received=received,
        condition=(received != MEASURED).astype(np.uint8) * OPEN,
        entry=np.zeros(periods.size, dtype=np.uint8),
        bridged=np.zeros(periods.size, dtype=bool),
        first_row=first_row,
        row_count=row_count,
        entries=(NO_ENTRY,),
    )
