"""Outliers: values that stand out by a rule or were picked by hand, and what happens to them."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field, model_validator

from zembra.core.arithmetic.fills import seasonal_usual, straight_line
from zembra.core.arithmetic.outliers import (
    Judged,
    away_from_middle,
    away_from_neighbours,
    away_from_season,
    away_from_trend,
    beyond_fence,
    has_season,
    outside_limits,
    picked,
    usual_move,
)
from zembra.core.arithmetic.regression import steps_since
from zembra.core.arrays import Bools, Floats
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.seasons import even_row, usual_season
from zembra.core.errors import Refusal
from zembra.core.grammar import Point, Word
from zembra.core.ledger.effect import effect_table
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.outlierwords import Ends, FromTrend, Measure, Reason, Rule, Side, Then
from zembra.core.ledger.state import Cell, Offer, Outcome, RowKey, State, Table
from zembra.core.lines import Condition, Line, Mark, MarkKind

MOST_LISTED = 300
SEASONAL_FAR = 4.0  # local spreads from which the seasonal rule takes a value for an outlier
FEWEST_ALIKE = 4  # values at one place of the season before they look like its peaks
ALIKE = 0.5  # share of what stands out that stands there


@register
class Outliers(Entry):
    kind: ClassVar[str] = "outliers"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Outliers"
    hint: ClassVar[str] = "Values that stand out: set aside, replace, pull in, or keep and mark."
    rank: ClassVar[int] = 3

    then: Annotated[Then, Field(title="what happens")] = Then.OPEN
    rule: Annotated[Rule, Field(title="what stands out")] = Rule.NEIGHBOURS
    far: Annotated[float, Field(title="how far", gt=0, allow_inf_nan=False)] = 6.0
    measure: Annotated[Measure, Field(title="how far is measured")] = Measure.TIMES
    from_trend: Annotated[FromTrend, Field(title="how far is measured")] = FromTrend.TIMES
    side: Annotated[Side, Field(title="which side")] = Side.BOTH
    ends: Annotated[Ends, Field(title="first and last number")] = Ends.NOT
    window: Annotated[int, Field(title="window", ge=3, le=2001)] = 15
    season: Annotated[int, Field(title="season length", ge=2, le=10_000)] = 7
    low: Annotated[float | None, Field(title="lower limit", allow_inf_nan=False), Word(empty="no limit")] = None
    high: Annotated[float | None, Field(title="upper limit", allow_inf_nan=False), Word(empty="no limit")] = None
    points: Annotated[tuple[Point, ...], Field(title="points picked"), Word(empty="none yet")] = ()
    kept: Annotated[tuple[Point, ...], Field(title="points kept all the same"), Word(empty="none")] = ()
    reasons: Annotated[tuple[Reason, ...], Field(title="reasons noted")] = ()
    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()

    @model_validator(mode="after")
    def _ordered(self) -> Outliers:
        if self.low is not None and self.high is not None and self.low > self.high:
            raise ValueError("the lower limit lies above the upper one")
        return self

    def template(self) -> str:
        if self.rule is Rule.HAND:
            return "{then} the values {rule}: {points}."
        space = "" if self.measure is Measure.PERCENT else " "
        how = {
            Rule.NEIGHBOURS: f"more than {{far}}{space}{{measure}} {{rule}}, {{side}}[, ends {{ends}}]",
            Rule.TREND: "more than {far} {from_trend} {rule}, {side}",
            Rule.MIDDLE: "more than {far} scaled deviations {rule} of {window} {@periods}, {side}",
            Rule.FENCE: "more than {far} quartile distances {rule}, {side}",
            Rule.SEASON: "more than {far} times the local spread {rule} of {season} {@periods}, {side}",
            Rule.LIMITS: "{rule}, {low} to {high}",
        }[self.rule]
        usual = " of {season} {@periods}" if self.then is Then.SEASONAL and self.rule is not Rule.SEASON else ""
        return f"{{then}}{usual} a value {how}; in {{series}}[, keeping {{kept}}]."

    def apply(self, state: State, by: str) -> Outcome:
        before = state.lines
        kept = {(one.series, state.grain.parse(one.period)) for one in self.kept}
        noted = {(one.point.series, state.grain.parse(one.point.period)): one.text for one in self.reasons}
        rows: list[tuple[Cell, ...]] = []
        keys: list[RowKey | None] = []
        marks: list[Mark] = []
        touched = 0
        unjudged: list[str] = []
        offers: tuple[Offer, ...] = ()
        for place in state.chosen(self.series):
            line = state.lines[place]
            try:
                judged = self._judge(state, line)
            except Refusal as refusal:
                unjudged.append(f"{line.name} is not judged. {refusal}")
                continue
            stays = np.isin(line.periods, [period for name, period in kept if name == line.name])
            out = judged.out & ~stays
            touched += int(out.sum())
            self._list(state, line, judged, stays, noted, rows, keys)
            marks.extend(self._marks(line, judged.out, out, noted))
            if out.any() and self.then is not Then.MARK:
                state = state.with_line(place, self._treated(state, line, out, judged, by))
            if self.rule is Rule.NEIGHBOURS and not offers:
                offers = self._seasonal_offer(state, line, judged)
        columns = ("Series", "Period", "Value", "Expected", "Off by", "Now", "Reason")
        listed = Table("What stands out", columns, tuple(rows), tuple(keys))
        word = {Then.LIMIT: "pulled in", Then.MARK: "marked", Then.STRAIGHT: "replaced", Then.SEASONAL: "replaced"}
        return Outcome(
            replace(state, marks=(*state.marks, *marks)),
            touched,
            word.get(self.then, "set aside"),
            (listed, *effect_table(before, state)),
            tuple(unjudged),
            offers,
        )

    @classmethod
    def suggest(cls, state: State) -> Outliers:
        return cls(season=usual_season(state.expected) or 7)

    def _seasonal_offer(self, state: State, line: Line, judged: Judged) -> tuple[Offer, ...]:
        """Neighbours take the peaks of a season for outliers: where there is one, its own rule is offered."""
        season = usual_season(state.expected)
        row = even_row(state.expected, line.periods)
        at = row.at[judged.out & (row.at >= 0)]
        if season is None or at.size < FEWEST_ALIKE:
            return ()
        most = int(np.bincount(at % season).max())
        if most < ALIKE * at.size or not has_season(row.spread(line.counted), season):
            return ()
        told = (
            f"{most} of the {at.size} in {line.name} stand at the same place of a season of {season}: peaks, not slips."
        )
        words = {"rule": Rule.SEASON.value, "season": season, "far": SEASONAL_FAR}
        return (Offer(told, "Judge by the season", self.kind, words, change=True),)

    def _judge(self, state: State, line: Line) -> Judged:
        values = line.counted
        irregular = state.grain.unit is Unit.MOMENT
        sides = {"up": self.side is not Side.DOWN, "down": self.side is not Side.UP}
        if self.rule is Rule.HAND:
            chosen = frozenset(state.grain.parse(one.period) for one in self.points if one.series == line.name)
            return picked(values, line.periods, chosen, irregular=irregular)
        if self.rule is Rule.LIMITS:
            return outside_limits(values, self.low, self.high)
        if self.rule is Rule.FENCE:
            return beyond_fence(values, self.far, **sides)
        if self.rule is Rule.MIDDLE:
            return away_from_middle(values, self.window, self.far, **sides)
        if self.rule is Rule.SEASON:
            if irregular:
                raise Refusal("Dates as they come have no season.", todo="Choose another rule.")
            row = even_row(state.expected, line.periods)
            on_row = away_from_season(row.spread(values), self.season, self.far, **sides)
            out = np.isin(row.at, np.flatnonzero(on_row.out))
            return Judged(out, row.gather(on_row.expected), row.gather(on_row.nearest))
        if self.rule is Rule.TREND:
            x = steps_since(line.periods, int(line.periods[0]) if len(line) else 0)
            return away_from_trend(values, x, self.far, percent=self.from_trend is FromTrend.PERCENT, **sides)
        far = self.far * (usual_move(values) if self.measure is Measure.TIMES else 1)
        judged_ends = self.ends is Ends.JUDGED
        return away_from_neighbours(values, far, percent=self.measure is Measure.PERCENT, ends=judged_ends, **sides)

    def _treated(self, state: State, line: Line, out: Bools, judged: Judged, by: str) -> Line:
        if self.then is Then.LIMIT:
            has = out & ~np.isnan(judged.nearest)
            return line.marked(has, Condition.ADJUSTED, by, judged.nearest)
        if self.then in (Then.STRAIGHT, Then.SEASONAL):
            rest = np.where(out, np.nan, line.counted)
            values = self._instead(state, line, rest)
            has = out & ~np.isnan(values)
            # what no estimate can be found for is set aside: it stood out all the same
            return line.marked(has, Condition.FILLED, by, values).marked(out & ~has, Condition.SET_ASIDE, by)
        return line.marked(out, Condition.SET_ASIDE, by, bridged=self.then is Then.BRIDGE)

    def _instead(self, state: State, line: Line, rest: Floats) -> Floats:
        if self.then is Then.STRAIGHT:
            return straight_line(rest, line.periods if state.grain.unit is Unit.MOMENT else None)
        row = even_row(state.expected, line.periods)
        return row.gather(seasonal_usual(row.spread(rest), self.season))

    def _marks(self, line: Line, judged: Bools, out: Bools, noted: dict[tuple[str, int], str]) -> list[Mark]:
        """Reasons beside their points, whether these were treated or kept; and what is only marked."""
        made = []
        for at in np.flatnonzero(judged)[:MOST_LISTED]:
            text = noted.get((line.name, int(line.periods[at])), "")
            marked = bool(out[at]) and self.then is Then.MARK
            if text or marked:
                kind: MarkKind = "kept" if marked or not out[at] else "note"
                made.append(Mark(kind, line.name, int(line.periods[at]), text, float(line.value[at])))
        return made

    def _list(
        self,
        state: State,
        line: Line,
        judged: Judged,
        stays: Bools,
        noted: dict[tuple[str, int], str],
        rows: list[tuple[Cell, ...]],
        keys: list[RowKey | None],
    ) -> None:
        """The candidates, those farthest off first."""
        off = line.value - judged.expected
        found = np.flatnonzero(judged.out)
        order = found[np.argsort(-np.nan_to_num(np.abs(off[found])), kind="stable")][: MOST_LISTED - len(rows)]
        for at, label in zip(order, state.grain.labels(line.periods[order]), strict=True):
            reason = noted.get((line.name, int(line.periods[at])), "")
            now = "kept" if stays[at] else {Then.MARK: "marked"}.get(self.then, "out")
            value, expected = float(line.value[at]), float(judged.expected[at])
            rows.append((line.name, label, value, expected, float(off[at]), now, reason))
            keys.append(RowKey(line.name, label, kept=bool(stays[at]), reason=reason))
