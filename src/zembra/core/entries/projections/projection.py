"""Project lines, with limits that are tested on held-back periods."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field, field_validator

from zembra.core.arithmetic.arrays import Ints
from zembra.core.calendar.lines import Line
from zembra.core.calendar.seasons import usual_season
from zembra.core.entries.projections.clauses.methods import AnyMethod, FiveMethods, UsualMean
from zembra.core.entries.projections.clauses.projected import (
    AheadAxis,
    AheadPeriods,
    AnyAhead,
    AnySeason,
    AnySince,
    AtEvents,
    Coverage,
    InWhat,
    LimitsWord,
    OnClosed,
    Rounding,
    SeasonFound,
    WholeHistory,
)
from zembra.core.entries.projections.crossings import crossings
from zembra.core.entries.projections.eventeffects import with_effects
from zembra.core.entries.projections.keptwithin import Bounds
from zembra.core.entries.projections.likelimits import (
    as_like_series,
    by_like_series,
    like_series,
    of_few,
)
from zembra.core.entries.projections.methodbefore import offers_of, was_another
from zembra.core.entries.projections.projectedhistory import counted_since, in_unit, shown_of, those_shown
from zembra.core.entries.projections.projectedperiods import on_wanted, periods_ahead
from zembra.core.entries.projections.projectedshapes import projected_shapes
from zembra.core.entries.projections.projectionaccount import (
    how_far_tested,
    how_it_did,
    parts_of_the_mean,
    what_was_fitted,
)
from zembra.core.entries.projections.projectiondoubts import doubts
from zembra.core.entries.projections.seriesprojection import SeriesProjection, Shown, tested_periods
from zembra.core.entries.shared.sharedwords import Counting
from zembra.core.errors import Refusal
from zembra.core.grammar import Word
from zembra.core.ledger.entry import Group, Needs
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, results_in
from zembra.core.ledger.registry import register
from zembra.core.ledger.state import State, Study
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.backtest import Fold, fold_back, judged, widening
from zembra.core.projection.likeseries import FEW, LikeSeries


@register
class Projection(LineEntry):
    kind: ClassVar[str] = "projection"
    group: ClassVar[Group] = Group.PROJECTIONS
    title: ClassVar[str] = "Projection"
    hint: ClassVar[str] = "The series carried on, by many models or a chosen method, with limits that are tested."
    passed_over: ClassVar[str] = "is not projected"

    ahead: Annotated[AnyAhead, Field(title="how far", discriminator="kind")] = AheadPeriods()
    method: Annotated[AnyMethod, Field(title="method", discriminator="kind")] = UsualMean()
    season: Annotated[AnySeason, Field(title="season", discriminator="kind")] = SeasonFound()
    levels: Annotated[
        tuple[Coverage, ...], Field(title="coverage of the limits", min_length=1, max_length=4), Word(unit="%")
    ] = (80.0, 95.0)
    limits: Annotated[LimitsWord, Field(title="limits")] = LimitsWord.TESTED
    wider: Annotated[float, Field(title="times as wide", ge=0.1, le=20), Word(step=0.1)] = 1.0
    since: Annotated[AnySince, Field(title="from where", discriminator="kind")] = WholeHistory()
    on: Annotated[InWhat, Field(title="on what it works")] = InWhat.VALUES
    least: Annotated[float | None, Field(title="never below", allow_inf_nan=False), Word(empty="no floor")] = None
    most: Annotated[float | None, Field(title="never above", allow_inf_nan=False), Word(empty="no ceiling")] = None
    rounding: Annotated[Rounding, Field(title="fractions")] = Rounding.FRACTIONS
    closed: Annotated[OnClosed, Field(title="closed days")] = OnClosed.NOTHING
    events: Annotated[AtEvents, Field(title="events")] = AtEvents.NOT
    earlier: Annotated[int | None, Field(title="periods ago", ge=1, le=3650), Word(empty="nothing")] = None
    target: Annotated[float | None, Field(title="target", allow_inf_nan=False), Word(empty="none")] = None
    provisional: Annotated[Counting, Field(title="provisional periods")] = Counting.NOT

    @field_validator("levels")
    @classmethod
    def _coverage(cls, levels: tuple[float, ...]) -> tuple[float, ...]:
        return tuple(sorted(set(levels)))

    def template(self) -> str:
        then = "what it would have said {earlier} {@periods} ago" if self.earlier else "{earlier} it would have said"
        wider = ", {wider} times as wide" if self.limits is LimitsWord.HELD else ""
        return (
            f"Project {{series}} {{ahead}} by {{method}}, with {{season}}, showing {{levels}} limits, {{@tested}}[, {{limits}}]{wider}"
            "[, {since}][, {on}]"
            "[, never below {least}][, never above {most}][, {rounding}][, {closed}][, {events}]"
            f"[, drawing {then}][, telling when it crosses {{target}}][, provisional {{@periods}} {{provisional}}]."
        )

    @property
    def needs(self) -> Needs:
        return Needs.ALL if isinstance(self.ahead, AheadAxis) else Needs.LINE

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        return state.lines if isinstance(self.ahead, AheadAxis) else ()

    def seconds_on(self, line: Line) -> float:
        return math.inf if was_another(self.method) else self.method.seconds + self.method.seconds_a_point * len(line)

    def make_ready(self, each: Sequence[tuple[Line, Study]]) -> None:
        self.method.fit_each([shown.history for shown in those_shown(self.shown, each)])

    def on_line(self, line: Line, study: Study) -> LineResult:
        if self.least is not None and self.most is not None and self.least >= self.most:
            raise Refusal("The floor of the projection lies above its ceiling.", todo="Choose another one.")
        # numbers near the ends of what a float holds overflow in squares: refused or left out
        with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
            return self._made(line, study)

    def _made(self, line: Line, study: Study) -> LineResult:
        seen = self._project(line, study)
        shapes = list(projected_shapes(seen, study, self.kind))
        if self.earlier:
            before = self._project(line, study, hold=self.earlier)
            shapes += projected_shapes(before, study, self.kind, before=study.grain.spoken(int(before.periods[0]) - 1))
        if was_another(self.method):
            (was,) = self.model_copy(update={"method": FiveMethods()}).said_of([(seen.shown, 1)])
            seen = replace(seen, before=None if isinstance(was, Refusal) else float(was.mean[0]))
        warnings = tuple(doubts(seen, study))
        return LineResult(shapes=tuple(shapes), touched=seen.history.points, warnings=warnings, result=seen)

    def after_all_lines(self, done: Sequence[LineResult], state: State, entry_id: str) -> Sequence[LineResult]:
        if self.limits is not LimitsWord.LIKE:
            return done
        told = state.part.pooled.get(entry_id) if state.part else None
        if not isinstance(told, LikeSeries):
            told = like_series(results_in(done, SeriesProjection), self.levels)
        study = Study(state.expected, state.as_of, entry_id, events=state.events)
        return as_like_series(done, told, self._kept, study, self.kind)

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        if not made:
            raise Refusal("There is no series to project.")
        done = results_in(made, SeriesProjection)
        evidence = (
            *what_was_fitted(done, study),
            how_it_did(done, study),
            *by_like_series(done, self.levels, study),
            *parts_of_the_mean(done),
            *crossings(done, self.target, study),
        )
        return Account(
            f"{study.grain.plural} used",
            evidence,
            offers=offers_of(done, self.method, self.kind, study),
            nouns={"tested": how_far_tested(done, study)},
        )

    @classmethod
    def suggest(cls, state: State) -> Projection:
        season = usual_season(state.expected) or 0
        usual = {"day": 8 * (season or 7), "week": 12, "month": 12, "quarter": 8}
        return cls(ahead=AheadPeriods(count=usual.get(state.grain.singular, season or 5)))

    def shown(self, line: Line, study: Study, hold: int = 0) -> Shown:
        """Return the history that the method is fitted to. Raises Refusal.

        hold: number of newest values to hold back
        """
        counted = counted_since(line, study, self.since, provisional=self.provisional.yes, hold=hold)
        return shown_of(line, study, counted, self.on, self.season, usual_events=self.events is AtEvents.USUAL)

    def said_of(self, each: Sequence[tuple[Shown, int]]) -> list[Projected | Refusal]:
        """Project each history by its horizon, in the unit of the series, with the method's own limits."""
        said = self.method.project_each([(shown.history, far) for shown, far in each], self.levels, self.season.lengths)
        return [
            found
            if isinstance(found, Refusal)
            else self._bounds(shown).keep(in_unit(self.on, self.method.for_gaps(found, shown.history)))
            for found, (shown, _) in zip(said, each, strict=True)
        ]

    def _project(self, line: Line, study: Study, hold: int = 0) -> SeriesProjection:
        shown = self.shown(line, study, hold)
        history = shown.history
        wanted, onward = periods_ahead(self.ahead, self.closed, shown, study)
        found = self.method.project(history, onward.size, self.levels, self.season.lengths)
        # a fit to few values says nothing about its error without them
        few = self.limits is LimitsWord.LIKE and history.points < FEW
        # with the gap correction of the full history, which would otherwise apply twice
        again = partial(self._again, refit_from=None if few else found)
        folds = [
            Fold(fold.start, replace(in_unit(self.on, fold.said), form=None, paths=()), self.on.back(fold.actual))
            for fold in fold_back(history, onward.size, again)
        ]
        history_in_unit = History(self.on.back(history.values), history.known, history.season)
        own = self.wider if self.limits is LimitsWord.HELD else 1.0
        # score the limits as wide as they are drawn
        folds = [replace(fold, said=fold.said.widened(own)) for fold in folds]
        score = judged(folds, history_in_unit)
        may_widen = self.method.widened and self.limits in (LimitsWord.TESTED, LimitsWord.LIKE)
        factor = widening(folds) if may_widen else None
        plain = replace(in_unit(self.on, self.method.for_gaps(found, history)), form=None)
        plain, effects = with_effects(plain, onward, shown.effects, study.events)
        finished = plain.widened(factor or own)
        kept, said = self._kept(finished, onward, wanted, shown, study)
        return SeriesProjection(
            line.name,
            kept,
            shown,
            history_in_unit,
            wanted,
            tuple(folds),
            score,
            factor,
            effects,
            not few and self.method.keeps and found.form is not None,
            tested_periods(folds, onward, wanted),
            said,
            few=of_few(plain, onward, folds, history) if few else None,
        )

    def _again(self, parts: Sequence[tuple[History, int]], refit_from: Projected | None) -> list[Projected | Refusal]:
        said = self.method.project_each(parts, self.levels, self.season.lengths, refit_from)
        both = zip(said, parts, strict=True)
        return [one if isinstance(one, Refusal) else self.method.for_gaps(one, part) for one, (part, _) in both]

    def _kept(
        self, found: Projected, onward: Ints, wanted: Ints, shown: Shown, study: Study
    ) -> tuple[Projected, tuple[str, ...]]:
        """Apply the bounds, and select the wanted periods; return the projection and a description of the change."""
        bounds = self._bounds(shown)
        kept = bounds.keep(found)
        return on_wanted(kept, onward, wanted, self.closed, study), tuple(bounds.said(found, kept, study))

    def _bounds(self, shown: Shown) -> Bounds:
        return Bounds(self.least, self.most, shown.smallest >= 0, self.rounding is Rounding.WHOLE)
