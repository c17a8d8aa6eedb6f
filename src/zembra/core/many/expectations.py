"""Compute what the newest numbers were expected to be, by a held-back projection or a band."""

from __future__ import annotations

from dataclasses import dataclass

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.entries.projections.seriesprojection import SeriesProjection
from zembra.core.entries.readings.band import SeriesBand
from zembra.core.ledger.results import results_of
from zembra.core.ledger.run import Result


@dataclass(frozen=True, slots=True)
class Expectation:
    """Expected values with limits, one element per period, NaN for none."""

    periods: Ints
    middle: Floats
    lower: Floats
    upper: Floats


def expectations(result: Result) -> dict[str, Expectation]:
    """Return the expectation by series. The last entry wins, and projections precede bands."""
    found: dict[str, Expectation] = {}
    for report in result.reports:
        for band in results_of(report.outcome.results, SeriesBand):
            found[band.series] = Expectation(band.periods, band.middle, band.lower, band.upper)
    for report in result.reports:
        for projected in results_of(report.outcome.results, SeriesProjection):
            if projected.folds:
                found[projected.series] = _of_last_fold(projected)
    return found


def _of_last_fold(projected: SeriesProjection) -> Expectation:
    """Return the last backtest fold with its widest limits, as wide as drawn."""
    fold = max(projected.folds, key=lambda known: known.start)
    half = fold.said.halves[-1]
    wider = projected.factor or 1.0
    return Expectation(
        projected.shown.periods[fold.start : fold.start + fold.actual.size],
        fold.said.mean,
        fold.said.mean - wider * half.below,
        fold.said.mean + wider * half.above,
    )
