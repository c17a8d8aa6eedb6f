"""Columns for the public holidays of a place."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints, Moments
from zembra.core.projection.ahead import HolidayNames
from zembra.core.projection.calendareffects.wallclock import HOURS, days_of, hours_of, weekdays_of

NONE = -1


def names_in(holidays: HolidayNames, moments: Moments) -> tuple[str, ...]:
    """Return the names of the holidays from the first to the last moment, in order."""
    first, last = moments[[0, -1]].astype("datetime64[D]").astype(object)
    return tuple(sorted({name for day, name in _named(holidays, first, last).items() if first <= day <= last}))


def codes_of(holidays: HolidayNames, names: Sequence[str], days: Ints) -> Ints:
    """Return for each day the index of its holiday, len(names) for one of another name, or NONE.

    days: since 1970
    """
    codes = np.full(days.shape, NONE)
    if not days.size:
        return codes
    first, last = days.min().astype("datetime64[D]").astype(object), days.max().astype("datetime64[D]").astype(object)
    index = {name: n for n, name in enumerate(names)}
    for day, name in _named(holidays, first, last).items():
        codes[days == np.datetime64(day, "D").astype(np.int64)] = index.get(name, len(names))
    return codes


def brackets_of_days(holidays: HolidayNames, names: Sequence[str], moments: Moments) -> tuple[Floats, ...]:
    """Return columns for holidays together and apart, the days before and after, and holidays on a weekend."""
    days = days_of(moments)
    own, before, after = (codes_of(holidays, names, days + away) for away in (0, 1, -1))
    each = np.arange(len(names))
    weekend = weekdays_of(days) >= 5
    return (
        _mask(own != NONE),
        _apart(own, each),
        _mask(before != NONE),
        _mask(after != NONE),
        np.concatenate((_apart(before, each), _apart(after, each)), axis=1),
        _mask((own != NONE) & weekend),
    )


def brackets_of_hours(holidays: HolidayNames, names: Sequence[str], moments: Moments) -> tuple[Floats, ...]:
    """Return columns for holidays together, and for each of their hours."""
    own = codes_of(holidays, names, days_of(moments)) != NONE
    return _mask(own), _apart(np.where(own, hours_of(moments), NONE), np.arange(HOURS))


def brackets_of_weeks(holidays: HolidayNames, names: Sequence[str], moments: Moments) -> tuple[Floats, ...]:
    """Return how many days of each holiday a week holds."""
    codes = codes_of(holidays, names, days_of(moments)[:, None] + np.arange(7))
    return (np.stack([(codes == n).sum(axis=1) for n in range(len(names))], axis=1).astype(np.float64),)


def moments_of(holidays: HolidayNames, names: Sequence[str], moments: Moments, span: int) -> list[tuple[str, Moments]]:
    """Return for each holiday the moments whose periods hold it.

    span: days in a period
    """
    codes = codes_of(holidays, names, days_of(moments)[:, None] + np.arange(span))
    found = [(name, moments[(codes == n).any(axis=1)]) for n, name in enumerate(names)]
    return [(name, own) for name, own in found if own.size]


def _named(holidays: HolidayNames, first: date, last: date) -> dict[date, str]:
    return dict(holidays(first.year - 1, last.year + 1))


def _mask(where: np.ndarray) -> Floats:
    return np.asarray(where[:, None], dtype=np.float64)


def _apart(codes: Ints, each: Ints) -> Floats:
    return np.asarray(codes[:, None] == each, dtype=np.float64)
