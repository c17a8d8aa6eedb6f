"""The usual projection with tested limits, against one search of the smoothing library called directly."""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from itertools import product

import pandas as pd
from statsmodels.tsa.exponential_smoothing.ets import ETSModel

from benchmarks.bench_ledger import AS_OF
from benchmarks.measure import Ratio, compare
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.clauses.projected import AheadPeriods, LastPeriods
from zembra.core.ledger.entries.projections.projection import Projection
from zembra.core.ledger.run import run
from zembra.core.ledger.start import first_ledger
from zembra.demo import demo_file

AHEAD, POINTS = 14, 180


def measure() -> Iterator[Ratio]:
    warnings.simplefilter("ignore")
    brought = bring_in(demo_file("sailings.csv"))
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    source = run(brought.observations, begun, AS_OF)
    line = next(one for one in source.state.lines if one.name == "Outer Isles")
    values = pd.Series(line.value).interpolate().iloc[-POINTS:].reset_index(drop=True)

    def direct_search() -> None:
        trends = ((None, False), ("add", False), ("add", True))
        for error, (trend, damped), seasonal in product(("add", "mul"), trends, (None, "add", "mul")):
            if error == "add" and seasonal == "mul":
                continue
            model = ETSModel(
                values, error=error, trend=trend, damped_trend=damped, seasonal=seasonal,
                seasonal_periods=7 if seasonal else None,
            )  # fmt: skip
            fit = model.fit(disp=False)
            if error == "add" and seasonal != "mul":
                fit.get_prediction(start=values.size, end=values.size + AHEAD - 1, method="exact")
            else:
                fit.simulate(AHEAD, anchor="end", repetitions=2000)

    usual = Projection(ahead=AheadPeriods(count=AHEAD), since=LastPeriods(count=POINTS), series=("Outer Isles",))
    yield compare(
        f"the usual projection with tested limits on {POINTS} points",
        6.0,
        lambda: usual.apply(source.state, "p"),
        direct_search,
        rounds=3,
    )
