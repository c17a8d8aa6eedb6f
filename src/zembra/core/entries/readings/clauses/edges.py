"""Edges to compare with: a reading, a number or another series."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats
from zembra.core.calendar.lines import Line
from zembra.core.english import number
from zembra.core.entries.shared.derived import on_periods_of
from zembra.core.entries.shared.others import SeriesByName
from zembra.core.errors import Refusal
from zembra.core.grammar import Clause, Word
from zembra.core.ledger.shapes import Area, Curve
from zembra.core.ledger.state import State, Study


class AgainstWhat(Clause):
    def edges(self, line: Line, study: Study) -> tuple[Floats, Floats, str]:
        """Return lower edge, upper edge and name; both edges are equal for a line. Raises Refusal."""
        raise NotImplementedError

    def refers_to(self) -> tuple[str, ...]:
        """Return the ids of entries whose shapes are needed."""
        return ()

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        """Return other lines that this line depends on. Raises Refusal."""
        return ()


class AgainstReading(AgainstWhat):
    label: ClassVar[str] = "the reading"

    kind: Literal["reading"] = "reading"
    reading: Annotated[str | None, Field(title="reading"), Word(options="readings", empty="none yet")] = None

    def template(self) -> str:
        return "{self} {reading}"

    def refers_to(self) -> tuple[str, ...]:
        return (self.reading,) if self.reading else ()

    def edges(self, line: Line, study: Study) -> tuple[Floats, Floats, str]:
        drawn = [reading for reading in study.earlier if reading.entry == self.reading]
        area = next((reading for reading in drawn if isinstance(reading, Area)), None)
        if area is not None:
            return *area.at(line.periods), area.name
        curves = [reading for reading in drawn if isinstance(reading, Curve)]
        if not curves:
            raise Refusal(
                f"There is no such reading of {line.name} before this entry.",
                todo="Choose one of the readings above it, or a number.",
            )
        value = np.full(len(line), np.nan)
        for curve in curves:
            value = np.where(np.isnan(value), curve.at(line.periods), value)
        return value, value, curves[0].name


class AgainstNumber(AgainstWhat):
    label: ClassVar[str] = "the number"

    kind: Literal["number"] = "number"
    number: Annotated[float, Field(title="number", allow_inf_nan=False)] = 100.0

    def template(self) -> str:
        return "{self} {number}"

    def edges(self, line: Line, study: Study) -> tuple[Floats, Floats, str]:
        value = np.full(len(line), self.number)
        return value, value, number(self.number)


class AgainstSeries(SeriesByName, AgainstWhat):
    needed: ClassVar[str] = "to hold it against"

    def edges(self, line: Line, study: Study) -> tuple[Floats, Floats, str]:
        found = on_periods_of(line, next(other for other in study.others if other.name == self.other))
        theirs = found.countable(provisional=True)
        return theirs, theirs, self.other or ""


AnyAgainst = AgainstReading | AgainstNumber | AgainstSeries
