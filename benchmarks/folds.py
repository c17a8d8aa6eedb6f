"""Held-back folds of real series, where the trials are there, and of our own seeded ones."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import polars as pl

from benchmarks.series import hard_series

TRIALS = Path(__file__).parents[2] / "shared" / "trials" / "series.csv"
HELD = {12: 12, 4: 8, 1: 6, 7: 14, 52: 13, 5: 10, 24: 24}  # periods held back, by season
FOLDS = 4
TOO_MUCH = 1e5  # times its smallest value: a series of so much inflation alone would make all means


@dataclass(frozen=True)
class Fold:
    """season: 1 where there is none. held: what came after the history."""

    season: int
    history: np.ndarray
    held: np.ndarray

    @property
    def scale(self) -> float:
        """The mean absolute seasonal step of the history."""
        step = self.season if self.history.size > self.season else 1
        return float(np.abs(self.history[step:] - self.history[:-step]).mean()) or 1.0


def folds_of_trials() -> list[Fold]:
    """None where the trials are not there."""
    if not TRIALS.exists():
        return []
    found = []
    for _, part in pl.read_csv(TRIALS).group_by("set", "series", maintain_order=True):
        values = part.sort("t")["value"].to_numpy().astype(float)
        if values.min() > 0 and values.max() > TOO_MUCH * values.min():
            continue
        found += list(_folds(values, int(part["season"][0])))
    return found


def seeded_folds(seed: int, count: int) -> list[Fold]:
    return [fold for _, values, season in hard_series(seed, count) for fold in _folds(values, season or 1)]


def _folds(values: np.ndarray, season: int) -> Iterator[Fold]:
    held = HELD.get(season, 8)
    for fold in range(FOLDS):
        end = values.size - fold * held
        if end - held < max(3 * season + 5, 12 if season == 1 else 20):
            break
        yield Fold(season, values[: end - held], values[end - held : end])
