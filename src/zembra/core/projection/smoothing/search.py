"""Search the weights of many forms and series at once: a coarse grid, then a pattern search."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import product

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints
from zembra.core.projection.smoothing.begin import begin_of
from zembra.core.projection.smoothing.forms import Form
from zembra.core.projection.smoothing.recursion import Begin, Weights, means_along

LEAST, MOST = 1e-4, 1 - 1e-4  # of α, and of the shares of β and γ in what they may be
DAMPING = (0.8, 0.98)
GRID = ((0.02, 0.1, 0.3, 0.6, 0.9), (0.02, 0.15, 0.5), (0.02, 0.15, 0.5), (0.4, 0.9))  # of α, β, γ, φ, as shares
FIRST_STEP, LAST_STEP = 0.1, 0.002
MOST_ROUNDS = 60


def weights_of(shares: Floats, has: Bools) -> Weights:
    """Convert shares to weights.

    shares: (4, column), 0 to 1: of α, of β in α, of γ in 1 − α, of φ in its range
    has: which weights the form of a column has
    """
    inner = LEAST + (MOST - LEAST) * shares
    alpha = inner[0]
    damping = DAMPING[0] + (DAMPING[1] - DAMPING[0]) * shares[3]
    return Weights(
        alpha,
        np.where(has[1], alpha * inner[1], 0.0),
        np.where(has[2], (1 - alpha) * inner[2], 0.0),
        np.where(has[3], damping, 1.0),
    )


def misfit(values: Floats, means: Floats, relative: Bools) -> Floats:
    """Return −2/n of the log likelihood by column, up to a constant: the log of the mean squared error, plus the
    mean log of the means if errors are multiplicative. Infinite if undefined.
    """
    with np.errstate(all="ignore"):
        errors = values - means
        size = np.where(relative, np.log(np.abs(means)).mean(axis=0), 0.0)
        errors = np.where(relative, errors / means, errors)
        found = np.log((errors**2).mean(axis=0)) + 2 * size
    return np.where(np.isnan(found), np.inf, found)


def searched(values: Floats, forms: Sequence[Form], season: int) -> tuple[Floats, Floats]:
    """Return shares (4, column) and misfit (column,) of each form for each series, those of a series adjacent. Each
    column is searched as if it were alone.

    values: (time, series), no gaps
    season: 1 if no form has one
    """
    series = values.shape[1]
    of_series = np.repeat(np.arange(series), len(forms))
    of_form = np.tile(np.arange(len(forms)), series)
    begins = [
        begin_of(values[:, n], form, season if form.season != "N" else 1) for n in range(series) for form in forms
    ]
    problem = _Problem(values, forms, of_series, of_form, _beside(begins, season, [forms[n] for n in of_form]))
    shares, best = _coarse(problem)
    step = np.full(of_form.size, FIRST_STEP)
    for _ in range(MOST_ROUNDS):
        open_ = np.flatnonzero(step >= LAST_STEP)
        if not open_.size:
            break
        tried, columns = _around(shares, step, problem.has, open_)
        found = problem.misfit(tried, columns)
        # the best of each column's trials
        order = np.lexsort((found, columns))
        first = order[np.searchsorted(columns[order], open_)]
        better = found[first] < best[open_]
        won, lost = open_[better], open_[~better]
        shares[:, won], best[won] = tried[:, first[better]], found[first[better]]
        step[lost] /= 2
    return shares, best


class _Problem:
    def __init__(self, values: Floats, forms: Sequence[Form], of_series: Ints, of_form: Ints, begin: Begin) -> None:
        self.values, self.of_series, self.begin = values, of_series, begin
        kinds = [forms[n] for n in of_form]
        self.has = np.array([form.weights for form in kinds]).T
        self.relative = np.array([form.error == "M" for form in kinds])
        self.factor = np.array([form.season == "M" for form in kinds])

    def misfit(self, shares: Floats, columns: Ints) -> Floats:
        """Return the misfit of trials.

        columns: the column of each
        """
        found = np.empty(columns.size)
        for factor in (False, True):
            mine = np.flatnonzero(self.factor[columns] == factor)
            if not mine.size:
                continue
            own = columns[mine]
            values = self.values[:, self.of_series[own]]
            weights = weights_of(shares[:, mine], self.has[:, own])
            means = means_along(values, weights, self.begin.at(own), factor=factor)
            found[mine] = misfit(values, means, self.relative[own])
        return found


def _coarse(problem: _Problem) -> tuple[Floats, Floats]:
    """Return the best point of a grid, by column. Unused weights stay fixed."""
    tried, columns = [], []
    for column in range(problem.has.shape[1]):
        axes = [grid if has else grid[:1] for grid, has in zip(GRID, problem.has[:, column], strict=True)]
        points = list(product(*axes))
        tried += points
        columns += [column] * len(points)
    shares, of = np.array(tried).T, np.array(columns)
    found = problem.misfit(shares, of)
    order = np.lexsort((found, of))
    first = order[np.searchsorted(of[order], np.arange(problem.has.shape[1]))]
    return shares[:, first], found[first]


def _around(shares: Floats, step: Floats, has: Bools, open_: Ints) -> tuple[Floats, Ints]:
    """Return trials one step either way along each weight, and their columns."""
    tried, columns = [], []
    for axis in range(4):
        for sign in (-1.0, 1.0):
            moved = shares[:, open_].copy()
            moved[axis] = np.clip(moved[axis] + sign * step[open_], 0.0, 1.0)
            worth = has[axis, open_] & (moved[axis] != shares[axis, open_])
            tried.append(moved[:, worth])
            columns.append(open_[worth])
    # a column at a bound tries its current value
    tried.append(shares[:, open_])
    columns.append(open_)
    return np.concatenate(tried, axis=1), np.concatenate(columns)


def _beside(begins: Sequence[Begin], season: int, forms: Sequence[Form]) -> Begin:
    pattern = np.empty((season, len(begins)))
    for n, (begin, form) in enumerate(zip(begins, forms, strict=True)):
        pattern[:, n] = begin.season[:, 0] if form.season != "N" else 0.0
    return Begin(
        np.concatenate([begin.level for begin in begins]),
        np.concatenate([begin.trend for begin in begins]),
        pattern,
    )
