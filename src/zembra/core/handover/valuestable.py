"""Tabulate all drawn lines side by side, a row a period."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from zembra.core.arithmetic.arrays import Floats, Ints, every_of, found_at, values_at
from zembra.core.calendar.lines import Line
from zembra.core.figure.legend import point_codes
from zembra.core.handover.tables import raw_texts
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import Curve, Rests

SAYS_NOTHING = "."


@dataclass(frozen=True, slots=True)
class ColumnStretch:
    """A stretch of a column: numbers, condition letters, cell texts where not plainly measured, and indices in the
    series, -1 for none.
    """

    values: Floats
    conditions: str
    raws: list[str]
    places: Ints


@dataclass(frozen=True, slots=True)
class ValuesColumn:
    """A column: a series, or a curve of one."""

    line: Line | Curve

    @property
    def id(self) -> str:
        return self.line.name if isinstance(self.line, Line) else self.line.id

    @property
    def of(self) -> str:
        return self.line.name if isinstance(self.line, Line) else self.line.series

    @property
    def name(self) -> str:
        return self.line.name

    @property
    def kind(self) -> str:
        if isinstance(self.line, Line):
            return "series"
        return "projection" if self.line.rests is Rests.PROJECTED else "reading"

    def at(self, periods: Ints, frame: pl.DataFrame) -> ColumnStretch:
        """Return the cells at some periods.

        frame: observations of the series
        """
        own, nothing, nowhere = self.line.periods, [""] * periods.size, np.full(periods.size, -1)
        values = values_at(own, self.line.value, periods)
        if isinstance(self.line, Curve):
            return ColumnStretch(values, SAYS_NOTHING * periods.size, nothing, nowhere)
        if not own.size:
            return ColumnStretch(values, "n" * periods.size, nothing, nowhere)
        place, there = found_at(own, periods)
        part = self.line.part(place)
        codes = point_codes(part.condition, part.bridged, part.received)
        codes_shown = "".join(code if known else SAYS_NOTHING for code, known in zip(codes, there, strict=True))
        raws = raw_texts(part, frame)
        odd = ["" if code in "m." else raw for code, raw in zip(codes_shown, raws, strict=True)]
        return ColumnStretch(values, codes_shown, odd, np.where(there, place, -1))


def value_columns(result: Result) -> list[ValuesColumn]:
    """Return all columns: each series, followed by its curves."""
    curves = [shape for shape in result.state.shapes if isinstance(shape, Curve)]
    columns: list[ValuesColumn] = []
    for line in result.state.lines:
        columns.append(ValuesColumn(line))
        columns.extend(ValuesColumn(curve) for curve in curves if curve.series == line.name)
    known = {line.name for line in result.state.lines}
    return [*columns, *(ValuesColumn(curve) for curve in curves if curve.series not in known)]


def value_periods(columns: Sequence[ValuesColumn]) -> Ints:
    """Return the union of periods, ascending."""
    return every_of([column.line.periods for column in columns])
