"""A level shift marked by hand on a date, with a label and what follows from it."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field, field_validator

from zembra.core.arithmetic.shifts import measured_shift
from zembra.core.calendar.seasons import even_row, usual_season
from zembra.core.errors import Refusal
from zembra.core.grammar import Moment, Word
from zembra.core.ledger.effect import effect_table
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.follow import SHIFT_COLUMNS, Follow, followed, one_lift, points_per_year, shift_row, signed
from zembra.core.ledger.state import Cell, Outcome, State, Table
from zembra.core.lines import Line, Mark


@register
class Shift(Entry):
    kind: ClassVar[str] = "shift"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Level shift, marked"
    hint: ClassVar[str] = "A step on a date you know: a new timetable, another way of counting."
    rank: ClassVar[int] = 6

    on: Annotated[Moment, Field(title="first period at the new level")] = date(2000, 1, 1)
    named: Annotated[str, Field(title="label", max_length=60), Word(empty="nothing")] = ""
    stretch: Annotated[int, Field(title="stretch compared either side", ge=2, le=10_000)] = 28
    season: Annotated[int | None, Field(title="season length", ge=2, le=10_000), Word(empty="no season")] = 7
    then: Annotated[tuple[Follow, ...], Field(title="what follows"), Word(empty="nothing else follows")] = ()
    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()

    _one_lift = field_validator("then")(one_lift)

    def template(self) -> str:
        season = "a season of {season} {@periods}" if self.season else "{season}"
        return (
            "Mark a level shift on {on} in {series}, labelled {named}, measured over stretches of {stretch} {@periods} "
            f"with {season} taken off; {{then}}."
        )

    def apply(self, state: State, by: str) -> Outcome:
        before = state.lines
        rows: list[tuple[Cell, ...]] = []
        marks: list[Mark] = []
        warnings: list[str] = []
        first = state.grain.span(self.on)[0]
        for place in state.chosen(self.series):
            line = state.lines[place]
            at = int(np.searchsorted(line.periods, first))
            if at == 0 or at >= len(line):
                warnings.append(f"{line.name} has nothing on both sides of that date.")
                continue
            marks.append(Mark("shift", line.name, int(line.periods[at]), self.named or "level shift"))
            row = even_row(state.expected, line.periods)
            on_row = int(np.searchsorted(row.periods, line.periods[at]))
            shift = measured_shift(row.spread(line.counted), on_row, self.season, self.stretch, points_per_year(state))
            if shift is None:
                warnings.append(f"{line.name} has too few numbers on one side to measure the shift.")
                continue
            shift = replace(shift, place=at)
            rows.append(shift_row(state, line, shift))
            text = f"{self.named or 'level shift'} {signed(shift.size)}"
            marks[-1] = replace(marks[-1], text=text)
            state = state.with_line(place, followed(line, shift, self.then, by))
        if not marks:
            raise Refusal(warnings[0] if warnings else "There is no series to mark.", todo="Choose another date.")
        touched = sum(_changed(old, new) for old, new in zip(before, state.lines, strict=True))
        return Outcome(
            replace(state, marks=(*state.marks, *marks)),
            touched or len(marks),
            "lifted" if touched else "marked",
            (Table("Level shift", SHIFT_COLUMNS, tuple(rows)), *effect_table(before, state)),
            tuple(warnings),
        )

    @classmethod
    def suggest(cls, state: State) -> Shift:
        """On the middle of the first series: a date to start from."""
        line = next((one for one in state.lines if len(one)), None)
        season = usual_season(state.expected)
        if line is None:
            return cls(season=season)
        middle = state.grain.starts(line.periods[[len(line) // 2]])[0].astype("datetime64[s]").item()
        return cls(on=middle if state.grain.seconds < 86_400 else middle.date(), season=season, series=(line.name,))


def _changed(old: Line, new: Line) -> int:
    return 0 if old is new else int((old.condition != new.condition).sum())
