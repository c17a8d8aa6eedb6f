"""A projection by exponential smoothing, with its parameters and its score on held-back periods."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field, field_validator

from zembra.core.arrays import Floats, Ints
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.seasons import even_row, usual_season
from zembra.core.errors import Refusal
from zembra.core.grammar import Word, number
from zembra.core.ledger.clauses.smoothingforms import BestForm, FormWords
from zembra.core.ledger.entry import Group, register
from zembra.core.ledger.evidence import SERIES, Row, Table, measure, percent, table, text
from zembra.core.ledger.lineentry import LineEntry, Made, Told
from zembra.core.ledger.state import State, Study
from zembra.core.ledger.words import Counting
from zembra.core.lines import Line
from zembra.core.projection.holdback import Score, score
from zembra.core.projection.smoothing import (
    FEWEST_POINTS,
    Fitted,
    Form,
    project_again,
    smooth,
    whole_history,
)
from zembra.core.shapes import Area, Curve, Rests, Shape, shape_id

FEW_SEASONS = 4
FEW_POINTS = 10
QUICK = 60  # points up to which a fit without a season takes no time


@dataclass(frozen=True, slots=True)
class _Projected:
    """One series' projection with what is needed to report it. gaps: periods without a number between
    others; closed: days not expected between them, which the fit passes over by the season."""

    series: str
    fitted: Fitted
    periods: Ints
    held: Score | None
    gaps: int
    closed: int
    points: int


@register
class Smoothing(LineEntry):
    kind: ClassVar[str] = "smoothing"
    group: ClassVar[Group] = Group.PROJECTIONS
    title: ClassVar[str] = "Exponential smoothing"
    hint: ClassVar[str] = "Project level, trend and season on, with limits; recent periods weigh most."
    passed_over: ClassVar[str] = "is not projected"

    ahead: Annotated[int, Field(title="how far ahead", ge=1, le=3650)] = 56
    season: Annotated[int | None, Field(title="season length", ge=2, le=400), Word(empty="no season")] = 7
    levels: Annotated[
        tuple[float, ...], Field(title="coverage of the limits", min_length=1, max_length=4), Word(unit="%")
    ] = (80.0, 95.0)
    form: Annotated[FormWords, Field(title="form", discriminator="kind")] = BestForm()
    provisional: Annotated[Counting, Field(title="provisional periods")] = Counting.NOT

    @field_validator("levels")
    @classmethod
    def _coverage(cls, levels: tuple[float, ...]) -> tuple[float, ...]:
        if any(not 1 <= level <= 99.9 for level in levels):
            raise ValueError("a coverage lies between 1 and 99.9 percent")
        return tuple(sorted(set(levels)))

    def template(self) -> str:
        season = "a season of {season} {@periods}" if self.season else "{season}"
        return (
            f"Project {{series}} {{ahead}} {{@periods}} on with exponential smoothing, {season}, "
            "in {form}, showing {levels} limits[, provisional {@periods} {provisional}]."
        )

    def heavy_on(self, line: Line) -> bool:
        return len(line) > QUICK or bool(self.season)

    def on_line(self, line: Line, study: Study) -> Made:
        if study.grain.unit is Unit.MOMENT:
            raise Refusal(
                "Dates as they come have no even step to project on.",
                todo="Put them on days, weeks or months first: Finer grain, or the grain of the calendar.",
            )
        one = self._project(line, study)
        warnings = tuple(self._doubts(one, study))
        return Made(shapes=self._drawn(one, study), touched=one.points, warnings=warnings, facts=one)

    def told(self, made: Sequence[Made], study: Study) -> Told:
        if not made:
            raise Refusal("There is no series to project.")
        done = [one.facts for one in made]
        evidence = (self._what_was_fitted(done, study), self._how_it_did(done, study), *_forms_compared(done))
        return Told(f"{study.grain.plural} used", evidence)

    @classmethod
    def suggest(cls, state: State) -> Smoothing:
        season = usual_season(state.expected)
        ahead = {"day": 8 * (season or 7), "week": 12, "month": 12, "quarter": 8}.get(state.grain.singular, season or 5)
        longest = max((len(line) for line in state.lines), default=0)
        return cls(ahead=ahead, season=season if season and longest >= 2 * season else None)

    def _project(self, line: Line, study: Study) -> _Projected:
        """Fit and project along a row of periods in which closed days keep their place in the season."""
        counted = self._values(line)
        row = even_row(study.expected, line.periods)
        values = row.spread(counted)
        known = np.flatnonzero(~np.isnan(values))
        history, gaps = whole_history(values, self.season)
        if not known.size:
            raise Refusal(f"A projection needs at least {FEWEST_POINTS} values; there are none.")
        last = int(row.periods[known[-1]])
        wanted = study.expected.following(int(line.periods[np.flatnonzero(~np.isnan(counted))[-1]]), self.ahead)
        onward = np.arange(last + 1, int(wanted[-1]) + 1, dtype=np.int64)
        onward = onward[study.expected.usual(onward)]
        fitted = smooth(history, self.season, onward.size, self.levels, self.form.form(self.season))
        held = self._hold_back(values, fitted.form)
        here = np.searchsorted(onward, wanted)
        inside = (row.at >= known[0]) & (row.at <= known[-1])
        closed = int(known[-1] - known[0] + 1 - np.count_nonzero(inside))
        return _Projected(line.name, fitted.at(here), wanted, held, gaps - closed, closed, history.size - gaps)

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

    def _drawn(self, one: _Projected, study: Study) -> tuple[Shape, ...]:
        curve = Curve(
            id=shape_id(study.by, one.series, "projection"),
            entry=study.by,
            series=one.series,
            name="projection",
            rests=Rests.PROJECTED,
            kind="projection",
            periods=one.periods,
            value=one.fitted.mean,
            held_back_error=one.held.mae if one.held else None,
        )
        areas = (
            Area(
                id=shape_id(study.by, one.series, f"limits {limits.level:g}"),
                entry=study.by,
                series=one.series,
                name=f"{number(limits.level)} % limits",
                rests=Rests.PROJECTED,
                of=curve.id,
                periods=one.periods,
                lower=limits.lower,
                upper=limits.upper,
                level=limits.level,
            )
            for limits in one.fitted.limits
        )
        return (curve, *areas)

    def _doubts(self, one: _Projected, study: Study) -> list[str]:
        said = []
        if one.points < FEW_POINTS:
            said.append(
                f"{one.series}: only {one.points} {study.grain.plural} have a number. "
                f"Below {FEW_POINTS}, limits are guesswork."
            )
        if self.season and one.fitted.points_used < FEW_SEASONS * self.season:
            full = one.fitted.points_used // self.season
            said.append(
                f"{one.series}: the history holds {full} full seasons of {self.season} {study.grain.plural}. "
                f"Below {FEW_SEASONS}, a season can hardly be told from chance."
            )
        return said

    def _what_was_fitted(self, done: list[_Projected], study: Study) -> Table:
        relative = any(one.fitted.form.error == "M" for one in done)
        spread = "Residual spread (relative where errors are M)" if relative else "Residual spread"
        rows: list[Row] = [
            ("Form (error, trend, season)", *(str(one.fitted.form) for one in done)),
            ("Level weight α", *(one.fitted.alpha for one in done)),
            ("Trend weight β", *(one.fitted.beta for one in done)),
            ("Season weight γ", *(one.fitted.gamma for one in done)),
            ("Damping φ", *(one.fitted.phi for one in done)),
            (spread, *(one.fitted.residual_spread for one in done)),
            ("AICc, initial states estimated", *(one.fitted.aicc for one in done)),
            (f"{study.grain.plural.capitalize()} used", *(one.points for one in done)),
            ("Gaps closed for the fit only", *(one.gaps for one in done)),
            ("Closed days passed over", *(one.closed for one in done)),
        ]
        columns = (text("what", ""), *(measure(one.series, one.series) for one in done))
        return table("What was fitted", columns, rows)

    def _how_it_did(self, done: list[_Projected], study: Study) -> Table:
        columns = (
            SERIES,
            text("held", "Held back"),
            measure("mae", "Mean error"),
            percent("mape", "Error %"),
            measure("mase", "Scaled error"),
            *(text(f"in_{level:g}", f"In {number(level)} %") for level in self.levels),
        )
        rows: list[Row] = []
        for one in done:
            held = one.held
            if held is None:
                rows.append((one.series, "too short to hold back", *([None] * (len(columns) - 2))))
                continue
            inside = (f"{many} of {held.periods}" for _, many in held.inside)
            rows.append((one.series, f"{held.periods} {study.grain.plural}", held.mae, held.mape, held.mase, *inside))
        return table("How this form did on held-back periods", columns, rows)


def _forms_compared(done: list[_Projected]) -> tuple[Table, ...]:
    """AICc of the forms compared, for a single series only: with several it would be a wall of numbers."""
    if len(done) != 1 or not done[0].fitted.tried:
        return ()
    columns = (text("form", "Form (error, trend, season)"), measure("aicc", "AICc, states from the first seasons"))
    return (table("Forms compared", columns, done[0].fitted.tried[:6]),)
