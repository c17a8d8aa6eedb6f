"""Columns of a regression on the calendar, by family."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints, Moments
from zembra.core.projection.ahead import CalendarRow, RowStep
from zembra.core.projection.calendareffects.publicholidays import (
    brackets_of_days,
    brackets_of_hours,
    brackets_of_weeks,
    moments_of,
)
from zembra.core.projection.calendareffects.wallclock import HOURS, days_of, hours_of, month_day_of, weekdays_of

A_YEAR = 365.25  # days
YEAR, TURN, WEEK = "the year", "the turn of the year", "the week"
PAIRS = {RowStep.DAY: 8, RowStep.WEEK: 6}  # of cosine and sine in the year
FEWEST = {RowStep.DAY: 547, RowStep.WEEK: 78, RowStep.HOUR: 672}  # values from which effects are looked for
TURN_OF_WEEKS = ((12, 20), (12, 27), (1, 3))  # days whose weeks are looked at, month and day
MONTHS = (
    "January", "February", "March", "April", "May", "June",
    "July", "August", "September", "October", "November", "December",
)  # fmt: skip
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


@dataclass(frozen=True, slots=True)
class Family:
    """Columns that are kept or dropped together.

    brackets: (time, columns) for each prior variance
    """

    name: str
    brackets: tuple[Floats, ...]


def lags_of(unit: RowStep, week: int) -> Ints:
    """Return the lags of the autoregression.

    week: periods per week, for days
    """
    if unit is RowStep.HOUR:
        return np.array([1, 2, 3, 23, 24, 25, 48])
    if unit is RowStep.WEEK:
        return np.arange(1, 5)
    return np.unique([*range(1, week + 2), 2 * week, 2 * week + 1])


def free_columns(unit: RowStep, moments: Moments) -> Floats:
    """Return the columns without a prior: a constant, a line, and the first season, over the history."""
    line = np.linspace(-1, 1, moments.size)
    if unit is RowStep.WEEK:
        return np.column_stack((np.ones(moments.size), line))
    season = hours_of(moments) if unit is RowStep.HOUR else weekdays_of(days_of(moments))
    return np.column_stack((line, _dummies(season, np.unique(season))))


def families(row: CalendarRow, moments: Moments, names: Sequence[str]) -> tuple[Family, ...]:
    """Return the families of a grain.

    names: of the public holidays that the history holds
    """
    step = row.step
    if step is RowStep.HOUR:
        found: tuple[Family, ...] = (_week_of_hours(moments),)
    elif step is RowStep.WEEK:
        found = (_year(moments, PAIRS[step]), _turn_of_weeks(moments))
    else:
        found = (_year(moments, PAIRS[step]), _turn_of_days(moments))
    if row.holidays is None or not names:
        return found
    return (*found, Family(holidays_of(row), _BRACKETS[step](row.holidays, names, moments)))


_BRACKETS = {RowStep.DAY: brackets_of_days, RowStep.HOUR: brackets_of_hours, RowStep.WEEK: brackets_of_weeks}


def holidays_of(row: CalendarRow) -> str:
    return f"public holidays of {row.place}"


def year_columns(moments: Moments, pairs: int) -> Floats:
    """Return cosines and sines of the year, pair k divided by k so that high ones are shrunken more."""
    angle = 2 * np.pi * moments.astype("datetime64[h]").astype(np.float64) / HOURS / A_YEAR
    return np.column_stack([wave(k * angle) / k for k in range(1, pairs + 1) for wave in (np.cos, np.sin)])


def occasions(row: CalendarRow, family: str, history: Moments, names: Sequence[str]) -> list[tuple[str, Moments]]:
    """Return the names of what a family tells apart, each with moments of it.

    history: the moments of the values
    """
    step = row.step
    if row.holidays is not None and family == holidays_of(row):
        apart = moments_of(row.holidays, names, history, 7 if step is RowStep.WEEK else 1)
        if step is not RowStep.HOUR:
            return apart
        return [("a public holiday", np.concatenate([own for _, own in apart]))]
    days = np.arange(np.datetime64("2001-01-01"), np.datetime64("2002-01-01"))
    month, day = month_day_of(days_of(days))
    if family == YEAR:
        firsts = days[::7] if step is RowStep.WEEK else days
        return [(MONTHS[n], firsts[month_day_of(days_of(firsts))[0] == n + 1]) for n in range(12)]
    if family == WEEK:
        hours = days[:7, None].astype("datetime64[h]") + np.arange(HOURS)
        return [(name, hours[n]) for n, name in enumerate(WEEKDAYS)]
    if step is RowStep.WEEK:
        # weeks that begin three days before
        starts = [days[(month == at[0]) & (day == at[1])] - np.timedelta64(3, "D") for at in TURN_OF_WEEKS]
        return [
            (f"week of {at[1]} {MONTHS[at[0] - 1]}", start) for at, start in zip(TURN_OF_WEEKS, starts, strict=True)
        ]
    turn = days[((month == 12) & (day >= 22)) | ((month == 1) & (day <= 3))]
    numbers = zip(*(part.tolist() for part in month_day_of(days_of(turn))), turn, strict=True)
    return [
        (f"{day} {MONTHS[month - 1]}", np.array([moment])) for month, day, moment in sorted(numbers, key=_from_winter)
    ]


def _from_winter(at: tuple[int, int, np.datetime64]) -> tuple[bool, int]:
    """Order days of December before those of January."""
    return at[0] == 1, at[1]


def _year(moments: Moments, pairs: int) -> Family:
    return Family(YEAR, (year_columns(moments, pairs),))


def _turn_of_days(moments: Moments) -> Family:
    """Return a column for each day from 22 December to 3 January."""
    month, day = month_day_of(days_of(moments))
    place = np.where(month == 12, day, np.where(month == 1, day + 31, 0))
    return Family(TURN, (_dummies(place, np.arange(22, 35)),))


def _turn_of_weeks(moments: Moments) -> Family:
    """Return a column for each week that holds a day of TURN_OF_WEEKS."""
    month, day = month_day_of(days_of(moments)[:, None] + np.arange(7))
    columns = [((month == at[0]) & (day == at[1])).any(axis=1) for at in TURN_OF_WEEKS]
    return Family(TURN, (np.column_stack(columns).astype(np.float64),))


def _week_of_hours(moments: Moments) -> Family:
    weekday, hour = weekdays_of(days_of(moments)), hours_of(moments)
    weekend = np.where(weekday >= 5, hour, -1)
    return Family(
        WEEK,
        (
            _dummies(weekday, np.arange(7)),
            _dummies(weekend, np.arange(HOURS)),
            _dummies(HOURS * weekday + hour, np.arange(7 * HOURS)),
        ),
    )


def _dummies(values: Ints, wanted: Ints) -> Floats:
    return np.asarray(values[:, None] == wanted, dtype=np.float64)
