"""Limits of series with few numbers, by what was held back of like ones: what they hold of what came, and how they are told."""

from __future__ import annotations

import re
from datetime import timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.help import AS_OF
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.methods import UsualMean
from zembra.core.entries.projections.clauses.projected import AheadPeriods, LimitsWord
from zembra.core.entries.projections.projection import Projection
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import Report, Result, run
from zembra.core.ledger.shapes import Area
from zembra.core.projection.likeseries import FEWEST_SERIES, HeldBack, learned

AHEAD = 4


def projected(table: np.ndarray, limits: LimitsWord) -> tuple[Result, Report]:
    """table: (series, day)."""
    first = AS_OF - timedelta(table.shape[1] - 1)
    rows = [
        f"{first + timedelta(at)},landing {n:03d},{value:.6f}"
        for n, series in enumerate(table)
        for at, value in enumerate(series)
    ]
    read = bring_in("\n".join(["day,landing,riders", *rows]).encode())
    begun = first_ledger(read.observations, read.how, AS_OF)
    entry = Projection(ahead=AheadPeriods(count=AHEAD), method=UsualMean(), limits=limits)
    ledger = Ledger(intake=read.how, entries=(*begun.entries, record(entry, "p")))
    result = run(read.observations, ledger, AS_OF)
    return result, result.reports[-1]


def inside(result: Result, came: np.ndarray, level: float) -> float:
    """Percent of what came that lay inside the limits at a level."""
    areas = [shape for shape in result.state.shapes if isinstance(shape, Area) and shape.level == level]
    assert len(areas) == came.shape[0]
    return 100 * float(
        np.mean([(area.lower <= now) & (now <= area.upper) for area, now in zip(areas, came, strict=True)])
    )


@pytest.mark.parametrize(("days", "apart"), [(12, 7.0), (24, 7.0)])
def test_they_hold_about_as_often_as_they_say(days: int, apart: float) -> None:
    """Of a dozen a little more often, of two dozen a little less: what was held back had fewer numbers yet before it."""
    rng = np.random.default_rng(days)
    table = 100 + 10 * rng.standard_normal((150, days + AHEAD))
    known, came = table[:, :days], table[:, days:]
    own, _ = projected(known, LimitsWord.OWN)
    like, report = projected(known, LimitsWord.LIKE)
    # a method's own limits are too wide of so few numbers
    assert inside(own, came, 80) > 87
    assert abs(inside(like, came, 80) - 80) < apart
    assert abs(inside(like, came, 95) - 95) < 3.5
    told = next(table for table in report.outcome.evidence if table.title == "Limits by like series")
    (row,) = [row for row in told.rows if row[1]]
    assert row[1] == 150
    assert row[0].startswith(str({12: 12, 24: 18}[days]))
    assert row[-2] < 1
    # what is said of them is said of limits as wide as those that are drawn
    assert "looking back with the same weights" not in report.sentence
    said, of = re.findall(r"\((.*?) of (.*?) held-back", report.sentence)[0]
    assert abs(100 * int(re.sub(r"\D", "", said)) / int(re.sub(r"\D", "", of)) - 80) < 4


def test_few_like_series_say_nothing() -> None:
    rng = np.random.default_rng(9)
    table = 100 + 10 * rng.standard_normal((FEWEST_SERIES - 5, 16))
    own, _ = projected(table, LimitsWord.TESTED)
    like, report = projected(table, LimitsWord.LIKE)
    mine, theirs = ([shape for shape in result.state.shapes if isinstance(shape, Area)] for result in (own, like))
    for one, other in zip(mine, theirs, strict=True):
        np.testing.assert_array_equal(one.lower, other.lower)
    assert all(table.title != "Limits by like series" for table in report.outcome.evidence)


@given(st.integers(0, 1000), st.permutations(range(40)))
def test_factors_count_what_lay_inside_whatever_the_order(seed: int, order: list[int]) -> None:
    rng = np.random.default_rng(seed)
    levels = (50.0, 80.0, 95.0)
    every = []
    for _ in order:
        size = int(rng.integers(1, 30))
        away = np.sort(rng.exponential(0.7, (1, size)) * np.array([[2.0], [1.0], [0.7]]), axis=0)[::-1]
        every.append(HeldBack(10, away))
    step = learned(every, levels).of(9)
    assert step is not None
    assert learned([every[place] for place in order], levels).of(11) == step
    assert learned(every, levels).of(12) is None
    away = np.concatenate([one.away for one in every], axis=1)
    for row, level, factor in zip(away, levels, step.factors, strict=True):
        if 0.41 < factor < 3.99:
            assert np.mean(row <= factor + 0.005) >= level / 100 - 1 / row.size
            assert np.mean(row <= factor - 0.005) <= level / 100 + 1 / row.size
