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
    """Return the expected periods in the usual season: a day of hours, a week of days, a year of months. None if
    there is none or it holds less than two periods.
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
    """Return the usual season in calendar periods, unexpected ones included: a week of working days has seven."""
    season = usual_season(expected)
    return DAYS_A_WEEK if season and expected.grain.unit is Unit.DAY else season


@dataclass(frozen=True, slots=True)
class EvenRow:
    """The points of a line on a row of all periods of expected weekdays, closed days included, so that positions in
    a season stay fixed.

    periods: the row
    at: index on the row of each point, -1 for unexpected weekdays
    """

    periods: Ints
    at: Ints

    @property
    def _on(self) -> Bools:
        return np.asarray(self.at >= 0)

    def spread(self, values: Floats) -> Floats:
        """Return values of the line on the row; NaN for others."""
        out = np.full(self.periods.size, np.nan)
        out[self.at[self._on]] = values[self._on]
        return out

    def gather(self, on_row: Floats) -> Floats:
        """Return values of the row at the line's points; NaN for those off the row."""
        return np.where(self._on, on_row[np.maximum(self.at, 0)], np.nan) if self.periods.size else np.full(0, np.nan)

    def place_of(self, place: int) -> int:
        """Return the index in the line of the first point at or after an index on the row."""
        return int(np.argmax(np.where(self._on, self.at, -1) >= place))


def even_row(expected: Expected, periods: Ints) -> EvenRow:
    """Return the row for the points of a line. Irregular dates are their own row.

    periods: ascending
    """
    if periods.size == 0 or expected.grain.unit is Unit.MOMENT:
        return EvenRow(periods, np.arange(periods.size))
    every = np.arange(int(periods[0]), int(periods[-1]) + 1, dtype=np.int64)
    row = every[expected.usual(every)]
    place, on = found_at(row, periods)
    return EvenRow(row, np.where(on, place, -1))
