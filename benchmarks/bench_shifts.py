"""How many of 1,000 seeded random series without a shift show one at the default settings for days and for months."""

from __future__ import annotations

import os
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from functools import partial

import numpy as np
from scipy.signal import lfilter

from benchmarks.measure import Ratio
from zembra.core.arithmetic.shifts import find_shifts
from zembra.core.entries.repairs.found_shifts import Shifts

SERIES = 1000
DAYS = 730
KINDS = ("white", "autocorrelated", "weekly season", "yearly season")
RHO = 0.6
DEFAULT = Shifts()
MONTHS, SHORTEST, A_YEAR = 60, 6, 12
MONTHLY = {"white": 0.0, "ρ = 0.6": 0.6, "ρ = 0.8": 0.8, "ρ = 0.9": 0.9, "walks": 1.0}


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


def monthly_alarm(rho: float, seed: int) -> bool:
    shocks = np.random.default_rng([seed, MONTHS]).normal(0, 1, MONTHS + 100)
    values = lfilter([1.0], [1.0, -rho], shocks)[100:]
    return bool(find_shifts(values, A_YEAR, SHORTEST, 0.0, float(A_YEAR)))


def measure() -> Iterator[Ratio]:
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        for kind in KINDS:
            alarms = sum(pool.map(alarm, [(kind, seed) for seed in range(SERIES)], chunksize=25))
            yield Ratio(
                f"false level shifts, {kind}", alarms / SERIES, 0.05, f"{alarms} of {SERIES} series of {DAYS} days"
            )
        for kind, rho in MONTHLY.items():
            alarms = sum(pool.map(partial(monthly_alarm, rho), range(SERIES), chunksize=25))
            told = f"{alarms} of {SERIES} series of {MONTHS} months, stretches of {SHORTEST}"
            yield Ratio(f"false level shifts, months, {kind}", alarms / SERIES, 0.08 if kind == "walks" else 0.05, told)
