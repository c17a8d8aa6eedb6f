"""A projection by exponential smoothing, with its parameters and its score on held-back periods."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field, field_validator

from zembra.core.arrays import Floats, Ints
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.seasons import even_row, usual_season
from zembra.core.errors import Refusal
from zembra.core.grammar import Nouns, Word, number
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.smoothingwords import ErrorForm, FormBy, SeasonForm, TrendForm
from zembra.core.ledger.state import Cell, Outcome, State, Table
from zembra.core.ledger.words import Counting
from zembra.core.lines import Drawn, Line
from zembra.core.projection.holdback import Score, score
from zembra.core.projection.smoothing import (
    FEWEST_POINTS,
    Fitted,
    Form,
    project_again,
    smooth,
    whole_history,
)

FEW_SEASONS = 4
FEW_POINTS = 10


@dataclass(frozen=True, slots=True)
class _Projected:
    """One series' projection with what is needed to report it. gaps: periods without a number between
    others; closed: days not expected between them, which the fit passes over by the season."""

    line: Line
    fitted: Fitted
    periods: Ints
    held: Score | None
    gaps: int
    closed: int
    points: int


@register
class Smoothing(Entry):
    kind: ClassVar[str] = "smoothing"
    group: ClassVar[Group] = Group.PROJECTIONS
    title: ClassVar[str] = "Exponential smoothing"
    hint: ClassVar[str] = "Project level, trend and season on, with limits; recent periods weigh most."
    heavy: ClassVar[bool] = True

    ahead: Annotated[int, Field(title="how far ahead", ge=1, le=3650)] = 56
    season: Annotated[int | None, Field(title="season length", ge=2, le=400), Word(empty="no season")] = 7
    levels: Annotated[
        tuple[float, ...], Field(title="coverage of the limits", min_length=1, max_length=4), Word(unit="%")
    ] = (80.0, 95.0)
    form: Annotated[FormBy, Field(title="form")] = FormBy.AICC
    error: Annotated[ErrorForm, Field(title="errors")] = ErrorForm.ADDITIVE
    trend: Annotated[TrendForm, Field(title="trend")] = TrendForm.DAMPED
    seasonality: Annotated[SeasonForm, Field(title="season")] = SeasonForm.ADDITIVE
    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()
    provisional: Annotated[Counting, Field(title="provisional periods")] = Counting.NOT

    @field_validator("levels")
    @classmethod
    def _coverage(cls, levels: tuple[float, ...]) -> tuple[float, ...]:
        if any(not 1 <= level <= 99.9 for level in levels):
            raise ValueError("a coverage lies between 1 and 99.9 percent")
        return tuple(sorted(set(levels)))

    def template(self) -> str:
        by_hand = " with {error} errors, {trend} trend and {seasonality} season" if self.form is FormBy.HAND else ""
        season = "a season of {season} {@periods}" if self.season else "{season}"
        return (
            f"Project {{series}} {{ahead}} {{@periods}} on with exponential smoothing, {season}, "
            f"in {{form}}{by_hand}, showing {{levels}} limits"
            "[, provisional {@periods} {provisional}]."
        )

    def label(self, nouns: Nouns) -> str:
        return "projection"

    def apply(self, state: State, by: str) -> Outcome:
        if state.grain.unit is Unit.MOMENT:
            raise Refusal(
                "Dates as they come have no even step to project on.",
                todo="Put them on days, weeks or months first: Finer grain, or the grain of the calendar.",
            )
        done: list[_Projected] = []
        warnings: list[str] = []
        for place in state.chosen(self.series):
            line = state.lines[place]
            try:
                done.append(self._project(state, line))
            except Refusal as refusal:
                warnings.append(f"{line.name} is not projected. {refusal}")
                continue
            warnings.extend(self._doubts(done[-1], state.nouns))
        if not done:
            raise Refusal(warnings[0] if warnings else "There is no series to project.")
        drawn = tuple(self._drawn(one, state, by) for one in done)
        points = sum(one.points for one in done)
        return Outcome(
            replace(state, drawn=(*state.drawn, *drawn)),
            points,
            f"{state.grain.plural} used",
            (self._what_was_fitted(done, state.nouns), self._how_it_did(done, state.nouns), *_forms_compared(done)),
            tuple(warnings),
        )

    @classmethod
    def suggest(cls, state: State) -> Smoothing:
        season = usual_season(state.expected)
        ahead = {"day": 8 * (season or 7), "week": 12, "month": 12, "quarter": 8}.get(state.grain.singular, season or 5)
        longest = max((len(line) for line in state.lines), default=0)
        return cls(ahead=ahead, season=season if season and longest >= 2 * season else None)

    def _form(self) -> Form | None:
        if self.form is FormBy.AICC:
            return None
        season = self.seasonality.value if self.season else "N"
        return Form(self.error.value, self.trend.value[0], season, self.trend is TrendForm.DAMPED)

    def _project(self, state: State, line: Line) -> _Projected:
        """Fit and project along a row of periods in which closed days keep their place in the season."""
        counted = self._values(line)
        row = even_row(state.expected, line.periods)
        values = row.spread(counted)
        known = np.flatnonzero(~np.isnan(values))
        history, gaps = whole_history(values, self.season)
        if not known.size:
            raise Refusal(f"A projection needs at least {FEWEST_POINTS} values; there are none.")
        last = int(row.periods[known[-1]])
        wanted = state.following(int(line.periods[np.flatnonzero(~np.isnan(counted))[-1]]), self.ahead)
        onward = np.arange(last + 1, int(wanted[-1]) + 1, dtype=np.int64)
        onward = onward[state.expected.usual(onward)]
        fitted = smooth(history, self.season, onward.size, self.levels, self._form())
        held = self._hold_back(values, fitted.form)
        here = np.searchsorted(onward, wanted)
        inside = (row.at >= known[0]) & (row.at <= known[-1])
        closed = int(known[-1] - known[0] + 1 - np.count_nonzero(inside))
        return _Projected(line, fitted.at(here), wanted, held, gaps - closed, closed, history.size - gaps)

    def _values(self, line: Line) -> Floats:
        return line.since_begin(line.countable(provisional=self.provisional.yes))

    def _hold_back(self, values: Floats, form: Form) -> Score | None:
        """Refit the same form without the last periods and score it on them."""
        known = np.flatnonzero(~np.isnan(values))
        last = int(known[-1]) + 1
        held = min(self.ahead, (last - int(known[0])) // 5)
        earlier, _ = whole_history(values[: last - held], self.season)
        if held < 1 or earlier.size < max(FEWEST_POINTS, 2 * (self.season or 1)):
            return None
        # the shortened history may end in a gap: project far enough to reach the held-back periods
        end = int(np.flatnonzero(~np.isnan(values[: last - held]))[-1]) + 1
        try:
            again = project_again(earlier, self.season, last - end, self.levels, form)
        except Refusal:
            return None
        return score(values[end:last], again.mean, again.limits, earlier, self.season)

    def _drawn(self, one: _Projected, state: State, by: str) -> Drawn:
        return Drawn(
            one.line.name,
            self.label(state.nouns),
            "projection",
            by,
            one.periods,
            one.fitted.mean,
            one.fitted.limits,
            estimated=True,
            held_back_error=one.held.mae if one.held else None,
        )

    def _doubts(self, one: _Projected, nouns: Nouns) -> list[str]:
        said = []
        if one.points < FEW_POINTS:
            said.append(
                f"{one.line.name}: only {one.points} {nouns['periods']} have a number. "
                f"Below {FEW_POINTS}, limits are guesswork."
            )
        if self.season and one.fitted.points_used < FEW_SEASONS * self.season:
            full = one.fitted.points_used // self.season
            said.append(
                f"{one.line.name}: the history holds {full} full seasons of {self.season} {nouns['periods']}. "
                f"Below {FEW_SEASONS}, a season can hardly be told from chance."
            )
        return said

    def _what_was_fitted(self, done: list[_Projected], nouns: Nouns) -> Table:
        relative = any(one.fitted.form.error == "M" for one in done)
        spread = "Residual spread (relative where errors are M)" if relative else "Residual spread"
        rows: list[tuple[Cell, ...]] = [
            ("Form (error, trend, season)", *(str(one.fitted.form) for one in done)),
            ("Level weight α", *(one.fitted.alpha for one in done)),
            ("Trend weight β", *(one.fitted.beta for one in done)),
            ("Season weight γ", *(one.fitted.gamma for one in done)),
            ("Damping φ", *(one.fitted.phi for one in done)),
            (spread, *(one.fitted.residual_spread for one in done)),
            ("AICc, initial states estimated", *(one.fitted.aicc for one in done)),
            (f"{nouns['periods'].capitalize()} used", *(one.points for one in done)),
            ("Gaps closed for the fit only", *(one.gaps for one in done)),
            ("Closed days passed over", *(one.closed for one in done)),
        ]
        return Table("What was fitted", ("", *(one.line.name for one in done)), tuple(rows))

    def _how_it_did(self, done: list[_Projected], nouns: Nouns) -> Table:
        columns = (
            "Series", "Held back", "Mean error", "Error %", "Scaled error",
            *(f"In {number(level)} %" for level in self.levels),
        )  # fmt: skip
        rows: list[tuple[Cell, ...]] = []
        for one in done:
            held = one.held
            if held is None:
                rows.append((one.line.name, "too short to hold back", *([None] * (len(columns) - 2))))
                continue
            inside = (f"{count} of {held.periods}" for _, count in held.inside)
            rows.append((one.line.name, f"{held.periods} {nouns['periods']}", held.mae, held.mape, held.mase, *inside))
        return Table("How this form did on held-back periods", columns, tuple(rows))


def _forms_compared(done: list[_Projected]) -> tuple[Table, ...]:
    """AICc of the forms compared, for a single series only: with several it would be a wall of numbers."""
    if len(done) != 1 or not done[0].fitted.tried:
        return ()
    return (
        Table(
            "Forms compared",
            ("Form (error, trend, season)", "AICc, states from the first seasons"),
            done[0].fitted.tried[:6],
        ),
    )
