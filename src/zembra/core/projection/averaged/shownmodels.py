"""The models of largest weight: their parameters, for the account, and how their errors go on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.projection.ahead import ModelPath, Number, Projected
from zembra.core.projection.averaged.arimaahead import means_ahead
from zembra.core.projection.averaged.average import Averaged, AveragedForecast, ScaleFits
from zembra.core.projection.averaged.errors import AR1, AR2, CONSTANT, MA1, MA2, SEASONAL_MA
from zembra.core.projection.averaged.errorspread import FEWEST_ERRORS

LEAST_SHOWN = 0.02  # weight from which a model is listed
_NAMES = (
    (AR1, "first partial autocorrelation"),
    (AR2, "second"),
    (MA1, "first of the errors"),
    (MA2, "second of the errors"),
    (SEASONAL_MA, "of the errors a season before"),
    (CONSTANT, "constant"),
)


@dataclass(frozen=True, slots=True)
class ShownModel:
    told: Projected
    path: ModelPath


def shown_models(found: Averaged, said: AveragedForecast) -> list[ShownModel]:
    """Return the models of the first series with the largest weights, those on levels first.

    said: the forecast
    """
    models = _of_side(found, found.levels, said.widening[:, 0])
    if found.logarithms is not None and found.share[0] > 0:
        models += _of_side(found, found.logarithms, said.log_widening[:, 0])
    return models


def _of_side(found: Averaged, side: ScaleFits, widening: Floats) -> list[ShownModel]:
    in_logs = side is found.logarithms
    ahead = widening.size
    share = float(found.share[0])
    of_all = side.weights * (share if in_logs else 1 - share)
    columns = np.array([column for column in np.argsort(-of_all) if of_all[column] >= LEAST_SHOWN], dtype=np.int64)
    fits = side.fits.at(columns)
    values = np.log(found.values) if in_logs else found.values
    means = means_ahead(
        fits.models, fits.parameters, side.deviations[:, columns], values, fits.errors, found.values.shape[0], ahead
    )
    scale = 1.0 if in_logs else float(found.scale[0])
    with np.errstate(over="ignore"):
        levels = (np.exp(means) if in_logs else means) * found.scale[0]
    evidence = found.evidence(found.values.shape[0])[:, 0]
    shocks = _standardised(side.errors[evidence, 0])
    listed = []
    for n, column in enumerate(columns):
        form = fits.models.kinds[fits.models.forms[n]]
        numbers = fits.parameters[n]
        estimates: dict[str, Number] = {"weight": float(of_all[column])}
        estimates |= {name: float(numbers[slot]) for slot, name in _NAMES if numbers[slot]}
        name = f"{form}, logarithms" if in_logs else str(form)
        spread = scale * float(np.sqrt(np.mean(fits.errors[evidence, n] ** 2))) if evidence.any() else 0.0
        responses = spread * side.responses(ahead)[:, column]
        listed.append(
            ShownModel(
                Projected(name, levels[:, n], (), estimates, seasonal=form.seasonal),
                ModelPath(float(of_all[column]), levels[:, n], responses, widening, shocks, in_logs, np.arange(ahead)),
            )
        )
    return listed


def _standardised(errors: Floats) -> Floats:
    """Return errors about their mean, with root mean square 1; none if they are few."""
    away = errors - errors.mean() if errors.size else errors
    size = float(np.sqrt(np.mean(away**2))) if away.size >= FEWEST_ERRORS else 0.0
    return away / size if size > 0 else np.zeros(0)
