"""Whether a candidate does better than the projection as it is by more than chance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.english import number
from zembra.core.judging.verdict import Verdict

CHANCE = 0.05  # below which a lead is more than chance


@dataclass(frozen=True, slots=True)
class Lead:
    """How often a candidate with the smaller error came nearer than the projection as it is. nearer: on how many of `points` starting points
    that both have. apart: how many of these hold back no period of another one; chance: of as much among these where neither
    is better and the best of `tried` is looked at."""

    nearer: int
    points: int
    apart: int
    tried: int
    chance: float

    @property
    def sure(self) -> bool:
        """Whether it is more than chance."""
        return self.chance < CHANCE

    @property
    def said(self) -> str:
        own = f", of which {number(self.apart)} hold back periods of their own" if self.apart < self.points else ""
        among = f" though {number(self.tried)} were tried" if self.tried > 1 else ""
        how = f"more than chance{among}" if self.sure else "which chance does often"
        return f"nearer than as it is on {number(self.nearer)} of {number(self.points)} starting points{own}, {how}"


def lead_of(
    own: Verdict, other: Verdict, periods: Sequence[Ints], actual: Sequence[Floats], tried: int
) -> Lead | None:
    """The lead of a candidate over the entry's own words; None of one whose error is not smaller.

    A sign test on the mean absolute errors of starting points, whose errors go wrong together, as do those of points that hold back
    the same periods: of these one counts. Times how many were tried (Bonferroni), as it is the best that is looked at. periods, actual:
    which were held back and what happened there, NaN where that is not known, by starting point, the oldest first.
    """
    from scipy.special import bdtrc

    if own.score is None or other.score is None or other.score.mae >= own.score.mae:
        return None
    nearer: dict[int, bool] = {}
    for n, (mine, said, happened) in enumerate(zip(own.folds, other.folds, actual, strict=True)):
        if mine is None or said is None:
            continue
        error, own_error = _error(said.mean, happened), _error(mine.mean, happened)
        if error != own_error and not np.isnan(error):
            nearer[n] = error < own_error
    apart = _sharing_no_period(periods, list(nearer))
    better = sum(nearer[n] for n in apart)
    chance = float(bdtrc(better - 1, len(apart), 0.5)) if better else 1.0
    return Lead(sum(nearer.values()), len(nearer), len(apart), tried, min(1.0, tried * chance))


def _sharing_no_period(periods: Sequence[Ints], points: Sequence[int]) -> list[int]:
    """Starting points, the newest first, that hold back no period of another one."""
    chosen: list[int] = []
    for n in reversed(points):
        if not chosen or periods[n][-1] < periods[chosen[-1]][0]:
            chosen.append(n)
    return chosen


def _error(said: Floats, held: Floats) -> float:
    known = ~np.isnan(held)
    return float(np.abs(said - held)[known].mean()) if known.any() else float("nan")
