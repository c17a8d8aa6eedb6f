"""An edit to the last of six entries, against a plain pandas script that does all six."""

from __future__ import annotations

import io
from collections.abc import Iterator
from datetime import date, timedelta

import numpy as np
import pandas as pd

from benchmarks.measure import Ratio, compare
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Reach, Window
from zembra.core.entries.repairs.blanks import Blanks, Missing
from zembra.core.entries.repairs.clauses.blanks import FilledStraight
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import run

POINTS = 10_000
AS_OF = date(2026, 10, 31)


def daily_file(points: int = POINTS) -> bytes:
    rng = np.random.default_rng(5)
    first = AS_OF - timedelta(points)
    cells = [("" if rng.random() < 0.02 else f"{v:.2f}") for v in rng.normal(900, 60, points)]
    rows = (f"{first + timedelta(n)},{cell}" for n, cell in enumerate(cells) if rng.random() > 0.01)
    return ("day,riders\n" + "\n".join(rows) + "\n").encode()


def measure() -> Iterator[Ratio]:
    data = daily_file()
    brought = bring_in(data)
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    fixed = (
        *begun.entries,
        record(Blanks(treatment=FilledStraight(), classes=(Missing.BLANK,), longest=3), "a"),
        record(Blanks(treatment=FilledStraight(), classes=(Missing.ABSENT,), longest=7), "b"),
        record(Average(window=Window(length=7, need=4)), "c"),
    )
    memo = Memo()
    turn = 0

    def ours() -> None:
        nonlocal turn
        turn += 1
        last = record(Average(window=Window(length=28 + turn, need=20, reach=Reach.CENTRED)), "d")
        run(brought.observations, Ledger(entries=(*fixed, last)), AS_OF, memo=memo)

    def theirs() -> None:
        frame = pd.read_csv(io.BytesIO(data), parse_dates=["day"])
        series = frame.set_index("day")["riders"].astype(float)
        series = series.reindex(pd.date_range(series.index[0], series.index[-1]))
        series = series.interpolate(limit=3, limit_area="inside").interpolate(limit=7, limit_area="inside")
        series.rolling(7, min_periods=4).mean()
        series.rolling(28, min_periods=20, center=True).mean()

    yield compare("edit of the last of six entries, 10,000 days", 0.5, ours, theirs, rounds=15)
