"""Choose a sensible grain for the dates of a table."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

import numpy as np
import polars as pl

from zembra.core.arithmetic.arrays import Moments
from zembra.core.calendar.budget import Budget
from zembra.core.calendar.grain import COARSENESS, Grain, Unit, completeness

HARDLY_ANY = 0.005  # of the periods of a fine grain: so few are dates as they come


def sensible_grain(grain: Grain, moments: Moments, series: int, budget: Budget) -> Grain:
    """Return the grain, or the finest coarser one within the budget; irregular dates if nearly every period would
    be absent.
    """
    if grain.unit not in (Unit.MINUTE, Unit.HOUR):
        return grain
    if completeness(grain, moments) < HARDLY_ANY:
        return Grain(Unit.MOMENT)
    for candidate in (grain, Grain(Unit.HOUR), Grain(Unit.DAY), Grain(Unit.WEEK), Grain(Unit.MONTH)):
        ends = candidate.periods(np.array([moments.min(), moments.max()]))
        if (
            COARSENESS[candidate.unit] >= COARSENESS[grain.unit]
            and int(ends[1] - ends[0] + 1) * series <= budget.points
        ):
            return candidate
    return grain


def in_step(grain: Grain, frame: pl.DataFrame) -> Grain:
    """Align a grain of several units with the first row."""
    first = frame["when"].min()
    if grain.step == 1 or grain.unit is Unit.MINUTE or not isinstance(first, datetime):
        return grain
    unit = replace(grain, step=1).period(first)
    return replace(grain, phase=unit % grain.step)
