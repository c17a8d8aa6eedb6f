"""Estimate the season of a history of two to five cycles, too short for seasonal models or nearly so.

What it gains on held-back folds stands in docs/projection.md.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats
from zembra.core.arithmetic.robust import MAD_TO_SD
from zembra.core.projection.ahead import History, Projected

MOST_CYCLES = 5  # beyond which seasonal models know the season better
FAR = 5.0  # robust deviations from the running median
MOST_FAR = 0.1  # share of values beyond which such values are no outliers
AGAIN = 0.5  # share of its distance at which a far value counts as found again
SHARE = "Share of the seasonal means"


@dataclass(frozen=True, slots=True)
class ShortSeason:
    """A season as shrunken means.

    cycle: effects in the unit of the values, by index modulo the season length; their mean is 0
    share: of the means that is kept, from 0 to 1
    widening: factor for the half-widths, since the means are estimated
    """

    cycle: Floats
    share: float
    widening: float

    def at(self, start: int, count: int) -> Floats:
        """Return the effects of `count` periods from an index."""
        return np.asarray(self.cycle[np.arange(start, start + count) % self.cycle.size])

    def taken_off(self, history: History) -> History:
        """Return the history without the season."""
        return replace(history, values=history.values - self.at(0, history.size), season=None, usual=None)

    def added(self, found: Projected, start: int) -> Projected:
        """Add the season back to the projection of a history of `start` values."""
        onward = self.at(start, found.mean.size)
        effects = self.at(0, start)
        return replace(
            found.widened(self.widening),
            mean=found.mean + onward,
            estimates={**found.estimates, SHARE: self.share},
            parts=tuple(replace(part, mean=part.mean + onward) for part in found.parts),
            seasonal=True,
            cut={place: float(value + effects[place]) for place, value in found.cut.items()},
        )


def short_season(history: History) -> ShortSeason | None:
    """Return the season of a short history, or None if it is not short or shows none.

    The trend is the centred moving average over one season, carried to both ends on the slope of its straight line.
    The means of the rest by place are shrunken by the empirical Bayes factor B = max(0, 1 − (v / (n / m)) / Var),
    where m is the season length, Var the variance of the means, and v the variance that is left with n − m − 2
    degrees of freedom. Half-widths grow by √(1 + (m − 1) / n). Values that lie far off in one cycle alone do not
    count.
    """
    season = history.season or history.usual or 0
    n = history.size
    if season < 2 or not 2 * season + 1 <= n <= MOST_CYCLES * season:
        return None
    middle = _running_median(history.values, season)
    far = _far_once(history.values - middle, season)
    counts = history.known & ~far
    points = int(counts.sum())
    freedom = points - season - 2
    place = np.arange(n) % season
    known = np.bincount(place[counts], minlength=season)
    if freedom < 1 or not known.all():
        return None
    near = np.where(far, middle, history.values)
    rest = near - _trend(near, season)
    cycle = np.bincount(place[counts], rest[counts], season) / known
    cycle -= cycle.mean()
    left = (rest - cycle[place])[counts]
    between = float(np.var(cycle, ddof=1))
    within = float(np.sum((left - left.mean()) ** 2)) / freedom / (points / season)
    share = 1 - within / between if between > within else 0.0
    if not share:
        return None
    return ShortSeason(share * cycle, share, float(np.sqrt(1 + (season - 1) / n)))


def _running_median(values: Floats, season: int) -> Floats:
    before = season // 2
    padded = np.pad(values, (before, season - 1 - before), "edge")
    return np.asarray(np.median(np.lib.stride_tricks.sliding_window_view(padded, season), axis=1))


def _far_once(away: Floats, season: int) -> Bools:
    """Return the mask of distances from the running median that are large and not found again a season before or
    after; a peak of every December is no mistake. None if they are many.
    """
    size = np.abs(away)
    far = size > FAR * MAD_TO_SD * np.median(size)
    beside = np.pad(away, season)
    again = np.maximum(beside[: -2 * season] * np.sign(away), beside[2 * season :] * np.sign(away))
    far &= again < AGAIN * size
    return far if far.sum() < MOST_FAR * away.size else np.zeros(away.size, dtype=bool)


def _trend(values: Floats, season: int) -> Floats:
    """Return the centred moving average over one season, the weights at its ends halved for even lengths."""
    weights = np.ones(season) if season % 2 else np.r_[0.5, np.ones(season - 1), 0.5]
    middle = np.convolve(values, weights / season, "valid")
    before = weights.size // 2
    slope = float(np.polyfit(np.arange(middle.size), middle, 1)[0]) if middle.size > 1 else 0.0
    steps = slope * np.arange(1, before + 1)
    return np.concatenate((middle[0] - steps[::-1], middle, middle[-1] + steps))
