"""Select the history that a projection method is fitted to."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import replace
from functools import partial

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Moments
from zembra.core.calendar.complete import Expected
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Condition, Line, Received
from zembra.core.calendar.seasons import EvenRow, even_row
from zembra.core.entries.projections.clauses.projected import AnySince, InWhat, SeasonWords
from zembra.core.entries.projections.eventeffects import usual_effects
from zembra.core.entries.projections.seriesprojection import Shown
from zembra.core.errors import Refusal
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import CalendarRow, History, Projected, RowStep
from zembra.core.projection.limits import Limits
from zembra.core.projection.wholehistory import FEWEST_POINTS, whole_history

_ROW_STEPS = {Unit.HOUR: RowStep.HOUR, Unit.DAY: RowStep.DAY, Unit.WEEK: RowStep.WEEK}


def in_unit(on: InWhat, found: Projected) -> Projected:
    """Return a projection transformed back to the unit of the series."""
    if on is InWhat.VALUES:
        return found
    mean = on.back(found.mean)
    cut = {place: float(on.back(np.array([value]))[0]) for place, value in found.cut.items()}
    edges = (Limits(half.level, on.back(half.lower), on.back(half.upper)) for half in found.limits)
    halves = tuple(limits.around(mean) for limits in edges)
    return replace(found, mean=mean, halves=halves, cut=cut, paths=())


def counted_since(line: Line, study: Study, since: AnySince, *, provisional: bool, hold: int) -> Floats:
    """Return the values of a line that a projection uses. Raises Refusal.

    hold: number of newest values to hold back
    """
    if study.grain.unit is Unit.MOMENT:
        raise Refusal(
            "Dates as they come have no even step to project on.",
            todo="Put them on days, weeks or months first: Finer grain, or the grain of the calendar.",
        )
    counted = line.since_begin(line.countable(provisional=provisional))
    counted = np.where(np.arange(len(line)) >= since.first(line, counted, study), counted, np.nan)
    if hold:
        at = np.flatnonzero(~np.isnan(counted))
        counted[at[max(0, at.size - hold) :]] = np.nan
    return counted


def shown_of(
    line: Line, study: Study, counted: Floats, on: InWhat, season_words: SeasonWords, *, usual_events: bool
) -> Shown:
    """Return the history on a row of expected periods, so that closed days do not shift the season. Raises Refusal.

    counted: the values that count
    on: the scale of the method
    """
    row = even_row(study.expected, line.periods)
    values = row.spread(counted)
    known = np.flatnonzero(~np.isnan(values))
    if known.size < FEWEST_POINTS:
        raise Refusal(
            f"A projection needs at least {FEWEST_POINTS} values; there are {known.size}.",
            todo="Bring in more history, or fill blanks.",
        )
    events = study.events if usual_events else ()
    effects, at_events = usual_effects(values, row.periods, events, lambda v: season_words.length(v, study.expected))
    worked_on = on.there(np.where(at_events, np.nan, values))
    left = np.flatnonzero(~np.isnan(worked_on))
    here = slice(int(left[0]), int(left[-1]) + 1)
    season = season_words.length(worked_on[here], study.expected)
    closed_up, gaps = whole_history(worked_on, season)
    evidence = _evidence_of(line, row, counted, worked_on)[here]
    calendar = calendar_row(study, int(row.periods[here.start])) if season_words.beside_calendar else None
    history = History(closed_up, evidence, season, season_words.usual(study.expected), calendar)
    if np.ptp(history.values) == 0:
        raise Refusal("Every value is the same: there is nothing to fit.", todo="Draw a line at that value instead.")
    closed = here.stop - here.start - int(np.count_nonzero((row.at >= here.start) & (row.at < here.stop)))
    last = int(line.periods[np.flatnonzero(~np.isnan(counted))[-1]])
    shift = int(line.periods[max(line.cuts)]) if line.cuts else None
    smallest = float(np.nanmin(values))
    return Shown(history, row.periods[here], last, smallest, gaps - closed, closed, effects, shift)


def calendar_row(study: Study, first: int) -> CalendarRow | None:
    """Return the dates of the row of expected periods from one on, for grains that effects of the calendar are known of."""
    step = _ROW_STEPS.get(study.grain.unit) if study.grain.step == 1 else None
    if step is None:
        return None
    expected = study.expected
    key = (expected.grain, expected.weekdays, first)
    return CalendarRow(key, step, len(expected.weekdays), partial(_moments_until, expected, first))


def _moments_until(expected: Expected, first: int, count: int) -> Moments:
    """Return the first local moments of `count` periods on usual weekdays from one on."""
    span = -(-7 * count // len(expected.weekdays)) + 7 if expected.grain.unit is not Unit.WEEK else count
    periods = np.arange(first, first + span, dtype=np.int64)
    return expected.grain.days(periods[expected.usual(periods)][:count])


def _evidence_of(line: Line, row: EvenRow, counted: Floats, worked_on: Floats) -> Bools:
    """Return which periods hold observed numbers. Estimates for blanks are no evidence; a zero for a day without a
    row is. If too few are observed, all known values count.

    counted: the values that count
    worked_on: the values on the scale of the method
    """
    zero = (line.value == 0) & (line.received == Received.ABSENT)
    came = row.spread(np.where((line.condition == Condition.FILLED) & ~zero, np.nan, counted))
    known = ~np.isnan(worked_on)
    evidence = known & ~np.isnan(came)
    return evidence if np.count_nonzero(evidence) >= FEWEST_POINTS else known


def those_shown(show: Callable[[Line, Study], Shown], each: Sequence[tuple[Line, Study]]) -> Iterator[Shown]:
    """Yield the histories of lines, without those that refuse."""
    for line, study in each:
        with suppress(Refusal):
            yield show(line, study)
