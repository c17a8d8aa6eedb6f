"""Exponential smoothing as a method: of the values, of their logarithm, and damped with the season taken off."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.projection.ahead import History, Number, Projected, corrected
from zembra.core.projection.limits import Half
from zembra.core.projection.seasonal import STRENGTH, cycled, has_season, taken_off
from zembra.core.projection.smoothing import Fitted, Form, project_again, smooth

LONGEST_OF_LOGS = 24  # season length up to which logarithms are smoothed with one
MOST_UNLIKE = 50  # times the smallest value, beyond which the largest has no place beside it on a logarithm
DAMPED = Form("A", "A", "N", damped=True)
DAMPED_ESTIMATED = 5  # level weight, trend weight, damping, first level, first trend


def smoothed(history: History, ahead: int, levels: Sequence[float], form: Form | None = None) -> Projected:
    """The form that fits best, or a given one. A season is offered only where the history has one (see has_season).
    Raises Refusal."""
    season = history.season if form is not None or has_season(history.values, history.season) else None
    if form is not None and form.season == "N":
        season = None
    fitted = smooth(history.values, season, ahead, levels, form)
    return _as_projected("exponential smoothing", fitted, history)


def smoothed_again(history: History, ahead: int, levels: Sequence[float], form: Form) -> Projected:
    """The same form on less of the history, quickly."""
    season = history.season if form.season != "N" else None
    return _as_projected("exponential smoothing", project_again(history.values, season, ahead, levels, form), history)


def log_smoothed(history: History, ahead: int, levels: Sequence[float], form: Form | None = None) -> Projected:
    """Additive forms on the logarithm; the centre is the median there. Raises Refusal."""
    logs = np.log(history.values)
    season = history.season if seasonal_logs(history) else None
    seasons = ("N", "A") if season else ("N",)
    offered = [
        Form("A", trend, s, damped) for trend, damped in (("N", False), ("A", False), ("A", True)) for s in seasons
    ]
    if form is not None:
        fitted = project_again(logs, season if form.season != "N" else None, ahead, levels, form)
    else:
        fitted = smooth(logs, season, ahead, levels, None, offered)
    found = _as_projected("exponential smoothing of logarithms", fitted, history)
    mean = np.exp(fitted.mean)
    halves = tuple(
        Half(half.level, mean * (1 - np.exp(-half.below)), mean * (np.exp(half.above) - 1)) for half in found.halves
    )
    left = history.values * (1 - np.exp(-fitted.left)) if fitted.left.size else fitted.left
    return Projected(found.method, mean, halves, found.estimates, left, (), fitted.form, found.seasonal)


def logs_fit(history: History) -> bool:
    values = history.values
    return bool(np.all(values > 0)) and float(values.max()) < MOST_UNLIKE * float(values.min())


def seasonal_logs(history: History) -> bool:
    season = history.season
    return season is not None and season <= LONGEST_OF_LOGS and history.size >= 2 * season + 1


def damped(history: History, ahead: int, levels: Sequence[float]) -> Projected:
    """A damped additive trend on the history with its season taken off; its last cycle is added back. Raises
    Refusal."""
    values, cycle, strength = taken_off(history.values, history.season)
    fitted = smooth(values, None, ahead, levels, DAMPED)
    mean = fitted.mean + cycled(cycle, ahead)
    halves = corrected(_halves(fitted), DAMPED_ESTIMATED, history.points)
    estimates = {**_estimates(fitted), STRENGTH: strength}
    return Projected("damped trend, season taken off", mean, halves, estimates, fitted.left, seasonal=bool(cycle.any()))


def _as_projected(name: str, fitted: Fitted, history: History) -> Projected:
    halves = corrected(_halves(fitted), estimated(fitted.form, history.season), history.points)
    seasonal = fitted.form.season != "N"
    return Projected(name, fitted.mean, halves, _estimates(fitted), fitted.left, (), fitted.form, seasonal)


def estimated(form: Form, season: int | None) -> int:
    """How many quantities a form has to estimate: weights and first states."""
    return 2 + 2 * (form.trend != "N") + form.damped + (season or 0) * (form.season != "N")


def _halves(fitted: Fitted) -> list[Half]:
    return [limit.around(fitted.mean) for limit in fitted.limits]


def _estimates(fitted: Fitted) -> dict[str, Number]:
    return {
        "Form (error, trend, season)": str(fitted.form),
        "Level weight α": fitted.alpha,
        "Trend weight β": fitted.beta,
        "Season weight γ": fitted.gamma,
        "Damping φ": fitted.phi,
        "Residual spread": fitted.residual_spread,
        "AICc": fitted.aicc,
    }
