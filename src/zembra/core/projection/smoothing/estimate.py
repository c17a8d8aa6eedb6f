"""Estimate weights and initial states of one form by maximum likelihood."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.projection.smoothing.begin import begin_of
from zembra.core.projection.smoothing.forms import Form
from zembra.core.projection.smoothing.recursion import Begin, Weights, means_along
from zembra.core.projection.smoothing.search import misfit, searched, weights_of

# Above this season length the first states are taken from the first seasons, not estimated: one free parameter per place of
# the season would cost seconds and fit noise.
LONGEST_ESTIMATED = 24
SLOPE_STEP = 1e-7
INSIDE = 1e-6  # how far from the ends of what it may be a weight begins
MOST_EVALUATIONS = 40
HUGE = 1e12


def estimated_with_states(history: Floats, form: Form, season: int) -> tuple[Weights, Begin, float]:
    """Return weights, initial states and misfit (see `search.misfit`), a column each. The start is the best fit
    with heuristic states, which are kept if the season is too long or nothing fits better.

    season: 1 for none
    """
    # slow to import
    from scipy.optimize import least_squares

    shares, found = searched(history[:, None], [form], season)
    begin = begin_of(history, form, season)
    has = np.array([form.weights]).T
    chosen = weights_of(shares, has), begin, float(found[0])
    if form.season != "N" and season > LONGEST_ESTIMATED:
        return chosen
    problem = _Free(history, form, season, shares, begin)
    low, high = problem.bounds
    first = np.clip(problem.first, low + INSIDE, high - INSIDE)
    if not np.isfinite(problem.residuals(first)).all():
        return chosen
    fit = least_squares(
        problem.residuals,
        first,
        problem.slopes,
        bounds=(low, high),
        x_scale=problem.scale,
        max_nfev=MOST_EVALUATIONS,
        ftol=1e-9,
        xtol=1e-8,
        gtol=1e-9,
    )
    weights, begin = problem.meant(fit.x[:, None])
    means = means_along(history[:, None], weights, begin, factor=problem.factor)
    better = float(misfit(history[:, None], means, problem.relative)[0])
    return (weights, begin, better) if better < chosen[2] else chosen


class _Free:
    """The free parameters as one vector: weights, level, trend, and the season without its last place, which the
    level determines.
    """

    def __init__(self, history: Floats, form: Form, season: int, shares: Floats, begin: Begin) -> None:
        self.history, self.season = history, season
        self.factor = form.season == "M"
        self.relative = np.array([form.error == "M"])
        self.has = np.array([form.weights]).T
        self.weights = np.flatnonzero(self.has[:, 0])
        self.trend = form.trend != "N"
        self.places = season - 1 if form.season != "N" else 0
        # the level absorbs the last seasonal state
        last = begin.season[-1, 0]
        level = begin.level[0] * last if self.factor else begin.level[0] + last
        slope = begin.trend[0] * last if self.factor else begin.trend[0]
        pattern = begin.season[:, 0] / last if self.factor else begin.season[:, 0] - last
        self.first = np.r_[shares[self.weights, 0], level, [slope] * self.trend, pattern[: self.places]]
        size = float(np.abs(history).mean())
        self.scale = np.r_[
            np.full(self.weights.size, 0.3),
            size,
            [max(0.01 * size, abs(slope))] * self.trend,
            np.full(self.places, 1.0 if self.factor else size),
        ]

    @property
    def bounds(self) -> tuple[Floats, Floats]:
        free = self.first.size - self.weights.size
        return np.r_[np.zeros(self.weights.size), np.full(free, -np.inf)], np.r_[
            np.ones(self.weights.size), np.full(free, np.inf)
        ]

    def meant(self, points: Floats) -> tuple[Weights, Begin]:
        """Convert vectors to weights and states.

        points: (parameter, column)
        """
        columns = points.shape[1]
        shares = np.full((4, columns), 0.5)
        shares[self.weights] = points[: self.weights.size]
        rest = points[self.weights.size :]
        slope = rest[1] if self.trend else np.zeros(columns)
        pattern = np.full((self.season, columns), 1.0 if self.factor else 0.0)
        pattern[: self.places] = rest[rest.shape[0] - self.places :] if self.places else pattern[:0]
        return weights_of(shares, self.has), Begin(rest[0].copy(), slope.copy(), pattern)

    def residuals(self, point: Floats) -> Floats:
        return self._residuals(point[:, None])[:, 0]

    def slopes(self, point: Floats) -> Floats:
        """Return numeric derivatives, all at once."""
        steps = SLOPE_STEP * np.maximum(self.scale, np.abs(point))
        _, high = self.bounds
        steps = np.where(point + steps > high, -steps, steps)
        found = self._residuals(np.concatenate((point[:, None], point[:, None] + np.diag(steps)), axis=1))
        return (found[:, 1:] - found[:, :1]) / steps

    def _residuals(self, points: Floats) -> Floats:
        """Return residuals whose sum of squares is smallest where the likelihood is largest: multiplicative errors
        are multiplied by the geometric mean of the means.
        """
        weights, begin = self.meant(points)
        values = self.history[:, None]
        means = means_along(values, weights, begin, factor=self.factor)
        with np.errstate(all="ignore"):
            found = values - means
            if self.relative[0]:
                found = found / means * np.exp(np.log(np.abs(means)).mean(axis=0))
        return np.clip(np.nan_to_num(found, nan=HUGE, posinf=HUGE, neginf=-HUGE), -HUGE, HUGE)
