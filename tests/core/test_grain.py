"""Grains: periods, their starts and names, and telling a grain from moments."""

from datetime import date, timedelta

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembra.core.calendar.budget import Budget
from zembra.core.calendar.grain import Grain, Unit, detect_grain
from zembra.core.calendar.months import CalendarUnit, shifted
from zembra.core.calendar.sensible import sensible_grain

DATES = st.dates(date(1900, 1, 1), date(2100, 12, 31))
GRAINS = st.builds(
    Grain,
    st.sampled_from([Unit.DAY, Unit.WEEK, Unit.MONTH, Unit.QUARTER, Unit.YEAR]),
    week_start=st.integers(0, 6),
    year_start=st.integers(1, 12),
)


@given(DATES, GRAINS)
def test_a_moment_lies_between_its_period_start_and_the_next(day: date, grain: Grain) -> None:
    period = grain.period(day)
    start, after = grain.starts(np.array([period, period + 1]))
    moment = np.datetime64(day, "s")
    assert start <= moment < after


@given(DATES)
def test_labels_agree_with_the_standard_library(day: date) -> None:
    iso = day.isocalendar()
    assert Grain(Unit.DAY).label(Grain(Unit.DAY).period(day)) == day.isoformat()
    assert Grain(Unit.WEEK).label(Grain(Unit.WEEK).period(day)) == f"{iso.year}-W{iso.week:02d}"
    assert Grain(Unit.MONTH).label(Grain(Unit.MONTH).period(day)) == f"{day:%Y-%m}"
    quarter = f"{day.year}-Q{(day.month + 2) // 3}"
    assert Grain(Unit.QUARTER).label(Grain(Unit.QUARTER).period(day)) == quarter
    assert Grain(Unit.DAY).weekdays(np.array([Grain(Unit.DAY).period(day)]))[0] == day.weekday()


@pytest.mark.parametrize(
    ("dates", "unit"),
    [
        ([date(2026, 1, 1) + timedelta(n) for n in range(40)], Unit.DAY),
        ([date(2026, 1, 1) + timedelta(n) for n in range(60) if n % 7 < 5], Unit.DAY),
        ([date(2026, 1, 5) + timedelta(7 * n) for n in range(30) if n != 4], Unit.WEEK),
        ([date(2024 + n // 12, n % 12 + 1, 1) for n in range(30) if n not in (3, 4)], Unit.MONTH),
        ([date(2024 + n // 4, n % 4 * 3 + 1, 1) for n in range(9)], Unit.QUARTER),
        ([date(2010 + n, 1, 1) for n in range(9)], Unit.YEAR),
    ],
)
def test_detects_the_grain(dates: list[date], unit: Unit) -> None:
    assert detect_grain(np.array(dates, dtype="datetime64[s]")).unit is unit


@pytest.mark.parametrize("minutes", [60, 30, 20, 15, 10, 5, 2])
def test_stamps_that_are_off_by_a_few_seconds_keep_their_step(minutes: int) -> None:
    off = np.random.default_rng(minutes).integers(-4, 5, 300)
    stamps = np.datetime64("2026-03-02T06:00:07") + (np.arange(300) * minutes * 60 + off).astype("timedelta64[s]")
    expected = Grain(Unit.HOUR) if minutes == 60 else Grain(Unit.MINUTE, step=minutes)
    assert detect_grain(stamps.astype("datetime64[s]")) == expected
    # one in four lies anywhere: they keep no step
    stamps[::4] += (np.arange(75) * 131 % (minutes * 60)).astype("timedelta64[s]")
    kept = Unit.HOUR if minutes == 60 else Unit.MINUTE
    assert detect_grain(np.sort(stamps).astype("datetime64[s]")) == Grain(kept)


@given(
    st.datetimes(pd.Timestamp("1990-01-01"), pd.Timestamp("2060-12-31")),
    st.integers(-40, 40),
    st.sampled_from(["days", "weeks", "months", "years"]),
)
def test_moments_are_moved_as_by_pandas(at: pd.Timestamp, count: int, unit: str) -> None:
    at = at.replace(microsecond=0)
    moved = shifted(np.array([at], dtype="datetime64[s]"), count, CalendarUnit(unit.removesuffix("s")))
    assert moved[0] == np.datetime64(pd.Timestamp(at) + pd.DateOffset(**{unit: count}), "s")


@pytest.mark.parametrize("most", [10_000_000, 200_000, 9_000, 1_500, 210, 50])
def test_a_grain_that_is_too_fine_gives_way_to_the_finest_that_is_not(most: int) -> None:
    """Three series of every 20 minutes, four years long."""
    stamps = np.arange("2022-01-01", "2026-01-01", 20, dtype="datetime64[m]").astype("datetime64[s]")
    index = pd.DatetimeIndex(stamps)
    counts = {
        Grain(Unit.MINUTE, step=20): stamps.size,
        Grain(Unit.HOUR): index.floor("h").nunique(),
        Grain(Unit.DAY): index.floor("D").nunique(),
        Grain(Unit.WEEK): index.to_period("W-SUN").nunique(),
        Grain(Unit.MONTH): index.to_period("M").nunique(),
    }
    fine = Grain(Unit.MINUTE, step=20)
    expected = next((grain for grain, count in counts.items() if 3 * count <= most), fine)
    assert sensible_grain(fine, stamps, 3, Budget(points=most)) == expected


@pytest.mark.parametrize(
    ("unit", "seconds"), [(Unit.MINUTE, 60), (Unit.HOUR, 3600), (Unit.DAY, 86_400), (Unit.WEEK, 604_800)]
)
def test_a_period_is_so_many_seconds_long(unit: Unit, seconds: int) -> None:
    assert Grain(unit, step=3).seconds == 3 * seconds
