"""The usual projection with tested limits, against one call of a compiled library's automatic smoothing (`make compare`), and
against a plain search with the statistics library where that is not installed."""

from __future__ import annotations

import warnings
from collections.abc import Callable, Iterator
from importlib.util import find_spec
from itertools import product

import numpy as np
import pandas as pd
from statsmodels.tsa.exponential_smoothing.ets import ETSModel

from benchmarks.bench_ledger import AS_OF
from benchmarks.measure import Ratio, compare, seconds
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.projected import AheadPeriods, LastPeriods
from zembra.core.entries.projections.projection import Projection
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.run import run
from zembra.core.ledger.state import State
from zembra.core.projection import models
from zembra.demo import demo_file

AHEAD, POINTS = 14, 180
SERIES, DAYS, LONG = 100, 365, 3650
LONG_SECONDS = 1.5


def measure() -> Iterator[Ratio]:
    warnings.simplefilter("ignore")
    source = _state(demo_file("sailings.csv"))
    line = next(one for one in source.lines if one.name == "Outer Isles")
    values = pd.Series(line.value).interpolate().iloc[-POINTS:].to_numpy()
    usual = Projection(ahead=AheadPeriods(count=AHEAD), since=LastPeriods(count=POINTS), series=("Outer Isles",))
    compiled = find_spec("statsforecast") is not None
    what = "the compiled library's automatic smoothing" if compiled else "a plain search"
    smooth = _compiled if compiled else _plain_search
    yield compare(
        f"the usual projection with tested limits on {POINTS} points, against {what}",
        1.0,
        lambda: _anew(usual, source),
        lambda: smooth(values),
        rounds=5,
    )
    many = _state(_days(SERIES, DAYS))
    every = Projection(ahead=AheadPeriods(count=AHEAD))
    columns = [one.value for one in many.lines]
    yield compare(
        f"the same of {SERIES} series of {DAYS} days, against {what} without tested limits",
        1.5,
        lambda: _anew(every, many),
        lambda: [smooth(column) for column in columns],
        rounds=1,
    )
    long = _state(_days(1, LONG))
    took = min(seconds(lambda: _anew(every, long)) for _ in range(3))
    name = f"the same of {LONG:,} days, of {LONG_SECONDS} s"
    yield Ratio(name, took / LONG_SECONDS, 1.0, f"{took:.2f} s, best of 3")


def _anew(entry: Projection, state: State) -> None:
    """Nothing that was fitted before is remembered."""
    models.FITTED.clear()
    entry.apply(state, "p")


def _state(data: bytes) -> State:
    brought = bring_in(data)
    return run(brought.observations, first_ledger(brought.observations, brought.how, AS_OF), AS_OF).state


def _days(series: int, days: int) -> bytes:
    """Seeded walks with a week, as CSV."""
    rng = np.random.default_rng(7)
    at = np.arange(days)
    walks = (
        300
        + rng.normal(0, 2, (series, days)).cumsum(axis=1)
        + 20 * np.sin(at * 2 * np.pi / 7)
        + rng.normal(0, 4, (series, days))
    )
    dates = np.datetime64("2016-01-01") + at
    rows = [
        f"{day},route {n},{value:.1f}" for n, row in enumerate(walks) for day, value in zip(dates, row, strict=True)
    ]
    return "\n".join(["day,route,riders", *rows]).encode()


def _compiled(values: np.ndarray) -> None:
    from statsforecast.models import AutoETS

    AutoETS(season_length=7).forecast(y=values, h=AHEAD, level=[80, 95])


def _plain_search(values: np.ndarray) -> None:
    trends: tuple[tuple[str | None, bool], ...] = ((None, False), ("add", False), ("add", True))
    forms: Callable[..., Iterator[tuple[str, tuple[str | None, bool], str | None]]] = product
    for error, (trend, damped), seasonal in forms(("add", "mul"), trends, (None, "add", "mul")):
        if error == "add" and seasonal == "mul":
            continue
        model = ETSModel(
            pd.Series(values), error=error, trend=trend, damped_trend=damped, seasonal=seasonal,
            seasonal_periods=7 if seasonal else None,
        )  # fmt: skip
        fit = model.fit(disp=False)
        if error == "add" and seasonal != "mul":
            fit.get_prediction(start=values.size, end=values.size + AHEAD - 1, method="exact")
        else:
            fit.simulate(AHEAD, anchor="end", repetitions=2000)
