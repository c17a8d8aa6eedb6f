"""A trend line with a season and a fading last error."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.arithmetic.trends import TrendLine
from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, Number, Projected, normal_point
from zembra.core.projection.limits import HalfWidth
from zembra.core.projection.lineseason import fading

ROUNDS = 60
SETTLED = 1e-10  # of the spread of the values: a change of the season below which it is found

Fitted = Callable[[Floats, Floats], TrendLine | None]


def trend_and_season(
    history: History, ahead: int, levels: Sequence[float], fit: Fitted, form: str, *, above_zero: bool
) -> Projected:
    """Fit line and seasonal means in turns until both converge (backfitting, Hastie and Tibshirani, 1990). x is 1
    at the first period. Raises Refusal.

    above_zero: whether the form is fitted in logarithms, so that the season is a factor
    """
    values, n, season = history.values, history.size, history.season or 1
    if above_zero and values.min() <= 0:
        raise Refusal(f"The {form} needs values above zero.", todo="Choose another form.")
    worked_on = np.log(values) if above_zero else values
    x, onward = np.arange(1.0, n + 1), np.arange(n + 1.0, n + ahead + 1)
    line, places = _in_turns(x, worked_on, season, fit, above_zero=above_zero)
    if line is None:
        raise Refusal(f"The {form} cannot be told from {n} values.", todo="Choose another form.")

    def there(at: Floats) -> Floats:
        return np.log(line.at(at)) if above_zero else line.at(at)

    rest = worked_on - there(x) - places[_places(x, season)]
    if not np.isfinite(rest).all():
        raise Refusal(f"The {form} runs out of numbers here.", todo="Choose another form.")
    freedom = max(1, n - len(line.terms) - (season - 1))
    rho = fading(rest, n)
    steps = rest[1:] - rho * rest[:-1]
    innovation = float((steps**2).sum()) / max(1, freedom - 1)
    k = np.arange(1, ahead + 1)
    mean = there(onward) + places[_places(onward, season)] + rest[-1] * rho**k
    leverage = _leverage(line, x, onward) + season / n
    variance = innovation * np.cumsum(rho ** (2.0 * (k - 1))) + leverage * innovation / (1 - rho) ** 2
    spread = np.sqrt(variance)
    estimates: dict[str, Number] = {
        "Equation, x from 1": line.equation,
        **{term.name: term.value for term in line.terms},
        "Fading of the last error ρ": rho,
        "Residual spread": float(np.sqrt(innovation)),
        "Points fitted": float(n),
    }
    left = np.full(n, np.nan)
    left[1:] = steps
    if above_zero:
        left[1:] = values[1:] - np.exp(worked_on[1:] - steps)
    name = f"{form} and season" if season > 1 else form
    centre = np.exp(mean) if above_zero else mean
    if not np.isfinite(centre).all():
        raise Refusal(f"The {form} runs away over that many periods.", todo="Project less far, or by another form.")
    return Projected(
        name, centre, _halves(mean, spread, levels, above_zero=above_zero), estimates, left, seasonal=season > 1
    )


def _in_turns(
    x: Floats, values: Floats, season: int, fit: Fitted, *, above_zero: bool
) -> tuple[TrendLine | None, Floats]:
    """Return the line, and the seasonal effects, which sum to zero."""
    at = _places(x, season)
    counts = np.bincount(at, minlength=season)
    places = np.zeros(season)
    line = None
    enough = SETTLED * max(float(np.std(values)), 1e-300)
    for _ in range(ROUNDS if season > 1 else 1):
        off = values - places[at]
        line = fit(x, np.exp(off) if above_zero else off)
        if line is None:
            return None, places
        away = values - (np.log(line.at(x)) if above_zero else line.at(x))
        found = np.bincount(at, weights=away, minlength=season) / np.maximum(counts, 1) if season > 1 else places
        found = found - found.mean()
        change = float(np.abs(found - places).max())
        places = found
        if change <= enough:
            break
    return line, places


def _places(x: Floats, season: int) -> Ints:
    return np.asarray((x.astype(np.int64) - 1) % season)


def _leverage(line: TrendLine, x: Floats, onward: Floats) -> Floats:
    """Return the variance of the line ahead over that of the residuals, by a straight line if the form gives none."""
    if line.error_at is not None and line.spread:
        return np.asarray((line.error_at(onward) / line.spread) ** 2)
    away = x - x.mean()
    return np.asarray(1 / x.size + (onward - x.mean()) ** 2 / float(away @ away))


def _halves(mean: Floats, spread: Floats, levels: Sequence[float], *, above_zero: bool) -> tuple[HalfWidth, ...]:
    found = []
    for level in levels:
        width = normal_point(level) * spread
        below, above = (width, width) if not above_zero else (
            np.exp(mean) - np.exp(mean - width),
            np.exp(mean + width) - np.exp(mean),
        )  # fmt: skip
        found.append(HalfWidth(level, below, above))
    return tuple(found)
