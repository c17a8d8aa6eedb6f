"""A plain script that does to very many series what a ledger of five entries does: pandas, column by column, in two processes."""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

import numpy as np
import pandas as pd
import polars as pl

PIECES = 40


def run(source: Path, out: Path, processes: int) -> None:
    """Read rows of day, series and value, and write points and lines, a piece of the series at a time."""
    names = pl.scan_parquet(source).select(pl.col("series").unique()).collect()["series"].sort().to_list()
    size = -(-len(names) // PIECES)
    pieces = [(source, out, n, names[n * size : (n + 1) * size]) for n in range(PIECES)]
    out.mkdir(parents=True, exist_ok=True)
    # what polars has begun threads for does not live on in a fork
    with ProcessPoolExecutor(processes, mp_context=get_context("spawn")) as pool:
        list(pool.map(_piece, pieces))


def _piece(task: tuple[Path, Path, int, list[str]]) -> None:
    source, out, number, names = task
    frame = (
        pl.scan_parquet(source)
        .filter(pl.col("series").is_between(pl.lit(names[0]), pl.lit(names[-1])))
        .collect()
        .to_pandas()
    )
    wide = frame.pivot(index="day", columns="series", values="value").asfreq("D")
    points, lines = [], []
    for name in wide.columns:
        value = wide[name]
        # away from both neighbours by more than a few usual moves
        move = value.diff().abs().median()
        before, after = value - value.shift(1), value - value.shift(-1)
        out_of_line = (np.sign(before) == np.sign(after)) & (before.abs() > 5 * move) & (after.abs() > 5 * move)
        kept = value.mask(out_of_line)
        filled = kept.interpolate(limit=3, limit_area="inside")
        average = filled.rolling(28, min_periods=20).mean()
        spread = filled.rolling(28, min_periods=20).std()
        known = filled.dropna()
        at = np.arange(len(filled))[filled.notna()]
        slope, base = np.polyfit(at, known, 1)
        condition = np.select(
            [out_of_line, value.isna() & filled.notna(), value.isna()], ["set aside", "filled", "open"], "measured"
        )
        points.append(
            pd.DataFrame({"series": name, "period": wide.index, "raw": value, "value": filled, "condition": condition})
        )
        lines.append(
            pd.DataFrame(
                {
                    "series": name,
                    "period": wide.index,
                    "average": average,
                    "lower": average - 2 * spread,
                    "upper": average + 2 * spread,
                    "trend": base + slope * np.arange(len(filled)),
                }
            )
        )
    pl.from_pandas(pd.concat(points)).write_parquet(out / f"points-{number:03d}.parquet", compression="lz4")
    pl.from_pandas(pd.concat(lines)).write_parquet(out / f"lines-{number:03d}.parquet", compression="lz4")
