"""Average the projections of several methods."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, Projected, heavy_tailed
from zembra.core.projection.backtest import NOT_FITTED
from zembra.core.projection.limits import HalfWidth
from zembra.core.projection.lineseason import line_and_season
from zembra.core.projection.seasonal import has_season
from zembra.core.projection.smoothing.fitted import Fit
from zembra.core.projection.smoothing.methods import damped, log_smoothed, logs_fit, smoothed
from zembra.core.projection.theta import theta

FULL_SEASONS = 3  # that a line with season dummies needs


def mean_of_five(
    history: History, ahead: int, levels: Sequence[float], refit_from: Projected | None = None
) -> Projected:
    """Average smoothing, smoothing of logarithms, theta, damped trend and line with season, as far as each applies
    (docs/projection.md). Raises Refusal.

    refit_from: the projection of the whole history, whose forms are reused
    """
    known = (
        {part.method: part.form.form for part in refit_from.parts if isinstance(part.form, Fit)} if refit_from else {}
    )

    def smoothing() -> Projected:
        return smoothed(history, ahead, levels, known.get("exponential smoothing"))

    def logarithms() -> Projected:
        return log_smoothed(history, ahead, levels, known.get("exponential smoothing of logarithms"))

    seasonal = has_season(history.values, history.season)
    makers: list[Callable[[], Projected]] = [smoothing]
    if logs_fit(history):
        makers.append(logarithms)
    # a changing season is left to the decomposition
    weak = replace(history, season=history.season or history.usual)
    makers.append(lambda: theta(weak, ahead, levels))
    makers.append(lambda: damped(weak, ahead, levels))
    if not seasonal or history.size >= FULL_SEASONS * (history.season or 1):
        own = history if seasonal else replace(history, season=None)
        makers.append(lambda: line_and_season(own, ahead, levels))
    return mean_of(makers, "mean of five methods")


def mean_of(makers: Sequence[Callable[[], Projected]], name: str) -> Projected:
    """Average centres and half-widths, with Student's t tails. Methods that refuse are left out; if all do, the
    first refusal is raised.
    """
    made: list[Projected] = []
    refused: list[Refusal] = []
    for make in makers:
        try:
            projected = make()
        except Refusal as refusal:
            refused.append(refusal)
            continue
        except NOT_FITTED:
            continue
        if all(
            np.isfinite(edge).all()
            for edge in (projected.mean, *(e for h in projected.halves for e in (h.below, h.above)))
        ):
            made.append(projected)
    if not made:
        raise refused[0] if refused else Refusal("No method could be fitted.", todo="Bring in more history.")
    halves = tuple(
        HalfWidth(
            made[0].halves[n].level,
            np.mean([projected.halves[n].below for projected in made], axis=0),
            np.mean([projected.halves[n].above for projected in made], axis=0),
        )
        for n in range(len(made[0].halves))
    )
    mean = np.mean([projected.mean for projected in made], axis=0)
    left = [projected.left for projected in made if projected.left.size]
    return Projected(
        name,
        mean,
        heavy_tailed(halves),
        {"Methods": ", ".join(projected.method for projected in made)},
        _mean_known(left),
        tuple(made),
        seasonal=any(projected.seasonal for projected in made),
    )


def _mean_known(left: Sequence[Floats]) -> Floats:
    """Average residuals over the methods that have one."""
    if not left:
        return np.zeros(0)
    table = np.array(left)
    known = ~np.isnan(table)
    count = known.sum(axis=0)
    total = np.where(known, table, 0.0).sum(axis=0)
    return np.where(count > 0, total / np.maximum(count, 1), np.nan)
