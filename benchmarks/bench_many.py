"""A study of 2,000 series: its run against a plain pandas script, and an edit against the whole run."""

from __future__ import annotations

import io
from collections.abc import Iterator
from datetime import date, timedelta

import numpy as np
import pandas as pd
from scipy import stats

from benchmarks.measure import Ratio, compare
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.band import Band
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.trend import Trend
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import run

SERIES, DAYS = 2_000, 365
AS_OF = date(2026, 10, 31)
FIRST = AS_OF - timedelta(DAYS - 1)


def measure() -> Iterator[Ratio]:
    rng = np.random.default_rng(11)
    values = rng.normal(900, 60, (DAYS, SERIES)).round(1)
    cells = np.where(rng.random((DAYS, SERIES)) < 0.01, "", values.astype(str))
    rows = (f"{FIRST + timedelta(n)},{','.join(row)}" for n, row in enumerate(cells))
    data = f"day,{','.join(f'stop {n}' for n in range(SERIES))}\n".encode() + "\n".join(rows).encode() + b"\n"
    brought = bring_in(data)
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    frame = pd.read_csv(io.BytesIO(data), parse_dates=["day"], index_col="day").asfreq("D")

    def ledger(left_out: int) -> Ledger:
        window = Window(length=28, need=20)
        trend = Trend(start=FIRST + timedelta(left_out))
        entries = (Outliers(), Blanks(), Average(window=window), Band(window=window), trend)
        records = tuple(record(entry, f"e{n}") for n, entry in enumerate(entries))
        return begun.model_copy(update={"entries": (*begun.entries, *records)})

    def whole() -> None:
        run(brought.observations, ledger(0), AS_OF, memo=Memo())

    def script() -> None:
        for name in frame:
            series = frame[name]
            known = series.dropna()
            usual = known.diff().abs().median()
            far = ((known - known.shift()).abs() > 6 * usual) & ((known - known.shift(-1)).abs() > 6 * usual)
            series = series.mask(far.reindex(series.index, fill_value=False)).interpolate(limit=3, limit_area="inside")
            rolling = series.rolling(28, min_periods=20)
            mean, spread = rolling.mean(), rolling.std()
            _ = (mean - 2 * spread, mean + 2 * spread)
            known = series.dropna()
            stats.linregress((known.index - series.index[0]).days, known)

    memo = Memo()
    left_out = iter(range(1, 60))

    def edit() -> None:
        run(brought.observations, ledger(next(left_out)), AS_OF, memo=memo)

    yield compare(f"{SERIES:,} series × {DAYS} days, five entries", 1, whole, script, rounds=2)
    yield compare("an edit of the last entry against the whole run", 0.2, edit, whole, rounds=3)
