"""Test whether one method beats another on held-back periods by more than chance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.english import number

CHANCE = 0.05  # below which a lead is more than chance


@dataclass(frozen=True, slots=True)
class Lead:
    """How often a method with the smaller error came nearer than another one. nearer: on how many of `points` starting points that
    both have. apart: how many of these hold back no period of another one; chance: of as much among these where neither is better and
    the best of `tried` is looked at."""

    nearer: int
    points: int
    apart: int
    tried: int
    chance: float

    @property
    def sure(self) -> bool:
        """Whether it is more than chance."""
        return self.chance < CHANCE

    def said(self, than: str) -> str:
        """In words. than: the other method."""
        own = f", of which {number(self.apart)} hold back periods of their own" if self.apart < self.points else ""
        among = f" though {number(self.tried)} were tried" if self.tried > 1 else ""
        how = f"more than chance{among}" if self.sure else "which chance does often"
        return f"nearer than {than} on {number(self.nearer)} of {number(self.points)} starting points{own}, {how}"


def lead_of(errors: Floats, others: Floats, periods: Sequence[Ints], tried: int) -> Lead | None:
    """The lead of a method over another one; None where its error is not smaller.

    A sign test over starting points, of whose errors each is one draw, as the periods of one go wrong together; and as those of
    points do that hold back the same periods, one of these counts. Times how many were tried (Bonferroni), as it is the best that is looked
    at. errors, others: mean absolute ones by starting point, the oldest first, NaN where there is none. periods: which were held back.
    """
    from scipy.special import bdtrc

    both = np.flatnonzero(~np.isnan(errors) & ~np.isnan(others))
    if not both.size or errors[both].mean() >= others[both].mean():
        return None
    unlike = [int(n) for n in both if errors[n] != others[n]]
    apart = _sharing_no_period(periods, unlike)
    better = sum(bool(errors[n] < others[n]) for n in apart)
    chance = float(bdtrc(better - 1, len(apart), 0.5)) if better else 1.0
    nearer = sum(bool(errors[n] < others[n]) for n in unlike)
    return Lead(nearer, len(unlike), len(apart), tried, min(1.0, tried * chance))


def mean_error(said: Floats, happened: Floats) -> float:
    """Mean absolute error where it is known what happened; NaN where it is not."""
    known = ~np.isnan(happened)
    return float(np.abs(said - happened)[known].mean()) if known.any() else float("nan")


def _sharing_no_period(periods: Sequence[Ints], points: Sequence[int]) -> list[int]:
    """Starting points, the newest first, that hold back no period of another one."""
    chosen: list[int] = []
    for n in reversed(points):
        if not chosen or periods[n][-1] < periods[chosen[-1]][0]:
            chosen.append(n)
    return chosen
