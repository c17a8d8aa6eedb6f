"""Select the history that a projection method is fitted to."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import replace

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Condition, Line, Received
from zembra.core.calendar.seasons import EvenRow, even_row
from zembra.core.entries.projections.clauses.projected import AnySince, InWhat, SeasonWords
from zembra.core.entries.projections.eventeffects import usual_effects
from zembra.core.entries.projections.seriesprojection import Shown
from zembra.core.errors import Refusal
from zembra.core.ledger.state import Study
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.limits import Limits
from zembra.core.projection.wholehistory import FEWEST_POINTS, whole_history


def in_unit(on: InWhat, found: Projected) -> Projected:
    """A projection in the unit of the series, where the method worked on something else."""
    if on is InWhat.VALUES:
        return found
    mean = on.back(found.mean)
    cut = {place: float(on.back(np.array([value]))[0]) for place, value in found.cut.items()}
    edges = (Limits(half.level, on.back(half.lower), on.back(half.upper)) for half in found.limits)
    halves = tuple(limits.around(mean) for limits in edges)
    return replace(found, mean=mean, halves=halves, cut=cut, responses=np.zeros(0))


def counted_since(line: Line, study: Study, since: AnySince, *, provisional: bool, hold: int) -> Floats:
    """The values of a line that a projection goes by. hold: how many of the last are held back. Raises Refusal."""
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
    """A row of periods in which closed days keep their place in the season. counted: the values of the line that count. on:
    what the method works on. Raises Refusal."""
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
    history = History(closed_up, evidence, season, season_words.usual(study.expected))
    if np.ptp(history.values) == 0:
        raise Refusal("Every value is the same: there is nothing to fit.", todo="Draw a line at that value instead.")
    closed = here.stop - here.start - int(np.count_nonzero((row.at >= here.start) & (row.at < here.stop)))
    last = int(line.periods[np.flatnonzero(~np.isnan(counted))[-1]])
    shift = int(line.periods[max(line.cuts)]) if line.cuts else None
    smallest = float(np.nanmin(values))
    return Shown(history, row.periods[here], last, smallest, gaps - closed, closed, effects, shift)


def _evidence_of(line: Line, row: EvenRow, counted: Floats, worked_on: Floats) -> Bools:
    """Which periods of the row have a number that came in: what was estimated for a blank is no evidence, a zero for a day
    without a row is what somebody knows. All that have a number, where too few came in.

    counted: the values of the line that count; worked_on: what the method works on, on the row.
    """
    zero = (line.value == 0) & (line.received == Received.ABSENT)
    came = row.spread(np.where((line.condition == Condition.FILLED) & ~zero, np.nan, counted))
    known = ~np.isnan(worked_on)
    evidence = known & ~np.isnan(came)
    return evidence if np.count_nonzero(evidence) >= FEWEST_POINTS else known


def those_shown(show: Callable[[Line, Study], Shown], each: Sequence[tuple[Line, Study]]) -> Iterator[Shown]:
    """What is shown of lines, those passed over of which nothing can be."""
    for line, study in each:
        with suppress(Refusal):
            yield show(line, study)
