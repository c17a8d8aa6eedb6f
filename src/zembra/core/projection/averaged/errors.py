"""One-step errors of many ARIMA models at once, conditional on none before the start (Box and Jenkins, 1970).

Arrays have time first and a model a column.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.projection.averaged.forms import ArimaForm

AR1, AR2, MA1, MA2, SEASONAL_MA, CONSTANT = range(6)
SLOTS = 6
MOST_ROOT = 0.985  # of a partial autocorrelation: nearer to 1 a model cannot be told from its difference


@dataclass(frozen=True, slots=True)
class Models:
    """Models as columns.

    series, forms: their indices
    differenced: differenced series by (d, seasonal), (time, series), zero before the first
    season: 1 for none
    """

    series: Ints
    forms: Ints
    kinds: tuple[ArimaForm, ...]
    differenced: dict[tuple[int, bool], Floats]
    season: int

    def at(self, columns: Ints) -> Models:
        return Models(self.series[columns], self.forms[columns], self.kinds, self.differenced, self.season)

    def begins(self) -> Ints:
        """The first index of each model's differences."""
        own = np.array([form.d + form.seasonal * self.season for form in self.kinds], dtype=np.int64)
        return own[self.forms]

    def having(self, wanted: Sequence[bool]) -> Ints:
        """Return the columns whose form satisfies a mask."""
        return np.flatnonzero(np.array(wanted, dtype=bool)[self.forms])


def chosen(table: Any, columns: Ints) -> Any:
    """Select columns in a contiguous layout, so that sums do not depend on neighbours."""
    return np.ascontiguousarray(table[:, columns])


def differences(values: Floats, forms: Sequence[ArimaForm], season: int) -> dict[tuple[int, bool], Floats]:
    """Return the differences that the forms use, as in Models.

    values: (time, series)
    """
    found = {}
    for d, seasonal in {(form.d, form.seasonal) for form in forms}:
        step = season if seasonal else 0
        here = values[step:] - values[:-step] if step else values
        here = np.diff(here, n=d, axis=0)
        found[d, seasonal] = np.concatenate((np.zeros((values.shape[0] - here.shape[0], values.shape[1])), here))
    return found


def coefficients(parameters: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """Return (a₁, a₂, b₁, b₂) of 1 − a₁B − a₂B² and 1 − b₁B − b₂B² from partial autocorrelations."""
    r1, r2, s1, s2 = (parameters[:, slot] for slot in (AR1, AR2, MA1, MA2))
    return r1 * (1 - r2), r2, s1 * (1 - s2), s2


def deviations(models: Models, constants: Floats) -> Floats:
    """Return each model's differences minus its constant, zero before the first."""
    sources = list(models.differenced)
    which = np.array([sources.index((form.d, form.seasonal)) for form in models.kinds])[models.forms]
    stacked = np.concatenate([models.differenced[source] for source in sources], axis=1)
    count = models.differenced[sources[0]].shape[1]
    found = stacked[:, which * count + models.series]
    found -= constants
    found[np.arange(found.shape[0])[:, None] < models.begins()] = 0.0
    return found


def one_step_errors(models: Models, parameters: Floats) -> Floats:
    """Return one-step errors (time, model), zero before each model's first difference.

    parameters: (model, SLOTS)
    """
    a1, a2, b1, b2 = coefficients(parameters)
    own = deviations(models, parameters[:, CONSTANT])
    found = own.copy()
    ar = models.having([form.p > 0 for form in models.kinds])
    if ar.size:
        part = own[:, ar]
        less = np.zeros(part.shape)
        less[1:] = a1[ar] * part[:-1]
        less[2:] += a2[ar] * part[:-2]
        less[np.arange(part.shape[0])[:, None] < models.begins()[ar]] = 0.0
        found[:, ar] = part - less
    season = models.season
    by_season = models.having([form.seasonal for form in models.kinds])
    if by_season.size:
        part = found[:, by_season]
        weight = parameters[by_season, SEASONAL_MA]
        for start in range(season, part.shape[0], season):
            stop = min(start + season, part.shape[0])
            part[start:stop] += weight * part[start - season : stop - season]
        found[:, by_season] = part
    ma = models.having([form.q > 0 for form in models.kinds])
    if ma.size:
        part = np.ascontiguousarray(found[:, ma])
        first, second = b1[ma], b2[ma]
        step = np.empty(ma.size)
        for t in range(1, part.shape[0]):
            np.multiply(first, part[t - 1], out=step)
            part[t] += step
            if t > 1:
                np.multiply(second, part[t - 2], out=step)
                part[t] += step
        found[:, ma] = part
    return found
