"""Mark a level shift by hand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.shifts import measured_shift
from zembra.core.calendar.lines import Line
from zembra.core.calendar.seasons import even_row, usual_season
from zembra.core.entries.repairs.follow import followed, points_per_year
from zembra.core.entries.repairs.shiftresults import DatedShift, SeriesShifts, shift_table
from zembra.core.entries.repairs.shiftwords import ShiftEntry, shift_rule
from zembra.core.entries.shared.changewords import signed
from zembra.core.errors import Refusal
from zembra.core.grammar import Moment, Word
from zembra.core.ledger.entry import Group
from zembra.core.ledger.lineentry import Account, LineResult, results_in
from zembra.core.ledger.registry import register
from zembra.core.ledger.state import State, Study


@register
class Shift(ShiftEntry):
    kind: ClassVar[str] = "shift"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Level shift, marked"
    hint: ClassVar[str] = "A step on a date you know: a new timetable, another way of counting."
    rank: ClassVar[int] = 6
    repairs: ClassVar[bool] = True

    on: Annotated[Moment, Field(title="first period at the new level")] = date(2000, 1, 1)
    named: Annotated[str, Field(title="label", max_length=60), Word(empty="nothing")] = ""
    stretch: Annotated[int, Field(title="stretch compared either side", ge=2, le=10_000)] = 28

    def template(self) -> str:
        return (
            "Mark a level shift on {on} in {series}, labelled {named}, measured over stretches of {stretch} {@periods} "
            f"with {self.season_taken} taken off; {{then}}."
        )

    def on_line(self, line: Line, study: Study) -> LineResult:
        at = int(np.searchsorted(line.periods, study.grain.span(self.on)[0]))
        if at == 0 or at >= len(line):
            return LineResult(warnings=(f"{line.name} has nothing on both sides of that date.",))
        period, name = int(line.periods[at]), self.named or "level shift"
        row = even_row(study.expected, line.periods)
        on_row = int(np.searchsorted(row.periods, line.periods[at]))
        values, year = row.spread(line.counted), points_per_year(study.expected)
        found = measured_shift(values, on_row, self.season, self.stretch, year)
        if found is None:
            warning = f"{line.name} has too few numbers on one side to measure the shift."
            return LineResult(shapes=(shift_rule(line, period, name, study),), warnings=(warning,))
        shift = replace(found, place=at)
        made = followed(line, shift, self.then, study.entry_id)
        return LineResult(
            None if made is line else made,
            (shift_rule(line, period, f"{name} {signed(shift.size)}", study),),
            touched=0 if made is line else int((line.condition != made.condition).sum()),
            result=SeriesShifts(line.name, (DatedShift(period, shift),)),
        )

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        marked = sum(1 for effect in made if effect.shapes)
        if not marked:
            why = next((said for effect in made for said in effect.warnings), "There is no series to mark.")
            raise Refusal(why, todo="Choose another date.")
        evidence = (shift_table("Level shift", results_in(made, SeriesShifts), study.grain),)
        return (
            Account("lifted", evidence)
            if any(effect.touched for effect in made)
            else Account("marked", evidence, touched=marked)
        )

    @classmethod
    def suggest(cls, state: State) -> Shift:
        """Suggest the middle of the first series."""
        line = next((candidate for candidate in state.lines if len(candidate)), None)
        season = usual_season(state.expected)
        if line is None:
            return cls(season=season)
        middle = state.grain.starts(line.periods[[len(line) // 2]])[0].astype("datetime64[s]").item()
        return cls(on=middle if state.grain.seconds < 86_400 else middle.date(), season=season, series=(line.name,))
