"""Exponential smoothing as projection methods."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.projection.ahead import History, Number, Projected, corrected
from zembra.core.projection.limits import HalfWidth
from zembra.core.projection.seasonal import STRENGTH, cycled, has_season, taken_off
from zembra.core.projection.smoothing.fit import smooth
from zembra.core.projection.smoothing.fitted import Fit
from zembra.core.projection.smoothing.forms import Form
from zembra.core.projection.smoothing.smoothingahead import carried_on

LONGEST_OF_LOGS = 24  # season length up to which logarithms are smoothed with one
MOST_UNLIKE = 50  # times the smallest value, beyond which the largest has no place beside it on a logarithm
DAMPED = Form("A", "A", "N", damped=True)
DAMPED_ESTIMATED = 5  # level weight, trend weight, damping, first level, first trend


def smoothed(
    history: History, ahead: int, levels: Sequence[float], form: Form | None = None, refit_from: Projected | None = None
) -> Projected:
    """Project by the best form, or a given one. A season needs evidence (see has_season). Raises Refusal.

    refit_from: the projection of the whole history, of which `history` is the beginning; its weights are kept
    """
    fit = _kept(refit_from)
    if fit is None:
        season = history.season if form is not None or has_season(history.values, history.season) else None
        if form is not None and form.season == "N":
            season = None
        fit = smooth(history.values, season, ahead, form)
    return _as_projected("exponential smoothing", fit, history, ahead, levels)


def log_smoothed(history: History, ahead: int, levels: Sequence[float], form: Form | None = None) -> Projected:
    """Project logarithms by an additive form; the centre is the median. Raises Refusal."""
    season = history.season if seasonal_logs(history) else None
    seasons = ("N", "A") if season else ("N",)
    offered = [
        Form("A", trend, s, damped) for trend, damped in (("N", False), ("A", False), ("A", True)) for s in seasons
    ]
    fit = smooth(np.log(history.values), season, ahead, form, offered)
    found = _as_projected("exponential smoothing of logarithms", fit, history, ahead, levels)
    mean = np.exp(found.mean)
    halves = tuple(
        HalfWidth(half.level, mean * (1 - np.exp(-half.below)), mean * (np.exp(half.above) - 1))
        for half in found.halves
    )
    left = history.values * (1 - np.exp(-found.left))
    return Projected(found.method, mean, halves, found.estimates, left, (), fit, found.seasonal)


def logs_fit(history: History) -> bool:
    values = history.values
    return bool(np.all(values > 0)) and float(values.max()) < MOST_UNLIKE * float(values.min())


def seasonal_logs(history: History) -> bool:
    season = history.season
    return season is not None and season <= LONGEST_OF_LOGS and history.size >= 2 * season + 1


def damped(history: History, ahead: int, levels: Sequence[float]) -> Projected:
    """Project with a damped additive trend after removing the season, whose last cycle is added back. Raises
    Refusal.
    """
    values, cycle, strength = taken_off(history.values, history.season)
    fit = smooth(values, None, ahead, DAMPED)
    mean, halves = carried_on(fit, ahead, levels)
    wide = corrected(halves, DAMPED_ESTIMATED, history.points)
    return Projected(
        "damped trend, season taken off",
        mean + cycled(cycle, ahead),
        wide,
        {**_estimates(fit), STRENGTH: strength},
        fit.errors,
        seasonal=bool(cycle.any()),
    )


def estimated(form: Form, season: int | None) -> int:
    """Return the number of estimated weights and states."""
    return 2 + 2 * (form.trend != "N") + form.damped + (season or 0) * (form.season != "N")


def _kept(refit_from: Projected | None) -> Fit | None:
    return refit_from.form if refit_from is not None and isinstance(refit_from.form, Fit) else None


def _as_projected(name: str, fit: Fit, history: History, ahead: int, levels: Sequence[float]) -> Projected:
    mean, own = carried_on(fit, ahead, levels, history.size)
    halves = corrected(own, estimated(fit.form, history.season), history.points)
    left = fit.errors[: history.size]
    return Projected(name, mean, halves, _estimates(fit), left, (), fit, fit.form.season != "N")


def _estimates(fit: Fit) -> dict[str, Number]:
    alpha, beta, gamma, phi = (
        float(weight[0]) if has else None
        for has, weight in zip(
            fit.form.weights,
            (fit.weights.alpha, fit.weights.beta, fit.weights.gamma, fit.weights.phi),
            strict=True,
        )
    )
    return {
        "Form (error, trend, season)": str(fit.form),
        "Level weight α": alpha,
        "Trend weight β": beta,
        "Season weight γ": gamma,
        "Damping φ": phi,
        "Residual spread": fit.residual_spread,
        "AICc": fit.aicc,
    }
