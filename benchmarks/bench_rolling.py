"""Every rolling kind on a million points, against pandas."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
import pandas as pd

from benchmarks.measure import Ratio, compare
from zembra.core.arithmetic.rolling import (
    exponential_mean,
    rising_mean,
    rolling_count,
    rolling_mean,
    rolling_order,
    rolling_spread,
    rolling_sum,
)
from zembra.core.arithmetic.windows import fixed_windows

POINTS, WINDOW, NEED = 1_000_000, 28, 20


def measure() -> Iterator[Ratio]:
    rng = np.random.default_rng(9)
    values = np.where(rng.random(POINTS) < 0.01, np.nan, rng.normal(50, 5, POINTS))
    series = pd.Series(values)
    rolled = series.rolling(WINDOW, min_periods=NEED)
    windows = fixed_windows(POINTS, WINDOW, WINDOW - 1)
    weights = np.arange(1.0, WINDOW + 1)

    def weighted() -> None:
        known = series.fillna(0.0).to_numpy()
        np.convolve(known, weights[::-1]) / np.convolve(series.notna().to_numpy(float), weights[::-1])

    kinds: dict[str, tuple[Callable[[], object], Callable[[], object]]] = {
        "mean": (lambda: rolling_mean(values, windows, NEED), rolled.mean),
        "sum": (lambda: rolling_sum(values, windows, NEED), rolled.sum),
        "count": (lambda: rolling_count(values, windows, NEED), rolled.count),
        "spread": (lambda: rolling_spread(values, windows, NEED), rolled.std),
        "smallest": (lambda: rolling_order(values, windows, NEED, "min"), rolled.min),
        "middle": (lambda: rolling_order(values, windows, NEED, "median"), rolled.median),
        "percentile": (lambda: rolling_order(values, windows, NEED, "quantile", 0.9), lambda: rolled.quantile(0.9)),
        "newest most": (lambda: rising_mean(values, windows, NEED), weighted),
        "exponential": (
            lambda: exponential_mean(values, 2 / 29, NEED, (), decays=False),
            lambda: series.ewm(span=28, ignore_na=True, min_periods=NEED).mean(),
        ),
    }
    for name, (ours, theirs) in kinds.items():
        yield compare(f"{name} over {WINDOW} of {POINTS:,} points", 1.5, ours, theirs, rounds=3)
