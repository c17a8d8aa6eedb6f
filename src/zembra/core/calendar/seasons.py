"""Lay a line out by expected periods, so that closed days do not shift its season."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints, found_at
from zembra.core.calendar.complete import Expected
from zembra.core.calendar.grain import Unit

_A_YEAR = {Unit.WEEK: 52, Unit.MONTH: 12, Unit.QUARTER: 4}


DAYS_A_WEEK = 7


def usual_season(expected: Expected) -> int | None:
    """How many expected periods the usual season holds: a day of hours, a week of days, a year of months.

    None where there is none that is usual, or where it holds no two whole periods.
    """
    grain = expected.grain
    if grain.unit in (Unit.MINUTE, Unit.HOUR):
        size = 86_400 / grain.seconds
    elif grain.unit is Unit.DAY:
        size = len(expected.weekdays) if grain.step == 1 else 0
    else:
        size = _A_YEAR.get(grain.unit, 0) / grain.step
    return int(size) if size >= 2 and size == int(size) else None


def usual_cycle(expected: Expected) -> int | None:
    """The same counted in periods of the grain, those that are not expected among them: a week of working days is seven
    long."""
    season = usual_season(expected)
    return DAYS_A_WEEK if season and expected.grain.unit is Unit.DAY else season


@dataclass(frozen=True, slots=True)
class EvenRow:
    """The points of a line laid out on every period that its weekdays expect, closed days too.

    Counting along it is counting in the calendar: the same place of the next season is a season's
    length on, whatever day was closed. periods: the row. at: the place of each point of the line on it,
    -1 for a point on a weekday that is not expected.
    """

    periods: Ints
    at: Ints

    @property
    def _on(self) -> Bools:
        return np.asarray(self.at >= 0)

    def spread(self, values: Floats) -> Floats:
        """Values of the line's points on the row; NaN where the line has no point."""
        out = np.full(self.periods.size, np.nan)
        out[self.at[self._on]] = values[self._on]
        return out

    def gather(self, on_row: Floats) -> Floats:
        """Values on the row for the line's points; NaN for points that are not on it."""
        return np.where(self._on, on_row[np.maximum(self.at, 0)], np.nan) if self.periods.size else np.full(0, np.nan)

    def place_of(self, place: int) -> int:
        """The place in the line of the first point at or after a place on the row."""
        return int(np.argmax(np.where(self._on, self.at, -1) >= place))


def even_row(expected: Expected, periods: Ints) -> EvenRow:
    """The row that the points of a line lie on. periods: of a line, increasing. Dates as they come are a row of their
    own."""
    if periods.size == 0 or expected.grain.unit is Unit.MOMENT:
        return EvenRow(periods, np.arange(periods.size))
    every = np.arange(int(periods[0]), int(periods[-1]) + 1, dtype=np.int64)
    row = every[expected.usual(every)]
    place, on = found_at(row, periods)
    return EvenRow(row, np.where(on, place, -1))
