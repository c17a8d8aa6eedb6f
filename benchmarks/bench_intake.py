"""A million rows of 400 series to completed lines, against Polars only reading and casting them; and memory."""

from __future__ import annotations

import io
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from datetime import date, timedelta
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


def to_lines(data: bytes) -> int:
    from zembra.core.intake.bringin import bring_in
    from zembra.core.ledger.run import run
    from zembra.core.ledger.start import first_ledger

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
