"""The kinds of filling against pandas wherever both define them; zeros that may be blanks; lines stacked."""

from __future__ import annotations

from datetime import date, datetime

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.help import FIRST, daily_csv, only_line, run_csv, run_values
from zembra.core.arithmetic.fills import carried_back, carried_on, interpolated, neighbour_mean, seasonal_usual
from zembra.core.calendar.complete import new_line
from zembra.core.calendar.lines import Condition, Line, Received
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.repairs.blanks import Blanks, Missing
from zembra.core.entries.repairs.clauses.blanks import (
    BlankFate,
    Bridged,
    CarriedBack,
    CarriedOn,
    CountedZero,
    FilledFixed,
    FilledFromNeighbours,
    FilledStraight,
)
from zembra.core.entries.repairs.clauses.outliers import PickedByHand, SetAsideBridged
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.entries.repairs.stretch import stretch_offers
from zembra.core.entries.repairs.zeros import Zeros
from zembra.core.figure.build import build_figure
from zembra.core.figure.model import Arrangement, Ends, FigureSettings, Stack
from zembra.core.figure.stack import stack_edges
from zembra.core.figure.thin import MOST_POINTS, kept_places
from zembra.core.grammar import Nouns, Point
from zembra.core.ledger.run import Result
from zembra.core.speaking import plain

NAN = float("nan")
SERIES = st.lists(st.one_of(st.none(), st.floats(-1e5, 1e5)), min_size=1, max_size=60).map(
    lambda cells: np.array([NAN if cell is None else cell for cell in cells])
)


@given(SERIES)
def test_carrying_is_pandas_ffill_and_bfill(values: np.ndarray) -> None:
    np.testing.assert_array_equal(carried_on(values), pd.Series(values).ffill())
    np.testing.assert_array_equal(carried_back(values), pd.Series(values).bfill())


@given(SERIES, st.lists(st.integers(1, 9), min_size=60, max_size=60))
def test_uneven_dates_are_pandas_interpolate_by_index(values: np.ndarray, gaps: list[int]) -> None:
    at = np.cumsum(gaps[: values.size])
    expected = pd.Series(values, index=at).interpolate("index", limit_area="inside")
    np.testing.assert_allclose(interpolated(values, at), expected, rtol=1e-9, atol=1e-6)


@given(SERIES, st.integers(1, 6))
def test_the_neighbours_average_is_pandas_rolling_mean(values: np.ndarray, reach: int) -> None:
    rolled = pd.Series(values).rolling(2 * reach + 1, center=True, min_periods=1).mean()
    expected = np.where(np.isnan(values), rolled, values)
    np.testing.assert_allclose(neighbour_mean(values, reach), expected, rtol=1e-9, atol=1e-6)


@settings(max_examples=60)
@given(SERIES, st.integers(2, 9), st.integers(1, 4))
def test_the_seasonal_usual_is_the_median_of_nearby_seasons(values: np.ndarray, season: int, need: int) -> None:
    found = seasonal_usual(values, season, need)
    for n in range(values.size):
        near = [values[n + k * season] for k in range(-4, 5) if k and 0 <= n + k * season < values.size]
        near = [v for v in near if not np.isnan(v)]
        expected = values[n] if not np.isnan(values[n]) else np.median(near) if len(near) >= need else NAN
        np.testing.assert_allclose(found[n], expected)


@settings(max_examples=60)
@given(SERIES, st.integers(1, 5), st.sampled_from([FilledStraight(), CarriedOn(), CarriedBack()]))
def test_the_entry_agrees_with_pandas_on_short_inner_gaps(values: np.ndarray, longest: int, how: BlankFate) -> None:
    if np.isnan(values).all():
        return
    line = only_line(run_values(values.tolist(), Blanks(treatment=how, longest=longest)))
    series = pd.Series(values)
    filled = {
        FilledStraight(): series.interpolate(limit_area="inside"),
        CarriedOn(): series.ffill(limit_area="inside"),
        CarriedBack(): series.bfill(limit_area="inside"),
    }[how]
    run_length = series.isna().groupby((~series.isna()).cumsum()).transform("sum")
    expected = filled.where(~(series.isna() & (run_length > longest)))
    np.testing.assert_allclose(line.value, expected.to_numpy(), rtol=1e-9, atol=1e-6)


@pytest.mark.parametrize(
    ("entry", "filled"),
    [
        (Blanks(treatment=FilledFixed(value=7.5), longest=None), [7.5, 7.5, 7.5]),
        (Blanks(treatment=CountedZero(), longest=None), [0, 0, 0]),
        (Blanks(treatment=FilledFromNeighbours(reach=1), longest=None), [10, NAN, 40]),
        (Blanks(treatment=FilledStraight(), longest=2), [NAN, NAN, NAN]),
        (Blanks(treatment=FilledStraight(), classes=(Missing.ABSENT,), longest=None), [NAN, 25, NAN]),
        (Blanks(treatment=FilledStraight(), start=date(2026, 1, 3), longest=None), [NAN, 25, 32.5]),
        (Blanks(treatment=FilledStraight(), end=date(2026, 1, 2), longest=None), [17.5, NAN, NAN]),
        (Blanks(treatment=FilledStraight(), series=("riders",), longest=3), [17.5, 25, 32.5]),
    ],
    ids=["fixed", "zero", "neighbours", "too long", "class", "from", "to", "series"],
)
def test_classes_reach_and_longest_run(entry: Blanks, filled: list[float]) -> None:
    line = only_line(run_csv(daily_csv([10, None, ..., "closed", 40]), entry))
    np.testing.assert_allclose(line.value[1:4], filled)
    for value, condition in zip(filled, line.condition[1:4], strict=True):
        assert condition == (Condition.OPEN if np.isnan(value) else Condition.FILLED)


def test_an_entry_for_single_hours() -> None:
    data = ("at,n\n" + "".join(f"2026-01-01T{h:02d}:00,{'' if h in (3, 7) else h}\n" for h in range(12))).encode()
    entry = Blanks(start=datetime(2026, 1, 1, 7), end=datetime(2026, 1, 1, 7))
    line = only_line(run_csv(data, entry))
    assert np.isnan(line.value[3])
    assert line.value[7] == 7
    again = Blanks.model_validate_json(entry.model_dump_json())
    assert again == entry


ZERO_DAYS = [50.0, 52, 0, 51, 49, 0, 0, 50, 53, 48]


def test_zeros_that_may_be_blanks_are_pointed_out_and_listed() -> None:
    plain = run_values(ZERO_DAYS)
    (offer,) = plain.reports[1].outcome.offers
    assert "1 zero stands alone in riders" in offer.why
    treated = run_values(ZERO_DAYS, Zeros())
    line = only_line(treated)
    assert np.flatnonzero(np.isnan(line.value)).tolist() == [2]  # two in a row are no accident
    assert line.original[2] == 0
    rows = treated.reports[-1].outcome.evidence[0].rows
    assert rows == (("riders", "2026-01-03", 52.0, 51.0, "blank"),)
    kept = only_line(run_values(ZERO_DAYS, Zeros(kept=(date(2026, 1, 3),))))
    assert kept.value[2] == 0


def test_zeros_of_a_series_that_comes_near_zero_are_left() -> None:
    result = run_values([5.0, 0, 0.3, 1, 2, 0, 4, 6], Zeros())
    assert not np.isnan(only_line(result).value).any()
    assert result.reports[1].outcome.offers == ()


def test_what_it_did_to_the_figures_is_told() -> None:
    result = run_csv(daily_csv([10, None, 30, 40]), Blanks())
    table = result.reports[-1].outcome.evidence[1]
    assert tuple(column.title for column in table.columns[:6]) == (
        "Series",
        "Count",
        "Sum",
        "Mean",
        "Spread (n − 1)",
        "Last value",
    )
    before, after = table.rows
    assert before[1:4] == (3, 80, pytest.approx(80 / 3))
    assert after[1:4] == (4, 100, 25)


def line_of(name: str, values: list[float], first: int = 0) -> Line:
    numbers = np.array(values)
    received = np.where(np.isnan(numbers), Received.BLANK, Received.MEASURED).astype(np.uint8)
    count = np.ones(numbers.size, dtype=np.int32)
    return new_line(name, np.arange(first, first + numbers.size), numbers, received, np.arange(numbers.size), count)


def test_a_blank_opens_the_stack_and_never_drags_it_down() -> None:
    lines = [line_of("a", [1, 2, NAN, 4]), line_of("b", [10, NAN, 30, 40]), line_of("c", [1, 1], first=2)]
    edges = stack_edges(lines, Stack.STOP)
    np.testing.assert_array_equal(edges["a"][1], [NAN, NAN, NAN, 4])
    np.testing.assert_array_equal(edges["b"][0], [NAN, NAN, NAN, 4])
    np.testing.assert_array_equal(edges["b"][1], [NAN, NAN, NAN, 44])
    np.testing.assert_array_equal(edges["c"][1], [NAN, 45])
    there = stack_edges(lines, Stack.THERE)
    np.testing.assert_array_equal(there["a"][1], [1, 2, NAN, 4])
    np.testing.assert_array_equal(there["b"][1], [11, NAN, 30, 44])
    np.testing.assert_array_equal(there["b"][2], [True, False, True, False])
    bridged = stack_edges(lines, Stack.BRIDGE)
    np.testing.assert_array_equal(bridged["b"][1], [11, 22, 33, 44])
    np.testing.assert_array_equal(bridged["a"][2], [True, True, True, False])


def upkeep(*entries: Blanks) -> Result:
    from zembra.demo import demo_file

    return run_csv(demo_file("upkeep_by_month.xlsx"), *entries)


def test_stacked_upkeep_ends_where_the_choice_says() -> None:
    said = {how: plain(FigureSettings(arrangement=Arrangement.STACKED, stack=how), Nouns()) for how in Stack}
    assert "each to its own last value" not in said[Stack.STOP]
    assert "each to its own last value" in said[Stack.THERE]
    for ends, last in ((Ends.OWN, "2026-10"), (Ends.TOGETHER, "2026-08")):
        result = upkeep()
        figure = build_figure(result, FigureSettings(arrangement=Arrangement.STACKED, ends=ends))
        months = [str(np.datetime64(t, "ms").astype("datetime64[M]")) for t in figure.series[0].t]
        assert months[-1] == last
        tops = [line.top for line in figure.series]
        whole = [n for n, top in enumerate(tops[-1]) if top is not None]
        for n in whole:
            assert tops[-1][n] == pytest.approx(sum(line.v[n] for line in figure.series))
        assert all(top[n] is None for top in tops for n in range(len(months)) if n not in whole)


def test_filling_closes_the_stack() -> None:
    open_, filled = (
        build_figure(upkeep(*entries), FigureSettings(arrangement=Arrangement.STACKED)).series[-1].top
        for entries in ((), (Blanks(longest=3),))
    )
    assert sum(v is None for v in filled) < sum(v is None for v in open_)


@given(st.integers(1, 60_000), st.integers(0, 3), st.randoms(use_true_random=False))
def test_thinning_keeps_extremes_ends_and_gaps(size: int, holes: int, chance: object) -> None:
    rng = np.random.default_rng(size)
    values = rng.normal(0, 1, size)
    odd = np.zeros(size, dtype=bool)
    for _ in range(holes):
        at = int(rng.integers(0, size))
        values[at : at + 40] = np.nan
        odd[at : at + 40] = True
    kept = kept_places(values, odd, 0, size)
    if size <= MOST_POINTS:
        assert kept is None
        return
    assert kept is not None
    assert kept.size < 10_000
    assert {0, size - 1} <= set(kept.tolist())
    assert np.nanmax(values[kept]) == np.nanmax(values)
    assert np.nanmin(values[kept]) == np.nanmin(values)
    edges = np.flatnonzero(np.diff(odd.astype(int)))
    assert set(edges.tolist()) <= set(kept.tolist())


def test_a_thinned_figure_knows_its_places() -> None:
    size = 20_000
    result = run_values(np.sin(np.arange(size) / 50).tolist(), Average(window=Window(length=30, need=1)))
    figure = build_figure(result, FigureSettings())
    assert figure.thinned
    (series,), (reading,) = figure.series, figure.shapes
    assert series.points == size
    assert len(series.t) == len(series.places) < size
    line = only_line(result)
    assert series.v == line.value[series.places].tolist()
    assert len(reading.t) < size
    window = (series.t[0], series.t[0] + 90 * 86_400_000)
    close = build_figure(result, FigureSettings(), window).series[0]
    assert close.places[:50] == list(range(50))


def test_marks_and_codes_reach_the_figure() -> None:
    spike = Point(series="riders", period="2026-01-03")
    entry = Outliers(rule=PickedByHand(points=(spike,)), then=SetAsideBridged())
    figure = build_figure(
        run_csv(daily_csv([10, 11, 90, None, 12]), entry, Blanks(treatment=Bridged())), FigureSettings()
    )
    assert figure.series[0].c == "mmtbm"


def test_a_stretch_offers_what_can_be_done_for_just_it() -> None:
    result = run_csv(daily_csv([10, None, None, 40, 50]))
    line = only_line(result)
    offers = stretch_offers(result.state, line, 1, 2)
    assert {offer.kind for offer in offers} == {"blanks"}
    chosen = next(offer for offer in offers if offer.params["treatment"] == {"kind": "straight"})
    treated = only_line(run_csv(daily_csv([10, None, None, 40, 50]), Blanks.model_validate(dict(chosen.params))))
    assert treated.value.tolist() == [10, 20, 30, 40, 50]
    for_values = stretch_offers(result.state, line, 3, 4)
    assert [offer.kind for offer in for_values] == ["outliers"] * 4 + ["shift", "provisional"]
    picked = Outliers.model_validate(dict(for_values[0].params))
    assert isinstance(picked.rule, PickedByHand)
    assert [one.period for one in picked.rule.points] == ["2026-01-04", "2026-01-05"]
    assert date(2026, 1, 1) == FIRST
