"""Numbers that were wrong once: rolling spreads, tiny residuals, derived points, a memo with a waiting entry."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.help import run_values
from zembra.core.arithmetic.regression import straight_fit
from zembra.core.arithmetic.rolling import rolling_mean, rolling_spread
from zembra.core.arithmetic.windows import fixed_windows
from zembra.core.calendar.grain import Grain, Unit
from zembra.core.calendar.lines import Condition
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.clauses.blanks import FilledStraight
from zembra.core.entries.repairs.clauses.derivations import Change
from zembra.core.entries.repairs.derive import Derive


@given(st.integers(2, 40), st.integers(0, 200), st.floats(0, 0.5))
def test_a_huge_value_spoils_no_window_it_is_not_in(window: int, seed: int, gaps: float) -> None:
    rng = np.random.default_rng(seed)
    values = rng.normal(100, 1, 120)
    values[rng.random(120) < gaps] = np.nan
    values[50] = 9_999_999_999
    windows = fixed_windows(values.size, window, window - 1)
    mean, spread = rolling_mean(values, windows, 2), rolling_spread(values, windows, 2)
    for at in range(120):
        inside = values[max(0, at - window + 1) : at + 1]
        inside = inside[~np.isnan(inside)]
        if inside.size < 2:
            assert np.isnan(spread[at])
            continue
        assert mean[at] == pytest.approx(inside.mean(), rel=1e-12)
        assert spread[at] == pytest.approx(inside.std(ddof=1), rel=1e-9)


def test_a_small_spread_round_a_steep_line_and_a_fit_of_large_numbers() -> None:
    x = np.arange(200.0)
    noise = np.random.default_rng(1).normal(0, 1, 200)
    fit = straight_fit(x, 3 + 2 * x + 1e-6 * noise)
    assert fit is not None
    assert fit.spread == pytest.approx(1e-6, rel=0.2)
    large = straight_fit(x, 1e12 + noise)
    assert large is not None
    assert large.r2 is not None


def test_a_change_from_a_filled_value_is_no_measured_one() -> None:
    result = run_values([10, None, 30, 40], Blanks(treatment=FilledStraight()), Derive(what=Change()))
    now = [Condition(int(one)) for one in result.state.lines[0].condition]
    assert now == [Condition.OPEN, Condition.FILLED, Condition.FILLED, Condition.MEASURED]


@given(
    st.sampled_from(list(Unit)),
    st.integers(1, 12),
    st.integers(0, 6),
    st.integers(-2000, 2000),
    st.sampled_from([1, 2, 5]),
)
def test_labels_go_there_and_back(unit: Unit, year_start: int, week_start: int, period: int, step: int) -> None:
    grain = Grain(unit, 1 if unit is Unit.MOMENT else step, week_start, year_start)
    assert grain.parse(grain.label(period)) == period


@given(st.integers(0, 20_000))
def test_hours_of_a_place_go_there_and_back(hour: int) -> None:
    grain = Grain(Unit.HOUR, zone="Europe/Berlin")
    assert grain.parse(grain.label(480_000 + hour)) == 480_000 + hour
