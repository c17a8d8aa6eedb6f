"""What effects of the calendar gain on the dated series of the trials, and how often noise keeps one."""

from __future__ import annotations

import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import partial

import numpy as np
import polars as pl

from benchmarks.folds import TRIALS
from benchmarks.measure import Ratio
from zembra.core.projection.ahead import CalendarRow, History, RowStep
from zembra.core.projection.calendareffects.effects import calendar_effects
from zembra.core.projection.models import FITTED, average_of_models
from zembra.core.projection.seasonal import has_season

DATED = TRIALS.with_name("dated.csv")
LEVELS = (80.0, 95.0)
FOLDS = 3
STEPS = {"d": (RowStep.DAY, 7, 56), "h": (RowStep.HOUR, 24, 168), "w": (RowStep.WEEK, 52, 26)}
NAMES = {"d": "days", "h": "hours", "w": "weeks"}
NOISES = ("white", "walk", "heavy tails")
DRAWN, NOISE_DAYS = 100, 900


@dataclass(frozen=True)
class Dated:
    frequency: str
    moments: np.ndarray
    values: np.ndarray
    held: np.ndarray

    def history(self, *, dated: bool) -> History:
        step, season, _ = STEPS[self.frequency]
        row = CalendarRow(self.moments[0], step, 7, partial(_first, self.moments))
        found = season if has_season(self.values, season) else None
        every = np.ones(self.values.size, dtype=bool)
        return History(self.values, every, found, season, row if dated else None)


def _first(moments: np.ndarray, count: int) -> np.ndarray:
    return moments[:count]


def measure() -> Iterator[Ratio]:
    with ProcessPoolExecutor() as pool:
        yield from _noise(pool)
        if not DATED.exists():
            yield Ratio("the trials are not there: not measured", 0, 0, "")
            return
        folds = list(_folds())
        told = np.array(list(pool.map(_both, folds, chunksize=2)))
        for frequency in ("all", *STEPS):
            own = told[[frequency in ("all", fold.frequency) for fold in folds]]
            with_effects, without = own.mean(axis=0).reshape(2, 6)
            inside = f"inside {with_effects[3]:.1f} / {with_effects[4]:.1f} % ({without[3]:.1f} / {without[4]:.1f})"
            scores = f"interval {with_effects[1]:.2f} / {with_effects[2]:.2f} ({without[1]:.2f} / {without[2]:.2f})"
            cpu = f"{1000 * with_effects[5]:.0f} ms ({1000 * without[5]:.0f})"
            yield Ratio(
                f"effects of the calendar, {NAMES.get(frequency, frequency)}: error against none",
                float(with_effects[0] / without[0]),
                0.95,
                f"scaled error {with_effects[0]:.3f} ({without[0]:.3f}), {scores}, {inside}, {cpu}, {len(own)} folds",
            )


def _folds() -> Iterator[Dated]:
    for _, part in pl.read_csv(DATED, infer_schema_length=0).group_by("series", maintain_order=True):
        frequency = part["frequency"][0]
        _, season, ahead = STEPS[frequency]
        digits = 13 if frequency == "h" else 10
        moments = np.array([when.replace(" ", "T")[:digits] for when in part["when"]], dtype="datetime64[h]")
        values = part["value"].cast(pl.Float64).to_numpy()
        for fold in range(FOLDS):
            end = values.size - fold * ahead
            if end - ahead >= 3 * min(season, ahead):
                yield Dated(frequency, moments[:end], values[: end - ahead], values[end - ahead : end])


def _both(fold: Dated) -> list[float]:
    return [*_scored(fold, dated=True), *_scored(fold, dated=False)]


def _scored(fold: Dated, *, dated: bool) -> list[float]:
    """Error, interval scores, percent inside and seconds."""
    _, season, ahead = STEPS[fold.frequency]
    scale = float(np.abs(fold.values[season:] - fold.values[:-season]).mean())
    history = fold.history(dated=dated)
    FITTED.clear()
    begun = time.process_time()
    found = average_of_models(history, ahead, LEVELS)
    taken = time.process_time() - begun
    found = found.mapped(0.0 if fold.values.min() >= 0 else None, None, whole=False)
    intervals, inside = [], []
    for limits in found.limits:
        missed = np.maximum(limits.lower - fold.held, 0) + np.maximum(fold.held - limits.upper, 0)
        intervals.append(float((limits.upper - limits.lower + 2 / (1 - limits.level / 100) * missed).mean()) / scale)
        inside.append(100 * float(np.mean((fold.held >= limits.lower) & (fold.held <= limits.upper))))
    return [float(np.abs(found.mean - fold.held).mean()) / scale, *intervals, *inside, taken]


def _kept(kind: str, seed: int) -> bool:
    rng = np.random.default_rng([seed, NOISE_DAYS])
    drawn = rng.standard_t(2.5, NOISE_DAYS) if kind == "heavy tails" else rng.standard_normal(NOISE_DAYS)
    days = np.datetime64("2022-03-01", "h") + 24 * np.arange(NOISE_DAYS)
    values = 300 + 5 * (np.cumsum(drawn) if kind == "walk" else drawn)
    return calendar_effects(values, CalendarRow(kind, RowStep.DAY, 7, partial(_first, days))) is not None


def _noise(pool: ProcessPoolExecutor) -> Iterator[Ratio]:
    for kind in NOISES:
        kept = sum(pool.map(partial(_kept, kind), range(DRAWN), chunksize=5))
        yield Ratio(
            f"effects of the calendar kept in noise, {kind}, share",
            kept / DRAWN,
            0.12 if kind == "heavy tails" else 0.03,
            f"{kept} of {DRAWN} series of {NOISE_DAYS} days",
        )
