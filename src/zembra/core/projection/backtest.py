"""Backtest a projection method from several starting points."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, Projected, normal_point

STARTS = 8
FEWEST_KNOWN = 5  # values before a starting point
ALLOWED = 0.025  # chance with which limits that hold are taken not to
NOTICED = 0.8  # of cases in which a shortfall is to be noticed
PRIOR_WEIGHT = 8.0  # starting points that a method's own limits count for
FARTHEST = 6.0  # standard deviations that one error counts for at most
SLACK = 1e-9  # of the size of the values: a limit that is met but for rounding holds

NOT_FITTED = (ValueError, np.linalg.LinAlgError, ZeroDivisionError)  # what fitting raises where it cannot
Again = Callable[[Sequence[tuple[History, int]]], Sequence[Projected | Refusal]]


@dataclass(frozen=True, slots=True)
class Fold:
    """A starting point of a backtest.

    start: index of the first held-back value
    actual: held-back values, NaN if unknown
    """

    start: int
    said: Projected
    actual: Floats


@dataclass(frozen=True, slots=True)
class BacktestScores:
    """Scores over all starting points, in the unit of the values unless stated; None where undefined.

    starts, points: number of starting points and of held-back values
    draws: as many starting points as would hold back the same periods without overlap; what overlaps fails together
    mae: mean absolute error
    wape: mae over the mean absolute value, in percent; smape: symmetric percentage error
    mase: mae over the mean absolute seasonal step before each starting point (Hyndman and Koehler, 2006)
    bias: mean error, positive if the projection was too low
    inside: number of values between the limits, by level
    interval: interval score by level (Gneiting and Raftery, 2007)
    """

    starts: int
    points: int
    draws: int
    mae: float
    wape: float | None
    smape: float | None
    mase: float | None
    bias: float
    inside: tuple[tuple[float, int], ...]
    interval: tuple[tuple[float, float], ...]


def fold_back(history: History, ahead: int, again: Again, starts: int = STARTS) -> list[Fold]:
    """Backtest from the newest starting point backwards, as many as the history allows. Starting points at which
    the method refuses are left out.

    again: projects histories, each by its own horizon
    """
    n = history.size
    held = min(ahead, n // 5)
    least = max(2 * (history.season or 1) + 1, FEWEST_KNOWN, n // 3)
    if held < 1 or n - held < least:
        return []
    apart = max(1, min(held, (n - held - least) // max(1, starts - 1)))
    begins: list[int] = []
    shown: list[tuple[History, int]] = []
    actuals: list[Floats] = []
    for start in range(n - held, least - 1, -apart)[:starts]:
        earlier = history.until(start)
        actual = np.where(history.known, history.values, np.nan)[start : start + held]
        if earlier.points >= FEWEST_KNOWN and not np.isnan(actual).all():
            begins.append(start)
            shown.append((earlier, start - earlier.size + held))
            actuals.append(actual)
    return [
        Fold(start, said.at(np.arange(far - held, far)), actual)
        for start, (_, far), actual, said in zip(begins, shown, actuals, again(shown), strict=True)
        if isinstance(said, Projected)
    ]


def judged(folds: Sequence[Fold], history: History) -> BacktestScores | None:
    """Score a backtest, or return None if nothing could be held back."""
    if not folds:
        return None
    actual = np.concatenate([fold.actual for fold in folds])
    said = np.concatenate([fold.said.mean for fold in folds])
    known = ~np.isnan(actual)
    error, size = (actual - said)[known], np.abs(actual[known])
    sizes = size + np.abs(said[known])
    scales = [scale for fold in folds if (scale := _usual_step(history, fold.start))]
    levels = [half.level for half in folds[0].said.halves]
    inside, interval = [], []
    for n, level in enumerate(levels):
        lower, upper = (
            np.concatenate([getattr(fold.said.limits[n], side) for fold in folds])[known] for side in ("lower", "upper")
        )
        value = actual[known]
        slack = SLACK * (1 + size)
        inside.append((level, int(((value >= lower - slack) & (value <= upper + slack)).sum())))
        missed = np.maximum(lower - value, 0) + np.maximum(value - upper, 0)
        interval.append((level, float((upper - lower + 2 / (1 - level / 100) * missed).mean())))
    mae = float(np.abs(error).mean())
    return BacktestScores(
        starts=len(folds),
        points=int(known.sum()),
        draws=draws_of(len(folds), _distinct(folds), int(known.sum())),
        mae=mae,
        wape=float(100 * np.abs(error).sum() / size.sum()) if size.sum() else None,
        smape=float(100 * (2 * np.abs(error) / sizes).mean()) if np.all(sizes > 0) else None,
        mase=mae / float(np.mean(scales)) if scales else None,
        bias=float(error.mean()),
        inside=tuple(inside),
        interval=tuple(interval),
    )


def _usual_step(history: History, start: int) -> float:
    values = history.values[:start]
    step = history.season if history.season and values.size > history.season else 1
    return float(np.abs(values[step:] - values[:-step]).mean()) if values.size > step else 0.0


def draws_of(starts: int, periods: int, points: int) -> int:
    """Return how many independent draws overlapping projections count for: none more than their distinct periods hold.

    periods: distinct periods of all `points`
    """
    return max(1, min(starts, round(periods * starts / points))) if points else 1


def _distinct(folds: Sequence[Fold]) -> int:
    return len({fold.start + int(place) for fold in folds for place in np.flatnonzero(~np.isnan(fold.actual))})


def chance_range(level: float, draws: int, points: int) -> tuple[int, int]:
    """Return the range of points inside correct limits that is plausible by chance. Points of one starting point
    fail together, so each starting point is one draw.
    """
    return int(np.floor(points * _fewest(level, draws) / draws)), points


def noticed(level: float, draws: int) -> float:
    """Return the coverage in percent that true limits have at most, if the range of `chance_range` is to show in four of
    five cases that they hold less than they say.
    """
    from scipy.special import bdtri

    fewest = _fewest(level, draws)
    return 100 * float(bdtri(fewest - 1, draws, NOTICED)) if fewest else 0.0


def _fewest(level: float, draws: int) -> int:
    """Return how many of so many draws correct limits hold at least."""
    from scipy.special import bdtr

    return next(k for k in range(draws + 1) if float(bdtr(k, draws, level / 100)) > ALLOWED)


def widening(folds: Sequence[Fold]) -> float:
    """Return the factor that limits need, 1 if held-back values lay as near as they say."""
    squares = []
    for fold in folds:
        half = fold.said.halves[0]
        away = fold.actual - fold.said.mean
        width = np.where(away < 0, half.below, half.above) / normal_point(half.level)
        known = ~np.isnan(away) & (width > 0)
        squares.append(mean_square(away[known] / width[known]))
    return widening_by([square for square in squares if square is not None])


def mean_square(away: Floats) -> float | None:
    """Return the mean square of distances in standard deviations, extremes winsorised, or None for none."""
    return float(np.mean(np.minimum(np.abs(away), FARTHEST) ** 2)) if away.size else None


def widening_by(squares: Sequence[float], draws: int | None = None) -> float:
    """Return √((n v + w) / (n + w)), at least 1, where v is the mean of the mean squares of starting points, n the number
    of independent ones, and w the prior weight of the method's own limits.

    draws: if fewer are independent than there are
    """
    if not squares:
        return 1.0
    count = len(squares) if draws is None else draws
    found = (count * float(np.mean(squares)) + PRIOR_WEIGHT) / (count + PRIOR_WEIGHT)
    return float(max(1.0, np.sqrt(found)))
