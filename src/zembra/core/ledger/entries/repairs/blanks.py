"""What happens where there is no number: the line stops, is drawn across, or gets an estimate."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.fills import (
    carried_back,
    carried_on,
    inner_gaps,
    neighbour_mean,
    seasonal_usual,
    straight_line,
)
from zembra.core.arrays import Bools, Floats
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.seasons import even_row, usual_season
from zembra.core.grammar import Choice, Moment, Word
from zembra.core.ledger.effect import effect_table
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.state import Cell, Offer, Outcome, State, Table
from zembra.core.lines import Condition, Line, Received


class Treatment(Choice):
    OPEN = ("open", "Leave open", "the line stops")
    BRIDGE = ("bridge", "Bridge", "drawn across, dashed; adds no value")
    STRAIGHT = ("straight", "Fill on a straight line", "linear interpolation")
    CARRY_ON = ("carry-on", "Carry the last value on", "last observation carried forward")
    CARRY_BACK = ("carry-back", "Carry the next value back", "next observation carried backward")
    SEASONAL = ("seasonal", "Fill with the seasonal usual", "median of the same place of the neighbouring seasons")
    NEIGHBOURS = ("neighbours", "Fill with the average of the neighbours", "mean within a few periods on either side")
    FIXED = ("fixed", "Fill with a fixed value", "a constant")
    ZERO = ("zero", "Count as zero", "a zero that is marked as filled")


class Missing(Choice):
    BLANK = ("blank", "blank", "a row with an empty cell or a blank word")
    ABSENT = ("absent", "absent", "a period with no row")
    UNREADABLE = ("unreadable", "unreadable", "a cell whose text is no number")


@register
class Blanks(Entry):
    kind: ClassVar[str] = "blanks"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Blanks"
    hint: ClassVar[str] = "Leave blanks open, bridge them, fill them, or count them as zero."
    rank: ClassVar[int] = 1

    treatment: Annotated[Treatment, Field(title="what happens")] = Treatment.STRAIGHT
    season: Annotated[int, Field(title="season length", ge=2, le=10_000)] = 7
    need: Annotated[int, Field(title="seasons needed", ge=1, le=8)] = 2
    reach: Annotated[int, Field(title="how far the neighbours reach", ge=1, le=1000)] = 2
    value: Annotated[float, Field(title="fixed value", allow_inf_nan=False)] = 0.0
    classes: Annotated[tuple[Missing, ...], Field(title="which kinds of nothing", min_length=1)] = tuple(Missing)
    longest: Annotated[int | None, Field(title="longest run", ge=1, le=100_000), Word(empty="any number of")] = 3
    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()
    start: Annotated[Moment | None, Field(title="from"), Word(empty="the beginning")] = None
    end: Annotated[Moment | None, Field(title="to"), Word(empty="the end")] = None

    def template(self) -> str:
        how = {
            Treatment.SEASONAL: " of {season} {@periods}, needing {need} seasons",
            Treatment.NEIGHBOURS: " within {reach} {@periods}",
            Treatment.FIXED: ", {value}",
        }.get(self.treatment, "")
        return (
            f"{{treatment}}{how}: {{classes}} {{@periods}}, in runs of up to {{longest}} {{@periods}}, in {{series}}"
            "[, from {start} to {end}]."
        )

    def apply(self, state: State, by: str) -> Outcome:
        touched = 0
        rows: list[tuple[Cell, ...]] = []
        before = state.lines
        for place in state.chosen(self.series):
            line = state.lines[place]
            where, values = self._where(state, line)
            count = int(where.sum())
            rows.append((line.name, count, int((line.missing & ~where).sum())))
            touched += count
            if count:
                state = state.with_line(place, self._treated(line, where, values, by))
        word = {Treatment.OPEN: "left open", Treatment.BRIDGE: "bridged"}.get(self.treatment, "filled")
        evidence = Table("Where there was no number", ("Series", word.capitalize(), "Not touched"), tuple(rows))
        return Outcome(
            state, touched, word, (evidence, *effect_table(before, state)), (), self._unreadable_offer(before)
        )

    def _unreadable_offer(self, lines: Sequence[Line]) -> tuple[Offer, ...]:
        """Cells whose text is no number may hide one: they are filled only when asked for."""
        if Missing.UNREADABLE in self.classes:
            return ()
        count = sum(int((line.missing & (line.nothing == Received.UNREADABLE)).sum()) for line in lines)
        if not count:
            return ()
        told = f"{count} cell{'s have' if count > 1 else ' has'} a text that is no number, and {'are' if count > 1 else 'is'} left as {'they are' if count > 1 else 'it is'}."
        words = {"classes": [*(one.value for one in self.classes), Missing.UNREADABLE.value]}
        return (Offer(told, "Do the same with unreadable ones", self.kind, words, change=True),)

    @classmethod
    def suggest(cls, state: State) -> Blanks:
        return cls(season=usual_season(state.expected) or 7, classes=(Missing.BLANK, Missing.ABSENT))

    def _where(self, state: State, line: Line) -> tuple[Bools, Floats]:
        """(missing points of the chosen classes and reach that get treated, the values they get).

        A point for which the treatment finds no value is not touched.
        """
        wanted = np.isin(line.nothing, [Received[kind.name] for kind in self.classes])
        where = line.missing & wanted & inner_gaps(line.counted, self.longest)
        if self.start:
            where &= line.periods >= state.grain.span(self.start)[0]
        if self.end:
            where &= line.periods <= state.grain.span(self.end)[1]
        if self.treatment in (Treatment.OPEN, Treatment.BRIDGE):
            return where, line.value
        values = self._values(state, line)
        return where & ~np.isnan(values), values

    def _values(self, state: State, line: Line) -> Floats:
        known = line.counted
        if self.treatment is Treatment.STRAIGHT:
            return straight_line(known, line.periods if state.grain.unit is Unit.MOMENT else None)
        if self.treatment is Treatment.CARRY_ON:
            return carried_on(known)
        if self.treatment is Treatment.CARRY_BACK:
            return carried_back(known)
        if self.treatment is Treatment.SEASONAL:
            row = even_row(state.expected, line.periods)
            return row.gather(seasonal_usual(row.spread(known), self.season, self.need))
        if self.treatment is Treatment.NEIGHBOURS:
            return neighbour_mean(known, self.reach)
        return np.full(len(line), self.value if self.treatment is Treatment.FIXED else 0.0)

    def _treated(self, line: Line, where: Bools, values: Floats, by: str) -> Line:
        if self.treatment in (Treatment.OPEN, Treatment.BRIDGE):
            return line.marked(where, Condition.OPEN, by, bridged=self.treatment is Treatment.BRIDGE)
        return line.marked(where, Condition.FILLED, by, values)
