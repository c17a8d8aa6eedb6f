"""The recursion of exponential smoothing, for many columns side by side: series, forms and trial weights."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints


@dataclass(frozen=True, slots=True)
class Weights:
    """One a column. alpha, beta, gamma: of level, trend and season, zero where there is none; phi: damping, 1 where there is
    none. All are those of the errors themselves, so that β is at most α and γ at most 1 − α."""

    alpha: Floats
    beta: Floats
    gamma: Floats
    phi: Floats


@dataclass(frozen=True, slots=True)
class Begin:
    """States before the first value. level, trend: one a column. season: (season's length, column), the one of the first
    value first; zeros of an additive season, ones of a multiplicative one, where there is none."""

    level: Floats
    trend: Floats
    season: Floats

    def at(self, columns: Ints) -> Begin:
        return Begin(self.level[columns], self.trend[columns], self.season[:, columns])


@dataclass(frozen=True, slots=True)
class Path:
    """What a recursion went through. means: (time, column), one step ahead. level, trend: (time + 1, column), before each
    value and after the last. season: (time + season's length, column): of each value, and of those to come."""

    means: Floats
    level: Floats
    trend: Floats
    season: Floats


def means_along(values: Floats, weights: Weights, begin: Begin, *, factor: bool) -> Floats:
    """(time, column): the mean of each value, one step ahead. values: (time, column) or (time, 1). factor: whether the
    season multiplies."""
    means = np.empty((values.shape[0], weights.alpha.size))
    _go(values, weights, begin, factor, means, None)
    return means


def path_along(values: Floats, weights: Weights, begin: Begin, *, factor: bool) -> Path:
    """The same with every state on the way."""
    times, columns = values.shape[0], weights.alpha.size
    found = Path(
        np.empty((times, columns)),
        np.empty((times + 1, columns)),
        np.empty((times + 1, columns)),
        np.empty((times + begin.season.shape[0], columns)),
    )
    _go(values, weights, begin, factor, found.means, found)
    return found


def _go(values: Floats, weights: Weights, begin: Begin, factor: bool, means: Floats, kept: Path | None) -> None:
    """The recursions of Hyndman et al. (2008), tables 2.2 and 2.3. In terms of the errors themselves those with additive and
    with multiplicative errors are the same."""
    level, trend, season = begin.level.copy(), begin.trend.copy(), begin.season.copy()
    alpha, beta, gamma, phi = weights.alpha, weights.beta, weights.gamma, weights.phi
    base, error, step = np.empty(alpha.size), np.empty(alpha.size), np.empty(alpha.size)
    length = season.shape[0]
    with np.errstate(all="ignore"):
        for time, value in enumerate(values):
            own, mean = season[time % length], means[time]
            if kept is not None:
                kept.level[time], kept.trend[time], kept.season[time] = level, trend, own
            np.multiply(phi, trend, out=trend)
            np.add(level, trend, out=base)
            if factor:
                np.multiply(base, own, out=mean)
                np.subtract(value, mean, out=error)
                np.divide(error, base, out=step)
                np.divide(error, own, out=error)
                np.multiply(gamma, step, out=step)
            else:
                np.add(base, own, out=mean)
                np.subtract(value, mean, out=error)
                np.multiply(gamma, error, out=step)
            np.add(own, step, out=own)
            np.multiply(alpha, error, out=step)
            np.add(base, step, out=level)
            np.multiply(beta, error, out=error)
            np.add(trend, error, out=trend)
    if kept is not None:
        times = values.shape[0]
        kept.level[times], kept.trend[times] = level, trend
        for place in range(length):
            kept.season[times + place] = season[(times + place) % length]
