"""Level shifts: found where they were put, agreeing with ruptures, not found where there are none."""

from __future__ import annotations

from datetime import date

import numpy as np
import pytest
from pydantic import ValidationError
from ruptures import KernelCPD
from scipy import stats

from tests.help import FIRST, daily_csv, only_line, run_csv, run_values, smoothing
from zembra.core.arithmetic.shifts import find_shifts, measured_shift, proposed, without_season
from zembra.core.calendar.lines import Condition
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.trend import Trend
from zembra.core.entries.repairs.clauses.newest import LastFew
from zembra.core.entries.repairs.follow import Follow
from zembra.core.entries.repairs.found_shifts import Shifts, Size
from zembra.core.entries.repairs.marked_shift import Shift
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.figure.build import build_figure
from zembra.core.figure.model import FigureSettings
from zembra.core.ledger.shapes import Rule
from zembra.demo import demo_file
from zembra.demo.sailings import ROUTES

DAY = date(2026, 2, 15)
AT = (DAY - FIRST).days


def stepped(size: float, points: int = 120, seed: int = 3, rho: float = 0.0) -> np.ndarray:
    rng = np.random.default_rng(seed)
    noise = rng.normal(0, 3, points)
    for n in range(1, points):
        noise[n] += rho * noise[n - 1]
    return 100 + noise + np.where(np.arange(points) >= AT, size, 0)


@pytest.mark.parametrize("size", [12, -15, 40])
def test_a_step_is_found_where_it_is(size: float) -> None:
    (found,) = find_shifts(stepped(size), None, 14, 0)
    assert abs(found.place - AT) <= 1
    assert found.low < size < found.high
    assert found.sure > 0.99


@pytest.mark.parametrize("size", [4, 16, 40, 400])
def test_the_larger_a_step_is_the_surer_it_is_found(size: float) -> None:
    """In short series too, where half of what is there is the step."""
    rng = np.random.default_rng(5)
    for points, at in ((60, 30), (91, 50), (120, 40)):
        values = rng.normal(0, 1, points) + np.where(np.arange(points) >= at, size, 0.0)
        (found,) = find_shifts(values, None, 28, 0.0)
        assert abs(found.place - at) <= 1
        assert found.size == pytest.approx(size, abs=1.6)
    # and back again
    values = rng.normal(0, 1, 120) + np.where((np.arange(120) >= 40) & (np.arange(120) < 80), size, 0.0)
    there_and_back = [found.place for found in find_shifts(values, None, 28, 0.0)]
    assert there_and_back == pytest.approx([40, 80], abs=1)


def test_candidates_are_those_of_ruptures_called_directly() -> None:
    values = np.concatenate([stepped(30), 90 + stepped(-25, seed=5)])
    rest = values - np.convolve(np.pad(values, 14, mode="edge"), np.ones(29) / 29, mode="valid")
    assert rest.size == values.size
    for penalty in (500.0, 2000.0):
        direct = KernelCPD(kernel="linear", min_size=14).fit(values.reshape(-1, 1)).predict(pen=penalty)
        assert AT in direct
    found = [one.place for one in find_shifts(values, None, 14, 0)]
    direct = KernelCPD(kernel="linear", min_size=14).fit(values.reshape(-1, 1)).predict(n_bkps=len(found))
    assert found == direct[:-1]
    assert set(found) <= set(proposed(values, 14))


def test_the_interval_of_a_step_in_white_noise_is_students() -> None:
    values = stepped(20, points=90)
    found = measured_shift(values, AT, None, 30)
    assert found is not None
    before, after = values[:AT], values[AT:]
    direct = stats.ttest_ind(after, before)
    low, high = direct.confidence_interval(0.95)
    assert found.size == pytest.approx(after.mean() - before.mean(), rel=0.02)
    # ours is widened by what autocorrelation there seems to be, and never narrower
    assert found.low <= low + 0.5
    assert found.high >= high - 0.5


def test_autocorrelation_widens_the_interval() -> None:
    white, correlated = (measured_shift(stepped(20, rho=rho), AT, None, 28) for rho in (0.0, 0.8))
    assert white is not None
    assert correlated is not None
    assert correlated.high - correlated.low > 2 * (white.high - white.low)


@pytest.mark.parametrize("kind", ["white", "correlated", "weekly", "yearly", "trend", "spikes"])
def test_series_without_a_shift_show_none(kind: str) -> None:
    alarms = 0
    for seed in range(12):
        rng = np.random.default_rng(seed)
        values = rng.normal(0, 1, 730)
        at = np.arange(730)
        if kind == "correlated":
            for n in range(1, 730):
                values[n] += 0.6 * values[n - 1]
        values += {
            "weekly": 4 * np.sin(2 * np.pi * at / 7),
            "yearly": 4 * np.sin(2 * np.pi * at / 365.25),
            "trend": 0.01 * at,
            "spikes": np.where(rng.random(730) < 0.004, 60, 0),
        }.get(kind, 0)
        alarms += bool(find_shifts(values, 7, 28, 0, 365.25))
    assert alarms <= 1


def test_a_season_is_taken_off_whatever_its_length() -> None:
    at = np.arange(84)
    for season in (4, 7, 12):
        wave = 10 * np.sin(2 * np.pi * at / season)
        flat = without_season(50 + wave, season)
        assert np.ptp(flat[season:-season]) < 1e-6


def test_gaps_and_short_series_do_no_harm() -> None:
    values = stepped(30)
    values[[0, 1, 30, 31, 60, 119]] = np.nan
    (found,) = find_shifts(values, None, 14, 0)
    assert abs(found.place - AT) <= 1
    assert find_shifts(values[:20], None, 14, 0) == []
    assert find_shifts(np.full(60, 5.0), None, 14, 0) == []
    assert find_shifts(np.full(60, np.nan), None, 14, 0) == []
    assert measured_shift(values, 1, None, 14) is None


def test_the_planted_shift_is_found_on_its_day_and_no_other_route_has_one() -> None:
    result = run_csv(
        demo_file("sailings.csv"), Provisional(rule=LastFew(last=5)), Outliers(series=("Outer Isles",)), Shifts()
    )
    table = result.reports[-1].outcome.evidence[0]
    ((name, when, *_, low, high, sure),) = table.rows
    day, size = ROUTES[0].shift
    assert name == "Outer Isles"
    assert abs((date.fromisoformat(str(when)) - day).days) <= 2
    assert low < size < high
    assert sure > 99
    offers = result.reports[-1].outcome.offers
    assert [offer.kind for offer in offers] == ["shift"]
    (mark,) = result.state.shapes
    assert isinstance(mark, Rule)
    assert mark.name.startswith("shift +")


def test_the_smallest_shift_worth_noting() -> None:
    values = stepped(20)
    for smallest, size, count in (
        (10, Size.PERCENT, 1),
        (30, Size.PERCENT, 0),
        (15, Size.UNITS, 1),
        (25, Size.UNITS, 0),
    ):
        entry = Shifts(smallest=smallest, size=size, shortest=14, season=None)
        assert len(run_values(values.tolist(), entry).reports[-1].outcome.evidence[0].rows) == count


def marked(*then: Follow) -> Shift:
    return Shift(on=DAY, named="new timetable", stretch=30, season=None, then=then)


def test_only_marked_changes_nothing_but_the_chart() -> None:
    values = stepped(20)
    result = run_values(values.tolist(), marked())
    line = only_line(result)
    np.testing.assert_array_equal(line.value, values)
    assert (line.condition == Condition.MEASURED).all()
    (mark,) = result.state.shapes
    assert mark.name.startswith("new timetable +")


def test_averages_start_afresh() -> None:
    values = stepped(20)
    result = run_values(values.tolist(), marked(Follow.AFRESH), Average(window=Window(length=7, need=3)))
    mean = result.state.shapes[-1].value
    assert np.isnan(mean[AT : AT + 2]).all()
    assert mean[AT + 2] == pytest.approx(values[AT : AT + 3].mean())
    assert mean[AT - 1] == pytest.approx(values[AT - 7 : AT].mean())


def test_lifting_by_difference_and_by_ratio() -> None:
    values = stepped(20)
    for then, moved in (
        (Follow.DIFFERENCE, lambda v, shift: v + shift[4]),
        (Follow.RATIO, lambda v, shift: v * (1 + shift[4] / shift[2])),
    ):
        result = run_values(values.tolist(), marked(then))
        line = only_line(result)
        shift = result.reports[-1].outcome.evidence[0].rows[0]
        np.testing.assert_allclose(line.value[:AT], moved(values[:AT], shift))
        np.testing.assert_array_equal(line.value[AT:], values[AT:])
        assert (line.condition[:AT] == Condition.ADJUSTED).all()
        assert (line.condition[AT:] == Condition.MEASURED).all()
        np.testing.assert_array_equal(line.original, values)


def test_trend_lines_and_projections_start_from_it() -> None:
    values = stepped(20)
    result = run_values(values.tolist(), marked(Follow.BEGIN), Trend(), smoothing(season=None, ahead=5))
    trend = result.reports[-2].outcome.evidence[0].rows[0]
    fit = stats.linregress(np.arange(120 - AT), values[AT:])
    assert trend[2] == str(DAY)
    assert trend[5] == 120 - AT
    assert trend[3] == pytest.approx(fit.rvalue**2)
    assert result.reports[-1].outcome.touched == 120 - AT


def test_both_lifts_at_once_are_refused() -> None:
    with pytest.raises(ValidationError, match="not by both"):
        marked(Follow.DIFFERENCE, Follow.RATIO)


def test_a_ratio_below_zero_is_refused_with_its_place() -> None:
    values = (stepped(20) - 200).tolist()
    problem = run_values(values, marked(Follow.RATIO)).reports[-1].problem
    assert problem is not None
    assert "above zero" in problem.what
    assert "riders" in (problem.place or "")


def test_a_date_outside_the_series_is_told() -> None:
    entry = Shift(on=date(2030, 1, 1), season=None)
    problem = run_csv(daily_csv([1, 2, 3, 4]), entry).reports[-1].problem
    assert problem is not None
    assert "nothing on both sides" in problem.what


def test_what_is_decided_by_hand_takes_the_place_of_what_was_found() -> None:
    values = stepped(20).tolist()
    found = run_values(values, Shifts(shortest=14, season=None))
    (offer,) = found.reports[-1].outcome.offers
    decided = Shift.model_validate({**offer.params, "named": "second boat"})
    both = run_values(values, Shifts(shortest=14, season=None), decided)
    assert len(both.state.shapes) == 2
    (mark,) = build_figure(both, FigureSettings()).shapes
    assert mark.name.startswith("second boat")
