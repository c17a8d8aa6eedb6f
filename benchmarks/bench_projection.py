"""A projection entry against the smoothing library called directly."""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from itertools import product

import pandas as pd
from statsmodels.tsa.exponential_smoothing.ets import ETSModel

from benchmarks.bench_ledger import AS_OF
from benchmarks.measure import Ratio, compare
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.clauses.smoothingforms import ErrorForm, FormByHand, SeasonForm, TrendForm
from zembra.core.ledger.entries.projections.smoothing import Smoothing
from zembra.core.ledger.run import run
from zembra.core.ledger.start import first_ledger
from zembra.demo import demo_file

AHEAD = 56


def measure() -> Iterator[Ratio]:
    warnings.simplefilter("ignore")
    brought = bring_in(demo_file("sailings.csv"))
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    source = run(brought.observations, begun, AS_OF)
    values = pd.Series(source.state.lines[0].value).interpolate()

    def ours(entry: Smoothing) -> None:
        entry.apply(source.state, "p")

    def direct(error: str, trend: str | None, damped: bool, seasonal: str | None) -> float:
        model = ETSModel(
            values, error=error, trend=trend, damped_trend=damped, seasonal=seasonal,
            seasonal_periods=7 if seasonal else None,
        )  # fmt: skip
        fit = model.fit(disp=False)
        if error == "add" and seasonal != "mul":
            fit.get_prediction(start=values.size, end=values.size + AHEAD - 1, method="exact")
        else:
            fit.simulate(AHEAD, anchor="end", repetitions=2000)
        return float(fit.aicc)

    def direct_search() -> None:
        trends = ((None, False), ("add", False), ("add", True))
        for error, (trend, damped), seasonal in product(("add", "mul"), trends, (None, "add", "mul")):
            if not (error == "add" and seasonal == "mul"):
                direct(error, trend, damped, seasonal)

    series = ("Outer Isles",)
    named = Smoothing(
        ahead=AHEAD, season=7, series=series, form=FormByHand(error=ErrorForm.ADDITIVE, trend=TrendForm.ADDITIVE, seasonality=SeasonForm.ADDITIVE),
    )  # fmt: skip
    best = Smoothing(ahead=AHEAD, season=7, series=series)
    yield compare(
        "projection with a named form", 1.1, lambda: ours(named), lambda: direct("add", "add", False, "add"), rounds=5
    )
    yield compare("projection with the best form", 1.1, lambda: ours(best), direct_search, rounds=3)
