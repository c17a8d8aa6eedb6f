"""Days, weekdays and hours of local moments."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Ints, Moments

HOURS = 24


def days_of(moments: Moments) -> Ints:
    """Return days since 1970."""
    return np.asarray(moments.astype("datetime64[D]").astype(np.int64))


def weekdays_of(days: Ints) -> Ints:
    """Return the weekdays of days since 1970, Monday 0."""
    # the first of them was a Thursday
    return np.asarray((days + 3) % 7)


def hours_of(moments: Moments) -> Ints:
    """Return the hour of the day."""
    return np.asarray(moments.astype("datetime64[h]").astype(np.int64) % HOURS)


def month_day_of(days: Ints) -> tuple[Ints, Ints]:
    """Return month and day of the month, both from 1, of days since 1970."""
    dates = days.astype("datetime64[D]")
    months = dates.astype("datetime64[M]")
    return months.astype(np.int64) % 12 + 1, (dates - months).astype(np.int64) + 1
