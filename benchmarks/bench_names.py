"""Two million names: how long and how much memory `zembra many` takes for them, and whether every one of them comes out.

ZEMBRA_BENCH_NAMES says how many (2 000 000); each has seven days.
"""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from pathlib import Path

import polars as pl

from benchmarks.bench_very_many import AS_OF, Peak, _ledger, write_rows
from benchmarks.measure import Ratio, seconds
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.intake.bringin import quiet
from zembra.service.many.drive import ManyRequest, run_many
from zembra.work.processes import Processes, preload

DAYS, FEW = 7, 200
WITHIN, GIGABYTES = 3600, 8  # seconds; of memory of all processes


def measure() -> Iterator[Ratio]:
    preload(("zembra.service.many.work",))
    names = int(os.environ.get("ZEMBRA_BENCH_NAMES", "2000000"))
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        many, few = folder / "many.parquet", folder / "few.parquet"
        write_rows(many, names, DAYS)
        write_rows(few, FEW, DAYS)
        ledger = _ledger(few, Blanks(), Average(window=Window(length=3, need=2)))
        with Peak() as peak:
            took = seconds(lambda: run_many(ManyRequest([many], ledger, AS_OF, folder / "out"), Processes(2), quiet))
        there = pl.scan_parquet(folder / "out" / "series.parquet").select(pl.col("series").n_unique()).collect().item()
    said = f"{took:.0f} s in two processes"
    yield Ratio(f"{names:,} names of {DAYS} days: those that did not come out", names - there, 0, said)
    yield Ratio(f"{names:,} names of {DAYS} days: an hour", took / WITHIN, 1, said)
    yield Ratio(f"{names:,} names of {DAYS} days: memory of all processes, in GB", peak.gigabytes, GIGABYTES, said)
