"""Seasonal ARIMA models from a small grid, compared by AICc. Slow."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.statisticslibrary import unheard_warnings
from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, Projected, corrected
from zembra.core.projection.limits import HalfWidth
from zembra.core.projection.seasonal import has_season

LONGEST_SEASON = 60  # longer ones cost minutes
FEWEST = 12
ORDERS = ((0, 1), (1, 0), (1, 1), (2, 1), (2, 2), (0, 2))
Order = tuple[tuple[int, int, int], tuple[int, int, int, int]]


def arima(history: History, ahead: int, levels: Sequence[float], order: Order | None = None) -> Projected:
    """Project by an ARIMA model. Raises Refusal.

    order: to fit; by default the smallest AICc of a small grid, differenced once if the KPSS test (Kwiatkowski et
    al., 1992) says so, and seasonally if there is a season
    """
    if history.size < FEWEST:
        raise Refusal(f"An autoregressive model needs at least {FEWEST} values; there are {history.size}.")
    season = history.season if has_season(history.values, history.season) else None
    if season and season > LONGEST_SEASON:
        raise Refusal(
            f"An autoregressive model with a season of {season} would take minutes.",
            todo=f"Choose a season of up to {LONGEST_SEASON}, or another method.",
        )
    with unheard_warnings():
        fits = [
            (order_tried, fit)
            for order_tried in ([order] if order else _grid(history, season))
            if (fit := _fit(history.values, order_tried))
        ]
        if not fits:
            raise Refusal("No autoregressive model could be fitted.", todo="Choose another method.")
        (pdq, seasonal), best = min(fits, key=lambda pair: float(pair[1].aicc))
        forecast = best.get_forecast(ahead)
        mean = np.asarray(forecast.predicted_mean, dtype=np.float64)
        halves = []
        for level in levels:
            edges = np.asarray(forecast.conf_int(alpha=1 - level / 100), dtype=np.float64)
            halves.append(HalfWidth(level, mean - edges[:, 0], edges[:, 1] - mean))
    coefficients = dict(zip(best.model.param_names, (float(param) for param in best.params), strict=True))
    name = f"({pdq[0]},{pdq[1]},{pdq[2]})" + (
        f"({seasonal[0]},{seasonal[1]},{seasonal[2]})[{season}]" if season else ""
    )
    estimates = {"Order": name, **coefficients, "AICc": float(best.aicc)}
    left = np.asarray(best.resid, dtype=np.float64)
    left[: pdq[1] + seasonal[1] * (season or 0)] = np.nan
    quantities = len(coefficients)
    wide = corrected(halves, quantities, history.points)
    return Projected("autoregressive", mean, wide, estimates, left, (), (pdq, seasonal), seasonal=season is not None)


def _grid(history: History, season: int | None) -> list[Order]:
    values = history.values
    by_season = values[season:] - values[:-season] if season else values
    d = 0 if _level(by_season) else 1
    seasonals = [(0, 1, 1, season), (1, 1, 0, season)] if season else [(0, 0, 0, 0)]
    return [((p, d, q), s) for p, q in ((0, 0), *ORDERS) for s in seasonals]


def _level(values: Floats) -> bool:
    from statsmodels.tsa.stattools import kpss

    return bool(np.ptp(values) > 0) and float(kpss(values, regression="c", nlags="auto")[1]) > 0.05


def _fit(values: Floats, order: Order) -> Any:
    from statsmodels.tsa.statespace.sarimax import SARIMAX

    pdq, seasonal = order
    trend = "c" if pdq[1] == 0 and seasonal[1] == 0 else "n"
    try:
        fit = SARIMAX(values, order=pdq, seasonal_order=seasonal, trend=trend).fit(disp=False, maxiter=60)
    except (ValueError, np.linalg.LinAlgError, IndexError):
        return None
    return fit if np.isfinite(fit.aicc) else None
