"""How often the limits of the usual projection hold on seeded series that are not easy, against smoothing alone."""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from benchmarks.measure import Ratio
from benchmarks.series import Series, hard_series
from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.seasonal import SURE, season_chance
from zembra.core.projection.several import usual
from zembra.core.projection.smoothing import smooth

LEVELS = (80.0, 95.0)
SEED, COUNT = 2026, 6
FOLDS = 2


@dataclass
class Held:
    """inside: per level whether each held-back point lay between the limits. score: interval score at 95 %, scaled.
    error: scaled error."""

    short: bool
    inside: list[list[bool]]
    score: float
    error: float


def measure() -> Iterator[Ratio]:
    every = list(hard_series(SEED, COUNT))
    with ProcessPoolExecutor() as pool:
        pairs = [pair for found in pool.map(_judged, every, chunksize=4) for pair in found]
    ours, theirs = [a for a, _ in pairs], [b for _, b in pairs]
    for told, some in (("30 points and more", False), ("below 30 points", True)):
        for level, (low, high) in enumerate(((0.78, 0.84), (0.94, 0.96)) if not some else ((0.75, 1), (0.92, 1))):
            share = _share([one for one in ours if one.short is some], level)
            before = _share([one for one in theirs if one.short is some], level)
            detail = f"inside {100 * share:.1f} %, smoothing alone {100 * before:.1f} %; {low:.0%} to {high:.0%} wanted"
            yield Ratio(
                f"limits at {LEVELS[level]:g} %, {told}: shortfall or excess",
                1 + max(low - share, share - high, 0),
                1.0,
                detail,
            )
    score = np.mean([one.score for one in ours]) / np.mean([one.score for one in theirs])
    error = np.mean([one.error for one in ours]) / np.mean([one.error for one in theirs])
    yield Ratio("interval score at 95 %, against smoothing alone", float(score), 0.88, f"{len(pairs)} folds")
    yield Ratio("scaled error, against smoothing alone", float(error), 1.0, f"{len(pairs)} folds")


def _share(some: list[Held], level: int) -> float:
    return float(np.mean([inside for one in some for inside in one.inside[level]])) if some else float("nan")


def _judged(series: Series) -> list[tuple[Held, Held]]:
    """Every fold by both, on the same held-back points."""
    warnings.simplefilter("ignore")
    _, values, season = series
    ahead = max(1, min(season or 8, values.size // 5, 14))
    found = []
    for fold in range(FOLDS):
        end = values.size - fold * ahead
        history, held = values[: end - ahead], values[end - ahead : end]
        if history.size < 12:
            continue
        # as the entry shows it: a season counts where it is found, and may be looked for where it is usual
        found_season = season if season and season_chance(history, season) < SURE else None
        shown = History(history, np.ones(history.size, dtype=bool), found_season, season)
        try:
            mine = usual(shown, ahead, LEVELS)
            used = season if season and history.size >= 2 * season else None
            fitted = smooth(history, used, ahead, LEVELS)
        except Refusal:
            continue
        low = 0.0 if history.min() >= 0 else None
        mine = mine.mapped(low, None, whole=False)
        alone = [(one.lower, one.upper) for one in fitted.limits]
        found.append(
            (_held(mine.mean, _edges(mine), history, held, season), _held(fitted.mean, alone, history, held, season))
        )
    return found


def _edges(found: Projected) -> list[tuple[np.ndarray, np.ndarray]]:
    return [(one.lower, one.upper) for one in found.limits]


def _held(
    mean: np.ndarray,
    edges: list[tuple[np.ndarray, np.ndarray]],
    history: np.ndarray,
    held: np.ndarray,
    season: int | None,
) -> Held:
    step = season if season and history.size > season else 1
    scale = float(np.abs(history[step:] - history[:-step]).mean()) or 1.0
    lower, upper = edges[1]
    width = upper - lower
    missed = (2 / 0.05) * (np.maximum(lower - held, 0) + np.maximum(held - upper, 0))
    inside = [((held >= low) & (held <= high)).tolist() for low, high in edges]
    return Held(
        history.size < 30, inside, float((width + missed).mean()) / scale, float(np.abs(held - mean).mean()) / scale
    )
