"""Very many series: one process, two, a cluster of two, a plain script; memory; a second run after some changed; and the usual
projection of many.

ZEMBRA_BENCH_SERIES says how many (100 000); each has 365 days. ZEMBRA_BENCH_PROJECTED says how many are projected (10 000).
"""

from __future__ import annotations

import os
import shutil
import tempfile
import threading
import time
from collections.abc import Iterator
from datetime import date
from pathlib import Path

import numpy as np
import polars as pl

from benchmarks.measure import Ratio, seconds
from benchmarks.plain_many import run as run_plainly
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.projected import AheadPeriods
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.band import Band
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.trend import Trend
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.intake.bringin import bring_in, quiet
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import Ledger, record
from zembra.service.many.drive import ManyRequest, run_many
from zembra.work.cluster import Cluster
from zembra.work.executor import Executor
from zembra.work.processes import Processes, preload

DAYS = 365
AS_OF = date(2026, 10, 31)
FEW = 2_000
CHUNK = 5_000
AHEAD = 14
PROJECTED_DAYS = 180
SAMPLE = 60  # series that the compiled library is timed on


def measure() -> Iterator[Ratio]:
    preload(("zembra.service.many.work",))
    series = int(os.environ.get("ZEMBRA_BENCH_SERIES", "100000"))
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        many, few = folder / "many.parquet", folder / "few.parquet"
        write_rows(many, series)
        write_rows(few, FEW)
        ledger = _ledger(few)
        name = f"{series:,} series of {DAYS} days, five entries"
        with Peak() as peak:
            two = seconds(lambda: _run(many, ledger, folder / "two", Processes(2)))
        yield Ratio(f"{name}: memory of all processes, in GB", peak.gigabytes, 3.0, f"at most {peak.gigabytes:.2f} GB")
        one = seconds(lambda: _run(many, ledger, folder / "one", Processes(1)))
        yield Ratio(f"{name}: two processes, of one", two / one, 1 / 1.7, f"{two:.0f} s against {one:.0f} s")
        shutil.rmtree(folder / "one")
        clustered = seconds(lambda: _on_cluster(many, ledger, folder / "cluster"))
        yield Ratio(
            f"{name}: two workers of a cluster, of two processes",
            clustered / two,
            1.3,
            f"{clustered:.0f} s against {two:.0f} s",
        )
        shutil.rmtree(folder / "cluster")
        small = seconds(lambda: _run(few, ledger, folder / "few", Processes(2)))
        costs = 1000 * two / series, 1000 * small / FEW
        yield Ratio(
            f"a series of {series:,}, of one of {FEW:,}",
            costs[0] / costs[1],
            1.2,
            f"{costs[0]:.2f} ms against {costs[1]:.2f} ms",
        )
        plain = seconds(lambda: run_plainly(many, folder / "plain", 2))
        yield Ratio(
            f"{name}: of a plain script in two processes", two / plain, 1.5, f"{two:.0f} s against {plain:.0f} s"
        )
        shutil.rmtree(folder / "plain")
        _change(many, series // 100)
        read = seconds(lambda: _run(many, ledger, folder / "read", Processes(2), only_read=True))
        again = seconds(lambda: _run(many, ledger, folder / "two", Processes(2)))
        yield Ratio(
            f"{name}: again after 1 % of them changed, beyond reading, of the first",
            max(0.0, again - read) / two,
            0.05,
            f"{again:.1f} s, {read:.1f} s of them reading, against {two:.0f} s",
        )

        yield _projected(folder)


def _projected(folder: Path) -> Ratio:
    """The usual projection of many series, in two processes, against the compiled library's automatic smoothing of some in one."""
    from statsforecast.models import AutoETS

    series = int(os.environ.get("ZEMBRA_BENCH_PROJECTED", "10000"))
    file, few = folder / "projected.parquet", folder / "sample.parquet"
    write_rows(file, series, PROJECTED_DAYS)
    write_rows(few, SAMPLE, PROJECTED_DAYS)
    ours = seconds(
        lambda: _run(file, _ledger(few, Projection(ahead=AheadPeriods(count=AHEAD))), folder / "p", Processes(2))
    )
    columns = [part["value"].fill_null(100.0).to_numpy() for part in pl.read_parquet(few).partition_by("series")]
    theirs = seconds(lambda: [AutoETS(season_length=7).forecast(y=y, h=AHEAD, level=[80, 95]) for y in columns])
    each = 1000 * 2 * ours / series, 1000 * theirs / SAMPLE
    return Ratio(
        f"the usual projection of {series:,} series of {PROJECTED_DAYS} days, of the compiled library's automatic smoothing of one",
        each[0] / each[1],
        3.0,
        f"{each[0]:.0f} ms of a core against {each[1]:.0f} ms; {ours:.0f} s in two processes",
    )


def write_rows(file: Path, series: int, count_days: int = DAYS) -> None:
    """Rows of made-up landings and fares, all days of one after the other."""
    rng = np.random.default_rng(7)
    days = np.arange("2025-11-01", "2026-11-01", dtype="M8[D]")[-count_days:]
    frames = []
    for start in range(0, series, CHUNK):
        count = min(CHUNK, series - start)
        names = [f"landing {n // 8:05d}, fare {n % 8}" for n in range(start, start + count)]
        value = np.round(
            100 + 10 * np.sin(2 * np.pi * np.arange(count_days) / 7) + rng.normal(0, 5, (count, count_days)), 2
        )
        value[rng.random(value.shape) < 0.01] = np.nan
        frames.append(
            pl.DataFrame(
                {"day": np.tile(days, count), "series": np.repeat(names, count_days), "value": value.ravel()}
            ).with_columns(pl.col("value").fill_nan(None))
        )
    pl.concat(frames).write_parquet(file)


def _change(file: Path, count: int) -> None:
    """Correct the newest day of the fares of some landings."""
    changed = [f"landing {n // 8:05d}, fare {n % 8}" for n in range(4_000, 4_000 + count)]
    ours = pl.col("series").is_in(changed) & (pl.col("day") == date(2026, 10, 31))
    beside = file.with_suffix(".new")
    pl.read_parquet(file).with_columns(
        value=pl.when(ours).then(pl.col("value") + 1).otherwise(pl.col("value"))
    ).write_parquet(beside)
    os.replace(beside, file)


def _ledger(file: Path, *chosen: Entry) -> Ledger:
    read = bring_in(file.read_bytes())
    begun = first_ledger(read.observations, read.how, AS_OF)
    usual = (Outliers(), Blanks(longest=3), Average(window=Window(length=28, need=20)), Band(), Trend())
    entries = chosen or usual
    return Ledger(
        intake=read.how, entries=(*begun.entries, *(record(entry, f"e{n}") for n, entry in enumerate(entries)))
    )


def _run(file: Path, ledger: Ledger, out: Path, executor: Executor, *, only_read: bool = False) -> None:
    """only_read: with nothing after the source and the calendar, and no part of the work but putting rows into parts."""
    if only_read:
        from zembra.service.many import drive

        done, drive._done = drive._done, lambda *_: ({}, [])
        try:
            run_many(ManyRequest([file], ledger, AS_OF, out), executor, quiet)
        finally:
            drive._done = done
        return
    ran = run_many(ManyRequest([file], ledger, AS_OF, out), executor, quiet)
    assert not ran.failed
    assert not ran.lost


def _on_cluster(file: Path, ledger: Ledger, out: Path) -> None:
    from distributed import LocalCluster

    with (
        LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None) as running,  # type: ignore[no-untyped-call]
        Cluster(running.scheduler_address) as executor,
    ):
        _run(file, ledger, out, executor)


class Peak:
    """The most memory that this process and all that come from it hold at once."""

    def __init__(self) -> None:
        self.gigabytes = 0.0
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._look, daemon=True)

    def __enter__(self) -> Peak:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._over.set()
        self._thread.join()

    def _look(self) -> None:
        while not self._over.wait(0.2):
            self.gigabytes = max(self.gigabytes, _held() / 1e9)


def _held() -> int:
    """Bytes of memory in proportion to who shares them, of this process and its descendants."""
    parents: dict[int, int] = {}
    for state in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = state.read_text().rpartition(")")[2].split()
            parents[int(state.parent.name)] = int(fields[1])
        except OSError:
            continue
    ours = {os.getpid()}
    while more := {pid for pid, parent in parents.items() if parent in ours} - ours:
        ours |= more
    total = 0
    for pid in ours:
        try:
            lines = Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines()
            total += sum(int(line.split()[1]) * 1024 for line in lines if line.startswith("Pss:"))
        except OSError:
            continue
    return total


if __name__ == "__main__":
    started = time.perf_counter()
    for ratio in measure():
        print(ratio.told(), flush=True)
    print(f"{time.perf_counter() - started:.0f} s")
