"""Aggregate a line to a coarser grain, and tell how much of each period is covered."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints, Moments
from zembra.core.calendar.complete import Combine, Expected, combined_values, new_line
from zembra.core.calendar.grain import DAY, Grain, Unit
from zembra.core.calendar.lines import Condition, Line, Received

WEEK_DAYS = 7


@dataclass(frozen=True, slots=True)
class Coarse:
    """A line on a coarser grain, with counts for each of its periods.

    parts: expected parts
    have: expected parts with a number
    more: unexpected parts with a number, such as a Saturday among working days
    split: whether a week across its edge was shared by days
    """

    line: Line
    parts: Floats
    have: Floats
    more: Floats
    split: Bools

    @property
    def covered(self) -> Bools:
        return np.asarray((self.have >= self.parts) & (self.have + self.more > 0))

    @property
    def partly(self) -> Bools:
        return np.asarray(~self.covered & (self.have + self.more > 0))

    @property
    def factor(self) -> Floats:
        """The factor that scales a sum to all expected parts."""
        used = self.have + self.more
        return (self.parts + self.more) / np.where(used > 0, used, 1)


def coarser(
    line: Line, expected: Expected, grain: Grain, combine: Combine, *, closed: bool = False, week_day: int | None = 0
) -> Coarse:
    """Aggregate a line. A part counts if it has a counted value. Parts outside the line are expected too, so that a
    month that begins in its middle is partly covered.

    closed: whether periods without a row are not expected, so that only the line's own periods are
    week_day: the day of a week (0 to 6) that decides where it belongs; None shares it by days
    """
    if len(line) == 0:
        nothing = np.zeros(0)
        return Coarse(line, nothing, nothing, nothing, nothing.astype(bool))
    if expected.grain.unit is Unit.WEEK and expected.grain.step == 1 and week_day is None:
        return _shared_weeks(line, expected.grain, grain, combine)
    ahead = np.timedelta64(week_day or 0, "D") if expected.grain.unit is Unit.WEEK else np.timedelta64(0, "D")
    periods = grain.periods(_belonging(expected.grain, grain, line.periods) + ahead)
    starts = np.concatenate(([0], np.flatnonzero(np.diff(periods)) + 1))
    count = np.diff(np.append(starts, periods.size)).astype(np.int32)
    values = line.counted
    has = ~np.isnan(values)
    usual = expected.days(line.periods)
    total = combined_values(values, starts, count, combine)
    every = np.add.reduceat(has.astype(np.int64), starts)
    if combine is Combine.COUNT:
        total = np.where(every > 0, every.astype(np.float64), np.nan)
    have = np.add.reduceat((has & usual).astype(np.int64), starts)
    parts = _parts(periods[starts], expected, grain, ahead, line.periods if closed else None)
    adds = combine in (Combine.SUM, Combine.COUNT)
    quantity = line.quantity if adds else line.quantity.per(expected.grain.singular)
    made = replace(_put_together(line, periods[starts], starts, total, has), quantity=quantity)
    return Coarse(made, parts, have, every - have, np.zeros(starts.size, dtype=bool))


def _belonging(fine: Grain, grain: Grain, periods: Ints) -> Moments:
    """Return the moments that assign periods: by local time, unless both grains use standard time."""
    return fine.starts(periods) if grain.zone else fine.days(periods)


def _put_together(line: Line, periods: Ints, starts: Ints, total: Floats, has: Bools) -> Line:
    """Return the aggregated line. Periods of decided zeros or of estimates stay filled."""
    measured = has & (line.received == Received.MEASURED)
    some = np.logical_or.reduceat(has, starts)
    any_measured = np.logical_or.reduceat(measured, starts)
    worst = np.minimum.reduceat(np.where(line.received == Received.MEASURED, Received.BLANK, line.received), starts)
    received = np.where(any_measured, np.uint8(Received.MEASURED), worst).astype(np.uint8)
    rows = np.add.reduceat(line.row_count, starts)
    far = np.iinfo(np.int64).max
    first_row = np.minimum.reduceat(np.where(line.first_row >= 0, line.first_row, far), starts)
    made = new_line(line.name, periods, total, received, np.where(rows > 0, first_row, -1), rows.astype(np.int32))
    decided = line.condition == Condition.FILLED
    zero = decided & (line.value == 0) & (line.received == Received.ABSENT)
    estimated = np.logical_or.reduceat(decided & ~zero, starts) | (some & ~any_measured)
    adjusted = np.logical_or.reduceat(line.condition == Condition.ADJUSTED, starts) & ~estimated
    by = np.maximum.reduceat(np.where(decided | (line.condition == Condition.ADJUSTED), line.entry, 0), starts)
    condition = np.where(estimated, Condition.FILLED, np.where(adjusted, Condition.ADJUSTED, made.condition))
    condition = np.where(some, condition, Condition.OPEN).astype(np.uint8)
    return replace(
        made, condition=condition, entry=np.where(estimated | adjusted, by, 0).astype(np.uint8), entries=line.entries
    )


def _shared_weeks(line: Line, weeks: Grain, grain: Grain, combine: Combine) -> Coarse:
    """Spread each week over its days: a sum in equal shares, anything else unchanged."""
    first = weeks.starts(line.periods).astype("datetime64[D]").astype(np.int64)
    days = (first[:, None] + np.arange(WEEK_DAYS)).reshape(-1)
    share = WEEK_DAYS if combine in (Combine.SUM, Combine.COUNT) else 1

    def daily(values: np.ndarray) -> np.ndarray:
        return np.repeat(values, WEEK_DAYS)

    each = line.part(np.repeat(np.arange(len(line)), WEEK_DAYS))
    value = np.where(np.isnan(each.value), np.nan, 1.0) if combine is Combine.COUNT else each.value
    rows = np.where(np.arange(days.size) % WEEK_DAYS == 0, daily(line.row_count), 0).astype(np.int32)
    on_days = replace(each, periods=days, value=value / share, row_count=rows)
    by = Combine.SUM if combine is Combine.COUNT else combine
    made = coarser(on_days, Expected(DAY), grain, by)
    across = grain.periods(first.astype("datetime64[D]").astype("datetime64[s]")) != grain.periods(
        (first + WEEK_DAYS - 1).astype("datetime64[D]").astype("datetime64[s]")
    )
    edges = np.unique(grain.periods(days[daily(across)].astype("datetime64[D]").astype("datetime64[s]")))
    return replace(made, split=np.isin(made.line.periods, edges) & ~np.isnan(made.line.value))


def _parts(periods: Ints, expected: Expected, grain: Grain, ahead: np.timedelta64, own: Ints | None) -> Floats:
    """Return the expected parts of each coarse period, by the calendar, or within the periods of `own` only."""
    fine = expected.grain
    low, high = grain.starts(periods[:1]), grain.starts(periods[-1:] + 1)
    # extend both ends, as local time may differ and a week may belong elsewhere
    room = np.timedelta64(1 + WEEK_DAYS, "D")
    every = np.arange(int(fine.periods(low - room)[0]), int(fine.periods(high + room)[0]) + 1, dtype=np.int64)
    of = grain.periods(_belonging(fine, grain, every) + ahead)
    wanted = expected.days(every)
    if own is not None:
        wanted &= np.isin(every, own) | (every < own[0]) | (every > own[-1])
    at = np.searchsorted(periods, of)
    inside = wanted & (at < periods.size)
    inside[inside] &= periods[at[inside]] == of[inside]
    return np.bincount(at[inside], minlength=periods.size).astype(np.float64)
