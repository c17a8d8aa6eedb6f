"""How many of 1,000 seeded random series without a shift show one at the default setting."""

from __future__ import annotations

import os
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from benchmarks.measure import Ratio
from zembra.core.arithmetic.shifts import find_shifts
from zembra.core.entries.repairs.found_shifts import Shifts

SERIES = 1000
DAYS = 730
KINDS = ("white", "autocorrelated", "weekly season", "yearly season")
RHO = 0.6
DEFAULT = Shifts()


def series(kind: str, seed: int) -> np.ndarray:
    """Around 0, so that no shift is too small to be worth noting: the default floor is a share of the level."""
    rng = np.random.default_rng([KINDS.index(kind), seed])
    values = rng.normal(0, 1, DAYS)
    at = np.arange(DAYS)
    if kind == "autocorrelated":
        for n in range(1, DAYS):
            values[n] += RHO * values[n - 1]
    elif kind == "weekly season":
        values += rng.normal(0, 2, 7)[at % 7]
    elif kind == "yearly season":
        values += 3 * np.sin(2 * np.pi * at / 365.25 + rng.uniform(0, 6))
    return values


def alarm(job: tuple[str, int]) -> bool:
    values = series(*job)
    smallest = DEFAULT.smallest / 100 * abs(float(np.median(values)))
    return bool(find_shifts(values, DEFAULT.season, DEFAULT.shortest, smallest, 365.25))


def measure() -> Iterator[Ratio]:
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        for kind in KINDS:
            alarms = sum(pool.map(alarm, [(kind, seed) for seed in range(SERIES)], chunksize=25))
            yield Ratio(
                f"false level shifts, {kind}", alarms / SERIES, 0.05, f"{alarms} of {SERIES} series of {DAYS} days"
            )
