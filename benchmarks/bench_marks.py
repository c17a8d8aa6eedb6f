"""A mark entry over ten long series, against a plain pandas script that does the same."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta

import numpy as np
import pandas as pd

from benchmarks.bench_edit import ten_series
from benchmarks.measure import Ratio, compare
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.readings.clauses.edges import AgainstNumber
from zembra.core.entries.readings.marks import Marks
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import run

AS_OF = date(2026, 10, 31)
LINE, RUN, LABELLED = 900.0, 3, 8


def measure() -> Iterator[Ratio]:
    brought = bring_in(ten_series())
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    state = run(brought.observations, begun, AS_OF).state
    entry = Marks(against=AgainstNumber(number=LINE), run=RUN, most=LABELLED)
    ledger = Ledger(intake=brought.how, entries=(*begun.entries, record(entry)))
    days = pd.DatetimeIndex([AS_OF - timedelta(len(state.lines[0]) - 1 - n) for n in range(len(state.lines[0]))])
    table = pd.DataFrame({line.name: line.value for line in state.lines}, index=days)

    def plain() -> list[pd.DataFrame]:
        found = []
        for name in table:
            values = table[name]
            over = values > LINE
            runs = (over != over.shift()).cumsum()
            kept = over & (over.groupby(runs).transform("size") >= RUN)
            marked = pd.DataFrame({"value": values[kept], "away": values[kept] - LINE})
            marked["percent"] = 100 * marked["away"] / LINE
            marked["label"] = ""
            top = marked["away"].abs().nlargest(LABELLED).index
            marked.loc[top, "label"] = [f"{away:+.4g}" for away in marked.loc[top, "away"]]
            marked["day"] = pd.DatetimeIndex(marked.index).strftime("%Y-%m-%d")
            found.append(marked)
        return found

    outcome = entry.apply(state, "m")
    assert outcome.touched == sum(len(one) for one in plain())
    assert run(brought.observations, ledger, AS_OF).reports[-1].outcome.touched == outcome.touched
    assert not np.isnan(outcome.findings[0].value)
    yield compare("marks over 10 × 3,650 points", 1.0, lambda: entry.apply(state, "m"), plain)
