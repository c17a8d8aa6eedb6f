"""Times of day beside dates or across columns: hours, half-hours or quarters."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import polars as pl

from zembra.core.intake.clock import LIKELY_ZONES
from zembra.core.intake.howread import HourSays, TimesHow
from zembra.core.intake.table import TextTable

_CLOCK = r"(\d{1,2})[:.](\d{2})(?::\d{2})?"
_FROM_TO = rf"^\s*{_CLOCK}\s*(?:-|–|to|bis)\s*\d{{1,2}}[:.]\d{{2}}(?::\d{{2}})?\s*$"
_NAMED_HOUR = r"^\s*(?i:he|hour|hr|h|std\.?|stunde)[ _]?(\d{1,2})\s*$|^\s*(\d{1,2}) ?(?i:h|hrs?|uhr)\s*$"
_DOTTED = r"^\s*(\d{1,2})[.:](\d{2})\s*$"
_NUMBER = r"^\s*(?i:sp|p|hh|qh)?[ _]?(\d{1,2})(?:\.0)?\s*$"
_SPEAKS = re.compile(
    r"(?i)(?:^|[^a-z])(?:settlement|period|interval|half.?hour|sp|hh|he|hour|hr|time|stunde|uhrzeit|zeit)(?:$|[^a-z])"
)
# minutes of one step, by how many of them a day has
_STEPS = {24: 60, 48: 30, 96: 15}
_COUNTED = {24: TimesHow.HOURS, 48: TimesHow.HALF_HOURS, 96: TimesHow.QUARTER_HOURS}
NEARLY_ALL = 0.8  # of the days
LONG = 100_000  # rows: to count the dates of more takes longer than to look at a few columns
FEWEST_ACROSS = 12  # hours
MINUTES = {TimesHow.HOURS: 60, TimesHow.HALF_HOURS: 30, TimesHow.QUARTER_HOURS: 15}


def minutes_of(cells: pl.Series, times: TimesHow, says: HourSays) -> pl.Series:
    """Return minutes from midnight to the start of what each cell names, Int64, or null."""
    texts = cells.str.strip_chars()
    first = 1 if says is HourSays.ENDS else 0
    if times is TimesHow.FROM_TO:
        groups = texts.str.extract_groups(_FROM_TO).struct.unnest()
        hour, minute = (groups[name].cast(pl.Int64, strict=False) for name in groups.columns[:2])
        return hour * 60 + minute
    if times is TimesHow.CLOCK:
        groups = texts.str.extract_groups(_DOTTED).struct.unnest()
        hour, minute = (groups[name].cast(pl.Int64, strict=False) for name in groups.columns[:2])
        return hour * 60 + minute - first * 60
    if times is TimesHow.HUNDREDS:
        number = texts.str.replace(r"\.0$", "").cast(pl.Int64, strict=False)
        return (number // 100) * 60 + number % 100 - first * 60
    named = texts.str.extract_groups(_NAMED_HOUR).struct.unnest()
    found = [named[name] for name in named.columns] + [texts.str.extract(_NUMBER, 1)]
    number = pl.select(pl.coalesce(*found)).to_series().cast(pl.Int64, strict=False)
    return (number - first) * MINUTES[times]


def hours_beside(table: TextTable, dates: pl.Series, taken: Sequence[str]) -> tuple[str, TimesHow, HourSays] | None:
    """Find the column with the time of day for repeated dates, or None.

    dates: of each row
    """
    if dates.len() <= LONG and _mostly_differ(dates):
        return None
    likely = [
        (name, found)
        for name in table.columns
        if name not in taken and (found := _like_times(table.cells[name], name)) is not None
    ]
    if not likely or _mostly_differ(dates):
        return None
    for name, found in likely:
        cells = table.cells[name]
        minutes = minutes_of(cells, *found)
        if minutes.null_count() <= table.height // 20 and _runs_through_days(dates, minutes):
            return name, *found
    return None


def _mostly_differ(dates: pl.Series) -> bool:
    return dates.drop_nulls().n_unique() * 2 > dates.len() - dates.null_count()


def _like_times(cells: pl.Series, name: str) -> tuple[TimesHow, HourSays] | None:
    few = cells.head(400).drop_nulls().head(200).str.strip_chars()
    if not few.len():
        return None

    def all_like(pattern: str) -> bool:
        return bool(few.str.contains(pattern).mean() == 1.0)

    if all_like(_FROM_TO):
        return TimesHow.FROM_TO, HourSays.BEGINS
    if all_like(_DOTTED):
        minutes = few.str.extract(_DOTTED, 2).cast(pl.Int64)
        sharp = bool((minutes.is_in([0, 15, 30, 45])).all())
        return (TimesHow.CLOCK, HourSays.BEGINS) if sharp and not few.str.contains(":").all() else None
    if all_like(_NAMED_HOUR):
        numbers = minutes_of(cells.drop_nulls(), TimesHow.HOURS, HourSays.BEGINS) // 60
        says = HourSays.ENDS if 0 not in numbers.to_list() or 24 in numbers.to_list() else HourSays.BEGINS
        return TimesHow.HOURS, says
    if all_like(_NUMBER):
        numbers = minutes_of(cells.drop_nulls(), TimesHow.HOURS, HourSays.BEGINS).drop_nulls() // 60
        if not numbers.len():
            return None
        low, high = int(numbers.to_numpy().min()), int(numbers.to_numpy().max())
        says = HourSays.BEGINS if low == 0 else HourSays.ENDS
        size = high + (low == 0)
        # a day on which clocks change has an hour more
        times = next((_COUNTED[day] for day, step in _STEPS.items() if day <= size <= day + 60 // step), None)
        return (times, says) if low in (0, 1) and times is not None else None
    numbers = few.str.replace(r"\.0$", "").cast(pl.Int64, strict=False)
    if numbers.null_count() or not _SPEAKS.search(name):
        return None
    hundreds = numbers.to_numpy()
    if bool(np.all((hundreds % 100 < 60) & (hundreds >= 0) & (hundreds <= 2400))) and hundreds.max() >= 1200:
        ends = 2400 in hundreds and 0 not in hundreds
        return TimesHow.HUNDREDS, HourSays.ENDS if ends else HourSays.BEGINS
    return None


def _runs_through_days(dates: pl.Series, minutes: pl.Series) -> bool:
    """Return whether nearly every day has the same times, equally often."""
    frame = pl.DataFrame({"day": dates, "minute": minutes}).drop_nulls()
    days = frame.group_by("day").agg(pl.col("minute").n_unique().alias("times"), pl.len().alias("rows"))
    usual = days["times"].mode().max()
    if not isinstance(usual, int) or usual < FEWEST_ACROSS:
        return False
    even = (days["times"] >= usual - 4) & (days["rows"] % days["times"] == 0)
    return float(even.mean() or 0.0) >= NEARLY_ALL  # type: ignore[arg-type]


def hours_across(columns: Sequence[str]) -> tuple[list[str], TimesHow, HourSays] | None:
    """Find columns named by hours of a day, or None."""
    names = pl.Series(list(columns), dtype=pl.String)
    for pattern, times in (
        (_FROM_TO, TimesHow.FROM_TO),
        (_NAMED_HOUR, TimesHow.HOURS),
        (_DOTTED, TimesHow.CLOCK),
        (_NUMBER, TimesHow.HOURS),
    ):
        found = names.filter(names.str.contains(pattern))
        if found.len() < FEWEST_ACROSS:
            continue
        minutes = minutes_of(found, times, HourSays.BEGINS)
        steps = minutes.diff().drop_nulls()
        size = found.len()
        if size not in _STEPS or steps.n_unique() != 1:
            continue
        counted = _COUNTED[size] if pattern == _NUMBER else times
        if int(minutes[0]) not in (0, 60):
            continue
        ends = int(minutes[0]) > 0 and counted is not TimesHow.FROM_TO
        return found.to_list(), counted, HourSays.ENDS if ends else HourSays.BEGINS
    return None


def changed_clock(dates: pl.Series, groups: pl.Series | None, times: TimesHow) -> str | None:
    """Return the likeliest zone whose clock changes explain days with an hour more or less, or None.

    dates: midnights
    groups: the series of each row
    """
    if times not in MINUTES:
        return None
    usual, hour = 1440 // MINUTES[times], 60 // MINUTES[times]
    frame = pl.DataFrame(
        {"day": dates, "group": groups if groups is not None else pl.repeat("", dates.len(), eager=True)}
    )
    days = frame.drop_nulls("day").group_by("day", "group").len().group_by("day").agg(pl.col("len").max())
    odd = {
        day: (size - usual) // hour
        for day, size in days.filter(pl.col("len").is_in([usual - hour, usual + hour])).iter_rows()
    }
    if not odd:
        return None
    for zone in LIKELY_ZONES:
        place = ZoneInfo(zone)
        if all(_longer(day, place) == hours for day, hours in odd.items()):
            return zone
    return None


def _longer(day: object, place: ZoneInfo) -> int:
    """Return how many hours a day of a zone is longer than usual."""
    assert isinstance(day, datetime)
    start, end = day.replace(tzinfo=place), (day + timedelta(days=1)).replace(tzinfo=place)
    before, after = start.utcoffset() or timedelta(0), end.utcoffset() or timedelta(0)
    return int((before - after) / timedelta(hours=1))
