"""Forecast with a fitted exponential smoothing."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.projection.ahead import normal_halves
from zembra.core.projection.limits import HalfWidth
from zembra.core.projection.smoothing.fitted import Fit

SIMULATIONS = 4000
EVENED = 3  # neighbours on each side over which simulated limits are evened


def carried_on(
    fit: Fit, ahead: int, levels: Sequence[float], origin: int | None = None
) -> tuple[Floats, tuple[HalfWidth, ...]]:
    """Return centre and half-widths from `origin`, by default the end. Additive forms have exact limits (Hyndman et
    al. 2008, table 6.1); others are simulated with a fixed seed.
    """
    at = fit.history.size if origin is None else origin
    level, trend = float(fit.path.level[at, 0]), float(fit.path.trend[at, 0])
    season = fit.path.season[at : at + fit.season, 0]
    mean = _mean(fit, level, trend, season, ahead)
    spread = float(np.sqrt(np.mean(fit.relative_errors[:at] ** 2)))
    if "M" not in (fit.form.error, fit.form.season):
        return mean, normal_halves(spread * _growth(fit, ahead), levels)
    paths = _simulated(fit, level, trend, season, spread, ahead)
    halves = []
    for share in levels:
        lower, upper = np.percentile(paths, (50 - share / 2, 50 + share / 2), axis=1)
        halves.append(_evened(HalfWidth(share, mean - lower, upper - mean), mean))
    return mean, tuple(halves)


def _mean(fit: Fit, level: float, trend: float, season: Floats, ahead: int) -> Floats:
    steps = np.cumsum(float(fit.weights.phi[0]) ** np.arange(1, ahead + 1))
    base = level + steps * trend
    own = season[np.arange(ahead) % fit.season]
    return np.asarray(base * own if fit.form.season == "M" else base + own)


def _growth(fit: Fit, ahead: int) -> Floats:
    """Return √(1 + Σ c²), the growth of one-step errors."""
    alpha, beta, gamma, phi = (
        float(weight[0]) for weight in (fit.weights.alpha, fit.weights.beta, fit.weights.gamma, fit.weights.phi)
    )
    j = np.arange(1, ahead)
    weight = alpha + beta * np.cumsum(phi**j)
    if fit.form.season != "N":
        weight = weight + gamma * (j % fit.season == 0)
    return np.asarray(np.sqrt(np.cumsum(np.r_[1.0, weight**2])))


def _simulated(fit: Fit, level: float, trend: float, season: Floats, spread: float, ahead: int) -> Floats:
    """Simulate paths, (ahead, path)."""
    rng = np.random.default_rng(0)
    draws = rng.standard_normal((ahead, SIMULATIONS)) * spread
    alpha, beta, gamma, phi = (
        float(weight[0]) for weight in (fit.weights.alpha, fit.weights.beta, fit.weights.gamma, fit.weights.phi)
    )
    factor = fit.form.season == "M"
    own = np.repeat(season[:, None], SIMULATIONS, axis=1)
    levels, trends = np.full(SIMULATIONS, level), np.full(SIMULATIONS, trend)
    found = np.empty((ahead, SIMULATIONS))
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        for step, draw in enumerate(draws):
            part = own[step % fit.season]
            base = levels + phi * trends
            mean = base * part if factor else base + part
            error = mean * draw if fit.form.error == "M" else draw
            found[step] = mean + error
            of_base = error / part if factor else error
            levels, trends = base + alpha * of_base, phi * trends + beta * of_base
            own[step % fit.season] = part + gamma * (error / base if factor else error)
    return found


def _evened(half: HalfWidth, mean: Floats) -> HalfWidth:
    """Smooth simulated half-widths over neighbouring periods, relative to the centre."""
    size = np.maximum(np.abs(mean), 1e-300)

    def even(width: Floats) -> Floats:
        reach = min(EVENED, max(1, mean.size // 4))
        # turned over at both ends, so that widths that grow are not flattened there
        share = np.pad(width / size, reach, mode="reflect", reflect_type="odd")
        return np.convolve(share, np.full(2 * reach + 1, 1 / (2 * reach + 1)), mode="valid") * size

    return half if mean.size < 4 else HalfWidth(half.level, even(half.below), even(half.above))
