"""Look for effects of the calendar in what a projection leaves over, and offer to take them into account."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.arithmetic.correlation import autocorrelation
from zembra.core.calendar.grain import Unit
from zembra.core.english import listed
from zembra.core.entries.projections.clauses.methods import CalendarWord, Method, UsualMean
from zembra.core.entries.projections.seriesprojection import SeriesProjection
from zembra.core.ledger.state import Offer, Study

PLAIN = 1e-4  # chance below which groups are taken to differ; autocorrelation that is left makes it larger than said
FEWEST_IN_GROUP = 4
MOST_CORRELATED = 0.3  # lag-1 autocorrelation of residuals beyond which they are no errors one step ahead
A_YEAR_TWICE = {Unit.DAY: 730, Unit.WEEK: 104}  # values from which months are compared


def calendar_left(projected: SeriesProjection, study: Study) -> tuple[str, ...]:
    """Return what the residuals of a projection differ by: weekday, month."""
    left = projected.found.left
    periods = projected.shown.periods[: left.size]
    known = ~np.isnan(left[: periods.size])
    if study.grain.step != 1 or known.sum() < 2 * FEWEST_IN_GROUP:
        return ()
    rest = left[: periods.size][known]
    if abs(float(autocorrelation(rest, 1)[0])) > MOST_CORRELATED:
        return ()
    return tuple(name for name, groups in _groups(periods[known], study) if _chance(rest, groups) < PLAIN)


def calendar_doubt(projected: SeriesProjection, study: Study) -> Iterator[str]:
    """Describe effects of the calendar that are left over."""
    if names := calendar_left(projected, study):
        yield f"{projected.series}: what the method left over differs by {listed(names)} (F test, p below {PLAIN:g})."


def calendar_offers(done: Sequence[SeriesProjection], method: Method, kind: str, study: Study) -> tuple[Offer, ...]:
    """Offer the average of many models with the effects of the calendar, if another method leaves some."""
    if isinstance(method, UsualMean) and method.calendar is CalendarWord.FOUND:
        return ()
    names = dict.fromkeys(name for projected in done for name in calendar_left(projected, study))
    if not names:
        return ()
    why = f"What is left over differs by {listed(list(names))}. The average of many models looks for effects of the calendar."
    return (Offer(why, "Take them into account", kind, {"method": {"kind": "usual"}}, change=True),)


def _groups(periods: Ints, study: Study) -> Iterator[tuple[str, Ints]]:
    unit = study.grain.unit
    if unit in (Unit.DAY, Unit.HOUR):
        yield "weekday", study.grain.weekdays(periods)
    if periods.size >= A_YEAR_TWICE.get(unit, periods.size + 1):
        yield "month", study.grain.months(periods)


def _chance(values: Floats, groups: Ints) -> float:
    """Return the p-value of the F test of equal means."""
    from scipy.special import fdtrc

    counts = np.bincount(groups)
    used = np.flatnonzero(counts)
    if used.size < 2 or counts[used].min() < FEWEST_IN_GROUP:
        return 1.0
    means = np.bincount(groups, values) / np.maximum(counts, 1)
    between = float((counts * (means - values.mean()) ** 2)[used].sum()) / (used.size - 1)
    within = float(((values - means[groups]) ** 2).sum()) / (values.size - used.size)
    return float(fdtrc(used.size - 1, values.size - used.size, between / within)) if within > 0 else 1.0
