"""The projection of one series as a typed result."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Ints
from zembra.core.ledger.results import SeriesResult
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.backtest import BacktestScores, Fold
from zembra.core.projection.likeseries import HeldBack, LikeStep

FEW_AFTER_SHIFT = 10  # periods after a level shift below which little is known, where there is no season


@dataclass(frozen=True, slots=True)
class Shown:
    """The history of a series as a method sees it.

    periods: the row of periods of the history
    last: last period with a number that counts
    smallest: smallest value
    gaps, closed: number of missing and of closed periods inside
    effects: event effects by name
    shift: period of the last level shift
    """

    history: History
    periods: Ints
    last: int
    smallest: float
    gaps: int
    closed: int
    effects: tuple[tuple[str, float], ...]
    shift: int | None = None

    @property
    def shifted_lately(self) -> bool:
        """Whether the last level shift is less than a season ago."""
        since = self.history.season or FEW_AFTER_SHIFT
        return self.shift is not None and int(np.count_nonzero(self.periods >= self.shift)) < since


@dataclass(frozen=True, slots=True)
class OfFew:
    """The projection of a series too short to set its own limits.

    found: with the method's limits, before bounds
    onward: the periods the method steps along
    held_back: its backtest errors
    """

    found: Projected
    onward: Ints
    held_back: HeldBack


@dataclass(frozen=True, slots=True)
class SeriesProjection(SeriesResult):
    """The projection of one series.

    shown: the history on the scale of the method; history: in the unit of the series
    folds, judged: the backtest and its scores, None if the history is too short
    factor: how much backtests widened the limits, or None
    effects: event effects that were added, by name
    weights_kept: whether backtests kept the weights that were fitted to the whole history
    tested: number of projected periods, from the first, on which limits were backtested
    kept_within: descriptions of what the bounds change
    before: first value by the former default method, for older ledgers
    few: set for short series with pooled limits; pooled_limits: those limits
    """

    found: Projected
    shown: Shown
    history: History
    periods: Ints
    folds: tuple[Fold, ...]
    judged: BacktestScores | None
    factor: float | None
    effects: tuple[tuple[str, float], ...]
    weights_kept: bool
    tested: int
    kept_within: tuple[str, ...] = ()
    before: float | None = None
    few: OfFew | None = None
    pooled_limits: LikeStep | None = None


def tested_periods(folds: Sequence[Fold], onward: Ints, wanted: Ints) -> int:
    """Count the wanted periods within the backtested horizon.

    onward: the row of periods that the method steps along
    """
    far = max((int(np.flatnonzero(~np.isnan(fold.actual))[-1]) + 1 for fold in folds), default=0)
    return int(np.searchsorted(wanted, onward[far - 1], side="right")) if far else 0
