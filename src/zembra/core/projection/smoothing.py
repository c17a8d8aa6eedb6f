"""Exponential smoothing in innovations state-space form, fitted with statsmodels.

Forms and prediction intervals follow Hyndman, Koehler, Ord and Snyder, Forecasting with Exponential
Smoothing (Springer, 2008): a form is error, trend and season, each none (N), additive (A) or
multiplicative (M), the trend perhaps damped (Ad).
"""

from __future__ import annotations

import warnings
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from itertools import product
from typing import Any

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.arithmetic.fills import interpolated, seasonal_usual
from zembra.core.errors import Refusal
from zembra.core.projection.limits import Limits

FEWEST_POINTS = 5
# Above this season length the initial states are taken from the first seasons, not estimated: one
# free parameter per place of the season would cost minutes and fit noise.
LONGEST_ESTIMATED_SEASON = 24
SIMULATIONS = 4000
EVENED = 3  # neighbours on each side over which simulated limits are evened
MOST_TRIED = 4  # forms that are fitted in full, where those before them run away
RUN_AWAY = 10  # times the range ever seen
_WORDS = {"A": "add", "M": "mul", "N": None}


@dataclass(frozen=True, slots=True)
class Form:
    """error A or M; trend N or A; season N, A or M."""

    error: str
    trend: str
    season: str
    damped: bool = False

    def __str__(self) -> str:
        return f"({self.error}, {self.trend}{'d' if self.damped else ''}, {self.season})"


@dataclass(frozen=True, slots=True)
class Fitted:
    """A fitted smoothing and its projection.

    mean, limits: one element per period ahead. alpha, beta, gamma, phi: the weights of level, trend
    and season and the damping, None where the form has none. residual_spread: root of the squared
    one-step errors over their degrees of freedom; relative where the errors are multiplicative.
    tried: (form, AICc) of every form compared, best first. left: the error of each step.
    """

    mean: Floats
    limits: tuple[Limits, ...]
    form: Form
    alpha: float
    beta: float | None
    gamma: float | None
    phi: float | None
    residual_spread: float
    aicc: float
    points_used: int
    tried: tuple[tuple[str, float], ...] = ()
    left: Floats = field(default_factory=lambda: np.zeros(0))

    def at(self, places: Ints) -> Fitted:
        """The projection at some of the periods ahead, the first being 0."""
        limits = tuple(replace(limit, lower=limit.lower[places], upper=limit.upper[places]) for limit in self.limits)
        return replace(self, mean=self.mean[places], limits=limits)


def whole_history(values: Floats, season: int | None) -> tuple[Floats, int]:
    """(history without gaps, how many gaps were closed), from the first to the last number.

    The method cannot pass over a gap: each is closed with the seasonal usual, else on a straight
    line, for the fit only.
    """
    known = np.flatnonzero(~np.isnan(values))
    if known.size == 0:
        return values[:0], 0
    history = values[known[0] : known[-1] + 1]
    gaps = int(np.isnan(history).sum())
    if gaps and season:
        history = seasonal_usual(history, season)
    return interpolated(history), gaps


def possible_forms(history: Floats, season: int | None) -> list[Form]:
    """The forms worth comparing. Multiplicative ones need values above zero; a multiplicative season
    with additive errors is left out, as its variance can become infinite (Hyndman et al. 2008, 4.3).
    """
    positive = bool(np.all(history > 0))
    errors = ("A", "M") if positive else ("A",)
    seasons: tuple[str, ...] = ("N",)
    if season and history.size >= 2 * season:
        seasons = ("N", "A", "M") if positive else ("N", "A")
    trends = (("N", False), ("A", False), ("A", True))
    return [
        Form(error, trend, seasonal, damped)
        for error, (trend, damped), seasonal in product(errors, trends, seasons)
        if not (error == "A" and seasonal == "M")
    ]


def smooth(
    history: Floats,
    season: int | None,
    ahead: int,
    levels: Sequence[float],
    form: Form | None = None,
    offered: Sequence[Form] | None = None,
) -> Fitted:
    """Fit and project. history: no NaN. levels: coverage of the limits, in percent.

    form None compares the forms offered (the possible ones) by AICc, each with initial states from the first
    seasons, and refits the best one that does not run away over the horizon with its initial states estimated too. Raises Refusal where the history
    is too short or the form cannot be fitted to it.
    """
    _check(history, season, form)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        tried: list[tuple[Form, float]] = []
        if form is None:
            fits = [
                (form_tried, _quick(history, season, form_tried))
                for form_tried in offered or possible_forms(history, season)
            ]
            tried = sorted(
                (
                    (form_tried, float(fit.aicc))
                    for form_tried, fit in fits
                    if fit is not None and np.isfinite(fit.aicc)
                ),
                key=lambda pair: pair[1],
            )
            if not tried:
                raise Refusal("No form of exponential smoothing could be fitted.", todo="Bring in more history.")
        best: tuple[float, Form, Any, Floats, tuple[Limits, ...]] | None = None
        for chosen in [form] if form else [form_tried for form_tried, _ in tried[:MOST_TRIED]]:
            fit = _full(history, season, chosen)
            mean, limits = _ahead(fit, history.size, ahead, levels, chosen)
            far = _runs_away(history, mean, limits)
            # a form that runs away over the horizon is not chosen where another one does not; if all do, the least bad
            if best is None or far < best[0]:
                best = (far, chosen, fit, mean, limits)
            if far <= RUN_AWAY:
                break
        assert best is not None
        _, form, fit, mean, limits = best
    weights = dict(zip(fit.model.param_names, fit.params, strict=True))
    spread_freedom = max(1, history.size - len(fit.params))
    return Fitted(
        mean=mean,
        limits=limits,
        form=form,
        alpha=float(weights["smoothing_level"]),
        beta=_weight(weights, "smoothing_trend"),
        gamma=_weight(weights, "smoothing_seasonal"),
        phi=_weight(weights, "damping_trend"),
        residual_spread=float(np.sqrt(np.sum(np.asarray(fit.resid) ** 2) / spread_freedom)),
        aicc=float(fit.aicc),
        points_used=int(history.size),
        tried=tuple((str(form_tried), aicc) for form_tried, aicc in tried),
        left=history - np.asarray(fit.fittedvalues, dtype=np.float64),
    )


def project_again(history: Floats, season: int | None, ahead: int, levels: Sequence[float], form: Form) -> Fitted:
    """`smooth` for a known form with initial states from the first seasons: quick, for hold-backs."""
    _check(history, season, form)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        fit = _quick(history, season, form)
        if fit is None:
            raise Refusal("The form could not be fitted to the shortened history.")
        mean, limits = _ahead(fit, history.size, ahead, levels, form)
    weights = dict(zip(fit.model.param_names, fit.params, strict=True))
    return Fitted(
        mean, limits, form, float(weights["smoothing_level"]), None, None, None, 0.0, float(fit.aicc), history.size
    )


def _check(history: Floats, season: int | None, form: Form | None) -> None:
    if history.size < FEWEST_POINTS:
        raise Refusal(
            f"A projection needs at least {FEWEST_POINTS} values; there are {history.size}.",
            todo="Bring in more history, or fill blanks.",
        )
    if np.ptp(history) == 0:
        raise Refusal("Every value is the same: there is nothing to fit.", todo="Draw a line at that value instead.")
    if form is None:
        return
    if "M" in (form.error, form.season) and not np.all(history > 0):
        raise Refusal(
            f"The form {form} is multiplicative, and not every value is above zero.",
            place=f"the smallest value is {history.min():g}",
            todo="Choose additive errors and an additive season.",
        )
    if form.season != "N" and (not season or history.size < 2 * season):
        raise Refusal(
            f"A season of {season} needs at least {2 * (season or 1)} values; there are {history.size}.",
            todo="Shorten the season or choose none.",
        )


def _model(history: Floats, season: int | None, form: Form, start: str) -> Any:
    # slow to import: statsmodels pulls in pandas and SciPy
    import pandas as pd
    from statsmodels.tsa.exponential_smoothing.ets import ETSModel

    seasonal = _WORDS[form.season]
    return ETSModel(
        pd.Series(history),
        error=_WORDS[form.error],
        trend=_WORDS[form.trend],
        damped_trend=form.damped,
        seasonal=seasonal,
        seasonal_periods=season if seasonal else None,
        initialization_method=start,
    )


def _heuristic_fits(history: Floats, season: int | None) -> bool:
    """The library's rule for initial states wants ten points and two full seasons."""
    return history.size >= max(10, 2 * (season or 1))


def _quick(history: Floats, season: int | None, form: Form) -> Any:
    """A fit with initial states from the first seasons, None where the library gives up."""
    used = season if form.season != "N" else None
    start = "heuristic" if _heuristic_fits(history, used) else "estimated"
    try:
        return _model(history, season, form, start).fit(disp=False)
    except (ValueError, np.linalg.LinAlgError, ZeroDivisionError):
        return None


def _full(history: Floats, season: int | None, form: Form) -> Any:
    """A fit with estimated initial states, begun from the quick one; the likelier of the two."""
    quick = _quick(history, season, form)
    if form.season != "N" and (season or 0) > LONGEST_ESTIMATED_SEASON and quick is not None:
        return quick
    try:
        model = _model(history, season, form, "estimated")
        if quick is None:
            return model.fit(disp=False)
        weights = dict(zip(quick.model.param_names, quick.params, strict=True))
        start = [weights.get(name, value) for name, value in zip(model.param_names, model.start_params, strict=True)]
        full = model.fit(start_params=start, disp=False)
    except (ValueError, np.linalg.LinAlgError, ZeroDivisionError) as error:
        if quick is None:
            raise Refusal(
                f"Exponential smoothing of the form {form} could not be fitted: {error}.",
                todo="Shorten the season or choose another form.",
            ) from None
        return quick
    return full if quick is None or full.llf >= quick.llf else quick


def _ahead(fit: Any, size: int, ahead: int, levels: Sequence[float], form: Form) -> tuple[Floats, tuple[Limits, ...]]:
    simulated = "M" in (form.error, form.season)
    how: dict[str, object] = {"method": "exact"}
    if simulated:
        # a fixed seed: the same study must give the same limits every time
        how = {"method": "simulated", "simulate_repetitions": SIMULATIONS, "rng": np.random.default_rng(0)}
    forecast = fit.get_prediction(start=size, end=size + ahead - 1, **how)
    limits = []
    for level in sorted(levels):
        interval = forecast.pred_int(alpha=1 - level / 100)
        bounds = np.asarray(interval, dtype=np.float64)
        limits.append(Limits(float(level), bounds[:, 0], bounds[:, 1]))
    mean = np.asarray(fit.forecast(ahead), dtype=np.float64)
    return mean, tuple(_evened(limit, mean) if simulated else limit for limit in limits)


def _evened(limits: Limits, mean: Floats) -> Limits:
    """Limits that were simulated, without what is only chance from one period ahead to the next: their distance from
    the centre, in parts of it, is a mean over neighbours."""
    size = np.maximum(np.abs(mean), 1e-300)

    def even(width: Floats) -> Floats:
        reach = min(EVENED, max(1, mean.size // 4))
        share = np.pad(width / size, reach, mode="edge")
        return np.convolve(share, np.full(2 * reach + 1, 1 / (2 * reach + 1)), mode="valid") * size

    if mean.size < 4:
        return limits
    return Limits(limits.level, mean - even(mean - limits.lower), mean + even(limits.upper - mean))


def _runs_away(history: Floats, mean: Floats, limits: tuple[Limits, ...]) -> float:
    """How far a projection and its limits leave the range ever seen, in ranges; infinite where it has no number."""
    low, high = float(history.min()), float(history.max())
    ends = np.concatenate([mean, *(edge for limit in limits for edge in (limit.lower, limit.upper))])
    if not np.isfinite(ends).all():
        return float("inf")
    return max(low - float(ends.min()), float(ends.max()) - high, 0.0) / (high - low)


def _weight(weights: dict[str, float], name: str) -> float | None:
    return float(weights[name]) if name in weights else None
