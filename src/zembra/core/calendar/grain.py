"""A grain is the size of one period; a period is an integer, counted from 1970, on a grain.

Periods are integers so that "the next period", "28 periods back" and "the same period a season
before" are plain arithmetic whatever the calendar does with months, leap days and clock changes.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, time
from enum import StrEnum

import numpy as np

from zembra.core.arrays import Ints, Moments
from zembra.core.errors import Refusal

MOST_MONTHS = 0.75  # share of months with a date from which dates scattered over months are monthly
FEW_DAYS = 0.1  # share of days with a date below which dates that fit no grain are irregular
EPOCH_WEEKDAY = 3  # 1970-01-01 was a Thursday; Monday is 0


class Unit(StrEnum):
    MINUTE = "minute"
    HOUR = "hour"
    DAY = "day"
    WEEK = "week"
    MONTH = "month"
    QUARTER = "quarter"
    YEAR = "year"
    MOMENT = "moment"  # irregular: every distinct second is a period of its own


_SECONDS = {Unit.MINUTE: 60, Unit.HOUR: 3600, Unit.DAY: 86_400, Unit.WEEK: 604_800, Unit.MOMENT: 1}
_MONTHS = {Unit.MONTH: 1, Unit.QUARTER: 3, Unit.YEAR: 12}
COARSENESS = {unit: rank for rank, unit in enumerate((Unit.MOMENT, *list(Unit)[:-1]))}


@dataclass(frozen=True, slots=True)
class Grain:
    """The size of a period.

    step: how many units make one period (15 for quarter hours); only for minutes and hours.
    week_start: the weekday a week starts on, Monday 0 to Sunday 6.
    year_start: the month (1-12) a quarter-year or year starts from.
    """

    unit: Unit
    step: int = 1
    week_start: int = 0
    year_start: int = 1

    @property
    def singular(self) -> str:
        return "date" if self.unit is Unit.MOMENT else self._with_step(self.unit.value)

    @property
    def plural(self) -> str:
        return "dates" if self.unit is Unit.MOMENT else self._with_step(f"{self.unit.value}s")

    def _with_step(self, noun: str) -> str:
        return noun if self.step == 1 else f"{self.step}-{self.unit.value} periods"

    @property
    def seconds(self) -> float:
        """The usual length of a period, in seconds (a month counts 30.4 days)."""
        if self.unit in _MONTHS:
            return _MONTHS[self.unit] * 365.2425 / 12 * 86_400
        return float(_SECONDS[self.unit] * self.step)

    def periods(self, moments: Moments) -> Ints:
        """The period each moment falls in. moments: datetime64[s]."""
        if self.unit in _MONTHS:
            months = moments.astype("datetime64[M]").astype(np.int64)
            return np.asarray((months - self._month_offset) // _MONTHS[self.unit], dtype=np.int64)
        if self.unit is Unit.DAY and self.step == 1:
            return moments.astype("datetime64[D]").astype(np.int64)
        seconds = moments.astype("datetime64[s]").astype(np.int64)
        if self.unit is Unit.WEEK:
            days = seconds // 86_400
            return np.asarray((days + EPOCH_WEEKDAY - self.week_start) // 7, dtype=np.int64)
        return np.asarray(seconds // (_SECONDS[self.unit] * self.step), dtype=np.int64)

    def starts(self, periods: Ints) -> Moments:
        """The first moment of each period, datetime64[s]."""
        if self.unit in _MONTHS:
            months = periods * _MONTHS[self.unit] + self._month_offset
            return months.astype("datetime64[M]").astype("datetime64[s]")
        if self.unit is Unit.WEEK:
            days = periods * 7 - EPOCH_WEEKDAY + self.week_start
            return days.astype("datetime64[D]").astype("datetime64[s]")
        return (periods * (_SECONDS[self.unit] * self.step)).astype("datetime64[s]")

    @property
    def _month_offset(self) -> int:
        return 0 if self.unit is Unit.MONTH else self.year_start - 1

    def period(self, moment: date | datetime) -> int:
        """The period one moment falls in."""
        return int(self.periods(np.array([moment], dtype="datetime64[s]"))[0])

    def span(self, moment: date | datetime) -> tuple[int, int]:
        """The first and the last period a day covers; for a time of day both are its period."""
        first = self.period(moment)
        if isinstance(moment, datetime):
            return first, first
        return first, self.period(datetime.combine(moment, time(23, 59, 59)))

    def parse(self, label: str) -> int:
        """The period with this label (see `labels`). Raises Refusal for a text that is none."""
        try:
            if self.unit is Unit.QUARTER and "-Q" in label:
                year, quarter = label.split("-Q")
                return (int(year) - 1970) * 4 + int(quarter) - 1
            if self.unit is Unit.WEEK and "-W" in label:
                return self.period(datetime.strptime(f"{label}-1", "%G-W%V-%u"))
            return int(self.periods(np.array([label], dtype="datetime64[s]"))[0])
        except ValueError:
            raise Refusal(f"“{label}” names no {self.singular}.", todo="Choose the point again.") from None

    def weekdays(self, periods: Ints) -> Ints:
        """The weekday of each period's first day, Monday 0."""
        days = self.starts(periods).astype("datetime64[D]").astype(np.int64)
        return np.asarray((days + EPOCH_WEEKDAY) % 7, dtype=np.int64)

    def labels(self, periods: Ints) -> list[str]:
        """ISO 8601 names of periods: 2026-03-14, 2026-03, 2026-Q1, 2026, 2026-W11, 2026-03-14T07:00.

        A week that does not start on a Monday has no ISO name and is named by its first day.
        """
        starts = self.starts(periods)
        if self.unit is Unit.MONTH:
            return [str(text) for text in np.datetime_as_string(starts, unit="M")]
        if self.unit is Unit.YEAR:
            return [str(text) for text in np.datetime_as_string(starts, unit="Y")]
        if self.unit is Unit.QUARTER:
            return [f"{p // 4 + 1970}-Q{p % 4 + 1}" for p in periods.tolist()]
        if self.unit is Unit.WEEK and self.week_start == 0:
            return _iso_weeks(starts)
        if self.unit in (Unit.DAY, Unit.WEEK):
            return [str(text) for text in np.datetime_as_string(starts, unit="D")]
        if self.unit is Unit.MOMENT:
            return [str(text) for text in _shortest(starts)]
        return [str(text) for text in np.datetime_as_string(starts, unit="m")]

    def label(self, period: int) -> str:
        return self.labels(np.array([period], dtype=np.int64))[0]


def _shortest(moments: Moments) -> np.ndarray:
    """A moment at midnight is named by its day, one on a whole minute without seconds."""
    seconds = moments.astype(np.int64)
    names = np.datetime_as_string(moments, unit="s").astype(object)
    for unit, size in (("m", 60), ("D", 86_400)):
        whole = seconds % size == 0
        names[whole] = np.datetime_as_string(moments[whole], unit=unit)  # type: ignore[call-overload]
    return names


def _iso_weeks(mondays: Moments) -> list[str]:
    thursdays = mondays.astype("datetime64[D]") + np.timedelta64(3, "D")
    years = thursdays.astype("datetime64[Y]")
    weeks = (thursdays - years.astype("datetime64[D]")).astype(np.int64) // 7 + 1
    return [f"{y + 1970}-W{w:02d}" for y, w in zip(years.astype(np.int64), weeks, strict=True)]


DAY = Grain(Unit.DAY)


def detect_grain(moments: Moments) -> Grain:
    """The grain a series' distinct moments were taken on.

    The coarsest unit whose period starts hold every moment; when the moments sit on day starts, or
    on a whole number of minutes, but none of the coarser grains fits, the usual gap decides. Days
    far apart that fit no grain are irregular.
    moments: datetime64[s] of one or more series, any order.
    """
    distinct = np.unique(moments.astype("datetime64[s]"))
    if distinct.size < 2:
        return DAY
    months = distinct.astype("datetime64[M]")
    gaps = np.diff(distinct).astype(np.int64)
    usual = float(np.median(gaps))
    day_of_month = (distinct.astype("datetime64[D]") - months.astype("datetime64[D]")).astype(np.int64)
    if usual >= 27 * 86_400 and _one_per_month(distinct):
        month_gaps = np.diff(months.astype(np.int64))
        common = int(np.gcd.reduce(month_gaps)) if month_gaps.size else 1
        if common % 12 == 0:
            return Grain(Unit.YEAR, year_start=int(months.astype(np.int64)[0] % 12) + 1)
        if common % 3 == 0:
            return Grain(Unit.QUARTER, year_start=int(months.astype(np.int64)[0] % 3) + 1)
        covered = distinct.size / (int(months.astype(np.int64)[-1] - months.astype(np.int64)[0]) + 1)
        one_day = np.unique(day_of_month).size == 1 or bool(np.all(day_of_month >= 27))
        if one_day or covered >= MOST_MONTHS:
            return Grain(Unit.MONTH)
    if not np.any(distinct.astype(np.int64) % 86_400):
        if usual >= 7 * 86_400 and not np.any(gaps % (7 * 86_400)):
            days = int(distinct[0].astype(np.int64) // 86_400)
            return Grain(Unit.WEEK, week_start=(days + EPOCH_WEEKDAY) % 7)
        span = int(distinct[-1].astype(np.int64) - distinct[0].astype(np.int64)) // 86_400 + 1
        return Grain(Unit.MOMENT) if distinct.size / span < FEW_DAYS else DAY
    seconds = distinct.astype(np.int64)
    step = int(np.gcd.reduce(np.concatenate((gaps, seconds[:1] % 3600))))
    if step % 3600 == 0 or usual >= 3600:
        return Grain(Unit.HOUR)
    for minutes in (30, 20, 15, 10, 5, 1):
        if step % (minutes * 60) == 0:
            return Grain(Unit.MINUTE, step=minutes)
    return Grain(Unit.MINUTE)


def _one_per_month(distinct: Moments) -> bool:
    months = distinct.astype("datetime64[M]")
    return np.unique(months).size == distinct.size
