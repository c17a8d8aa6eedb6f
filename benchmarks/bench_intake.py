"""A million rows of 400 series to completed lines, against Polars only reading and casting them; and memory."""

from __future__ import annotations

import io
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from datetime import date, timedelta
from functools import partial
from pathlib import Path

import numpy as np
import polars as pl

from benchmarks.measure import Ratio, compare

SERIES = 400
DAYS = 2500
AS_OF = date(2026, 10, 31)


def long_file() -> bytes:
    rng = np.random.default_rng(3)
    first = AS_OF - timedelta(DAYS)
    days = [str(first + timedelta(n)) for n in range(DAYS)]
    values = rng.normal(900, 60, (DAYS, SERIES)).round(2)
    frame = pl.DataFrame(
        {
            "day": np.repeat(days, SERIES),
            "route": np.tile([f"route {n:03d}" for n in range(SERIES)], DAYS),
            "riders": values.ravel().astype(str),
        }
    )
    return frame.write_csv().encode()


def wide_file(columns: int, rows: int) -> bytes:
    """A day and columns of numbers."""
    rng = np.random.default_rng(columns)
    days = [str(date(1900, 1, 1) + timedelta(n)) for n in range(rows)]
    numbers = {f"vessel {n}": rng.normal(5, 1, rows).round(3).astype(str) for n in range(columns)}
    return pl.DataFrame({"day": days, **numbers}).write_csv().encode()


def brought(data: bytes) -> int:
    from zembra.core.intake.bringin import bring_in

    return sum(frame.height for frame in bring_in(data).observations.frames.values())


def read_and_cast(data: bytes) -> int:
    frame = pl.read_csv(io.BytesIO(data), infer_schema=False)
    numbers = [name for name in frame.columns if name not in ("day", "route")]
    cast = frame.with_columns(pl.col("day").str.to_date("%Y-%m-%d"), pl.col(numbers).cast(pl.Float64))
    if "route" in cast.columns:
        cast = cast.with_columns(pl.col("route").cast(pl.Categorical))
    return cast.height * len(numbers)


def to_lines(data: bytes) -> int:
    from zembra.core.entries.calendar.start import first_ledger
    from zembra.core.intake.bringin import bring_in
    from zembra.core.ledger.run import run

    brought = bring_in(data)
    result = run(brought.observations, first_ledger(brought.observations, brought.how, AS_OF), AS_OF)
    return sum(len(line) for line in result.state.lines)


def plainly(data: bytes) -> int:
    frame = pl.read_csv(io.BytesIO(data), infer_schema=False)
    return frame.with_columns(
        pl.col("day").str.to_date("%Y-%m-%d"), pl.col("riders").cast(pl.Float64), pl.col("route").cast(pl.Categorical)
    ).height


def measure() -> Iterator[Ratio]:
    data = long_file()
    assert to_lines(data) == plainly(data) == SERIES * DAYS
    yield compare("1,000,000 rows of 400 series to lines", 3, lambda: to_lines(data), lambda: plainly(data), rounds=5)
    yield peak_memory(data)
    yield distinct_moments(1_000_000)
    quoted = pl.read_csv(io.BytesIO(data), infer_schema=False).head(450_000).write_csv(quote_style="always").encode()
    for name, table in (
        (f"a quoted CSV of {len(quoted) / 1e6:.0f} MB", quoted),
        ("a table of 50 columns, 15 MB", wide_file(50, 50_000)),
        ("a table of 300 columns, 15 MB", wide_file(300, 8_300)),
    ):
        assert brought(table) == read_and_cast(table)
        yield compare(
            f"intake of {name}",
            3,
            partial(brought, table),
            partial(read_and_cast, table),
            rounds=5,
        )


def distinct_moments(count: int) -> Ratio:
    """CPU of a file of so many distinct moments, to its questions."""
    from zembra.core.asking.ask import open_questions
    from zembra.core.entries.calendar.start import first_ledger
    from zembra.core.intake.bringin import bring_in
    from zembra.core.ledger.run import run

    stamps = np.datetime64("2024-01-01T00:00:00") + np.arange(count) * np.timedelta64(60, "s")
    values = np.random.default_rng(1).normal(900, 60, count).round(2).astype(str)
    texts = np.char.replace(stamps.astype(str), "T", " ")
    data = pl.DataFrame({"at": texts, "load": values}).write_csv().encode()
    start = time.process_time()
    brought = bring_in(data)
    result = run(brought.observations, first_ledger(brought.observations, brought.how, AS_OF), AS_OF)
    open_questions(brought, result)
    took = time.process_time() - start
    return Ratio(f"{count:,} distinct moments to their questions, of 4 s of CPU", took / 4, 1, f"{took:.2f} s")


def peak_memory(data: bytes) -> Ratio:
    """Peak resident size of a process of its own that reads the file, over the size of the file."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "long.csv"
        path.write_bytes(data)
        command = [sys.executable, "-m", "benchmarks.bench_intake", str(path)]
        peak = int(subprocess.run(command, check=True, capture_output=True, text=True).stdout)
    size = len(data)
    return Ratio("peak memory over the file", peak / size, 12, f"{peak / 1e6:.0f} MB for a file of {size / 1e6:.0f} MB")


if __name__ == "__main__":
    to_lines(Path(sys.argv[1]).read_bytes())
    # of this process alone: what getrusage tells was handed down by the process that started it
    peak = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM"))
    print(int(peak.split()[1]) * 1024)
