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
    """What a method is shown of a series. periods: the row of the history. last: the last period with a number that
    counts. smallest: of the values. gaps: periods without a number between others; closed: days not expected between
    them. effects: of events, by name. shift: the period of the last level shift."""

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
        """Whether less than a season has passed since the last level shift."""
        since = self.history.season or FEW_AFTER_SHIFT
        return self.shift is not None and int(np.count_nonzero(self.periods >= self.shift)) < since


@dataclass(frozen=True, slots=True)
class OfFew:
    """The projection of a series that has too few numbers of its own to say how wide its limits should be. found: with the method's own
    limits, before its bounds; onward: its periods, along which the method goes. held_back: what was held back of it, which was not fitted
    with."""

    found: Projected
    onward: Ints
    held_back: HeldBack


@dataclass(frozen=True, slots=True)
class SeriesProjection(SeriesResult):
    """One series' projection with what is needed to report it. shown: what the method was shown; history: the same in
    the unit of the series. effects: of events on what is projected, by name. tested: on how many of the projected periods,
    from the first on, limits were held against what happened. kept_within: what a floor, a ceiling or whole numbers do to it,
    in words. before: what another usual method said of the first period,
    where the ledger is older than the method. few: of one that has too few numbers, where like series are asked; pooled_limits: what
    these said."""

    found: Projected
    shown: Shown
    history: History
    periods: Ints
    folds: tuple[Fold, ...]
    judged: BacktestScores | None
    factor: float | None
    effects: tuple[tuple[str, float], ...]
    tested: int
    kept_within: tuple[str, ...] = ()
    before: float | None = None
    few: OfFew | None = None
    pooled_limits: LikeStep | None = None


def tested_periods(folds: Sequence[Fold], onward: Ints, wanted: Ints) -> int:
    """How many of the wanted periods are no farther ahead than what was held back and is known. onward: the row of periods
    that the method goes along."""
    far = max((int(np.flatnonzero(~np.isnan(fold.actual))[-1]) + 1 for fold in folds), default=0)
    return int(np.searchsorted(wanted, onward[far - 1], side="right")) if far else 0
