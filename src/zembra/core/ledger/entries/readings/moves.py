"""Moves: the change from one value to the next, the largest labelled, the unusual ones marked."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.fills import carried_on
from zembra.core.arithmetic.outliers import usual_move
from zembra.core.arrays import Floats, Ints
from zembra.core.errors import Refusal
from zembra.core.grammar import Word
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.follow import from_below_zero, signed
from zembra.core.ledger.state import Cell, Outcome, State, Table
from zembra.core.lines import Drawn, Line, Mark

MOST_MARKED = 60


@register
class Moves(Entry):
    kind: ClassVar[str] = "moves"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Moves"
    hint: ClassVar[str] = "Changes from one value to the next: the largest labelled, unusual ones marked."
    rank: ClassVar[int] = 4

    largest: Annotated[int, Field(title="how many are labelled", ge=0, le=20)] = 3
    times: Annotated[float, Field(title="multiple of the usual move", gt=0, le=1000), Word(step=0.5)] = 4.0
    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()

    def template(self) -> str:
        return (
            "Take the moves of {series} from one value to the next: label the {largest} largest, and mark those of "
            "more than {times} times the usual move."
        )

    def apply(self, state: State, by: str) -> Outcome:
        drawn: list[Drawn] = []
        marks: list[Mark] = []
        rows: list[tuple[Cell, ...]] = []
        unusual = 0
        warnings: list[str] = []
        for place in state.chosen(self.series):
            line = state.lines[place]
            change, percent = moves(line.counted)
            usual = usual_move(line.counted)
            if np.isnan(usual):
                continue
            for name, values in (("moves", change), ("moves, percent", percent)):
                drawn.append(Drawn(line.name, name, self.kind, by, line.periods, values, plotted=False))
            size = np.nan_to_num(np.abs(change))
            over = np.flatnonzero(size > self.times * usual)
            unusual += int(over.size)
            order = np.argsort(-size, kind="stable")[: max(self.largest, 0)]
            labelled = [int(at) for at in order if size[at] > 0]
            since = before_places(line.counted)
            warnings.extend(from_below_zero(line.name, int((~np.isnan(percent) & (line.counted[since] < 0)).sum())))
            marks.extend(self._marks(state, line, change, percent, since, labelled, over.tolist()))
            labels = state.grain.labels(line.periods[labelled])
            starts = state.grain.labels(line.periods[since[labelled]])
            rows.extend(
                (
                    line.name,
                    label,
                    float(change[at]),
                    _known(percent[at]),
                    float(size[at] / usual) if usual else None,
                    start,
                )
                for at, start, label in zip(labelled, starts, labels, strict=True)
            )
        if not drawn:
            raise Refusal("A move needs two values.", todo="Bring in more rows, or fill blanks.")
        columns = ("Series", "Period", "Move", "Percent", "Times the usual move", "Since")
        evidence = Table("Largest moves", columns, tuple(rows))
        state = replace(state, drawn=(*state.drawn, *drawn), marks=(*state.marks, *marks))
        return Outcome(state, unusual, "unusual", (evidence,), tuple(warnings))

    def _marks(
        self,
        state: State,
        line: Line,
        change: Floats,
        percent: Floats,
        since: Ints,
        labelled: list[int],
        over: list[int],
    ) -> list[Mark]:
        made = []
        for at in [*labelled, *(one for one in over[:MOST_MARKED] if one not in labelled)]:
            share = "" if np.isnan(percent[at]) else f" ({signed(float(percent[at]))} %)"
            apart = at - int(since[at])
            over_more = f" over {apart} {state.nouns['periods']}" if apart > 1 else ""
            text = f"{signed(float(change[at]))}{share}{over_more}" if at in labelled else ""
            made.append(Mark("move", line.name, int(line.periods[at]), text, float(line.value[at])))
        return made


def moves(values: Floats) -> tuple[Floats, Floats]:
    """(change from the number before, the same in percent of it); NaN for the first, and where none is."""
    before = np.concatenate(([np.nan], carried_on(values)[:-1])) if values.size else values
    change = values - before
    with np.errstate(divide="ignore", invalid="ignore"):
        percent = np.where(before != 0, 100 * change / np.abs(before), np.nan)
    return change, percent


def before_places(values: Floats) -> Ints:
    """Per point the place of the number before it, its own where there is none."""
    place = np.where(np.isnan(values), -1, np.arange(values.size))
    last = np.concatenate(([-1], np.maximum.accumulate(place)[:-1])) if values.size else place
    return np.where(last < 0, np.arange(values.size), last)


def _known(value: float) -> float | None:
    return None if np.isnan(value) else float(value)
