"""Test whether one method beats another on held-back periods by more than chance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.english import number

EVEN = 50  # of 100 cases, from which chance says no more
CHANCE = 0.05  # below which a lead is more than chance


@dataclass(frozen=True, slots=True)
class Lead:
    """How often the better of two methods was nearer.

    nearer: starting points at which it was, of `points`
    apart: starting points without common periods; chance: p-value among these for the best of `tried` methods
    """

    nearer: int
    points: int
    apart: int
    tried: int
    chance: float

    @property
    def sure(self) -> bool:
        """Whether the lead is significant."""
        return self.chance < CHANCE

    def said(self, than: str) -> str:
        """Describe the lead.

        than: name of the other method
        """
        own = f", of which {number(self.apart)} hold back periods of their own" if self.apart < self.points else ""
        among = f" though {number(self.tried)} were tried" if self.tried > 1 else ""
        cases = max(1, round(100 * self.chance))
        often = (
            f"which chance alone does in up to {cases} of 100 cases" if cases <= EVEN else "no more than chance does"
        )
        how = f"more than chance{among}" if self.sure else often
        return f"nearer than {than} on {number(self.nearer)} of {number(self.points)} starting points{own}, {how}"


def lead_of(errors: Floats, others: Floats, periods: Sequence[Ints], tried: int) -> Lead | None:
    """Return the lead of one method over another, or None if its error is not smaller. A sign test over starting
    points without common periods, as errors within one are dependent, times the number of methods tried
    (Bonferroni).

    errors, others: mean absolute errors by starting point, oldest first, NaN for none
    periods: held-back periods of each
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
    """Return the mean absolute error over known values, or NaN."""
    known = ~np.isnan(happened)
    return float(np.abs(said - happened)[known].mean()) if known.any() else float("nan")


def _sharing_no_period(periods: Sequence[Ints], points: Sequence[int]) -> list[int]:
    """Return starting points without common held-back periods, newest first."""
    chosen: list[int] = []
    for n in reversed(points):
        if not chosen or periods[n][-1] < periods[chosen[-1]][0]:
            chosen.append(n)
    return chosen
