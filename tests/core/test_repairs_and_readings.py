"""Blanks and averages against pandas, on random series with blanks."""

from datetime import date

import numpy as np
import pandas as pd
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.help import daily_csv, only_line, run_csv, run_values
from zembra.core.arithmetic.arrays import runs
from zembra.core.arithmetic.fills import inner_gaps, interpolated, seasonal_usual
from zembra.core.arithmetic.rolling import rolling_mean, rolling_spread
from zembra.core.arithmetic.windows import fixed_windows
from zembra.core.calendar.lines import Condition, Received
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.band import Band
from zembra.core.entries.readings.clauses.bands import AnyWidth, Percentiles, ScaledDeviations, Spreads
from zembra.core.entries.readings.clauses.windows import Reach, Window
from zembra.core.entries.repairs.blanks import Blanks, Missing
from zembra.core.entries.repairs.clauses.blanks import Bridged, CountedZero, FilledStraight, LeftOpen
from zembra.core.entries.repairs.follow import Follow
from zembra.core.entries.repairs.marked_shift import Shift
from zembra.core.errors import Refusal

VALUES = st.lists(st.one_of(st.none(), st.floats(-1e6, 1e6)), min_size=1, max_size=80).map(
    lambda cells: np.array([np.nan if cell is None else cell for cell in cells])
)


@given(VALUES, st.integers(2, 30), st.integers(1, 30), st.sampled_from(Reach))
def test_moving_average_is_pandas_rolling(values: np.ndarray, window: int, need: int, reach: Reach) -> None:
    need = min(need, window)
    windows = fixed_windows(values.size, window, reach.before(window))
    mean, used = rolling_mean(values, windows, need), windows.counts(~np.isnan(values))
    # pandas rolls backwards only: the other reaches are the same windows, shifted
    ahead = window - 1 - reach.before(window)
    padded = pd.Series(np.concatenate((values, np.full(ahead, np.nan))))
    rolled = padded.rolling(window, min_periods=need)
    np.testing.assert_allclose(mean, rolled.mean().to_numpy()[ahead:], rtol=1e-9, atol=1e-6)
    np.testing.assert_array_equal(used, padded.rolling(window, min_periods=0).count().to_numpy()[ahead:])


@given(VALUES)
def test_interpolated_is_pandas_interpolate(values: np.ndarray) -> None:
    expected = pd.Series(values).interpolate("linear", limit_area="inside").to_numpy()
    np.testing.assert_allclose(interpolated(values), expected, rtol=1e-9, atol=1e-6)


@given(VALUES, st.integers(1, 5))
def test_gaps_are_whole_and_never_at_the_ends(values: np.ndarray, longest: int) -> None:
    gaps = inner_gaps(values, longest)
    assert not np.any(gaps & ~np.isnan(values))
    for first, end in runs(gaps):
        assert first > 0
        assert end < values.size
        assert end - first <= longest
        assert not np.isnan(values[first - 1])
        assert not np.isnan(values[end])


@settings(max_examples=40)
@given(VALUES, st.integers(1, 4))
def test_filling_keeps_every_received_number(values: np.ndarray, longest: int) -> None:
    assume((~np.isnan(values)).any())
    line = only_line(run_values(values.tolist(), Blanks(treatment=FilledStraight(), longest=longest)))
    measured = line.received == Received.MEASURED
    np.testing.assert_array_equal(line.value[measured], line.original[measured])
    filled = line.condition == Condition.FILLED
    assert not np.any(filled & measured)
    assert np.all(np.isnan(line.value) == (line.condition == Condition.OPEN))


def test_treatments_differ_in_what_counts() -> None:
    data = daily_csv([10, None, ..., 40, "closed", 60])
    for treatment, values, counted in [
        (LeftOpen(), [10, None, None, 40, None, 60], 3),
        (Bridged(), [10, None, None, 40, None, 60], 3),
        (FilledStraight(), [10, 20, 30, 40, 50, 60], 6),
        (CountedZero(), [10, 0, 0, 40, 0, 60], 6),
    ]:
        result = run_csv(data, Blanks(treatment=treatment, longest=2), Average(window=Window(length=6, need=1)))
        line = only_line(result)
        np.testing.assert_array_equal(line.value, np.array(values, dtype=float))
        assert bool(line.bridged.any()) is (isinstance(treatment, Bridged))
        known = [v for v in values if v is not None]
        assert result.state.shapes[0].value[-1] == pytest.approx(sum(known) / counted)


def test_only_the_chosen_classes_are_touched() -> None:
    data = daily_csv([10, None, ..., 40])
    line = only_line(run_csv(data, Blanks(treatment=FilledStraight(), classes=(Missing.BLANK,), longest=2)))
    np.testing.assert_array_equal(line.value, [10, 20, np.nan, 40])


def test_leading_and_trailing_blanks_are_never_filled() -> None:
    line = only_line(run_csv(daily_csv([None, 5, None, 7, None]), Blanks(treatment=CountedZero(), longest=None)))
    np.testing.assert_array_equal(line.value, [np.nan, 5, 0, 7, np.nan])


def test_an_average_with_too_few_numbers_says_so() -> None:
    result = run_values([1.0, 2.0, 3.0], Average(window=Window(length=28, need=20)))
    assert isinstance(result.reports[-1].problem, Refusal)
    assert result.state.shapes == ()


def test_the_seasonal_usual_is_the_middle_of_the_same_places() -> None:
    values = np.array([1, 2, 3, 4, np.nan, 6, 9, 8, 9], dtype=float)
    assert seasonal_usual(values, 3)[4] == pytest.approx(np.median([2, 8]))
    assert np.isnan(seasonal_usual(values, 3, need=3)[4])


@given(VALUES, st.integers(2, 30), st.integers(2, 30), st.sampled_from(Reach))
def test_moving_spread_is_pandas_rolling_std(values: np.ndarray, window: int, need: int, reach: Reach) -> None:
    need = min(need, window)
    ahead = window - 1 - reach.before(window)
    padded = pd.Series(np.concatenate((values, np.full(ahead, np.nan))))
    expected = np.array([padded.iloc[max(0, n - window + 1) : n + 1].dropna().std() for n in range(len(padded))])
    counts = padded.rolling(window, min_periods=0).count().to_numpy()
    expected[counts < need] = np.nan
    spread = rolling_spread(values, fixed_windows(values.size, window, reach.before(window)), need)
    size = np.nanmax(np.abs(values), initial=1.0)
    np.testing.assert_allclose(spread, expected[ahead:], rtol=1e-6, atol=1e-6 * size)


@pytest.mark.parametrize(
    "width", [Spreads(times=2), Spreads(times=1), Percentiles(), ScaledDeviations(times=2)], ids=str
)
@pytest.mark.parametrize("length", [3, 8, 28])
def test_what_would_lie_inside_is_what_lies_inside_of_noise(width: AnyWidth, length: int) -> None:
    noise = np.random.default_rng(2).normal(100, 5, 6000).tolist()
    result = run_values(noise, Band(window=Window(length=length, need=length), width=width))
    _, _, _, share, told = result.reports[-1].outcome.evidence[0].rows[0]
    assert told == pytest.approx(share, abs=2)


def test_a_band_lies_around_the_average_and_starts_afresh() -> None:
    rng = np.random.default_rng(3)
    values = np.where(np.arange(60) < 30, 100.0, 160.0) + rng.normal(0, 4, 60)
    shift = Shift(on=date(2026, 1, 31), season=None, then=(Follow.AFRESH,))
    result = run_values(values.tolist(), shift, Band(window=Window(length=10, need=4), width=Spreads(times=2)))
    _, band, limits = result.state.shapes
    parts = [pd.Series(values[:30]), pd.Series(values[30:])]
    mean = pd.concat([part.rolling(10, min_periods=4).mean() for part in parts]).to_numpy()
    spread = pd.concat([part.rolling(10, min_periods=4).std() for part in parts]).to_numpy()
    np.testing.assert_allclose(band.value, mean)
    np.testing.assert_allclose(limits.lower, mean - 2 * spread)
    np.testing.assert_allclose(limits.upper, mean + 2 * spread)
    assert limits.level is None
    name, judged, inside, share, _ = result.reports[-1].outcome.evidence[0].rows[0]
    expected = (values >= mean - 2 * spread) & (values <= mean + 2 * spread)
    assert (name, judged, inside) == ("riders", 54, int(expected.sum()))
    assert share == pytest.approx(100 * expected.sum() / 54)
    refused = run_values([1.0, 2.0], Band()).reports[-1].problem
    assert isinstance(refused, Refusal)
