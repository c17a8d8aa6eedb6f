"""Combine the sums of all parts into lines."""

from __future__ import annotations

import numpy as np
import polars as pl

from zembra.core.arithmetic.rolling import rolling_mean
from zembra.core.arithmetic.windows import fixed_windows
from zembra.core.calendar.grain import Grain
from zembra.core.entries.readings.together import Across, Together
from zembra.core.handover.tables import LINE_COLUMNS

_VALUES = {
    Across.SUM: pl.col("total"),
    Across.MEAN: pl.col("total") / pl.col("counted"),
    Across.MIN: pl.col("smallest"),
    Across.MAX: pl.col("largest"),
}


def summed_lines(parts: pl.DataFrame, words: Together, entry: str, grain: Grain) -> pl.DataFrame:
    """Return sums and counts, as in lines.csv. Sums equal those of all series at once up to rounding.

    parts: a row per part and period: period, total, smallest, largest, counted
    """
    every = parts.group_by("period").agg(
        pl.col("total").sum(), pl.col("smallest").min(), pl.col("largest").max(), pl.col("counted").sum()
    )
    low, high = int(every["period"].min()), int(every["period"].max())  # type: ignore[arg-type]
    every = every.sort("period").with_columns(value=_VALUES[words.how])
    counted, periods = every["counted"].to_numpy(), every["period"].to_numpy()
    value = np.where(counted >= words.need, every["value"].to_numpy(), np.nan)
    if words.over:
        # periods without any number keep their place in a window
        row = np.full(high - low + 1, np.nan)
        row[periods - low] = value
        windows = fixed_windows(row.size, words.over, words.over - 1)
        value = rolling_mean(row, windows, max(1, words.over * 2 // 3))[periods - low]
    window = f", {words.over} periods" if words.over else ""
    name = f"{words.how.noun} of all series{window}"
    shared = {"series": "", "kind": Together.kind, "period": grain.labels(periods), "entry": entry, "faded": "no"}
    frames = [
        pl.DataFrame({**shared, "line": line, "value": values})
        for line, values in ((name, value), (f"{name}, how many counted", counted.astype(np.float64)))
    ]
    edges = [pl.lit(None, dtype=pl.Float64).alias(edge) for edge in ("lower", "upper", "level")]
    return pl.concat(frames).with_columns(pl.col("value").fill_nan(None), *edges).select(LINE_COLUMNS)
