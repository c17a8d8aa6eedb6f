"""A grain is the length of one period; a period is an integer, counted from 1970.

Periods are integers so that "the next period", "28 periods back" and "the same period a season
before" are plain arithmetic whatever the calendar does with months, leap days and clock changes.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace
from datetime import date, datetime, time
from enum import StrEnum
from functools import lru_cache

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Ints, Moments
from zembra.core.calendar.zone import from_wall, standard, wall_and_offset
from zembra.core.english import spoken_label
from zembra.core.errors import Refusal

MOST_MONTHS = 0.75  # share of months with a date from which dates scattered over months are monthly
FEW_DAYS = 0.1  # share of days with a date below which dates that fit no grain are irregular
MOST_STAMPS = 0.95  # share of stamps near a step from which they are taken to be on it
CLOCK_REACH = 3 * 3600  # seconds that no clock is changed by more than
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
    """The length of a period.

    step: units in one period (15 for quarter hours)
    phase: units after 1970 at which a period begins (1 for 1971, 1976…)
    week_start: first weekday, Monday 0
    year_start: first month (1-12) of years and quarters
    zone: the place whose clock applies; minutes and hours are counted in its standard time
    """

    unit: Unit
    step: int = 1
    week_start: int = 0
    year_start: int = 1
    phase: int = 0
    zone: str | None = None

    @property
    def singular(self) -> str:
        return "date" if self.unit is Unit.MOMENT else self._with_step("")

    @property
    def plural(self) -> str:
        return "dates" if self.unit is Unit.MOMENT else self._with_step("s")

    def _with_step(self, ending: str) -> str:
        return f"{self.unit.value}{ending}" if self.step == 1 else f"{self.step}-{self.unit.value} period{ending}"

    @property
    def seconds(self) -> float:
        """The usual length of a period in seconds (a month counts 30.4 days)."""
        if self.unit in _MONTHS:
            return _MONTHS[self.unit] * self.step * 365.2425 / 12 * 86_400
        return float(_SECONDS[self.unit] * self.step)

    def periods(self, moments: Moments) -> Ints:
        """Return the period of each moment.

        moments: datetime64[s]
        """
        if self.unit in _MONTHS:
            months = moments.astype("datetime64[M]").astype(np.int64)
            return self._stepped((months - self._month_offset) // _MONTHS[self.unit])
        if self.unit is Unit.DAY:
            return self._stepped(moments.astype("datetime64[D]").astype(np.int64))
        seconds = moments.astype("datetime64[s]").astype(np.int64)
        if self.unit is Unit.WEEK:
            days = seconds // 86_400
            return self._stepped((days + EPOCH_WEEKDAY - self.week_start) // 7)
        return self._stepped(seconds // _SECONDS[self.unit])

    def _stepped(self, units: Ints) -> Ints:
        return units if self.step == 1 else np.asarray((units - self.phase) // self.step, dtype=np.int64)

    def starts(self, periods: Ints) -> Moments:
        """Return the first moment of each period, datetime64[s]."""
        units = periods if self.step == 1 else periods * self.step + self.phase
        if self.unit in _MONTHS:
            months = units * _MONTHS[self.unit] + self._month_offset
            return months.astype("datetime64[M]").astype("datetime64[s]")
        if self.unit is Unit.WEEK:
            days = units * 7 - EPOCH_WEEKDAY + self.week_start
            return days.astype("datetime64[D]").astype("datetime64[s]")
        return (units * _SECONDS[self.unit]).astype("datetime64[s]")

    def days(self, periods: Ints) -> Moments:
        """Return the first moment of each period in local time."""
        starts = self.starts(periods)
        return wall_and_offset(starts, self.zone)[0] if self.zone else starts

    def touched_by(self, other: Grain, periods: Ints) -> tuple[Ints, Ints]:
        """Return the first and last period of this grain that each period of another grain overlaps, in local time."""
        if other == self:
            return periods, periods
        end = other.days(periods + 1) - np.timedelta64(1, "s")
        return self.on_clock(other.days(periods)), self.on_clock(end)

    def on_clock(self, wall: Moments) -> Ints:
        """Return the period of each local moment; the inverse of `days`."""
        return self.periods(from_wall(wall, self.zone) if self.zone else wall)

    @property
    def fiscal(self) -> bool:
        """Whether years start in another month than January, so that labels show two years."""
        return self.unit in (Unit.QUARTER, Unit.YEAR) and self.year_start != 1

    @property
    def _month_offset(self) -> int:
        return 0 if self.unit is Unit.MONTH else self.year_start - 1

    def period(self, moment: date | datetime) -> int:
        """Return the period of one moment."""
        return int(self.periods(np.array([moment], dtype="datetime64[s]"))[0])

    def span(self, moment: date | datetime) -> tuple[int, int]:
        """Return the first and last period of a local day; of a time of day, in standard time, its period twice."""
        return _span(self, moment)

    def between(self, periods: Ints, start: date | datetime | None, end: date | datetime | None) -> Bools:
        """Return a mask of periods between two days, both included; None is open."""
        inside = np.ones(periods.size, dtype=bool)
        if start:
            inside &= periods >= self.span(start)[0]
        if end:
            inside &= periods <= self.span(end)[1]
        return inside

    def parse(self, label: str) -> int:
        """Return the period of a label (see `labels`). Raises Refusal."""
        try:
            year = _FISCAL.match(label)
            if self.unit is Unit.QUARTER and year and year[2]:
                return self._whole((int(year[1]) - 1970) * 4 + int(year[2]) - 1)
            if self.unit is Unit.YEAR and year and not year[2]:
                return self._whole(int(year[1]) - 1970)
            if self.unit is Unit.WEEK and "-W" in label:
                return self.period(datetime.strptime(f"{label}-1", "%G-W%V-%u"))
            if self.zone and (offset := _OFFSET.search(label)):
                ahead = np.array([_minutes(offset)], dtype=np.int64)
                wall = np.array([label[: offset.start()]], dtype="datetime64[s]")
                return int(self.periods(standard(wall, ahead, self.zone))[0])
            return int(self.periods(np.array([label], dtype="datetime64[s]"))[0])
        except ValueError:
            raise Refusal(f"“{label}” names no {self.singular}.", todo="Choose the point again.") from None

    def _whole(self, unit: int) -> int:
        return int(self._stepped(np.array([unit], dtype=np.int64))[0])

    def weekdays(self, periods: Ints) -> Ints:
        """Return the weekday of each period's first day, Monday 0."""
        days = self.days(periods).astype("datetime64[D]").astype(np.int64)
        return np.asarray((days + EPOCH_WEEKDAY) % 7, dtype=np.int64)

    def months(self, periods: Ints) -> Ints:
        """Return the month of each period's first day, January 0."""
        return np.asarray(self.days(periods).astype("datetime64[M]").astype(np.int64) % 12)

    def labels(self, periods: Ints) -> list[str]:
        """Return ISO 8601 labels: 2026-03-14, 2026-03, 2026-Q1, 2026, 2026-W11, 2026-03-14T07:00. A week that does
        not start on Monday is labelled by its first day, a fiscal year by both years (2025/26, 2025/26-Q1). Summer
        hours of a zone show their UTC offset (2026-07-14T07:00+02:00); without one they are in standard time.
        """
        starts = self.starts(periods)
        if self.unit is Unit.MONTH:
            return list(np.datetime_as_string(starts, unit="M").tolist())
        if self.unit in (Unit.YEAR, Unit.QUARTER):
            units = periods if self.step == 1 else periods * self.step + self.phase
            parts = 1 if self.unit is Unit.YEAR else 4
            ends = ["" if parts == 1 else f"-Q{n + 1}" for n in (units % parts).tolist()]
            return [f"{self._year(y + 1970)}{end}" for y, end in zip((units // parts).tolist(), ends, strict=True)]
        if self.unit is Unit.WEEK and self.week_start == 0:
            return _iso_weeks(starts)
        if self.unit in (Unit.DAY, Unit.WEEK):
            return list(np.datetime_as_string(starts, unit="D").tolist())
        if self.unit is Unit.MOMENT:
            return list(_shortest(starts).tolist())
        if self.zone:
            wall, ahead = wall_and_offset(starts, self.zone)
            stamps = np.datetime_as_string(wall, unit="m")
            summer = (wall != starts).tolist()
            return [
                f"{text}{_ahead(minutes) if apart else ''}"
                for text, minutes, apart in zip(stamps, ahead.tolist(), summer, strict=True)
            ]
        return list(np.datetime_as_string(starts, unit="m").tolist())

    def _year(self, year: int) -> str:
        return f"{year:04d}/{(year + 1) % 100:02d}" if self.fiscal else f"{year:04d}"

    def spoken(self, period: int) -> str:
        """Return the name of a period in sentences."""
        return spoken_label(self.label(period))

    def label(self, period: int) -> str:
        return _label(self, period)


# asked for again and again of the same few days and periods, once a series
@lru_cache(maxsize=4096)
def _span(grain: Grain, moment: date | datetime) -> tuple[int, int]:
    first = grain.period(moment)
    if isinstance(moment, datetime):
        return first, first
    last = grain.period(datetime.combine(moment, time(23, 59, 59)))
    if not grain.zone:
        return first, last
    room = math.ceil(CLOCK_REACH / grain.seconds)
    near = np.arange(first - room, last + room + 1, dtype=np.int64)
    there = near[grain.days(near).astype("datetime64[D]") == np.datetime64(moment, "D")]
    # a zone may have skipped a whole day
    return (int(there[0]), int(there[-1])) if there.size else (first, last)


@lru_cache(maxsize=4096)
def _label(grain: Grain, period: int) -> str:
    return grain.labels(np.array([period], dtype=np.int64))[0]


_FISCAL = re.compile(r"^(-?\d{3,})(?:/\d{2})?(?:-Q([1-4]))?$")
_OFFSET = re.compile(r"([+-])(\d{2}):(\d{2})$")


def _minutes(offset: re.Match[str]) -> int:
    return (int(offset[2]) * 60 + int(offset[3])) * (-1 if offset[1] == "-" else 1)


def _ahead(minutes: int) -> str:
    return f"{'-' if minutes < 0 else '+'}{abs(minutes) // 60:02d}:{abs(minutes) % 60:02d}"


def _shortest(moments: Moments) -> np.ndarray:
    """Return the shortest label of a moment: no time at midnight, no seconds on whole minutes."""
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
    """Detect the grain of moments: the coarsest unit whose period starts hold them all. If they sit on day starts
    or whole minutes and no coarser grain fits, the usual gap decides. Distant days that fit no grain are irregular.

    moments: datetime64[s], any order
    """
    distinct = distinct_in_order(moments.astype("datetime64[s]"))
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
            return _stepped(Grain(Unit.YEAR), distinct, (2, 4, 5, 10))
        if common % 6 == 0:
            return Grain(Unit.MONTH, step=6, phase=int(months.astype(np.int64)[0] % 6))
        if common % 3 == 0:
            return Grain(Unit.QUARTER)
        covered = distinct.size / (int(months.astype(np.int64)[-1] - months.astype(np.int64)[0]) + 1)
        one_day = np.unique(day_of_month).size == 1 or bool(np.all(day_of_month >= 27))
        if one_day or covered >= MOST_MONTHS:
            return Grain(Unit.MONTH)
    if not np.any(distinct.astype(np.int64) % 86_400):
        if usual >= 7 * 86_400 and not np.any(gaps % (7 * 86_400)):
            days = int(distinct[0].astype(np.int64) // 86_400)
            return _stepped(Grain(Unit.WEEK, week_start=(days + EPOCH_WEEKDAY) % 7), distinct, (2, 4))
        span = int(distinct[-1].astype(np.int64) - distinct[0].astype(np.int64)) // 86_400 + 1
        if distinct.size / span < FEW_DAYS:
            return Grain(Unit.MOMENT)
        return _stepped(DAY, distinct, (2, 5, 8, 10))
    seconds = distinct.astype(np.int64)
    step = int(np.gcd.reduce(np.concatenate((gaps, seconds[:1] % 3600))))
    if step % 3600 == 0 or usual >= 3600:
        return _stepped(Grain(Unit.HOUR), distinct, (2, 3, 4, 6, 8, 12))
    for minutes in (30, 20, 15, 10, 5, 2, 1):
        if step % (minutes * 60) == 0:
            return Grain(Unit.MINUTE, step=minutes)
    return _jittered(seconds, usual)


def _stepped(grain: Grain, distinct: Moments, steps: tuple[int, ...]) -> Grain:
    """Return the grain with a step that all dates keep, if the periods between never occur."""
    periods = grain.periods(distinct)
    common = int(np.gcd.reduce(np.diff(periods))) if periods.size > 2 else 1
    fitting = [step for step in steps if common % step == 0]
    return replace(grain, step=max(fitting), phase=int(periods[0]) % max(fitting)) if fitting else grain


def _jittered(seconds: Ints, usual: float) -> Grain:
    """Return the step that stamps keep up to a few seconds, or minutes."""
    for minutes in (60, 30, 20, 15, 10, 5, 2, 1):
        size = minutes * 60
        if abs(usual - size) <= 0.1 * size:
            off = (seconds - seconds[0] + size // 2) % size - size // 2
            if float(np.mean(np.abs(off) <= 0.2 * size)) >= MOST_STAMPS:
                return Grain(Unit.HOUR) if minutes == 60 else Grain(Unit.MINUTE, step=minutes)
    return Grain(Unit.MINUTE)


def distinct_in_order(values: np.ndarray) -> np.ndarray:
    """Return distinct values, ascending; fast for sorted input."""
    if values.size < 2:
        return values
    if not bool((values[1:] >= values[:-1]).all()):
        values = np.sort(values)
    return values[np.concatenate(([True], values[1:] != values[:-1]))]


def completeness(grain: Grain, moments: Moments) -> float:
    """Return the share of periods from first to last that contain a moment."""
    periods = distinct_in_order(grain.periods(moments.astype("datetime64[s]")))
    return periods.size / int(periods[-1] - periods[0] + 1) if periods.size else 0.0


def _one_per_month(distinct: Moments) -> bool:
    return distinct_in_order(distinct.astype("datetime64[M]")).size == distinct.size
