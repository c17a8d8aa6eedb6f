"""Forecast with fitted ARIMA models: means and ψ weights."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.projection.averaged.errors import CONSTANT, SEASONAL_MA, Models, coefficients


def means_ahead(
    models: Models, parameters: Floats, apart: Floats, values: Floats, errors: Floats, origin: int, ahead: int
) -> Floats:
    """Return forecasts from `origin`, (ahead, model).

    apart: differences minus their constants, as `deviations` returns them
    values: (time, series)
    """
    season = models.season
    going = _going_on(models, parameters, apart[:origin], errors[:origin], ahead) + parameters[:, CONSTANT]
    found = np.empty(going.shape)
    for d, seasonal in models.differenced:
        columns = models.having([(form.d, form.seasonal) == (d, seasonal) for form in models.kinds])
        if not columns.size:
            continue
        history = values[:origin, models.series[columns]]
        steps = history[season:] - history[:-season] if seasonal else history
        part = going[:, columns]
        for times in range(d - 1, -1, -1):
            part = np.diff(steps, n=times, axis=0)[-1] + np.cumsum(part, axis=0)
        found[:, columns] = _seasons_added(part, history[-season:], season) if seasonal else part
    return found


def responses_to_errors(models: Models, parameters: Floats, ahead: int) -> Floats:
    """Return ψ weights from lag 1, (ahead, model)."""
    count = parameters.shape[0]
    unity = np.ones((1, count))
    psi = np.concatenate((unity, _going_on(models, parameters, unity, unity, ahead - 1)))
    for d, seasonal in models.differenced:
        columns = models.having([(form.d, form.seasonal) == (d, seasonal) for form in models.kinds])
        if not columns.size:
            continue
        part = psi[:, columns]
        for _ in range(d):
            part = np.cumsum(part, axis=0)
        if seasonal:
            part = _seasons_added(part, np.zeros((models.season, columns.size)), models.season)
        psi[:, columns] = part
    return psi


def _going_on(models: Models, parameters: Floats, own: Floats, errors: Floats, ahead: int) -> Floats:
    """Return expected deviations from the constants ahead."""
    a1, a2, b1, b2 = coefficients(parameters)
    by_season = parameters[:, SEASONAL_MA]
    season = models.season
    lags = ((1, -b1), (2, -b2), (season, -by_season), (season + 1, by_season * b1), (season + 2, by_season * b2))
    found = np.zeros((ahead, parameters.shape[0]))
    for lag, weight in lags:
        # errors at this lag, among the known ones
        reach = min(lag, ahead)
        known = errors[-lag:]
        missing = lag - known.shape[0]
        rows = known[: max(0, reach - missing)]
        found[missing : missing + rows.shape[0]] += weight * rows
    before = np.concatenate((np.zeros((2, parameters.shape[0])), own))[-2:]
    older, newer = before[0], before[1]
    for step in range(ahead):
        found[step] += a1 * newer + a2 * older
        older, newer = newer, found[step]
    return found


def _seasons_added(part: Floats, last: Floats, season: int) -> Floats:
    """Undo a seasonal difference."""
    found = part.copy()
    for start in range(0, found.shape[0], season):
        stop = min(start + season, found.shape[0])
        found[start:stop] += last[: stop - start]
        last = found[start:stop]
    return found
