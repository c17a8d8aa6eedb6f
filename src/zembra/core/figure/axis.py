"""Compute the extent of the time axis, and the part shown at first."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from zembra.core.arithmetic.arrays import Moments
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Line
from zembra.core.calendar.months import CalendarUnit, shifted
from zembra.core.dress.looks import Stretch
from zembra.core.figure.model import FigureSettings, Opening
from zembra.core.figure.parts.base import Canvas
from zembra.core.ledger.shapes import Shape

_MONTHS = {Opening.TWELVE_MONTHS: 12, Opening.SIX_MONTHS: 6, Opening.THREE_MONTHS: 3}


def axis_end(canvas: Canvas, lines: Iterable[Line], shapes: Iterable[Shape], settings: FigureSettings) -> int | None:
    """Return the least end of the axis, so many calendar units after the last period; milliseconds."""
    if not settings.further:
        return None
    lasts = [line.periods[-1] for line in lines if len(line)]
    drawn = (getattr(shape, "periods", None) for shape in shapes)
    lasts += [periods[-1] for periods in drawn if periods is not None and periods.size]
    if not lasts:
        return None
    last = np.array([canvas.milliseconds(np.array([max(lasts)]))[0] // 1000], dtype="datetime64[s]")
    return int(shifted(last, settings.further, settings.unit)[0].astype(np.int64)) * 1000


def opening_window(
    canvas: Canvas, lines: Iterable[Line], settings: FigureSettings, until: int | None
) -> Stretch | None:
    """Return the stretch shown at first in milliseconds, or None for all."""
    known = [line.periods[~np.isnan(line.counted)] for line in lines]
    lasts = [int(periods[-1]) for periods in known if periods.size]
    if settings.opening is Opening.ALL or not lasts or canvas.expected.grain.unit is Unit.MOMENT:
        return None
    last: Moments = np.array(canvas.milliseconds(np.array([max(lasts)])), dtype="datetime64[ms]").astype(
        "datetime64[s]"
    )
    if settings.opening is Opening.NEWEST_YEAR:
        year = last.astype("datetime64[Y]")
        ends = [year.astype("datetime64[s]"), (year + 1).astype("datetime64[s]") - np.timedelta64(86_400, "s")]
    else:
        ends = [shifted(last, -_MONTHS[settings.opening], CalendarUnit.MONTH), last]
    start, end = (int(edge[0].astype(np.int64)) * 1000 for edge in ends)
    return Stretch(start=start, end=max(end, until or end))
