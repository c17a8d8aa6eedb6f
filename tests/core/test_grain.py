"""Grains: periods, their starts and names, and telling a grain from moments."""

from datetime import date, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembra.core.calendar.grain import Grain, Unit, detect_grain

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
