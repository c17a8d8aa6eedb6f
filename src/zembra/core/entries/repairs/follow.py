"""Apply the consequences of a level shift to a line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from zembra.core.arithmetic.shifts import LevelShift
from zembra.core.calendar.complete import Expected
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Condition, Line
from zembra.core.english import number
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice

_YEAR = {Unit.HOUR: 8766.0, Unit.DAY: 365.25, Unit.WEEK: 52.18}


class Follow(Choice):
    AFRESH = ("afresh", "averages and bands start afresh")
    DIFFERENCE = ("difference", "the earlier part is lifted by the difference")
    RATIO = ("ratio", "the earlier part is lifted by the ratio")
    BEGIN = ("begin", "trend lines and projections start from it")


def points_per_year(expected: Expected) -> float | None:
    """Return the number of expected periods in a year, or None if the season is the year or there is none."""
    grain = expected.grain
    year = _YEAR.get(grain.unit)
    share = len(expected.weekdays) / 7 if grain.unit in (Unit.HOUR, Unit.DAY) else 1.0
    return year * share / grain.step if year else None


def followed(line: Line, shift: LevelShift, then: Sequence[Follow], entry_id: str) -> Line:
    """Apply the consequences of one shift. Raises Refusal for a ratio of levels that are not positive."""
    period = int(line.periods[shift.place])
    if Follow.AFRESH in then:
        line = replace(line, afresh=tuple(sorted({*line.afresh, period})))
    if Follow.BEGIN in then:
        line = replace(line, begin=period if line.begin is None else max(line.begin, period))
    if Follow.DIFFERENCE in then:
        return _lifted(line, period, line.value + shift.size, entry_id)
    if Follow.RATIO in then:
        if shift.before <= 0 or shift.before + shift.size <= 0:
            raise Refusal(
                "A ratio needs levels above zero before and after the shift.",
                place=f"{line.name}: {number(round(shift.before, 2))} before",
                todo="Lift by the difference instead.",
            )
        return _lifted(line, period, line.value * (1 + shift.size / shift.before), entry_id)
    return line


def _lifted(line: Line, period: int, values: np.ndarray, entry_id: str) -> Line:
    earlier = (line.periods < period) & ~np.isnan(line.value)
    measured = earlier & np.isin(line.condition, (Condition.MEASURED, Condition.ADJUSTED))
    filled = earlier & (line.condition == Condition.FILLED)
    return line.marked(measured, Condition.ADJUSTED, entry_id, values).marked(
        filled, Condition.FILLED, entry_id, values
    )
