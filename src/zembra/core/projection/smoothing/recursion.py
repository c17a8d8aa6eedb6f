"""The recursion of exponential smoothing, vectorised over series, forms and weights."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints

# what a column costs as a filter, and a step of all columns as a recursion, in microseconds
FILTER_COST, STEP_COST = 40, 6


@dataclass(frozen=True, slots=True)
class Weights:
    """Smoothing weights, one a column.

    alpha, beta, gamma: of level, trend and season, zero for none; phi: damping, 1 for none. They apply to errors,
    so that β ≤ α and γ ≤ 1 − α.
    """

    alpha: Floats
    beta: Floats
    gamma: Floats
    phi: Floats


@dataclass(frozen=True, slots=True)
class Begin:
    """States before the first value.

    level, trend: one a column
    season: (season length, column), that of the first value first; neutral if there is none
    """

    level: Floats
    trend: Floats
    season: Floats

    def at(self, columns: Ints) -> Begin:
        return Begin(self.level[columns], self.trend[columns], self.season[:, columns])


@dataclass(frozen=True, slots=True)
class Path:
    """The path of a recursion.

    means: one-step means, (time, column)
    level, trend: (time + 1, column), before each value and after the last
    season: (time + season length, column), of each value and of those ahead
    """

    means: Floats
    level: Floats
    trend: Floats
    season: Floats


def means_along(values: Floats, weights: Weights, begin: Begin, *, factor: bool) -> Floats:
    """Return one-step means, (time, column).

    values: (time, column) or (time, 1)
    factor: whether the season is multiplicative
    """
    times, columns = values.shape[0], weights.alpha.size
    means = np.empty((times, columns))
    if factor or columns * FILTER_COST > times * STEP_COST:
        _run_filter(values, weights, begin, factor, means, None)
        return means
    # additive forms are a linear filter of the values; its first errors are those of the recursion
    first = min(times, begin.season.shape[0] + 3)
    _run_filter(values[:first], weights, begin, factor, means[:first], None)
    if first < times:
        _filter_on(values, weights, begin.season.shape[0], first, means)
    return means


def _filter_on(values: Floats, weights: Weights, season: int, first: int, means: Floats) -> None:
    """Return the means from an index on by the reduced form: with S = 1 + B + … of a season, θ(B) of the errors is
    (1 − φB)(1 − Bᵐ) of the values, θ = (1 − φB)(1 − Bᵐ) + αB(1 − φB)S + φβBS + γBᵐ(1 − φB) (Hyndman et al. 2008,
    chapter 11).
    """
    # slow to import
    from scipy.signal import lfilter

    sums = np.ones(season)
    steps = np.zeros(season + 1)
    steps[0], steps[-1] = 1.0, -1.0
    place = np.zeros(season + 1)
    place[-1] = 1.0
    for column in range(weights.alpha.size):
        alpha, beta, gamma, phi = (
            float(weight[column]) for weight in (weights.alpha, weights.beta, weights.gamma, weights.phi)
        )
        damping = np.array([1.0, -phi])
        of_values = np.convolve(damping, steps)
        of_errors = of_values.copy()
        of_errors[1:] += alpha * np.convolve(damping, sums) + np.r_[phi * beta * sums, 0.0]
        of_errors += gamma * np.convolve(damping, place)
        own = values[:, column if values.shape[1] > 1 else 0]
        errors = (own[:first] - means[:first, column])[::-1]
        state = _still_to_come(of_values, own[:first][::-1]) - _still_to_come(of_errors, errors)
        errors, _ = lfilter(of_values, of_errors, own[first:], zi=state)
        means[first:, column] = own[first:] - errors


def _still_to_come(filter_: Floats, before: Floats) -> Floats:
    """Return what earlier numbers add to the filter's sums.

    before: newest first, as many as the filter is long
    """
    order = filter_.size - 1
    return np.correlate(filter_[1:], before[:order], "full")[order - 1 :]


def path_along(values: Floats, weights: Weights, begin: Begin, *, factor: bool) -> Path:
    """Return the path with every state."""
    times, columns = values.shape[0], weights.alpha.size
    found = Path(
        np.empty((times, columns)),
        np.empty((times + 1, columns)),
        np.empty((times + 1, columns)),
        np.empty((times + begin.season.shape[0], columns)),
    )
    _run_filter(values, weights, begin, factor, found.means, found)
    return found


def _run_filter(values: Floats, weights: Weights, begin: Begin, factor: bool, means: Floats, kept: Path | None) -> None:
    """Run the recursions of Hyndman et al. (2008), tables 2.2 and 2.3. In terms of errors, additive and
    multiplicative ones are the same.
    """
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
