"""A projection: how far, by which method, with limits that are held against what happened on held-back periods."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field, field_validator

from zembra.core.arithmetic.arrays import Ints
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Line
from zembra.core.calendar.seasons import usual_season
from zembra.core.errors import Refusal
from zembra.core.grammar import Word
from zembra.core.ledger.clauses.methods import AnyMethod, BeforeNow, FiveMethods, Method, UsualMean
from zembra.core.ledger.clauses.projected import (
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
from zembra.core.ledger.crossings import crossings
from zembra.core.ledger.entry import Group, Needs, register
from zembra.core.ledger.eventeffects import with_effects
from zembra.core.ledger.keptwithin import Bounds
from zembra.core.ledger.lineentry import Account, LineEntry, Made
from zembra.core.ledger.projectedhistory import in_unit, shown_of
from zembra.core.ledger.projectionaccount import (
    Seen,
    Shown,
    doubts,
    expectations,
    how_far_tested,
    how_it_did,
    offers_of_change,
    parts_of_the_mean,
    projected_shapes,
    tested_periods,
    what_was_fitted,
)
from zembra.core.ledger.state import State, Study
from zembra.core.ledger.words import Counting
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.backtest import Fold, fold_back, judged, widening


@register
class Projection(LineEntry):
    kind: ClassVar[str] = "projection"
    group: ClassVar[Group] = Group.PROJECTIONS
    title: ClassVar[str] = "Projection"
    hint: ClassVar[str] = (
        "The series carried on, by the average of many models or a chosen method, with limits held against what happened."
    )
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
        earlier = (
            "what it would have said {earlier} {@periods} ago"
            if self.earlier
            else "{earlier} it would have said before"
        )
        wider = ", {wider} times as wide" if self.limits is LimitsWord.HELD else ""
        return (
            f"Project {{series}} {{ahead}} by {{method}}, with {{season}}, showing {{levels}} limits, {{@tested}}[, {{limits}}]{wider}"
            "[, {since}][, {on}]"
            "[, never below {least}][, never above {most}][, {rounding}][, {closed}][, {events}]"
            f"[, drawing {earlier}][, telling when it crosses {{target}}][, provisional {{@periods}} {{provisional}}]."
        )

    @property
    def needs(self) -> Needs:
        return Needs.ALL if isinstance(self.ahead, AheadAxis) else Needs.LINE

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        return state.lines if isinstance(self.ahead, AheadAxis) else ()

    def seconds_on(self, line: Line) -> float:
        return math.inf if self._was_another else self.method.seconds + self.method.seconds_a_point * len(line)

    def on_line(self, line: Line, study: Study) -> Made:
        if self.least is not None and self.most is not None and self.least >= self.most:
            raise Refusal("The floor of the projection lies above its ceiling.", todo="Choose another one.")
        # numbers near the ends of what a float holds overflow in squares: refused or left out
        with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
            return self._made(line, study)

    def _made(self, line: Line, study: Study) -> Made:
        seen = self._project(line, study)
        shapes = list(projected_shapes(seen, study, self.kind))
        if self.earlier:
            before = self._project(line, study, hold=self.earlier)
            shapes += projected_shapes(before, study, self.kind, before=study.grain.spoken(int(before.periods[0]) - 1))
        if self._was_another:
            seen = replace(seen, before=self._first_by(FiveMethods(), seen.shown))
        return Made(shapes=tuple(shapes), touched=seen.history.points, warnings=tuple(doubts(seen, study)), facts=seen)

    @property
    def _was_another(self) -> bool:
        """Whether the ledger was made when another method was the usual one, and nobody has looked since."""
        return isinstance(self.method, UsualMean) and self.method.before is BeforeNow.FIVE

    def account(self, made: Sequence[Made], study: Study) -> Account:
        if not made:
            raise Refusal("There is no series to project.")
        done: list[Seen] = [effect.facts for effect in made]
        crossed = () if self.target is None else (crossings(done, self.target, study),)
        evidence = (what_was_fitted(done, study), how_it_did(done, study), *parts_of_the_mean(done), *crossed)
        return Account(
            f"{study.grain.plural} used",
            evidence,
            offers=offers_of_change(done[0], self.kind, study) if self._was_another else (),
            nouns={"tested": how_far_tested(done, study, kept=self.method.keeps)},
            expected=tuple(expectations(done)),
        )

    @classmethod
    def suggest(cls, state: State) -> Projection:
        season = usual_season(state.expected)
        ahead = {"day": 8 * (season or 7), "week": 12, "month": 12, "quarter": 8}.get(state.grain.singular, season or 5)
        return cls(ahead=AheadPeriods(count=ahead))

    def shown(self, line: Line, study: Study, hold: int = 0) -> Shown:
        """What the method is shown of a line: a row of periods in which closed days keep their place in the season.
        hold: how many of the last numbers are held back. Raises Refusal."""
        if study.grain.unit is Unit.MOMENT:
            raise Refusal(
                "Dates as they come have no even step to project on.",
                todo="Put them on days, weeks or months first: Finer grain, or the grain of the calendar.",
            )
        counted = line.since_begin(line.countable(provisional=self.provisional.yes))
        first = self.since.first(line, counted, study)
        counted = np.where(np.arange(len(line)) >= first, counted, np.nan)
        if hold:
            at = np.flatnonzero(~np.isnan(counted))
            counted[at[max(0, at.size - hold) :]] = np.nan
        return shown_of(line, study, counted, self.on, self.season, usual_events=self.events is AtEvents.USUAL)

    def said_of(self, each: Sequence[tuple[Shown, int]]) -> list[Projected | Refusal]:
        """What the method says of so many periods of the row after each history, in the unit of the series, with its own
        limits."""
        said = self.method.project_each([(shown.history, far) for shown, far in each], self.levels, self.season.lengths)
        return [
            found
            if isinstance(found, Refusal)
            else self._bounds(shown).keep(in_unit(self.on, self.method.for_gaps(found, shown.history)))
            for found, (shown, _) in zip(said, each, strict=True)
        ]

    def _project(self, line: Line, study: Study, hold: int = 0) -> Seen:
        shown = self.shown(line, study, hold)
        history = shown.history
        wanted, onward = self._onward(shown, study)
        found = self.method.project(history, onward.size, self.levels, self.season.lengths)
        folds = [
            Fold(fold.start, replace(in_unit(self.on, fold.said), form=None), self.on.back(fold.actual))
            for fold in fold_back(
                history,
                onward.size,
                # as wide for gaps as what is shown: they would widen limits twice otherwise
                lambda part, far: self.method.for_gaps(
                    self.method.project(part, far, self.levels, self.season.lengths, found), part
                ),
            )
        ]
        history_in_unit = History(self.on.back(history.values), history.known, history.season)
        own = self.wider if self.limits is LimitsWord.HELD else 1.0
        # what is told of held-back points is told of limits as wide as those that are drawn
        folds = [replace(fold, said=fold.said.widened(own)) for fold in folds]
        score = judged(folds, history_in_unit)
        factor = widening(folds) if self.limits is LimitsWord.TESTED and self.method.widened else None
        finished = replace(in_unit(self.on, self.method.for_gaps(found, history)), form=None)
        finished = finished.widened(factor or own)
        finished, effects = with_effects(finished, onward, shown.effects, study.events)
        bounds = self._bounds(shown)
        kept = bounds.keep(finished)
        return Seen(
            line.name,
            self._on_wanted(kept, onward, wanted, study),
            shown,
            history_in_unit,
            wanted,
            tuple(folds),
            score,
            factor,
            effects,
            tested_periods(folds, onward, wanted),
            tuple(bounds.said(finished, kept, study)),
        )

    def _first_by(self, method: Method, shown: Shown) -> float | None:
        """What another method says of the first period ahead."""
        try:
            found = method.project(shown.history, 1, self.levels, self.season.lengths)
        except Refusal:
            return None
        return float(self._bounds(shown).keep(in_unit(self.on, found)).mean[0])

    def _onward(self, shown: Shown, study: Study) -> tuple[Ints, Ints]:
        """(the periods that are projected, the row of periods that the method goes along to reach them)."""
        wanted = study.expected.following(shown.last, self.ahead.how_many(shown.last, study))
        if self.closed is OnClosed.ZERO:
            every = np.arange(int(wanted[0]), int(wanted[-1]) + 1, dtype=np.int64)
            wanted = every[study.expected.usual(every)]
        onward = np.arange(int(shown.periods[-1]) + 1, int(wanted[-1]) + 1, dtype=np.int64)
        return wanted, onward[study.expected.usual(onward)]

    def _bounds(self, shown: Shown) -> Bounds:
        return Bounds(self.least, self.most, shown.smallest >= 0, self.rounding is Rounding.WHOLE)

    def _on_wanted(self, found: Projected, onward: Ints, wanted: Ints, study: Study) -> Projected:
        projected = found.at(np.searchsorted(onward, wanted))
        return projected.zero_at(~study.expected.days(wanted)) if self.closed is OnClosed.ZERO else projected
