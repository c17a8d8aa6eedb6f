"""Scoring a projection against periods it was not shown."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zembra.core.arrays import Floats
from zembra.core.projection.limits import Limits


@dataclass(frozen=True, slots=True)
class Score:
    """periods: how many held-back periods had a number to score against.

    mae: mean absolute error. mape: mean absolute percentage error, None where a value is zero.
    mase: mae over the mean absolute one-season step of the earlier history (Hyndman and Koehler,
    2006), None where that is zero. inside: per level, how many lay between the limits.
    """

    periods: int
    mae: float
    mape: float | None
    mase: float | None
    inside: tuple[tuple[float, int], ...]


def score(
    actual: Floats, mean: Floats, limits: tuple[Limits, ...], earlier: Floats, season: int | None
) -> Score | None:
    """Score a projection; None where no held-back period has a number. NaN in `actual` is passed over."""
    known = ~np.isnan(actual)
    if not known.any():
        return None
    error = np.abs(actual - mean)[known]
    nonzero = bool(np.all(actual[known] != 0))
    step = season or 1
    steps = np.abs(earlier[step:] - earlier[:-step])
    usual = float(np.nanmean(steps)) if steps.size and not np.all(np.isnan(steps)) else 0.0
    mae = float(error.mean())
    return Score(
        periods=int(known.sum()),
        mae=mae,
        mape=float(np.mean(error / np.abs(actual[known])) * 100) if nonzero else None,
        mase=mae / usual if usual > 0 else None,
        inside=tuple((one.level, int(((actual >= one.lower) & (actual <= one.upper))[known].sum())) for one in limits),
    )
