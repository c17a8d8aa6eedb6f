"""Calendar units, and moments shifted by them."""

from __future__ import annotations

from typing import Literal

import numpy as np

from zembra.core.arithmetic.arrays import Moments
from zembra.core.grammar import Choice


class CalendarUnit(Choice):
    HOUR = ("hour", "hours")
    DAY = ("day", "days")
    WEEK = ("week", "weeks")
    MONTH = ("month", "months")
    QUARTER = ("quarter", "quarters")
    YEAR = ("year", "years")

    @property
    def months(self) -> int:
        """Months in one unit, 0 for units of days."""
        return {CalendarUnit.MONTH: 1, CalendarUnit.QUARTER: 3, CalendarUnit.YEAR: 12}.get(self, 0)


DayOrLonger = Literal[CalendarUnit.DAY, CalendarUnit.WEEK, CalendarUnit.MONTH, CalendarUnit.QUARTER, CalendarUnit.YEAR]


def shifted(at: Moments, count: int, unit: DayOrLonger) -> Moments:
    """Shift moments by calendar units; days past the end of a month become its last day."""
    if not unit.months:
        days = count * (7 if unit is CalendarUnit.WEEK else 1)
        return np.asarray(at + np.timedelta64(days * 86_400, "s"))
    months = at.astype("datetime64[M]")
    into = at - months.astype("datetime64[s]")
    moved = months + count * unit.months
    last = (moved + 1).astype("datetime64[s]") - moved.astype("datetime64[s]")
    day = np.timedelta64(86_400, "s")
    within = np.minimum(into // day, last // day - 1) * day + into % day
    return np.asarray(moved.astype("datetime64[s]") + within)
