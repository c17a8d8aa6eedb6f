"""What happens where there is no number: the line stops, is drawn across, or gets an estimate."""

from __future__ import annotations

from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arrays import Bools, Floats
from zembra.core.fills import inner_gaps, straight_line
from zembra.core.grammar import Choice, Word
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.state import Outcome, State, Table
from zembra.core.lines import Condition, Line, Received


class Treatment(Choice):
    OPEN = ("open", "Leave open", "the line stops")
    BRIDGE = ("bridge", "Bridge", "drawn across, dashed; adds no value")
    STRAIGHT = ("straight", "Fill on a straight line", "linear interpolation")
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

    treatment: Annotated[Treatment, Field(title="what happens")] = Treatment.STRAIGHT
    classes: Annotated[tuple[Missing, ...], Field(title="which kinds of nothing", min_length=1)] = tuple(Missing)
    longest: Annotated[int | None, Field(title="longest run", ge=1, le=10_000), Word(empty="any number of")] = 3
    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="series", empty="every series")] = ()

    def template(self) -> str:
        return "{treatment}: {classes} {@periods}, in runs of up to {longest} {@periods}, in {series}."

    def apply(self, state: State, by: str) -> Outcome:
        touched = left = 0
        rows = []
        for place in state.chosen(self.series):
            line = state.lines[place]
            where = self._where(line)
            count = int(where.sum())
            still = int((line.missing & ~where).sum())
            rows.append((line.name, count, still))
            touched, left = touched + count, left + still
            if count:
                state = state.with_line(place, self._treated(line, where, by))
        word = {Treatment.OPEN: "left open", Treatment.BRIDGE: "bridged"}.get(self.treatment, "filled")
        evidence = Table("Where there was no number", ("Series", word.capitalize(), "Not touched"), tuple(rows))
        return Outcome(state, touched, word, (evidence,))

    def _where(self, line: Line) -> Bools:
        """Missing points of the chosen classes, inside gaps short enough."""
        wanted = np.isin(line.received, [Received[kind.name] for kind in self.classes])
        return np.asarray(line.missing & wanted & inner_gaps(line.counted, self.longest))

    def _treated(self, line: Line, where: Bools, by: str) -> Line:
        if self.treatment is Treatment.OPEN:
            return line.marked(where, Condition.OPEN, by)
        if self.treatment is Treatment.BRIDGE:
            return line.marked(where, Condition.OPEN, by, bridged=True)
        values: Floats = np.zeros(len(line))
        if self.treatment is Treatment.STRAIGHT:
            values = straight_line(line.counted)
        return line.marked(where, Condition.FILLED, by, values)
