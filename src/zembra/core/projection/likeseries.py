"""Pool backtest errors of short series, and scale their limits by them.

Of a few numbers no method knows how wide its limits should be; of many series of about as many numbers it can be counted how often
they held. How well that does is measured in docs/projection.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from hashlib import blake2b
from itertools import pairwise

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.projection.backtest import Fold

FEW = 27  # numbers below which a series has too few of its own
EDGES = (5, 8, 12, 18, FEW)  # like series have from one of these up to below the next
FEWEST_SERIES = 30  # that say anything of others
MOST_SERIES = 2_000  # that are asked: more say the same
STEP = 0.01  # factors are rounded to, so that few numbers that change leave them as they are
NARROWEST, WIDEST = 0.4, 4.0


@dataclass(frozen=True, slots=True)
class HeldBack:
    """Backtest errors of a series.

    points: number of values it has
    away: (level, value), distances from the centre in half-widths of the method's own limits
    """

    points: int
    away: Floats


@dataclass(frozen=True, slots=True)
class LikeStep:
    """Series with `least` to `most` values.

    series, numbers: how many were held back from
    factors: for limits, by level
    """

    least: int
    most: int
    series: int
    numbers: int
    factors: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class LikeSeries:
    steps: tuple[LikeStep, ...]

    def of(self, points: int) -> LikeStep | None:
        """Return the step for a number of values, or None if too few series are alike or the series has enough
        itself.
        """
        return next((step for step in self.steps if step.least <= points <= step.most), None)


def asked_of(names: Sequence[str]) -> set[str]:
    """Sample series deterministically."""
    if len(names) <= MOST_SERIES:
        return set(names)
    return set(sorted(names, key=lambda name: blake2b(name.encode(), digest_size=8).digest())[:MOST_SERIES])


def held_back(folds: Sequence[Fold], points: int) -> HeldBack:
    """Collect the backtest errors of a series.

    points: number of values it has
    """
    away = []
    for fold in folds:
        error = fold.actual - fold.said.mean
        widths = np.array([np.where(error < 0, half.below, half.above) for half in fold.said.halves])
        there = ~np.isnan(error) & (widths > 0).all(axis=0)
        away.append(np.abs(error[there]) / widths[:, there])
    return HeldBack(points, np.concatenate(away, axis=1) if away else np.zeros((0, 0)))


def learned(every: Sequence[HeldBack], levels: Sequence[float]) -> LikeSeries:
    """Return the factors with which limits hold as often as they state, over all held-back values, in any order."""
    steps = []
    for least, beyond in pairwise(EDGES):
        parts = [series.away for series in every if least <= series.points < beyond and series.away.size]
        if len(parts) < FEWEST_SERIES:
            continue
        away = np.concatenate(parts, axis=1)
        exact = [float(np.quantile(row, level / 100)) for row, level in zip(away, levels, strict=True)]
        factors = tuple(round(round(min(max(factor, NARROWEST), WIDEST) / STEP) * STEP, 2) for factor in exact)
        steps.append(LikeStep(least, beyond - 1, len(parts), away.shape[1], factors))
    return LikeSeries(tuple(steps))
