"""Fit many ARIMA models at once by conditional least squares (Levenberg 1944, Marquardt 1963)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints
from zembra.core.projection.averaged.errors import (
    AR1,
    AR2,
    CONSTANT,
    MA1,
    MA2,
    MOST_ROOT,
    SEASONAL_MA,
    SLOTS,
    Models,
    chosen,
    differences,
    one_step_errors,
)
from zembra.core.projection.averaged.forms import ArimaForm

MOST_ROUNDS = 6
LEAST_GAIN = 1e-3  # of the sum of squares, below which a model is left as it is
STEP = 1e-4  # of a slope that is taken numerically
FIRST_DAMPING = 1e-2
MOST_AT_ONCE = 400_000  # errors of a round that are held at once: models times points


@dataclass(frozen=True, slots=True)
class Fits:
    """Fitted models, a column each, by series and then form.

    parameters: (model, SLOTS)
    errors: (time, model)
    squares: sum of squared errors that count
    """

    models: Models
    parameters: Floats
    errors: Floats
    squares: Floats

    def at(self, columns: Ints) -> Fits:
        return Fits(
            self.models.at(columns), self.parameters[columns], chosen(self.errors, columns), self.squares[columns]
        )


def first_counted(forms: Sequence[ArimaForm], season: int) -> int:
    """Return the first index whose errors count, so that all forms are compared on the same points."""
    return season + 1 if any(form.seasonal for form in forms) else 2


def fitted(
    values: Floats, counts: Bools, forms: tuple[ArimaForm, ...], season: int | None, sizes: Ints | None = None
) -> Fits:
    """Fit every model.

    values: (time, series), scaled to about 1
    counts: mask of observed values
    sizes: length of each series, by default all; later values are unobserved
    """
    step = season or 1
    series = values.shape[1]
    models = Models(
        np.repeat(np.arange(series), len(forms)),
        np.tile(np.arange(len(forms)), series),
        forms,
        differences(values, forms, step),
        step,
    )
    weight = counts.astype(np.float64)
    weight[: first_counted(forms, step)] = 0.0
    ends = np.full(series, values.shape[0]) if sizes is None else sizes
    parameters = _starts(models, forms, ends)
    uses = _uses(forms)
    errors = one_step_errors(models, parameters)
    squares = _squares(errors, weight, models)
    damping = np.full(squares.size, FIRST_DAMPING)
    active = np.flatnonzero(uses[models.forms].any(axis=1) & (squares > 0))
    for _ in range(MOST_ROUNDS):
        if not active.size:
            break
        going_on = []
        for start in range(0, active.size, most := max(1, MOST_AT_ONCE // values.shape[0])):
            rows = active[start : start + most]
            if rows.size == 1:
                # sums along one column and along several differ in the last digit
                rows = rows.repeat(2)
            part = models.at(rows)
            tried = _stepped(part, parameters[rows], errors[:, rows], weight, uses, damping[rows])
            new = one_step_errors(part, tried)
            found = _squares(new, weight, part)
            better = found < squares[rows]
            gain = np.where(better, 1 - found / np.where(better, squares[rows], 1.0), 0.0)
            taken = rows[better]
            parameters[taken], squares[taken] = tried[better], found[better]
            errors[:, taken] = new[:, better]
            damping[rows] = np.where(better, damping[rows] / 5, damping[rows] * 10)
            going_on.append(rows[(gain > LEAST_GAIN) | ~better])
        active = np.unique(np.concatenate(going_on))
    return Fits(models, parameters, errors, squares)


def _uses(forms: Sequence[ArimaForm]) -> Bools:
    """Return which parameter slots each form uses."""
    found = np.zeros((len(forms), SLOTS), dtype=bool)
    for n, form in enumerate(forms):
        found[n, AR1], found[n, AR2] = form.p > 0, form.p > 1
        found[n, MA1], found[n, MA2] = form.q > 0, form.q > 1
        found[n, SEASONAL_MA], found[n, CONSTANT] = form.seasonal, form.constant
    return found


def _starts(models: Models, forms: Sequence[ArimaForm], ends: Ints) -> Floats:
    start = np.zeros((len(forms), SLOTS))
    for n, form in enumerate(forms):
        start[n, AR1] = 0.3 if form.p else 0.0
        start[n, MA1] = (0.4 if form.d else -0.2) if form.q else 0.0
        start[n, SEASONAL_MA] = 0.5 if form.seasonal else 0.0
    found = start[models.forms]
    for n, form in enumerate(forms):
        if form.constant:
            own = models.forms == n
            begin = form.d + form.seasonal * models.season
            differenced = models.differenced[form.d, form.seasonal]
            own_places = np.arange(differenced.shape[0])[:, None] < ends
            means = np.where(own_places, differenced, 0.0).sum(axis=0) / np.maximum(ends - begin, 1)
            found[own, CONSTANT] = means[models.series[own]]
    return found


def _squares(errors: Floats, weight: Floats, models: Models) -> Floats:
    with np.errstate(over="ignore", invalid="ignore"):
        found = np.einsum("tm,tm,tm->m", errors, errors, weight[:, models.series])
    return np.where(np.isfinite(found), found, np.inf)


def _stepped(
    models: Models, parameters: Floats, errors: Floats, weight: Floats, uses: Bools, damping: Floats
) -> Floats:
    """Return the parameters after one damped Gauss–Newton step, within the bounds of roots."""
    used = uses[models.forms]
    rows, slots = np.nonzero(used)
    near = parameters[rows]
    inward = np.where((slots != CONSTANT) & (near[np.arange(rows.size), slots] > 0), -STEP, STEP)
    near[np.arange(rows.size), slots] += inward
    slopes = (one_step_errors(models.at(rows), near) - errors[:, rows]) / inward
    counted = weight[:, models.series]
    table = np.zeros((SLOTS, *errors.shape))
    table[slots, :, rows] = (slopes * counted[:, rows]).T
    lying = np.ascontiguousarray(table.transpose(2, 0, 1))
    normal = lying @ lying.transpose(0, 2, 1)
    right = (lying @ np.ascontiguousarray((errors * counted).T)[:, :, None])[:, :, 0]
    size = np.einsum("mii->mi", normal)
    size += np.where(used, damping[:, None] * size + 1e-12, 1.0)
    with np.errstate(over="ignore", invalid="ignore"):
        change = np.linalg.solve(normal, right[:, :, None])[:, :, 0]
    change = np.where(np.isfinite(change) & used, change, 0.0)
    found = parameters - change
    found[:, :CONSTANT] = np.clip(found[:, :CONSTANT], -MOST_ROOT, MOST_ROOT)
    return found
