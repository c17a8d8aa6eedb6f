"""Find where projections cross a target, and the chance of being beyond it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.entries.projections.seriesprojection import SeriesProjection
from zembra.core.ledger.evidence import SERIES, Row, Table, measure, percent, period, table
from zembra.core.ledger.state import Study
from zembra.core.projection.paths import chances_beyond

LIKELY = 0.9


def crossings(done: Sequence[SeriesProjection], target: float | None, study: Study) -> tuple[Table, ...]:
    """Tabulate for each series where its centre crosses the target, with the chance of being beyond it in that
    period and by then, and the same for the last period. Empty without a target.
    """
    if target is None:
        return ()
    rows: list[Row] = []
    for projected in done:
        mean = projected.found.mean
        upward = float(projected.history.values[-1]) < target
        labels = study.grain.labels(projected.periods)
        there, by_then = chances_beyond(projected.found, target, upward=upward)
        at = _first(mean >= target if upward else mean <= target)
        likely = _first(by_then >= LIKELY)
        rows.append(
            (
                projected.series,
                target,
                None if at is None else labels[at],
                None if at is None else 100 * float(there[at]),
                None if at is None else 100 * float(by_then[at]),
                None if likely is None else labels[likely],
                100 * float(there[-1]),
                100 * float(by_then[-1]),
            )
        )
    columns = (
        SERIES,
        measure("target", "Target"),
        period("at", "Crossed at"),
        percent("chance", "Chance that it is beyond there, %"),
        percent("by_then", "That it was by then, %"),
        period("likely", "Reached with a chance of 90 % by"),
        percent("end", "Chance that it is beyond at the end, %"),
        percent("by_end", "That it was by the end, %"),
    )
    return (table("The target", columns, rows),)


def _first(where: Floats | np.ndarray) -> int | None:
    return int(np.argmax(where)) if where.any() else None
